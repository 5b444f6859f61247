package layout_test

import (
	"image"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/layout"
)

// TestADockIsAsLongAsItsPrograms: it floats by its margin, and icons that find no room become smaller.
func TestADockIsAsLongAsItsPrograms(t *testing.T) {
	text := "bottom 48 margin 7 round 12 hides covered on DP-2 grow 150% space 6 previews yes running no glow amber: org.example.Log a.b"
	d, err := layout.ParseDock(text)
	require.NoError(t, err)
	require.Equal(t, text, layout.FormatDock(d))
	none, err := layout.ParseDock(" none ")
	require.NoError(t, err)
	require.Equal(t, "none", layout.FormatDock(none))
	for bad, says := range map[string]string{"bottom": "thickness", "bottom 48 long 30": "as long as its programs", "bottom 48 grow 900%": "from 100 to 300", "bottom 48: a / b": "programs alone", "bottom 48 previews perhaps": "yes or no", "bottom 48: a(b=c)": "programs alone", "bottom 48: a; top 3": "not expected"} {
		_, err := layout.ParseDock(bad)
		require.ErrorIs(t, err, layout.ErrText)
		require.ErrorContains(t, err, says)
	}

	screen := layout.Screen{Name: "A", Wide: 1000, High: 700}
	left := image.Rect(0, 34, 1000, 700)
	d.Hides = layout.Never
	p, rest, wrong := layout.PlaceDock(*d, screen, left)
	require.Empty(t, wrong)
	require.Equal(t, image.Rect(443, 633, 557, 693), p.At)
	require.Equal(t, []image.Rectangle{image.Rect(449, 639, 497, 687), image.Rect(503, 639, 551, 687)}, p.Icons)
	require.Equal(t, image.Rect(0, 34, 1000, 633), rest)
	require.Equal(t, 67, p.Takes)
	d.Hides = layout.Always
	p, rest, _ = layout.PlaceDock(*d, screen, left)
	require.Equal(t, left, rest)
	require.Zero(t, p.Takes)

	d, err = layout.ParseDock("left 64 space 4:" + strings.Repeat(" a.b", 20))
	require.NoError(t, err)
	p, _, wrong = layout.PlaceDock(*d, screen, left)
	require.Equal(t, layout.TooLong, wrong[0].Code)
	require.Equal(t, 28, p.Icon)
	for i, at := range p.Icons {
		require.True(t, at.In(p.At) && at.Dx() == 28 && at.Dy() == 28, at)
		require.True(t, i == 0 || at.Intersect(p.Icons[i-1]).Empty())
	}
}

// TestADockGrowsUnderThePointer: what is under it stays there, nothing lies over its neighbour, and
// what is far is as it was but for being moved.
func TestADockGrowsUnderThePointer(t *testing.T) {
	r := rand.New(rand.NewPCG(30, 5))
	for range 500 {
		d := layout.Dock{Icon: 16 + r.IntN(80), Grow: 100 + r.IntN(201), Space: r.IntN(20)}
		var middles []float64
		for i := range 3 + r.IntN(15) {
			middles = append(middles, float64(i*(d.Icon+d.Space)))
		}
		pointer := r.Float64() * middles[len(middles)-1]
		at, size := d.Grown(pointer, middles)
		under := false
		for i := range at {
			require.GreaterOrEqual(t, size[i], float64(d.Icon)-1e-9)
			require.LessOrEqual(t, size[i], float64(d.Icon*d.Grow)/100+1e-9)
			if i > 0 {
				require.GreaterOrEqual(t, at[i]-size[i]/2, at[i-1]+size[i-1]/2-1e-9)
			}
			was := middles[i]-float64(d.Icon)/2 <= pointer && pointer <= middles[i]+float64(d.Icon)/2
			is := at[i]-size[i]/2 <= pointer+1e-9 && pointer <= at[i]+size[i]/2+1e-9
			require.Equal(t, was, is, "%v", d)
			under = under || is
			if far := middles[i] - pointer; far > 3.1*float64(d.Icon+d.Space) {
				require.InDelta(t, d.Icon, size[i], 1e-9)
			}
		}
		require.True(t, under || d.Space > 0)
	}
}

// TestWindowsSideBySide: they lie in what the gaps leave, none over another as long as there are cells,
// and none is smaller than the least.
func TestWindowsSideBySide(t *testing.T) {
	for _, text := range []string{"hand", "columns outer 30 inner 20", "beside outer 30,0,40,10 inner 25 share 60% frames no float \"dialog,class:calc\" least 200x120", "grid glow amber"} {
		tiles, err := layout.ParseTiles(text)
		require.NoError(t, err)
		require.Equal(t, text, tiles.String())
	}
	for bad, says := range map[string]string{"": "a way", "heap": "lie by", "grid outer 1,2": "one number or four", "grid share 5%": "10 to 90", "grid frames perhaps": "yes or no", "grid least 20": "such as", "grid inner": "what inner is"} {
		_, err := layout.ParseTiles(bad)
		require.ErrorIs(t, err, layout.ErrText)
		require.ErrorContains(t, err, says)
	}
	// Gaps of 30 around and 20 between (common practice, no source).
	tiles, err := layout.ParseTiles("beside outer 30 inner 20 share 60%")
	require.NoError(t, err)
	all, bad := tiles.Places(3, image.Rect(0, 34, 1000, 734))
	require.Empty(t, bad)
	require.Equal(t, []image.Rectangle{image.Rect(30, 64, 582, 704), image.Rect(602, 64, 970, 374), image.Rect(602, 394, 970, 704)}, all)
	require.True(t, layout.Tiles{Floats: []string{"dialog", "class:calc", "role:bubble"}}.FloatsKind("window", "calc", ""))
	require.False(t, layout.Tiles{Floats: []string{"dialog", "class:"}}.FloatsKind("window", "", ""))

	r := rand.New(rand.NewPCG(30, 6))
	for range 3000 {
		tiles := layout.Tiles{As: layout.Tilings[1+r.IntN(3)], Inner: r.IntN(40), Share: 10 + r.IntN(81), LeastWide: r.IntN(400), LeastHigh: r.IntN(300)}
		for i := range tiles.Outer {
			tiles.Outer[i] = r.IntN(60)
		}
		work := image.Rect(0, 0, 200+r.IntN(2000), 200+r.IntN(1400))
		n := 1 + r.IntN(12)
		all, bad := tiles.Places(n, work)
		require.Len(t, all, n)
		in := image.Rect(work.Min.X+tiles.Outer[3], work.Min.Y+tiles.Outer[0], work.Max.X-tiles.Outer[1], work.Max.Y-tiles.Outer[2])
		squeezed := false
		over := 0
		for _, b := range bad {
			squeezed = squeezed || b.Code == layout.TooThick
		}
		for i, at := range all {
			require.True(t, at.In(work) && !at.Empty(), "%v in %v: %s", at, work, tiles)
			if squeezed {
				continue
			}
			require.True(t, at.In(in), "%v in %v: %s", at, in, tiles)
			if in.Dx() >= tiles.LeastWide && in.Dy() >= tiles.LeastHigh {
				require.True(t, at.Dx() >= tiles.LeastWide && at.Dy() >= tiles.LeastHigh, "%v: %s", at, tiles)
			}
			for _, other := range all[:i] {
				if other == at {
					over++
					continue
				}
				require.True(t, other.Inset(-tiles.Inner/2).Intersect(at.Inset(-tiles.Inner/2)).Empty(), "%v and %v: %s", other, at, tiles)
			}
		}
		require.Equal(t, over > 0, len(bad) > 0 && bad[len(bad)-1].Code == layout.NoRoom)
	}
}
