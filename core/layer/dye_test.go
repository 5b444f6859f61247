package layer_test

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/icontheme"
	"ivelt/core/layer"
	"ivelt/core/parcel"
	"ivelt/core/recolour"
	"ivelt/core/xcursor"
)

func icon(colour string) string {
	return fmt.Sprintf(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 8 8"><rect width="8" height="8" fill="%s"/><rect width="2" height="2" fill="#ffffff"/></svg>`, colour)
}

// packed puts a pack and what is built over it on a desk of its own.
func packed(t *testing.T, files map[string]string) (*desk.Desk, string) {
	t.Helper()
	home := t.TempDir()
	for name, text := range files {
		at := filepath.Join(home, ".icons/Reef", name)
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		if to, ok := strings.CutPrefix(text, "-> "); ok {
			require.NoError(t, os.Symlink(to, at))
			continue
		}
		require.NoError(t, os.WriteFile(at, []byte(text), 0o644))
	}
	d, err := desk.Open("test", home, t.TempDir(), "")
	require.NoError(t, err)
	d.SetSurfaces(desk.Builtin())
	root, err := layer.Base{Kind: parcel.Icons, Folder: "Reef"}.Find(d)
	require.NoError(t, err)
	return d, root
}

var reef = map[string]string{
	"index.theme":                     "[Icon Theme]\nName=Reef\nInherits=hicolor\nDirectories=48/places,48/apps,16/places\nScaledDirectories=48@2x/places\nExample=folder\n\n[48/places]\nSize=48\nContext=Places\n[48/apps]\nSize=48\n[16/places]\nSize=16\n[48@2x/places]\nSize=48\nScale=2\n",
	"48/places/folder.svg":            icon("#3d7ea6"),
	"48/places/folder-music.svg":      icon("#3d7ea6"),
	"48/places/folder-odd.svg":        icon("#808080"),
	"48/places/folder-symbolic.svg":   icon("#3d7ea6"),
	"48/places/inode-directory.svg":   "-> folder.svg",
	"48/places/user-home.svg":         "-> inode-directory.svg",
	"48/places/folder-trash.svg":      "-> ../apps/trash.svg",
	"48/apps/trash.svg":               icon("#3d7ea6"),
	"48/apps/web.svg":                 icon("#b8862b"),
	"48/apps/start-here.svg":          "-> ../../48@2x/places/folder.svg",
	"48@2x":                           "-> 48",
	"16/places/note.txt":              "no icon",
	"icon-theme.cache":                "old",
	"48/places/folder-broken.svg":     "<svg",
	"48/places/folder-large.symbolic": "x",
}

// TestIconsInAnotherColour: only what is dyed is stored, with the links that lead to it; the
// rest comes from the pack below by Inherits, and a lookup finds just as many icons as before.
func TestIconsInAnotherColour(t *testing.T) {
	d, root := packed(t, reef)
	r := layer.Recipe{Name: "Reef, rose", Folder: "Reef-Rose", Base: layer.Base{Kind: parcel.Icons, Folder: "Reef"}, Dyes: []layer.Dye{{Icons: []string{"folder*"}, To: "#a0466b", Within: 40}}}
	r, report, err := layer.Rebased(t.Context(), d.Tree(), root, r)
	require.NoError(t, err)
	require.Equal(t, "#3d7ea6", r.Dyes[0].Was)
	require.Contains(t, report.Fits[0].Says.String(), "folder*: their main colour was #3d7ea6, is #a0466b")
	again, err := layer.Parse(r.Bytes())
	require.NoError(t, err)
	require.Equal(t, r, again)
	piece, _, err := layer.Build(t.Context(), d.Tree(), root, r, nil)
	require.NoError(t, err)
	has := map[string]string{}
	for _, e := range piece {
		switch {
		case e.Mode.IsDir():
		case e.Link != "":
			has[e.Name] = "-> " + e.Link
		default:
			require.Empty(t, e.From, "%s: nothing is copied", e.Name)
			has[e.Name] = string(e.Text)
		}
	}
	rose := icon("#a0466b")
	require.Contains(t, has["index.theme"], "Inherits=Reef,hicolor")
	require.Contains(t, has["index.theme"], "\nDirectories=48/places,48/apps\n")
	require.Contains(t, has["index.theme"], "ScaledDirectories=48@2x/places")
	require.Contains(t, has["index.theme"], "[48@2x/places]\nSize=48\nScale=2")
	require.Equal(t, string(r.Bytes()), has["layer.toml"])
	delete(has, "index.theme")
	delete(has, "layer.toml")
	require.Equal(t, map[string]string{
		"48/places/folder.svg": rose, "48/places/folder-music.svg": rose, "48/places/folder-trash.svg": rose,
		"48/places/inode-directory.svg": "-> folder.svg", "48/places/user-home.svg": "-> folder.svg", "48@2x": "-> 48",
		"48/apps/start-here.svg": "-> ../places/folder.svg",
	}, has)
	twice, _, err := layer.Build(t.Context(), d.Tree(), root, r, nil)
	require.NoError(t, err)
	require.Equal(t, piece, twice, "the same recipe makes the same piece")

	for _, e := range piece {
		at := filepath.Join(d.Home, ".icons/Reef-Rose", e.Name)
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		switch {
		case e.Mode&fs.ModeSymlink != 0:
			require.NoError(t, os.Symlink(e.Link, at))
		case !e.Mode.IsDir():
			require.NoError(t, os.WriteFile(at, e.Text, 0o644))
		}
	}
	d = d.Snapshot()
	find := func(theme, name string, scale int) string {
		x := icontheme.NewIndex(icontheme.Config{FS: d.Tree(), Bases: []string{filepath.Dir(root)}, Theme: theme})
		i, _ := x.Lookup(name, 48, scale)
		return strings.TrimPrefix(i.Path, filepath.Dir(root)+"/")
	}
	for name, folder := range map[string]string{"folder": "Reef-Rose", "user-home": "Reef-Rose", "web": "Reef", "trash": "Reef", "folder-odd": "Reef", "folder-symbolic": "Reef"} {
		require.True(t, strings.HasPrefix(find("Reef-Rose", name, 1), folder+"/"), "%s: %s", name, find("Reef-Rose", name, 1))
		require.NotEmpty(t, find("Reef", name, 1))
	}
	require.Equal(t, "Reef-Rose/48@2x/places/folder.svg", find("Reef-Rose", "folder", 2))

	// An update: the main colour is another one.
	require.NoError(t, os.WriteFile(filepath.Join(d.Home, ".icons/Reef/48/places/folder.svg"), []byte(icon("#2f7f4c")), 0o644))
	report, err = layer.Check(t.Context(), d.Tree(), root, r)
	require.NoError(t, err)
	require.Contains(t, report.Loose()[0].Says.String(), "the pack changed their main colour from #3d7ea6 to #2f7f4c")
	r.Dyes = append(r.Dyes, layer.Dye{Icons: []string{"nothing"}, To: "#000000"})
	report, err = layer.Check(t.Context(), d.Tree(), root, r)
	require.NoError(t, err)
	require.Contains(t, report.Loose()[1].Says.String(), "the pack has no icons called nothing")
	over, cancel := context.WithCancel(t.Context())
	cancel()
	_, _, err = layer.Build(over, d.Tree(), root, r, nil)
	require.ErrorIs(t, err, context.Canceled)
}

// TestWrongDyes are refused with what is wrong.
func TestWrongDyes(t *testing.T) {
	good := layer.Recipe{Name: "Mine", Folder: "Mine", Base: layer.Base{Kind: parcel.Icons, Folder: "Reef"}, Dyes: []layer.Dye{{To: "#a0466b"}}}
	require.NoError(t, good.Valid())
	for why, change := range map[string]func(r *layer.Recipe){
		"to: \"red\" is no colour": func(r *layer.Recipe) { r.Dyes = []layer.Dye{{To: "red"}} },
		"from: ":                   func(r *layer.Recipe) { r.Dyes = []layer.Dye{{To: "#a0466b", From: "x"}} },
		"from 0 to 180":            func(r *layer.Recipe) { r.Dyes = []layer.Dye{{To: "#a0466b", Within: 400}} },
		"nor a pattern":            func(r *layer.Recipe) { r.Dyes = []layer.Dye{{To: "#a0466b", Icons: []string{"a/b"}}} },
		"picture styles have dyes": func(r *layer.Recipe) { r.Colours = []layer.Colour{{Name: "a", Value: "red"}} },
		"palette stands alone":     func(r *layer.Recipe) { r.Dyes = []layer.Dye{{To: "#a0466b", Palette: []string{"#a0466b"}}} },
		"none of them has a hue":   func(r *layer.Recipe) { r.Dyes = []layer.Dye{{Palette: []string{"#808080"}}} },
		"palette: \"x\" is no":     func(r *layer.Recipe) { r.Dyes = []layer.Dye{{Palette: []string{"x"}}} },
		"pointers become one": func(r *layer.Recipe) {
			r.Base.Kind, r.Dyes = parcel.Pointer, []layer.Dye{{Palette: []string{"#a0466b"}}}
		},
		"are of icon packs": func(r *layer.Recipe) { r.Base.Kind = parcel.Theme },
	} {
		r := good
		change(&r)
		require.ErrorContains(t, r.Valid(), why)
	}
}

// BenchmarkDyeAPack changes the colours of 9,000 icons, drawings and pictures of pixels by half.
func BenchmarkDyeAPack(b *testing.B) {
	home := b.TempDir()
	pack := filepath.Join(home, ".icons/Reef")
	dir := filepath.Join(pack, "48/places")
	if err := os.MkdirAll(dir, 0o755); err != nil {
		b.Fatal(err)
	}
	im := image.NewNRGBA(image.Rect(0, 0, 48, 48))
	for i := range 48 * 48 {
		im.SetNRGBA(i%48, i/48, color.NRGBA{uint8(40 + i%48), uint8(100 + i/48), 166, uint8(200 + i%50)})
	}
	var pixels bytes.Buffer
	if err := png.Encode(&pixels, im); err != nil {
		b.Fatal(err)
	}
	drawing := strings.Replace(icon("#3d7ea6"), "</svg>", strings.Repeat(`<path style="fill:#3d7ea6;stroke:#2a5f80" d="M0 0h8v8h-8z M1 1h6v6h-6z"/>`, 20)+"</svg>", 1)
	files := map[string]string{"index.theme": "[Icon Theme]\nName=Reef\nDirectories=48/places\n[48/places]\nSize=48\n"}
	for i := range 9000 {
		if i%2 == 0 {
			files[fmt.Sprintf("48/places/folder-%d.svg", i)] = drawing
		} else {
			files[fmt.Sprintf("48/places/folder-%d.png", i)] = pixels.String()
		}
	}
	for name, text := range files {
		if err := os.WriteFile(filepath.Join(pack, name), []byte(text), 0o644); err != nil {
			b.Fatal(err)
		}
	}
	d, err := desk.Open("test", home, b.TempDir(), "")
	if err != nil {
		b.Fatal(err)
	}
	d.SetSurfaces(desk.Builtin())
	r := layer.Recipe{Name: "Rose", Folder: "Rose", Base: layer.Base{Kind: parcel.Icons, Folder: "Reef"}, Dyes: []layer.Dye{{To: "#a0466b"}}}
	root, err := r.Base.Find(d)
	if err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		piece, _, err := layer.Build(b.Context(), d.Tree(), root, r, nil)
		if err != nil || len(piece) < 9000 {
			b.Fatal(len(piece), err)
		}
		var now runtime.MemStats
		runtime.ReadMemStats(&now)
		b.ReportMetric(float64(now.HeapInuse)/1e6, "MB-heap")
		copied := filepath.Join(b.TempDir(), "copy")
		begun := time.Now()
		if err := exec.Command("cp", "-a", pack, copied).Run(); err != nil {
			b.Fatal(err)
		}
		b.ReportMetric(time.Since(begun).Seconds(), "s-cp")
	}
}

