package web_test

import (
	"encoding/base64"
	"net/url"
	"os"
	"path"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ivelt/core/language"
	"ivelt/demo"
	"ivelt/web/browsertest"
)

const (
	gtk3File  = ".config/gtk-3.0/settings.ini"
	gtk4File  = ".config/gtk-4.0/settings.ini"
	shellFile = ".config/quayside/quayside.conf"
)

// drawn are the packs as their makers drew them, by folder.
var drawn = map[string]map[string]string{}

// installed checks that a pack in the home is, byte for byte, the one its
// maker drew.
func (s *stage) installed(folder string) {
	s.t.Helper()
	if drawn[folder] == nil {
		made := s.t.TempDir()
		require.NoError(s.t, demo.WritePacks(made, folder))
		drawn[folder] = treeOf(s.t, filepath.Join(made, folder))
	}
	theirs, ours := drawn[folder], treeOf(s.t, s.home(".local/share/icons/"+folder))
	require.Greater(s.t, len(ours), 100)
	for name, want := range theirs {
		require.Equal(s.t, contents(want), contents(ours[name]), name)
	}
	for name := range ours {
		require.True(s.t, theirs[name] != "" || name == "LICENSE", "%s was not in the pack", name)
	}
}

// contents leaves the time out of a snapshot's line.
func contents(line string) string {
	f := strings.SplitN(line, " ", 3)
	if len(f) == 3 {
		return f[0] + " " + f[2]
	}
	return line
}

// dressed checks the three settings files: one line each has changed.
func (s *stage) dressed(before map[string]string, pack string) {
	s.t.Helper()
	for name, change := range map[string][2]string{
		gtk3File:  {"gtk-icon-theme-name = Foreshore\n", "gtk-icon-theme-name = " + pack + "\n"},
		gtk4File:  {"gtk-icon-theme-name=Marram\r\n", "gtk-icon-theme-name=" + pack + "\r\n"},
		shellFile: {"\nicons=Foreshore\n", "\nicons=" + pack + "\n"},
	} {
		require.Equal(s.t, 1, strings.Count(before[name], change[0]), name)
		require.Equal(s.t, strings.Replace(before[name], change[0], change[1], 1), s.file(name), name)
	}
}

func (s *stage) settings() map[string]string {
	s.t.Helper()
	return map[string]string{gtk3File: s.file(gtk3File), gtk4File: s.file(gtk4File), shellFile: s.file(shellFile)}
}

