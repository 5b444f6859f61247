package web_test

import (
	"archive/zip"
	"bytes"
	"io/fs"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/gomono"
	"golang.org/x/image/font/gofont/goregular"

	"ivelt/core/judge"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/demo"
	"ivelt/web/browsertest"
)

// TestALookTravels takes a bundle without its layout, fills what it leaves open
// with what goes with it, mends what cannot be read, wears it, and brings it to
// another desk with its pieces, where one is missing and two cannot be followed.
func TestALookTravels(t *testing.T) {
	b := newStage(t).browsePlain()
	b.Open("/d/avocet/find?kind=bundle")
	b.At("Find")
	b.Click("#entry-reedbed-shore [data-fetch]")
	b.At("Reedbed, the whole shore")
	b.Click("[data-bundle] button[name=piece]")
	b.Until(`document.querySelector(".bundle-facets") && document.readyState === "complete"`)
	page := b.Text("#work")
	for _, says := range []string{"11 settings", "came with it", "shown by GTK 2 programs, GTK 3 programs, GTK 4 programs", "with its layout", "It says nothing about", "of the same family, Reedbed"} {
		require.Contains(t, page, says)
	}
	require.Equal(t, []string{"Backdrop", "Pointer", "Terminal palette", "Picture style", "Login screen"}, browsertest.Value[[]string](b.Browser, `[...document.querySelectorAll("#left-open h3")].map(h => h.innerText)`))
	b.Click("[data-all-of]")
	b.Click("[data-main]")
	b.At("Compose")
	require.Contains(t, b.Text("#draft"), "Reedmace")
	require.NotContains(t, b.Text("#draft"), "Bar height", "its layout is left behind")

	// What it leaves open, from what goes with it.
	suggested := func(facet, name string) {
		b.Group(facet)
		b.Is(`document.querySelector("[data-goes=` + facet + `]").scrollIntoView({block: "center"})`)
		b.Click("[data-goes=" + facet + "] summary")
		b.Until(`document.querySelector("[data-goes=` + facet + `] .offer-card")`)
		require.Contains(t, b.Text("[data-goes="+facet+"]"), name)
		b.Click(`[data-goes=` + facet + `] button[aria-label$="` + name + `"], [data-goes=` + facet + `] button[aria-label*="` + name + ` on"]`)
		b.Until(`document.readyState === "complete" && document.title.startsWith("Compose") && document.querySelector("#draft").innerText.includes("` + name + `")`)
	}
	suggested("backdrop", "red buoy")
	suggested("pointer", "Sandpiper")
	suggested("palette", "Spume")
	suggested("pictures", "Pebblework")

	// What cannot be read: each with a remedy that clears it.
	b.Open("/d/avocet/judge")
	b.At("Judge")
	over := `document.querySelector('.troubles:not(#other-shade *) [data-code="bar-over"]')`
	require.Contains(t, browsertest.Value[string](b.Browser, over+".innerText"), "over the worst tenth of the backdrop")
	require.True(t, b.Is(over+`.querySelector(".judged-mark")`), "it is marked in the picture")
	b.keep("judge")
	b.Click(`[data-code="bar-over"] .remedy button`)
	b.Until(`document.readyState === "complete" && document.title.startsWith("Judge") && document.querySelector("#judged") && !` + over)
	d, err := b.app.Desk("avocet")
	require.NoError(t, err)
	now, err := b.app.Judge.Of(t.Context(), d)
	require.NoError(t, err)
	require.False(t, slices.ContainsFunc(now, func(v judge.Verdict) bool { return v.Grave && v.Code != judge.TermColour }), "%v", now)

	b.Open("/d/avocet/compose")
	b.Leads("Review", "r")
	b.Leads("Match", "a")
	require.DirExists(t, b.home(".local/share/icons/Reedmace"))

	// The whole of it as one archive, and what does not go along.
	v := b.visit()
	archive, status := v.bytes("/d/avocet/outfit.zip")
	require.Equal(t, 200, status)
	z, err := zip.NewReader(bytes.NewReader(archive), int64(len(archive)))
	require.NoError(t, err)
	var tops []string
	for _, f := range z.File {
		if top := filepath.Dir(f.Name); !slices.Contains(tops, top) && filepath.Dir(top) != "." && filepath.Dir(filepath.Dir(top)) == "." {
			tops = append(tops, top)
		}
	}
	left, err := z.Open("LEFT-OUT.txt")
	require.NoError(t, err)
	var says bytes.Buffer
	_, err = says.ReadFrom(left)
	require.NoError(t, err)
	require.Contains(t, says.String(), "Terminal palette: Spume: its licence, LicenseRef-Own-Use, does not say that it may be passed on")
	for _, along := range []string{"Reedmace", "Reedbed", "Sandpiper", "Estuary"} {
		require.NotContains(t, says.String(), along)
	}

	// On the other desk.
	file := filepath.Join(t.TempDir(), "shore.zip")
	require.NoError(t, os.WriteFile(file, archive, 0o644))
	b.Open("/d/dunlin/find")
	b.At("Find")
	b.Do(chromedp.SetUploadFiles(chromedp.CSS("#bring-file"), []string{file}))
	b.At("shore")
	b.Click("[data-bundle] button[name=piece]")
	b.Until(`document.querySelector(".bundle-facets") && document.readyState === "complete"`)
	require.Contains(t, b.Text(`[data-facet="pictures"]`), "not possible on this desk")
	require.Contains(t, b.Text(`[data-facet="blur"]`), "not possible on this desk")
	require.Contains(t, b.Text(`[data-facet="session"]`), "not possible on this desk")
	require.Contains(t, b.Text(`[data-facet="frame"]`), "Withy can show it once it is installed")
	require.Contains(t, b.Text(`[data-facet="palette"]`), "the market has it")
	require.Contains(t, b.Text("#needs-first"), "Spume")
	b.Click("[data-main]")
	b.At("Compose")
	require.Contains(t, b.Text("#missing-pieces"), "Spume")
	to, err := b.app.Desk("dunlin")
	require.NoError(t, err)
	draft, err := b.app.Drafts.Draft(to)
	require.NoError(t, err)
	require.Equal(t, "Reedmace", draft.Want("icons"))
	require.NotEmpty(t, draft.Choices["icons"].Checksum)
	require.NoDirExists(t, filepath.Join(to.Home, ".local/share/icons/Reedmace"), "it is tried on only")
	b.Click("#missing-pieces button")
	b.Until(`document.readyState === "complete" && document.title.startsWith("Compose") && !document.querySelector("#missing-pieces")`)
	b.Open("/d/dunlin/match")
	b.At("Match")
	for n := 0; b.Is(`document.querySelector("[data-take-all]")`); n++ { // what was linked can be told then
		require.Less(t, n, 3, "it comes to an end")
		b.Press("A")
		b.Until(`!document.querySelector("[data-take-all]")`)
		b.comeToMatch()
	}
	b.Until(`document.querySelector("#next").innerText.includes("othing left to do")`)
	require.Empty(t, b.found())

	// As the command line would say of the file itself.
	raw, err := z.Open("outfit.toml")
	require.NoError(t, err)
	var text bytes.Buffer
	_, err = text.ReadFrom(raw)
	require.NoError(t, err)
	o, err := outfit.Parse(text.Bytes())
	require.NoError(t, err)
	o = o.With("backdrop", "") // it came along, and has its own place here
	for _, f := range match.Of(to.Desk, o).Findings() {
		require.Equal(t, "session", f.Facet, "%v", f) // Avocet's own, which Dunlin has not
	}
	require.Equal(t, "Reedmace", o.Want("icons"))
	require.FileExists(t, filepath.Join(b.world.Dunlin.Home, ".local/share/palettes/Spume/Spume.Xresources"))

	// Files that come at once are one parcel.
	loose := []string{filepath.Join(t.TempDir(), "regular.ttf"), filepath.Join(t.TempDir(), "mono.ttf")}
	for i, font := range [][]byte{goregular.TTF, gomono.TTF} {
		require.NoError(t, os.WriteFile(loose[i], font, 0o644))
	}
	b.Open("/d/dunlin/find")
	b.At("Find")
	b.Do(chromedp.SetUploadFiles(chromedp.CSS("#bring-file"), loose))
	b.At("regular and more")
	require.Contains(t, b.Text("main"), "Go Mono")
}

