package main

import (
	"encoding/json"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/match"
	"ivelt/core/reading"
	"ivelt/demo/demotest"
)

// onDemo runs commands on a desk of the demo world in a folder, and holds them to an
// exit status.
func onDemo(t *testing.T, data, desk string) func(code int, args ...string) string {
	return func(code int, args ...string) string {
		t.Helper()
		c := command(t, append(args, "--desk", desk)...)
		c.Env = append(c.Environ(), "XDG_DATA_HOME="+data)
		out, err := c.Output()
		var exit *exec.ExitError
		if errors.As(err, &exit) {
			require.Equal(t, code, exit.ExitCode(), string(out)+string(exit.Stderr))
		} else {
			require.NoError(t, err)
			require.Zero(t, code, string(out))
		}
		return string(out)
	}
}

// TestCheckFromOneToNone: on Dunlin as it is found `ivelt check` ends with 1, and
// after `ivelt mend` with 0, as text and as JSON, with an outfit and without.
func TestCheckFromOneToNone(t *testing.T) {
	data := t.TempDir()
	w := demotest.World(t, filepath.Join(data, "ivelt/demo"))
	outfit := filepath.Join(data, "salt.toml")
	require.NoError(t, os.WriteFile(outfit, []byte(`format = 1
name = "Salt and glasswort"
[facet.widgets]
piece = "Saltpan"
[facet.bar]
piece = "Saltpan"
[facet.icons]
piece = "Glasswort"
[facet.pointer]
piece = "Sandpiper"
[facet.font]
piece = "Estuary Sans"
size = 10
[facet.palette]
piece = "ebb"
[facet.login]
piece = "Night-Tide"
[facet.accent]
value = "#3d7ea6"
except = { tidestaff = "" }
`), 0o644))
	run := onDemo(t, data, "dunlin")
	said := run(1, "check", "--outfit", outfit)
	require.Contains(t, said, "Creel, Icons: Its own setting in ~/.config/creel/creel.conf, line 2, is hicolor")
	require.NotContains(t, said, "Tidestaff", "it is left out")
	var findings []match.Finding
	require.NoError(t, json.Unmarshal([]byte(run(1, "check", "--json", "--outfit", outfit)), &findings))
	require.Greater(t, len(findings), 12)
	for _, f := range findings {
		require.NotEmpty(t, f.Code)
		require.NotEmpty(t, f.Cause, f.Code)
		require.NotEmpty(t, f.Remedy, f.Code)
	}
	out := run(0, "mend", "--outfit", outfit)
	require.Contains(t, out, "started Tollgate again")
	require.Empty(t, run(0, "check", "--outfit", outfit))
	require.JSONEq(t, "[]", run(0, "check", "--json"), "held against what it was last dressed in")
	conf := filepath.Join(w.Dunlin.Home, ".config/gtk-3.0/settings.ini")
	b, err := os.ReadFile(conf)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(conf, append(b, "gtk-icon-theme-name=Foreshore\n"...), 0o644)) // by hand
	require.Contains(t, run(1, "check"), "gives Foreshore", "a scheduled job would tell")
	run(0, "mend")
	run(0, "check")
}

