package main

import (
	"encoding/json"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/demo/demotest"
)

// TestBenchByCommand: pointers, icons and fonts of a desk, a folder and a parcel, as text and as JSON;
// exit status 1 with findings, 0 without any, 2 for what is no such piece; a set whose recipe is built has
// none left.
func TestBenchByCommand(t *testing.T) {
	world := demotest.World(t, filepath.Join(t.TempDir(), "world"))
	home, system := world.Dunlin.Home, world.Dunlin.System
	t.Setenv("XDG_DATA_HOME", t.TempDir())
	run := func(args ...string) (string, int) {
		t.Helper()
		out, err := command(t, append(args, "--home", home, "--system", system)...).CombinedOutput()
		if exit := (*exec.ExitError)(nil); errors.As(err, &exit) {
			return string(out), exit.ExitCode()
		}
		require.NoError(t, err, string(out))
		return string(out), 0
	}
	kit := filepath.Join(world.Avocet.Home, "Downloads/reedbed-kit-0.4.zip")
	folder := filepath.Join(system, "usr/share/icons/Sandpiper")
	for _, c := range []struct {
		args []string
		code int
		says string
	}{
		{[]string{"pointer", "Sandpiper"}, 1, "pictures under"},
		{[]string{"pointer", folder}, 1, "pictures under"},
		{[]string{"pointer", kit}, 1, "pictures under"},
		{[]string{"pointer", "Nowhere"}, 2, "Nowhere"},
		{[]string{"icons", "Glasswort"}, 1, "programs"},
		{[]string{"icons", kit}, 1, "programs"},
		{[]string{"icons", "Nowhere"}, 2, "Nowhere"},
		{[]string{"font"}, 1, "an x is"},
		{[]string{"font", "Estuary Mono"}, 1, "Estuary Mono"},
		{[]string{"font", filepath.Join(system, "usr/share/fonts")}, 1, "Estuary"},
		{[]string{"font", "Nowhere Sans"}, 2, "Nowhere Sans"},
	} {
		out, code := run(append([]string{"bench"}, c.args...)...)
		require.Equal(t, c.code, code, "%v: %s", c.args, out)
		require.Contains(t, out, c.says, "%v", c.args)
		if c.code == 2 {
			continue
		}
		report := filepath.Join(t.TempDir(), "report.xml")
		out, code = run(append(append([]string{"bench"}, c.args...), "--json", "--junit", report)...)
		require.Equal(t, c.code, code, "%v", c.args)
		require.True(t, json.Valid([]byte(out)), out)
		xml, err := os.ReadFile(report)
		require.NoError(t, err)
		require.Contains(t, string(xml), `name="ivelt bench `+c.args[0])
		require.Contains(t, string(xml), `failures="1"`)
	}
	recipe := filepath.Join(t.TempDir(), "mended.toml")
	_, code := run("bench", "pointer", "Sandpiper", "--mend", recipe)
	require.Zero(t, code)
	_, code = run("layer", "build", recipe)
	require.Zero(t, code)
	out, code := run("bench", "pointer", "Sandpiper-Mended")
	require.Zero(t, code, out)
}
