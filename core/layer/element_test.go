package layer_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/layer"
	"ivelt/core/parcel"
)

// TestAStyleUnderALayer: what a recipe says of elements is built the same each time, fits the
// style that it was held against, and says of another version what no longer fits; without the
// layer the drawing is the style's own.
func TestAStyleUnderALayer(t *testing.T) {
	drawing := `<svg xmlns="http://www.w3.org/2000/svg"><g id="button"><rect width="9" height="9" fill="#3d7ea6"/><rect width="4" height="4" fill="#ffffff"/></g><rect id="tickon" width="3" height="3" fill="#3d7ea6"/></svg>`
	// Where the files lie does not matter to what is built of them.
	tree, root := onDesk(t, map[string]string{"Stone.svg": drawing, "Stone.conf": "[Style]\nName=Stone\n# kept\nInk=#102030\n", "LICENSE": "CC0\n"})
	elements := func(lines ...string) (out []layer.Element) {
		for _, line := range lines {
			of, err := layer.ParseElement(line)
			require.NoError(t, err)
			out = append(out, of...)
		}
		return out
	}
	r := layer.Recipe{Name: "Stone, mine", Folder: "Stone-Mine", Base: layer.Base{Kind: parcel.Style, Folder: "Stone"}, Elements: elements("tick-on: from tickon; fill #a0466b", "button: 2 fill #eeeeee; edges 2 3", "field: like button"), Dyes: []layer.Dye{{To: "#40a070"}}}
	build := func(r layer.Recipe) (map[string]string, layer.Report) {
		dir, report := built(t, tree, root, r)
		texts := map[string]string{}
		files, err := os.ReadDir(dir)
		require.NoError(t, err)
		for _, f := range files {
			b, err := os.ReadFile(filepath.Join(dir, f.Name()))
			require.NoError(t, err)
			texts[f.Name()] = string(b)
		}
		return texts, report
	}
	held, report, err := layer.Rebased(t.Context(), tree, root, r)
	require.NoError(t, err)
	require.Empty(t, report.Loose())
	require.Equal(t, map[string]string{"fill": "#ffffff"}, held.Elements[2].Was)
	back, err := layer.Parse(held.Bytes())
	require.NoError(t, err)
	require.Equal(t, held, back)
	again, report, err := layer.Rebased(t.Context(), tree, root, held)
	require.NoError(t, err)
	require.True(t, report.Same)
	require.Empty(t, report.Loose())
	require.Equal(t, held, again, "of the same style nothing changes")

	once, _ := build(held)
	twice, _ := build(held)
	require.Equal(t, once, twice)
	require.Equal(t, "[Style]\nName=Stone, mine\n# kept\nInk=#102030\n", once["Stone-Mine.conf"])
	require.Equal(t, "CC0\n", once["LICENSE"])
	require.NotContains(t, once, "Stone.svg")
	text := once["Stone-Mine.svg"]
	require.Contains(t, text, `<g id="button" data-edges="2 3">`)
	require.Contains(t, text, `<g id="field" data-edges="2 3">`)
	require.Contains(t, text, `fill="#eeeeee"`, "greys are not dyed")
	require.NotContains(t, text, "#3d7ea6")
	require.Equal(t, text, string(held.Drawn(t.Context(), []byte(drawing))), "the picture shows what is built")
	none := held
	none.Elements, none.Dyes = nil, nil
	require.Equal(t, drawing, string(none.Drawn(t.Context(), []byte(drawing))))

	// A style that is two files among others is what these are.
	host, err := tree.Host(root)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(host, "other.svg"), []byte("<svg/>"), 0o644))
	piece, _, err := layer.Build(t.Context(), tree, root+"/Stone.svg", held, nil)
	require.NoError(t, err)
	var names []string
	for _, e := range piece {
		names = append(names, e.Name)
	}
	require.Equal(t, []string{"Stone-Mine.conf", "Stone-Mine.svg", "layer.toml"}, names)

	// Another version: one element drawn by the maker, one with another colour, one gone.
	tree, root = onDesk(t, map[string]string{"Stone.svg": strings.NewReplacer(`"tickon"`, `"tick-on"`, "#ffffff", "#fafafa", `"button"`, `"buttons"`).Replace(drawing)})
	_, report = build(held)
	says := map[string]string{}
	for _, f := range report.Loose() {
		says[f.Change+" "+string(f.State)] = f.Says.String()
	}
	require.Equal(t, map[string]string{
		"tick-on moved": "tick-on: the style draws it itself now, and that is kept",
		"button gone":   "button: shape 2: fill #eeeeee: the style has no such element; nearest: buttons",
		"field gone":    "field: like button: the style has no such element; nearest: buttons",
	}, says)

	for text, why := range map[string]string{
		"a b: like c": "no name", "tick: like tick": "does not come from itself", "tick: edges 1 2 3": "one, two or four", "tick: from a; like b": "exclude", "tick": "is not written", "tick: fill url(x)": "not one value", "tick: onclick x": "cannot be set",
	} {
		_, err := layer.ParseElement(text)
		require.ErrorContains(t, err, strings.ReplaceAll(why, "cannot be set", "can be set"), text)
	}
	wrong := held
	wrong.Base.Kind = parcel.Theme
	wrong.Dyes = nil
	require.ErrorContains(t, wrong.Valid(), "elements are of picture styles")
}
