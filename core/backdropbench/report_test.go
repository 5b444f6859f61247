package backdropbench_test

import (
	"bytes"
	"context"
	"image"
	"image/color"
	"image/jpeg"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/backdrop"
	"ivelt/core/backdropbench"
	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/imagefile"
	"ivelt/core/plan/plantest"
	"ivelt/core/preview"
)

// TestLook: a photograph and a drawing, on monitors and on none, laid otherwise without being read again;
// what is none, or is cut off, and what has ended meanwhile.
func TestLook(t *testing.T) {
	im := image.NewRGBA(image.Rect(0, 0, 600, 300))
	for y := range 300 {
		for x := range 600 {
			im.Set(x, y, color.RGBA{180, 70, 50, 255})
		}
	}
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, im, nil))
	// Turned by a quarter, as it says by Exif.
	raw := append([]byte{0xff, 0xd8, 0xff, 0xe1, 0, 34}, "Exif\x00\x00MM\x00*\x00\x00\x00\x08\x00\x01\x01\x12\x00\x03\x00\x00\x00\x01\x00\x06\x00\x00\x00\x00\x00\x00"...)
	raw = append(raw, b.Bytes()[2:]...)
	o := backdropbench.Options{Mode: backdrop.Fill, Cut: backdrop.Middle, Monitors: []desk.Monitor{{Name: "DP-1", Width: 600, Height: 600}, {Name: "DP-2", Width: 300, Height: 600, At: image.Pt(600, 0)}}}
	r, err := backdropbench.Look(t.Context(), raw, o)
	require.NoError(t, err)
	require.True(t, r.Turned)
	require.Equal(t, []float64{300, 600}, []float64{r.Width, r.Height})
	require.False(t, r.Guessed)
	require.InDelta(t, 0.5, r.On[0].Lost, 1e-9)
	require.InDelta(t, 2, r.On[0].Enlarged(), 1e-9)
	require.Zero(t, r.On[1].Lost)
	require.Len(t, r.Leading, 1)
	require.Less(t, colour.Distance(colour.Of8(180, 70, 50), r.Leading[0].Colour), 0.02)
	require.Len(t, r.Accents, 1)

	dark := []backdrop.Ground{{Name: "night", Colour: colour.Of8(120, 40, 30)}}
	again := r.As(backdropbench.Options{Mode: backdrop.Span, Cut: backdrop.Middle, Monitors: o.Monitors, Grounds: dark})
	require.Equal(t, backdrop.Box{X: 0, Y: -600, W: 900, H: 1800}, again.On[0].Drawn)
	require.Equal(t, "lighter", again.Accents[0].How())
	require.Equal(t, backdrop.Fill, r.Mode, "the first is as it was")

	drawing := []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 20"><rect width="40" height="20" fill="#2f7f8c"/></svg>`)
	r, err = backdropbench.Look(t.Context(), drawing, backdropbench.Options{Mode: backdrop.Fit})
	require.NoError(t, err)
	require.True(t, r.Drawing && r.Guessed)
	require.Equal(t, "#2f7f8c", r.Leading[0].Colour.Hex())
	require.InDelta(t, 0.11, r.On[0].Bare, 0.01)

	for _, wrong := range [][]byte{nil, []byte("words"), raw[:len(raw)/2], []byte(`<svg xmlns="http://www.w3.org/2000/svg"><rect`)} {
		_, err := backdropbench.Look(t.Context(), wrong, o)
		require.ErrorIs(t, err, backdropbench.ErrPicture)
	}
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	_, err = backdropbench.Look(ctx, raw, o)
	require.ErrorIs(t, err, context.Canceled)
	require.NotErrorIs(t, err, imagefile.ErrCostly)
}

// TestGroundsAreTheThemes: an accent is held against the windows of the themes that are worn.
func TestGroundsAreTheThemes(t *testing.T) {
	b := plantest.New(t)
	b.Write(plantest.GTK3, "[Settings]\ngtk-theme-name=Night\n", 0o644)
	b.Write(".themes/Night/gtk-3.0/gtk.css", "window.background { background-color: #203040; }", 0o644)
	grounds := backdropbench.Grounds(b.D, preview.Worn(t.Context(), b.D))
	require.NotEmpty(t, grounds)
	require.Equal(t, "#203040", grounds[0].Colour.Hex())
}
