package match_test

import (
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/core/reading"
)

// shell is a surface written only as a descriptor: nothing in the code knows
// it.
const shell = `
id = "spit"
title = "Spit"
kind = "shell"
restart = "session"
[[facet]]
name = "icons"
default = "Base"
[[facet.source]]
path = "{config}/spit.conf"
format = "keyfile"
group = "Look"
key = "pack"
write = true
[facet.lookup]
kind = "icon-theme"
folders = ["/opt/spit/icons", "{data}/icons"]
[facet.loaded]
path = "{state}/spit.conf"
format = "keyfile"
group = "Loaded"
key = "pack"
`

func deskWith(t *testing.T, files map[string]string) *desk.Desk {
	t.Helper()
	home, system := t.TempDir(), t.TempDir()
	for name, text := range files {
		top := system
		if rest, ok := cut(name, "~/"); ok {
			top, name = home, rest
		}
		file := filepath.Join(top, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
	}
	d, err := desk.Open("d", home, system, "/home/me")
	require.NoError(t, err)
	s, err := desk.ParseSurface([]byte(shell))
	require.NoError(t, err)
	d.SetSurfaces(append(desk.Builtin(), s))
	return d
}

func cut(s, prefix string) (string, bool) {
	if len(s) >= len(prefix) && s[:len(prefix)] == prefix {
		return s[len(prefix):], true
	}
	return s, false
}

const pack = "[Icon Theme]\nName=P\nDirectories=16\n[16]\nSize=16\n"

func of(d *desk.Desk, surface string) reading.Reading {
	s, _ := d.Surface(surface)
	f, _ := s.Facet(desk.FacetIcons)
	return reading.Of(d, s, f)
}

func TestTheChainNamesEverySource(t *testing.T) {
	d := deskWith(t, map[string]string{
		"~/.config/gtk-3.0/settings.ini": "[Settings]\n# nothing about icons\n",
		"etc/xdg/gtk-3.0/settings.ini":   "[Settings]\n\ngtk-icon-theme-name=P\n",
		"etc/gtk-3.0/settings.ini":       "[Settings]\ngtk-icon-theme-name=Q\n",
		"usr/share/icons/P/index.theme":  pack,
	})
	r := of(d, "gtk3")
	require.Equal(t, "P", r.Value)
	require.Equal(t, reading.Origin{Kind: "file", Path: "/etc/xdg/gtk-3.0/settings.ini", Line: 3, Key: "gtk-icon-theme-name"}, r.Source)
	require.Equal(t, "/usr/share/icons/P", r.Resolved)
	var states []reading.State
	for _, s := range r.Chain {
		states = append(states, s.State)
	}
	require.Equal(t, []reading.State{reading.Absent, reading.NotAsked, reading.Silent, reading.Wins, reading.Overruled, reading.Absent, reading.Overruled}, states)

	r = of(d, "gtk4")
	require.Equal(t, "default", r.Source.Kind)
	require.Empty(t, r.Resolved, "the default pack is not on this desk")
	require.Equal(t, reading.NotFound, r.Problem.Code)
}

func TestABrokenSourceIsPassedOverAndNamed(t *testing.T) {
	d := deskWith(t, map[string]string{
		"~/.config/gtk-3.0/settings.ini": "[Settings]\ngtk-icon-theme-name=P\noops\n",
		"etc/gtk-3.0/settings.ini":       "[Settings]\ngtk-icon-theme-name=Q\n",
		"usr/share/icons/Q/index.theme":  pack,
	})
	r := of(d, "gtk3")
	require.Equal(t, "Q", r.Value, "GTK does not read a file with a bad line")
	require.Equal(t, reading.BrokenSource, r.Problem.Code)
	require.Contains(t, r.Problem.Text, "line 3")
}

func TestEveryState(t *testing.T) {
	for _, c := range []struct {
		what, surface, want string
		files               map[string]string
		state               match.State
		cause, remedy       string
	}{
		{"follows", "spit", "P", map[string]string{"~/.config/spit.conf": "[Look]\npack=P\n", "opt/spit/icons/P/index.theme": pack}, match.Follows, "", ""},
		{"differs", "spit", "P", map[string]string{"~/.config/spit.conf": "[Look]\npack=Q\n", "opt/spit/icons/P/index.theme": pack}, match.Differs, "~/.config/spit.conf, line 2, gives Q", "draft"},
		{"default differs", "spit", "P", map[string]string{"opt/spit/icons/P/index.theme": pack}, match.Differs, "default gives Base", "draft"},
		{"pending", "spit", "P", map[string]string{"~/.config/spit.conf": "[Look]\npack=P\n", "~/.local/state/spit.conf": "[Loaded]\npack=Old\n", "opt/spit/icons/P/index.theme": pack}, match.Pending, "Still shows Old", "restart"},
		{"loaded already", "spit", "P", map[string]string{"~/.config/spit.conf": "[Look]\npack=P\n", "~/.local/state/spit.conf": "[Loaded]\npack=P\n", "opt/spit/icons/P/index.theme": pack}, match.Follows, "", ""},
		{"a folder it does not look in", "spit", "P", map[string]string{"~/.config/spit.conf": "[Look]\npack=P\n", "usr/share/icons/P/index.theme": pack}, match.NotFound, "and Spit does not look there", "link"},
		{"the same, seen by another", "gtk3", "P", map[string]string{"~/.config/gtk-3.0/settings.ini": "[Settings]\ngtk-icon-theme-name=P\n", "usr/share/icons/P/index.theme": pack}, match.Follows, "", ""},
		{"broken piece", "spit", "P", map[string]string{"~/.config/spit.conf": "[Look]\npack=P\n", "opt/spit/icons/P/index.theme": "[Icon Theme]\nName=P\n"}, match.NotFound, "", "install"},
		{"broken source", "spit", "P", map[string]string{"~/.config/spit.conf": "[Look]\npack=P\nx\n", "opt/spit/icons/P/index.theme": pack}, match.Broken, "ignores ~/.config/spit.conf", "mend"},
		{"nothing wanted", "spit", "", map[string]string{"~/.config/spit.conf": "[Look]\npack=P\n", "opt/spit/icons/P/index.theme": pack}, match.Unasked, "", ""},
		{"nothing wanted, but broken", "spit", "", map[string]string{"~/.config/spit.conf": "[Look]\npack=P\n"}, match.Broken, "named \"P\"", "mend"},
	} {
		d := deskWith(t, c.files)
		board := match.Of(d, outfit.Outfit{}.With(desk.FacetIcons, c.want))
		var cell match.Cell
		for _, x := range board.Thread(desk.FacetIcons).Cells {
			if x.Surface.ID == c.surface {
				cell = x
			}
		}
		require.Equal(t, c.state, cell.State, c.what)
		require.Contains(t, cell.Cause, c.cause, c.what)
		require.Equal(t, c.remedy, string(cell.Remedy.Kind), c.what)
		found := false
		for _, f := range board.Findings() {
			found = found || f.Surface == c.surface
		}
		require.Equal(t, c.state != match.Follows && c.state != match.Unasked, found, c.what)
	}
}

// TestAVariableOverrules: the board names the variable and its file; the plan
// takes it out, and nothing else of the file.
func TestAVariableOverrules(t *testing.T) {
	d := deskWith(t, map[string]string{
		"usr/share/themes/Reef/gtk-3.0/gtk.css": "", "usr/share/themes/Skerry/gtk-3.0/gtk.css": "",
		"~/.profile": "# mine\nexport GTK_THEME=Skerry\nexport EDITOR=ed\n", "~/.config/gtk-3.0/settings.ini": "[Settings]\ngtk-theme-name=Reef\n",
	})
	o := outfit.Outfit{Name: "x"}.With(desk.FacetWidgets, "Reef")
	var cell match.Cell
	for _, c := range match.Of(d, o).Thread(desk.FacetWidgets).Cells {
		if c.Surface.ID == "gtk3" {
			cell = c
		}
	}
	require.Equal(t, match.Differs, cell.State)
	require.Equal(t, "The variable GTK_THEME, set by ~/.profile in line 2, gives Skerry.", cell.Cause)
	require.True(t, slices.ContainsFunc(cell.Reading.Chain, func(step reading.Link) bool {
		return step.State == reading.Overruled && strings.HasSuffix(step.Path, "/.config/gtk-3.0/settings.ini")
	}))
	p, err := planning.Dress(t.Context(), d, o)
	require.NoError(t, err)
	var written []string
	for _, op := range p.Ops {
		if op.Kind == plan.Write && op.Surface == "gtk3" {
			written = append(written, d.Show(op.Path)+" "+string(op.Content))
		}
	}
	require.Equal(t, []string{"~/.profile # mine\nexport EDITOR=ed\n", "~/.config/gtk-3.0/settings.ini [Settings]\ngtk-theme-name=Reef\ngtk-application-prefer-dark-theme=0\n"}, written,
		"the settings say Reef already; that it is light, which only the variable said, is held")
	for _, op := range p.Ops {
		require.NotContains(t, string(op.Content), "gtk-theme-name=Reef\n\n")
		if op.Surface == "gtk4" {
			require.Contains(t, string(op.Content), "gtk-theme-name=Skerry", "GTK 4 does not find Reef, and goes on wearing what the variable told it")
		}
	}
}