func TestStoryByMouse(t *testing.T) {
	b := newStage(t).browsePlain()
	start, settings := b.snapshot(), b.settings()

	b.Open("/")
	b.At("Start")
	require.Contains(t, b.Text("#welcome"), "Ivelt dresses a desktop", "nothing was chosen yet")
	b.Click(`.start-first a[href$="/find"]`)
	b.At("Find")
	b.Until(`document.querySelectorAll("#wall .tag").length > 20`)
	b.keep("find")
	b.Do(chromedp.SendKeys(chromedp.CSS("[data-page-search]"), "dark weed"))
	b.Until(`document.querySelectorAll("#wall .tag").length === 1`)
	require.Contains(t, b.Text("#wall"), "Wrack")
	for range "dark weed" {
		b.Press(kb.Backspace)
	}
	b.Press("shinlge")
	b.Until(`document.querySelector("#found").innerText.includes("“shingle”")`)
	require.Contains(t, b.Text("#wall"), "Pebbles and tide lines", "a slip of the fingers is forgiven")

	b.Click("#entry-shingle [data-fetch]")
	b.At("Shingle")
	require.Contains(t, b.Text("#work"), "3 pieces inside")
	require.Contains(t, b.Text("#work"), "~/.local/share/icons")
	require.Equal(t, start, b.snapshot(), "looking inside touches nothing")

	b.Click("#piece-2") // leave Heather out
	b.Click("[data-main]")
	b.At("Shelf")
	b.installed("Shingle")
	b.installed("Shingle-Coral")
	require.NoDirExists(t, b.home(".local/share/icons/Shingle-Heather"))
	require.Equal(t, settings, b.settings(), "installing changes no setting")

	b.Click("#icons-Shingle [data-choose]")
	b.At("Compose")
	b.Until(`!document.querySelector("#strip").hidden`)
	require.Contains(t, b.Text("#strip"), "5 changes")
	draft := b.picture()
	folder := base64.StdEncoding.EncodeToString([]byte(b.file(".local/share/icons/Shingle/48x48/places/folder-documents.png")))
	require.True(t, strings.Contains(draft, folder), "the picture shows the pack's own file")
	b.keep("compose")
	b.Click(`[data-look-is="worn"]`)
	require.False(t, strings.Contains(b.picture(), folder), "worn is pictured without it")
	b.Click("#icons-Shingle-Coral")
	b.Until(`document.querySelector("#icons-Shingle-Coral").ariaChecked === "true"`)
	require.False(t, draft == b.picture(), "another choice, another picture")
	b.Click("#icons-Shingle")
	b.Until(`document.querySelector("#icons-Shingle").ariaChecked === "true"`)
	require.True(t, draft == b.picture(), "the same choice, the same picture")
	require.Equal(t, settings, b.settings(), "composing changes no setting")

	b.Click(`[data-key="r"]`)
	b.At("Review")
	require.Contains(t, b.Text("#work"), "gtk-icon-theme-name = Shingle")
	require.Equal(t, settings, b.settings(), "reviewing changes no setting")
	require.Contains(t, b.Text("#work"), "Let Programs in Coracle read ~/.local/share/icons/Shingle, where Shingle is")
	b.Is(`[...document.querySelectorAll(".op")].find(o => o.innerText.includes("grants.conf")).querySelector("[data-open]").id = "no-grant"`)
	b.Click("#no-grant")
	b.Until(`document.querySelector(".op-out")`)
	b.Click("[data-main]")
	b.At("Match")
	b.dressed(settings, "Shingle")
	require.Equal(t, []string{"gtk2 follows", "gtk3 follows", "gtk4 follows", "qt follows", "coracle not-found", "quayside pending"}, b.states())
	b.Click(`button[name="surface"][value="quayside"]`)
	b.Until(`document.querySelectorAll(".station.is-follows").length === 5`)
	require.Contains(t, b.Text("#work"), "1 setting not applied yet")
	b.Open("/d/avocet/why/coracle/icons")
	b.At("Icons")
	require.Contains(t, b.Text(".verdict-box"), "is a link that leads out of it")
	b.Open("/d/avocet/match")
	require.Equal(t, "grant-missing", browsertest.Value[string](b.Browser, `document.querySelector(".station[data-surface=coracle] [data-code]").dataset.code`), "what a link leads out to is not seen there")

	b.Click(`[data-go-key="h"]`)
	b.At("History")
	b.keep("history")
	b.Click(".past li:nth-child(1) [data-open]")
	b.At("Go back")
	b.Click("[data-main]")
	b.Until(`document.querySelectorAll(".past li.undone").length === 1`)
	require.Equal(t, settings, b.settings(), "back byte for byte")
	b.Click(".past > li:nth-child(3) [data-open]")
	b.At("Go back")
	b.Click("[data-main]")
	b.Until(`document.querySelectorAll(".past li.undone").length === 2`)
	require.Equal(t, start, b.snapshot(), "the home is as it was at the start, times and modes included")
	require.Contains(t, b.Text(".head"), "the original look")
}

