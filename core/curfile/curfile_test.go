package curfile_test

import (
	"bytes"
	"encoding/binary"
	"image"
	"image/color"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/curfile"
	"ivelt/core/within"
)

// any is a picture of a size with pixels by chance, some of them transparent.
func any(r *rand.Rand, w, h int) curfile.Picture {
	p := curfile.Picture{NRGBA: image.NewNRGBA(image.Rect(0, 0, w, h)), HotX: r.IntN(w), HotY: r.IntN(h)}
	for y := range h {
		for x := range w {
			if r.IntN(3) > 0 {
				p.SetNRGBA(x, y, color.NRGBA{uint8(r.Uint32()), uint8(r.Uint32()), uint8(r.Uint32()), uint8(1 + r.IntN(255))})
			}
		}
	}
	return p
}

// TestWrittenIsRead: lists and animations, also those that a picture comes twice in.
func TestWrittenIsRead(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for range 12 {
		var frames [][]byte
		var pictures [][]curfile.Picture
		for range 1 + r.IntN(4) {
			var list []curfile.Picture
			for _, size := range [][2]int{{24, 24}, {33, 31}, {256, 256}}[r.IntN(2) : 2+r.IntN(5)/4] {
				list = append(list, any(r, size[0], size[1]))
			}
			b, err := curfile.Encode(true, list)
			require.NoError(t, err)
			frames, pictures = append(frames, b), append(pictures, list)
		}
		var steps []curfile.Step
		for range 1 + r.IntN(6) {
			steps = append(steps, curfile.Step{Frame: r.IntN(len(frames)), Jiffies: 1 + r.IntN(9)})
		}
		b, err := curfile.EncodeAnimation(frames, steps, "Tern", "Ada")
		require.NoError(t, err)
		p, err := curfile.Read(b)
		require.NoError(t, err)
		require.Equal(t, steps, p.Steps)
		require.Equal(t, []string{"Tern", "Ada"}, []string{p.Name, p.Artist})
		for i, f := range p.Frames {
			require.True(t, f.Cursor)
			require.Len(t, f.Images, len(pictures[i]))
			for k, im := range f.Images {
				is, turned, err := im.Picture()
				require.NoError(t, err)
				require.Nil(t, turned)
				want := pictures[i][k]
				require.Equal(t, [2]int{want.HotX, want.HotY}, [2]int{im.HotX, im.HotY})
				require.Equal(t, want.NRGBA.Pix, is.Pix)
			}
		}
	}
}

// bitmap is a list with one picture of 2 × 2 px: lines from below, masks of four bytes.
func bitmap(bits int, table, colours, mask []byte) []byte {
	le := binary.LittleEndian
	head := make([]byte, 40)
	le.PutUint32(head, 40)
	le.PutUint32(head[4:], 2)
	le.PutUint32(head[8:], 4)
	le.PutUint16(head[12:], 1)
	le.PutUint16(head[14:], uint16(bits))
	if len(table) > 0 {
		le.PutUint32(head[32:], uint32(len(table)/4))
	}
	body := bytes.Join([][]byte{head, table, colours, mask}, nil)
	out := []byte{0, 0, 2, 0, 1, 0, 2, 2, 0, 0, 1, 0, 1, 0}
	return append(le.AppendUint32(le.AppendUint32(out, uint32(len(body))), 22), body...)
}

// TestEveryDepth: pictures of all depths, with the mask; what is masked and not black turns the
// colour of what is below.
func TestEveryDepth(t *testing.T) {
	mask := []byte{0, 0, 0, 0, 0xc0, 0, 0, 0} // the upper line
	red, blue := []byte{0, 0, 255, 0}, []byte{255, 0, 0, 0}
	table := append(append([]byte{0, 0, 0, 0}, red...), blue...)
	for _, c := range []struct {
		bits           int
		table, colours []byte
	}{
		{1, append([]byte{0, 0, 0, 0}, red...), []byte{0xc0, 0, 0, 0, 0x40, 0, 0, 0}},
		{4, table, []byte{0x11, 0, 0, 0, 0x01, 0, 0, 0}},
		{8, table, []byte{1, 1, 0, 0, 0, 1, 0, 0}},
		{16, nil, []byte{0, 0x7c, 0, 0x7c, 0, 0, 0, 0x7c}},
		{24, nil, []byte{0, 0, 255, 0, 0, 255, 0, 0, 0, 0, 0, 0, 0, 255, 0, 0}},
		{32, nil, append(bytes.Repeat(red, 2), append([]byte{0, 0, 0, 0}, red...)...)},
	} {
		f, err := curfile.Parse(bitmap(c.bits, c.table, c.colours, mask))
		require.NoError(t, err, c.bits)
		is, turned, err := f.Images[0].Picture()
		require.NoError(t, err)
		require.Equal(t, color.NRGBA{}, is.At(0, 0), "%d bits", c.bits)
		require.Equal(t, color.NRGBA{255, 0, 0, 255}, is.At(1, 1), "%d bits", c.bits)
		require.NotNil(t, turned, "%d bits", c.bits)
		require.Equal(t, []byte{0, 255, 0, 0}, turned.Pix, "%d bits", c.bits)
	}
	f, err := curfile.Parse(bitmap(32, nil, []byte{1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 0, 13, 14, 15, 16}, nil))
	require.NoError(t, err, "a mask need not be there if the pixels say how opaque they are")
	is, turned, err := f.Images[0].Picture()
	require.NoError(t, err)
	require.Nil(t, turned)
	require.Equal(t, color.NRGBA{3, 2, 1, 4}, is.At(0, 1))
}

