package web_test

import (
	"encoding/base64"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"ivelt/demo"
)

const (
	gtk3File  = ".config/gtk-3.0/settings.ini"
	gtk4File  = ".config/gtk-4.0/settings.ini"
	shellFile = ".config/quayside/quayside.conf"
)

// installed checks that a pack in the home is, byte for byte, the one its
// maker drew.
func (s *stage) installed(folder string) {
	s.t.Helper()
	drawn := s.t.TempDir()
	require.NoError(s.t, demo.WritePacks(drawn, folder))
	theirs, ours := treeOf(s.t, filepath.Join(drawn, folder)), treeOf(s.t, s.home(".local/share/icons/"+folder))
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
	b := newStage(t).browse()
	start, settings := b.snapshot(), b.settings()

	b.open("/")
	b.at("Find")
	b.until(`document.querySelectorAll("#wall .tag").length > 20`)
	b.keep("find")
	b.do(chromedp.SendKeys(chromedp.CSS("[data-page-search]"), "dark weed"))
	b.until(`document.querySelectorAll("#wall .tag").length === 1`)
	require.Contains(t, b.text("#wall"), "Wrack")
	for range "dark weed" {
		b.press(kb.Backspace)
	}
	b.press("shinlge")
	b.until(`document.querySelector("#found").innerText.includes("“shingle”")`)
	require.Contains(t, b.text("#wall"), "Pebbles and tide lines", "a slip of the fingers is forgiven")

	b.click("#entry-shingle [data-fetch]")
	b.at("Shingle")
	require.Contains(t, b.text("#work"), "3 pieces inside")
	require.Contains(t, b.text("#work"), "~/.local/share/icons")
	require.Equal(t, start, b.snapshot(), "looking inside touches nothing")

	b.click("#piece-2") // leave Heather out
	b.click("[data-main]")
	b.at("Shelf")
	b.installed("Shingle")
	b.installed("Shingle-Coral")
	require.NoDirExists(t, b.home(".local/share/icons/Shingle-Heather"))
	require.Equal(t, settings, b.settings(), "installing changes no setting")

	b.click("#pack-Shingle [data-choose]")
	b.at("Compose")
	b.until(`!document.querySelector("#strip").hidden`)
	require.Contains(t, b.text("#strip"), "5 files")
	draft := b.picture()
	folder := base64.StdEncoding.EncodeToString([]byte(b.file(".local/share/icons/Shingle/48x48/places/folder-documents.png")))
	require.True(t, strings.Contains(draft, folder), "the picture shows the pack's own file")
	b.keep("compose")
	b.click(`[data-look-is="worn"]`)
	require.False(t, strings.Contains(b.picture(), folder), "worn is pictured without it")
	b.click("#pick-Shingle-Coral")
	b.until(`document.querySelector("#pick-Shingle-Coral").ariaChecked === "true"`)
	require.False(t, draft == b.picture(), "another choice, another picture")
	b.click("#pick-Shingle")
	b.until(`document.querySelector("#pick-Shingle").ariaChecked === "true"`)
	require.True(t, draft == b.picture(), "the same choice, the same picture")
	require.Equal(t, settings, b.settings(), "composing changes no setting")

	b.click(`[data-key="r"]`)
	b.at("Review")
	require.Contains(t, b.text("#work"), "gtk-icon-theme-name = Shingle")
	require.Equal(t, settings, b.settings(), "reviewing changes no setting")
	require.Contains(t, b.text("#work"), "let Programs in Coracle look into ~/.local/share/icons/Shingle, where Shingle lies")
	b.is(`[...document.querySelectorAll(".op")].find(o => o.innerText.includes("grants.conf")).querySelector("[data-open]").id = "no-grant"`)
	b.click("#no-grant")
	b.until(`document.querySelector(".op-out")`)
	b.click("[data-main]")
	b.at("Match")
	b.dressed(settings, "Shingle")
	require.Equal(t, []string{"gtk2 follows", "gtk3 follows", "gtk4 follows", "qt follows", "coracle not-found", "quayside pending"}, b.states())
	b.click(`button[name="surface"][value="quayside"]`)
	b.until(`document.querySelectorAll(".station.is-follows").length === 5`)
	require.Contains(t, b.text("#work"), "1 cell not there yet")
	b.open("/d/avocet/why/coracle/icons")
	b.at("Icons")
	require.Contains(t, b.text(".verdict-box"), "is a link that leads out of it")
	b.keep("why")
	b.open("/d/avocet/match")
	require.Equal(t, "grant-missing", value[string](b, `document.querySelector(".station[data-surface=coracle] [data-code]").dataset.code`), "what a link leads out to is not seen there")

	b.click(`[data-go-key="h"]`)
	b.at("History")
	b.keep("history")
	b.click(".past li:nth-child(1) [data-open]")
	b.at("Go back")
	b.click("[data-main]")
	b.until(`document.querySelectorAll(".past li.undone").length === 1`)
	require.Equal(t, settings, b.settings(), "back byte for byte")
	b.click(".past > li:nth-child(3) [data-open]")
	b.at("Go back")
	b.click("[data-main]")
	b.until(`document.querySelectorAll(".past li.undone").length === 2`)
	require.Equal(t, start, b.snapshot(), "the home is as it was at the start, times and modes included")
	require.Contains(t, b.text(".head"), "as it was found")
}

