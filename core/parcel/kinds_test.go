package parcel_test

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"

	"ivelt/core/archive"
	"ivelt/core/archive/archivetest"
	"ivelt/core/curfile"
	"ivelt/core/desk"
	"ivelt/core/parcel"
	"ivelt/core/xcursor"
)

func picture(w, h int) string {
	im := image.NewRGBA(image.Rect(0, 0, w, h))
	for i := 0; i < len(im.Pix); i += 7 { // so that it does not pack to nothing
		im.Pix[i] = byte(i * 31)
	}
	var b bytes.Buffer
	_ = png.Encode(&b, im)
	return b.String()
}

func shape() string {
	im := image.NewNRGBA(image.Rect(0, 0, 24, 24))
	im.Set(1, 1, color.Black)
	return string(xcursor.Encode([]xcursor.Frame{{Size: 24, Picture: im}}))
}

// cur is a .cur with a picture of a size.
func cur(size int) string {
	im := image.NewNRGBA(image.Rect(0, 0, size, size))
	im.Set(1, 1, color.Black)
	b, _ := curfile.Encode(true, []curfile.Picture{{NRGBA: im, HotX: 1, HotY: 1}})
	return string(b)
}

func files(list ...string) []archivetest.Entry {
	var out []archivetest.Entry
	for i := 0; i+1 < len(list); i += 2 {
		out = append(out, archivetest.Entry{Name: list[i], Text: list[i+1]})
	}
	return out
}

// palette16 is an X resource file with sixteen colours.
func palette16() string {
	var b strings.Builder
	for _, n := range strings.Fields("0 1 2 3 4 5 6 7 8 9 10 11 12 13 14 15") {
		b.WriteString("*.color" + n + ": #101010\n")
	}
	return b.String()
}

const css = "@define-color a #fff;\n"

