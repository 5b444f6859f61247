package web_test

import (
	"fmt"
	"ivelt/web/browsertest"
	"net/url"
	"os"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"
)

// compose puts an icon pack and the dark on the draft.
func (b *browser) compose() {
	b.t.Helper()
	v := b.visit()
	v.post("/d/avocet/draft", url.Values{"facet": {"icons"}, "piece": {"Marram"}})
	v.post("/d/avocet/draft", url.Values{"facet": {"dark"}, "piece": {"dark"}})
}

// edit changes a file of the home as a person does.
func (b *browser) edit(name, old, now string) {
	b.t.Helper()
	text := b.file(name)
	require.Contains(b.t, text, old)
	require.NoError(b.t, os.WriteFile(b.home(name), []byte(strings.Replace(text, old, now, 1)), 0o644))
}

// briefly makes trying take so many seconds.
func (b *browser) briefly(seconds int) {
	b.Is(fmt.Sprintf(`document.querySelector('[data-key="e"]').value = "%d"`, seconds))
}

// TestPlansByMouse leaves an operation out, tries what is left and lets it run
// out, goes back for one surface, and settles what was edited since.
func TestPlansByMouse(t *testing.T) {
	b := newStage(t).browsePlain()
	b.compose()
	before := b.settings()
	b.Open("/d/avocet/review")
	b.At("Review")
	require.Contains(t, b.Text("#answer"), "8 of 9 settings match · 1 after a restart")
	gtk3 := `[...document.querySelectorAll(".op")].find(o => o.innerText.includes("gtk-3.0/settings.ini"))`
	b.Is(gtk3 + `.querySelector("[data-open]").setAttribute("id", "gtk3-out")`)
	b.Click("#gtk3-out")
	b.Until(`document.querySelector("#answer.is-open")`)
	require.Contains(t, b.Text("#answer"), "Icons GTK 3 programs: ~/.config/gtk-3.0/settings.ini, line 4, gives Foreshore.")
	require.Contains(t, b.Text(".bar-foot"), "1 change left out")
	b.keep("review")

	b.briefly(12)
	b.Click(`[data-key="e"]`)
	b.At("Match")
	require.Contains(t, b.Text("#trial"), "You are trying Apply Marram")
	require.Equal(t, before[gtk3File], b.file(gtk3File), "that was left out")
	require.NotEqual(t, before[shellFile], b.file(shellFile))
	b.Click(`button[name="surface"][value="quayside"]`)
	b.Until(`!document.querySelector("#trial") && document.body.innerText.includes("not kept in time")`)
	require.Equal(t, before, b.settings(), "back by itself, byte for byte")
	shown, err := os.ReadFile(b.home(".local/state/quayside/session.conf"))
	require.NoError(t, err)
	require.Contains(t, string(shown), "icons=Foreshore", "and what was started again meanwhile shows it")

	b.Open("/d/avocet/review") // the draft is still there
	b.Click("[data-main]")
	b.At("Match")
	full := b.settings()
	b.Open("/d/avocet/history")
	b.Click(".past li:nth-child(1) [data-open]")
	b.At("Go back")
	b.Click(`.picker a[href*="surface=gtk4"]`)
	b.Until(`location.search.includes("surface=gtk4")`)
	b.At("Go back")
	require.Contains(t, b.Text("#work"), "for GTK 4 programs")
	b.Click("[data-main]")
	b.At("History")
	require.Equal(t, before[gtk4File], b.file(gtk4File))
	require.Equal(t, full[gtk3File], b.file(gtk3File))
	require.Equal(t, full[shellFile], b.file(shellFile))

	b.edit(gtk3File, "x-mara-note=ask Tobias about the scroll bars", "x-mara-note=asked, he likes them")
	b.edit(shellFile, "icons=Marram", "icons=hicolor")
	b.Open("/d/avocet/history")
	b.Click(".past > li:nth-child(2) [data-open]")
	b.At("Go back")
	require.Equal(t, []string{gtk3File + " both", shellFile + " both"}, b.taken(), "newer edits stay, line by line")
	require.Contains(t, b.Text(`[data-conflict$="quayside.conf"] [data-clash]`), "icons=hicolor")
	b.Click(`[data-conflict$="quayside.conf"] [data-clash] a`)
	b.Until(`document.querySelector('[data-conflict$="quayside.conf"] [data-clash] a')?.innerText.includes("Keep icons=hicolor")`)
	b.Click("[data-main]")
	b.At("History")
	require.Equal(t, strings.Replace(before[gtk3File], "ask Tobias about the scroll bars", "asked, he likes them", 1), b.file(gtk3File))
	require.Equal(t, before[shellFile], b.file(shellFile))

	b.Click(".past > li:nth-child(1) [data-open]") // and back on that: the hand's edit is not lost
	b.At("Go back")
	b.Click("[data-main]")
	b.At("History")
	require.Contains(t, b.file(shellFile), "icons=hicolor")
}

