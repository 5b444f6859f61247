package layout_test

import (
	"image"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/layout"
)

// TestAPlaceOnTheDeskIsRead and written as it was; what is none says where.
func TestAPlaceOnTheDeskIsRead(t *testing.T) {
	for text, want := range map[string]string{
		"none": "none", "middle 0 0": "middle 0 0", " right  top 40 -3 ": "top right 40 -3", "bottom 0 24 size 48 form \"%H:%M\" on DP-2 glow amber": "bottom 0 24 size 48 form \"%H:%M\" on DP-2 glow amber",
	} {
		l, err := layout.ParseLying(text)
		require.NoError(t, err, text)
		require.Equal(t, want, layout.FormatLying(l))
		require.NotEmpty(t, l.Says())
	}
	for text, says := range map[string]string{
		"": "a place is missing", "up 3 3": "not \"up\"", "top": "how far in", "top bottom 1 1": "meet in a corner", "left right 1 1": "meet in a corner", "top left right 1 1": "meet in a corner", "top 3": "from above or below is missing",
		"top 3 4 size": "what size is", "top 3 4 size 401": "from 0 to 400", "top x 4": "whole number", "top 3 99999": "whole number",
	} {
		_, err := layout.ParseLying(text)
		require.ErrorIs(t, err, layout.ErrText, text)
		require.ErrorContains(t, err, says, text)
	}
	for _, bad := range []string{"", "a;", " a", strings.Repeat("a;", 32) + "a", strings.Repeat("x", 65)} {
		_, err := layout.ParseNames(bad)
		require.ErrorIs(t, err, layout.ErrText, bad)
	}
	names, err := layout.ParseNames("Sea;Low water")
	require.NoError(t, err)
	require.Equal(t, []string{"Sea", "Low water"}, names)
}

// TestAThingStaysWhereItIsPut: things by chance, put somewhere by hand, are there, or in the middle if
// they were put near it; they never leave what bars leave. By steps they go as far as was asked.
func TestAThingStaysWhereItIsPut(t *testing.T) {
	r := rand.New(rand.NewPCG(30, 12))
	middled := 0
	for range 4000 {
		work := image.Rect(r.IntN(60), r.IntN(60), 500+r.IntN(1500), 400+r.IntN(900))
		w, h := 20+r.IntN(300), 20+r.IntN(200)
		x, y := work.Min.X+r.IntN(work.Dx()-w+1), work.Min.Y+r.IntN(work.Dy()-h+1)
		l := layout.At(x, y, w, h, work)
		got := l.Place(w, h, work)
		require.True(t, got.In(work))
		for _, side := range []struct{ put, got, size, from, to int }{{x, got.Min.X, w, work.Min.X, work.Max.X}, {y, got.Min.Y, h, work.Min.Y, work.Max.Y}} {
			if side.put != side.got {
				middled++
				require.InDelta(t, (side.from+side.to-side.size)/2, side.got, 0)
				require.InDelta(t, side.got, side.put, float64(side.to-side.from)/12+1)
			}
		}
		dx, dy := r.IntN(41)-20, r.IntN(41)-20
		by := l.By(dx, dy, w, h, work).Place(w, h, work)
		clamp := func(at, size, from, to int) int { return min(max(at, from), to-size) }
		require.Equal(t, clamp(got.Min.X+dx, w, work.Min.X, work.Max.X), by.Min.X, "%+v by %d, %d", l, dx, dy)
		require.Equal(t, clamp(got.Min.Y+dy, h, work.Min.Y, work.Max.Y), by.Min.Y)
		other := image.Rect(0, 0, 320+r.IntN(900), 300+r.IntN(500)) // holds on another monitor
		require.True(t, l.Place(w, h, other).In(other) || w > other.Dx() || h > other.Dy())
	}
	require.Greater(t, middled, 200)
	require.Equal(t, image.Rect(5, 5, 905, 905), layout.Lying{In: [2]int{4, 4}}.Place(900, 900, image.Rect(5, 5, 100, 100)), "what does not fit begins at the upper left")
}

// TestIconsLieApart: along each edge, of any size, in what bars leave, none over another nor its name over
// one; those that find no room are left out.
func TestIconsLieApart(t *testing.T) {
	r := rand.New(rand.NewPCG(30, 13))
	out := 0
	for range 2000 {
		e, names := layout.Edges[r.IntN(4)], []string{"below", "beside", "hidden"}[r.IntN(3)]
		size, n, in := 16+r.IntN(113), 1+r.IntN(30), image.Rect(r.IntN(50), r.IntN(50), 300+r.IntN(1200), 200+r.IntN(900))
		icons := layout.Lie(e, n, size, r.IntN(80)-10, names, in)
		out += n - len(icons)
		var all []image.Rectangle
		for _, at := range icons {
			whole := at
			switch names {
			case "below":
				whole.Max.Y += 20
			case "beside":
				whole.Max.X += 110
			}
			require.True(t, whole.In(in), "%v of %v", whole, in)
			for _, other := range all {
				require.False(t, other.Overlaps(whole))
			}
			all = append(all, whole)
		}
	}
	require.Greater(t, out, 1000)
	at := layout.Lie(layout.Left, 2, 64, 40, "below", image.Rect(0, 34, 1280, 800))
	require.Equal(t, []image.Rectangle{image.Rect(34, 60, 98, 124), image.Rect(34, 164, 98, 228)}, at)
}