// TestEveryShapeOfParcel is a table of parcels as they come: what each holds is
// known, since it was made here.
func TestEveryShapeOfParcel(t *testing.T) {
	big, cursor := picture(1280, 800), shape()
	icons := func(root, name string) []archivetest.Entry {
		return files(root+"index.theme", archivetest.Index(name, "", "48/apps"), root+"48/apps/leaf.png", "x")
	}
	join := func(lists ...[]archivetest.Entry) (out []archivetest.Entry) {
		for _, l := range lists {
			out = append(out, l...)
		}
		return out
	}
	pointers := func(root string) []archivetest.Entry {
		return files(root+"cursors/left_ptr", cursor, root+"cursors/hand2", cursor, root+"cursors/xterm", cursor)
	}
	for _, c := range []struct {
		what    string
		entries []archivetest.Entry
		want    string // kind folder@root, …
		codes   string // of notes, those about parts left out
	}{
		{"a theme for GTK 3", files("Salt/gtk-3.0/gtk.css", css, "Salt/index.theme", "[Desktop Entry]\nType=X-Theme\nName=Salt\n"), "theme Salt@Salt", ""},
		{"a theme for all", files("Salt/gtk-2.0/gtkrc", "style", "Salt/gtk-3.0/gtk.css", css, "Salt/gtk-4.0/gtk.css", css), "theme Salt@Salt", ""},
		{"a theme in a resource bundle", files("Salt/gtk-3.0/gtk.gresource", "GVariant"), "theme Salt@Salt", ""},
		{"a theme with a version folder", files("Salt/gtk-3.20/gtk.css", css), "theme Salt@Salt", ""},
		{"a theme at the top", files("gtk-3.0/gtk.css", css, "gtk-4.0/gtk.css", css), "theme x@.", ""},
		{"a theme too deep", files("salt-main/themes/Salt/gtk-3.0/gtk.css", css), "theme Salt@salt-main/themes/Salt", "nested"},
		{"three variants", files("Salt/gtk-3.0/gtk.css", css, "Salt-Dark/gtk-3.0/gtk.css", css, "Salt-Dark-compact/gtk-3.0/gtk.css", css), "theme Salt@Salt theme Salt-Dark@Salt-Dark theme Salt-Dark-compact@Salt-Dark-compact", ""},
		{"a shell's part only", files("Salt/quayside/bar.css", css), "theme Salt@Salt", ""},
		{"another program's part beside", files("Salt/gtk-3.0/gtk.css", css, "Salt/frames-1/frames.xml", "<x/>"), "theme Salt@Salt", ""},
		{"frames only", files("themes/Salt/frames-1/frames-theme-1.xml", "<x/>", "themes/Salt/frames-1/close.png", "x"), "theme Salt@themes/Salt", "nested theme-frames-only"},
		{"frames of another form", files("Salt/index.theme", "[Desktop Entry]\nName=Salt\n", "Salt/frames/themerc", "x"), "theme Salt@Salt", "theme-frames-only"},
		{"a shell's part that nobody named", files("Salt/lagoon-2/lagoon.css", css), "theme Salt@Salt", "theme-no-toolkit"},
		{"a program's own description", files("app/data/theme.xml", "<x/>", "app/web/web.css", css), "", "no-piece"},
		{"a theme at the top, described", files("gtk-3.0/gtk.css", css, "index.theme", "[Desktop Entry]\nType=X-Theme\nName=Salt\n"), "theme Salt@.", ""},
		{"a sheet that takes in what is gone", files("Salt/gtk-3.0/gtk.css", "@import \"colours.css\";\n@import url('gone.css');\n@import url(\"resource:///a.css\");\n", "Salt/gtk-3.0/colours.css", css), "theme Salt@Salt", "sheet-import-missing"},
		{"an empty folder", append(files("Salt/gtk-3.0/gtk.css", css), archivetest.Entry{Name: "Salt/gtk-4.0/"}), "theme Salt@Salt", "folders-empty"},
		{"an engine", files("usr/lib/x/gtk-2.0/2.10.0/engines/libmurk.so", "x"), "", "engines-inside no-piece programs"},
		{"a theme and its sources", files("salt/src/gtk-3.0/gtk.css", css, "salt/src/gtk-3.0/gtk.scss", "$a", "salt/src/index.theme", "[Desktop Entry]\nName=Salt\n", "salt/dist/Salt/gtk-3.0/gtk.css", css, "salt/dist/Salt/index.theme", "[Desktop Entry]\nName=Salt\n"), "theme Salt@salt/dist/Salt", "nested source-left-out"},
		{"sources only", files("salt/src/gtk-3.0/gtk.scss", "$a"), "", "sources-only no-piece"},
		{"an empty part", files("Salt/gtk-3.0/readme", "x"), "", "no-piece"},
		{"theme, icons and picture", join(files("Salt/gtk-3.0/gtk.css", css), icons("Salt-icons/", "Salt"), files("wallpapers/shore.png", big)), "theme Salt@Salt icons Salt-icons@Salt-icons backdrop shore@wallpapers", ""},
		{"a theme and icons of one name", join(files("themes/Salt/gtk-3.0/gtk.css", css), icons("icons/Salt/", "Salt")), "theme Salt@themes/Salt icons Salt@icons/Salt", "nested nested"},
		{"an icon pack with pointers", join(icons("Salt/", "Salt"), pointers("Salt/")), "icons Salt@Salt pointer Salt@Salt", ""},
		{"pointers, described", join(files("Tern/index.theme", "[Icon Theme]\nName=Tern of the shore\nInherits=hicolor\n"), pointers("Tern/")), "pointer Tern@Tern", ""},
		{"pointers, not described", pointers("Tern/"), "pointer Tern@Tern", "pointer-no-index"},
		{"pointers at the top", pointers(""), "pointer x@.", "pointer-no-index"},
		{"pointers, mostly links", append(pointers("Tern/"), archivetest.Entry{Name: "Tern/cursors/default", Link: "left_ptr"}, archivetest.Entry{Name: "Tern/cursors/pointer", Link: "hand2"}), "pointer Tern@Tern", "pointer-no-index"},
		{"a folder cursors without any", files("Tern/cursors/readme.txt", "none"), "", "no-piece"},
		{"left-handed pointers beside", join(pointers("Tern/"), pointers("Tern-Left/")), "pointer Tern@Tern pointer Tern-Left@Tern-Left", "pointer-no-index pointer-no-index"},
		{"pointers of the other family", files("Tern/arrow.cur", "\x00\x00\x02\x00", "Tern/busy.ani", "RIFF"), "pointer Tern@Tern", "pointer-other-family"},
		{"pointers that are converted", files("Tern/Arrow.cur", cur(32), "Tern/Zebra.cur", cur(32), "Tern/LICENSE", "MIT"), "pointer Tern@Tern/Xcursor", "pointer-converted pointer-left-out pointer-loses pointer-loses pointer-loses"},
		{"converted, by what is around", files("Tern cursors/pointers/48 px/arrow.cur", cur(48)), "pointer Tern-48-px@Tern cursors/pointers/48 px/Xcursor", "nested pointer-converted pointer-loses pointer-loses pointer-loses"},
		{"a theme of the other family", files("Tern/Tern.theme", "[Theme]\nDisplayName=Tern\n[Control]\nArrow=pointers\\arrow.cur\nWallpaper=gone.png\n", "Tern/pointers/arrow.cur", "\x00\x00\x02\x00"), "theme Tern@Tern pointer pointers@Tern/pointers", "theme-other-family nested pointer-other-family"},
		{"a login theme", files("Lamp/metadata.desktop", "[Some Greeter]\nName=Lamp\nVersion=1.2\n", "Lamp/Main.xml", "<x/>", "Lamp/bg.png", big), "login Lamp@Lamp", "login-system-only"},
		{"a login theme beside a theme", files("Salt/gtk-3.0/gtk.css", css, "login/Salt/login.theme", "[Login Theme]\nName=Salt\n", "login/Salt/panel.svg", "<svg/>"), "theme Salt@Salt login Salt@login/Salt", "login-system-only nested"},
		{"a description of nothing", files("Lamp/metadata.desktop", "[Some Greeter]\nName=Lamp\n"), "", "no-piece"},
		{"a font family", files("Go/Go-Regular.ttf", string(goregular.TTF), "Go/Go-Bold.ttf", string(gobold.TTF)), "font Go@Go", ""},
		{"a font at the top", files("Go-Regular.ttf", string(goregular.TTF)), "font Go@.", ""},
		{"a damaged font", files("a/Go.ttf", string(goregular.TTF[:2000])), "", "font-damaged no-piece"},
		{"not a font", files("a/x.ttf", "<html>"), "", "font-damaged no-piece"},
		{"a picture", files("shore.png", big), "backdrop shore@.", ""},
		{"a picture in two sizes", files("w/shore-1280x800.png", big, "w/shore-2560x1600.png", big), "backdrop shore@w", ""},
		{"a picture by day and night", files("w/shore-day.png", big, "w/shore-night.png", big), "backdrop shore@w", ""},
		{"two pictures", files("w/shore.png", big, "w/pier.png", big), "backdrop pier@w backdrop shore@w", ""},
		{"a archivetest.Small picture", files("w/logo.png", picture(200, 200)), "", "no-piece"},
		{"a screenshot", files("screenshots/one.png", big), "", "no-piece"},
		{"a theme's own picture", files("Salt/gtk-3.0/gtk.css", css, "Salt/gtk-3.0/bg.png", big), "theme Salt@Salt", ""},
		{"a palette", files("p/dusk.Xresources", palette16()), "palette dusk@p", ""},
		{"a palette of eight", files("p/dusk.Xresources", palette16()[:60]), "", "no-piece"},
		{"a picture-based style", files("s/Salt/Salt.svg", "<svg/>", "s/Salt/Salt.conf", "[General]\nauthor=x\n"), "style Salt@s/Salt", ""},
		{"a drawing and a text", files("s/Salt.svg", "<svg/>", "s/Salt.txt", "just words"), "", "no-piece"},
		{"a bundle", files("look/dusk.toml", "format = 1\nname = \"Dusk\"\n[facet.icons]\npiece = \"Salt\"\n"), "bundle dusk@look", ""},
		{"another TOML file", files("look/x.toml", "a = 1\n"), "", "no-piece"},
		{"sounds", files("Gulls/index.theme", "[Sound Theme]\nName=Gulls\nDirectories=stereo\n[stereo]\n", "Gulls/stereo/bell.oga", "x"), "sound Gulls@Gulls", ""},
		{"odd letters", files("Über mäßig/gtk-3.0/gtk.css", css), "theme Über mäßig@Über mäßig", ""},
		{"nothing at all", files("readme.md", "hello"), "", "no-piece"},
	} {
		p, err := open(t, "x.tar", archivetest.Tar(t, c.entries), archive.Options{})
		require.NoError(t, err, c.what)
		found := p.Recognise(t.Context(), desk.Part{Folder: "quayside", File: "*.css"})
		var pieces, codes []string
		notes := func(list []parcel.Note) {
			for _, n := range list {
				if n.Code != "theme-no-part" && n.Code != "pointer-shapes-missing" {
					codes = append(codes, n.Code)
				}
			}
		}
		for _, pc := range found.Pieces {
			pieces = append(pieces, string(pc.Kind)+" "+pc.Folder+"@"+pc.Root)
			notes(pc.Notes)
		}
		notes(found.Notes)
		require.Equal(t, c.want, strings.Join(pieces, " "), c.what)
		require.Equal(t, c.codes, strings.Join(codes, " "), c.what)
	}
}

