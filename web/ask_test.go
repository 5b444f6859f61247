package web_test

import (
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/layer"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/preview"
	"ivelt/core/recolour"
	"ivelt/demo"
	"ivelt/web/browsertest"
)

// selected is a place in the whole desk's picture where GTK 3's selection is seen.
func (s *stage) selected() (x, y float64) {
	s.t.Helper()
	d := s.world.Avocet.Snapshot()
	spots := preview.Spots(d, preview.Worn(s.t.Context(), d), "desk")
	i := slices.IndexFunc(spots, func(p preview.Spot) bool {
		return p.Surface == "gtk3" && slices.Contains(p.Node.States, "selected") && p.W > 40
	})
	require.GreaterOrEqual(s.t, i, 0)
	return spots[i].X + 3, spots[i].Y + 3
}

// TestStoryOfTheSelectionColour: it is pointed at in the picture, changed wherever it is used,
// pictured, built, tried on and applied; the theme below is updated, and it is still there.
func TestStoryOfTheSelectionColour(t *testing.T) {
	b := newStage(t).browse()
	const colour = "#a0466b"
	b.Open("/d/avocet/compose")
	b.At("Compose")
	b.Until(`document.querySelector("[data-picture-img]").complete`)
	x, y := b.selected()
	b.Press("i")
	b.Until(`document.querySelector("[data-asks]").ariaPressed === "true"`)
	b.Is(fmt.Sprintf(`(() => {
		const img = document.querySelector("[data-picture-img]"), at = img.getBoundingClientRect(), k = img.clientWidth / img.naturalWidth;
		img.dispatchEvent(new MouseEvent("click", { bubbles: true, clientX: at.left + %f * k, clientY: at.top + %f * k }));
	})()`, x, y))
	b.Until(`document.querySelector("#asked").innerText.includes("theme_selected_bg_color")`)
	require.Contains(t, b.Text("#asked .asked-head"), ":selected")
	require.True(t, b.Is(`!document.querySelector("[data-picture-img]").closest(".is-near")`), "asking does not magnify")

	before := b.picture()
	require.NotContains(t, before, "rgba(160,70,107,1)")
	change := func(scope string) {
		t.Helper()
		require.True(t, b.Is(fmt.Sprintf(`(() => {
			const form = [...document.querySelectorAll("#asked form")].find(f => f.elements.scope.querySelector('[value="%[1]s"]') && f.elements.property.value.startsWith("background"));
			form.closest("details").open = true;
			form.id = "the-change";
			form.elements.value.value = %[2]q;
			form.elements.scope.value = "%[1]s";
			return form;
		})()`, scope, colour)))
		b.Click("#the-change button")
	}
	change("colour theme_selected_bg_color")
	b.Until(`!document.querySelector("#making").hidden && document.querySelector("#making").innerText.includes("@theme_selected_bg_color")`)
	b.Until(`document.querySelector("[data-picture-img]").src.includes("lay=") && document.querySelector("[data-picture-img]").complete`)
	require.Contains(t, b.picture(), "rgba(160,70,107,1)", "pictured before it is built")
	require.Contains(t, b.Text("#asked"), "your change")
	b.keep("ask")
	b.Click("#making button[name=change]")
	b.Until(`document.querySelector("#making").hidden`)
	require.NotContains(t, b.picture(), "rgba(160,70,107,1)")
	change("colour theme_selected_bg_color")
	b.Until(`!document.querySelector("#making").hidden`)
	b.Is(`document.querySelector("#making-name").value = "White crust, rose"`)
	b.Click("#making [value=build]")
	b.Until(`document.title.startsWith("Compose") && document.querySelector("#draft").innerText.includes("Saltpan-Mine") && document.querySelector("#making").hidden`)
	require.Contains(t, b.picture(), "rgba(160,70,107,1)")
	b.Press("r")
	b.At("Review")
	b.Press("a")
	b.At("Match")
	require.Contains(t, b.file(gtk3File), "gtk-theme-name=Saltpan-Mine")
	sheet := func(name string) string { return b.file(filepath.Join(".themes/Saltpan-Mine/gtk-3.0", name)) }
	require.Contains(t, sheet("gtk.css"), "@define-color theme_selected_bg_color "+colour)

	base := b.home(".themes/Saltpan/gtk-3.0/gtk.css")
	text, err := os.ReadFile(base)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(base, append(text, "\nbutton { border-radius: 1px; }\n"...), 0o644))
	b.Open("/d/avocet/shelf?kind=theme")
	b.At("Shelf")
	b.Click(`form[action="/d/avocet/layer"] button`)
	b.Until(`document.title.startsWith("Shelf") && !document.querySelector('form[action="/d/avocet/layer"]')`)
	require.Contains(t, sheet("gtk.base.css"), "border-radius: 1px")
	require.Contains(t, sheet("gtk.css"), "@define-color theme_selected_bg_color "+colour)
	d := b.world.Avocet.Snapshot()
	styles := preview.Styles(d, preview.Worn(t.Context(), d), "gtk3")
	require.Equal(t, "rgba(160,70,107,1)", styles.Style(gtkcss.Path("window flowbox.view flowboxchild:selected")).Fill().CSS())
	require.InDelta(t, 1, styles.Style(gtkcss.Path("window button")).Length("border-top-left-radius"), 0)
}

