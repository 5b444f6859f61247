package web_test

import (
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/preview"
)

// TestStoryOfAMendedStyle: a picture style that lacks elements is found out, mended and changed in
// the picture, built and applied; when its maker publishes another version, the changes stay.
func TestStoryOfAMendedStyle(t *testing.T) {
	b := newStage(t).browse()
	b.Open("/d/avocet/find?q=crackle")
	b.At("Find")
	b.Click("#entry-crackle [data-fetch]")
	b.Until(`location.pathname.includes("/parcel/") && document.readyState === "complete"`)
	b.Click("[data-main]")
	b.Until(`!location.pathname.includes("/parcel/") && document.readyState !== "loading"`)
	require.FileExists(t, b.home(".local/share/styles/Crackle/Crackle.svg"))

	b.Open("/d/avocet/compose?facet=pictures")
	b.At("Compose")
	b.Click(`#picks button[name="piece"][value="Crackle"]`)
	b.Until(`document.querySelector("#elements-of")?.innerText.includes("Crackle")`)
	require.Contains(t, b.Text("#elements-of"), "2 missing")
	b.Click("#elements-of")
	require.Contains(t, b.Text("#lacks"), "perhaps tickon, which no program uses")
	b.Click(`[data-scene-to="drawn"]`)
	b.Until(`document.querySelector("[data-picture-img]").src.includes("scene=drawn") && document.querySelector("[data-picture-img]").complete`)
	broken := b.picture()

	b.Click(`#lacks [value="*"]`)
	b.Until(`!document.querySelector("#lacks") && document.querySelector("#making").innerText.includes("tick-on: what was called tickon")`)
	require.Contains(t, b.Text("#making"), "field-focus: drawn like field")
	b.Until(`document.querySelector("[data-picture-img]").src.includes("lay=") && document.querySelector("[data-picture-img]").complete`)
	mended := b.picture()
	require.Greater(t, strings.Count(mended, "<image"), strings.Count(broken, "<image"), "what was missing is painted")
	b.Click(`[data-element="field-focus"]`)
	b.Until(`document.querySelector("#shape-1-stroke")`)
	set := func(id, to string) {
		t.Helper()
		b.Is(fmt.Sprintf(`(() => { const s = document.querySelector("#%s"); s.value = %q; s.dispatchEvent(new Event("change", { bubbles: true })); })()`, id, to))
		b.Idle()
	}
	set("shape-1-stroke", "#40c0a0")
	b.Until(`document.querySelector("#making").innerText.includes("#40c0a0")`)
	set("shape-1-stroke-width", "4")
	b.Until(`document.querySelector("#making").innerText.includes("stroke-width: 2 → 4")`)
	b.Until(`document.querySelector("#shape-1-stroke-width").value === "4"`)
	b.Click("#making [value=build]")
	b.Until(`document.title.startsWith("Compose") && document.querySelector("#draft").innerText.includes("Crackle-Mine") && document.querySelector("#making").hidden`)
	b.Press("r")
	b.At("Review")
	b.Press("a")
	b.At("Match")

	// What the engine reads now, and the desk's picture of it.
	drawing := func() string { return b.file(".local/share/styles/Crackle-Mine/Crackle-Mine.svg") }
	require.Contains(t, drawing(), `id="tick-on"`)
	require.Contains(t, drawing(), `stroke="#40c0a0" stroke-width="4"`)
	d := b.world.Avocet.Snapshot()
	of, ok := preview.StyleOf(d, preview.Draft(t.Context(), d, outfit.Outfit{}), "Crackle-Mine")
	require.True(t, ok)
	require.Empty(t, of.Style.Lacks())
	b.Open("/d/avocet/judge")
	b.At("Judge")
	require.False(t, b.Is(`document.querySelector('[data-code="broken-style"]')`))

	// The maker names the element and draws buttons darker.
	base := b.home(".local/share/styles/Crackle/Crackle.svg")
	text := b.file(".local/share/styles/Crackle/Crackle.svg")
	require.NoError(t, os.WriteFile(base, []byte(strings.NewReplacer(`"tickon"`, `"tick-on"`, "#48525a", "#30383e").Replace(text)), 0o644))
	b.Open("/d/avocet/shelf?kind=style")
	b.At("Shelf")
	b.Click(`form[action="/d/avocet/layer"] button`)
	b.Until(`document.title.startsWith("Shelf") && !document.querySelector('form[action="/d/avocet/layer"]')`)
	require.Contains(t, drawing(), "#30383e")
	require.Contains(t, drawing(), `stroke="#40c0a0" stroke-width="4"`)
	require.Equal(t, 1, strings.Count(drawing(), `id="tick-on"`))
}

