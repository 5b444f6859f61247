package truth

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ivelt/core/curfile"
	"ivelt/core/pointerset"
	"ivelt/core/xcursor"
)

// byChance is a picture of a few colours, as the fewer bits need, and with alpha of its own or
// none.
func byChance(r *rand.Rand, w, h, colours int, alpha bool) *image.NRGBA {
	table := make([]color.NRGBA, colours)
	for i := range table {
		table[i] = color.NRGBA{uint8(r.Uint32()), uint8(r.Uint32()), uint8(r.Uint32()), 255}
		if alpha {
			table[i].A = uint8(1 + r.IntN(255))
		}
	}
	p := image.NewNRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			if r.IntN(4) > 0 {
				p.SetNRGBA(x, y, table[r.IntN(colours)])
			}
		}
	}
	return p
}

// decoded is a PNG file.
func decoded(t *testing.T, file string) *image.NRGBA {
	t.Helper()
	src, err := png.Decode(bytes.NewReader([]byte(read(t, file))))
	require.NoError(t, err, file)
	out := image.NewNRGBA(image.Rect(0, 0, src.Bounds().Dx(), src.Bounds().Dy()))
	draw.Draw(out, out.Rect, src, src.Bounds().Min, draw.Src)
	return out
}

// alike reports whether two pictures show the same: what is wholly transparent has no colour.
func alike(a, b *image.NRGBA) bool {
	if a.Rect.Size() != b.Rect.Size() {
		return false
	}
	for i := 0; i < len(a.Pix); i += 4 {
		if a.Pix[i+3] != b.Pix[i+3] || a.Pix[i+3] != 0 && !bytes.Equal(a.Pix[i:i+3], b.Pix[i:i+3]) {
			return false
		}
	}
	return true
}

// TestListsAreThoseOfIcotool: lists of all depths that icotool writes are read as it was told to
// write them, and those that are written here it reads: pictures, sizes, hot spots (Debian:
// icoutils).
func TestListsAreThoseOfIcotool(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	r := rand.New(rand.NewPCG(27, 1))
	theirs, ours := 0, 0
	for n := range 60 {
		bits := []int{1, 4, 8, 24, 32}[n%5]
		size := []int{16, 24, 32, 48}[r.IntN(4)]
		want := byChance(r, size, size, min(1<<min(bits, 6), 60)-1, bits == 32)
		var b bytes.Buffer
		require.NoError(t, png.Encode(&b, want))
		from, to := filepath.Join(dir, fmt.Sprint(n, ".png")), filepath.Join(dir, fmt.Sprint(n, ".cur"))
		write(t, from, b.String())
		x, y := r.IntN(size), r.IntN(size)
		output(t, tool(t, "icotool", "icoutils", "-c", "--cursor", "-b", strconv.Itoa(bits), "-X", strconv.Itoa(x), "-Y", strconv.Itoa(y), "-o", to, from))
		f, err := curfile.Parse([]byte(read(t, to)))
		require.NoError(t, err)
		require.Len(t, f.Images, 1)
		im := f.Images[0]
		require.Equal(t, []any{true, size, bits, x, y}, []any{f.Cursor, im.Size(), im.Bits, im.HotX, im.HotY})
		is, turned, err := im.Picture()
		require.NoError(t, err)
		require.Nil(t, turned)
		if assert.True(t, alike(want, is), "%s, %d bits", to, bits) {
			theirs++
		}
	}
	for n := range 60 {
		var list []curfile.Picture
		for _, size := range [][2]int{{16, 16}, {24, 20}, {48, 48}, {256, 256}}[r.IntN(3):] {
			list = append(list, curfile.Picture{NRGBA: byChance(r, size[0], size[1], 50, true), HotX: r.IntN(size[0]), HotY: r.IntN(size[1])})
		}
		kind, ending := n%2 == 0, []string{".cur", ".ico"}[n%2]
		b, err := curfile.Encode(kind, list)
		require.NoError(t, err)
		at := filepath.Join(dir, fmt.Sprint("ours", n, ending))
		write(t, at, string(b))
		told := lines(output(t, tool(t, "icotool", "icoutils", "-l", at)))
		out := filepath.Join(dir, fmt.Sprint("out", n))
		require.NoError(t, os.Mkdir(out, 0o755))
		output(t, tool(t, "icotool", "icoutils", "-x", "-o", out, at))
		for i, p := range list {
			w, h := p.Rect.Dx(), p.Rect.Dy()
			require.Contains(t, told[i], fmt.Sprintf("--index=%d --width=%d --height=%d --bit-depth=32", i+1, w, h))
			if kind {
				require.Contains(t, told[i], fmt.Sprintf("--cursor --index=%d", i+1))
				require.Contains(t, told[i], fmt.Sprintf("--hotspot-x=%d --hotspot-y=%d", p.HotX, p.HotY))
			}
			found, err := filepath.Glob(filepath.Join(out, fmt.Sprintf("*_%d_%dx%dx32.png", i+1, w, h)))
			require.NoError(t, err)
			require.Len(t, found, 1)
			if assert.True(t, alike(p.NRGBA, decoded(t, found[0])), "%s, %d × %d", at, w, h) {
				ours++
			}
		}
	}
	t.Logf("%d lists that icotool wrote, %d pictures that it read", theirs, ours)
}

