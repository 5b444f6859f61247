package truth

import (
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/gtkrc"
	"ivelt/core/layer"
	"ivelt/core/parcel"
	"ivelt/demo"
)

// layerBase is a theme that layers are laid over.
type layerBase struct{ name, dir, system, part string }

// layered are the demo's themes, and of the real makers' that have a file one of so many, or all.
func layered(t *testing.T, file string, step int) []layerBase {
	t.Helper()
	system := t.TempDir()
	themes := filepath.Join(system, "usr/share/themes")
	require.NoError(t, demo.WriteThemes(themes))
	out := []layerBase{{"Reedbed", filepath.Join(themes, "Reedbed"), system, "demo"}, {"Saltpan", filepath.Join(themes, "Saltpan"), system, "demo"}}
	for i, theme := range realThemes(t, file) {
		if *all || i%step == 0 {
			out = append(out, layerBase{theme.name, theme.dir, theme.root, theme.part()})
		}
	}
	return out
}

// desk is one that has the theme, and where it lies there.
func (b layerBase) desk(t *testing.T) (*desk.Desk, string) {
	t.Helper()
	d, err := desk.Open("truth", t.TempDir(), b.system, "")
	require.NoError(t, err)
	d.SetSurfaces(desk.Builtin())
	root, err := layer.Base{Kind: parcel.Theme, Folder: b.name}.Find(d)
	require.NoError(t, err)
	return d, root
}

// TestLayersAreWornAsBuilt: under a layer over the demo's themes and over real makers', GTK 3
// and 4 compute what Ivelt says they do; and whatever the layer does not change they compute
// as under the theme itself. A layer that changes nothing is worn like its theme, value for
// value.
func TestLayersAreWornAsBuilt(t *testing.T) {
	t.Parallel()
	counts := map[string]*[4]int{} // by part: values as Ivelt says, of all; the others as before, of all
	for _, g := range eachGTK(t) {
		for _, of := range layered(t, "index.theme", 32) {
			sheet := realTheme{name: of.name, dir: of.dir}.sheetOf(g.generation)
			if sheet == "" {
				continue
			}
			d, root := of.desk(t)
			r := layer.Recipe{Name: "Mine", Folder: "Mine", Base: layer.Base{Kind: parcel.Theme, Folder: of.name}}
			within, err := filepath.Rel(of.dir, sheet)
			require.NoError(t, err)
			bare := filepath.Join(laidOut(t, d, root, r, of.dir), within)
			for _, name := range []string{"theme_selected_bg_color", "accent_bg_color", "accent_color", "selected_bg_color"} {
				r.Colours = append(r.Colours, layer.Colour{Name: name, Value: "#a0466b"})
			}
			parts := []string{fmt.Sprintf("gtk-%d.0", g.generation)}
			r.Rules = []layer.Rule{
				{Parts: parts, Selector: "button", Set: map[string]string{"border-radius": "1px", "font-size": "15px"}},
				{Parts: parts, Selector: "entry > text, label", Set: map[string]string{"color": "mix(#102030, #a0466b, 0.25)"}},
			}
			changed := filepath.Join(laidOut(t, d, root, r, of.dir), within)

			n := counts[of.part]
			if n == nil {
				n = &[4]int{}
				counts[of.part] = n
			}
			was, same, now := g.computes(t, sheet), g.computes(t, bare), g.computes(t, changed)
			require.Len(t, now, len(was))
			before, err := gtkcss.LoadFile(t.Context(), sheet, g.generation)
			require.NoError(t, err)
			after, err := gtkcss.LoadFile(t.Context(), changed, g.generation)
			require.NoError(t, err)
			old, cascade := gtkcss.NewCascade(before), gtkcss.NewCascade(after)
			differ := 0
			for i, node := range now {
				require.Len(t, same[i].values, len(was[i].values), "%s: a layer of nothing: %s", of.name, describe(node.Node))
				for name, value := range was[i].values {
					require.True(t, sameValue(value, same[i].values[name]), "%s: a layer of nothing: %s: %s was %q, is %q", of.name, describe(node.Node), name, value, same[i].values[name])
				}
				ours, theirs := cascade.Style(node.Node), old.Style(was[i].Node)
				for _, name := range gtkcss.Properties(g.generation) {
					value, has := node.values[name]
					if !has {
						continue
					}
					n[1]++
					if sameValue(value, ours.Text(name)) {
						n[0]++
					}
					if ours.Text(name) != theirs.Text(name) {
						differ++
						continue
					}
					n[3]++
					if sameValue(value, was[i].values[name]) {
						n[2]++
					} else if n[3]-n[2] < 5 {
						t.Logf("%s, GTK %d: %s: %s was %q, is %q", of.name, g.generation, describe(node.Node), name, was[i].values[name], value)
					}
				}
			}
			require.Positive(t, differ, "the layer over %s changes something", of.name)
		}
	}
	for part, n := range counts {
		t.Logf("%s: %d of %d values are as Ivelt says; of what no layer changes %d of %d are as before", part, n[0], n[1], n[2], n[3])
		require.Greater(t, n[1], 5000, part)
		require.GreaterOrEqual(t, 1000*n[0], 995*n[1], part)
		require.GreaterOrEqual(t, 1000*n[2], 999*n[3], part)
	}
}