func TestStoryByKeyboard(t *testing.T) {
	b := newStage(t).browsePlain()
	start, settings := b.snapshot(), b.settings()

	b.Open("/d/avocet/history")
	b.At("History")
	b.Leads("Find", "g", "f")
	b.Press("s")
	b.Press("wra")
	b.Until(`document.querySelectorAll("#wall .tag").length === 1`)
	b.Until(`new URLSearchParams(location.search).get("q") === "wra"`)
	b.Press(kb.Escape)
	b.Walk(kb.ArrowRight, `el.id === "entry-wrack"`)
	b.Press(kb.Enter)
	b.Until(`document.querySelector("#closer").open && document.activeElement.matches("#closer [data-fetch]")`)
	require.Contains(t, b.Text("#closer"), "made to go with Shingle, which is not on this desk")
	b.Leads("Wrack", kb.Enter)
	require.Contains(t, b.Text("#work"), "needs icon pack Shingle, not on this desk; a market has it")
	b.Leads("Shelf", "a")
	b.installed("Wrack")

	b.Walk(kb.ArrowRight, `el.id === "icons-Wrack"`)
	b.Leads("Compose", " ")
	b.Until(`!document.querySelector("#strip").hidden`)
	draft := b.picture()
	b.Press("[")
	require.False(t, draft == b.picture(), "worn is another picture")
	b.Press("]")
	require.True(t, draft == b.picture(), "the same choice, the same picture")
	b.Walk(kb.ArrowRight, `el.id === "icons-Marram"`)
	b.Press(" ")
	b.Until(`document.querySelector("#icons-Marram").ariaChecked === "true"`)
	require.True(t, b.Is(`document.activeElement.id === "icons-Marram"`), "the focus stays in the list")
	b.Walk(kb.ArrowRight, `el.id === "icons-Wrack"`)
	b.Press(kb.Enter)
	b.Until(`document.querySelector("#icons-Wrack").ariaChecked === "true"`)
	require.Equal(t, settings, b.settings())

	b.Leads("Review", "r")
	b.Leads("Match", "a")
	b.dressed(settings, "Wrack")
	b.Walk(kb.Tab, `el.name === "surface"`)
	b.Press(kb.Enter)
	b.Until(`document.querySelectorAll(".station.is-follows").length === 6`)
	require.Contains(t, b.file(".config/coracle/grants.conf"), "read=~/.themes;~/.icons;~/.local/share/icons/Wrack\n")

	b.Press("?")
	b.Until(`document.querySelector("#keys").open`)
	b.Press(kb.Escape)
	b.Press("/")
	b.Press("hist")
	b.Until(`document.querySelectorAll("[data-go-item]").length === 1`)
	b.Leads("History", kb.Enter)
	b.Press(kb.ArrowDown)
	b.Leads("Go back", kb.Enter)
	b.Leads("History", "a")
	b.Until(`document.querySelectorAll(".past li.undone").length === 1`)
	require.Equal(t, settings, b.settings())
	b.Walk(kb.ArrowDown, `el.closest("li")?.innerText.startsWith("Install Wrack")`)
	b.Leads("Go back", kb.Enter)
	b.Leads("History", "a")
	b.Until(`document.querySelectorAll(".past li.undone").length === 2`)
	require.Equal(t, start, b.snapshot())
}

func TestFetchShowsProgressAndCanBeCancelled(t *testing.T) {
	b := newStage(t).browsePlain()
	b.market.StallAfter(700_000)
	b.Open("/d/avocet/find")
	b.Click("#entry-shingle [data-fetch]")
	b.Until(`document.querySelector("#job progress")?.value > 0`)
	require.Contains(t, b.Text("#job"), "of 2.3 MB")
	b.Click("#job [data-cancel]")
	b.Until(`document.querySelector("#job").innerText.includes("Nothing was left behind")`)
	left, err := os.ReadDir(filepath.Join(b.dir, "data/parcels"))
	require.NoError(t, err)
	require.Empty(t, left)
}

