package pointerset_test

import (
	"fmt"
	"image"
	"image/color"
	"math/rand/v2"
	"path"
	"slices"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/curfile"
	"ivelt/core/pointerset"
	"ivelt/core/xcursor"
)

// written is a set as files.
func written(t testing.TB, from fstest.MapFS, root string, o pointerset.Options) (fstest.MapFS, *pointerset.Set) {
	t.Helper()
	s, err := pointerset.Convert(t.Context(), from, root, o)
	require.NoError(t, err)
	entries, err := s.Entries("Tern")
	require.NoError(t, err)
	out := fstest.MapFS{}
	for _, e := range entries {
		switch {
		case e.Link != "":
			out[e.Name] = &fstest.MapFile{Data: []byte(e.Link), Mode: 0o777 | 1<<27}
		case e.Copy != "":
			out[e.Name] = from[e.Copy]
		default:
			b, err := e.Make()
			require.NoError(t, err, e.Name)
			if o.As != pointerset.Cur {
				require.Len(t, b, int(e.Size), "%s is as large as was said", e.Name)
			}
			out[e.Name] = &fstest.MapFile{Data: b}
		}
	}
	return out, s
}

// frames are pictures by chance: a shape in some sizes, still or moving, its colours premultiplied.
func frames(r *rand.Rand, sizes []int, steps int) (out []xcursor.Frame) {
	for _, size := range sizes {
		hot := image.Pt(r.IntN(size), r.IntN(size))
		for range steps {
			p := image.NewRGBA(image.Rect(0, 0, size, size))
			for i := 0; i < len(p.Pix); i += 4 {
				if a := r.IntN(256); r.IntN(3) > 0 {
					copy(p.Pix[i:], []byte{uint8(r.IntN(a + 1)), uint8(r.IntN(a + 1)), uint8(r.IntN(a + 1)), uint8(a)})
				}
			}
			f := xcursor.Frame{Size: size, Picture: p, HotX: hot.X, HotY: hot.Y}
			if steps > 1 { // whole sixtieths of a second are the same in both
				f.Delay = 50 * (1 + r.IntN(5))
			}
			out = append(out, f)
		}
	}
	for i := range out { // every size moves alike
		out[i].Delay = out[i%steps].Delay
	}
	return out
}

// TestThereAndBack: 500 generated sets, made such for the other family and back. Pictures, hot
// spots, sizes, order, delays and names are what they were.
func TestThereAndBack(t *testing.T) {
	pointers := 0
	for n := range 500 {
		r := rand.New(rand.NewPCG(27, uint64(n)))
		from := fstest.MapFS{"index.theme": {Data: []byte("[Icon Theme]\nName=Tern\n")}, "COPYING": {Data: []byte("CC0-1.0")}}
		sizes := [][]int{{20}, {12, 16}, {9, 14, 23}, {8}}[r.IntN(4)]
		for _, role := range pointerset.Roles {
			if len(role.Names) == 0 || role.Lent != "" && r.IntN(4) > 0 || r.IntN(3) == 0 {
				continue
			}
			from[path.Join("cursors", role.Names[r.IntN(len(role.Names))])] = &fstest.MapFile{Data: xcursor.Encode(frames(r, sizes, max(1, r.IntN(7)-3)))}
		}
		if len(from) == 2 {
			continue
		}
		other, there := written(t, from, ".", pointerset.Options{As: pointerset.Cur, Scales: []float64{1}})
		require.Empty(t, there.Left)
		back, again := written(t, other, ".", pointerset.Options{Scales: []float64{1}})
		require.Empty(t, again.Left, n)
		require.Equal(t, from["COPYING"].Data, back["COPYING"].Data)
		for name, file := range from {
			if path.Dir(name) != "cursors" {
				continue
			}
			pointers++
			role := pointerset.RoleOf(path.Base(name))
			is, err := xcursor.Parse(back["cursors/"+role.Names[0]].Data)
			require.NoError(t, err, name)
			was, err := xcursor.Parse(file.Data)
			require.NoError(t, err)
			require.Len(t, is.Images, len(was.Images))
			for i, im := range was.Images {
				have := is.Images[i]
				require.Equal(t, []any{im.Size, im.HotX, im.HotY, im.Rect, im.Delay}, []any{have.Size, have.HotX, have.HotY, have.Rect, have.Delay}, "set %d, %s, picture %d", n, name, i)
				require.Equal(t, was.Picture(im).Pix, is.Picture(have).Pix, "set %d, %s, picture %d", n, name, i)
			}
			for _, alias := range role.Names[1:] {
				require.Equal(t, role.Names[0], string(back["cursors/"+alias].Data), "programs that ask by another name find it")
			}
		}
	}
	t.Logf("%d pointers went there and back", pointers)
}

