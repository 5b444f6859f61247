package web_test

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"ivelt/app/library"
	"ivelt/app/markets"
	"ivelt/core/desk"
	"ivelt/core/market"
	"ivelt/core/place"
	"ivelt/standin"
	"ivelt/web/browsertest"
)

// TestStoryOfFinding looks for a dark theme with icons and pointers to match,
// by taste and by word, as a person does who reads before each step, and
// brings all three in. The pauses count, and are not waited for: it has to be done in two minutes.
func TestStoryOfFinding(t *testing.T) {
	b := newStage(t).browsePainted()
	begun := time.Now()
	var read time.Duration
	pause := func(d time.Duration) { read += d }
	b.Open("/d/avocet/find")
	b.At("Find")
	pause(2 * time.Second)

	// By taste: dusk, and then only window themes.
	b.Do(chromedp.SetValue(chromedp.CSS("select[name=mood]"), "dusk"))
	b.Is(`document.querySelector("select[name=mood]").dispatchEvent(new Event("change", {bubbles: true}))`)
	b.Until(`document.querySelector("#found").innerText.includes("the nearest first")`)
	pause(time.Second)
	b.Click(`.kinds a[href*="kind=theme"]`)
	b.Until(`document.querySelector("#wall .tag:first-child")?.id === "entry-groyne"`)
	require.Contains(t, b.Text("#entry-groyne"), "as dark, a similar orange")
	require.Equal(t, "dusk", browsertest.Value[string](b.Browser, `new URLSearchParams(location.search).get("mood")`), "the address can be kept")
	pause(2 * time.Second)

	// Closer: what it dresses here, what it goes with.
	b.Walk(kb.ArrowRight, `el.id === "entry-groyne"`)
	b.Press(kb.Enter)
	b.Until(`document.querySelector("#closer").open`)
	closer := b.Text("#closer")
	for _, says := range []string{"GTK 2 programs: works here, from its folder gtk-2.0", "Quayside, the bar: works here, from its folder quayside", "made to go with Limpet, which is not on this desk", "of the same family, Undertow"} {
		require.Contains(t, closer, says)
	}
	b.Until(`[...document.querySelectorAll("#closer img")].every(i => i.complete && i.naturalWidth > 0)`)
	pause(3 * time.Second)
	b.Click("#closer [data-fetch]")
	b.At("Groyne")
	pause(2 * time.Second)
	b.Leads("Shelf", "a")
	require.FileExists(t, b.home(".themes/Groyne/gtk-4.0/gtk.css"))

	// By word, with a slip: its icons; and what the theme names: its pointers.
	b.Leads("Find", "g", "f")
	b.Press("s")
	b.Press("wrakc")
	b.Until(`document.querySelector("#found").innerText.includes("“wrack”")`)
	b.Idle()
	pause(time.Second)
	b.Click("#entry-wrack [data-fetch]")
	b.At("Wrack")
	pause(time.Second)
	b.Leads("Shelf", "a")
	b.Open("/d/avocet/find/1/groyne")
	b.Until(`document.querySelector(".closer")?.innerText.includes("made to go with Wrack, installed in ~/.local/share/icons/Wrack")`)
	b.Open("/d/avocet/find/1/limpet")
	pause(time.Second)
	b.Click("[data-fetch]")
	b.Until(`location.pathname.includes("/parcel/") && document.readyState === "complete"`)
	require.Contains(t, b.Text("#work"), "of the common shapes are missing")
	pause(time.Second)
	b.Leads("Shelf", "a")
	require.FileExists(t, b.home(".icons/Limpet/cursors/default"))
	b.Walk(kb.ArrowRight, `el.id === "icons-Wrack"`)
	b.Press(" ")
	b.At("Compose")
	took := time.Since(begun) + read
	require.Less(t, took, 2*time.Minute)
	t.Logf("found, fetched and put in place in %s, pauses counted", took.Round(time.Second))
}

