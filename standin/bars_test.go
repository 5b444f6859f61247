package standin_test

import (
	"fmt"
	"image"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/layout"
	"ivelt/core/reading"
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
}

// TestStandinsTakeWhatIveltSays: each reads layouts by itself, and takes those that Ivelt holds for ones that
// it can follow, and no others: texts by chance, put together from good words and bad ones.
func TestStandinsTakeWhatIveltSays(t *testing.T) {
	r := rand.New(rand.NewPCG(30, 8))
	any := func(all ...string) string { return all[r.IntN(len(all))] }
	many := func(most int, one func() string) (out string) {
		for range r.IntN(most + 1) {
			out += " " + one()
		}
		return out
	}
	bar := func() string {
		return any("top", "bottom", "top", "bottom", "left", "up") + " " + any("34", "20", "96", "34", "19", "97", "-3", "x") +
			many(3, func() string {
				return any("long 60%", "long content", "at middle", "margin 7", "hides always", "hides often", "round 4", "round 0", "on all", `on ""`, "glow amber", "long 0%")
			}) +
			any("", ":", ":", ": ") + many(5, func() string {
			return any("menu", "pinned", "clock(form=\"%H\")", "tray", "stretch", "/", "title", "tide-table", "clock(form)")
		})
	}
	texts := map[string]func() string{
		"bars": func() string { return bar() + any("", "", "; "+bar(), "; "+bar()+"; "+bar()) },
		"dock": func() string {
			return any(bar(), any("bottom", "left", "up")+" 48"+many(2, func() string {
				return any("grow 150%", "grow 20%", "space 6", "space x", "previews yes", "running perhaps", "margin 7", "long 3")
			})+any("", ": a.b c", ": a / b"))
		},
		"tiles": func() string {
			return any("hand", "hand", "grid", "beside", "heap") + many(3, func() string {
				return any("outer 30", "outer 1,2,3,4", "outer 1,2", "inner 20", "inner x", "share 60%", "share 5%", "frames no", "frames perhaps", `float "a,b"`, "least 2x3", "least 2", "glow amber")
			})
		},
		"desk-clock": func() string {
			return any("top right", "left", "middle", "bottom", "left top", "top bottom", "up", "top left right") + " " + any("3", "-3", "x", "99999") + " " + any("4 ", "") + many(2, func() string { return any("size 48", "size 900", "form %H", "on DP-2", "glow amber", "size") })
		},
		"workspace-names": func() string { return any("", "a", "Low water", " a") + any("", ";", ";b", "; b") },
	}
	took := map[bool]int{}
	for _, p := range []standin.Program{standin.Quayside, standin.Samphire, standin.Withy, standin.Tidestaff, standin.Ledge} {
		all := append(standin.Surfaces(), standin.LockedSurfaces()...)
		surface := all[slices.IndexFunc(all, func(s desk.Surface) bool { return s.ID == p.ID })]
		for _, s := range p.Settings {
			name := map[string]string{"gaps": "tiles", "place": "readout"}[s.Key]
			if name == "" {
				name = s.Key
			}
			text := texts[map[string]string{"readout": "desk-clock"}[name]]
			if text == nil {
				text = texts[name]
			}
			f, has := surface.Facet(name)
			if text == nil || !has {
				continue
			}
			for range 800 {
				said := text()
				_, ours := reading.Word(f, said)
				took[ours]++
				require.Equal(t, ours, s.Takes(said), "%s %s: %q", p.ID, s.Key, said)
			}
		}
	}
	require.Greater(t, took[true], 1000)
	require.Greater(t, took[false], 1000)
}
