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
)

// TestTint: of colours by chance light and dark stay, hue and strength go towards the tint by as much as
// is asked, white stays white; and a picture has the colours that each of its pixels gets alone.
func TestTint(t *testing.T) {
	r := rand.New(rand.NewPCG(29, 11))
	for range 3000 {
		c := colour.Of8(uint8(r.IntN(256)), uint8(r.IntN(256)), uint8(r.IntN(256)))
		tint := backdrop.Tint{Toward: colour.Of8(uint8(r.IntN(256)), uint8(r.IntN(256)), uint8(r.IntN(256))), Strength: float64(r.IntN(101)) / 100}
		got := tint.Of(c)
		l, _, _ := c.Lab()
		now, _, _ := got.Lab()
		require.InDelta(t, l, now, 0.012, "%s tinted %v", c.Hex(), tint)
		tint.Strength = 1
		_, strong, hue := tint.Of(c).LCH()
		if _, chroma, want := tint.Toward.LCH(); chroma > 0.02 && strong > 0.02 {
			require.Less(t, colour.HueDistance(hue, want), 6.0, "%s towards %s", c.Hex(), tint.Toward.Hex())
		}
		tint.Strength = 0
		require.Less(t, colour.Distance(c, tint.Of(c)), 0.006)
	}
	white := backdrop.Tint{Toward: colour.Of8(200, 30, 30), Strength: 1}.Of(colour.Of8(255, 255, 255))
	require.Equal(t, "#ffffff", white.Hex())

	im := image.NewRGBA(image.Rect(3, 5, 203, 155))
	for i := 0; i < len(im.Pix); i += 4 {
		copy(im.Pix[i:], []byte{uint8(r.IntN(256)), uint8(r.IntN(256)), uint8(r.IntN(256)), 255})
	}
	tint := backdrop.Tint{Toward: colour.Of8(30, 110, 82), Strength: 0.6}
	out, err := tint.Apply(t.Context(), im)
	require.NoError(t, err)
	require.Equal(t, image.Rect(0, 0, 200, 150), out.Rect)
	sum := 0.0
	for y := range 150 {
		for x := range 200 {
			c := im.RGBAAt(3+x, 5+y)
			got := out.NRGBAAt(x, y)
			d := colour.Distance(tint.Of(colour.Of8(c.R, c.G, c.B)), colour.Of8(got.R, got.G, got.B))
			require.Less(t, d, 0.06)
			sum += d
		}
	}
	require.Less(t, sum/30000, 0.006, "less than can be seen")
	im.Set(3, 5, color.Transparent)
	out, err = tint.Apply(t.Context(), im)
	require.NoError(t, err)
	require.Zero(t, out.NRGBAAt(0, 0).A)
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	_, err = tint.Apply(ctx, im)
	require.ErrorIs(t, err, context.Canceled)
}

// BenchmarkTint4K tints a picture of 3840 × 2160 pixels.
func BenchmarkTint4K(b *testing.B) {
	im := image.NewYCbCr(image.Rect(0, 0, 3840, 2160), image.YCbCrSubsampleRatio420)
	for i := range im.Y {
		im.Y[i] = uint8(i)
	}
	for b.Loop() {
		if _, err := (backdrop.Tint{Toward: colour.Of8(30, 110, 82), Strength: 0.6}).Apply(b.Context(), im); err != nil {
			b.Fatal(err)
		}
	}
}