// TestThreeWholeLooks completes two fixed choices: three looks that keep both, are
// scored and explained, and differ from each other in more than one piece; then one
// of them is taken.
func TestThreeWholeLooks(t *testing.T) {
	b := newStage(t).browsePainted()
	b.Open("/d/avocet/complete")
	require.Contains(t, b.Text("#work"), "Choose one or two pieces first")
	for facet, piece := range map[string]string{"widgets": "Saltpan", "icons": "Foreshore"} {
		b.visit().post("/d/avocet/draft", url.Values{"facet": {facet}, "piece": {piece}})
	}
	d, err := b.app.Desk("avocet")
	require.NoError(t, err)
	all, err := b.app.Advice.Complete(t.Context(), d)
	require.NoError(t, err)
	require.Len(t, all, 3)
	for i, p := range all {
		require.Equal(t, "Saltpan", p.Outfit.Want("widgets"))
		require.Equal(t, "Foreshore", p.Outfit.Want("icons"))
		require.Greater(t, p.Score, 20)
		require.GreaterOrEqual(t, len(p.Picks), 5)
		for _, pick := range p.Picks {
			require.NotEmpty(t, pick.Why, pick.Name)
		}
		for _, q := range all[:i] {
			differ := 0
			for _, pick := range p.Picks {
				for _, other := range q.Picks {
					if other.Facet == pick.Facet && other.Name != pick.Name {
						differ++
					}
				}
			}
			require.GreaterOrEqual(t, differ, 2, "%s and %s", p.Title, q.Title)
		}
	}
	b.Open("/d/avocet/complete")
	b.At("Complete")
	b.Click(`button[value="picture"]`)
	b.Until(`document.readyState === "complete" && document.title.startsWith("Complete") && !document.querySelector('button[value="picture"]')`)
	b.Until(`[...document.images].every(i => i.complete && i.naturalWidth > 0)`)
	b.Until(`[...document.querySelectorAll("figcaption")].filter(f => /is readable|problem/.test(f.innerText)).length === 3`)
	require.Len(t, browsertest.Value[[]string](b.Browser, `[...document.querySelectorAll("[data-manner]")].map(p => p.dataset.manner)`), 3)
	b.Click(`[data-manner="against"] button[name=manner]`)
	b.At("Compose")
	draft, err := b.app.Drafts.Draft(d)
	require.NoError(t, err)
	require.Equal(t, "Saltpan", draft.Want("widgets"))
	require.NotEmpty(t, draft.Want("backdrop"))
	require.NotEmpty(t, draft.Want("pointer"))
}

