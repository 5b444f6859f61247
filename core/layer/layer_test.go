package layer_test

import (
	"bytes"
	"fmt"
	"io/fs"
	"maps"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/gtkrc"
	"ivelt/core/layer"
	"ivelt/core/parcel"
)

// salt is a theme as makers write them.
var salt = map[string]string{
	"index.theme":             "[Desktop Entry]\nType=X\nName=Salt\nName[de]=Salz\n\n[Parts]\nGtkTheme=Salt\nIconTheme=Shingle\n",
	"gtk-3.0/gtk.css":         "@import url(\"colours.css\");\nwindow, dialog { color: @ink; font-size: 9pt; }\n",
	"gtk-3.0/gtk-dark.css":    "@define-color accent #88aacc;\n@define-color ink white;\nwindow { color: @ink }\n",
	"gtk-3.0/colours.css":     "@define-color accent #3d7ea6;\n@define-color ink #222222;\n",
	"gtk-3.0/assets/tick.svg": "<svg/>",
	"gtk-2.0/gtkrc":           "gtk-color-scheme = \"accent:#3d7ea6\\nfg:#222222\"\nstyle \"s\" { bg[SELECTED] = @accent }\nclass \"*\" style \"s\"\n",
	"bar/shell.css":           "panel { color: @ink; }\n@define-color ink #333333;\n",
}

const recipe = `format = 1
name = "Salt, mine"
folder = "Salt-Mine"

[base]
kind = "theme"
folder = "Salt"
licence = "CC0-1.0"

[[colour]]
name = "accent"
value = "#a0466b"
dark = "#d77ba0"

[[rule]]
parts = ["gtk-3.0"]
selector = "window"
set = { font-size = "11pt", color = "mix(@ink, @accent, 0.5)" }

[[rule]]
parts = ["bar"]
selector = "panel label.clock"
set = { font-size = "11pt" }

[[lines]]
text = "style \"t\" { fg[NORMAL] = @accent }\nclass \"GtkLabel\" style \"t\""
`

// onDesk puts files into a theme's folder of a home, and returns the desk's tree and the
// theme's place in it.
func onDesk(t *testing.T, files map[string]string) (*desk.Tree, string) {
	t.Helper()
	home := t.TempDir()
	dir := filepath.Join(home, ".themes/Salt")
	for name, text := range files {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(dir, name)), 0o755))
		if to, ok := strings.CutPrefix(text, "-> "); ok {
			require.NoError(t, os.Symlink(to, filepath.Join(dir, name)))
			continue
		}
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o644))
	}
	d, err := desk.Open("test", home, t.TempDir(), "")
	require.NoError(t, err)
	d.SetSurfaces(desk.Builtin())
	root, err := layer.Base{Kind: parcel.Theme, Folder: "Salt"}.Find(d)
	require.NoError(t, err)
	return d.Tree(), root
}

func parsed(t *testing.T, text string) layer.Recipe {
	t.Helper()
	r, err := layer.Parse([]byte(text))
	require.NoError(t, err)
	return r
}

// built is a piece on disk.
func built(t *testing.T, tree *desk.Tree, root string, r layer.Recipe) (dir string, report layer.Report) {
	t.Helper()
	piece, report, err := layer.Build(t.Context(), tree, root, r, nil)
	require.NoError(t, err)
	dir = t.TempDir()
	for _, e := range piece {
		at := filepath.Join(dir, e.Name)
		switch {
		case e.Mode.IsDir():
			require.NoError(t, os.MkdirAll(at, 0o755))
		case e.Mode&fs.ModeSymlink != 0:
			require.NoError(t, os.Symlink(e.Link, at))
		case e.From != "":
			b, err := tree.ReadFile(e.From)
			require.NoError(t, err)
			require.NoError(t, os.WriteFile(at, b, 0o644))
		case e.Make != nil:
			b, err := e.Make()
			require.NoError(t, err)
			require.Len(t, b, int(e.Size), e.Name)
			require.NoError(t, os.WriteFile(at, b, 0o644))
		default:
			require.NoError(t, os.WriteFile(at, e.Text, 0o644))
		}
	}
	return dir, report
}