// TestLikeAPicture gives a picture and an entry to find what is like them.
func TestLikeAPicture(t *testing.T) {
	v := newStage(t).visit()
	v.get("/d/avocet/find")
	picture, err := os.ReadFile(filepath.Join(v.world.Avocet.Home, "Downloads/reedbed-kit-0.4.zip"))
	require.NoError(t, err)
	page, _ := v.send("/d/avocet/taste", "picture", "x.png", picture)
	require.Contains(t, page, "cannot be read as a picture")
	page, at := v.send("/d/avocet/taste", "picture", "dusk.png", v.picture(0x20, 0x1c, 0x1a, 0xe0, 0x98, 0x40))
	require.Contains(t, at, "looks=")
	require.Contains(t, page, "like the picture")
	require.Regexp(t, `(?s)id="wall".*?id="entry-groyne"`, page)
	page, status := v.get("/d/avocet/find?like=1/sandpiper&kind=pointer")
	require.Equal(t, http.StatusOK, status)
	require.Contains(t, page, "like Sandpiper")
	for _, bad := range []string{"like=1/none", "like=1/estuary-sans", "looks=x", "mood=none"} {
		page, status = v.get("/d/avocet/find?" + bad)
		require.Equal(t, http.StatusBadRequest, status, bad)
		require.Contains(t, page, "banner-rust", bad)
	}
	page, status = v.get("/d/avocet/find?from=-4&hue=purple&kind=hats&sort=sideways&dresses=all")
	require.Equal(t, http.StatusOK, status)
	require.Contains(t, page, "Nothing found")
}

// picture is a PNG of two colours, a fifth of it the second.
func (v *visitor) picture(r, g, b, r2, g2, b2 uint8) []byte {
	v.t.Helper()
	im := image.NewRGBA(image.Rect(0, 0, 100, 100))
	for i := range 100 * 100 {
		c := color.RGBA{r, g, b, 255}
		if i%5 == 0 {
			c = color.RGBA{r2, g2, b2, 255}
		}
		im.Set(i%100, i/100, c)
	}
	var out bytes.Buffer
	require.NoError(v.t, png.Encode(&out, im))
	return out.Bytes()
}

// TestWhatIsSaidBeforeFetching: the risk, the other version, the password.
func TestWhatIsSaidBeforeFetching(t *testing.T) {
	v := newStage(t).visit()
	page, _ := v.get("/d/avocet/find/0/saltpan-glass")
	for _, says := range []string{"its maker says it may crash programs", "Buggy: may take the shell down with it.", "was made for Quayside 2, and this desk has 3", "differs: see-through, dark"} {
		require.Contains(t, page, says)
	}
	page, _ = v.get("/d/avocet/find/0/cockle-nightly")
	require.Contains(t, page, "built anew each night")
	page, _ = v.get("/d/avocet/find/0/cockle")
	require.Contains(t, page, "also a package")
	page, _ = v.get("/d/avocet/find/0/lamplight")
	require.Contains(t, page, "once it is installed for everyone")
	page, _ = v.get("/d/avocet/find/0/reedbed")
	require.Contains(t, page, "Fetch it with Reedmace and Sandpiper")
	_, at := v.post("/d/avocet/fetch", url.Values{"market": {"1"}, "entry": {"reedbed"}, "with": {"reedmace", "sandpiper"}})
	require.Contains(t, at, "/d/avocet/came")
	rows, err := v.app.Library.Parcels()
	require.NoError(t, err)
	require.Len(t, rows, 3, "in the same go")
	page, _ = v.get("/d/avocet/find?fits=1&kind=theme")
	require.Contains(t, page, "entry-groyne")
	require.NotContains(t, page, "entry-saltpan-glass", "made for another Quayside")
	page, at = v.fetch("whelk")
	require.Contains(t, at, "/parcel/", "the password its page prints is tried")
	require.Contains(t, page, "Whelk")
	_, status := v.get("/d/avocet/find/0/none")
	require.Equal(t, http.StatusNotFound, status)

	// It stays with the piece to the last button, put in place or not.
	page, _ = v.fetch("saltpan-glass")
	const careful = "its maker says it may crash programs: “Buggy: may take the shell down with it”."
	require.Contains(t, page, "Careful: "+careful)
	rows, err = v.app.Library.Parcels()
	require.NoError(t, err)
	contents, err := library.Contents(rows[0])
	require.NoError(t, err)
	d, err := v.app.Desk("avocet")
	require.NoError(t, err)
	glass := contents.Pieces[0]
	job, err := v.app.Pieces.Install(d, rows[0].SHA256, []string{library.PieceKey(glass)}, library.How{Scope: place.Mine}, "")
	require.NoError(t, err)
	require.NoError(t, job.Wait())
	_, err = v.app.Drafts.Choose(d, desk.FacetWidgets, glass.Folder)
	require.NoError(t, err)
	page, _ = v.get("/d/avocet/compose")
	require.Contains(t, page, "<b>Careful.</b> Saltpan Glass: "+careful)
	page, _ = v.get("/d/avocet/review")
	require.Contains(t, page, `id="warned"`)
	require.Contains(t, page, "<b>Careful.</b> Saltpan Glass: "+careful)
	_, err = v.app.Drafts.Choose(d, desk.FacetWidgets, "Saltpan")
	require.NoError(t, err)
	page, _ = v.get("/d/avocet/review")
	require.NotContains(t, page, "Careful")
}

