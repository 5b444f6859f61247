package layout_test

import (
	"image"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/layout"
)

// TestStruts by the example of the standard (Extended Window Manager Hints 1.5, "_NET_WM_STRUT_PARTIAL":
// of two monitors of 1280 × 1024 and 1024 × 768 beside each other, a panel of 50 px below the smaller
// one takes 306 px from the bottom, from 1280 to 2303), and what has a monitor between.
func TestStruts(t *testing.T) {
	one, two := image.Rect(0, 0, 1280, 1024), image.Rect(1280, 0, 2304, 768)
	all, root := []image.Rectangle{one, two}, one.Union(two)
	s, ok := layout.StrutOf(layout.Top, image.Rect(0, 0, 1280, 34), all, root)
	require.True(t, ok)
	require.Equal(t, [12]int{0, 0, 34, 0, 0, 0, 0, 0, 0, 1279, 0, 0}, s.Cardinals())
	_, ok = layout.StrutOf(layout.Right, image.Rect(1246, 0, 1280, 1024), all, root)
	require.False(t, ok, "between two monitors")
	below, ok := layout.StrutOf(layout.Bottom, image.Rect(1280, 718, 2304, 768), all, root)
	require.True(t, ok)
	require.Equal(t, [12]int{0, 0, 0, 306, 0, 0, 0, 0, 0, 0, 1280, 2303}, below.Cardinals())
	r, ok := layout.StrutOf(layout.Right, image.Rect(2254, 10, 2297, 700), all, root)
	require.True(t, ok)
	require.Equal(t, [12]int{0, 50, 0, 0, 0, 0, 10, 699, 0, 0, 0, 0}, r.Cardinals())
	require.Equal(t, image.Rect(0, 34, 2254, 1024), layout.WorkArea(root, []layout.Strut{s, r}))
	require.True(t, layout.WorkArea(root, []layout.Strut{{Left: 2000}, {Right: 2000}}).Empty())
}
