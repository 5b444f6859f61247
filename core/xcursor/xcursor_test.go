package xcursor_test

import (
	"image"
	"image/color"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/within"
	"ivelt/core/xcursor"
)

func square(n int, c color.Color) image.Image {
	im := image.NewNRGBA(image.Rect(0, 0, n, n))
	for i := range n * n {
		im.Set(i%n, i/n, c)
	}
	return im
}

func TestWrittenIsRead(t *testing.T) {
	half := color.NRGBA{200, 100, 50, 128}
	b := xcursor.Encode([]xcursor.Frame{
		{24, square(20, half), 3, 4, 0}, {32, square(30, color.Black), 5, 6, 40}, {32, square(30, color.White), 5, 6, 60},
	})
	f, err := xcursor.Parse(b)
	require.NoError(t, err)
	require.Equal(t, []int{24, 32}, f.Sizes())
	require.Len(t, f.Frames(32), 2)
	require.Equal(t, 60*time.Millisecond, f.Frames(32)[1].Delay)
	im := f.Frames(24)[0]
	require.Equal(t, []int{3, 4, 20, 20}, []int{im.HotX, im.HotY, im.Rect.Dx(), im.Rect.Dy()})
	require.Equal(t, color.RGBAModel.Convert(half), f.Picture(im).At(7, 7))
	for ask, want := range map[int]int{16: 24, 24: 24, 27: 24, 28: 24, 29: 32, 96: 32} {
		require.Equal(t, want, f.Best(ask), ask)
	}
	for n := range len(b) {
		_, err := xcursor.Parse(b[:n])
		require.ErrorIs(t, err, xcursor.ErrFormat, "cut at %d of %d", n, len(b))
	}
}

func FuzzParse(f *testing.F) {
	f.Add(xcursor.Encode([]xcursor.Frame{{24, square(2, color.Black), 0, 0, 0}}))
	f.Add([]byte("Xcur\x10\x00\x00\x00\x00\x00\x01\x00\xff\xff\xff\xff"))
	f.Fuzz(func(t *testing.T, b []byte) {
		within.Reason(t, len(b), func() {
			c, err := xcursor.Parse(b)
			if err != nil {
				require.ErrorIs(t, err, xcursor.ErrFormat)
				return
			}
			for _, im := range c.Images {
				if im.Rect.Dx()*im.Rect.Dy() < 1<<16 {
					c.Picture(im)
				}
			}
		})
	})
}
