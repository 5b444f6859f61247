package backdrop_test

import (
	"image"
	"image/color"
	"math"
	"strings"
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
	lying := image.NewNRGBA(image.Rect(0, 0, 200, 2))
	for y := range 200 {
		for x := range 2 {
			lying.Set(y, x, im.At(x, y))
		}
	}
	light := func(c color.NRGBA) (l, h float64) {
		l, _, h = colour.Of8(c.R, c.G, c.B).LCH()
		return l, h
	}
	was, hue := light(im.NRGBAAt(0, 0))
	for _, s := range []backdrop.Soft{{Edge: "upper", Until: 0.1, Dark: true, Strength: 0.6}, {Edge: "upper", Until: 0.1, Strength: 0.6}, {Edge: "lower", Until: 0.1, Dark: true, Strength: 1}, {Edge: "left", Until: 0.1, Dark: true, Strength: 0.6}, {Edge: "right", Until: 0.1, Strength: 1}} {
		of := im
		if s.Edge == "left" || s.Edge == "right" {
			of = lying
		}
		out, err := s.Apply(t.Context(), of)
		require.NoError(t, err)
		at := func(x, y int) color.NRGBA {
			switch s.Edge {
			case "lower":
				y = 199 - y
			case "left":
				x, y = y, x
			case "right":
				x, y = 199-y, x
			}
			return out.NRGBAAt(x, y)
		}
		edge, h := light(at(0, 0))
		require.Equal(t, s.Dark, edge < was)
		require.InDelta(t, hue, h, 12)
		require.Equal(t, at(0, 0), at(0, 19))
		before := edge
		for y := 20; y < 40; y++ {
			l, _ := light(at(0, y))
			require.True(t, s.Dark && l >= before-0.004 || !s.Dark && l <= before+0.004, "%+v at %d", s, y)
			before = l
		}
		require.Equal(t, im.NRGBAAt(0, 100), at(0, 41))
		require.Equal(t, uint8(0x80), at(1, 0).A)
		for x := range 2 {
			c, to := im.NRGBAAt(x, 0), at(x, 0)
			want := s.Of(colour.Of8(c.R, c.G, c.B), s.Strength)
			require.InDelta(t, 0, colour.Distance(want, colour.Of8(to.R, to.G, to.B)), 0.02)
		}
	}
	for _, s := range []backdrop.Soft{{}, {Edge: "upper", Until: 0.1}, {Edge: "upper", Until: 0.1, Strength: 1.1}, {Edge: "upper", Until: 2, Strength: 1}, {Edge: "inner", Until: 1, Strength: 1}, {Edge: "left", Until: 1, Blur: 2}, {Edge: "left", Until: 1, Blur: math.NaN()}} {
		require.Error(t, s.Valid())
		_, err := s.Apply(t.Context(), im)
		require.Error(t, err)
	}
}

// TestABlurIsAGaussian: a sharp step becomes the Gaussian's integral, however large the picture is;
// what is not along the edge stays, and what is see-through keeps its colour.
func TestABlurIsAGaussian(t *testing.T) {
	for _, w := range []int{200, 400, 1600} {
		h := w / 2
		im := image.NewNRGBA(image.Rect(0, 0, w, h))
		for y := range h {
			for x := range w {
				c := color.NRGBA{0x20, 0x60, 0xa0, 0xff}
				if y >= h/2 {
					c = color.NRGBA{0xe0, 0xe0, 0x20, 0xff}
				}
				im.Set(x, y, c)
			}
		}
		s := backdrop.Soft{Edge: "left", Until: 0.25, Blur: 0.04}
		out, err := s.Apply(t.Context(), im)
		require.NoError(t, err)
		sd := 0.04 * float64(h)
		for y := range h {
			far := float64(y) + 0.5 - float64(h/2)
			part := 0.5 * (1 + math.Erf(far/sd/math.Sqrt2))
			require.InDelta(t, 0x20+part*(0xe0-0x20), float64(out.NRGBAAt(w/8, y).R), 5, "%d px, at %d", w, y)
			require.Equal(t, im.NRGBAAt(w-1, y), out.NRGBAAt(w-1, y))
		}
		require.InDelta(t, 0x20, float64(out.NRGBAAt(0, 0).R), 1)
	}
	glass := image.NewNRGBA(image.Rect(0, 0, 40, 40))
	for i := range 40 * 20 {
		glass.Set(i%40, i/40, color.NRGBA{200, 100, 50, 60})
	}
	out, err := backdrop.Soft{Edge: "upper", Until: 1, Blur: 0.1}.Apply(t.Context(), glass)
	require.NoError(t, err)
	require.InDelta(t, 200, float64(out.NRGBAAt(20, 10).R), 6)
	require.Equal(t, uint8(60), out.NRGBAAt(20, 10).A)
	require.Zero(t, out.NRGBAAt(20, 39).A)
}

// TestWhatAPictureIsMadeOf is told by its note, and by nothing else.
func TestWhatAPictureIsMadeOf(t *testing.T) {
	raw := []byte("a picture")
	for _, m := range []backdrop.Made{
		backdrop.MakingOf("/a (b), c/d.png", raw, &backdrop.Tint{Toward: colour.Of8(0x12, 0x80, 0xfe), Strength: 0.35}, nil),
		backdrop.MakingOf("/x.svg", raw, nil, &backdrop.Soft{Edge: "upper", Until: 0.123, Dark: true, Strength: 0.45}),
		backdrop.MakingOf("/x.svg", raw, nil, &backdrop.Soft{Edge: "right", Until: 1, Strength: 1}),
		backdrop.MakingOf("/x.svg", raw, nil, &backdrop.Soft{Edge: "left", Until: 0.08, Blur: 0.005}),
	} {
		read, ok := backdrop.MadeOf(m.Note())
		require.True(t, ok, m.Note())
		require.Equal(t, m, read)
		require.False(t, read.Changed(raw))
		require.True(t, read.Changed(raw[1:]))
	}
	good := backdrop.MakingOf("/x.svg", raw, nil, &backdrop.Soft{Edge: "left", Until: 0.08, Blur: 0.005}).Note()
	for _, bad := range []string{"", good + " ", strings.Replace(good, "left", "inner", 1), strings.Replace(good, "0.5 %", "99 %", 1), strings.Replace(good, "/x", "x", 1), strings.Replace(good, "blurred", "eaten", 1)} {
		_, ok := backdrop.MadeOf(bad)
		require.False(t, ok, bad)
	}
}
