package web_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/reading"
)

// TestAProgramIsLearned in the pages: a readout with settings of a form that no surface
// of the desk has. What was learned is on the board at once, is planned and gone back on.
func TestAProgramIsLearned(t *testing.T) {
	b := newStage(t).browse()
	d := b.world.Avocet
	file := filepath.Join(d.Home, ".config/tideclock/clock.json")
	settings := func(text string) {
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
	}
	settings("// of the clock\n{\n  \"look\": {\"style\": \"day\", \"opacity\": 0.9},\n  \"window\": {\"x\": 10}, \"started\": 1700000000\n}\n")

	b.open("/d/avocet/match")
	b.at("Match")
	b.click(`a[href="/d/avocet/learn"]`)
	b.at("A program of your own")
	b.do(chromedp.SetValue(chromedp.CSS("#learn-title"), "Tide Clock"), chromedp.SetValue(chromedp.CSS("#learn-kind"), "readout"))
	b.do(chromedp.SetValue(chromedp.CSS("#learn-places"), "~/.config/none"))
	b.click(`button[value="begin"]`)
	b.until(`document.querySelector("#wrong")?.innerText.includes("~/.config/none")`)
	require.Equal(t, "Tide Clock, readout", value[string](b, `document.querySelector("#learn-title").value + ", " + document.querySelector("#learn-kind").value`), "what was typed is kept")
	b.do(chromedp.SetValue(chromedp.CSS("#learn-places"), "~/.config/tideclock"))
	b.click(`button[value="begin"]`)
	b.until(`document.querySelector("h1").innerText === "Tide Clock"`)
	require.Contains(t, b.text("#work"), "1 file with 4 settings")

	b.click(`button[value="again"]`)
	b.until(`document.querySelector("#nothing")?.innerText.includes("No setting differs yet")`)
	settings("// of the clock\n{\n  \"look\": {\"style\": \"night\", \"opacity\": 0.9},\n  \"window\": {\"x\": 12}, \"started\": 1700009999\n}\n")
	b.click(`button[value="again"]`)
	b.until(`document.querySelectorAll("#likely li").length === 1 && document.querySelectorAll("#noise li").length === 2`)
	require.Contains(t, b.text("#likely"), "day → night")
	b.keep("learn")
	b.do(chromedp.SetValue(chromedp.CSS("#likely select"), "dark"))
	b.click(`#likely button[value="teach"]`)
	b.until(`document.querySelectorAll("#likely .means").length === 2`)
	b.do(chromedp.SetValue(chromedp.CSS(`#likely select[name="means night"]`), "dark"), chromedp.SetValue(chromedp.CSS(`#likely select[name="means day"]`), "light"))
	b.click(`#likely button[value="teach"]`)
	b.until(`document.querySelector("#lessons")?.innerText.includes("dark, written as")`)

	settings("// of the clock\n{\n  \"look\": {\"style\": \"night\", \"opacity\": 0.75},\n  \"window\": {\"x\": 13}, \"started\": 1700019999\n}\n")
	b.click(`button[value="again"]`)
	b.until(`document.querySelector("#likely select")?.value === "opacity"`)
	b.click(`#likely button[value="teach"]`)
	b.until(`document.querySelectorAll("#lessons li").length === 2`)
	b.click("#write")
	b.at("Match")
	require.Contains(t, b.text("body"), "Tide Clock is read on Avocet from now on")
	b.until(`document.querySelector("#work").innerText.includes("Tide Clock")`)

	s, ok := d.Surface("tide-clock")
	require.True(t, ok)
	shows := func(facet string) string {
		f, _ := s.Facet(facet)
		return reading.Of(d, s, f).Value
	}
	require.Equal(t, []string{"dark", "75"}, []string{shows(desk.FacetDark), shows(desk.FacetOpacity)})
	before := b.file(".config/tideclock/clock.json")
	b.open("/d/avocet/compose")
	b.at("Compose")
	_, err := evaluate[bool](b, `fetch("/d/avocet/draft", {method: "POST", body: new URLSearchParams({facet: "dark", piece: "light"})}).then(r => r.ok)`)
	require.NoError(t, err)
	b.open("/d/avocet/review")
	b.at("Review")
	require.Contains(t, b.text("#work"), "Tide Clock")
	b.leads("Match", "a")
	require.Contains(t, b.file(".config/tideclock/clock.json"), `"style": "day", "opacity": 0.75`)
	require.Equal(t, "light", shows(desk.FacetDark))
	b.open("/d/avocet/history")
	b.at("History")
	b.click(".past li:first-child a[data-open]")
	b.at("Go back")
	b.leads("History", "a")
	b.until(`document.querySelectorAll(".past li.undone").length === 1`)
	require.Equal(t, before, b.file(".config/tideclock/clock.json"))
}