// everyPage opens a stage on which every page has something to show: the pages, and what asks axe-core
// (npm) about one.
func everyPage(t *testing.T) (b *browser, pages []string) {
	t.Helper()
	b = newStage(t).browsePlain()
	b.Open("/d/avocet/find")
	b.Click("#entry-wrack [data-fetch]")
	b.At("Wrack")
	parcel := browsertest.Value[string](b.Browser, `location.pathname`)
	b.Open("/d/avocet/find?kind=bundle")
	b.Click("#entry-reedbed-shore [data-fetch]")
	b.At("Reedbed")
	b.Click("[data-bundle] button[name=piece]")
	b.Until(`document.querySelector(".bundle-facets") && document.readyState === "complete"`)
	bundle := browsertest.Value[string](b.Browser, `location.pathname + location.search`)
	b.Open("/d/avocet/find?kind=descriptor")
	b.Click("#entry-gullcall [data-fetch]")
	b.At("Gullcall")
	described := browsertest.Value[string](b.Browser, `location.pathname`)
	b.Leads("Shelf", "a")
	b.Open("/d/avocet/find?kind=pointer")
	b.Click("#entry-limpet [data-fetch]")
	b.At("Limpet")
	b.Leads("Shelf", "a")
	b.Open("/d/avocet/find?kind=pointer")
	b.Click("#entry-phalarope [data-fetch]")
	b.At("Phalarope")
	b.Click("[data-convert]")
	b.At("Convert")
	conversion := browsertest.Value[string](b.Browser, `location.pathname + location.search`)
	b.Open(parcel)
	b.At("Wrack")
	b.Leads("Shelf", "a")
	b.Click("#icons-Wrack [data-choose]")
	b.At("Compose")
	for facet, piece := range map[string]string{"icons": "Glasswort", "palette": "ebb", "bar": "Saltpan", "accent": "#204060"} {
		b.visit().post("/d/dunlin/draft", url.Values{"facet": {facet}, "piece": {piece}})
	}
	b.visit().post("/d/avocet/making", url.Values{"theme": {"Saltpan"}, "sheet": {"gtk-3.0/gtk.css"}, "scope": {"colour theme_selected_bg_color"}, "value": {"#a0466b"}})
	require.NoError(t, os.MkdirAll(b.home(".local/share/styles"), 0o755))
	require.NoError(t, os.WriteFile(b.home(".local/share/styles/Kelp.svg"), []byte(`<svg xmlns="http://www.w3.org/2000/svg"><g id="button"><rect width="50" height="20" fill="#2f7f5c"/></g><rect id="fields" width="9" height="9"/></svg>`), 0o644))
	b.visit().post("/d/avocet/draft", url.Values{"facet": {"pictures"}, "piece": {"Kelp"}})
	return b, []string{"/d/avocet/compose?facet=pictures&element=button", "/d/avocet/find", parcel, "/d/avocet/shelf", "/d/avocet/compose?facet=icons", "/d/avocet/looks", "/d/avocet/review", "/d/avocet/match", "/d/avocet/history", "/d/avocet/back/1", "/d/avocet/let-go/1", "/d/avocet/nowhere", "/d/dunlin/match", "/d/dunlin/why/creel/icons", "/d/dunlin/login/tollgate", "/d/dunlin/sandbox/coracle", "/d/dunlin/terminal/bittern", "/d/avocet/login/lantern", "/d/dunlin/sheet", "/d/avocet/start", "/d/avocet/compare", "/d/avocet/markets", "/d/avocet/language", "/d/avocet/find/strandline/wrack", "/d/avocet/learn", described, "/d/avocet/came?of=" + path.Base(parcel), "/d/dunlin/judge", "/d/avocet/judge", "/d/avocet/complete", bundle, conversion, "/d/avocet/bench/pointer?set=Limpet", "/d/dunlin/bench/icons?set=Glasswort&item=programs%2Ftidewatch-buoy", "/d/dunlin/bench/icons?set=Glasswort&group=status&with=hicolor", "/d/avocet/backdrop", "/d/avocet/halves", "/d/avocet/effects", "/d/avocet/arrange?bar=0&item=4", "/d/dunlin/arrange", "/d/turnstone/lock", "/d/turnstone/compose?facet=bar", "/d/dunlin/backdrop?mode=fit", "/d/dunlin/bench/left", "/d/dunlin/bench/font?beside.font=Estuary+Mono"}
}

// loadAxe has axe-core (npm) ready on the page.
func loadAxe(t *testing.T, b *browser) {
	t.Helper()
	axe, err := os.ReadFile("testdata/axe.min.js")
	require.NoError(t, err)
	_, err = browsertest.Evaluate[chromedp.Void](b.Browser, string(axe)+"; undefined")
	require.NoError(t, err)
}

// axeSays is what axe-core finds wrong with a part of a page.
func axeSays(b *browser, of, rules string) []string {
	return browsertest.Value[[]string](b.Browser, `axe.run(`+of+`, {runOnly: `+rules+`, resultTypes: ["violations"]}).then(r =>
		r.violations.flatMap(v => v.nodes.map(n => v.id + ": " + n.target.join(" ") + " " + n.failureSummary)))`)
}

const wcag = `["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]`

