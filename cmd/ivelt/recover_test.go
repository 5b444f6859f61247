package main

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/apply"
	"ivelt/demo/demotest"
)

// worldUnder makes a demo world in a data folder, and an outfit to put on.
func worldUnder(t *testing.T) (data, outfit string) {
	t.Helper()
	data = t.TempDir()
	demotest.World(t, filepath.Join(data, "ivelt/demo"))
	outfit = filepath.Join(data, "large.toml")
	require.NoError(t, os.WriteFile(outfit, []byte("format = 1\nname = \"Large\"\n[facet.pointer-size]\nvalue = \"48\"\n"), 0o644))
	return data, outfit
}

// TestRecoverOnTheCommandLine: a damaged journal keeps its desk, and no other, from
// being changed, until it is put aside; a damaged database is brought back by the
// command that the message names.
func TestRecoverOnTheCommandLine(t *testing.T) {
	data, outfit := worldUnder(t)
	avocet, dunlin := onDemo(t, data, "avocet"), onDemo(t, data, "dunlin")
	require.Contains(t, avocet(0, "recover"), "Nothing on Avocet is unfinished")
	journal := filepath.Join(data, "ivelt/demo/data/journal/avocet.json")
	require.NoError(t, os.WriteFile(journal, nil, 0o600))
	avocet(2, "apply", "--outfit", outfit)
	avocet(0, "history")
	dunlin(0, "apply", "--outfit", outfit)
	said := avocet(1, "recover")
	require.Contains(t, said, apply.ErrJournal.Error())
	require.Contains(t, said, journal)
	require.Contains(t, avocet(0, "recover", "--set-aside"), journal+".aside-1")
	avocet(0, "apply", "--outfit", outfit)

	folder := filepath.Join(data, "ivelt/demo/data")
	run := func(code int, args ...string) string { return onDemo(t, data, "avocet")(code, args...) }
	require.Contains(t, run(0, "store", "check"), "the database is whole")
	require.NoError(t, os.Truncate(filepath.Join(folder, "ivelt.db"), 9000))
	run(2, "history")
	require.Contains(t, run(1, "store", "check"), "! the database")
	require.Contains(t, run(0, "store", "restore"), "entries of the history came from their own files")
	require.Contains(t, run(0, "store", "restore"), "the database is whole")
	require.Equal(t, 1, strings.Count(run(0, "history"), "Apply Large"))
	require.Equal(t, 1, strings.Count(dunlin(0, "history"), "Apply Large"))
	run(0, "back")

	// A demo world of an earlier version is not made anew over what a person did in it,
	// and one of a newer version is refused.
	stamp := filepath.Join(data, "ivelt/demo/tidewatch.txt")
	for _, version := range []string{"21", "999"} {
		is := "Ivelt's demo world, version " + version + "\n"
		require.NoError(t, os.WriteFile(stamp, []byte(is), 0o644))
		run(2, "history")
		text, err := os.ReadFile(stamp)
		require.NoError(t, err)
		require.Equal(t, is, string(text))
	}
}
