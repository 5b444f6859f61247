package web_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/reading"
	"ivelt/web/browsertest"
)

// TestAProgramIsLearned in the pages: a readout with settings of a form that no surface
// of the desk has. What was learned is on the board at once, is planned and gone back on.
func TestAProgramIsLearned(t *testing.T) {
	b := newStage(t).browsePlain()
	d := b.world.Avocet
	file := filepath.Join(d.Home, ".config/tideclock/clock.json")
	settings := func(text string) {
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
	}
	settings("// of the clock\n{\n  \"look\": {\"style\": \"day\", \"opacity\": 0.9},\n  \"window\": {\"x\": 10}, \"started\": 1700000000\n}\n")

	b.Open("/d/avocet/match")
	b.At("Match")
	b.Click(`a[href="/d/avocet/learn"]`)
	b.At("A program of your own")
	b.Do(chromedp.SetValue(chromedp.CSS("#learn-title"), "Tide Clock"), chromedp.SetValue(chromedp.CSS("#learn-kind"), "readout"))
	b.Do(chromedp.SetValue(chromedp.CSS("#learn-places"), "~/.config/none"))
	b.Click(`button[value="begin"]`)
	b.Until(`document.querySelector("#wrong")?.innerText.includes("~/.config/none")`)
	require.Equal(t, "Tide Clock, readout", browsertest.Value[string](b.Browser, `document.querySelector("#learn-title").value + ", " + document.querySelector("#learn-kind").value`), "what was typed is kept")
	b.Do(chromedp.SetValue(chromedp.CSS("#learn-places"), "~/.config/tideclock"))
	b.Click(`button[value="begin"]`)
	b.Until(`document.querySelector("h1").innerText === "Tide Clock"`)
	require.Contains(t, b.Text("#work"), "1 file with 4 settings")

	b.Click(`button[value="again"]`)
	b.Until(`document.querySelector("#nothing")?.innerText.includes("No setting has changed yet")`)
	settings("// of the clock\n{\n  \"look\": {\"style\": \"night\", \"opacity\": 0.9},\n  \"window\": {\"x\": 12}, \"started\": 1700009999\n}\n")
	b.Click(`button[value="again"]`)
	b.Until(`document.querySelectorAll("#likely li").length === 1 && document.querySelectorAll("#noise li").length === 2`)
	require.Contains(t, b.Text("#likely"), "day → night")
	b.keep("learn")
	b.Do(chromedp.SetValue(chromedp.CSS("#likely select"), "dark"))
	b.Click(`#likely button[value="teach"]`)
	b.Until(`document.querySelectorAll("#likely .means").length === 2`)
	b.Do(chromedp.SetValue(chromedp.CSS(`#likely select[name="means night"]`), "dark"), chromedp.SetValue(chromedp.CSS(`#likely select[name="means day"]`), "light"))
	b.Click(`#likely button[value="teach"]`)
	b.Until(`document.querySelector("#lessons")?.innerText.includes("dark, written as")`)

	settings("// of the clock\n{\n  \"look\": {\"style\": \"night\", \"opacity\": 0.75},\n  \"window\": {\"x\": 13}, \"started\": 1700019999\n}\n")
	b.Click(`button[value="again"]`)
	b.Until(`document.querySelector("#likely select")?.value === "opacity"`)
	b.Click(`#likely button[value="teach"]`)
	b.Until(`document.querySelectorAll("#lessons li").length === 2`)
	b.Click("#write")
	b.At("Match")
	require.Contains(t, b.Text("body"), "Tide Clock is read on Avocet from now on")
	b.Until(`document.querySelector("#work").innerText.includes("Tide Clock")`)

	s, ok := d.Surface("tide-clock")
	require.True(t, ok)
	shows := func(facet string) string {
		f, _ := s.Facet(facet)
		return reading.Of(d, s, f).Value
	}
	require.Equal(t, []string{"dark", "75"}, []string{shows(desk.FacetDark), shows(desk.FacetOpacity)})
	before := b.file(".config/tideclock/clock.json")
	b.Open("/d/avocet/compose")
	b.At("Compose")
	_, err := browsertest.Evaluate[bool](b.Browser, `fetch("/d/avocet/draft", {method: "POST", body: new URLSearchParams({facet: "dark", piece: "light"})}).then(r => r.ok)`)
	require.NoError(t, err)
	b.Open("/d/avocet/review")
	b.At("Review")
	require.Contains(t, b.Text("#work"), "Tide Clock")
	b.Leads("Match", "a")
	require.Contains(t, b.file(".config/tideclock/clock.json"), `"style": "day", "opacity": 0.75`)
	require.Equal(t, "light", shows(desk.FacetDark))
	b.Open("/d/avocet/history")
	b.At("History")
	b.Click(".past li:first-child a[data-open]")
	b.At("Go back")
	b.Leads("History", "a")
	b.Until(`document.querySelectorAll(".past li.undone").length === 1`)
	require.Equal(t, before, b.file(".config/tideclock/clock.json"))
}