// TestElementsBySteps: without scripts an element is opened, changed and taken back; what cannot be
// is refused and changes nothing; a style in another colour is tried on.
func TestElementsBySteps(t *testing.T) {
	s := newStage(t)
	v := s.visit()
	folder := s.home(".local/share/styles/Kelp")
	require.NoError(t, os.MkdirAll(folder, 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(folder, "Kelp.svg"), []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 60 30"><linearGradient id="g"><stop stop-color="#2f7f5c"/></linearGradient><rect id="button" x="1" y="1" width="50" height="20" fill="#2f7f5c" data-edges="40"/><g id="tick"><circle cx="8" cy="8" r="6" fill="url(#g)"/></g></svg>`), 0o644))
	require.NoError(t, os.WriteFile(filepath.Join(folder, "Kelp.conf"), []byte("[Style]\nName=Kelp\nLicence=CC0-1.0\n"), 0o644))
	v.post("/d/avocet/draft", url.Values{"facet": {desk.FacetPictures}, "piece": {"Kelp"}})
	page, _ := v.get("/d/avocet/compose?facet=pictures&element=button")
	require.Contains(t, page, "data-edges: 40 leaves nothing of 50 × 20")
	require.Contains(t, page, `id="shape-1-rx"`)
	page, _ = v.get("/d/avocet/compose?facet=pictures&element=tick")
	require.Contains(t, page, "a gradient")
	change := func(more url.Values) string {
		form := url.Values{"theme": {"Kelp"}, "element": {"button"}}
		for key, value := range more {
			form[key] = value
		}
		page, _ := v.post("/d/avocet/making", form)
		return page
	}
	require.Contains(t, change(url.Values{"shape": {"1"}, "property": {"rx"}, "value": {"6"}}), "Changes to Kelp")
	require.Contains(t, change(url.Values{"edges": {"4 6"}}), `value="4 6 4 6"`)
	for says, form := range map[string]url.Values{
		"is no width":               {"edges": {"wide"}},
		"is not one value":          {"shape": {"1"}, "property": {"fill"}, "value": {`red"/><script>`}},
		"onload is not one":         {"property": {"onload"}, "value": {"x"}},
		"is no name of an element":  {"element": {"a b"}, "like": {"button"}},
		"A change needs a value":    {},
		"build them or discard":     {"theme": {"Crackle"}, "edges": {"1"}},
		"is not the picture style":  {"theme": {"Crackle"}, "element": {"*"}},
		"does not come from itself": {"like": {"button"}},
	} {
		require.Contains(t, strings.ToLower(change(form)), strings.ToLower(says))
	}
	page, _ = v.get("/d/avocet/compose?facet=pictures")
	require.Contains(t, page, "rx</b>: 6")
	v.post("/d/avocet/making", url.Values{"do": {"take"}, "change": {"0"}})
	v.post("/d/avocet/making", url.Values{"do": {"take"}, "change": {"0"}})
	page, _ = v.get("/d/avocet/compose?facet=pictures")
	require.NotContains(t, page, "rx</b>")

	// One that is two files without a folder is changed as well.
	v.post("/d/avocet/making", url.Values{"do": {"discard"}})
	for _, end := range []string{".svg", ".conf"} {
		text, err := os.ReadFile(filepath.Join(folder, "Kelp"+end))
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(s.home(".local/share/styles/Weed"+end), text, 0o644))
	}
	v.post("/d/avocet/draft", url.Values{"facet": {desk.FacetPictures}, "piece": {"Weed"}})
	require.Contains(t, change(url.Values{"theme": {"Weed"}, "edges": {"4"}}), "Changes to Weed")
	v.post("/d/avocet/making", url.Values{"do": {"discard"}})
	v.post("/d/avocet/draft", url.Values{"facet": {desk.FacetPictures}, "piece": {"Kelp"}})

	v.post("/d/avocet/draft", url.Values{"facet": {desk.FacetPalette}, "piece": {"brine"}})
	page, _ = v.get("/d/avocet/dyed?kind=style&pack=Kelp&palette=1&to=%23a0466b")
	require.Equal(t, 3, strings.Count(page, `alt="button"`), "as made, in a colour, in those of the palette")
	page, _ = v.get("/d/avocet/dyed?kind=style&pack=Kelp&to=red")
	require.NotContains(t, page, "<img")
	b := s.browse()
	b.Open("/d/avocet/compose?facet=pictures")
	b.At("Compose")
	b.Click("#dyes summary")
	require.Contains(t, b.Text("#dyes"), "the terminal's: brine")
	b.Is(`document.querySelector('#dyes [name=to]').checked = document.querySelector('#dyes [name=palette]').checked = true`)
	b.Click("#dye-them")
	b.Until(`document.querySelector("#draft").innerText.includes("Kelp-")`)
	require.True(t, b.Is(`document.querySelector('#picks button[name="piece"][value="Kelp-Brine"]')`), "both are tried on")
}

// TestWhatNoStyleSheetDraws can be asked about in the picture too: what decides it, the file that
// has it, and the way to another one.
func TestWhatNoStyleSheetDraws(t *testing.T) {
	s := newStage(t)
	v := s.visit()
	folder := s.home(".local/share/styles/Kelp")
	require.NoError(t, os.MkdirAll(folder, 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(folder, "Kelp.svg"), []byte(`<svg xmlns="http://www.w3.org/2000/svg"><rect id="button" width="50" height="20"/></svg>`), 0o644))
	v.post("/d/avocet/draft", url.Values{"facet": {desk.FacetPictures}, "piece": {"Kelp"}})
	for _, c := range []struct {
		scene string
		x, y  int
		says  []string
	}{
		{"drawn", 67, 114, []string{"Element <b", "button</b> of Kelp", "~/.local/share/styles/Kelp/Kelp.svg", "facet=pictures&amp;element=button", "/why/sedge/pictures"}},
		{"drawn", 480, 260, []string{"Picture style <b>Kelp</b>"}},
		{"terminal", 320, 160, []string{"Terminal palette <b>", "Choose another"}},
		{"login", 20, 200, []string{"Login screen <b>Slack-Water</b>", "/usr/share/lantern/themes/Slack-Water"}},
		{"older", 280, 300, []string{"GTK 2 programs · "}},
		{"qt", 600, 500, []string{"Qt programs"}},
		{"desk", 66, 95, []string{"Icon <b>user-home</b>"}},
	} {
		page, status := v.get(fmt.Sprintf("/d/avocet/ask?look=draft&scene=%s&x=%d&y=%d", c.scene, c.x, c.y))
		require.Equal(t, 200, status)
		for _, says := range c.says {
			require.Contains(t, page, says, "%s at %d, %d", c.scene, c.x, c.y)
		}
	}
}

// TestAChoiceIsPicturedOnce: what was pictured ahead is what is shown once it is chosen; no other
// picture is asked for.
func TestAChoiceIsPicturedOnce(t *testing.T) {
	b := newStage(t).browse()
	for _, facet := range []string{desk.FacetWidgets, desk.FacetIcons} {
		b.Open("/d/avocet/compose?facet=" + facet)
		b.At("Compose")
		b.Until(`document.querySelector("[data-picture-img]").complete`)
		b.Idle()
		b.Is(`performance.clearResourceTimings()`)
		b.Is(`document.querySelector('.pick[data-choose][aria-checked="false"]').dispatchEvent(new PointerEvent("pointerover", { bubbles: true }))`)
		asked := `performance.getEntriesByType("resource").filter(r => r.name.includes("/picture.svg?"))`
		b.Until(asked + `.length === 1`)
		b.Click(`.pick[data-choose][aria-checked="false"]`)
		b.Until(`document.querySelector("#draft").innerText.includes("Undo")`)
		b.Until(`document.querySelector("[data-picture-img]").src.includes("look=with")`)
		b.Idle()
		require.True(t, b.Is(asked+`.length === 1`), facet)
		b.visit().post("/d/avocet/draft/drop", nil)
	}
}