// TestEachTroubleIsSaid turns on Strandline's switches one by one.
func TestEachTroubleIsSaid(t *testing.T) {
	v := newStage(t).visit()
	v.get("/d/avocet/find")
	for trouble, says := range map[string]string{"down": "503", "wrong": "The checksum is not the one the market gives", "gone": "Open http://"} {
		v.market.Switch(trouble, true)
		page, at := v.fetch("glasswort")
		require.NotContains(t, at, "/parcel/", trouble)
		require.Contains(t, page, says, trouble)
		v.market.Switch(trouble, false)
		v.nothingLeft()
	}
	for _, trouble := range []string{"cut", "moved", "whole"} {
		v.market.Switch(trouble, true)
		_, at := v.fetch("whelk")
		require.Contains(t, at, "/parcel/", trouble)
		v.market.Switch(trouble, false)
	}
	require.Len(t, standin.Troubles, 7)
}

func TestMarketsPage(t *testing.T) {
	v := newStage(t).visit()
	v.get("/d/avocet/find")
	hand := t.TempDir()
	require.NoError(t, os.CopyFS(hand, os.DirFS(v.world.Market)))
	page, _ := v.get("/d/avocet/markets")
	require.Contains(t, page, "Strandline")
	page, _ = v.post("/d/avocet/markets", url.Values{"do": {"add"}, "base": {"shore"}})
	require.Contains(t, page, "neither an address")
	page, _ = v.post("/d/avocet/markets", url.Values{"do": {"add"}, "base": {hand}})
	require.Contains(t, page, hand)
	page, _ = v.get("/d/avocet/find?q=wrack")
	require.Contains(t, page, "Icons <span class=\"quiet\">2</span>", "one of each market")
	rows, err := v.app.Markets.List()
	require.NoError(t, err)
	v.post("/d/avocet/markets", url.Values{"do": {"drop"}, "market": {fmt.Sprint(rows[1].ID)}})
	page, _ = v.post("/d/avocet/markets", url.Values{"do": {"drop"}, "market": {fmt.Sprint(rows[0].ID)}})
	require.Contains(t, page, "turn it off instead")
	page, _ = v.post("/d/avocet/markets", url.Values{"do": {"off"}, "market": {fmt.Sprint(rows[0].ID)}})
	require.Contains(t, page, "off<")
	found, err := v.app.Markets.Search(t.Context(), markets.Query{})
	require.NoError(t, err)
	require.Zero(t, found.Total)
}