func TestStoryByKeyboard(t *testing.T) {
	b := newStage(t).browse()
	start, settings := b.snapshot(), b.settings()

	b.open("/d/avocet/history")
	b.at("History")
	b.leads("Find", "g", "f")
	b.press("s")
	b.press("wra")
	b.until(`document.querySelectorAll("#wall .tag").length === 1`)
	b.until(`new URLSearchParams(location.search).get("q") === "wra"`)
	b.press(kb.Escape)
	b.walk(kb.ArrowRight, `el.id === "entry-wrack"`)
	b.press(kb.Enter)
	b.until(`document.querySelector("#closer").open && document.activeElement.matches("#closer [data-fetch]")`)
	require.Contains(t, b.text("#closer"), "made to go with Shingle, which is not on this desk")
	b.leads("Wrack", kb.Enter)
	require.Contains(t, b.text("#work"), "needs icon pack Shingle, not on this desk; a market has it")
	b.leads("Shelf", "a")
	b.installed("Wrack")

	b.walk(kb.ArrowRight, `el.id === "pack-Wrack"`)
	b.leads("Compose", " ")
	b.until(`!document.querySelector("#strip").hidden`)
	draft := b.picture()
	b.press("[")
	require.False(t, draft == b.picture(), "worn is another picture")
	b.press("]")
	require.True(t, draft == b.picture(), "the same choice, the same picture")
	b.walk(kb.ArrowDown, `el.id === "pick-Marram"`)
	b.press(" ")
	b.until(`document.querySelector("#pick-Marram").ariaChecked === "true"`)
	require.True(t, b.is(`document.activeElement.id === "pick-Marram"`), "the focus stays in the list")
	b.walk(kb.ArrowDown, `el.id === "pick-Wrack"`)
	b.press(kb.Enter)
	b.until(`document.querySelector("#pick-Wrack").ariaChecked === "true"`)
	require.Equal(t, settings, b.settings())

	b.leads("Review", "r")
	b.leads("Match", "a")
	b.dressed(settings, "Wrack")
	b.walk(kb.Tab, `el.name === "surface"`)
	b.press(kb.Enter)
	b.until(`document.querySelectorAll(".station.is-follows").length === 6`)
	require.Contains(t, b.file(".config/coracle/grants.conf"), "read=~/.themes;~/.icons;~/.local/share/icons/Wrack\n")

	b.press("?")
	b.until(`document.querySelector("#keys").open`)
	b.press(kb.Escape)
	b.press("/")
	b.press("hist")
	b.until(`document.querySelectorAll("[data-go-item]").length === 1`)
	b.leads("History", kb.Enter)
	b.press(kb.ArrowDown)
	b.leads("Go back", kb.Enter)
	b.leads("History", "a")
	b.until(`document.querySelectorAll(".past li.undone").length === 1`)
	require.Equal(t, settings, b.settings())
	b.walk(kb.ArrowDown, `el.closest("li")?.innerText.startsWith("Install Wrack")`)
	b.leads("Go back", kb.Enter)
	b.leads("History", "a")
	b.until(`document.querySelectorAll(".past li.undone").length === 2`)
	require.Equal(t, start, b.snapshot())
}