// TestBuild: what is laid over wins, in the light and the dark and in GTK 2's file; all else is
// the base's own, and the piece says what it is and where it came from.
func TestBuild(t *testing.T) {
	tree, root := onDesk(t, salt)
	r, _, err := layer.Rebased(t.Context(), tree, root, parsed(t, recipe))
	require.NoError(t, err)
	dir, report := built(t, tree, root, r)
	require.True(t, report.Same)
	require.Empty(t, report.Loose())

	sheet := func(name string) *gtkcss.Sheet {
		s, err := gtkcss.Load(t.Context(), os.DirFS(dir), name)
		require.NoError(t, err)
		require.Empty(t, s.Notes)
		return s
	}
	colour := func(name, of string) string {
		c, ok := sheet(name).Colour(of)
		require.True(t, ok, name)
		return c.String()
	}
	require.Equal(t, "160,70,107,1.000", colour("gtk-3.0/gtk.css", "accent"))
	require.Equal(t, "215,123,160,1.000", colour("gtk-3.0/gtk-dark.css", "accent"))
	require.Equal(t, "34,34,34,1.000", colour("gtk-3.0/gtk.css", "ink"))
	text, err := os.ReadFile(filepath.Join(dir, "gtk-3.0/gtk.css"))
	require.NoError(t, err)
	require.Equal(t, `/* Laid over the base's own sheet. The recipe is in ../layer.toml. */
@import url("gtk.base.css");
@define-color accent #a0466b;
window {
  color: mix(@ink, @accent, 0.5);
  font-size: 11pt;
}
`, string(text))
	old, err := gtkrc.Load(os.DirFS(dir), "gtk-2.0/gtkrc")
	require.NoError(t, err)
	require.Empty(t, old.Notes)
	require.Equal(t, "#a0466b", old.Style([]gtkrc.Widget{{Name: "GtkWindow", Types: []string{"GtkWindow"}}}).Bg[3].CSS())
	index, err := os.ReadFile(filepath.Join(dir, "index.theme"))
	require.NoError(t, err)
	require.Equal(t, "[Desktop Entry]\nType=X\nName=Salt, mine\n\n[Parts]\nGtkTheme=Salt-Mine\nIconTheme=Shingle\n", string(index))
	kept, err := os.ReadFile(filepath.Join(dir, layer.File))
	require.NoError(t, err)
	require.Equal(t, r, parsed(t, string(kept)))
	for own, name := range map[string]string{
		"gtk-3.0/gtk.css": "gtk-3.0/gtk.base.css", "gtk-3.0/gtk-dark.css": "gtk-3.0/gtk-dark.base.css", "bar/shell.css": "bar/shell.base.css",
		"gtk-3.0/colours.css": "gtk-3.0/colours.css", "gtk-3.0/assets/tick.svg": "gtk-3.0/assets/tick.svg",
	} {
		b, err := os.ReadFile(filepath.Join(dir, name))
		require.NoError(t, err)
		require.Equal(t, salt[own], string(b), name)
	}
}