func TestWhatIsSaidOfAPiece(t *testing.T) {
	one := func(entries []archivetest.Entry) parcel.Piece {
		p, err := open(t, "x-2.1.tar", archivetest.Tar(t, entries), archive.Options{})
		require.NoError(t, err)
		found := p.Recognise(t.Context(), desk.Part{Folder: "quayside", File: "*.css"})
		require.NotEmpty(t, found.Pieces)
		return found.Pieces[len(found.Pieces)-1]
	}
	pc := one(files("Salt-Dark-compact/gtk-3.0/gtk.css", css, "Salt-Dark-compact/gtk-3.0/gtk-dark.css", css, "Salt-Dark-compact/gtk-2.0/gtkrc", "engine \"murk\" {}\n",
		"Salt-Dark-compact/quayside/bar.css", css, "Salt-Dark-compact/frames-1/f.xml", "x", "Salt-Dark-compact/assets/x.png", "x", "Salt-Dark-compact/LICENSE", "MIT License\n\nmore",
		"Salt-Dark-compact/index.theme", "[Desktop Entry]\nName=Salt, dark and compact\n[X-Companions]\nIconTheme=Shingle\nCursorTheme=Tern\n", "Salt/gtk-3.0/gtk.css", css))
	pcs := func() []parcel.Piece {
		p, err := open(t, "x.tar", archivetest.Tar(t, files("Salt/gtk-3.0/gtk.css", css, "Salt-Dark-compact/gtk-3.0/gtk.css", css, "Salt-Left/gtk-3.0/gtk.css", css)), archive.Options{})
		require.NoError(t, err)
		return p.Recognise(t.Context()).Pieces
	}()
	require.Equal(t, []string{"", "dark, compact", "left-handed"}, []string{pcs[0].Variant, pcs[1].Variant, pcs[2].Variant})
	var told []string
	p, err := open(t, "x.tar", archivetest.Tar(t, files("MurkAzure/gtk-3.0/gtk.css", css, "MurkNeoChalk/gtk-3.0/gtk.css", css, "Murk-Rose/gtk-3.0/gtk.css", css, "Reef/gtk-3.0/gtk.css", css, "Reef-bark/gtk-3.0/gtk.css", css, "Reef-bark-dark/gtk-3.0/gtk.css", css, "Reefer/gtk-3.0/gtk.css", css)), archive.Options{})
	require.NoError(t, err)
	for _, pc := range p.Recognise(t.Context()).Pieces {
		told = append(told, pc.Family+": "+pc.Variant)
	}
	require.Equal(t, []string{"murk: rose", "murk: azure", "murk: neo, chalk", "reef: ", "reef: bark", "reef: bark, dark", ": "}, told, "whatever a maker's manner")
	require.Equal(t, "Salt, dark and compact", pc.Name)
	require.Equal(t, "Salt-Dark-compact", pc.Folder)
	require.Equal(t, []string{"frames-1", "gtk-2.0", "gtk-3.0", "quayside"}, pc.Parts)
	require.Equal(t, []string{"icon pack Shingle", "pointer set Tern", "drawing engine murk"}, pc.Needs)
	require.True(t, pc.Dark)
	require.Equal(t, "MIT", pc.Licence)
	require.Equal(t, "2.1", pc.Version)

	pc = one(append(files("Tern/cursors/left_ptr", shape(), "Tern/cursors/text", shape()), archivetest.Entry{Name: "Tern/cursors/default", Link: "left_ptr"}))
	require.Equal(t, []int{24}, pc.Sizes)
	require.Equal(t, 3, pc.Shapes)
	require.Equal(t, 1, pc.Links)
	pc = one(files("f/a/Go-Regular.ttf", string(goregular.TTF), "f/b/Go-Bold.ttf", string(gobold.TTF)))
	require.Equal(t, []string{"Regular", "Bold"}, pc.Styles)
	require.Equal(t, []string{"f/a/Go-Regular.ttf", "f/b/Go-Bold.ttf"}, pc.Only)
	require.Equal(t, 2, pc.Files)
}

