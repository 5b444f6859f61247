package layout_test

import (
	"fmt"
	"image"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/layout"
)

var room = layout.Room{Padding: 6, Gap: 4, More: 20}

// measure is as long as an item's own options say.
func measure(_ layout.Bar, i layout.Item, small bool) layout.Size {
	var s layout.Size
	fmt.Sscanf(layout.Get(i.Options, "long"), "%g,%g", &s.Wants, &s.Least)
	if small {
		s = layout.Size{Wants: 16, Least: 16}
	}
	return s
}

// byChance are bars with items on them, of all kinds.
func byChance(r *rand.Rand, monitors ...string) (bars []layout.Bar) {
	for range r.IntN(6) {
		b := layout.Bar{Edge: layout.Edges[r.IntN(4)], Thick: r.IntN(90) - 5, At: layout.Aligns[r.IntN(3)], Hides: layout.Hidings[r.IntN(3)], Monitor: monitors[r.IntN(len(monitors))]}
		b.Long = layout.Length{Of: []layout.Measured{layout.Whole, layout.Share, layout.Fixed, layout.Content}[r.IntN(4)], N: r.IntN(900)}
		if b.Long.Of == layout.Share {
			b.Long.N = 1 + b.Long.N%100
		}
		b.Margin = max(r.IntN(40)-20, -1)
		for range r.IntN(14) {
			i := layout.Item{Kind: layout.Kinds[r.IntN(len(layout.Kinds))].Name, Side: layout.Aligns[r.IntN(3)]}
			wants := r.IntN(260)
			least := wants
			if k, _ := layout.KindOf(i.Kind); k.Shortens {
				least = r.IntN(wants + 1)
			}
			i.Options = []layout.Option{{Key: "long", Value: fmt.Sprintf("%d,%d", wants, least)}}
			b.Items = append(b.Items, i)
		}
		if r.IntN(9) == 0 {
			b.Items = append(b.Items, layout.Item{Kind: "tide-table", Side: layout.End, Options: []layout.Option{{Key: "long", Value: "40,40"}}})
		}
		bars = append(bars, b)
	}
	return bars
}

// TestNothingLiesOverAnother: of bars by chance, on monitors by chance, none leaves its monitor, no two
// lie over each other or over what is left to windows, and no two of a bar's items do; each item is
// somewhere, or is said to find no room.
func TestNothingLiesOverAnother(t *testing.T) {
	r := rand.New(rand.NewPCG(30, 2))
	shown, behind, small, short := 0, 0, 0, 0
	for seed := range 4000 {
		screens := []layout.Screen{{Name: "A", Wide: 200 + r.IntN(2400), High: 200 + r.IntN(1500)}, {Name: "B", Wide: 300 + r.IntN(900), High: 300 + r.IntN(700)}}
		bars := byChance(r, "", "A", "B", layout.All)
		placed, work, bad := layout.Places(bars, screens, room, measure)
		whole := map[string]image.Rectangle{"A": image.Rect(0, 0, screens[0].Wide, screens[0].High), "B": image.Rect(0, 0, screens[1].Wide, screens[1].High)}
		said := map[[2]int]bool{}
		cut := map[int]bool{}
		for _, b := range bad {
			said[[2]int{b.Bar, b.Item}] = true
			cut[b.Bar] = cut[b.Bar] || b.Code == layout.Cut
		}
		for n, p := range placed {
			bar := bars[p.Bar]
			require.True(t, p.At.In(whole[p.Monitor]), "seed %d: %v", seed, p)
			if p.Takes > 0 {
				require.True(t, p.At.Intersect(work[p.Monitor]).Empty(), "seed %d", seed)
			}
			for _, other := range placed[:n] {
				require.True(t, other.Monitor != p.Monitor || other.At.Intersect(p.At).Empty(), "seed %d: %v and %v", seed, other, p)
			}
			require.Len(t, p.Items, len(bar.Items))
			places := []image.Rectangle{p.More}
			for _, i := range p.Items {
				switch i.How {
				case layout.Behind:
					behind++
					require.True(t, i.At.Empty())
					require.True(t, said[[2]int{p.Bar, i.Item}], "seed %d", seed)
					continue
				case layout.Small:
					small++
				case layout.Short:
					short++
				}
				shown++
				require.True(t, i.At.In(p.At), "seed %d: %v in %v", seed, i, p.At)
				for _, at := range places {
					require.True(t, at.Intersect(i.At).Empty(), "seed %d: bar %s: %v over %v", seed, bar, i, at)
				}
				places = append(places, i.At)
				if size := measure(bar, bar.Items[i.Item], false); i.How == layout.Full && bar.Items[i.Item].Kind != "stretch" && !cut[p.Bar] {
					long := i.At.Dx()
					if bar.Edge.Upright() {
						long = i.At.Dy()
					}
					require.InDelta(t, size.Wants, long, 1, "seed %d: bar %s, item %d", seed, bar, i.Item)
				}
			}
		}
	}
	t.Logf("%d items shown, %d of them shortened, %d collapsed; %d behind the button", shown, short, small, behind)
	for _, n := range []int{short, small, behind} {
		require.Greater(t, n, 100)
	}
}