// TestAnUpdateOfTheBase: each change says how it stands to a base that moved on.
func TestAnUpdateOfTheBase(t *testing.T) {
	tree, root := onDesk(t, salt)
	r, _, err := layer.Rebased(t.Context(), tree, root, parsed(t, recipe))
	require.NoError(t, err)
	require.Equal(t, map[string]string{"gtk-3.0/gtk.css": "#3d7ea6", "gtk-3.0/gtk-dark.css": "#88aacc", "gtk-2.0/gtkrc": "#3d7ea6"}, r.Colours[0].Was)
	newer := maps.Clone(salt)
	newer["gtk-3.0/colours.css"] = "@define-color accent #112233;\n@define-color ink #222222;\n"
	newer["gtk-3.0/gtk-dark.css"] = "@define-color accents #88aacc;\nwindows { color: white }\n"
	newer["gtk-3.0/gtk.css"] = "@import 'colours.css'; window { color: @ink; }\n"
	tree, root = onDesk(t, newer)
	report, err := layer.Check(t.Context(), tree, root, r)
	require.NoError(t, err)
	require.False(t, report.Same)
	var said []string
	for _, f := range report.Loose() {
		said = append(said, f.Says.String())
	}
	require.Equal(t, []string{
		"gtk-3.0/gtk.css: the theme changed accent from #3d7ea6 to #112233; the layer says #a0466b",
		"gtk-3.0/gtk-dark.css: there is no accent any more; nearest: accents",
		"gtk-3.0/gtk-dark.css: there is no window { color } any more; nearest: windows",
		"gtk-3.0/gtk.css: the theme no longer sets window { font-size } (it was 9pt); the layer says 11pt",
	}, said)
	// It is built all the same, and held against the new base it fits again.
	dir, _ := built(t, tree, root, r)
	require.FileExists(t, filepath.Join(dir, "gtk-3.0/gtk.base.css"))
	r, _, err = layer.Rebased(t.Context(), tree, root, r)
	require.NoError(t, err)
	report, err = layer.Check(t.Context(), tree, root, r)
	require.NoError(t, err)
	require.True(t, report.Same)
	require.Empty(t, report.Loose())
	gone := maps.Clone(newer)
	maps.DeleteFunc(gone, func(name, _ string) bool { return strings.HasPrefix(name, "bar") || strings.HasPrefix(name, "gtk-2.0") })
	tree, root = onDesk(t, gone)
	report, err = layer.Check(t.Context(), tree, root, r)
	require.NoError(t, err)
	require.Len(t, report.Loose(), 3)
}

// TestBuildsAreTheSame: of recipes by chance over bases by chance the same piece is built each
// time, a recipe held twice against the same base is the same, and a layer that changes nothing
// wears like its base.
func TestBuildsAreTheSame(t *testing.T) {
	for seed := range uint64(25) {
		chance := rand.New(rand.NewPCG(26, seed))
		files := map[string]string{"index.theme": salt["index.theme"], "x/y.txt": fmt.Sprint(seed)}
		for _, part := range []string{"gtk-3.0", "gtk-4.0"} {
			for _, name := range []string{"gtk.css", "gtk-dark.css"} {
				var b strings.Builder
				for i := range 1 + chance.IntN(6) {
					fmt.Fprintf(&b, "@define-color c%d #%06x;\n.k%d > label { color: @c%d; padding: %dpx }\n", i, chance.IntN(1<<24), i, i, chance.IntN(30))
				}
				files[part+"/"+name] = b.String()
			}
		}
		files["gtk-4.0/assets"] = "-> ../x"
		tree, root := onDesk(t, files)
		r := layer.Recipe{Name: "Mine", Folder: "Mine", Base: layer.Base{Kind: parcel.Theme, Folder: "Salt"}}
		bare, _ := built(t, tree, root, r)
		for name, text := range files {
			if b, err := os.ReadFile(filepath.Join(bare, name)); name != "index.theme" && !strings.HasPrefix(text, "->") {
				require.NoError(t, err)
				require.Equal(t, text, string(b))
			}
		}
		for range chance.IntN(4) {
			r.Colours = append(r.Colours, layer.Colour{Name: fmt.Sprintf("c%d", chance.IntN(5)), Value: fmt.Sprintf("#%06x", chance.IntN(1<<24))})
			r.Rules = append(r.Rules, layer.Rule{Parts: []string{"gtk-3.0", "gtk-4.0"}, Selector: fmt.Sprintf(".k%d > label", chance.IntN(5)), Set: map[string]string{"padding": "3px", "margin": "1px"}})
		}
		once, _, err := layer.Rebased(t.Context(), tree, root, r)
		require.NoError(t, err)
		twice, report, err := layer.Rebased(t.Context(), tree, root, once)
		require.NoError(t, err)
		require.Equal(t, once, twice)
		require.Equal(t, string(once.Bytes()), string(twice.Bytes()))
		require.Empty(t, slices.DeleteFunc(report.Loose(), func(f layer.Fit) bool { return f.Sheet == "" }))
		require.Equal(t, once, parsed(t, string(once.Bytes())))
		var first, second bytes.Buffer
		for _, into := range []*bytes.Buffer{&first, &second} {
			piece, _, err := layer.Build(t.Context(), tree, root, once, nil)
			require.NoError(t, err)
			require.NoError(t, layer.Archive(t.Context(), into, tree, "Mine", piece))
		}
		require.Equal(t, first.Bytes(), second.Bytes())
	}
}