func TestFetchShowsProgressAndCanBeCancelled(t *testing.T) {
	b := newStage(t).browse()
	b.market.StallAfter(700_000)
	b.open("/d/avocet/find")
	b.click("#entry-shingle [data-fetch]")
	b.until(`document.querySelector("#job progress")?.value > 0`)
	require.Contains(t, b.text("#job"), "of 2.3 MB")
	b.click("#job [data-cancel]")
	b.until(`document.querySelector("#job").innerText.includes("Nothing was left behind")`)
	left, err := os.ReadDir(filepath.Join(b.dir, "data/parcels"))
	require.NoError(t, err)
	require.Empty(t, left)
}

// TestPagesAreAccessible asks axe-core (npm) about every page, light and dark.
func TestPagesAreAccessible(t *testing.T) {
	b := newStage(t).browse()
	axe, err := os.ReadFile("testdata/axe.min.js")
	require.NoError(t, err)
	b.open("/d/avocet/find")
	b.click("#entry-wrack [data-fetch]")
	b.at("Wrack")
	parcel := value[string](b, `location.pathname`)
	b.open("/d/avocet/find?kind=bundle")
	b.click("#entry-reedbed-shore [data-fetch]")
	b.at("Reedbed")
	b.click("[data-bundle] button[name=piece]")
	b.until(`document.querySelector(".bundle-facets") && document.readyState === "complete"`)
	bundle := value[string](b, `location.pathname + location.search`)
	b.open(parcel)
	b.at("Wrack")
	b.leads("Shelf", "a")
	b.click("#pack-Wrack [data-choose]")
	b.at("Compose")
	for facet, piece := range map[string]string{"icons": "Glasswort", "palette": "ebb", "bar": "Saltpan", "accent": "#204060"} {
		b.visit().post("/d/dunlin/draft", url.Values{"facet": {facet}, "piece": {piece}})
	}
	for _, path := range []string{"/d/avocet/find", parcel, "/d/avocet/shelf", "/d/avocet/compose", "/d/avocet/looks", "/d/avocet/review", "/d/avocet/match", "/d/avocet/history", "/d/avocet/back/1", "/d/avocet/let-go/1", "/d/avocet/nowhere", "/d/dunlin/match", "/d/dunlin/why/creel/icons", "/d/dunlin/login/tollgate", "/d/dunlin/sandbox/coracle", "/d/dunlin/terminal/bittern", "/d/dunlin/sheet", "/d/dunlin/judge", "/d/avocet/judge", "/d/avocet/complete", bundle} {
		for _, shade := range []string{"light", "dark"} {
			b.open(path)
			b.is(`document.documentElement.dataset.theme = "` + shade + `"`)
			_, err := evaluate[chromedp.Void](b, string(axe)+"; undefined")
			require.NoError(t, err)
			found := value[[]string](b, `axe.run({runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]}).then(r =>
				r.violations.flatMap(v => v.nodes.map(n => v.id + ": " + n.target.join(" ") + " " + n.failureSummary)))`)
			require.Empty(t, found, "%s in %s", path, shade)
			require.True(t, b.is(`document.documentElement.scrollWidth <= innerWidth`), "%s scrolls sideways", path)
		}
	}
}