// TestLayersAreWornByGTK2: under a layer over the demo's themes and over real makers', GTK 2
// gives widgets the styles that Ivelt says: a colour that the theme names, written where it is
// named, and lines at the end.
func TestLayersAreWornByGTK2(t *testing.T) {
	t.Parallel()
	s := styles2{build(t, "styles2", "gtk+-2.0", "libgtk2.0-dev"), display(t), yard.engines}
	const lines = "style \"laid-over\" { fg[NORMAL] = \"#102030\" bg[SELECTED] = \"#a0466b\" }\nclass \"GtkLabel\" style \"laid-over\""
	counts, changed := map[string]*score{}, map[string]int{}
	for _, of := range layered(t, "gtk-2.0/gtkrc", 16) {
		d, root := of.desk(t)
		r := layer.Recipe{Name: "Mine", Folder: "Mine", Base: layer.Base{Kind: parcel.Theme, Folder: of.name}, Lines: []layer.Lines{{Text: lines}},
			Colours: []layer.Colour{{Name: "selected_bg_color", Value: "#a0466b"}, {Name: "base_color", Value: "#f0e8d8"}}}
		home := t.TempDir()
		require.NoError(t, os.Symlink(filepath.Dir(laidOut(t, d, root, r, of.dir)), filepath.Join(home, ".themes")))
		n, was := s.hold(t, home, "Mine"), s.hold(t, home, of.name)
		if counts[of.part] == nil {
			counts[of.part] = &score{}
		}
		counts[of.part].all += n.compared
		counts[of.part].same += n.compared - n.apart
		widget := []gtkrc.Widget{gtkrc.Of("GtkWindow", "GtkWindow")}
		if n.file.Style(widget).Bg[gtkrc.Selected] != was.file.Style(widget).Bg[gtkrc.Selected] {
			changed[of.part]++
		}
		if n.apart > was.apart && of.part != "held out" {
			t.Errorf("%s: %d of %d apart, without the layer %d: %v", of.name, n.apart, n.compared, was.apart, n.first)
		}
	}
	for part, n := range counts {
		t.Logf("%s: %s values of GTK 2 under layers; the colour of what is chosen is another in %d themes", part, *n, changed[part])
		require.GreaterOrEqual(t, 100*n.same, 99*n.all, part)
	}
	require.Positive(t, changed["demo"])
}

// laidOut builds a recipe into a folder that lies among the same others as its base.
func laidOut(t *testing.T, d *desk.Desk, root string, r layer.Recipe, base string) (dir string) {
	t.Helper()
	piece, _, err := layer.Build(t.Context(), d.Tree(), root, r, nil)
	require.NoError(t, err)
	among := t.TempDir()
	others, err := os.ReadDir(filepath.Dir(base))
	require.NoError(t, err)
	for _, o := range others {
		require.NoError(t, os.Symlink(filepath.Join(filepath.Dir(base), o.Name()), filepath.Join(among, o.Name())))
	}
	dir = filepath.Join(among, r.Folder)
	require.NoError(t, os.MkdirAll(dir, 0o755))
	for _, e := range piece {
		at := filepath.Join(dir, e.Name)
		switch {
		case e.Mode.IsDir():
			require.NoError(t, os.MkdirAll(at, 0o755))
		case e.Mode&fs.ModeSymlink != 0:
			require.NoError(t, os.Symlink(e.Link, at))
		case e.From != "":
			b, err := d.Tree().ReadFile(e.From)
			require.NoError(t, err)
			require.NoError(t, os.WriteFile(at, b, 0o644))
		default:
			require.NoError(t, os.WriteFile(at, e.Text, 0o644))
		}
	}
	return strings.TrimSuffix(dir, "/")
}

