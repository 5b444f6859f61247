package preview_test

import (
	"fmt"
	"image/color"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/goitalic"
	"golang.org/x/image/font/gofont/gomono"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/preview"
	"ivelt/core/svgraster"
	"ivelt/core/typeset"
)

// coloured is how many pixels of a scene have each colour.
func coloured(t *testing.T, d *desk.Desk, scene string) map[color.RGBA]int {
	t.Helper()
	i := slices.IndexFunc(preview.Scenes, func(s preview.Scene) bool { return s.Name == scene })
	im, err := svgraster.Draw(t.Context(), preview.Draw(d, preview.Worn(t.Context(), d), scene), preview.Scenes[i].Width, preview.Scenes[i].Height, svgraster.Options{})
	require.NoError(t, err)
	out := map[color.RGBA]int{}
	for y := range im.Bounds().Dy() {
		for x := range im.Bounds().Dx() {
			out[im.RGBAAt(x, y)]++
		}
	}
	return out
}

// TestPartsOfPrograms: each part of the pictured programs has the nodes that a style sheet
// knows it by: a theme that gives one of them a colour of its own gives it to the picture.
func TestPartsOfPrograms(t *testing.T) {
	home := t.TempDir()
	put := func(name, text string) {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(home, name)), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(home, name), []byte(text), 0o644))
	}
	type rule struct {
		scene, selector string
		least           int // px
	}
	// As the toolkits' documentation names them ("CSS nodes" of each widget, GTK 3.24 and 4.8).
	both := []rule{
		{"lists", "headerbar .linked > button:first-child", 200}, {"lists", "treeview.view header button", 1000}, {"lists", "treeview.view:selected", 1000},
		{"lists", "scrolledwindow > scrollbar.vertical slider", 100}, {"lists", "combobox > box > button.combo", 500}, {"lists", "textview.view > text > selection", 200},
		{"lists", "levelbar block.filled", 50}, {"dialogs", "placessidebar list row:selected", 500}, {"dialogs", ".path-bar.linked > button:checked", 100},
		{"dialogs", "headerbar button.suggested-action", 200}, {"dialogs", "button.destructive-action", 500}, {"dialogs", "button.popup:checked", 100}, {"dialogs", "placessidebar + box checkbutton > check", 50},
	}
	rules := map[string][]rule{
		"3": append(slices.Clone(both), rule{"lists", "menubar > menuitem:hover", 200}, rule{"lists", "menu > menuitem:hover", 500}, rule{"lists", "menu > menuitem > check:checked", 50},
			rule{"lists", "menu > menuitem > radio:checked", 50}, rule{"lists", "menu > separator", 50}, rule{"lists", "menu > menuitem > arrow", 20}, rule{"dialogs", "messagedialog.csd", 1000},
			rule{"dialogs", "popover.background", 1000}),
		"4": append(slices.Clone(both), rule{"lists", "popover.menu > contents modelbutton:hover", 500}, rule{"lists", "modelbutton > check:checked", 50}, rule{"lists", "modelbutton > radio:checked", 50},
			rule{"dialogs", "window.dialog.message", 1000}, rule{"dialogs", "popover.background:not(.menu) > contents", 1000}),
	}
	dye := func(generation string, i int) color.RGBA { return color.RGBA{uint8(20 + 9*i), 77, generation[0], 255} }
	for generation, rules := range rules {
		put(".config/gtk-"+generation+".0/settings.ini", "[Settings]\ngtk-theme-name=Dyed\n")
		sheet := "block, separator { min-width: 4px; min-height: 4px; } arrow, slider { min-width: 8px; min-height: 8px; } check, radio { min-width: 12px; min-height: 12px; } "
		for i, r := range rules {
			c := dye(generation, i)
			sheet += fmt.Sprintf("%s { background: #%02x%02x%02x; }\n", r.selector, c.R, c.G, c.B)
		}
		put(".themes/Dyed/gtk-"+generation+".0/gtk.css", sheet)
	}
	d, err := desk.Open("d", home, t.TempDir(), "/home/me")
	require.NoError(t, err)
	d.SetSurfaces(desk.Builtin())
	for _, scene := range []string{"lists", "dialogs"} {
		seen := coloured(t, d, scene)
		for generation, rules := range rules {
			for i, r := range rules {
				if r.scene == scene {
					assert.GreaterOrEqual(t, seen[dye(generation, i)], r.least, "GTK %s: %s", generation, r.selector)
				}
			}
		}
	}
}

// TestScenesOfADesk: what a desk does not have is no scene of it, and a program in a sandbox
// wears only what it gets at.
func TestScenesOfADesk(t *testing.T) {
	names := func(d *desk.Desk) (out []string) {
		for _, s := range preview.ScenesOf(d) {
			out = append(out, s.Name)
		}
		return out
	}
	d := desk1(t)
	require.Equal(t, []string{"desk", "close", "controls", "lists", "dialogs", "older", "qt"}, names(d))
	home, system := t.TempDir(), t.TempDir()
	put := func(name, text string) {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(home, name)), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(home, name), []byte(text), 0o644))
	}
	put(".config/gtk-3.0/settings.ini", "[Settings]\ngtk-theme-name=Dyed\n")
	put(".themes/Dyed/gtk-3.0/gtk.css", "window { background: #314159; }")
	d, err := desk.Open("d", home, system, "/home/me")
	require.NoError(t, err)
	d.SetSurfaces(desk.Builtin())
	box, err := desk.ParseSurface([]byte(`id = "box"
title = "Programs in a box"
kind = "sandbox"
[sandbox]
programs = ["/var/lib/box"]
[[facet]]
name = "widgets"
default = "Plain"
source = [{ format = "follows", path = "gtk3" }]
[facet.lookup]
kind = "theme"
folders = ["~/.themes"]
parts = ["gtk-3.0"]
file = "gtk.css"
built-in = ["Plain"]
[facet.lookup.grants]
path = "{config}/box.conf"
format = "keyfile"
group = "Grants"
key = "read"
`))
	require.NoError(t, err)
	d.SetSurfaces(append(d.Surfaces(), box))
	require.Contains(t, names(d), "sandboxed")
	dyed := color.RGBA{0x31, 0x41, 0x59, 255}
	outside := coloured(t, d, "sandboxed")[dyed]
	require.Greater(t, outside, 50000, "the program outside wears it")
	put(".config/box.conf", "[Grants]\nread=~/.themes\n")
	both := coloured(t, d.Snapshot(), "sandboxed")[dyed]
	require.Greater(t, both, outside*3/2, "with the folder granted both do")
}

