package backdrop_test

import (
	"image"
	"image/color"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/backdrop"
	"ivelt/core/colour"
)

// TestAPictureIsSoftenedAlongOneEdge, wholly as far as is asked, then less and less, and its rest
// stays as it is; hues stay, what is see-through stays so.
func TestAPictureIsSoftenedAlongOneEdge(t *testing.T) {
	im := image.NewNRGBA(image.Rect(0, 0, 2, 200))
	for y := range 200 {
		im.Set(0, y, color.NRGBA{0x7f, 0xa3, 0xc6, 0xff})
		im.Set(1, y, color.NRGBA{0xf0, 0x40, 0x30, 0x80})
	}
	light := func(c color.NRGBA) (l, h float64) {
		l, _, h = colour.Of8(c.R, c.G, c.B).LCH()
		return l, h
	}
	was, hue := light(im.NRGBAAt(0, 0))
	for _, s := range []backdrop.Soft{{Until: 0.1, Dark: true, Strength: 0.6}, {Until: 0.1, Strength: 0.6}, {Bottom: true, Until: 0.1, Dark: true, Strength: 1}} {
		out, err := s.Apply(t.Context(), im)
		require.NoError(t, err)
		at := func(y int) color.NRGBA {
			if s.Bottom {
				y = 199 - y
			}
			return out.NRGBAAt(0, y)
		}
		edge, h := light(at(0))
		require.Equal(t, s.Dark, edge < was)
		require.InDelta(t, hue, h, 12)
		require.Equal(t, at(0), at(19))
		before := edge
		for y := 20; y < 40; y++ {
			l, _ := light(at(y))
			require.True(t, s.Dark && l >= before-0.004 || !s.Dark && l <= before+0.004, "%+v at %d", s, y)
			before = l
		}
		require.Equal(t, im.NRGBAAt(0, 100), at(41))
		require.Equal(t, uint8(0x80), out.NRGBAAt(1, 0).A)
		for x := range 2 {
			c, to := im.NRGBAAt(x, 0), out.NRGBAAt(x, map[bool]int{true: 199}[s.Bottom])
			want := s.Of(colour.Of8(c.R, c.G, c.B), s.Strength)
			require.InDelta(t, 0, colour.Distance(want, colour.Of8(to.R, to.G, to.B)), 0.02)
		}
	}
	for _, s := range []backdrop.Soft{{}, {Until: 0.1, Strength: 1.1}, {Until: 2, Strength: 1}} {
		require.Error(t, s.Valid())
	}
}