// TestStoryOfAKit brings a parcel in by the file button: three variants of a
// theme, an icon pack, pointers and a backdrop; installs two, removes one.
func TestStoryOfAKit(t *testing.T) {
	b := newStage(t).browse()
	start := b.snapshot()
	b.open("/d/avocet/find")
	b.at("Find")
	require.Contains(t, b.text(".here"), "reedbed-kit-0.4.zip", "it lies in the download folder")
	b.do(chromedp.SetUploadFiles(chromedp.CSS("#bring-file"), []string{b.home("Downloads/reedbed-kit-0.4.zip")}))
	b.at("reedbed-kit")
	page := b.text("#work")
	require.Contains(t, page, "6 pieces inside")
	require.Contains(t, page, "window theme, dark, compact")
	require.True(t, b.is(`[...document.images].every(i => i.complete && i.naturalWidth > 0)`), "every piece has its picture")
	b.keep("parcel")
	b.is(`document.querySelectorAll(".piece details").forEach(d => d.open = true)`)
	require.Contains(t, b.text("#work"), "Seen by GTK 2 programs, GTK 3 programs, GTK 4 programs, Programs in Coracle, Quayside. Not seen by Lantern")
	require.Contains(t, b.text("#work"), "Seen by The display's pointer")
	for _, piece := range []string{"#piece-0", "#piece-2", "#piece-3", "#piece-5"} {
		b.is(`document.querySelector("` + piece + `").scrollIntoView({block: "center"})`)
		b.click(piece)
	}
	b.click("[data-main]") // the dark theme and the pointers
	b.at("Shelf")
	require.FileExists(t, b.home(".themes/Reedbed-Dark/gtk-3.0/gtk.css"))
	require.FileExists(t, b.home(".icons/Sandpiper/cursors/left_ptr"))
	require.Contains(t, b.text("#work"), "seen by GTK 2 programs, GTK 3 programs, GTK 4 programs, Programs in Coracle, Quayside")
	for _, left := range []string{".themes/Reedbed", ".themes/Reedbed-Dark-Compact", ".local/share/icons/Reedmace", ".local/share/backgrounds"} {
		require.NoDirExists(t, b.home(left), "not marked, not installed")
	}
	require.Contains(t, b.text(".rows"), "seen by The display's pointer")
	b.keep("shelf")

	b.click(`[name="path"][value$="Sandpiper"]`)
	b.until(`!document.querySelector("#work").innerText.includes("Sandpiper")`)
	require.NoDirExists(t, b.home(".icons/Sandpiper"))
	require.FileExists(t, b.home(".themes/Reedbed-Dark/gtk-3.0/gtk.css"))

	b.click(`[data-go-key="h"]`)
	b.at("History")
	b.click(".past > li:nth-child(1) [data-open]")
	b.at("Go back")
	b.click("[data-main]")
	b.until(`document.querySelectorAll(".past li.undone").length === 1`)
	require.FileExists(t, b.home(".icons/Sandpiper/cursors/left_ptr"), "the removal is gone back on")
	b.click(".past > li:nth-child(3) [data-open]")
	b.at("Go back")
	b.click("[data-main]")
	b.until(`document.querySelectorAll(".past li.undone").length === 2`)
	require.Equal(t, start, b.snapshot())
}

// TestStoryOfAWholeLook fetches a theme and pointers from two makers, puts both
// on the draft, sees the picture follow, applies, and reads the same again.
func TestStoryOfAWholeLook(t *testing.T) {
	b := newStage(t).browse()
	before := b.settings()
	b.open("/d/avocet/find")
	b.at("Find")
	for _, key := range []string{"groyne", "limpet"} {
		b.open("/d/avocet/find/1/" + key)
		b.click("[data-fetch]")
		b.until(`location.pathname.includes("/parcel/") && document.readyState === "complete"`)
		b.leads("Shelf", "a")
	}
	b.open("/d/avocet/compose")
	b.at("Compose")
	b.click(`[data-scene-is="controls"]`)
	worn := b.picture()
	require.Contains(t, b.text("#picks"), "worn by GTK 2 programs, GTK 3 programs, GTK 4 programs", "Saltpan")

	// By keyboard: from one list on to the next.
	b.walk(kb.ArrowDown, `el.id === "widgets-Groyne"`)
	b.press(" ")
	b.until(`document.querySelector("#widgets-Groyne").ariaChecked === "true"`)
	groyne := b.picture()
	require.True(t, strings.Contains(groyne, "rgba(43,42,45,1)") && !strings.Contains(worn, "rgba(43,42,45,1)"), "its ground")
	pointers := strings.Count(groyne, "data:image/png")
	b.walk(kb.ArrowDown, `el.id === "pointer-Limpet"`)
	b.press(" ")
	b.until(`document.querySelector("#pointer-Limpet").ariaChecked === "true"`)
	require.Greater(t, strings.Count(b.picture(), "data:image/png"), pointers, "pointers lie over the controls")
	b.click(`[data-picture-png="2"]`)
	b.until(`document.querySelector("[data-picture]").dataset.png?.startsWith("2560x1600 ")`)

	b.leads("Review", "r")
	require.Contains(t, b.text("#work"), "gtk-cursor-theme-name")
	b.leads("Match", "a")
	require.True(t, b.is(`[...document.querySelectorAll(".station[data-facet=widgets], .station[data-facet=pointer]")].every(s => s.dataset.state === "follows")`))
	require.Contains(t, b.file(gtk3File), "gtk-theme-name=Groyne")
	require.Contains(t, b.file(".icons/default/index.theme"), "Inherits=Limpet")
	b.open("/d/avocet/compose")
	b.at("Compose")
	b.click(`[data-scene-is="controls"]`)
	require.True(t, strings.Contains(b.picture(), "rgba(43,42,45,1)"), "what is read again is what was pictured")
	b.leads("History", "g", "h")
	b.press(kb.ArrowDown)
	b.leads("Go back", kb.Enter)
	b.leads("History", "a")
	b.until(`document.querySelectorAll(".past li.undone").length === 1`)
	require.Equal(t, before, b.settings(), "back byte for byte")
}

