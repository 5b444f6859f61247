package layout_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/layout"
)

// TestThingsAreMoved: through the three places of a bar and to another one, and nothing is lost.
func TestThingsAreMoved(t *testing.T) {
	bars, err := layout.ParseBars("top 34: menu pinned / / tray clock; bottom 28: windows")
	require.NoError(t, err)
	bar, item := 0, 1
	for _, step := range []struct{ by, want string }{
		{"later", "top 34: menu / pinned / tray clock; bottom 28: windows"},
		{"later", "top 34: menu / / pinned tray clock; bottom 28: windows"},
		{"later", "top 34: menu / / tray pinned clock; bottom 28: windows"},
		{"next", "top 34: menu / / tray clock; bottom 28: windows / / pinned"},
		{"earlier", "top 34: menu / / tray clock; bottom 28: windows / pinned"},
		{"previous", "top 34: menu / pinned / tray clock; bottom 28: windows"},
		{"earlier", "top 34: menu pinned / / tray clock; bottom 28: windows"},
	} {
		bars, bar, item, err = layout.Step(bars, bar, item, step.by)
		require.NoError(t, err)
		require.Equal(t, step.want, layout.FormatBars(bars))
		require.Equal(t, "pinned", bars[bar].Items[item].Kind)
	}
	_, _, _, err = layout.Step(bars, 0, 0, "earlier")
	require.ErrorIs(t, err, layout.ErrStays)
	_, _, _, err = layout.Step(bars, 1, 0, "next")
	require.ErrorIs(t, err, layout.ErrStays)
	_, _, _, err = layout.Step(bars, 1, 1, "later")
	require.ErrorIs(t, err, layout.ErrNotThere)

	more, at, err := layout.Add(bars, "line", layout.Spot{Bar: 0, Side: layout.End, At: 1})
	require.NoError(t, err)
	require.Equal(t, "top 34: menu pinned / / tray line clock; bottom 28: windows", layout.FormatBars(more))
	more, err = layout.Set(more, 0, at+1, "form", "%H:%M %V")
	require.NoError(t, err)
	more, err = layout.Remove(more, 0, at)
	require.NoError(t, err)
	require.Equal(t, `top 34: menu pinned / / tray clock(form="%H:%M %V"); bottom 28: windows`, layout.FormatBars(more))
	more, err = layout.Set(more, 0, 3, "form", " ")
	require.NoError(t, err)
	require.Equal(t, layout.FormatBars(bars), layout.FormatBars(more), "and the bars themselves are as they were")
	_, _, err = layout.Add(bars, "tide-table", layout.Spot{Side: layout.End})
	require.Error(t, err)

	r := rand.New(rand.NewPCG(30, 8))
	for range 500 {
		bars := layout.Sorted(byChance(r, ""))
		if len(bars) == 0 || len(bars[0].Items) == 0 {
			continue
		}
		item := r.IntN(len(bars[0].Items))
		to := layout.Spot{Bar: r.IntN(len(bars)), Side: layout.Aligns[r.IntN(3)], At: r.IntN(5)}
		moved, at, err := layout.Move(bars, 0, item, to)
		require.NoError(t, err)
		require.Equal(t, bars[0].Items[item].Options, moved[to.Bar].Items[at].Options)
		n, m := 0, 0
		for i := range bars {
			n, m = n+len(bars[i].Items), m+len(moved[i].Items)
		}
		require.Equal(t, n, m)
		again, err := layout.ParseBars(layout.FormatBars(moved))
		require.NoError(t, err)
		require.Equal(t, moved[to.Bar].Items[at], again[to.Bar].Items[at], "the order is that of the text")
	}
}