// TestPagesAreAccessible: every page is gone through in English, and every fourth in a made-up
// language too; axe-core is asked once about each page, and about dark colours. With
// -everything each page is gone through in all of them.
func TestPagesAreAccessible(t *testing.T) {
	b, pages := everyPage(t)
	made := language.Made()
	for i, at := range pages {
		for n, l := range made {
			if *everything || i%8 == 4*n+1 {
				inLanguage(t, b, at, l, *everything || i%16 <= 7)
			}
		}
		b.Open(at)
		if strings.HasSuffix(at, "?facet=icons") { // with all that can be opened on it
			b.Is(`document.querySelector("#dyes").open = true`)
			b.Is(`(htmx.ajax("GET", "/d/avocet/ask?scene=desk&look=worn&x=300&y=200", {target: "#asked", swap: "outerHTML"}), true)`)
			b.Until(`document.querySelector("#asked .asked-rungs li")`)
			b.Is(`document.querySelectorAll("#asked details").forEach(d => d.open = true)`)
			require.True(t, b.Is(`document.querySelector("#making li")`))
		}
		of := `document.querySelector("#work")` // all around it is the same on every page
		if i%8 == 0 {
			of = "document"
		}
		loadAxe(t, b)
		for shade, rules := range map[string]string{"light": wcag, "dark": `{type: "rule", values: ["color-contrast"]}`} { // the others see no colours
			if shade == "light" && i%4 == 1 && !*everything { // it was asked in another language
				continue
			}
			if shade == "dark" && i%4 != 0 { // its colours are those of the tokens, which the others show
				continue
			}
			b.Is(`document.documentElement.dataset.theme = "` + shade + `"`)
			require.Empty(t, axeSays(b, of, rules), "%s in %s", at, shade)
		}
		require.True(t, b.Is(`document.querySelectorAll("h1").length === 1`), "%s has one heading of its own", at)
		require.True(t, b.Is(`[...document.querySelectorAll("table")].every(t => t.querySelector("th[scope=col]"))`), "%s has tables without heads", at)
		for _, width := range []int64{390, 1024, 1280} {
			b.Do(chromedp.EmulateViewport(width, 800))
			wide := browsertest.Value[[]string](b.Browser, `[...document.querySelectorAll("body *")].filter(e => document.documentElement.scrollWidth > innerWidth && e.getBoundingClientRect().right > innerWidth + 1).map(e => e.tagName + "." + e.className + " " + e.id).slice(0, 5)`)
			require.True(t, b.Is(`document.documentElement.scrollWidth <= innerWidth`), "%s scrolls sideways at %d px: %v", at, width, wide)
			cut := browsertest.Value[[]string](b.Browser, `[...document.querySelectorAll("#work :is(a, button, select, input, label, p, h1, h2, h3, li, td, span, img)")].filter(e => {
				const at = e.getBoundingClientRect();
				if (at.width < 2 || at.right <= innerWidth + 1) return false;
				for (let p = e.parentElement; p && p.id !== "work"; p = p.parentElement)
					if (["auto", "scroll", "hidden", "clip"].includes(getComputedStyle(p).overflowX)) return false;
				return true;
			}).map(e => e.tagName + "." + e.className + " " + e.id + " " + e.innerText).slice(0, 5)`)
			assert.Empty(t, cut, "%s is cut off at %d px", at, width)
		}
	}
}

// TestStoryOfAKit brings a parcel in by the file button: three variants of a
// theme, an icon pack, pointers and a backdrop; installs two, removes one.
func TestStoryOfAKit(t *testing.T) {
	b := newStage(t).browse()
	start := b.snapshot()
	b.Open("/d/avocet/find")
	b.At("Find")
	require.True(t, b.Is(`document.querySelector(".menu-box").textContent.includes("reedbed-kit-0.4.zip")`), "it lies in the download folder")
	b.Do(chromedp.SetUploadFiles(chromedp.CSS("#bring-file"), []string{b.home("Downloads/reedbed-kit-0.4.zip")}))
	b.At("reedbed-kit")
	page := b.Text("#work")
	require.Contains(t, page, "6 pieces inside")
	require.Contains(t, page, "window theme, dark, compact")
	require.True(t, b.Is(`[...document.images].every(i => i.complete && i.naturalWidth > 0)`), "every piece has its picture")
	b.keep("parcel")
	b.Is(`document.querySelectorAll(".piece details").forEach(d => d.open = true)`)
	require.Contains(t, b.Text("#work"), "Seen by GTK 2 programs, GTK 3 programs, GTK 4 programs, Programs in Coracle, Quayside. Not seen by Lantern")
	require.Contains(t, b.Text("#work"), "Seen by The display's pointer")
	for _, piece := range []string{"#piece-0", "#piece-2", "#piece-3", "#piece-5"} {
		b.Is(`document.querySelector("` + piece + `").scrollIntoView({block: "center"})`)
		b.Click(piece)
	}
	b.Click("[data-main]") // the dark theme and the pointers
	b.At("Shelf")
	require.FileExists(t, b.home(".themes/Reedbed-Dark/gtk-3.0/gtk.css"))
	require.FileExists(t, b.home(".icons/Sandpiper/cursors/left_ptr"))
	require.True(t, b.Is(`document.querySelector("#widgets-Reedbed-Dark") && document.querySelector("#pointer-Sandpiper")`))
	for _, left := range []string{".themes/Reedbed", ".themes/Reedbed-Dark-Compact", ".local/share/icons/Reedmace", ".local/share/backgrounds"} {
		require.NoDirExists(t, b.home(left), "not marked, not installed")
	}
	b.keep("shelf")

	b.Click(`[name="path"][value$="Sandpiper"]`)
	b.Until(`!document.querySelector("#work").innerText.includes("Sandpiper")`)
	require.NoDirExists(t, b.home(".icons/Sandpiper"))
	require.FileExists(t, b.home(".themes/Reedbed-Dark/gtk-3.0/gtk.css"))

	b.Click(`[data-go-key="h"]`)
	b.At("History")
	b.Click(".past > li:nth-child(1) [data-open]")
	b.At("Go back")
	b.Click("[data-main]")
	b.Until(`document.querySelectorAll(".past li.undone").length === 1`)
	require.FileExists(t, b.home(".icons/Sandpiper/cursors/left_ptr"), "the removal is gone back on")
	b.Click(".past > li:nth-child(3) [data-open]")
	b.At("Go back")
	b.Click("[data-main]")
	b.Until(`document.querySelectorAll(".past li.undone").length === 2`)
	require.Equal(t, start, b.snapshot())
}

