package sign_test

import (
	"encoding/xml"
	"errors"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/icontheme"
	"ivelt/core/parcel"
	"ivelt/core/preview"
	"ivelt/sign"
	"ivelt/standin"
)

func wellFormed(t *testing.T, svg []byte) string {
	t.Helper()
	for x := xml.NewDecoder(strings.NewReader(string(svg))); ; {
		if _, err := x.Token(); errors.Is(err, io.EOF) {
			return string(svg)
		} else if err != nil {
			t.Fatal(err, string(svg))
		}
	}
}

// TestABeadTellsWhatASurfaceShows: one for each facet of each surface, well-formed, and
// another one for another value.
func TestABeadTellsWhatASurfaceShows(t *testing.T) {
	top := t.TempDir()
	for name, text := range map[string]string{
		"home/.themes/Salt/gtk-3.0/gtk.css":          "window { background-color: #eeeeee; color: #111111; }",
		"home/.themes/Salt/gtk-2.0/gtkrc":            "style \"d\" { bg[NORMAL] = \"#d0e8e4\" }\nclass \"GtkWidget\" style \"d\"\n",
		"home/.themes/Salt/quayside/shell.css":       "panel.top { background-color: #203040; } notice { background-color: #fafafa; }",
		"home/.config/gtk-3.0/settings.ini":          "[Settings]\ngtk-theme-name=Salt\ngtk-icon-theme-name=Reef\n",
		"home/.config/quayside/quayside.conf":        "[Look]\ntheme=Salt\nbackdrop=/home/me/sea.svg\n",
		"home/sea.svg":                               `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 64 40"><rect width="64" height="40" fill="#2f7f8c"/></svg>`,
		"home/.local/share/icons/Reef/index.theme":   "[Icon Theme]\nName=Reef\nDirectories=48\n[48]\nSize=48\nType=Scalable\nMinSize=8\nMaxSize=512\n",
		"home/.local/share/icons/Reef/48/folder.svg": `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 8 8"><rect width="8" height="8"/></svg>`,
	} {
		file := filepath.Join(top, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
	}
	require.NoError(t, os.MkdirAll(filepath.Join(top, "system"), 0o755))
	d, err := desk.Open("d", filepath.Join(top, "home"), filepath.Join(top, "system"), "/home/me")
	require.NoError(t, err)
	d.SetSurfaces(append(desk.Builtin(), standin.Surfaces()...))
	worn := preview.Worn(t.Context(), d)
	n := 0
	for _, s := range d.Surfaces() {
		for _, f := range s.Facets {
			text := wellFormed(t, sign.Bead(d, worn, f.Name, s.ID))
			require.Contains(t, text, `viewBox="0 0 32 32"`)
			n++
		}
	}
	require.Greater(t, n, 80)
	for facet, values := range map[string][2]string{
		desk.FacetAccent: {"#2f7f8c", "#b4553d"}, desk.FacetButtons: {"close:", ":minimize,maximize,close"}, desk.FacetDark: {"light", "dark"}, desk.FacetPointerSize: {"24", "48"},
		desk.FacetLogin: {"Plain", "Tide"}, desk.FacetWidgets: {"Salt", "Adwaita"},
	} {
		surface := "gtk3"
		switch facet {
		case desk.FacetAccent:
			surface = "gtk4-own"
		case desk.FacetLogin:
			surface = "lantern"
		}
		one, two := sign.Bead(d, worn.With(facet, surface, values[0]), facet, surface), sign.Bead(d, worn.With(facet, surface, values[1]), facet, surface)
		if facet != desk.FacetLogin { // neither is there, so both are drawn plainly
			require.NotEqual(t, string(one), string(two), facet)
		}
	}
	wellFormed(t, sign.Shell(d, worn))
	x := icontheme.NewIndex(icontheme.Config{FS: d.Tree(), Bases: []string{"home/me/.local/share/icons"}, Theme: "Reef"})
	require.Contains(t, wellFormed(t, sign.Tag(t.Context(), d.Tree(), x, 6, 2, 64, 48)), "folder · Reef")
	theme := parcel.Piece{Kind: parcel.Theme, Name: "Salt", Root: "home/me/.themes/Salt", Parts: []string{"gtk-3.0"}}
	pictures := sign.Pictures(t.Context(), d.Tree(), theme)
	require.NotEmpty(t, pictures)
	for _, p := range pictures {
		wellFormed(t, p.SVG)
	}
	wellFormed(t, sign.Together(t.Context(), d.Tree(), []parcel.Piece{theme, {Kind: parcel.Icons, Name: "Reef", Root: "home/me/.local/share/icons/Reef"}}))
	backdrop := parcel.Piece{Kind: parcel.Backdrop, Name: "Sea", Only: []string{"home/me/sea.svg"}}
	for _, p := range sign.Pictures(t.Context(), d.Tree(), backdrop) {
		wellFormed(t, p.SVG)
	}
}
