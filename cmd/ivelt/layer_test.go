package main

import (
	"errors"
	"image"
	"image/draw"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/xcursor"
)

// TestALayerByCommand: text in a bar is kept at 11 points over an update of the theme, what no
// longer fits is said, and going back takes the layer away. (The value: common practice, no
// source.)
func TestALayerByCommand(t *testing.T) {
	dir := t.TempDir()
	put := func(name, text string) string {
		file := filepath.Join(dir, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
		return file
	}
	put("home/.themes/Salt/index.theme", "[Desktop Entry]\nName=Salt\n")
	put("home/.themes/Salt/LICENSE", "SPDX-License-Identifier: CC-BY-ND-4.0\n")
	put("home/.themes/Salt/gtk-3.0/gtk.css", "@define-color accent #3d7ea6;\nwindow { color: black; }\n")
	bar := put("home/.themes/Salt/bar/shell.css", "panel { font-size: 9pt; }\n")
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "system"), 0o755))
	recipe := filepath.Join(dir, "salt.toml")
	run := func(code int, args ...string) string {
		t.Helper()
		c := command(t, append(append([]string{"layer"}, args...), "--home", filepath.Join(dir, "home"), "--system", filepath.Join(dir, "system"))...)
		c.Env = append(c.Environ(), "XDG_DATA_HOME="+filepath.Join(dir, "data"))
		out, err := c.CombinedOutput()
		var exit *exec.ExitError
		if errors.As(err, &exit) {
			require.Equal(t, code, exit.ExitCode(), string(out))
		} else {
			require.NoError(t, err)
			require.Zero(t, code, string(out))
		}
		return string(out)
	}
	laid := func() string {
		b, err := os.ReadFile(filepath.Join(dir, "home/.themes/Salt-Mine/bar/shell.css"))
		require.NoError(t, err)
		return string(b)
	}
	// An icon pack: what is dyed is stored, the rest is the pack's.
	put("home/.icons/Reef/index.theme", "[Icon Theme]\nName=Reef\nDirectories=48/places\n[48/places]\nSize=48\n")
	for _, name := range []string{"folder", "folder-music", "user-trash"} {
		put("home/.icons/Reef/48/places/"+name+".svg", `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 8 8"><rect width="8" height="8" fill="#3d7ea6"/></svg>`)
	}
	rose := filepath.Join(dir, "rose.toml")
	require.Contains(t, run(0, "new", "Reef", rose, "--dye", "folder*=#a0466b"), "folder*: their main colour was #3d7ea6, is #a0466b")
	require.Contains(t, run(0, "build", rose), "icons Reef, mine: Reef-Mine")
	b, err := os.ReadFile(filepath.Join(dir, "home/.local/share/icons/Reef-Mine/48/places/folder-music.svg"))
	require.NoError(t, err)
	require.Contains(t, string(b), `fill="#a0466b"`)
	require.NoFileExists(t, filepath.Join(dir, "home/.local/share/icons/Reef-Mine/48/places/user-trash.svg"))
	run(2, "new", "Reef", filepath.Join(dir, "x.toml"), "--dye", "folder*=rose")

	require.Contains(t, run(0, "new", "Reef", filepath.Join(dir, "mapped.toml"), "--folder", "Reef-Mapped", "--dye", "*=#b8862b,#5f8a4a"), "all icons: their main colour was #3d7ea6, is the nearest of 2 colours")
	run(0, "build", filepath.Join(dir, "mapped.toml"))
	b, err = os.ReadFile(filepath.Join(dir, "home/.local/share/icons/Reef-Mapped/48/places/user-trash.svg"))
	require.NoError(t, err)
	require.NotContains(t, string(b), "#3d7ea6")

	// A picture style: what lost its name is found again, and what is missing is drawn like another.
	put("system/usr/bin/sedge", "")
	put("home/.local/share/styles/Stone/Stone.conf", "[Style]\nName=Stone\nLicence=CC0-1.0\n")
	stone := put("home/.local/share/styles/Stone/Stone.svg", `<svg xmlns="http://www.w3.org/2000/svg"><rect id="buton" width="9" height="9" fill="#3d7ea6"/><rect id="tick" width="9" height="9"/></svg>`)
	mend := filepath.Join(dir, "mend.toml")
	said := run(0, "new", "Stone", mend, "--element", "button: from buton; 1 fill #a0466b", "--element", "tick-on: like tick; edges 2")
	require.Contains(t, said, "button: from buton")
	require.Contains(t, said, "lets you pass on a changed copy")
	require.Contains(t, run(0, "build", mend), "style Stone, mine: Stone-Mine")
	mended := func() string {
		b, err := os.ReadFile(filepath.Join(dir, "home/.local/share/styles/Stone-Mine/Stone-Mine.svg"))
		require.NoError(t, err)
		return string(b)
	}
	require.Contains(t, mended(), `<rect id="button" width="9" height="9" fill="#a0466b"/><rect id="tick" width="9" height="9"/><rect id="tick-on" width="9" height="9" data-edges="2"/>`)
	require.NoError(t, os.WriteFile(stone, []byte(`<svg xmlns="http://www.w3.org/2000/svg"><rect id="butten" width="9" height="9"/><rect id="tick" width="8" height="8"/></svg>`), 0o644))
	require.Contains(t, run(1, "check", mend), "! button: from buton: the style has no such element; nearest: butten")
	run(1, "build", mend)
	require.Contains(t, mended(), `<rect id="tick-on" width="8" height="8" data-edges="2"/>`)
	run(2, "new", "Stone", filepath.Join(dir, "x.toml"), "--element", "button: fill")

	// The whole theme, by what it says itself; and the pointers of a set.
	large := filepath.Join(dir, "large.toml")
	out := run(0, "new", "Salt", large, "--folder", "Salt-Large", "--move", "text=150%", "--move", "accent=#a0466b")
	require.Contains(t, out, "Text size: 150% of the theme's own, in 2 places")
	require.Contains(t, out, "accent: was #3d7ea6, is #a0466b")
	run(0, "build", large)
	b, err = os.ReadFile(filepath.Join(dir, "home/.themes/Salt-Large/bar/shell.css"))
	require.NoError(t, err)
	require.Equal(t, "panel { font-size: 13.5pt; }\n", string(b))
	run(2, "new", "Salt", filepath.Join(dir, "x.toml"), "--move", "text=5%")
	square := image.NewNRGBA(image.Rect(0, 0, 24, 24))
	draw.Draw(square, square.Rect, image.White, image.Point{}, draw.Src)
	draw.Draw(square, image.Rect(1, 1, 23, 23), image.Black, image.Point{}, draw.Src)
	put("home/.icons/Shell/cursors/default", string(xcursor.Encode([]xcursor.Frame{{Size: 24, Picture: square}})))
	out = run(0, "new", "Shell", filepath.Join(dir, "shell.toml"), "--pointers", "--dye", "*=#a0466b")
	require.Contains(t, out, "all pointers: their main colour was #000000, is #a0466b")

	out = run(0, "new", "Salt", recipe, "--rule", "bar: panel { font-size: 11pt; }", "--colour", "accent=#a0466b")
	require.Contains(t, out, "bar/shell.css: panel { font-size } was 9pt, is 11pt")
	require.Contains(t, out, "gtk-3.0/gtk.css: accent was #3d7ea6, is #a0466b")
	require.Contains(t, out, "CC-BY-ND-4.0, forbids to pass on a changed copy")
	run(2, "new", "Salt", recipe) // what is there is not written over
	run(2, "new", "Sand", filepath.Join(dir, "sand.toml"))
	require.Contains(t, run(0, "build", recipe), "theme Salt, mine: Salt-Mine")
	require.Contains(t, laid(), "@import url(\"shell.base.css\");\npanel {\n  font-size: 11pt;\n}\n")
	require.Contains(t, run(2, "build", recipe, "--share", "--out", filepath.Join(dir, "x.tar.gz")), "may not be passed on")
	require.NoFileExists(t, filepath.Join(dir, "x.tar.gz"))
	run(0, "build", recipe, "--out", filepath.Join(dir, "x.tar.gz"))
	require.Contains(t, run(0, "check", recipe), "Salt is as it was")

	// An update.
	require.NoError(t, os.WriteFile(bar, []byte("panel { font-size: 10pt; color: red; }\n"), 0o644))
	out = run(1, "check", recipe)
	require.Contains(t, out, "Salt has changed")
	require.Contains(t, out, "! bar/shell.css: the theme changed panel { font-size } from 9pt to 10pt; the layer says 11pt")
	run(1, "build", recipe)
	require.Contains(t, laid(), "font-size: 11pt")
	b, err = os.ReadFile(filepath.Join(dir, "home/.themes/Salt-Mine/bar/shell.base.css"))
	require.NoError(t, err)
	require.Contains(t, string(b), "color: red")
	run(1, "rebase", recipe)
	require.Contains(t, run(0, "check", recipe), "Salt is as it was")

	b, err = os.ReadFile(recipe)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(recipe, []byte(strings.Replace(string(b), "11pt", "11pt; } * {", 1)), 0o644))
	require.Contains(t, run(2, "build", recipe), "salt.toml: not a layer's recipe: rule 1")
}