// TestStoryOfChoosing tries things on: undoes, puts looks by, holds them
// against each other, and takes one.
func TestStoryOfChoosing(t *testing.T) {
	b := newStage(t).browse()
	b.open("/d/avocet/compose")
	b.at("Compose")
	b.click("#pick-Marram")
	b.until(`document.querySelector("#pick-Marram").ariaChecked === "true"`)
	marram := b.picture()
	b.idle()
	b.press("k")
	b.until(`document.querySelectorAll(".looks-strip li").length === 1`)
	b.click("#pick-Foreshore")
	b.until(`document.querySelector("#pick-Foreshore").ariaChecked === "true"`)
	b.idle()
	b.press("k")
	b.until(`document.querySelectorAll(".looks-strip li").length === 2`)
	b.idle()
	b.press("u")
	b.until(`document.querySelector("#pick-Marram").ariaChecked === "true"`)
	require.True(t, marram == b.picture(), "undone")
	b.idle()
	b.press("U")
	b.until(`document.querySelector("#pick-Foreshore").ariaChecked === "true"`)
	b.click("#look-1 [name=do][value=copy]")
	b.until(`document.querySelectorAll(".looks-strip li").length === 3`)
	b.click("#look-1 .look-picture")
	b.until(`document.querySelector("#pick-Marram").ariaChecked === "true"`)

	b.open("/d/avocet/looks")
	b.at("Compare looks")
	b.until(`document.querySelectorAll(".looks figure").length === 4`)
	require.Contains(t, b.text("#work"), "has Marram for its icons")
	b.until(`[...document.querySelectorAll(".looks img")].every(i => i.complete && i.naturalWidth > 0)`)
	b.open("/d/avocet/looks?of=1&of=2&wipe=1&scene=close")
	b.at("Compare looks")
	require.Equal(t, 2, value[int](b, `document.querySelectorAll(".wipe img").length`))
	b.is(`document.querySelector("[data-wipe] input").focus()`)
	b.press(kb.ArrowRight)
	b.until(`document.querySelector("[data-wipe]").style.getPropertyValue("--cut") === "51%"`)
	b.open("/d/avocet/compose")
	b.at("Compose")
	b.click("#look-3 [name=do][value=drop]:not(.visually-hidden)")
	b.until(`document.querySelectorAll(".looks-strip li").length === 2`)
}

