package preview_test

import (
	"encoding/base64"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/layer"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/preview"
)

// spotOf is the middle of the first part of a scene that a test is true of.
func spotOf(t *testing.T, d *desk.Desk, look preview.Look, scene, surface string, is func(*gtkcss.Node) bool) (x, y float64) {
	t.Helper()
	spots := preview.Spots(d, look, scene)
	i := slices.IndexFunc(spots, func(s preview.Spot) bool { return s.Surface == surface && s.W > 4 && s.H > 4 && is(s.Node) })
	require.GreaterOrEqual(t, i, 0)
	return spots[i].X + 3, spots[i].Y + spots[i].H/2
}

// TestAskThePicture: what is at a place, which rules decide it, where they are written, what
// comes from above, and the icon and the font that are seen.
func TestAskThePicture(t *testing.T) {
	d := dressed(t)
	look := preview.Worn(t.Context(), d)
	x, y := spotOf(t, d, look, "controls", "gtk3", func(n *gtkcss.Node) bool { return slices.Contains(n.Classes, "suggested-action") })
	of, ok := preview.Ask(d, look, "controls", x, y, 0)
	require.True(t, ok)
	require.Equal(t, []string{"gtk3", "Salt", "gtk-3.0/gtk.css"}, []string{of.Surface, of.Theme, of.Sheet})
	require.Contains(t, of.Node.String(), "button.suggested-action")
	decides := map[string]preview.Rule{}
	for _, r := range of.Rules {
		for _, p := range r.Properties {
			decides[p] = r
		}
	}
	above, ok := preview.Ask(d, look, "controls", x, y, 2)
	require.True(t, ok)
	require.Equal(t, of.Node.Parent().Parent().String(), above.Node.String())
	const sheet = "home/me/.themes/Salt/gtk-3.0/gtk.css"
	require.Equal(t, gtkcss.Rung{File: sheet, Line: 1, Selector: "button.suggested-action", Property: "color", Value: "#ffffff"}, decides["color"].Won)
	require.Equal(t, gtkcss.Rung{File: sheet, Line: 1, Selector: "button", Property: "background-color", Value: "#cccccc"}, decides["background-color"].Overruled[0])

	x, y = spotOf(t, d, look, "dialogs", "gtk4", func(n *gtkcss.Node) bool { return n.Name == "label" })
	of, ok = preview.Ask(d, look, "dialogs", x, y, 0)
	require.True(t, ok)
	i := slices.IndexFunc(of.Rules, func(r preview.Rule) bool { return r.From != "" && r.Properties[0] == "color" })
	require.GreaterOrEqual(t, i, 0, "its colour comes from a node above: %v", of.Node.Way())
	require.Equal(t, "#111111", of.Rules[i].Won.Value)

	_, marks := preview.DrawMarked(d, look, "desk")
	i = slices.IndexFunc(marks, func(m preview.Mark) bool { return m.Facet == desk.FacetIcons && m.Surface == "gtk3" && m.W >= 32 })
	of, ok = preview.Ask(d, look, "desk", marks[i].X+marks[i].W/2, marks[i].Y+marks[i].H/2, 0)
	require.True(t, ok)
	require.NotNil(t, of.Icon)
	require.Equal(t, preview.IconAt{Name: "folder", Pack: "Reef", File: "home/me/.local/share/icons/Reef/48/folder.svg"}, *of.Icon)

	_, ok = preview.Ask(d, look, "desk", -5, 5, 0)
	require.False(t, ok)
}

// TestALayerIsPicturedAsItIsBuilt: a look with a recipe laid over its theme is drawn, pixel for
// pixel, as the theme that the recipe builds.
func TestALayerIsPicturedAsItIsBuilt(t *testing.T) {
	lasting := dressed(t)
	d := lasting
	put := filepath.Join(d.Home, ".themes/Salt/gtk-3.0/gtk.css")
	text, err := os.ReadFile(put)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(put, append(text, "\n@define-color deep #224466; headerbar { color: @deep; } button.suggested-action:hover { padding: 9px; } headerbar button { background-image: url(\"assets/back.svg\"); }\n"...), 0o644))
	require.NoError(t, os.MkdirAll(filepath.Join(filepath.Dir(put), "assets"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(filepath.Dir(put), "assets/back.svg"), []byte(`<svg xmlns="http://www.w3.org/2000/svg" width="8" height="8"><path fill="#204060" d="M0 0h8v8z"/></svg>`), 0o644))
	d = lasting.Snapshot()
	r := layer.Recipe{Name: "Mine", Folder: "Salt-Mine", Base: layer.Base{Kind: parcel.Theme, Folder: "Salt"},
		Colours: []layer.Colour{{Name: "deep", Value: "#a0466b"}},
		Rules: []layer.Rule{
			{Parts: []string{"gtk-3.0", "gtk-4.0"}, Selector: "button", Set: map[string]string{"background-color": "#ddbb99", "border-radius": "9px"}},
			{Parts: []string{"quayside"}, Selector: "panel.top", Set: map[string]string{"background-color": "#663322"}},
		},
		Moves: []layer.Move{{Of: layer.MoveText, To: "120%"}, {Of: layer.MoveSpace, To: "150%"}, {Of: layer.MoveRounding, To: "200%"}, {Of: layer.MoveLines, To: "300%"}, {Of: layer.MoveAccent, To: "#602040", From: "#204060"}}}
	for _, scene := range []string{"desk", "close"} {
		look := preview.Worn(t.Context(), d)
		plain := string(preview.Draw(d, look, scene))
		look.Layer = &r
		laid := string(preview.Draw(d, look, scene))
		require.NotEqual(t, plain, laid)

		root, err := layer.Base{Kind: parcel.Theme, Folder: "Salt"}.Find(d)
		require.NoError(t, err)
		piece, _, err := layer.Build(t.Context(), lasting.Tree(), root, r, nil)
		require.NoError(t, err)
		for _, e := range piece {
			at := filepath.Join(d.Home, ".themes", r.Folder, e.Name)
			if e.Mode.IsDir() {
				require.NoError(t, os.MkdirAll(at, 0o755))
				continue
			}
			text := e.Text
			if e.From != "" {
				text, err = d.Tree().ReadFile(e.From)
				require.NoError(t, err)
			}
			require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
			require.NoError(t, os.WriteFile(at, text, 0o644))
		}
		d = lasting.Snapshot()
		o := outfit.Outfit{}
		for _, facet := range []string{desk.FacetWidgets, desk.FacetBar, desk.FacetNotices, desk.FacetFrame} {
			o = o.With(facet, r.Folder)
		}
		built := string(preview.Draw(d, preview.Draft(t.Context(), d, o), scene))
		require.True(t, laid == built, scene)
		again := preview.Draft(t.Context(), d, o)
		again.Layer = &r
		require.True(t, string(preview.Draw(d, again, scene)) == built, "%s: what is built is not moved once more", scene)
		require.Contains(t, laid, base64.StdEncoding.EncodeToString([]byte(`<svg xmlns="http://www.w3.org/2000/svg" width="8" height="8"><path fill="#602040" d="M0 0h8v8z"/></svg>`)))
		require.NoError(t, os.RemoveAll(filepath.Join(d.Home, ".themes", r.Folder)))
		d = lasting.Snapshot()
	}
}