// TestAProgramDescribedByOthers: its descriptor is found in a market, says in words what it
// would read and write, is taken, is on the board, is updated with what is new in it told, may
// start what it starts once that is allowed, and is taken away again.
func TestAProgramDescribedByOthers(t *testing.T) {
	b := newStage(t).browsePlain()
	d := b.world.Avocet
	b.Open("/d/avocet/learn")
	b.At("A program of your own")
	b.Click(`a[href="/d/avocet/find?kind=descriptor"]`)
	b.At("Find")
	b.Click(`#entry-gullcall a`)
	b.Until(`document.querySelector(".closer")?.innerText.includes("Ivelt reads and dresses this program by it")`)
	b.Click(`.closer form:has([name=version][value="1.0"]) button`)
	b.At("Gullcall")
	b.Until(`document.querySelector("[data-describes]")`)
	says := b.Text("[data-describes]")
	require.Contains(t, says, "It would read ~/.config/gullcall/gullcall.conf, /usr/bin/gullcall.")
	require.Contains(t, says, "A plan would write into ~/.config/gullcall/gullcall.conf: icons as “List icons”.")
	require.NotContains(t, says, "new")
	require.False(t, browsertest.Value[bool](b.Browser, `!!document.querySelector("[data-try]")`), "there is nothing to try on")
	b.Leads("Shelf", "a")
	require.Contains(t, b.Text("#described"), "1.1 is out, 1.0 is installed")
	s, ok := d.Surface("gullcall")
	require.True(t, ok)
	_, dark := s.Facet(desk.FacetDark)
	require.False(t, dark)

	b.Click(`#described [data-open]`)
	b.At("Gullcall")
	b.Until(`document.querySelector("[data-describes] .sign-later")`)
	require.Contains(t, b.Text("[data-describes]"), "new A plan would write into ~/.config/gullcall/gullcall.conf: icons as “List icons”, shade as “List colours”.")
	b.Leads("Shelf", "a")
	s, _ = d.Surface("gullcall")
	f, dark := s.Facet(desk.FacetDark)
	require.True(t, dark)
	require.Equal(t, "light", reading.Of(d, s, f).Value)

	b.Open("/d/avocet/match")
	b.At("Match")
	require.Contains(t, b.Text("#work"), "Gullcall")
	b.Open("/d/avocet/learn")
	b.At("A program of your own")
	require.Contains(t, b.Text("#came"), "used as you took it")
	require.False(t, browsertest.Value[bool](b.Browser, `!!document.querySelector("#came button")`), "it starts nothing")

	// Another, that starts its program: not before that is allowed, by a plan. Somebody else's
	// hand at it, and it is used no more.
	put := func(at, text string) {
		t.Helper()
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, []byte(text), 0o644))
	}
	worked, err := os.ReadFile("../docs/surfaces/barnaclock/barnaclock.toml")
	require.NoError(t, err)
	put(filepath.Join(d.System, "usr/bin/barnaclock"), "")
	folder := filepath.Join(d.Home, ".config/ivelt/surfaces")
	put(filepath.Join(folder, "barnaclock/barnaclock.toml"), string(worked))
	put(filepath.Join(folder, "barnaclock.pin"), string(desk.PinOf(worked, false).Bytes()))
	require.Empty(t, d.OwnSurfaces())
	b.Open("/d/avocet/learn")
	b.At("A program of your own")
	require.Contains(t, b.Text("#came"), "may not start programs")
	b.Click(`[data-surface="barnaclock"] button[name=may]`)
	b.At("Review")
	require.Contains(t, b.Text("#work"), "Let the descriptor of Barnaclock start programs")
	b.Leads("A program of your own", "a")
	require.Contains(t, b.Text(`[data-surface="barnaclock"]`), "may start programs")
	s, _ = d.Surface("barnaclock")
	require.Equal(t, "/usr/bin/barnaclock --quiet", s.Starts)
	put(filepath.Join(folder, "barnaclock/barnaclock.toml"), string(worked)+"# and more\n")
	require.Len(t, d.OwnSurfaces(), 1)
	b.Open("/d/avocet/learn")
	b.At("A program of your own")
	require.Contains(t, b.Text("#broken"), "it is not the one that you installed")

	b.Open("/d/avocet/shelf")
	b.At("Shelf")
	b.Click(`#described form[action$="/remove"] button`)
	b.Until(`!document.querySelector("#described") && document.readyState === "complete"`)
	_, ok = d.Surface("gullcall")
	require.False(t, ok)
	require.NoFileExists(t, filepath.Join(folder, "gullcall.pin"))
}