// TestTimesDoNotDrift: whatever the delays, a picture begins within half a unit of when it did,
// and sixtieths of a second come back as they were.
func TestTimesDoNotDrift(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 3))
	one, err := curfile.Encode(true, []curfile.Picture{{NRGBA: image.NewNRGBA(image.Rect(0, 0, 16, 16))}})
	require.NoError(t, err)
	for range 50 {
		var steps []curfile.Step
		for range 2 + r.IntN(60) {
			steps = append(steps, curfile.Step{Jiffies: 1 + r.IntN(20)})
		}
		ani, err := curfile.EncodeAnimation([][]byte{one}, steps, "", "")
		require.NoError(t, err)
		x, _ := written(t, fstest.MapFS{"busy.ani": {Data: ani}}, ".", pointerset.Options{Sizes: []int{16}})
		f, err := xcursor.Parse(x["cursors/wait"].Data)
		require.NoError(t, err)
		var is, want time.Duration
		for i, im := range f.Images {
			is, want = is+im.Delay, want+time.Duration(steps[i].Jiffies)*time.Second/60
			require.InDelta(t, want.Seconds(), is.Seconds(), 0.00051)
		}
		back, _ := written(t, x, ".", pointerset.Options{As: pointerset.Cur, Sizes: []int{16}})
		p, err := curfile.Read(back["busy.ani"].Data)
		require.NoError(t, err)
		require.Equal(t, steps, p.Steps)
	}
}

// arrow is a list with one picture of a size: a square with another colour in each quarter.
func arrow(t testing.TB, size int, hot image.Point) []byte {
	p := image.NewNRGBA(image.Rect(0, 0, size, size))
	for y := range size {
		for x := range size {
			p.SetNRGBA(x, y, color.NRGBA{uint8(200 * (x * 2 / size)), uint8(200 * (y * 2 / size)), 90, 255})
		}
	}
	b, err := curfile.Encode(true, []curfile.Picture{{NRGBA: p, HotX: hot.X, HotY: hot.Y}})
	require.NoError(t, err)
	return b
}