// TestShortlistAndCompare pins by key and by mouse, and compares.
func TestShortlistAndCompare(t *testing.T) {
	b := newStage(t).browse()
	b.Open("/d/avocet/find?kind=theme")
	b.At("Find")
	b.Walk(kb.ArrowRight, `el.id === "entry-groyne"`)
	b.Press("x")
	b.Until(`document.querySelector("#pins").innerText.includes("Groyne")`)
	b.Click(`#entry-saltpan [data-mark]`)
	b.Until(`document.querySelectorAll("#pins .pin-chip").length === 2`)
	b.Click("#pins a.act")
	b.At("Compare")
	b.Until(`[...document.querySelectorAll(".side-by-side img")].every(i => i.complete && i.naturalWidth > 0)`)
	text := b.Text(".side-by-side")
	for _, says := range []string{"Groyne", "Saltpan", "dark", "light", "orange", "blue", "10.9 : 1"} {
		require.Contains(t, text, says)
	}
	require.True(t, b.Is(`document.querySelectorAll(".unalike").length >= 8`), "what is not alike is marked")
	b.Click(`.side-by-side .act-plain`)
	b.At("Find")
	require.NotContains(t, b.Text("#pins"), "Groyne")
}

// TestANewerVersion puts an older one in place, sees what the newer brings, and
// updates and goes back through plans.
func TestANewerVersion(t *testing.T) {
	v := newStage(t).visit()
	start := v.snapshot()
	v.get("/d/avocet/find")
	_, at := v.post("/d/avocet/fetch", url.Values{"entry": {"limpet"}, "version": {"0.6"}})
	require.Contains(t, at, "/parcel/")
	v.post(at+"/install", url.Values{"piece": {"pointer Limpet Limpet"}, "scope": {"mine"}})
	require.NoFileExists(t, v.home(".icons/Limpet/cursors/move"))
	page, _ := v.get("/d/avocet/shelf")
	require.Contains(t, page, "0.7 is out, 0.6 is installed")
	require.Contains(t, page, `title="1 installed piece with a newer version">1 newer</a>`)
	page, _ = v.get("/d/avocet/shelf?only=newer")
	require.Equal(t, []string{"pointer-Limpet"}, ids(shelved, 1, page))
	page, at = v.post("/d/avocet/fetch", url.Values{"entry": {"limpet"}})
	require.Contains(t, page, "an older version is installed")
	require.Contains(t, page, "added: all-scroll, crossed_circle, fleur, forbidden, move and 3 more")
	require.Contains(t, page, `value="replace" checked`)
	v.post(at+"/install", url.Values{"piece": {"pointer Limpet Limpet"}, "scope": {"mine"}, "exists": {"replace"}})
	require.FileExists(t, v.home(".icons/Limpet/cursors/move"))
	page, _ = v.get("/d/avocet/shelf")
	require.NotContains(t, page, "is out")
	for range 2 {
		past, err := v.app.History.Entries(v.app.Desks()[0])
		require.NoError(t, err)
		for _, p := range past {
			if p.GoneOn == nil && !p.IsBack {
				v.post("/d/avocet/back", url.Values{"checkpoint": {fmt.Sprint(p.CheckpointRow.ID)}})
				break
			}
		}
	}
	require.Equal(t, start, v.snapshot())
}

// TestVariants: the closer view shows where their pictures differ, and several
// are fetched in one go.
func TestVariants(t *testing.T) {
	b := newStage(t).browsePainted()
	b.Open("/d/avocet/find")
	b.At("Find")
	b.Open("/d/avocet/find/1/reedbed")
	picked := `[...document.querySelectorAll(".variants [name=with]:checked")].map(c => c.value).join()`
	require.Equal(t, "reedbed", browsertest.Value[string](b.Browser, picked))
	over := `[...document.querySelectorAll(".less")].filter(i => getComputedStyle(i).display === "block").length`
	require.Zero(t, browsertest.Value[int](b.Browser, over))
	b.Click("[data-differs]")
	b.Until(over + ` > 0 && [...document.querySelectorAll(".over img")].every(i => i.complete && i.naturalWidth > 0)`)
	b.Click(".variants [name=with]:not(:checked)")
	require.Equal(t, "reedbed,reedbed-dark", browsertest.Value[string](b.Browser, picked))
	b.Click("[data-fetch-picked]")
	b.Until(`!location.pathname.includes("/find/") && document.readyState === "complete"`)
	rows, err := b.app.Library.Parcels()
	require.NoError(t, err)
	var names []string
	for _, r := range rows {
		names = append(names, r.Name)
	}
	require.Subset(t, names, []string{"Reedbed-0.4.tar.xz", "Reedbed-Dark-0.4.tar.xz"}, "%v", names)
	v := b.visit()
	v.get("/d/avocet/find")
	page, _ := v.post("/d/avocet/fetch", url.Values{"market": {"1"}})
	require.Contains(t, page, "Nothing was picked: tick what to fetch")
}