// TestStoryOfLargerText: a whole theme gets larger letters, rounder corners and another accent;
// it is pictured while the sliders move, built, applied, and kept over an update.
func TestStoryOfLargerText(t *testing.T) {
	b := newStage(t).browse()
	b.Open("/d/avocet/compose")
	b.At("Compose")
	b.Until(`document.querySelector("[data-picture-img]").complete`)
	before := b.picture()
	b.Click("#moves-of summary")
	move := func(of, to string) {
		t.Helper()
		b.Until(`document.querySelector("#move-` + of + `").offsetParent`)
		b.Is(fmt.Sprintf(`(() => { const s = document.querySelector("#move-%[1]s"); s.value = %[2]q; s.dispatchEvent(new Event("input", { bubbles: true })); s.dispatchEvent(new Event("change", { bubbles: true })); })()`, of, to))
		b.Idle()
	}
	changes := func() string {
		return browsertest.Value[string](b.Browser, `document.querySelector("#making").innerText`)
	}
	move("text", "120")
	b.Until(`document.querySelector("#making").innerText.includes("Text size: 120%")`)
	require.Equal(t, "120 %", b.Text("#move-text + output"))
	move("rounding", "250")
	b.Until(`document.querySelector("#making").innerText.includes("Rounding: 250%")`)
	move("accent-other", "#a0466b")
	b.Until(`document.querySelector("#making").innerText.includes("#a0466b")`)
	b.Until(`document.querySelector("[data-picture-img]").src.includes("lay=") && document.querySelector("[data-picture-img]").complete`)
	require.NotEqual(t, before, b.picture())
	require.Contains(t, b.picture(), "rgba(160,70,107,1)")
	move("rounding", "100")
	b.Until(`!document.querySelector("#making").innerText.includes("Rounding")`)
	require.Contains(t, changes(), "Text size")
	b.Is(`document.querySelector("#move-space").focus()`)
	for _, step := range []string{"105", "110"} { // the slider keeps the focus
		b.Press(kb.ArrowRight)
		b.Until(`document.querySelector("#making").innerText.includes("Spacing: ` + step + `%")`)
	}
	b.Press(kb.ArrowLeft)
	b.Until(`document.querySelector("#making").innerText.includes("Spacing: 105%")`)
	b.Press(kb.ArrowLeft)
	b.Until(`!document.querySelector("#making").innerText.includes("Spacing")`)
	require.True(t, b.Is(`document.querySelector("#moves-of").open`))
	b.Click("#move-shade-dark")
	b.Until(`document.querySelector("#making").innerText.includes("Light or dark: dark") && document.querySelector("#move-shade-dark").ariaChecked === "true"`)
	b.Until(`document.querySelector("[data-picture-img]").complete`)
	require.NotContains(t, b.picture(), before[:2000])
	b.Click("#move-shade-made")
	b.Until(`!document.querySelector("#making").innerText.includes("Light or dark")`)
	b.Click("#making [value=build]")
	b.Until(`document.title.startsWith("Compose") && document.querySelector("#draft").innerText.includes("Saltpan-Mine") && document.querySelector("#making").hidden`)
	require.Contains(t, b.picture(), "rgba(160,70,107,1)")
	b.Press("r")
	b.At("Review")
	b.Press("a")
	b.At("Match")
	size := func(theme string) float64 {
		t.Helper()
		d := b.world.Avocet.Snapshot()
		look := preview.Draft(t.Context(), d, outfit.Outfit{}.With(desk.FacetWidgets, theme))
		return preview.Styles(d, look, "gtk3").Style(gtkcss.Path("window button label")).Length("font-size")
	}
	require.InDelta(t, 1.2*size("Saltpan"), size("Saltpan-Mine"), 0.1)

	base := b.home(".themes/Saltpan/gtk-3.0/gtk.css")
	text, err := os.ReadFile(base)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(base, append(text, "\nbutton { padding: 11px; font-size: 20px; }\n"...), 0o644))
	b.Open("/d/avocet/shelf?kind=theme")
	b.At("Shelf")
	b.Click(`form[action="/d/avocet/layer"] button`)
	b.Until(`document.title.startsWith("Shelf") && !document.querySelector('form[action="/d/avocet/layer"]')`)
	require.Contains(t, b.file(".themes/Saltpan-Mine/gtk-3.0/gtk.css"), "padding: 11px; font-size: 24px;")
	require.Equal(t, 24.0, size("Saltpan-Mine"))
}

