package main

import (
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/plan"
)

// TestWearByCommand checks, plans, applies, and goes back, on a home named by
// its folders.
func TestWearByCommand(t *testing.T) {
	dir := t.TempDir()
	put := func(name, text string) string {
		file := filepath.Join(dir, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
		return file
	}
	settings := put("home/.config/gtk-3.0/settings.ini", "# mine\n[Settings]\ngtk-icon-theme-name=Old\n")
	put("home/.icons/New/index.theme", "[Icon Theme]\nName=New\nDirectories=16\n[16]\nSize=16\n")
	put("home/.local/share/icons/New/index.theme", "[Icon Theme]\nName=New\nDirectories=16\n[16]\nSize=16\n")
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "system"), 0o755))
	worn := put("new.toml", "format = 1\nname = 'New'\n[facet.icons]\npiece = 'New'\n")
	run := func(code int, args ...string) string {
		t.Helper()
		c := command(t, append(args, "--home", filepath.Join(dir, "home"), "--system", filepath.Join(dir, "system"))...)
		c.Env = append(c.Environ(), "XDG_DATA_HOME="+filepath.Join(dir, "data"))
		out, err := c.Output()
		var exit *exec.ExitError
		if code != 0 {
			require.ErrorAs(t, err, &exit)
			require.Equal(t, code, exit.ExitCode(), string(exit.Stderr))
			return string(out) + string(exit.Stderr)
		}
		require.NoError(t, err)
		return string(out)
	}
	require.Contains(t, run(1, "check", "--outfit", worn), "GTK 3 programs, Icons: ~/.config/gtk-3.0/settings.ini, line 3, gives Old.")
	out := run(1, "plan", "--outfit", worn) // Qt has no settings of its own
	require.Contains(t, out, "- gtk-icon-theme-name=Old\n    + gtk-icon-theme-name=New")
	require.Contains(t, out, "! Qt programs follow GTK 3 programs only with a part that is not installed")
	var p plan.Plan
	require.NoError(t, json.Unmarshal([]byte(run(1, "plan", "--json", "--outfit", worn)), &p))
	require.NotEmpty(t, p.Ops)
	require.Contains(t, run(1, "plan", "--script", "--outfit", worn), "#!/bin/sh\n# Apply New\n")
	acting := put("acting.toml", "format = 1\nname = 'New'\n[facet.icons]\npiece = 'New'\n[facet.sign-in]\nvalue = 'by itself'\n")
	require.Contains(t, run(1, "plan", "--outfit", acting), "left out, as it changes more than the look: Automatic sign-in")
	require.NotContains(t, run(1, "plan", "--outfit", acting, "--acts"), "left out")
	b, err := os.ReadFile(settings)
	require.NoError(t, err)
	require.Contains(t, string(b), "Old", "planning writes nothing")

	require.Contains(t, run(1, "apply", "--outfit", worn), settings)
	b, err = os.ReadFile(settings)
	require.NoError(t, err)
	require.Equal(t, "# mine\n[Settings]\ngtk-icon-theme-name=New\n", string(b))
	require.Contains(t, run(0, "history"), "1  ")
	require.Contains(t, run(0, "back"), "Went back on: Apply New")
	b, err = os.ReadFile(settings)
	require.NoError(t, err)
	require.Equal(t, "# mine\n[Settings]\ngtk-icon-theme-name=Old\n", string(b))
	require.NoFileExists(t, filepath.Join(dir, "home/.config/gtk-4.0/settings.ini"))
	require.Contains(t, run(2, "back"), "there is nothing to go back on")
	require.Contains(t, run(2, "back", "x"), "is no number of a checkpoint")
	require.Contains(t, run(2, "plan"), "name an outfit with --outfit FILE")
	require.Contains(t, run(2, "apply", "--outfit", put("bad.toml", "format = 9\n")), "bad.toml")
}