// TestABarIsLaidOut by the check values of the trade (30 px that become 42 for launchers of 32, 7 px
// that let it float: common practice, no source).
func TestABarIsLaidOut(t *testing.T) {
	screens := []layout.Screen{{Name: "A", Wide: 1000, High: 700}}
	place := func(text string) (layout.Placed, image.Rectangle, []layout.Trouble) {
		bars, err := layout.ParseBars(text)
		require.NoError(t, err)
		all, work, bad := layout.Places(bars, screens, room, measure)
		require.NotEmpty(t, all)
		return all[len(all)-1], work["A"], bad
	}
	p, work, bad := place(`top 42: menu(long="32,32") / clock(long="101,101") / power(long="20,20")`)
	require.Empty(t, bad)
	require.Equal(t, image.Rect(0, 42, 1000, 700), work)
	require.Equal(t, image.Rect(6, 0, 38, 42), p.Items[0].At)
	require.Equal(t, image.Rect(450, 0, 551, 42), p.Items[1].At, "in the middle of the bar, whatever is beside it")
	require.Equal(t, image.Rect(974, 0, 994, 42), p.Items[2].At)

	p, work, _ = place(`bottom 30 long content at middle margin 7: menu(long="32,32") power(long="20,20")`)
	require.Equal(t, image.Rect(466, 663, 534, 693), p.At)
	require.Equal(t, image.Rect(0, 0, 1000, 663), work)

	_, work, _ = place("left 42 hides always; bottom 30 margin 4; bottom 50 hides covered")
	require.Equal(t, image.Rect(0, 0, 1000, 666), work, "what hides leaves its room to windows, whatever comes after it")
	p, work, _ = place(`left 42 hides always: menu(long="32,32") stretch power(long="20,20")`)
	require.Equal(t, image.Rect(0, 0, 1000, 700), work, "one that hides takes nothing from windows")
	require.Equal(t, image.Rect(0, 6, 42, 38), p.Items[0].At)
	require.Equal(t, image.Rect(0, 674, 42, 694), p.Items[2].At)

	p, _, _ = place(`top 30: windows(long="1200,100") / / clock(long="80,80")`)
	require.Equal(t, layout.Short, p.Items[0].How)
	require.Equal(t, image.Rect(6, 0, 910, 30), p.Items[0].At)
	p, _, _ = place(`top 30 long 200: menu(long="32,32") windows(long="300,100") battery(long="60,60") clock(long="80,80")`)
	require.Equal(t, []layout.Form{layout.Full, layout.Small, layout.Small, layout.Full}, []layout.Form{p.Items[0].How, p.Items[1].How, p.Items[2].How, p.Items[3].How}, "the battery first, then the windows")

	for text, code := range map[string]layout.Code{
		"top 600: menu": layout.TooThick, "top -4": layout.Negative, "top 30 margin -7": layout.Negative, "top 30 long 4000": layout.TooLong,
		"top 30: tide-table": layout.Unknown, `top 30 long 40: menu(long="32,32") line(long="9,9")`: layout.Cut,
		`top 30 long 60: menu(long="32,32") tray(long="90,90") power(long="20,20")`: layout.NoRoom,
	} {
		_, _, bad := place(text)
		require.True(t, len(bad) > 0 && bad[0].Code == code || len(bad) > 1 && bad[1].Code == code, "%s: %v", text, bad)
	}
	bars, err := layout.ParseBars("top 30 on HDMI-9: menu")
	require.NoError(t, err)
	all, _, bad := layout.Places(bars, screens, room, measure)
	require.Empty(t, all)
	require.Equal(t, []layout.Trouble{{Code: layout.NoMonitor, Bar: 0, Item: -1, What: "HDMI-9"}}, bad)
}

// BenchmarkPlaces lays out four monitors with six bars and 200 items (a figure to hold: 2 ms).
func BenchmarkPlaces(b *testing.B) {
	r := rand.New(rand.NewPCG(30, 3))
	var screens []layout.Screen
	var bars []layout.Bar
	for i := range 4 {
		screens = append(screens, layout.Screen{Name: string(rune('A' + i)), Wide: 2560, High: 1440})
	}
	for n := range 6 {
		bar := layout.Bar{Edge: layout.Edges[n%4], Thick: 34, Monitor: screens[n%4].Name}
		for range 200 / 6 {
			i := layout.Item{Kind: layout.Kinds[r.IntN(len(layout.Kinds))].Name, Side: layout.Aligns[r.IntN(3)]}
			i.Options = []layout.Option{{Key: "long", Value: "60,30"}}
			bar.Items = append(bar.Items, i)
		}
		bars = append(bars, bar)
	}
	for b.Loop() {
		layout.Places(bars, screens, room, func(layout.Bar, layout.Item, bool) layout.Size { return layout.Size{Wants: 60, Least: 30} })
	}
}