// TestStoryOfAWholeLook fetches a theme and pointers from two makers, puts both
// on the draft, sees the picture follow, applies, and reads the same again.
func TestStoryOfAWholeLook(t *testing.T) {
	b := newStage(t).browse()
	before := b.settings()
	b.Open("/d/avocet/find")
	b.At("Find")
	for _, key := range []string{"groyne", "limpet"} {
		b.Open("/d/avocet/find/1/" + key)
		b.Click("[data-fetch]")
		b.Until(`location.pathname.includes("/parcel/") && document.readyState === "complete"`)
		b.Leads("Shelf", "a")
	}
	b.Open("/d/avocet/compose")
	b.At("Compose")
	b.Picture("controls")
	worn := b.picture()
	require.Contains(t, b.Text("#widgets-Saltpan"), "in use")
	require.True(t, b.Is(`document.querySelector("#widgets-Saltpan .sign").title.startsWith("in use by GTK 2 programs, GTK 3 programs, GTK 4 programs")`))

	// By keyboard: from one list on to the next.
	b.Walk(kb.ArrowRight, `el.id === "widgets-Groyne"`)
	b.Press(" ")
	b.Until(`document.querySelector("#widgets-Groyne").ariaChecked === "true"`)
	groyne := b.picture()
	require.True(t, strings.Contains(groyne, "rgba(43,42,45,1)") && !strings.Contains(worn, "rgba(43,42,45,1)"), "its ground")
	pointers := strings.Count(groyne, "data:image/png")
	b.Press("3")
	b.Until(`document.querySelector("#pointer-Limpet")`)
	b.Walk(kb.ArrowRight, `el.id === "pointer-Limpet"`)
	b.Press(" ")
	b.Until(`document.querySelector("#pointer-Limpet").ariaChecked === "true"`)
	require.Greater(t, strings.Count(b.picture(), "data:image/png"), pointers, "pointers lie over the controls")
	b.Click(`[data-picture-png="2"]`)
	b.Until(`document.querySelector("[data-picture]").dataset.png?.startsWith("2560x1600 ")`)

	b.Leads("Review", "r")
	require.Contains(t, b.Text("#work"), "gtk-cursor-theme-name")
	b.Leads("Match", "a")
	require.True(t, b.Is(`[...document.querySelectorAll(".station[data-facet=widgets], .station[data-facet=pointer]")].every(s => s.dataset.state === "follows")`))
	require.Contains(t, b.file(gtk3File), "gtk-theme-name=Groyne")
	require.Contains(t, b.file(".icons/default/index.theme"), "Inherits=Limpet")
	b.Open("/d/avocet/compose")
	b.At("Compose")
	b.Picture("controls")
	require.True(t, strings.Contains(b.picture(), "rgba(43,42,45,1)"), "what is read again is what was pictured")
	b.Leads("History", "g", "h")
	b.Press(kb.ArrowDown)
	b.Leads("Go back", kb.Enter)
	b.Leads("History", "a")
	b.Until(`document.querySelectorAll(".past li.undone").length === 1`)
	require.Equal(t, before, b.settings(), "back byte for byte")
}