// TestALayerOverALayer: it takes in what that one takes in; none is built over itself.
func TestALayerOverALayer(t *testing.T) {
	tree, root := onDesk(t, salt)
	dir, _ := built(t, tree, root, parsed(t, recipe))
	files := map[string]string{}
	require.NoError(t, filepath.WalkDir(dir, func(p string, e fs.DirEntry, err error) error {
		if err == nil && e.Type().IsRegular() {
			b, _ := os.ReadFile(p)
			rel, _ := filepath.Rel(dir, p)
			files[rel] = string(b)
		}
		return err
	}))
	tree, root = onDesk(t, files)
	again := parsed(t, strings.NewReplacer("Salt-Mine", "Salt-Other", "#a0466b", "#00ff00").Replace(recipe))
	dir, _ = built(t, tree, root, again)
	s, err := gtkcss.Load(t.Context(), os.DirFS(dir), "gtk-3.0/gtk.css")
	require.NoError(t, err)
	c, _ := s.Colour("accent")
	require.Equal(t, "0,255,0,1.000", c.String())
	require.FileExists(t, filepath.Join(dir, "gtk-3.0/gtk.base2.css"))
	again.Folder = "Salt" // what the layer below is built over
	again.Base.Folder = "Salt-Mine"
	_, _, err = layer.Build(t.Context(), tree, root, again, nil)
	require.ErrorIs(t, err, layer.ErrCycle)
}

// TestOddBases: links, pipes and circles.
func TestOddBases(t *testing.T) {
	files := maps.Clone(salt)
	files["gtk-4.0"] = "-> gtk-3.0"
	files["gone"] = "-> nowhere"
	files["out"] = "-> /etc-not-there"
	tree, root := onDesk(t, files)
	_, report := built(t, tree, root, parsed(t, recipe))
	require.Equal(t, []string{"gone", "out"}, report.Left)
	files["up"] = "-> ../.."
	tree, root = onDesk(t, files)
	_, _, err := layer.Build(t.Context(), tree, root, parsed(t, recipe), nil)
	require.ErrorIs(t, err, layer.ErrBase)
}

// TestRecipesThatAreNone: what cannot be built, and what would say more than one thing, is
// refused with what is wrong.
func TestRecipesThatAreNone(t *testing.T) {
	for change, says := range map[[2]string]string{
		{"format = 1", "format = 9"}:                                 "reads 1",
		{`name = "Salt, mine"`, `name = ""`}:                         "name is up to",
		{`"Salt-Mine"`, `"../Salt"`}:                                 "folder is up to",
		{`"Salt-Mine"`, `"Salt"`}:                                    "another than the base's",
		{`kind = "theme"`, `kind = "font"`}:                          "only window themes",
		{`folder = "Salt"` + "\n", `folder = "../x"` + "\n"}:         "one folder",
		{`value = "#a0466b"`, `value = "#a0466b; } * { color: red"`}: "is no colour",
		{`value = "#a0466b"`, `value = "no colour at all ("`}:        "is no colour",
		{`name = "accent"`, `name = "a b"`}:                          "no name of a colour",
		{`selector = "window"`, `selector = "window { } *"`}:         "not one rule",
		{`selector = "window"`, `selector = ""`}:                     "not one rule",
		{`selector = "window"`, `selector = "window:nonesuch("`}:     "rule 1",
		{`font-size = "11pt", `, `font-size = "11pt; x: y", `}:       "rule 1",
		{`font-size = "11pt", `, `font-size = "11pt } * {", `}:       "rule 1",
		{`font-size = "11pt", `, `font-size = "", `}:                 "rule 1",
		{`font-size = "11pt", `, `font-sise = "11pt", `}:             "GTK 3 would not take it",
		{`parts = ["bar"]`, `parts = ["../bar"]`}:                    "no part of a theme",
		{`parts = ["bar"]`, `parts = []`}:                            "parts says",
		{`class \"GtkLabel\" style`, `clas \"GtkLabel`}:              "GTK 2 would not read them",
		{"[[lines]]", "[[line]]"}:                                    "line is not known",
	} {
		require.Contains(t, recipe, change[0])
		_, err := layer.Parse([]byte(strings.Replace(recipe, change[0], change[1], 1)))
		require.ErrorIs(t, err, layer.ErrFormat, change[1])
		require.ErrorContains(t, err, says, change[1])
	}
	_, err := layer.ParseRule("gtk-3.0, gtk-4.0: window > label { color: red; font-size: 9pt }")
	require.NoError(t, err)
	for _, text := range []string{"", "gtk-3.0", "gtk-3.0:", "gtk-3.0: a", "gtk-3.0: a { b: c } d { e: f }", ": a { color: red }"} {
		_, err := layer.ParseRule(text)
		require.Error(t, err, text)
	}
}

