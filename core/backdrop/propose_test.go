package backdrop_test

import (
	"context"
	"image"
	"image/color"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/backdrop"
	"ivelt/core/colour"
	"ivelt/core/palette"
)

// striped is a picture of upright stripes of colours, as wide as they are told.
func striped(stripes ...struct {
	c    color.Color
	wide int
}) image.Image {
	w := 0
	for _, s := range stripes {
		w += s.wide
	}
	im, x := image.NewRGBA(image.Rect(0, 0, w, 60)), 0
	for _, s := range stripes {
		for range s.wide {
			for y := range 60 {
				im.Set(x, y, s.c)
			}
			x++
		}
	}
	return im
}

type stripe = struct {
	c    color.Color
	wide int
}

// TestLeadingColours: shares and places of what is known; what is transparent does not count, and a
// picture of nothing has none.
func TestLeadingColours(t *testing.T) {
	im := striped(stripe{color.RGBA{20, 60, 120, 255}, 60}, stripe{color.RGBA{220, 140, 40, 255}, 30}, stripe{color.Transparent, 10}, stripe{color.RGBA{240, 240, 235, 255}, 10})
	all, err := backdrop.LeadingColours(t.Context(), im, 8)
	require.NoError(t, err)
	require.Len(t, all, 3)
	for i, want := range []struct {
		hex      string
		share, x float64
	}{{"#143c78", 0.6, 0.27}, {"#dc8c28", 0.3, 0.68}, {"#f0f0eb", 0.1, 0.95}} {
		c, err := colour.Parse(want.hex)
		require.NoError(t, err)
		require.Less(t, colour.Distance(c, all[i].Colour), 0.02, want.hex)
		require.InDelta(t, want.share, all[i].Share, 0.02)
		require.InDelta(t, want.x, all[i].X, 0.02)
		require.InDelta(t, 0.5, all[i].Y, 0.02)
	}
	none, err := backdrop.LeadingColours(t.Context(), image.NewRGBA(image.Rect(0, 0, 9, 9)), 8)
	require.NoError(t, err)
	require.Empty(t, none)
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	_, err = backdrop.LeadingColours(ctx, im, 8)
	require.ErrorIs(t, err, context.Canceled)
}

// TestProposalsCanBeRead: out of pictures by chance, each accent is seen on all grounds and keeps its hue,
// and all that a palette writes in can be read; ink, ground and their file are those of the shade.
func TestProposalsCanBeRead(t *testing.T) {
	r := rand.New(rand.NewPCG(29, 3))
	accents, drawn := 0, 0
	for range 150 {
		var stripes []stripe
		for range 1 + r.IntN(6) {
			stripes = append(stripes, stripe{color.RGBA{uint8(r.IntN(256)), uint8(r.IntN(256)), uint8(r.IntN(256)), 255}, 5 + r.IntN(40)})
		}
		leading, err := backdrop.LeadingColours(t.Context(), striped(stripes...), 12)
		require.NoError(t, err)
		grounds := []backdrop.Ground{{Name: "windows", Colour: colour.Of8(250, 250, 247)}, {Name: "bars", Colour: colour.Of8(232, 235, 230)}}
		for _, a := range backdrop.Accents(leading, grounds, 5) {
			accents++
			require.True(t, a.Seen())
			for _, g := range grounds {
				require.GreaterOrEqual(t, colour.Contrast(a.Colour, g.Colour), backdrop.SeenOn)
			}
			_, _, was := a.From.Colour.LCH()
			_, chroma, now := a.Colour.LCH()
			require.True(t, chroma < 0.02 || colour.HueDistance(was, now) < 12, "%s of %s", a.Colour.Hex(), a.From.Colour.Hex())
		}
		for _, dark := range []bool{true, false} {
			p, tones := backdrop.Sixteen(leading, dark)
			require.Equal(t, dark, p.Ground.Luminance() < p.Ink.Luminance())
			require.GreaterOrEqual(t, colour.Contrast(p.Ground, p.Ink), 7.0)
			for _, h := range p.Contrasts() {
				require.True(t, h.Quiet || h.Contrast >= palette.Legible-0.01, "%s %s on %s: %.2f", h.Name, h.Colour.Hex(), p.Ground.Hex(), h.Contrast)
				if tones[h.Index].From != nil {
					drawn++
				}
			}
			again, err := palette.Parse(p.File("out of a picture"))
			require.NoError(t, err)
			require.Equal(t, p.Ground.Hex(), again.Ground.Hex())
			require.Equal(t, p.Colours[9].Hex(), again.Colours[9].Hex())
		}
	}
	require.Greater(t, accents, 150)
	c, err := colour.Parse("#bb9d92")
	require.NoError(t, err)
	apart := backdrop.Accents([]backdrop.Leading{{Colour: c, Share: 0.4}}, []backdrop.Ground{{Name: "night", Colour: colour.Of8(20, 20, 20)}, {Name: "mist", Colour: colour.Of8(150, 148, 144)}}, 5)
	require.Len(t, apart, 1)
	require.Equal(t, "mist", apart[0].On, "no colour is seen on both")
	require.False(t, apart[0].Seen())
	require.GreaterOrEqual(t, colour.Contrast(apart[0].Colour, colour.Of8(20, 20, 20)), backdrop.SeenOn)
	require.Equal(t, "stronger", apart[0].How())
	require.Greater(t, drawn, 300)
}