// TestPointersInAnotherColour: each pointer of a set has another inside, links stay links, and
// what is not made comes from the set below by Inherits (Xcursor(3), "Theme").
func TestPointersInAnotherColour(t *testing.T) {
	drawn := func(c color.Color) string {
		im := image.NewNRGBA(image.Rect(0, 0, 24, 24))
		for y := range 24 {
			for x := range 24 {
				im.Set(x, y, c)
				if x == 0 || y == 0 || x == 23 || y == 23 {
					im.Set(x, y, color.White)
				}
			}
		}
		return string(xcursor.Encode([]xcursor.Frame{{Size: 24, Picture: im, HotX: 1, HotY: 2, Delay: 30}}))
	}
	d, root := packed(t, map[string]string{
		"index.theme":      "[Icon Theme]\nName=Reef\nInherits=Tide,hicolor\n",
		"cursors/left_ptr": drawn(color.Black), "cursors/default": "-> left_ptr", "cursors/watch": drawn(color.Black), "cursors/odd": "no pointer",
	})
	r := layer.Recipe{Name: "Reef, rose", Folder: "Reef-Rose", Base: layer.Base{Kind: parcel.Pointer, Folder: "Reef"}, Dyes: []layer.Dye{{To: "#a0466b"}}}
	r, report, err := layer.Rebased(t.Context(), d.Tree(), root, r)
	require.NoError(t, err)
	require.Equal(t, "all pointers: their main colour was #000000, is #a0466b", report.Fits[0].Says.String())
	piece, _, err := layer.Build(t.Context(), d.Tree(), root, r, nil)
	require.NoError(t, err)
	has := map[string]layer.Entry{}
	for _, e := range piece {
		has[e.Name] = e
	}
	require.Equal(t, "left_ptr", has["cursors/default"].Link)
	require.Contains(t, string(has["index.theme"].Text), "Inherits=Reef,Tide,hicolor")
	require.NotContains(t, string(has["index.theme"].Text), "Directories")
	require.NotContains(t, has, "cursors/odd")
	for _, name := range []string{"cursors/left_ptr", "cursors/watch"} {
		inside, outline, ok := recolour.MainPointer(has[name].Text)
		require.True(t, ok, name)
		require.Equal(t, []string{"#a0466b", "#ffffff"}, []string{inside.Hex(), outline.Hex()}, name)
	}
	r.Dyes[0].Outline = "#102030"
	piece, _, err = layer.Build(t.Context(), d.Tree(), root, r, nil)
	require.NoError(t, err)
	i := slices.IndexFunc(piece, func(e layer.Entry) bool { return e.Name == "cursors/watch" })
	_, outline, _ := recolour.MainPointer(piece[i].Text)
	require.Equal(t, "#102030", outline.Hex())
	r.Dyes[0].Within = 40
	require.ErrorContains(t, r.Valid(), "within is of icons")
}