// TestOneFileIsAParcel: a font, a picture of any size and a palette need nothing around them;
// anything else that is no archive is refused as before.
func TestOneFileIsAParcel(t *testing.T) {
	var palette strings.Builder
	for i := range 16 {
		fmt.Fprintf(&palette, "*.color%d: #%06x\n", i, 0x111111*i)
	}
	for name, c := range map[string]struct {
		text string
		kind parcel.Kind
	}{
		"any name.otf": {string(goregular.TTF), parcel.Font}, "Screenshot 3.png": {picture(800, 500), parcel.Backdrop}, "sea.svg": {`<svg xmlns="http://www.w3.org/2000/svg" width="90" height="60"/>`, parcel.Backdrop},
		"Foam.Xresources": {palette.String(), parcel.Palette},
	} {
		p, err := open(t, name, []byte(c.text), archive.Options{})
		require.NoError(t, err, name)
		found := p.Recognise(t.Context())
		require.Len(t, found.Pieces, 1, "%s: %v", name, found.Notes)
		require.Equal(t, c.kind, found.Pieces[0].Kind, name)
		require.Equal(t, []string{name}, found.Pieces[0].Only)
		text, err := fs.ReadFile(p, name)
		require.NoError(t, err)
		require.Equal(t, c.text, string(text))
		require.NoError(t, p.Close())
	}
	for name, c := range map[string][2]string{"left_ptr": {shape(), "pointer-alone"}, "gtk.css": {css, "sheet-alone"}} {
		p, err := open(t, name, []byte(c[0]), archive.Options{})
		require.NoError(t, err, name)
		found := p.Recognise(t.Context())
		require.Empty(t, found.Pieces)
		require.Equal(t, c[1], found.Notes[0].Code)
		require.NoError(t, p.Close())
	}
	for _, text := range []string{"<!doctype html><p>Moved", "", "*.color0: #000000\n", "#!/bin/sh\nrm -rf x\n"} {
		_, err := open(t, "a.txt", []byte(text), archive.Options{})
		require.ErrorIs(t, err, archive.ErrNotArchive, text)
	}
}

