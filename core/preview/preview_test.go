package preview_test

import (
	"encoding/base64"
	"encoding/xml"
	"errors"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/preview"
)

const svg = `<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script><!-- `

// desk1 has two packs with a folder icon each, told apart by a comment.
func desk1(t *testing.T) *desk.Desk {
	t.Helper()
	home, system := t.TempDir(), t.TempDir()
	put := func(top, name, text string) {
		file := filepath.Join(top, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
	}
	for _, pack := range []string{"One", "Two"} {
		put(system, "usr/share/icons/"+pack+"/index.theme", "[Icon Theme]\nName="+pack+"\nDirectories=48\n[48]\nSize=48\nType=Scalable\nMinSize=8\nMaxSize=512\n")
		put(system, "usr/share/icons/"+pack+"/48/folder.svg", svg+pack+` --></svg>`)
		put(system, "usr/share/icons/"+pack+"/48/user-trash.svg", "this is no picture")
	}
	put(system, "usr/share/applications/x.desktop", "[Desktop Entry]\nType=Application\nName=<script>\"&' boom\nIcon=folder\n")
	put(home, ".config/gtk-3.0/settings.ini", "[Settings]\ngtk-icon-theme-name=One\n")
	put(home, ".config/gtk-4.0/settings.ini", "[Settings]\ngtk-icon-theme-name=One\n")
	require.NoError(t, os.MkdirAll(filepath.Join(home, "A folder"), 0o755))
	d, err := desk.Open("d", home, system, "/home/me")
	require.NoError(t, err)
	d.SetSurfaces(desk.Builtin())
	return d
}

func embedded(pack string) string {
	return base64.StdEncoding.EncodeToString([]byte(svg + pack + ` --></svg>`))
}

func TestThePictureIsMadeFromThePieces(t *testing.T) {
	d := desk1(t)
	for _, scene := range preview.Scenes[:2] {
		worn := string(preview.Draw(d, preview.Worn(t.Context(), d), scene.Name))
		require.Contains(t, worn, embedded("One"), scene.Name)
		require.NotContains(t, worn, embedded("Two"), scene.Name)
		draft := string(preview.Draw(d, preview.Draft(t.Context(), d, outfit.Outfit{}.With(desk.FacetIcons, "Two")), scene.Name))
		require.Contains(t, draft, embedded("Two"), scene.Name)
		require.NotContains(t, draft, embedded("One"), scene.Name)
		missing := string(preview.Draw(d, preview.Draft(t.Context(), d, outfit.Outfit{}.With(desk.FacetIcons, "Nowhere")), scene.Name))
		require.Equal(t, worn, missing, "a pack that nobody finds changes nothing")

		// The picture differs where icons are, and nowhere else.
		rest := strings.NewReplacer(embedded("One"), "", embedded("Two"), "", "One", "", "Two", "")
		require.Equal(t, rest.Replace(worn), rest.Replace(draft), scene.Name)
	}
}

// TestThePictureKeepsUp: what is read once is read again when it has changed.
func TestThePictureKeepsUp(t *testing.T) {
	d := desk1(t)
	before := string(preview.Draw(d, preview.Worn(t.Context(), d), "close"))
	require.Contains(t, before, "user-home: no icon")
	require.NoError(t, os.WriteFile(d.HostPath("/usr/share/icons/One/48/user-home.svg"), []byte(svg+`home --></svg>`), 0o644))
	after := string(preview.Draw(d, preview.Worn(t.Context(), d), "close"))
	require.NotContains(t, after, "user-home: no icon")
	require.Contains(t, after, base64.StdEncoding.EncodeToString([]byte(svg+`home --></svg>`)))
}

// TestThePictureIsSafe: markup of parcels is embedded as a picture only, text
// is text, and what is no picture is shown as missing.
func TestThePictureIsSafe(t *testing.T) {
	d := desk1(t)
	picture := string(preview.Draw(d, preview.Worn(t.Context(), d), "desk"))
	require.NotContains(t, picture, "<script>")
	require.Contains(t, picture, "user-trash: no icon", "a picture file that is none")
	require.NotContains(t, picture, "06:40", "no shell is known, so no bar is made up")
	elements := map[string]int{}
	for x := xml.NewDecoder(strings.NewReader(picture)); ; {
		token, err := x.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		require.NoError(t, err, "well-formed")
		if e, ok := token.(xml.StartElement); ok {
			elements[e.Name.Local]++
			for _, a := range e.Attr {
				require.False(t, strings.HasPrefix(strings.ToLower(a.Name.Local), "on"), a.Name.Local)
				if a.Name.Local == "href" {
					require.True(t, strings.HasPrefix(a.Value, "data:image/") || strings.HasPrefix(a.Value, "#y"), a.Value)
				}
			}
		}
	}
	require.Zero(t, elements["script"])
	require.Equal(t, 2, elements["image"], "a folder and a program")
}

// TestWindowsWearTheTheme: each toolkit's windows are drawn from the part that
// serves it, the person's own sheet over it, and follow the draft.
func TestWindowsWearTheTheme(t *testing.T) {
	d := desk1(t)
	put := func(name, text string) {
		file := d.HostPath(name)
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
	}
	put("/usr/share/themes/Red/gtk-3.0/gtk.css", "window { background-color: #a10203; }")
	put("/usr/share/themes/Red/gtk-3.20/gtk.css", "window { background-color: #a20203; } button { background-image: url(dot.png); }")
	put("/usr/share/themes/Red/gtk-3.20/gtk-dark.css", "window { background-color: #310203; }")
	put("/usr/share/themes/Blue/gtk-4.0/gtk.css", "window { background-color: #0102b3; border-radius: 9px; box-shadow: 0 2px 5px #010203; }")
	put("/home/me/.config/gtk-3.0/settings.ini", "[Settings]\ngtk-theme-name=Red\n")
	draw := func(look preview.Look) string { return string(preview.Draw(d, look, "controls")) }
	worn := draw(preview.Worn(t.Context(), d))
	require.Contains(t, worn, `fill="rgba(162,2,3,1)"`, "the newest version folder")
	require.NotContains(t, worn, `fill="rgba(161,2,3,1)"`)
	dark := preview.Worn(t.Context(), d)
	dark.Shade = "dark"
	require.Contains(t, draw(dark), `fill="rgba(49,2,3,1)"`)
	blue := draw(preview.Draft(t.Context(), d, outfit.Outfit{}.With(desk.FacetWidgets, "Blue")))
	require.Contains(t, blue, `fill="rgba(162,2,3,1)"`, "GTK 3 does not find Blue, and keeps what it shows")
	require.Contains(t, blue, `fill="rgba(1,2,179,1)"`, "GTK 4 does")
	require.Equal(t, worn, draw(preview.Draft(t.Context(), d, outfit.Outfit{}.With(desk.FacetWidgets, "Nowhere"))))
	put("/home/me/.config/gtk-3.0/gtk.css", "window { background-color: #00c400; }")
	require.Contains(t, draw(preview.Worn(t.Context(), d)), `fill="rgba(0,196,0,1)"`, "the person's own sheet")
	put("/usr/share/themes/Red/gtk-3.20/gtk.css", "@import 'gone.css';\nwindow { background-color: #a20203 }\nbutton { colour: red; hue: 3; color: @undefined; }\nlabel:nonsense { color: red }\nlabel { color: #0b0c0d; } .far { color: @one; background: @two; }")
	var said []string
	for _, n := range preview.Notes(d, preview.Worn(t.Context(), d), "controls") {
		said = append(said, n.String())
	}
	require.Equal(t, []string{
		"/usr/share/themes/Red/gtk-3.20/gtk.css:3: the colour @undefined is not defined",
		`/usr/share/themes/Red/gtk-3.20/gtk.css:1: import of "gone.css" is not there`,
		"/usr/share/themes/Red/gtk-3.20/gtk.css:4: label:nonsense: is no selector: ‘:nonsense’ is not known",
		"/usr/share/themes/Red/gtk-3.20/gtk.css:5: 2 colours that nothing defines, in rules that nothing here meets: @one, @two",
		"/usr/share/themes/Red/gtk-3.20/gtk.css:3: 2 properties that the toolkit does not know: colour, hue",
	}, said)
	require.Contains(t, draw(preview.Worn(t.Context(), d)), "rgba(11,12,13,1)", "what comes after still counts")
	put("/usr/share/themes/Red/gtk-3.20/gtk.css", "window { border: 3px solid #0d0e0f; }")
	require.Contains(t, draw(preview.Worn(t.Context(), d)), `fill="rgba(13,14,15,1)"`, "a theme that was changed is read again")
}

// TestBrokenPiecesAreNoted: what cannot be shown is told with its file, and the
// rest is drawn all the same.
func TestBrokenPiecesAreNoted(t *testing.T) {
	d := desk1(t)
	put := func(name, text string) {
		file := d.HostPath(name)
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
	}
	put("/home/me/.icons/Huge/cursors/default", "Xcur\x10\x00\x00\x00\x00\x00\x01\x00\x01\x00\x00\x00\x02\x00\xfd\xff\x20\x00\x00\x00\x1c\x00\x00\x00"+
		"\x24\x00\x00\x00\x02\x00\xfd\xff\x20\x00\x00\x00\x01\x00\x00\x00\xff\xff\xff\x7f\xff\xff\xff\x7f"+strings.Repeat("\x00", 12))
	put("/home/me/.local/share/fonts/Broken.ttf", "\x00\x01\x00\x00 damaged")
	put("/home/me/.config/gtk-3.0/settings.ini", "[Settings]\ngtk-icon-theme-name=One\ngtk-cursor-theme-name=Huge\n")
	put("/home/me/wall.png", "no picture")
	put("/home/me/.config/shell.conf", "[Look]\nbackdrop=/home/me/wall.png\n")
	shell, err := desk.ParseSurface([]byte(`
id = "shell"
title = "Shell"
kind = "shell"
[[source]]
path = "{config}/shell.conf"
format = "keyfile"
group = "Look"
[[facet]]
name = "backdrop"
key = "backdrop"
`))
	require.NoError(t, err)
	d.SetSurfaces(append(d.Surfaces(), shell))
	var said []string
	for _, n := range preview.Notes(d, preview.Worn(t.Context(), d), "desk") {
		said = append(said, n.String())
	}
	all := strings.Join(said, "\n")
	require.Contains(t, all, "~/wall.png: no picture that can be shown as a backdrop")
	require.Contains(t, all, "/usr/share/icons/One/48/user-trash.svg: no picture that can be shown, so there is no icon for user-trash")
	require.Contains(t, all, "~/.icons/Huge/cursors/default: a pointer that cannot be shown: ")
	require.Contains(t, string(preview.Draw(d, preview.Worn(t.Context(), d), "desk")), embedded("One"), "the rest is drawn")
}