// TestWhatIsLostIsSaid: before anything is made.
func TestWhatIsLostIsSaid(t *testing.T) {
	moving, err := curfile.EncodeAnimation([][]byte{arrow(t, 32, image.Pt(3, 4)), arrow(t, 32, image.Pt(4, 4))}, []curfile.Step{{Jiffies: 2}, {Frame: 1, Jiffies: 3}}, "", "")
	require.NoError(t, err)
	beam := []byte("\x00\x00\x02\x00\x01\x00\x02\x02\x00\x00\x01\x00\x01\x00\x40\x00\x00\x00\x16\x00\x00\x00" +
		"\x28\x00\x00\x00\x02\x00\x00\x00\x04\x00\x00\x00\x01\x00\x01\x00" + strings.Repeat("\x00", 24) + "\x00\x00\x00\x00\xff\xff\xff\x00" + "\x80\x00\x00\x00\x80\x00\x00\x00" + "\xc0\x00\x00\x00\xc0\x00\x00\x00")
	from := fstest.MapFS{
		"Tern/Arrow.cur": {Data: arrow(t, 32, image.Pt(3, 4))}, "Tern/Busy.ani": {Data: moving}, "Tern/Text.cur": {Data: beam},
		"Tern/Zebra.cur": {Data: arrow(t, 32, image.Point{})}, "Tern/Link.cur": {Data: []byte("\x00\x00\x02\x00\x01\x00")},
		"Tern/Pin.cur": {Data: arrow(t, 32, image.Point{})}, "Tern/set.inf": {Data: []byte("[x]")}, "Tern/LICENSE": {Data: []byte("MIT")},
	}
	x, s := written(t, from, "Tern", pointerset.Options{})
	var lost, left []string
	for _, m := range s.Lost {
		lost = append(lost, m.String())
	}
	for _, l := range s.Left {
		left = append(left, l.File+": "+l.Why.String())
	}
	slices.Sort(left)
	require.Equal(t, []string{
		"Missing, so that programs show others instead: arrow while something starts; cross; not allowed; up and down; left and right; along a falling line; along a rising line; move; hand over a link.",
		"Made by scaling down: 24 px.",
		"Made by scaling up, which looks soft: 24, 32, 48 and 64 px.",
		"Time is counted in milliseconds, and was in sixtieths of a second: pictures of moving pointers stay up to 0.3 ms longer or shorter. A whole turn takes as long as before.",
		"Some pointers (1) turn the colour of what is below them, which Xcursor files cannot. They are black with a white rim.",
	}, lost)
	require.Equal(t, []string{
		"Link.cur: It cannot be read: not a pointer file of the other family: its list of pictures is cut off.",
		"Pin.cur: No program for X asks for it (place).",
		"Zebra.cur: Its name does not tell which pointer it is.",
	}, left)
	require.Equal(t, []string{"LICENSE", "set.inf"}, s.Others)
	require.Equal(t, from["Tern/LICENSE"].Data, x["LICENSE"].Data)
	require.Equal(t, from["Tern/Zebra.cur"].Data, x["original/Zebra.cur"].Data, "what is not converted is kept")
	require.Contains(t, string(x["index.theme"].Data), "Name=Tern\n")

	f, err := xcursor.Parse(x["cursors/default"].Data)
	require.NoError(t, err)
	require.Equal(t, []int{24, 32, 48, 64}, f.Sizes())
	require.Equal(t, []int{6, 8}, []int{f.Frames(64)[0].HotX, f.Frames(64)[0].HotY})
	require.Equal(t, color.RGBA{200, 200, 90, 255}, f.Picture(f.Frames(64)[0]).At(60, 60))

	text, err := xcursor.Parse(x["cursors/text"].Data)
	require.NoError(t, err)
	require.Equal(t, "[2 24 32 48 64]", fmt.Sprint(text.Sizes()))
	own := text.Picture(text.Frames(2)[0])
	require.Equal(t, []any{color.RGBA{A: 255}, color.RGBA{255, 255, 255, 255}}, []any{own.At(0, 0), own.At(1, 0)}, "seen on any ground")

	for wrong, o := range map[string]pointerset.Options{"7 px": {Sizes: []int{7}}, "scale 9": {Scales: []float64{9}}} {
		_, err := pointerset.Convert(t.Context(), from, "Tern", o)
		require.ErrorIs(t, err, pointerset.ErrWanted)
		require.ErrorContains(t, err, wrong)
	}
	_, err = pointerset.Convert(t.Context(), fstest.MapFS{"zebra.cur": from["Tern/Zebra.cur"]}, ".", pointerset.Options{})
	require.ErrorIs(t, err, pointerset.ErrNone)
	require.ErrorContains(t, err, "zebra.cur: Its name does not tell")
}

// BenchmarkConvert is a set of 60 pointers in 6 sizes, half of them moving in 24 steps; as many as
// there are roles, and some of them twice.
func BenchmarkConvert(b *testing.B) {
	r := rand.New(rand.NewPCG(1, 1))
	from, n := fstest.MapFS{}, 0
	for _, role := range pointerset.Roles {
		if len(role.Names) > 0 {
			n++
			from["cursors/"+role.Names[0]] = &fstest.MapFile{Data: xcursor.Encode(frames(r, []int{24, 32, 48, 64, 96, 128}, 1+23*(n%2)))}
		}
	}
	other, _ := written(b, from, ".", pointerset.Options{As: pointerset.Cur, Scales: []float64{1}})
	for _, c := range []struct {
		name string
		from fstest.MapFS
		as   pointerset.Format
	}{{"to X", other, pointerset.XCursor}, {"to the other family", from, pointerset.Cur}} {
		b.Run(fmt.Sprintf("%s, %d pointers", c.name, n), func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				s, err := pointerset.Convert(b.Context(), c.from, ".", pointerset.Options{As: c.as, Sizes: []int{24, 32, 48, 64, 96, 128}})
				require.NoError(b, err)
				entries, err := s.Entries("Tern")
				require.NoError(b, err)
				for _, e := range entries {
					if e.Make != nil {
						_, err := e.Make()
						require.NoError(b, err)
					}
				}
			}
		})
	}
}