// TestAPointerThatCameAlone is a set of one, called as its file is.
func TestAPointerThatCameAlone(t *testing.T) {
	file := filepath.Join(t.TempDir(), "Link.cur")
	require.NoError(t, os.WriteFile(file, []byte(cur(32)), 0o644))
	p, err := parcel.Open(t.Context(), file, archive.Options{})
	require.NoError(t, err)
	defer p.Close()
	found := p.Recognise(t.Context())
	require.Len(t, found.Pieces, 1)
	require.Equal(t, "Link", found.Pieces[0].Folder)
}

// TestADescriptorComesWithExamples: what lies in them is no piece, and no note is of them.
func TestADescriptorComesWithExamples(t *testing.T) {
	p, err := parcel.Open(t.Context(), "../../docs/surfaces/gullcall", archive.Options{})
	require.NoError(t, err)
	defer p.Close()
	found := p.Recognise(t.Context())
	require.Len(t, found.Pieces, 1)
	require.Empty(t, found.Notes)
	piece := found.Pieces[0]
	require.Equal(t, parcel.Descriptor, piece.Kind)
	require.Equal(t, "gullcall", piece.Folder)
	require.Equal(t, []string{"icons", "dark"}, piece.Parts)
	require.Equal(t, []string{"gullcall.toml"}, piece.Only)
	require.Contains(t, piece.Reach.Reads, "{config}/gullcall/gullcall.conf")
}
