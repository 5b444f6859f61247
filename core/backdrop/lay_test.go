package backdrop_test

import (
	"image"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/backdrop"
)

// TestLay: what is lost, what stays bare, how much it is enlarged, reckoned by hand.
func TestLay(t *testing.T) {
	for name, c := range map[string]struct {
		mode                 backdrop.Mode
		w, h                 float64
		drawn                backdrop.Box
		lost, bare, enlarged float64
	}{
		"fill, wider":     {backdrop.Fill, 4000, 1000, backdrop.Box{X: -1440, Y: 0, W: 4800, H: 1200}, 0.6, 0, 1.2},
		"fill, taller":    {backdrop.Fill, 960, 1200, backdrop.Box{X: 0, Y: -600, W: 1920, H: 2400}, 0.5, 0, 2},
		"fit":             {backdrop.Fit, 960, 1200, backdrop.Box{X: 480, Y: 0, W: 960, H: 1200}, 0, 0.5, 1},
		"stretch":         {backdrop.Stretch, 960, 1200, backdrop.Box{W: 1920, H: 1200}, 0, 0, 2},
		"centre, smaller": {backdrop.Centre, 960, 600, backdrop.Box{X: 480, Y: 300, W: 960, H: 600}, 0, 0.75, 1},
		"centre, larger":  {backdrop.Centre, 3840, 1200, backdrop.Box{X: -960, Y: 0, W: 3840, H: 1200}, 0.5, 0, 1},
		"tile":            {backdrop.Tile, 100, 100, backdrop.Box{W: 100, H: 100}, 0, 0, 1},
		"none":            {backdrop.None, 100, 100, backdrop.Box{}, 0, 1, 1},
		"no size":         {backdrop.Fill, 0, 100, backdrop.Box{}, 0, 1, 1},
	} {
		l := backdrop.Lay(c.mode, c.w, c.h, 1920, 1200, backdrop.Middle)
		require.Equal(t, c.drawn, l.Drawn, name)
		require.InDeltaSlice(t, []float64{c.lost, c.bare, c.enlarged}, []float64{l.Lost, l.Bare, l.Enlarged()}, 1e-9, name)
	}
}

// TestMoved: a cut follows what is dragged, as far as there is something to be seen.
func TestMoved(t *testing.T) {
	l := backdrop.Lay(backdrop.Fill, 4000, 1200, 2000, 1200, backdrop.Middle)
	require.Equal(t, backdrop.Cut{X: 0.25, Y: 0.5}, l.Moved(backdrop.Middle, 500, 300), "to the right, its left is seen")
	require.Equal(t, backdrop.Cut{X: 1, Y: 0.5}, l.Moved(backdrop.Middle, -5000, 0))
	for _, cut := range []backdrop.Cut{{X: 0, Y: 0}, {X: 0.3, Y: 0.5}, {X: 1, Y: 1}} {
		before := backdrop.Lay(backdrop.Fill, 4000, 1200, 2000, 1200, cut)
		by := 100.0
		if cut.X < 0.1 {
			by = -100
		}
		after := backdrop.Lay(backdrop.Fill, 4000, 1200, 2000, 1200, before.Moved(cut, by, 0))
		require.InDelta(t, before.Drawn.X+by, after.Drawn.X, 1e-6)
	}
}

// TestSpan: monitors of one picture show parts that go on from each other.
func TestSpan(t *testing.T) {
	screens := []image.Rectangle{image.Rect(0, 0, 1920, 1080), image.Rect(1920, 0, 3200, 1024)}
	all := backdrop.Across(backdrop.Span, 6400, 2160, screens, backdrop.Middle)
	require.Equal(t, backdrop.Box{X: 0, Y: 0, W: 3200, H: 1080}, all[0].Drawn)
	require.Equal(t, backdrop.Box{X: -1920, Y: 0, W: 3200, H: 1080}, all[1].Drawn)
	require.InDelta(t, 0.4, all[0].Lost, 1e-9)
	require.Zero(t, all[1].Bare)
	apart := backdrop.Across(backdrop.Fill, 6400, 2160, screens, backdrop.Middle)
	require.Equal(t, backdrop.Lay(backdrop.Fill, 6400, 2160, 1280, 1024, backdrop.Middle), apart[1])
}
