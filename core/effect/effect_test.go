package effect_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/effect"
)

var scene = effect.Scene{Screen: effect.Box{W: 1000, H: 600}, Window: effect.Box{X: 100, Y: 100, W: 400, H: 300}, Button: effect.Box{X: 40, Y: 0, W: 40, H: 30}}

func of(t *testing.T, a effect.Action, text string) effect.Effect {
	t.Helper()
	e, err := effect.Parse(a, text)
	require.NoError(t, err)
	require.Equal(t, text, e.String())
	return e
}

func TestEffectsAreRead(t *testing.T) {
	for _, a := range effect.Actions {
		require.Equal(t, []string{"none", "fade"}, effect.Kinds(a)[:2])
		of(t, a, "none")
		for _, kind := range effect.Kinds(a)[1:] {
			for _, e := range effect.Easings {
				of(t, a, kind+" 160 "+e.Name)
			}
		}
		for _, bad := range []string{"", "fade", "spin 100 ease", "fade -1 ease", "fade 2001 ease", "fade 1.5 ease", "fade 100 bounce", "none 100 ease x"} {
			_, err := effect.Parse(a, bad)
			require.Error(t, err, bad)
		}
	}
	_, err := effect.Parse(effect.Open, "slide 100 ease")
	require.ErrorContains(t, err, "none, fade, grow, rise, roll")
}

func TestWhereAWindowIs(t *testing.T) {
	for _, a := range effect.Actions {
		for _, kind := range effect.Kinds(a)[1:] {
			e := of(t, a, kind+" 200 ease-in-out")
			begin, end := e.At(0, scene), e.At(1, scene)
			if a == effect.Open {
				begin, end = end, begin
			}
			require.Equal(t, effect.Pose{ScaleX: 1, ScaleY: 1, Opacity: 1, Top: kind == "roll"}, begin, "%s %s", a, kind)
			require.NotEqual(t, begin, end)
			require.Equal(t, kind == "fade", e.Still())
			require.True(t, e.Less().Still())
		}
	}
	shrunk := of(t, effect.Hide, "shrink 200 linear").At(1, scene).Over(scene.Window)
	require.InDelta(t, scene.Button.X, shrunk.X, 1e-9)
	require.InDelta(t, scene.Button.Y, shrunk.Y, 1e-9)
	require.InDelta(t, scene.Button.W, shrunk.W, 1e-9)
	require.InDelta(t, scene.Button.H, shrunk.H, 1e-9)
	require.Zero(t, of(t, effect.Open, "none").At(0, scene).Opacity-1, "without one it is there at once")
	require.Zero(t, of(t, effect.Close, "none").At(0, scene).Opacity)
}

// TestWhatItCosts, counted by hand.
func TestWhatItCosts(t *testing.T) {
	window, screen := 400.0*300, 1000.0*600
	require.Equal(t, effect.Cost{}, of(t, effect.Open, "none").CostOf(scene, effect.Glass{}))
	fade := of(t, effect.Close, "fade 100 linear").CostOf(scene, effect.Glass{}) // six frames: below it, and twice over it
	require.Equal(t, []float64{6, 3 * window, 18 * window}, []float64{float64(fade.Frames), fade.Frame, fade.All})
	through := of(t, effect.Close, "fade 100 linear").CostOf(scene, effect.Glass{Through: true, Blur: 8})
	require.InDelta(t, (3+2*25)*window, through.Frame, 1)
	slide := of(t, effect.Switch, "slide 50 linear").CostOf(scene, effect.Glass{}) // three frames: all of the screen, and what is left of it
	require.InDelta(t, screen+screen*2/3, slide.Frame, 1)
	require.InDelta(t, 3*screen+screen*(2.0/3+1.0/3), slide.All, 1)
	require.Zero(t, slide.Drops(effect.Computers[0]))
	require.Equal(t, 1, slide.Drops(effect.Computer{Frame: screen}), "the first takes two sixtieths, and the second is left out")
	require.Equal(t, 3, fade.Drops(effect.Computer{Frame: 1.5 * window}))
}
