package web_test

import (
	"net/url"
	"os"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/web/browsertest"
)

// TestStoryOfEffects: how windows move is chosen, played and held against computers, worn, and
// gone back on; less motion lets it fade.
func TestStoryOfEffects(t *testing.T) {
	b := newStage(t).browsePlain()
	before := b.snapshot()
	b.Open("/d/avocet/compose?facet=widgets")
	b.At("Compose")
	b.Click("#fine a[href$='/effects']")
	b.At("Effects")
	choose := func(field, value, until string) {
		t.Helper()
		b.Is(`(f => (f.value = "` + value + `", f.dispatchEvent(new Event("change", {bubbles: true})), true))(document.querySelector("#effects [name='` + field + `']"))`)
		b.Until(`document.querySelector("#draft").innerText.includes("` + until + `")`)
	}
	require.Contains(t, b.Text("#effects"), "played as none", "few effects are those of opening and closing")
	choose("effects", "all", "all")
	choose("effect-workspace.kind", "zoom", "zoom, 260 ms, ease-in-out")
	b.Until(`document.querySelector("#effects").innerText.includes("a slow computer drops")`)
	b.keep("effects")
	require.NotContains(t, b.Text("#draft"), "grow", "what is so already is no choice")
	moves := browsertest.Value[bool](b.Browser, `fetch(document.querySelector(".effect img").src).then(r => r.text()).then(t => t.includes("animateTransform") && t.includes("keySplines=\"0 0 0.58 1\""))`)
	require.True(t, moves)
	still := browsertest.Value[bool](b.Browser, `fetch(document.querySelector(".effect source").srcset).then(r => r.text()).then(t => !t.includes("animate") && t.split("#moves").length === 5)`)
	require.True(t, still)
	asked := browsertest.Value[string](b.Browser, `document.querySelector(".effect img").src`)
	b.Click(".effect [data-play]")
	b.Until(`document.querySelector(".effect img").src !== "` + asked + `"`)
	b.Open("/d/avocet/judge")
	b.At("Judge")
	require.Contains(t, b.Text("#work"), "Switching workspaces of Quayside (zoom, 260 ms, ease-in-out) touches")
	b.Press("r")
	b.At("Review")
	b.Press("a")
	b.At("Match")
	text, err := os.ReadFile(b.home(".config/quayside/quayside.conf"))
	require.NoError(t, err)
	require.Contains(t, string(text), "switching=zoom 260 ease-in-out")
	b.Open("/d/avocet/effects")
	choose("motion", "less", "less")
	require.Contains(t, b.Text("#effects"), "played as fade, 150 ms, ease-out")
	require.NotContains(t, b.Text("#effects"), "drops")

	b.Open("/d/avocet/history")
	b.At("History")
	b.Click(".past > li:nth-child(1) a[data-open]")
	b.At("Go back")
	b.Leads("History", "a")
	require.Equal(t, before, b.snapshot())

	v := b.visit()
	for form, says := range map[string]string{
		"": "does not say what to do", "effect-open.kind=spin&effect-open.ms=10&effect-open.easing=ease": "is no effect", "effect-open.kind=fade&effect-open.ms=x&effect-open.easing=ease": "whole number of milliseconds",
		"effect-open.kind=fade&effect-open.ms=9000&effect-open.easing=ease": "0 to 2000", "motion=none": "one of full, less",
	} {
		values, err := url.ParseQuery(form)
		require.NoError(t, err)
		page, _ := v.post("/d/avocet/effects", values)
		require.Contains(t, page, says, form)
	}
	page, _ := v.get("/d/avocet/effects/played.svg?facet=icons")
	require.Contains(t, page, "no such thing here")
	page, _ = v.get("/d/dunlin/effects")
	require.Contains(t, page, "how Withy moves windows")
}