// BenchmarkBuildALayer builds a layer over each of some real makers' themes anew, as an
// archive, the theme read again each time.
func BenchmarkBuildALayer(b *testing.B) {
	for _, theme := range realThemes(b, "gtk-3.0/gtk.css") {
		b.Run(theme.name, func(b *testing.B) {
			d, err := desk.Open("truth", b.TempDir(), theme.root, "")
			require.NoError(b, err)
			d.SetSurfaces(desk.Builtin())
			r := layer.Recipe{Name: "Mine", Folder: "Mine", Base: layer.Base{Kind: parcel.Theme, Folder: theme.name}, Colours: []layer.Colour{{Name: "theme_selected_bg_color", Value: "#a0466b"}}}
			for b.Loop() {
				root, err := layer.Base{Kind: parcel.Theme, Folder: theme.name}.Find(d)
				require.NoError(b, err)
				piece, _, err := layer.Build(b.Context(), d.Tree(), root, r, nil)
				require.NoError(b, err)
				require.NoError(b, layer.Archive(b.Context(), io.Discard, d.Tree(), r.Folder, piece))
			}
		})
	}
}

// TestTextIsKeptOverAnUpdate: text of 11 points over the demo's themes and real makers' is what GTK 3
// and 4 compute, also after the theme below was updated and says 9, and what else is new in it is
// there. (The values: common practice, no source.)
func TestTextIsKeptOverAnUpdate(t *testing.T) {
	t.Parallel()
	for _, g := range eachGTK(t) {
		labels := 0
		for _, of := range layered(t, "index.theme", 60) {
			home := t.TempDir()
			dir := filepath.Join(home, ".themes", of.name)
			require.NoError(t, os.CopyFS(dir, os.DirFS(of.dir)))
			sheet := realTheme{name: of.name, dir: dir}.sheetOf(g.generation)
			if sheet == "" {
				continue
			}
			d, err := desk.Open("truth", home, t.TempDir(), "")
			require.NoError(t, err)
			d.SetSurfaces(desk.Builtin())
			base := layer.Base{Kind: parcel.Theme, Folder: of.name}
			root, err := base.Find(d)
			require.NoError(t, err)
			r := layer.Recipe{Name: "Mine", Folder: "Mine", Base: base, Rules: []layer.Rule{{Parts: []string{fmt.Sprintf("gtk-%d.0", g.generation)}, Selector: "window label", Set: map[string]string{"font-size": "11pt"}}}}
			within, err := filepath.Rel(dir, sheet)
			require.NoError(t, err)
			r, _, err = layer.Rebased(t.Context(), d.Tree(), root, r)
			require.NoError(t, err)
			text, err := os.ReadFile(sheet)
			require.NoError(t, err)
			require.NoError(t, os.WriteFile(sheet, append(text, "\nwindow label { font-size: 9pt; color: #123456; }\n"...), 0o644))
			_, report, err := layer.Rebased(t.Context(), d.Tree(), root, r)
			require.NoError(t, err)
			require.False(t, report.Same)
			built := filepath.Join(laidOut(t, d, root, r, dir), within)
			after, err := gtkcss.LoadFile(t.Context(), built, g.generation)
			require.NoError(t, err)
			cascade, fresh := gtkcss.NewCascade(after), false
			for _, node := range g.computes(t, built) {
				size := node.values["font-size"]
				if node.Node.Name != "label" || size == "" {
					continue
				}
				require.True(t, sameValue(size, cascade.Style(node.Node).Text("font-size")), "%s: %s: %s", of.name, describe(node.Node), size)
				if sameValue("14.6667px", size) { // others have a size by a rule that is stronger
					labels++
				}
				require.False(t, sameValue("12px", size), "%s: %s", of.name, describe(node.Node))
				fresh = fresh || sameValue("rgb(18,52,86)", node.values["color"])
			}
			require.True(t, fresh, of.name)
		}
		require.Greater(t, labels, 50)
		t.Logf("GTK %d: %d labels of 11 points", g.generation, labels)
	}
}