// TestADescriptorFromTheManual is written from docs/surfaces.md alone, for a
// launcher that is nowhere in the code: it is checked, read, matched, planned,
// applied and gone back on like every other surface.
func TestADescriptorFromTheManual(t *testing.T) {
	b := newBox(t)
	file := b.put("home/.config/ivelt/surfaces/winkle.toml", `id = "winkle"
title = "Winkle"
kind = "shell"
version = "5.1.0"
restart = "shell"

[[source]]
path = "{config}/winkle/look.conf"
format = "keyfile"
group = "Skin"
write = true

[[source]]
path = "/etc/winkle/look.conf"
format = "keyfile"
group = "Skin"

[loaded]
path = "{state}/winkle/running.conf"
format = "keyfile"
group = "Running"

[[part]]
folder = "winkle"
file = "*.css"

[[looks]]
kind = "theme"
folders = ["{data}/themes", "~/.themes", "{data-dirs}/themes"]

[[facet]]
name = "bar"
key = "skin"
default = ""
evidence = "winkle(5)"
[facet.lookup]
kind = "theme"
folders = ["{data}/themes", "~/.themes", "{data-dirs}/themes"]
parts = ["winkle"]
file = "skin.css"
built-in = [""]
made-for = { path = "about.conf", group = "Winkle", key = "For" }

[[facet]]
name = "dark"
key = "night"
default = "light"
values = { dark = ["yes", "1"], light = ["no", "0"] }

[[facet]]
name = "opacity"
key = "solid"
default = "100"
number = { least = 10, most = 100 }

[[facet]]
name = "icons"
default = "hicolor"
source = [{ path = "{config}/winkle/look.conf", format = "keyfile", group = "Skin", key = "icons", write = true }, { format = "follows", path = "gtk3" }]
singles = { path = "{config}/winkle/own-icons.conf", format = "keyfile", group = "Pinned" }
[facet.lookup]
kind = "icon-theme"
folders = ["{data}/icons", "~/.icons"]
`)
	c := command(t, "surface", "check", file)
	out, err := c.CombinedOutput()
	require.NoError(t, err, string(out))
	require.Contains(t, string(out), "Winkle can be used")

	b.put("home/.themes/Pool/winkle/skin.css", "panel { color: red; }")
	b.put("home/.themes/Pool/winkle/about.conf", "[Winkle]\nFor=>= 5, < 6\n")
	b.put("home/.themes/Old/winkle/skin.css", "panel { color: red; }")
	b.put("home/.themes/Old/winkle/about.conf", "[Winkle]\nFor=4\n")
	mine := "# mine\n[Skin]\nnight = 1\nsolid=80\nicons=Old\n"
	b.put("home/.config/winkle/look.conf", mine)
	b.put("home/.config/winkle/own-icons.conf", "[Pinned]\nmail=/x.png\n")
	b.put("home/.local/state/winkle/running.conf", "[Running]\nskin=Old\nnight=1\nsolid=80\n")
	b.put("outfit.toml", "format = 1\nname = 'Pool'\n[facet.bar]\npiece = 'Pool'\n[facet.dark]\nvalue = 'light'\n[facet.opacity]\nvalue = '60'\n[facet.icons]\npiece = 'New'\n")
	b.put("old.toml", "format = 1\nname = 'Old'\n[facet.bar]\npiece = 'Old'\n")
	outfit, old := filepath.Join(b.dir, "outfit.toml"), filepath.Join(b.dir, "old.toml")

	readings := func() map[string]reading.Reading {
		var all []reading.Reading
		out, _ := b.command("read", "--json").Output() // 1: what it is told is not there
		require.NoError(t, json.Unmarshal(out, &all))
		got := map[string]reading.Reading{}
		for _, r := range all {
			if r.Surface == "winkle" {
				got[r.Facet] = r
			}
		}
		return got
	}
	before := readings()
	require.Equal(t, "dark", before["dark"].Value)
	require.Equal(t, "80", before["opacity"].Value)
	require.Equal(t, "Old", before["icons"].Value)
	require.Equal(t, "mail", before["icons"].Singles[0].Key)
	require.Equal(t, 3, before["dark"].Source.Line)

	codes := func(worn string) map[string]string {
		var all []match.Finding
		out, _ := b.command("check", "--json", "--outfit", worn).Output()
		require.NoError(t, json.Unmarshal(out, &all))
		got := map[string]string{}
		for _, f := range all {
			if f.Surface == "winkle" {
				got[f.Facet] = f.Code
			}
		}
		return got
	}
	require.Equal(t, map[string]string{"bar": "overruled", "dark": "overruled", "opacity": "overruled", "icons": "own-setting"}, codes(outfit))
	require.Equal(t, "other-version", codes(old)["bar"])
	require.Contains(t, b.run(1, "plan", "--outfit", old), "Winkle would not find Old: it was made for another version: for 4, and this is 5.1.0")

	b.run(1, "apply", "--outfit", outfit) // Qt has no settings of its own
	text, err := os.ReadFile(filepath.Join(b.dir, "home/.config/winkle/look.conf"))
	require.NoError(t, err)
	require.Equal(t, "# mine\n[Skin]\nnight = no\nsolid=60\nicons=New\nskin=Pool\n", string(text))
	after := readings()
	require.Equal(t, "Pool", after["bar"].Value)
	require.Equal(t, "shell", after["bar"].Pending, "it has loaded another")
	require.Empty(t, after["icons"].Singles)
	require.Equal(t, map[string]string{"bar": "needs-restart", "dark": "needs-restart", "opacity": "needs-restart"}, codes(outfit))
	b.put("home/.local/state/winkle/running.conf", "[Running]\nskin=Pool\nnight=no\nsolid=60\n")
	require.Empty(t, codes(outfit))
	b.run(0, "back")
	text, err = os.ReadFile(filepath.Join(b.dir, "home/.config/winkle/look.conf"))
	require.NoError(t, err)
	require.Equal(t, mine, string(text))

	broken := b.put("broken.toml", "id = 'x'\ntitle = 'X'\n[[facet]]\nname = 'bar'\ncolour = 'red'\n")
	out, err = command(t, "surface", "check", broken).CombinedOutput()
	require.Error(t, err)
	require.Contains(t, string(out), "line 5")
}

// TestAnOutfitGetsItsPieces: what Avocet has not is fetched from a market and put in
// place; what no market has is said, with exit status 1; a second time nothing is
// left to get.
func TestAnOutfitGetsItsPieces(t *testing.T) {
	data := t.TempDir()
	w := demotest.World(t, filepath.Join(data, "ivelt/demo"))
	file := filepath.Join(data, "lamp.toml")
	text := "format = 1\nname = 'Lamp'\n[facet.widgets]\npiece = 'Groyne'\n[facet.bar]\npiece = 'Groyne'\n[facet.pointer]\npiece = 'Limpet'\n[facet.palette]\npiece = 'ebb'\n[facet.icons]\npiece = 'Foreshore'\n"
	require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
	run := onDemo(t, data, "avocet")
	require.Equal(t, "got: Windows Groyne\ngot: Pointer Limpet\ngot: Bar Groyne\ngot: Terminal palette ebb\n", run(0, "outfit", "get", file, "--market", w.Market))
	require.FileExists(t, filepath.Join(w.Avocet.Home, ".themes/Groyne/gtk-3.0/gtk.css"))
	require.FileExists(t, filepath.Join(w.Avocet.Home, ".icons/Limpet/cursors/left_ptr"))
	require.Empty(t, run(0, "outfit", "get", file))
	run(0, "apply", "--outfit", file)
	require.NoError(t, os.WriteFile(file, []byte(text+"[facet.pictures]\npiece = 'Nowhere'\n"), 0o644))
	require.Equal(t, "not to be had: Picture style Nowhere: no market has it\n", run(1, "outfit", "get", file))
}