// TestStoryOfChoosing tries things on: undoes, puts looks by, holds them
// against each other, and takes one.
func TestStoryOfChoosing(t *testing.T) {
	b := newStage(t).browse()
	b.Open("/d/avocet/compose")
	b.At("Compose")
	b.Group("icons")
	b.Click("#icons-Marram")
	b.Until(`document.querySelector("#icons-Marram").ariaChecked === "true"`)
	marram := b.picture()
	b.Idle()
	b.Press("k")
	b.Until(`document.querySelectorAll(".looks-strip li").length === 1`)
	b.Click("#icons-Foreshore")
	b.Until(`document.querySelector("#icons-Foreshore").ariaChecked === "true"`)
	b.Idle()
	b.Press("k")
	b.Until(`document.querySelectorAll(".looks-strip li").length === 2`)
	b.Idle()
	b.Press("u")
	b.Until(`document.querySelector("#icons-Marram").ariaChecked === "true"`)
	require.True(t, marram == b.picture(), "undone")
	b.Idle()
	b.Press("U")
	b.Until(`document.querySelector("#icons-Foreshore").ariaChecked === "true"`)
	b.Click("#look-1 [name=do][value=copy]")
	b.Until(`document.querySelectorAll(".looks-strip li").length === 3`)
	b.Click("#look-1 .look-picture")
	b.Until(`document.querySelector("#icons-Marram").ariaChecked === "true"`)

	b.Open("/d/avocet/looks")
	b.At("Compare looks")
	b.Until(`document.querySelectorAll(".looks figure").length === 4`)
	require.Contains(t, b.Text("#work"), "has Marram for its icons")
	b.Until(`[...document.querySelectorAll(".looks img")].every(i => i.complete && i.naturalWidth > 0)`)
	b.Open("/d/avocet/looks?of=1&of=2&wipe=1&scene=close")
	b.At("Compare looks")
	require.Equal(t, 2, browsertest.Value[int](b.Browser, `document.querySelectorAll(".wipe img").length`))
	b.Is(`document.querySelector("[data-wipe] input").focus()`)
	b.Press(kb.ArrowRight)
	b.Until(`document.querySelector("[data-wipe]").style.getPropertyValue("--cut") === "51%"`)
	b.Open("/d/avocet/compose")
	b.At("Compose")
	b.Click("#look-3 [name=do][value=drop]:not(.visually-hidden)")
	b.Until(`document.querySelectorAll(".looks-strip li").length === 2`)

	// What is typed is checked at once, and said beside it.
	b.Group("bar")
	typed := func(n string) {
		b.Is(`(() => { const box = document.querySelector("#fine-workspaces"); box.value = "` + n + `"; box.dispatchEvent(new Event("change", { bubbles: true })); return true })()`)
	}
	typed("99")
	b.Until(`document.querySelector("#says-workspaces").innerText.includes("from 1 to 12")`)
	require.NotContains(t, b.Text("#draft"), "Workspaces")
	typed("6")
	b.Until(`document.querySelector("#draft").innerText.includes("Workspaces") && document.querySelector("#says-workspaces").innerText === ""`)
}