// TestChangesToATheme: one rule for all of a kind or one part alone; what cannot be is refused
// and changes nothing; changes to a layer go on with its own recipe.
func TestChangesToATheme(t *testing.T) {
	v := newStage(t).visit()
	x, y := v.selected()
	at := url.Values{"scene": {"desk"}, "look": {"worn"}, "x": {fmt.Sprint(x)}, "y": {fmt.Sprint(y)}}
	page, _ := v.get("/d/avocet/ask?" + at.Encode())
	require.Contains(t, page, "theme_selected_bg_color")
	require.Contains(t, page, "/.themes/Saltpan/gtk-3.0/gtk.css:")
	page, _ = v.get("/d/avocet/ask?scene=desk&x=9999&y=1")
	require.Contains(t, page, "Nothing here")
	page, _ = v.get("/d/avocet/ask?scene=desk&x=no&y=1")
	require.Contains(t, page, "two numbers")

	make := func(more url.Values) string {
		form := url.Values{"theme": {"Saltpan"}, "sheet": {"gtk-3.20/gtk.css"}, "property": {"padding"}}
		for k, of := range more {
			form[k] = of
		}
		page, _ := v.post("/d/avocet/making", form)
		return page
	}
	refused := map[string]url.Values{
		"needs a value":         {"scope": {"rule button"}, "value": {" "}},
		"is not one rule":       {"scope": {"rule button"}, "value": {"1px; } * { color: red"}},
		"would not take it":     {"scope": {"rule button"}, "value": {"red"}},
		"is no colour":          {"scope": {"colour x"}, "value": {"1px"}},
		"how far":               {"scope": {"world"}, "value": {"1px"}},
		"is where Avocet looks": {"theme": {"Nowhere"}, "scope": {"rule button"}, "value": {"1px"}},
	}
	for why, form := range refused {
		require.Contains(t, strings.ToLower(make(form)), strings.ToLower(why))
	}
	d, err := v.app.Desk("avocet")
	require.NoError(t, err)
	_, any, err := v.app.Layers.Making(d)
	require.NoError(t, err)
	require.False(t, any)

	make(url.Values{"scope": {"rule button.flat"}, "value": {"3px"}})
	make(url.Values{"scope": {"part window > box > button"}, "value": {"5px"}})
	make(url.Values{"scope": {"rule button.flat"}, "value": {"4px"}, "property": {"min-height"}})
	page = make(url.Values{"theme": {"Reedbed"}, "scope": {"rule button"}, "value": {"1px"}})
	require.Contains(t, page, "build them or discard them first")
	r, any, err := v.app.Layers.Making(d)
	require.NoError(t, err)
	require.True(t, any)
	require.Len(t, r.Rules, 2)
	require.Equal(t, map[string]string{"padding": "3px", "min-height": "4px"}, r.Rules[1].Set, "said last")
	require.Equal(t, []string{"gtk-3.0"}, r.Rules[1].Parts, "whatever the folder of its version")
	page, _ = v.get("/d/avocet/compose")
	require.Contains(t, page, "Changes to Saltpan")

	v.post("/d/avocet/making", url.Values{"do": {"take"}, "change": {"0"}})
	r, _, err = v.app.Layers.Making(d)
	require.NoError(t, err)
	require.Len(t, r.Rules, 1)
	page, _ = v.post("/d/avocet/making", url.Values{"theme": {"Saltpan"}, "move": {"family"}, "to": {"Estuary Sans"}})
	require.Contains(t, page, `<option value="Estuary Sans" selected>`)
	require.Contains(t, make(url.Values{"move": {"family"}, "to": {`a"b`}}), "is no name of a font")
	v.post("/d/avocet/making", url.Values{"do": {"discard"}})
	_, any, err = v.app.Layers.Making(d)
	require.NoError(t, err)
	require.False(t, any)
	page, _ = v.post("/d/avocet/making", url.Values{"do": {"build"}})
	require.Contains(t, page, "There are no changes to build")
}