// sumOf is what animation.c prints of a picture.
func sumOf(p *image.NRGBA) (sum uint64) {
	for i, v := range p.Pix {
		if p.Pix[i/4*4+3] != 0 {
			sum += uint64(v) * uint64(i+1)
		}
	}
	return sum
}

// TestAnimationsAreThoseOfGdkPixbuf: what is written as .cur and .ani is read by gdk-pixbuf's own
// loaders: pictures in their order, also one that comes again, hot spots, and delays, which it
// tells in whole milliseconds less what is beyond (Debian: libgtk-3-dev).
func TestAnimationsAreThoseOfGdkPixbuf(t *testing.T) {
	t.Parallel()
	program := build(t, "animation", "gdk-pixbuf-2.0", "libgtk-3-dev")
	dir := t.TempDir()
	r := rand.New(rand.NewPCG(27, 2))
	var args, want []string
	for n := range 120 {
		size := []int{16, 24, 31, 48}[r.IntN(4)]
		var frames [][]byte
		var pictures []*image.NRGBA
		hot := image.Pt(r.IntN(size), r.IntN(size))
		for range 1 + r.IntN(5) {
			p := byChance(r, size, size, 40, true)
			b, err := curfile.Encode(true, []curfile.Picture{{NRGBA: p, HotX: hot.X, HotY: hot.Y}})
			require.NoError(t, err)
			frames, pictures = append(frames, b), append(pictures, p)
		}
		at := filepath.Join(dir, fmt.Sprint(n, ".cur"))
		if n%4 == 0 {
			write(t, at, string(frames[0]))
			args = append(args, "1:"+at)
			want = append(want, fmt.Sprint(at, " 0 0 ", size, " ", size, " ", hot.X, " ", hot.Y, " ", sumOf(pictures[0])))
			continue
		}
		var steps []curfile.Step
		for i := range len(frames) + r.IntN(4) {
			s := curfile.Step{Frame: i, Jiffies: 1 + r.IntN(30)}
			if n%2 == 0 || i >= len(frames) {
				s.Frame = r.IntN(len(frames))
			}
			steps = append(steps, s)
		}
		b, err := curfile.EncodeAnimation(frames, steps, "Tern", "")
		require.NoError(t, err)
		at = strings.TrimSuffix(at, ".cur") + ".ani"
		write(t, at, string(b))
		args = append(args, fmt.Sprint(len(steps), ":", at))
		for i, s := range steps {
			if len(steps) == 1 {
				s.Jiffies = 0 // it stands still
			}
			want = append(want, fmt.Sprint(at, " ", i, " ", s.Jiffies*1000/60, " ", size, " ", size, " ", hot.X, " ", hot.Y, " ", sumOf(pictures[s.Frame])))
		}
	}
	theirs := lines(output(t, exec.CommandContext(t.Context(), program, args...)))
	require.Len(t, theirs, len(want))
	same := 0
	for i := range want {
		if assert.Equal(t, want[i], theirs[i]) {
			same++
		}
	}
	t.Logf("%d of %d steps are as gdk-pixbuf reads them", same, len(want))
}