// TestStoryOfTryingOn tries on a theme, icons, pointers and a font from three
// makers, by mouse and by keyboard, with nothing put in place; holds four looks
// against each other, flips, takes one and applies it. What is worn then is the
// picture that was seen before.
func TestStoryOfTryingOn(t *testing.T) {
	b := newStage(t).browse()
	before := b.snapshot()
	b.Open("/d/avocet/find")
	b.Until(`document.querySelectorAll(".tag").length > 8`) // the market is read
	b.Open("/d/avocet/compose")
	b.At("Compose")
	worn := b.picture()

	// By mouse: Tobias Anker's theme, Maud Pell's icons.
	b.Click(`[data-offer="widgets"] summary`)
	b.Click("#try-groyne")
	b.Until(`document.querySelector("#widgets-Groyne")?.ariaChecked === "true"`)
	groyne := b.picture()
	require.True(t, strings.Contains(groyne, "rgba(43,42,45,1)") && !strings.Contains(worn, "rgba(43,42,45,1)"), "its ground")
	require.Contains(t, b.Text("#picks"), "tried on")
	b.Group("icons")
	b.Click(`[data-offer="icons"] summary`)
	b.Click("#try-shingle")
	b.Until(`document.querySelector("#icons-Shingle")?.ariaChecked === "true"`)
	shingle := b.picture()
	require.True(t, shingle != groyne)

	// By keyboard: Hanne Riet's pointers, Maud Pell's font.
	for _, key := range []string{"sandpiper", "estuary-mono"} {
		b.Open("/d/avocet/find/1/" + key)
		b.Until(`document.querySelector("[data-try]") !== null`)
		b.Leads("Compose", "y")
	}
	b.Until(`document.querySelector("#draft").innerText.includes("Sandpiper") && document.querySelector("#draft").innerText.includes("Estuary Mono 10.5")`)
	require.Equal(t, before, b.snapshot(), "nothing of the desk was touched")
	b.Idle()
	b.Press("k")
	b.Until(`document.querySelectorAll(".looks-strip li").length === 1`)
	b.Group("widgets")
	b.Walk(kb.ArrowRight, `el.id === "widgets-Saltpan"`)
	b.Press(" ")
	b.Until(`document.querySelector("#widgets-Saltpan").ariaChecked === "true"`)
	require.True(t, strings.Contains(b.picture(), "rgba(247,248,248,1)"), "Saltpan's ground; the bar stays Groyne's")
	b.Idle()
	b.Click("#fine-dark-dark")
	b.Until(`document.querySelector("#fine-dark-dark").ariaChecked === "true"`)
	b.Idle()
	b.Press("k")
	b.Until(`document.querySelectorAll(".looks-strip li").length === 2`)
	b.Click("#fine-accent-rust")
	b.Until(`document.querySelector("#fine-accent-rust").checked && document.querySelector("#draft").innerText.includes("rust")`)
	b.keep("compose")

	// Four side by side, and one key to flip.
	b.Open("/d/avocet/looks")
	b.At("Compare looks")
	b.Until(`document.querySelectorAll(".looks figure").length === 4 && [...document.querySelectorAll(".looks img")].every(i => i.complete && i.naturalWidth > 0)`)
	require.Contains(t, b.Text("#work"), "has Groyne for its windows")
	b.keep("looks")
	b.Press("v")
	require.Equal(t, []string{"Now"}, browsertest.Value[[]string](b.Browser, `[...document.querySelectorAll(".looks figure")].filter(f => f.offsetParent).map(f => f.innerText.trim())`))
	b.Press("v")
	require.Equal(t, []string{"The draft"}, browsertest.Value[[]string](b.Browser, `[...document.querySelectorAll(".looks figure")].filter(f => f.offsetParent).map(f => f.innerText.trim())`))
	b.Press(kb.Escape)

	// The first look is taken, reviewed and applied.
	b.Open("/d/avocet/compose")
	b.At("Compose")
	b.Click("#look-1 .look-picture")
	b.Until(`document.querySelector("#widgets-Groyne").ariaChecked === "true"`)
	b.Idle()
	wanted := b.picture()
	b.Leads("Review", "r")
	require.Contains(t, b.Text("#work"), "~/.themes/Groyne")
	b.Leads("Match", "a")
	require.FileExists(t, b.home(".icons/Sandpiper/cursors/default"))
	require.FileExists(t, b.home(".local/share/fonts/EstuaryMono/EstuaryMono-Regular.ttf"))
	b.Click(`.trouble button[name="surface"][value="quayside"]`)
	b.Until(`document.querySelectorAll(".weave .station[data-state=follows]").length > 8 && !document.querySelector(".station[data-state=pending]")`)
	require.Empty(t, browsertest.Value[[]string](b.Browser, `[...document.querySelectorAll(".weave .station")].filter(s => s.dataset.state !== "follows" && s.dataset.state !== "unasked").map(s => s.dataset.surface + " " + s.dataset.facet + " " + s.dataset.state)`), "every reading is as wanted")
	b.Open("/d/avocet/compose")
	b.At("Compose")
	require.True(t, b.Is(`document.querySelector("#widgets-Groyne .sign").title.startsWith("in use by GTK 2 programs, GTK 3 programs, GTK 4 programs")`))
	b.Group("icons")
	b.Click("#away-icons-Shingle-Coral")
	b.Until(`!document.querySelector("#icons-Shingle-Coral") && document.querySelector("#icons-Shingle")`)
	require.True(t, wanted == b.picture(), "the picture before is what is worn")
	b.Leads("History", "g", "h")
	b.Press(kb.ArrowDown)
	b.Leads("Go back", kb.Enter)
	b.Leads("History", "a")
	b.Until(`document.querySelectorAll(".past li.undone").length === 1`)
	require.Equal(t, before, b.snapshot(), "back byte for byte, the pieces too")
}
