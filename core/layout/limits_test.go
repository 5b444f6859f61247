package layout_test

import (
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/layout"
)

// limitsByChance are limits of a shell, of each some or none.
func limitsByChance(r *rand.Rand) layout.Limits {
	var l layout.Limits
	if r.IntN(3) > 0 {
		l.Bars = 1 + r.IntN(3)
	}
	for _, e := range layout.Edges {
		if r.IntN(2) == 0 {
			l.Edges = append(l.Edges, e)
		}
	}
	if r.IntN(2) == 0 {
		l.Thinnest, l.Thickest = 20, 40+r.IntN(60)
	}
	if r.IntN(3) > 0 {
		l.Items = []string{"menu"}
		for _, k := range layout.Kinds {
			if r.IntN(2) == 0 {
				l.Items = append(l.Items, k.Name)
			}
		}
	}
	if r.IntN(3) > 0 {
		l.Words = []string{}
		for _, w := range []string{"long", "at", "margin", "round", "hides", "on"} {
			if r.IntN(2) == 0 {
				l.Words = append(l.Words, w)
			}
		}
	}
	return l
}

// TestTheNearestIsWithinLimits: of 3,000 layouts and limits by chance what comes nearest keeps to them, so
// that nothing more is lost of it; nothing is lost of what kept to them, and what is lost is told.
func TestTheNearestIsWithinLimits(t *testing.T) {
	r := rand.New(rand.NewPCG(30, 11))
	kept := 0
	for range 3000 {
		l, bars := limitsByChance(r), byChance(r, "", "A", layout.All)
		near, lost := l.Nearest(bars)
		again, more := l.Nearest(near)
		require.Empty(t, more, "%+v: %s", l, layout.FormatBars(near))
		require.Equal(t, layout.FormatBars(near), layout.FormatBars(again))
		if lost == nil {
			kept++
			require.Equal(t, layout.FormatBars(bars), layout.FormatBars(near))
			continue
		}
		require.NotEqual(t, layout.FormatBars(bars), layout.FormatBars(near))
		for i, one := range lost {
			require.NotContains(t, lost[:i], one, "once")
		}
	}
	require.Greater(t, kept, 200)
}

// TestWhatAShellCannotFollow: what is lost, and what comes nearest.
func TestWhatAShellCannotFollow(t *testing.T) {
	two := layout.Limits{
		Bars: 2, Edges: []layout.Edge{layout.Top, layout.Bottom}, Thinnest: 20, Thickest: 96,
		Items: []string{"menu", "pinned", "windows", "clock", "tray", "stretch"}, Words: []string{"long", "at", "margin"},
	}
	for _, c := range []struct{ bars, dock, near, lost string }{
		{"top 34: menu / clock", "none", "top 34: menu / clock", ""},
		{"left 34 round 4: menu title", "none", "top 34: menu", "edge left top, item title, word round"},
		{"bottom 34; left 10: clock", "none", "bottom 34; top 20: clock", "edge left top, thick 10 20"},
		{"top 34: clock; bottom 30: menu; top 200: clock tray", "none", "top 34: clock; bottom 30: menu tray", "bar top"},
		{"top 34: menu; bottom 30: windows", `bottom 48 margin 7: a b`, `top 34: menu; bottom 60 long content at middle margin 7: pinned(programs=a,b)`, "dock bottom"},
		{"none", "left 48: a", "top 60 long content at middle: pinned(programs=a)", "dock left, edge left top"},
		{"top 34 glow amber", "none", "top 34", "word glow"},
	} {
		bars, err := layout.ParseBars(c.bars)
		require.NoError(t, err)
		dock, err := layout.ParseDock(c.dock)
		require.NoError(t, err)
		near, lost := two.NearestTo(bars, dock)
		var said []string
		for _, l := range lost {
			said = append(said, strings.TrimSpace(l.Code+" "+l.What+" "+l.Instead))
		}
		require.Equal(t, c.near, layout.FormatBars(near), c.bars)
		require.Equal(t, c.lost, strings.Join(said, ", "), c.bars)
	}
	gaps := layout.Limits{Ways: []layout.Tiling{layout.ByHand}, Words: []string{"outer", "inner"}}
	for text, near := range map[string]string{
		"hand outer 30 inner 20": "hand outer 30 inner 20", "beside outer 1,2,3,4 share 60% frames no": "hand outer 1,2,3,4", `grid float a least 2x3 glow amber`: "hand",
	} {
		tiles, err := layout.ParseTiles(text)
		require.NoError(t, err)
		got, lost := gaps.NearestTiles(tiles)
		require.Equal(t, near, got.String())
		require.Equal(t, near == text, len(lost) == 0, text)
		_, lost = gaps.NearestTiles(got)
		require.Empty(t, lost)
		_, lost = layout.Limits{}.NearestTiles(tiles)
		require.Empty(t, lost)
	}
}