// TestABackdropOnTheDesksMonitors: each shows the picture that loses least.
func TestABackdropOnTheDesksMonitors(t *testing.T) {
	v := newStage(t).visit()
	v.get("/d/avocet/find")
	page, _ := v.get("/d/avocet/find/1/reeds-at-dawn")
	require.Contains(t, page, "DP-2, 2560 × 1080: 32 % cut off")
	require.Contains(t, page, "eDP-1, 1920 × 1200: all of it")
	require.NoError(t, os.WriteFile(filepath.Join(v.world.Avocet.System, "sys/class/drm/card0-DP-2/modes"), []byte("800x1280\n"), 0o644))
	page, _ = v.get("/d/avocet/find/1/reeds-at-dawn")
	require.Contains(t, page, "DP-2, 800 × 1280: all of it", "the tall one of the two")
	page, _ = v.get("/d/avocet/find/1/sandpiper")
	require.Contains(t, page, "at real size, on light and on dark")
	require.Contains(t, page, `also a package: <span class="mono">sandpiper-cursor-theme</span> 2.0-1`)
	page, _ = v.get("/d/avocet/find/1/postcards")
	require.Contains(t, page, "is not on")
}

// TestAMarketChangesHands: who signs a market is shown, another's signature is told and not
// read, and is taken by the person alone.
func TestAMarketChangesHands(t *testing.T) {
	b := newStage(t).browsePlain()
	dir := t.TempDir()
	publish := func(secret market.Secret, name string) {
		t.Helper()
		_, err := market.Publish(t.Context(), dir, "Salt Strand", "What the storm left.", func(yield func(market.Entry, error) bool) {
			yield(market.Entry{ID: "one", Kind: "icons", Name: name, Versions: []market.Version{{Version: "1", Date: "2026-01-01", File: "x", Size: 1, SHA256: strings.Repeat("0", 64)}}}, nil)
		}, &secret, time.Now())
		require.NoError(t, err)
	}
	first, err := market.NewSecret()
	require.NoError(t, err)
	other, err := market.NewSecret()
	require.NoError(t, err)
	publish(first, "Amberwort")
	b.Open("/d/avocet/markets")
	b.At("Markets")
	b.Do(chromedp.SetValue(chromedp.CSS("#market-base"), dir))
	b.Click(`button[value="add"]`)
	key, _ := first.Public()
	b.Until(`document.readyState === "complete" && document.querySelector("#work").innerText.includes("signed by ` + key.Short() + `")`)
	find := func(words string) int {
		t.Helper()
		require.NoError(t, b.app.Markets.Look().Wait())
		found, err := b.app.Markets.Search(t.Context(), markets.Query{Words: words, Exact: true})
		require.NoError(t, err)
		return found.Total
	}
	require.Equal(t, 1, find("amberwort"))
	publish(other, "Brackwort")
	require.Zero(t, find("brackwort"))
	require.Equal(t, 1, find("amberwort"))
	now, _ := other.Public()
	b.Open("/d/avocet/markets")
	b.At("Markets")
	says := b.Text("#work")
	require.Contains(t, says, "signed with another key, "+now.Short()+" and not "+key.Short())
	require.Contains(t, says, "Take the new key only if the people of Salt Strand say that they changed it.")
	b.Click("[data-key]")
	b.Until(`document.readyState === "complete" && document.querySelector("#work").innerText.includes("signed by ` + now.Short() + `") && !document.querySelector("[data-key]")`)
	require.Equal(t, 1, find("brackwort"))
}