// TestCroppedAndRecoloured: another part of a backdrop becomes a picture of its own
// on the draft; colours that can be read go into a sheet of the person's own.
func TestCroppedAndRecoloured(t *testing.T) {
	v := newStage(t).visit()
	halves := `<svg xmlns="http://www.w3.org/2000/svg" width="1600" height="1600" viewBox="0 0 1600 1600"><rect width="1600" height="1600" fill="#f8f8f0"/><rect width="1600" height="420" y="900" fill="#202428"/></svg>`
	require.NoError(t, os.MkdirAll(v.home(".local/share/backgrounds"), 0o755))
	require.NoError(t, os.WriteFile(v.home(".local/share/backgrounds/halves.svg"), []byte(halves), 0o644))
	for facet, piece := range map[string]string{"opacity": "15", "bar": "Saltpan", "dark": "dark", "backdrop": "/home/mara/.local/share/backgrounds/halves.svg"} {
		v.post("/d/avocet/draft", url.Values{"facet": {facet}, "piece": {piece}})
	}
	page, _ := v.get("/d/avocet/judge")
	require.Contains(t, page, "Part of the backdrop works")
	_, at := v.post("/d/avocet/judge", url.Values{"do": {"crop"}, "code": {"bar-over"}, "surface": {"quayside"}})
	require.Equal(t, "/d/avocet/judge", at)
	d, err := v.app.Desk("avocet")
	require.NoError(t, err)
	now, err := v.app.Judge.Of(t.Context(), d)
	require.NoError(t, err)
	require.False(t, slices.ContainsFunc(now, func(v judge.Verdict) bool { return v.Code == judge.BarOver }))
	draft, err := v.app.Drafts.Draft(d)
	require.NoError(t, err)
	require.Contains(t, draft.Want("backdrop"), "/backgrounds/")
	require.Contains(t, draft.Want("backdrop"), "halves-from-")

	v.post("/d/avocet/draft/drop", nil)
	page, _ = v.get("/d/avocet/judge")
	require.Contains(t, page, "your own style sheet")
	page, _ = v.post("/d/avocet/judge", url.Values{"do": {"sheet"}, "code": {"low-contrast"}, "surface": {"gtk3"}})
	require.Contains(t, page, "~/.config/gtk-3.0/gtk.css")
	page, _ = v.post("/d/avocet/judge", url.Values{"do": {"sheet"}, "code": {"low-contrast"}, "surface": {"nowhere"}})
	require.Contains(t, page, "not proposed any more")

	// The palette that Dunlin wears, in colours that all can read and tell apart.
	require.NoError(t, os.MkdirAll(filepath.Join(v.world.Dunlin.Home, ".config/bittern"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(v.world.Dunlin.Home, ".config/bittern/bittern.conf"), []byte("[Bittern]\nprofile=Watch\n"), 0o644))
	for _, code := range []string{"terminal", "alike"} {
		page, _ = v.post("/d/dunlin/judge", url.Values{"do": {"colours"}, "code": {code}, "surface": {"bittern"}})
		require.Contains(t, page, "-mine.Xresources", code)
	}
}

// TestANewerVersionIsPictured: an older pointer set is in place; the sheet says that
// a newer one is out, and its page shows the desk in both.
func TestANewerVersionIsPictured(t *testing.T) {
	v := newStage(t).visit()
	page, at := v.post("/d/avocet/fetch", url.Values{"entry": {"limpet"}, "version": {"0.6"}})
	key := regexp.MustCompile(`name="piece" value="([^"]+)"`).FindStringSubmatch(page)[1]
	v.post(at+"/install", url.Values{"scope": {"mine"}, "piece": {key}})
	v.post("/d/avocet/draft", url.Values{"facet": {"pointer"}, "piece": {"Limpet"}})
	page, _ = v.get("/d/avocet/sheet?of=draft")
	require.Contains(t, page, "0.7 is out")
	page, at = v.post("/d/avocet/fetch", url.Values{"entry": {"limpet"}})
	require.Contains(t, page, "an older version is installed")
	sha := filepath.Base(at)
	before, _ := v.get("/d/avocet/picture.svg?scene=controls&look=" + url.QueryEscape("before "+sha))
	after, _ := v.get("/d/avocet/picture.svg?scene=controls&look=" + url.QueryEscape("after "+sha))
	require.Contains(t, before, "<svg")
	require.Contains(t, after, "<svg")
	require.Equal(t, strings.Count(before, "<image"), strings.Count(after, "<image"))
	require.FileExists(t, v.home(".icons/Limpet/cursors/left_ptr"))
	was, err := os.ReadDir(v.home(".icons/Limpet/cursors"))
	require.NoError(t, err)
	d, err := v.app.Desk("avocet")
	require.NoError(t, err)
	then, err := v.app.Overlays.After(t.Context(), d, sha)
	require.NoError(t, err)
	is, err := fs.ReadDir(then.Tree(), "home/mara/.icons/Limpet/cursors")
	require.NoError(t, err)
	require.Greater(t, len(is), len(was), "the newer one has more shapes, and is only pictured")
}

// TestWhatComesNearest: a theme that has no part for GTK 4 is on the draft; GTK 4
// may wear the one in place that looks most like it.
func TestWhatComesNearest(t *testing.T) {
	s := newStage(t)
	require.NoError(t, demo.WriteThemes(s.home(".themes")))
	v := s.visit()
	for _, part := range []string{"gtk-2.0", "gtk-4.0"} {
		require.NoError(t, os.RemoveAll(v.home(".themes/Groyne/"+part)))
	}
	v.post("/d/avocet/draft", url.Values{"facet": {"widgets"}, "piece": {"Groyne"}})
	page, _ := v.get("/d/avocet/compose")
	require.Contains(t, page, "Windows of GTK 4 programs: Reedbed-Dark-Compact is the nearest it supports.", "dark as it is")
	page, at := v.post("/d/avocet/except", url.Values{"then": {"compose"}, "surface": {"gtk4"}, "facet": {"widgets"}, "do": {"own"}, "value": {"Reedbed-Dark-Compact"}})
	require.Equal(t, "/d/avocet/compose", at)
	require.NotContains(t, page, "Windows of GTK 4 programs: Reed")
	d, err := v.app.Desk("avocet")
	require.NoError(t, err)
	draft, err := v.app.Drafts.Draft(d)
	require.NoError(t, err)
	require.Equal(t, "Groyne", draft.Want("widgets"))
	require.Equal(t, "Reedbed-Dark-Compact", draft.WantOn("gtk4", "widgets"))
}
