package web_test

import (
	"context"
	"ivelt/web/browsertest"
	"maps"
	"testing"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// TestStoryWithoutScripts goes the whole way in a browser that runs no script: every form can
// be sent, and what runs longer is shown until it has ended.
func TestStoryWithoutScripts(t *testing.T) {
	b := newStage(t).browsePlain()
	start := b.snapshot()
	b.Do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		_, err := cdp.Call(ctx, t, emulation.SetScriptExecutionDisabled, emulation.SetScriptExecutionDisabledParams{Value: true})
		return err
	}))
	press := func(selector string) { // a click of the browser's own, which needs no script of the page
		t.Helper()
		b.Until("document.readyState === 'complete' && document.querySelector(`" + selector + "`)")
		b.Is("(e => { e.scrollIntoView(); e.click() })(document.querySelector(`" + selector + "`))")
	}
	for _, page := range []string{
		"avocet/start", "avocet/find", "avocet/shelf", "avocet/markets", "avocet/match", "avocet/judge", "avocet/history", "avocet/looks", "avocet/learn", "dunlin/sandbox/coracle",
		"avocet/login/lantern", "dunlin/login/tollgate", "avocet/terminal/bittern", "avocet/compose", "avocet/compose?facet=widgets", "avocet/compose?facet=font", "avocet/compose?facet=bar",
		"avocet/compose?facet=palette", "avocet/compose?facet=login", "avocet/compose?facet=backdrop", "dunlin/compose?facet=widgets", "avocet/why/gtk3/icons",
	} {
		b.Open("/d/" + page)
		b.Until(`document.readyState === "complete" && document.querySelector("h1")`)
		require.Empty(t, browsertest.Value[[]string](b.Browser, `[...document.forms].filter(f => ![...f.elements].some(e => e.type === "submit")
			&& [...f.elements].filter(e => ["text", "search", "number", "url"].includes(e.type)).length !== 1).map(f => f.id + " " + f.action)`), page)
	}
	b.Open("/d/avocet/find?q=dark+weed")
	b.At("Find")
	require.False(t, b.Is(`!!window.htmx`), "no script runs")
	press("#entry-wrack [data-fetch]")
	b.At("Wrack")
	press("[data-main]")
	b.At("Shelf")
	press("#icons-Wrack [data-choose]")
	b.At("Compose")
	require.Contains(t, b.Text("#strip"), "Wrack · 1 choice")
	press("#group-widgets")
	b.Until(`document.querySelector("#picks").dataset.group === "widgets"`)
	press(`#picks button[name="piece"][value="dark"]`)
	b.Until(`document.querySelector("#strip").textContent.includes("2 choices")`)
	press(`[data-key="r"]`)
	b.At("Review")
	require.Contains(t, b.Text("#grants"), "could read ~/.local/share/icons/Wrack, where Wrack is. It holds for all of them")
	press("[data-main]")
	b.At("Match")
	require.Contains(t, b.file(gtk3File), "Wrack")
	b.Open("/d/avocet/judge")
	b.At("Judge")
	b.Open("/d/avocet/history")
	b.At("History")
	b.Until(`document.querySelector(".title-row input[name=note]")`)
	b.Is(`document.querySelector(".title-row input[name=note]").value = "before the next one"`)
	press(`.title-row button[value="take"]`)
	b.Until(`document.querySelectorAll(".past > li").length === 3`)
	require.Contains(t, b.Text(".past > li:first-child"), "before the next one")
	press(`.past > li:last-child a[href*="since=1"]`)
	b.At("Go back")
	press("[data-main]")
	b.At("History")
	b.Until(`document.querySelectorAll(".past > li").length === 4`)
	require.True(t, maps.Equal(start, b.snapshot()), "everything is as it was")
}