// TestPointersAreThoseOfXcursorgen: shapes written here and those that xcursorgen makes of the same
// pictures are read alike by libXcursor (Debian: x11-apps, libxcursor-dev).
func TestPointersAreThoseOfXcursorgen(t *testing.T) {
	t.Parallel()
	program := build(t, "xcursors", "xcursor", "libxcursor-dev")
	dir := t.TempDir()
	r := rand.New(rand.NewPCG(27, 3))
	pictures := 0
	for n := range 25 {
		var recipe strings.Builder
		list := make([]curfile.Picture, 0, 8)
		var frames [][]byte
		var steps []curfile.Step
		size := []int{24, 32, 48}[r.IntN(3)]
		hot := image.Pt(r.IntN(size), r.IntN(size))
		for i := range 1 + r.IntN(6) {
			p := byChance(r, size, size, 40, true)
			list = append(list, curfile.Picture{NRGBA: p, HotX: hot.X, HotY: hot.Y})
			b, err := curfile.Encode(true, list[i:])
			require.NoError(t, err)
			frames, steps = append(frames, b), append(steps, curfile.Step{Frame: i, Jiffies: 3 * (1 + r.IntN(5))})
			var file bytes.Buffer
			require.NoError(t, png.Encode(&file, p))
			write(t, filepath.Join(dir, fmt.Sprint(n, "-", i, ".png")), file.String())
		}
		for i, s := range steps {
			fmt.Fprintf(&recipe, "%d %d %d %d-%d.png", size, hot.X, hot.Y, n, i)
			if len(steps) > 1 {
				fmt.Fprintf(&recipe, " %d", s.Jiffies*1000/60)
			}
			recipe.WriteString("\n")
		}
		config, theirs := filepath.Join(dir, "recipe"), filepath.Join(dir, fmt.Sprint("theirs", n))
		write(t, config, recipe.String())
		output(t, tool(t, "xcursorgen", "x11-apps", "-p", dir, config, theirs))

		set := filepath.Join(dir, fmt.Sprint("set", n))
		ani, err := curfile.EncodeAnimation(frames, steps, "", "")
		require.NoError(t, err)
		write(t, filepath.Join(set, "busy.ani"), string(ani))
		converted, err := pointerset.Convert(t.Context(), os.DirFS(set), ".", pointerset.Options{Sizes: []int{size}})
		require.NoError(t, err)
		ours := filepath.Join(dir, fmt.Sprint("ours", n))
		write(t, ours, string(fileOf(t, converted, "cursors/wait")))
		a, b := lines(output(t, exec.CommandContext(t.Context(), program, theirs))), lines(output(t, exec.CommandContext(t.Context(), program, ours)))
		require.Len(t, b, len(a))
		for i := range a {
			told := 7
			if len(a) == 1 {
				told = 6 // of one that stands still the delay says nothing
			}
			require.Equal(t, strings.Fields(a[i])[1:told], strings.Fields(b[i])[1:told])
			pictures++
		}
		// It rounds down where pixels are multiplied by their alpha; here they are rounded.
		x, err := xcursor.Parse([]byte(read(t, theirs)))
		require.NoError(t, err)
		y, err := xcursor.Parse([]byte(read(t, ours)))
		require.NoError(t, err)
		for i := range x.Images {
			p, q := x.Picture(x.Images[i]).Pix, y.Picture(y.Images[i]).Pix
			for k := range p {
				require.InDelta(t, p[k], q[k], 1)
			}
		}
	}
	t.Logf("%d pictures", pictures)
}

// fileOf is a file of a set as it is made.
func fileOf(t *testing.T, s *pointerset.Set, name string) []byte {
	t.Helper()
	entries, err := s.Entries("Tern")
	require.NoError(t, err)
	return made(t, entries, name)
}

// made is one of the files of a set.
func made(t *testing.T, entries []pointerset.Entry, name string) []byte {
	t.Helper()
	for _, e := range entries {
		if e.Name == name {
			b, err := e.Make()
			require.NoError(t, err)
			return b
		}
	}
	t.Fatal("there is no ", name)
	return nil
}

