package standin_test

import (
	"fmt"
	"image"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/layout"
	"ivelt/standin"
)

// TestQuaysideHasItsBarsWhereIveltSays: the stand-in's own reading and reckoning, and Ivelt's, of bars by
// chance: both take a text or neither does, and every item is at the same place, to the pixel.
func TestQuaysideHasItsBarsWhereIveltSays(t *testing.T) {
	r := rand.New(rand.NewPCG(30, 7))
	room := layout.Room{Padding: 12, Gap: 6, More: 22}
	items, gone := 0, 0
	for seed := range 3000 {
		text := ""
		for n := range 1 + r.IntN(4) {
			if n > 0 {
				text += "; "
			}
			text += fmt.Sprintf("%s %d", layout.Edges[r.IntN(4)], r.IntN(70)-3)
			for _, pair := range []string{" long 60%", " long content", " long 700", " at middle", " at end", " margin 7", " margin -2", " hides always", " on all", ` glow "deep amber"`} {
				if r.IntN(7) == 0 {
					text += pair
				}
			}
			text += ":"
			side := 0
			for range r.IntN(16) {
				if side < 2 && r.IntN(5) == 0 {
					text, side = text+" /", side+1
					continue
				}
				wants := r.IntN(220)
				kind := append([]layout.Kind{{Name: "tide-table"}}, layout.Kinds...)[r.IntN(len(layout.Kinds)+1)]
				least := wants
				if kind.Shortens {
					least = r.IntN(wants + 1)
				}
				text += fmt.Sprintf(` %s(long="%d,%d" note="a \"b\"; / c")`, kind.Name, wants, least)
			}
		}
		bars, err := layout.ParseBars(text)
		require.NoError(t, err, text)
		screen := image.Rect(0, 0, 300+r.IntN(1600), 300+r.IntN(900))
		ours, _, _ := layout.Places(bars, []layout.Screen{{Name: "A", Wide: screen.Dx(), High: screen.Dy()}}, room, func(_ layout.Bar, i layout.Item, small bool) (s layout.Size) {
			if small {
				return layout.Size{Wants: 16, Least: 16}
			}
			fmt.Sscanf(layout.Get(i.Options, "long"), "%g,%g", &s.Wants, &s.Least)
			return s
		})
		theirs := standin.QuayLay(text, screen, room.Padding, room.Gap, room.More, func(_ int, _, _, options string) (wants, least, small float64) {
			_, err := fmt.Sscanf(options, `long="%g,%g"`, &wants, &least)
			require.NoError(t, err, options)
			return wants, least, 16
		})
		require.Len(t, theirs, len(ours), text)
		for n, p := range ours {
			require.Equal(t, p.At, theirs[n].At, "seed %d: %s", seed, text)
			at := map[int]layout.PlacedItem{}
			for _, i := range p.Items {
				at[i.Item] = i
			}
			for i, theirs := range theirs[n].Items {
				items++
				if at[i].How == layout.Behind {
					gone++
					require.True(t, theirs.Empty())
					continue
				}
				require.InDelta(t, at[i].At.Min.X, theirs.Min.X, 0, "seed %d, item %d: %v and %v: %s", seed, i, at[i], theirs, text)
				require.Equal(t, at[i].At, theirs, "seed %d, item %d: %s", seed, i, text)
			}
		}
	}
	t.Logf("%d items, %d behind the button", items, gone)

	takes := func(key, value string) bool {
		for _, s := range standin.Quayside.Settings {
			if s.Key == key {
				return s.Takes(value)
			}
		}
		return false
	}
	for key, texts := range map[string][]string{
		"bars":  {"none", "top 34", "top", "up 3", "top 34: a / b / c / d", "top 34: clock(form)", `top 34: clock(form="`, "top 99999", "top 34 margin", "top 34 long 0%", "top 34 hides often", "top 34: a)", "", "bottom 28;", "top 1 glow amber"},
		"tiles": {"hand", "", "heap", "grid outer 30 inner 20", "grid outer 1,2", "grid outer 1,2,3,4", "beside share 60%", "beside share 5%", "grid frames perhaps", "grid least 20", "grid least 20x30", "grid inner", "grid glow amber", `grid float "dialog,class:a"`, "grid float class:a"},
		"dock":  {"none", "bottom 48: a.b c", "bottom 48 long 300", "bottom 48 grow 900%", "left 30 grow 150% previews yes", "left 30 previews perhaps", "top 30: a / b", "top 30: a(b=c)", "top 30; left 4", "right 48 space 6"},
	} {
		info, _ := desk.FacetOf(key)
		for _, text := range texts {
			require.Equal(t, info.Accepts(text) == nil, takes(key, text), "%s: %q", key, text)
		}
	}
}
