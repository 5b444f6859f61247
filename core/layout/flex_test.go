package layout_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/layout"
)

// TestFlexibleSpaceAddsUp: as long as a box can still give or take, a line is as long as its room.
func TestFlexibleSpaceAddsUp(t *testing.T) {
	r := rand.New(rand.NewPCG(30, 1))
	for range 3000 {
		var boxes []layout.Box
		for range 1 + r.IntN(9) {
			b := layout.Box{Basis: float64(r.IntN(200)), Grow: float64(r.IntN(3)), Shrink: float64(r.IntN(3)), Least: float64(r.IntN(80))}
			if r.IntN(4) == 0 {
				b.Most = b.Least + float64(1+r.IntN(200))
			}
			boxes = append(boxes, b)
		}
		room, gap := float64(r.IntN(1600)), float64(r.IntN(12))
		long, sum := layout.Resolve(room, gap, boxes), gap*float64(len(boxes)-1)
		couldGrow, couldShrink := false, false
		for i, b := range boxes {
			require.GreaterOrEqual(t, long[i], b.Least)
			if b.Most > 0 {
				require.LessOrEqual(t, long[i], b.Most)
			}
			sum += long[i]
			couldGrow = couldGrow || b.Grow >= 1 && (b.Most == 0 || long[i] < b.Most-1e-6)
			couldShrink = couldShrink || b.Shrink >= 1 && b.Basis > 0 && long[i] > b.Least+1e-6
		}
		if sum < room-1e-6 {
			require.False(t, couldGrow, "%v in %v: %v", boxes, room, long)
		}
		if sum > room+1e-6 {
			require.False(t, couldShrink, "%v in %v: %v", boxes, room, long)
		}
	}
	require.Empty(t, layout.Resolve(100, 5, nil))
	require.False(t, math.IsNaN(layout.Resolve(0, 0, []layout.Box{{Shrink: 1}})[0]))
}