// TestRealPointersGoThereAndBack: every pointer of every real set is made such for the other family,
// and back: what both formats hold is as it was, and libXcursor reads it so. Sizes whose pictures
// are larger than they say come back under another name, and are counted (Debian: dmz-cursor-theme,
// xcursor-themes, libxcursor-dev, those of packages.txt).
func TestRealPointersGoThereAndBack(t *testing.T) {
	t.Parallel()
	program := build(t, "xcursors", "xcursor", "libxcursor-dev")
	type counts struct{ sets, pointers, pictures, renamed, cut, uneven int }
	parts := map[string]*counts{"worked": {}, "held out": {}}
	var folders []string
	part := map[string]string{}
	for _, set := range []string{"DMZ-White", "DMZ-Black", "redglass", "whiteglass", "handhelds"} {
		folders = append(folders, "/usr/share/icons/"+set)
	}
	for _, p := range realPacks(t) {
		found, err := filepath.Glob(filepath.Join(p.root, "usr/share/icons/*/cursors"))
		require.NoError(t, err)
		for _, f := range found {
			folders = append(folders, filepath.Dir(f))
			part[filepath.Dir(f)] = p.part()
		}
	}
	for _, folder := range folders {
		n := parts[part[folder]]
		if n == nil {
			n = parts["worked"]
		}
		there, err := pointerset.Convert(t.Context(), os.DirFS(folder), ".", pointerset.Options{As: pointerset.Cur, Scales: []float64{1}})
		if err != nil {
			continue // no shape that programs of the other family ask for
		}
		n.sets++
		dir := t.TempDir()
		files, err := there.Entries(filepath.Base(folder))
		require.NoError(t, err)
		for _, e := range files {
			b, err := there.Bytes(e)
			require.NoError(t, err, "%s: %s", folder, e.Name)
			write(t, filepath.Join(dir, e.Name), string(b))
		}
		back, err := pointerset.Convert(t.Context(), os.DirFS(dir), ".", pointerset.Options{Scales: []float64{1}})
		require.NoError(t, err, folder)
		require.Empty(t, back.Left, folder)
		require.Len(t, back.Pointers, len(there.Pointers), folder)
		again, err := back.Entries("Tern")
		require.NoError(t, err)
		var asked, ours []string
		for i, p := range there.Pointers {
			require.Equal(t, p.Role, back.Pointers[i].Role)
			n.pointers++
			was, err := xcursor.Parse([]byte(read(t, filepath.Join(folder, "cursors", p.File))))
			require.NoError(t, err)
			file := made(t, again, "cursors/"+p.Role.Names[0])
			is, err := xcursor.Parse(file)
			require.NoError(t, err)
			at := filepath.Join(dir, "made", p.Role.Name)
			write(t, at, string(file))
			asked, ours = append(asked, at), append(ours, picturesOf(t, at, file)...)
			for _, size := range was.Sizes() {
				before := was.Frames(size)
				nominal := size
				for _, im := range before {
					nominal = max(nominal, im.Rect.Dx(), im.Rect.Dy())
				}
				switch {
				case nominal > curfile.MaxWritten:
					n.cut++
					continue
				case nominal != size:
					n.renamed++
				}
				after := is.Frames(nominal)
				if len(after) != len(before) {
					n.uneven++
					continue
				}
				for k, im := range before {
					have := after[k]
					n.pictures++
					if !assert.Equal(t, []int{im.HotX, im.HotY}, []int{have.HotX, have.HotY}, "%s %s, %d px", folder, p.File, size) || !assert.True(t, sameInk(was.Picture(im), is.Picture(have)), "%s %s, %d px, picture %d", folder, p.File, size, k) {
						return
					}
					if len(before) > 1 {
						require.InDelta(t, im.Delay.Milliseconds(), have.Delay.Milliseconds(), 17.5, "%s %s", folder, p.File)
					}
				}
			}
		}
		require.Equal(t, lines(output(t, exec.CommandContext(t.Context(), program, asked...))), ours, folder)
	}
	for part, n := range parts {
		t.Logf("%s: %d pictures of %d pointers in %d sets came back; %d sizes are told by their pictures, %d are too large, %d pointers' sizes do not move alike", part, n.pictures, n.pointers, n.sets, n.renamed, n.cut, n.uneven)
	}
	require.NotZero(t, parts["worked"].pictures)
}

// sameInk reports whether two pictures have the same pixels, and nothing where one is larger.
// Colours that are more than their alpha, which are no colours, count as that.
func sameInk(a, b *image.RGBA) bool {
	if a.Rect == b.Rect && bytes.Equal(a.Pix, b.Pix) {
		return true
	}
	size := image.Pt(max(a.Rect.Dx(), b.Rect.Dx()), max(a.Rect.Dy(), b.Rect.Dy()))
	at := func(p *image.RGBA, x, y int) color.RGBA {
		c := p.RGBAAt(x, y)
		return color.RGBA{min(c.R, c.A), min(c.G, c.A), min(c.B, c.A), c.A}
	}
	for y := range size.Y {
		for x := range size.X {
			if at(a, x, y) != at(b, x, y) {
				return false
			}
		}
	}
	return true
}