// TestTheSchema is the published one, takes the recipe, and refuses what reading refuses.
func TestTheSchema(t *testing.T) {
	published, err := os.ReadFile("../../docs/layer.schema.json")
	require.NoError(t, err)
	require.Equal(t, string(layer.Schema()), string(published), "go run ./cmd/ivelt layer schema > docs/layer.schema.json")
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(layer.Schema()))
	require.NoError(t, err)
	c := jsonschema.NewCompiler()
	require.NoError(t, c.AddResource("layer.json", doc))
	_, err = c.Compile("layer.json")
	require.NoError(t, err)
}

func FuzzParse(f *testing.F) {
	f.Add([]byte(recipe))
	f.Fuzz(func(t *testing.T, b []byte) {
		r, err := layer.Parse(b)
		if err != nil {
			return
		}
		again, err := layer.Parse(r.Bytes())
		require.NoError(t, err)
		require.Equal(t, r.Bytes(), again.Bytes())
	})
}

// TestColoursOfGTK2: they are written where the base names them, in every form that GTK 2
// reads, and nowhere else.
func TestColoursOfGTK2(t *testing.T) {
	files := map[string]string{
		"gtk-2.0/gtkrc":      "# accent:#000000\ninclude \"colours.rc\"\ngtk_color_scheme = \"base:#ffffff;accent : #112233;my_accent:#445566\"\nstyle \"s\" { bg[NORMAL] = @accent text[NORMAL] = @my_accent }\nclass \"*\" style \"s\"\n",
		"gtk-2.0/colours.rc": "gtk-color-scheme = \"fg:#000000\\naccent:#aabbcc\"\n",
	}
	tree, root := onDesk(t, files)
	r := layer.Recipe{Name: "Mine", Folder: "Mine", Base: layer.Base{Kind: parcel.Theme, Folder: "Salt"}, Colours: []layer.Colour{{Name: "accent", Value: "#a0466b"}}}
	dir, report := built(t, tree, root, r)
	require.Len(t, report.Fits, 1)
	f, err := gtkrc.Load(os.DirFS(dir), "gtk-2.0/gtkrc")
	require.NoError(t, err)
	style := f.Style([]gtkrc.Widget{{Name: "GtkWindow", Types: []string{"GtkWindow"}}})
	require.Equal(t, "#a0466b", style.Bg[0].CSS())
	require.Equal(t, "#445566", style.Text[0].CSS())
	text, err := os.ReadFile(filepath.Join(dir, "gtk-2.0/gtkrc"))
	require.NoError(t, err)
	require.Equal(t, strings.Replace(files["gtk-2.0/gtkrc"], "#112233", "#a0466b", 1), string(text))
	text, err = os.ReadFile(filepath.Join(dir, "gtk-2.0/colours.rc"))
	require.NoError(t, err)
	require.Equal(t, strings.Replace(files["gtk-2.0/colours.rc"], "#aabbcc", "#a0466b", 1), string(text))
}