// taken are the conflicts of a going back and what is chosen of each.
func (b *browser) taken() []string {
	b.t.Helper()
	return browsertest.Value[[]string](b.Browser, `[...document.querySelectorAll("[data-conflict]")].map(c => c.dataset.conflict.replace("/home/mara/", "") + " " + c.querySelector("[aria-current]").dataset.take)`)
}

// TestPlansByKeyboard does the same without a mouse, and keeps what it tries.
func TestPlansByKeyboard(t *testing.T) {
	b := newStage(t).browsePlain()
	b.compose()
	before := b.settings()
	b.Open("/d/avocet/review")
	b.At("Review")
	b.Walk(kb.ArrowDown, `el.matches(".op") && el.innerText.includes("gtk-3.0/settings.ini")`)
	b.Press(kb.Enter)
	b.Until(`document.querySelector("#answer.is-open")`)
	require.Contains(t, b.Text(".bar-foot"), "1 change left out")
	b.Until(`document.activeElement.innerText.includes("gtk-3.0/settings.ini")`)
	b.briefly(3)
	b.Leads("Match", "e")
	b.Until(`!document.querySelector("#trial") && document.body.innerText.includes("not kept in time")`)
	b.At("Match")
	require.Equal(t, before, b.settings())

	b.Leads("Review", "r")
	b.Leads("Match", "e")
	b.Until(`document.querySelector("#trial")`)
	require.NotEqual(t, before, b.settings())
	b.Press("B")
	b.Until(`document.querySelector("#strip") && !document.querySelector("#trial")`)
	b.At("Match")
	require.Equal(t, before, b.settings())
	b.Leads("Review", "r")
	b.Leads("Match", "e")
	b.Press("K")
	b.Until(`document.querySelector("#strip") && !document.querySelector("#trial")`)
	b.At("Match")
	full := b.settings()
	require.NotEqual(t, before, full)
	require.True(t, b.Is(`document.querySelector("#strip").hidden`), "what is kept is no draft any more")

	b.Leads("History", "g", "h")
	b.Press(kb.ArrowDown)
	b.Leads("Go back", kb.Enter)
	b.Walk(kb.Tab, `el.href?.includes("surface=gtk4")`)
	b.Press(kb.Enter)
	b.Until(`location.search.includes("surface=gtk4")`)
	b.At("Go back")
	b.Leads("History", "a")
	require.Equal(t, before[gtk4File], b.file(gtk4File))
	require.Equal(t, full[gtk3File], b.file(gtk3File))

	b.edit(gtk3File, "gtk-icon-theme-name = Marram", "gtk-icon-theme-name = hicolor")
	b.Press(kb.ArrowDown, kb.ArrowDown)
	b.Leads("Go back", kb.Enter)
	require.Equal(t, []string{gtk3File + " both"}, b.taken())
	b.Walk(kb.Tab, `el.dataset.take === "before"`)
	b.Press(kb.Enter)
	b.Until(`document.querySelector('[data-take="before"][aria-current]')`)
	b.At("Go back")
	b.Leads("History", "a")
	require.Equal(t, before, b.settings())

	b.Press(kb.ArrowDown, "x") // pin it, then let the one below go
	b.Until(`document.querySelector(".past > li.pinned")`)
	b.Walk(kb.Tab, `el.getAttribute("aria-label")?.startsWith("Delete the checkpoint of Go back on")`)
	b.Leads("Delete checkpoint", kb.Enter)
	require.Contains(t, b.Text("#work"), "these changes can no longer be undone")
	b.Leads("History", "a")
	require.Contains(t, b.Text(".past"), "checkpoint deleted")
}