// TestStoryOfTryingOn tries on a theme, icons, pointers and a font from three
// makers, by mouse and by keyboard, with nothing put in place; holds four looks
// against each other, flips, takes one and applies it. What is worn then is the
// picture that was seen before.
func TestStoryOfTryingOn(t *testing.T) {
	b := newStage(t).browse()
	before := b.snapshot()
	b.open("/d/avocet/find")
	b.until(`document.querySelectorAll(".tag").length > 8`) // the market is read
	b.open("/d/avocet/compose")
	b.at("Compose")
	worn := b.picture()

	// By mouse: Tobias Anker's theme, Maud Pell's icons.
	b.click(`[data-offer="widgets"] summary`)
	b.click("#try-groyne")
	b.until(`document.querySelector("#widgets-Groyne")?.ariaChecked === "true"`)
	groyne := b.picture()
	require.True(t, strings.Contains(groyne, "rgba(43,42,45,1)") && !strings.Contains(worn, "rgba(43,42,45,1)"), "its ground")
	require.Contains(t, b.text("#picks"), "tried on: not in place yet")
	b.click(`[data-offer="icons"] summary`)
	b.click("#try-shingle")
	b.until(`document.querySelector("#icons-Shingle")?.ariaChecked === "true"`)
	shingle := b.picture()
	require.True(t, shingle != groyne)

	// By keyboard: Hanne Riet's pointers, Maud Pell's font.
	for _, key := range []string{"sandpiper", "estuary-mono"} {
		b.open("/d/avocet/find/1/" + key)
		b.until(`document.querySelector("[data-try]") !== null`)
		b.leads("Compose", "y")
	}
	b.until(`document.querySelector("#draft").innerText.includes("Sandpiper") && document.querySelector("#draft").innerText.includes("Estuary Mono 10.5")`)
	require.Equal(t, before, b.snapshot(), "nothing of the desk was touched")
	b.idle()
	b.press("k")
	b.until(`document.querySelectorAll(".looks-strip li").length === 1`)
	b.walk(kb.ArrowDown, `el.id === "widgets-Saltpan"`)
	b.press(" ")
	b.until(`document.querySelector("#widgets-Saltpan").ariaChecked === "true"`)
	require.True(t, strings.Contains(b.picture(), "rgba(247,248,248,1)"), "Saltpan's ground; the bar stays Groyne's")
	b.idle()
	b.click("#fine-dark-dark")
	b.until(`document.querySelector("#fine-dark-dark").ariaChecked === "true"`)
	b.idle()
	b.press("k")
	b.until(`document.querySelectorAll(".looks-strip li").length === 2`)
	b.click("#fine-accent-rust")
	b.until(`document.querySelector("#fine-accent-rust").checked && document.querySelector("#draft").innerText.includes("rust")`)
	b.keep("compose")

	// Four side by side, and one key to flip.
	b.open("/d/avocet/looks")
	b.at("Compare looks")
	b.until(`document.querySelectorAll(".looks figure").length === 4 && [...document.querySelectorAll(".looks img")].every(i => i.complete && i.naturalWidth > 0)`)
	require.Contains(t, b.text("#work"), "has Groyne for its windows")
	b.keep("looks")
	b.press("v")
	require.Equal(t, []string{"Worn now"}, value[[]string](b, `[...document.querySelectorAll(".looks figure")].filter(f => f.offsetParent).map(f => f.innerText.trim())`))
	b.press("v")
	require.Equal(t, []string{"The draft"}, value[[]string](b, `[...document.querySelectorAll(".looks figure")].filter(f => f.offsetParent).map(f => f.innerText.trim())`))
	b.press(kb.Escape)

	// The first look is taken, reviewed and applied.
	b.open("/d/avocet/compose")
	b.at("Compose")
	b.click("#look-1 .look-picture")
	b.until(`document.querySelector("#widgets-Groyne").ariaChecked === "true"`)
	b.idle()
	wanted := b.picture()
	b.leads("Review", "r")
	require.Contains(t, b.text("#work"), "~/.themes/Groyne")
	b.leads("Match", "a")
	require.FileExists(t, b.home(".icons/Sandpiper/cursors/default"))
	require.FileExists(t, b.home(".local/share/fonts/EstuaryMono/EstuaryMono-Regular.ttf"))
	b.click(`.trouble button[name="surface"][value="quayside"]`)
	b.until(`document.querySelectorAll(".weave .station[data-state=follows]").length > 8 && !document.querySelector(".station[data-state=pending]")`)
	require.Empty(t, value[[]string](b, `[...document.querySelectorAll(".weave .station")].filter(s => s.dataset.state !== "follows" && s.dataset.state !== "unasked").map(s => s.dataset.surface + " " + s.dataset.facet + " " + s.dataset.state)`), "every reading is as wanted")
	b.open("/d/avocet/compose")
	b.at("Compose")
	require.Contains(t, b.text("#widgets-Groyne"), "worn by GTK 2 programs, GTK 3 programs, GTK 4 programs")
	b.click("#away-icons-Shingle-Coral")
	b.until(`!document.querySelector("#icons-Shingle-Coral") && document.querySelector("#pick-Shingle")`)
	require.True(t, wanted == b.picture(), "the picture before is what is worn")
	b.leads("History", "g", "h")
	b.press(kb.ArrowDown)
	b.leads("Go back", kb.Enter)
	b.leads("History", "a")
	b.until(`document.querySelectorAll(".past li.undone").length === 1`)
	require.Equal(t, before, b.snapshot(), "back byte for byte, the pieces too")
}