// TestQtWearsItsOwnPalette: whatever GTK wears, and in which shade; its icons, font and style
// are those of the look.
func TestQtWearsItsOwnPalette(t *testing.T) {
	d := desk1(t)
	draw := func(o outfit.Outfit) string {
		return wellFormed(t, preview.Draw(d, preview.Draft(t.Context(), d, o), "qt"))
	}
	plain := draw(outfit.Outfit{})
	for _, colour := range []string{"#efefef", "#308cc6", "#bebebe"} {
		require.Contains(t, plain, colour)
	}
	require.Equal(t, plain, draw(outfit.Outfit{}.With(desk.FacetWidgets, "Salt")))
	longest := func(o outfit.Outfit) (most float64) {
		_, marks := preview.DrawMarked(d, preview.Draft(t.Context(), d, o), "qt")
		for _, m := range marks {
			if m.Facet == desk.FacetFont && m.Surface == "qt" {
				most = max(most, m.W)
			}
		}
		return most
	}
	require.Greater(t, longest(outfit.Outfit{}.With(desk.FacetFont, "Sans 16")), 1.3*longest(outfit.Outfit{}))
	notes := func(style string) []preview.Note {
		return preview.Notes(d, preview.Draft(t.Context(), d, outfit.Outfit{}.With(desk.FacetStyle, style)), "qt")
	}
	require.Empty(t, notes("Fusion"))
	require.Equal(t, "Windows: the colours of this style are pictured, its edges are those of Fusion", notes("Windows")[0].String())
}

// TestACalendarShowsItsMonth: six weeks that begin in the month before, the day that is
// chosen in the colours of what is chosen; in GTK 4 each day is a node, in GTK 3 there is one.
func TestACalendarShowsItsMonth(t *testing.T) {
	d := dressed(t)
	day := func(words string) int {
		n := 0
		for _, spot := range preview.Spots(d, preview.Worn(t.Context(), d), "lists") {
			if spot.Surface == "gtk4" && spot.Node.Parent() != nil && spot.Node.Parent().Name == "grid" && slices.Contains(spot.Node.Classes, words) {
				n++
			}
		}
		return n
	}
	require.Equal(t, 42, day("day-number"))
	require.Equal(t, 11, day("other-month"), "22 to 28 February, 1 to 4 April")
	require.Equal(t, 7, day("day-name"))
	var three []preview.Spot
	for _, spot := range preview.Spots(d, preview.Worn(t.Context(), d), "lists") {
		if spot.Surface == "gtk3" && spot.Node.Name == "calendar" {
			three = append(three, spot)
		}
	}
	require.Len(t, three, 1)
	require.Greater(t, three[0].W, 150.0)
	require.Greater(t, three[0].H, 120.0)
}

// TestPagesAreSetInTheDocumentFont: where somebody tells programs one, and in no other text.
func TestPagesAreSetInTheDocumentFont(t *testing.T) {
	home := t.TempDir()
	require.NoError(t, os.MkdirAll(filepath.Join(home, ".fonts"), 0o755))
	for name, ttf := range map[string][]byte{"Go-Mono.ttf": gomono.TTF, "Go-Italic.ttf": goitalic.TTF} {
		require.NoError(t, os.WriteFile(filepath.Join(home, ".fonts", name), ttf, 0o644))
	}
	d, err := desk.Open("d", home, t.TempDir(), "/home/me")
	require.NoError(t, err)
	d.SetSurfaces(desk.Builtin())
	face, err := typeset.Load(goitalic.TTF, 0)
	require.NoError(t, err)
	letter := face.Outline(face.Set("g", 10).Glyphs[0].ID)
	draw := func(o outfit.Outfit) (string, []preview.Mark) {
		svg, marks := preview.DrawMarked(d, preview.Draft(t.Context(), d, o), "lists")
		return wellFormed(t, svg), slices.DeleteFunc(marks, func(m preview.Mark) bool { return m.Facet != desk.FacetFontDocument })
	}
	plain, marks := draw(outfit.Outfit{})
	require.NotContains(t, plain, letter)
	require.Empty(t, marks)
	set, marks := draw(outfit.Outfit{}.With(desk.FacetFontDocument, "Go Italic 9"))
	require.Contains(t, set, letter)
	require.Contains(t, set, fmt.Sprintf("matrix(%.5g 0 0", 12/face.Upem()), "9 points are 12 px")
	require.Len(t, marks, 2, "in the window of each toolkit")
	require.Equal(t, "settings", marks[0].Surface)
	require.Equal(t, 1, strings.Count(set, letter))
}