// TestBadFilesAreNamed: each with a sentence of its own, and none takes long.
func TestBadFilesAreNamed(t *testing.T) {
	good, err := curfile.Encode(true, []curfile.Picture{any(rand.New(rand.NewPCG(1, 1)), 16, 16)})
	require.NoError(t, err)
	moving, err := curfile.EncodeAnimation([][]byte{good}, []curfile.Step{{Jiffies: 1}, {Jiffies: 2}}, "", "")
	require.NoError(t, err)
	for name, b := range map[string][]byte{"cur": good, "ani": moving} {
		for n := range len(b) {
			_, err := curfile.Read(b[:n])
			require.ErrorIs(t, err, curfile.ErrFormat, "%s cut at %d of %d", name, n, len(b))
		}
	}
	with := func(b []byte, at int, bytes ...byte) []byte {
		return append(append(append([]byte{}, b[:at]...), bytes...), b[at+len(bytes):]...)
	}
	anih := bytes.Index(moving, []byte("anih")) + 8
	huge := append([]byte("RIFF\x00\x00\x00\x00ACON"), bytes.Repeat([]byte("LIST\x04\x00\x00\x00fram"), 200_000)...)
	binary.LittleEndian.PutUint32(huge[4:], uint32(len(huge)-8))
	nested := []byte{}
	for range 2000 {
		nested = append(binary.LittleEndian.AppendUint32([]byte("LIST"), uint32(len(nested)+4)), append([]byte("fram"), nested...)...)
	}
	nested = append(binary.LittleEndian.AppendUint32([]byte("RIFF"), uint32(len(nested)+4)), append([]byte("ACON"), nested...)...)
	for name, c := range map[string]struct {
		b    []byte
		says string
	}{
		"of no size":           {with(good, 22+4, 0, 0, 0, 0), "0 × 16 px"},
		"of a size that wraps": {with(good, 22+4, 0xff, 0xff, 0xff, 0x7f), "2147483647 × 16 px"},
		"hot spot outside":     {with(good, 10, 17), "hot spot"},
		"outside the file":     {with(good, 18, 0xff, 0xff, 0xff, 0xff), "outside"},
		"60,000 pictures":      {with(good, 4, 0x60, 0xea), "60000 pictures"},
		"packed":               {with(good, 22+16, 1), "compressed"},
		"a million steps":      {with(moving, anih+8, 0x40, 0x42, 0x0f, 0), "1000000 steps"},
		"bare bitmaps":         {with(moving, anih+32, 2), "bare bitmaps"},
		"a step of no picture": {bytes.Replace(moving, []byte("seq \x08\x00\x00\x00\x00"), []byte("seq \x08\x00\x00\x00\x09"), 1), "picture 10 of 1"},
		"200,000 empty lists":  {huge, "no header"},
		"lists in lists":       {nested, "no header"},
		"something else":       {[]byte("\x00\x00\x03\x00\x01\x00 and so on"), "does not start"},
	} {
		within.Reason(t, len(c.b), func() {
			_, err := curfile.Read(c.b)
			require.ErrorIs(t, err, curfile.ErrFormat, name)
			require.ErrorContains(t, err, c.says, name)
		})
	}
	_, err = curfile.Encode(true, []curfile.Picture{{NRGBA: image.NewNRGBA(image.Rect(0, 0, 300, 300))}})
	require.ErrorContains(t, err, "300 × 300")
}

func FuzzParse(f *testing.F) {
	r := rand.New(rand.NewPCG(1, 1))
	small, _ := curfile.Encode(true, []curfile.Picture{any(r, 3, 3)})
	large, _ := curfile.Encode(false, []curfile.Picture{any(r, 256, 256)})
	moving, _ := curfile.EncodeAnimation([][]byte{small, small}, []curfile.Step{{Frame: 1, Jiffies: 2}, {Jiffies: 1}}, "n", "a")
	for _, b := range [][]byte{small, large, moving, bitmap(4, make([]byte, 12), make([]byte, 8), make([]byte, 8))} {
		f.Add(b)
	}
	f.Fuzz(func(t *testing.T, b []byte) {
		within.Reason(t, len(b), func() {
			p, err := curfile.Read(b)
			if err != nil {
				require.ErrorIs(t, err, curfile.ErrFormat)
				return
			}
			for _, of := range p.Frames {
				for _, im := range of.Images {
					if im.Width*im.Height < 1<<14 {
						_, _, _ = im.Picture()
					}
				}
			}
		})
	})
}