// TestStoryOfFoldersInThreeColours: one pack is made in three colours, each is tried on, one is
// applied: only its folders are stored, and whatever else is asked for comes from the pack.
func TestStoryOfFoldersInThreeColours(t *testing.T) {
	b := newStage(t).browsePlain()
	b.Open("/d/avocet/compose?facet=icons")
	b.At("Compose")
	b.Is(`document.querySelector("#dyes").open = true`)
	b.Is(`document.querySelector("#dye-pack").value = "Foreshore"`)
	for _, colour := range []string{"#b4553d", "#a0466b", "#1d6b52"} {
		b.Is(fmt.Sprintf(`document.querySelector('#dyes [name=to][value="%s"]').checked = true`, colour))
	}
	b.Is(`document.querySelector("#dye-pack").dispatchEvent(new Event("change", { bubbles: true }))`)
	b.Until(`document.querySelectorAll(".dyed li").length === 4`)
	require.True(t, b.Is(`new Set([...document.querySelectorAll(".dyed img[alt=folder]")].map(i => i.src)).size === 4`), "the folder as made, and in each colour")
	b.Click("#dye-them")
	b.Until(`document.title.startsWith("Compose") && document.querySelector("#draft").innerText.includes("Foreshore-Kelp") && document.querySelectorAll("[id^=icons-Foreshore-]").length === 3`)
	pictures := map[string]string{}
	for _, name := range []string{"Kelp", "Rust", "Thrift"} {
		b.Click("#icons-Foreshore-" + name)
		b.Until(fmt.Sprintf(`document.querySelector("#draft").innerText.includes("Foreshore-%s")`, name))
		b.Idle()
		pictures[b.picture()] = name
	}
	require.Len(t, pictures, 3)
	b.Press("r")
	b.At("Review")
	b.Press("a")
	b.At("Match")
	require.Contains(t, b.file(gtk3File), "gtk-icon-theme-name = Foreshore-Thrift")
	d := b.world.Avocet.Snapshot()
	root, err := layer.Base{Kind: parcel.Icons, Folder: "Foreshore-Thrift"}.Find(d)
	require.NoError(t, err)
	index, err := d.Tree().ReadFile(root + "/index.theme")
	require.NoError(t, err)
	require.Contains(t, string(index), "Inherits=Foreshore")
	c := preview.NewCanvas(d, preview.Worn(t.Context(), d), 1, 1)
	for name, pack := range map[string]string{"folder": "Foreshore-Thrift", "folder-music": "Foreshore-Thrift", "internet-mail": "Foreshore"} {
		icon, ok := c.Icons("gtk3").Lookup(name, 48, 1)
		require.True(t, ok, name)
		require.Equal(t, pack, icon.Theme, name)
	}
}

// TestPointersInTwoColours: sets are made from one that is installed, tried on, and one is applied;
// the shelf says what it lies over.
func TestPointersInTwoColours(t *testing.T) {
	b := newStage(t).browse()
	require.NoError(t, demo.WritePointers(b.home(".icons")))
	b.Open("/d/avocet/compose?facet=pointer")
	b.At("Compose")
	b.Click("#dyes summary")
	for _, colour := range []string{"#a0466b", "#1d6b52"} {
		b.Is(fmt.Sprintf(`document.querySelector('#dyes [name=to][value="%s"]').checked = true`, colour))
	}
	set := browsertest.Value[string](b.Browser, `document.querySelector("#dye-pack").value`)
	b.Click("#dye-them")
	b.Until(`document.title.startsWith("Compose") && document.querySelector("#draft").innerText.includes("` + set + `-Kelp")`)
	require.True(t, b.Is(`document.querySelectorAll("[id^=pointer-`+set+`-]").length === 2`))
	b.Press("r")
	b.At("Review")
	b.Press("a")
	b.At("Match")
	inside, _, ok := recolour.MainPointer([]byte(b.file(".icons/" + set + "-Kelp/cursors/default")))
	require.True(t, ok)
	require.Equal(t, "#1d6b52", inside.Hex())
	b.Open("/d/avocet/shelf?kind=pointer")
	b.At("Shelf")
	require.Contains(t, b.Text("#work"), "a layer over "+set)
}
