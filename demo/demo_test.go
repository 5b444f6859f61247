package demo_test

import (
	"maps"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desktopentry"
	"ivelt/core/icontheme"
	"ivelt/demo"
)

func TestTheWorldIsTheSameEachTime(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "w")
	w, err := demo.Open(t.Context(), dir, false)
	require.NoError(t, err)
	before := snapshot(t, dir)
	require.Greater(t, len(before), 1900)

	programs := desktopentry.List(w.Avocet.Tree(), w.Avocet.Folders([]string{"{data-dirs}/applications"}))
	require.Len(t, programs, 32)
	x := icontheme.NewIndex(icontheme.Config{FS: w.Avocet.Tree(), Bases: w.Avocet.Folders([]string{"{data-dirs}/icons"}), Theme: "Foreshore"})
	for _, p := range programs {
		_, ok := x.Lookup(p.Icon, 48, 1)
		require.True(t, ok, "%s has an icon somewhere", p.Name)
	}

	// What was done to the desk stays, until the world is made anew: asked for,
	// or because making it was cut short.
	mine := filepath.Join(w.Avocet.Home, "mine.txt")
	require.NoError(t, os.WriteFile(mine, nil, 0o644))
	_, err = demo.Open(t.Context(), dir, false)
	require.NoError(t, err)
	require.FileExists(t, mine)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "tidewatch.txt"), []byte("being made\n"), 0o644))
	_, err = demo.Open(t.Context(), dir, false)
	require.NoError(t, err)
	require.True(t, maps.Equal(before, snapshot(t, dir)), "the same, byte for byte")
}

// snapshot is every file of the world but those in which Quayside and Lantern write when
// they started.
func snapshot(t *testing.T, dir string) map[string]string {
	t.Helper()
	out := map[string]string{}
	require.NoError(t, filepath.WalkDir(dir, func(p string, d os.DirEntry, err error) error {
		if err != nil || d.IsDir() || filepath.Base(p) == "session.conf" || filepath.Base(p) == "shown.conf" {
			return err
		}
		if d.Type()&os.ModeSymlink != 0 {
			out[p], err = os.Readlink(p)
			return err
		}
		b, err := os.ReadFile(p)
		out[p] = string(b)
		return err
	}))
	return out
}

func TestAStrangersFolderIsLeftAlone(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "thesis.txt"), []byte("all of it"), 0o644))
	for _, fresh := range []bool{false, true} {
		_, err := demo.Open(t.Context(), dir, fresh)
		require.ErrorIs(t, err, demo.ErrForeign)
	}
	require.FileExists(t, filepath.Join(dir, "thesis.txt"))
}
