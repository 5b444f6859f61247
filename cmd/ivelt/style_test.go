package main

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

func TestStyle(t *testing.T) {
	dir := t.TempDir()
	put := func(name, text string) string {
		file := filepath.Join(dir, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
		return file
	}
	put("T/base.css", "button { padding: 1px 2px; min-height: 24px; }")
	light := put("T/gtk-3.0/gtk.css", "@import '../base.css';\nbutton:hover { color: rgba(1,2,3,0.25); border: 2px solid #0a0b0c; border-radius: 4px; colour: no; }")
	put("T/gtk-3.0/gtk-dark.css", "button { background-color: #102030; }")
	c := command(t, "style", "--json", light, "window.background box button:hover", "window label")
	out, err := c.Output()
	require.NoError(t, err)
	var got []struct {
		Node       string
		Properties map[string]any
	}
	require.NoError(t, json.Unmarshal(out, &got))
	require.Len(t, got, 2)
	require.Equal(t, "window.background box button:hover", got[0].Node)
	for name, want := range map[string]any{"color": "1,2,3,0.250", "background-color": "0,0,0,0.000", "border-top-color": "10,11,12,1.000", "border-radius": 4.0,
		"border-top-width": 2.0, "padding-top": 1.0, "padding-left": 2.0, "min-height": 24.0, "box-shadow": "none"} {
		require.Equal(t, want, got[0].Properties[name], name)
	}
	c = command(t, "style", "--dark", light)
	c.Stdin = strings.NewReader("window button\n")
	out, err = c.Output()
	require.NoError(t, err)
	require.Equal(t, "window button\n  background-color: rgb(16,32,48);  (gtk-dark.css:1)\n", string(out))
	c = command(t, "style", light, "window button")
	all, err := c.CombinedOutput()
	require.NoError(t, err)
	require.Contains(t, string(all), "gtk.css:2: colour is not a property of GTK 3")
	out, err = command(t, "style", "--refused", light).Output()
	require.NoError(t, err)
	require.Equal(t, light+":2: colour is not a property of GTK 3\n", string(out))
	c = command(t, "style", filepath.Join(dir, "gone.css"), "window")
	all, _ = c.CombinedOutput()
	require.Equal(t, exitBad, c.ProcessState.ExitCode(), string(all))

	rc := put("T/gtk-2.0/gtkrc", "style \"a\" { bg[PRELIGHT] = \"#102030\" }\nwidget_class \"*<GtkButton>\" style \"a\"\nstyle oops\n")
	c = command(t, "style", "--json", rc, "GtkWindow GtkVBox GtkToggleButton:prelight")
	out, err = c.Output()
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(out, &got))
	require.Equal(t, "16,32,48,1.000", got[0].Properties["background-color"])
	all, err = command(t, "style", rc, "GtkWindow").CombinedOutput()
	require.NoError(t, err)
	require.Contains(t, string(all), "gtkrc:3: ")
	all, err = command(t, "style", "--refused", rc).Output()
	require.NoError(t, err)
	require.Contains(t, string(all), "gtkrc:3: ")
	c = command(t, "style", rc, "GtkWindow GtkButton:hover")
	all, _ = c.CombinedOutput()
	require.Equal(t, exitBad, c.ProcessState.ExitCode(), string(all))
}

func TestSurfaceCheck(t *testing.T) {
	file := filepath.Join(t.TempDir(), "pier.toml")
	require.NoError(t, os.WriteFile(file, []byte("id='pier'\ntitle='Pier'\n[[facet]]\nname='icons'\n[[facet.source]]\npath='~/.pier'\nformat='keyfile'\ngroup='G'\nkey='k'\nwrite=true\n[[looks]]\nkind='theme'\nfolders=['~/.themes']\n"), 0o644))
	out, err := command(t, "surface", "check", file).Output()
	require.NoError(t, err)
	require.Equal(t, file+": Pier can be used\n  icons          one source, set in ~/.pier\n  It would read ~/.pier.\n  It would look for pieces in ~/.themes.\n  A plan would write into ~/.pier: icons as “G k”.\n", string(out))
	require.NoError(t, os.WriteFile(file, []byte("id='pier'\n"), 0o644))
	c := command(t, "surface", "check", file)
	all, _ := c.CombinedOutput()
	require.Equal(t, exitBad, c.ProcessState.ExitCode())
	require.Contains(t, string(all), "id and title must be given")
}
