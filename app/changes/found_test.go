package changes_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/app/apptest"
	"ivelt/app/changes"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/store"
)

// TestAPersonsDeskIsKeptAsItWasFound before the first change, whatever plans may touch of
// it, so that what somebody else changes later can be gone back on too.
func TestAPersonsDeskIsKeptAsItWasFound(t *testing.T) {
	a, d := apptest.WithHome(t, map[string]string{".config/gtk-3.0/settings.ini": "[Settings]\ngtk-cursor-theme-size=24\n", ".config/gtk-4.0/settings.ini": "# mine\n[Settings]\n", "notes.txt": "nobody's business"})
	dress := func(size string) {
		_, job, err := a.Changes.Dress(t.Context(), d, outfit.Outfit{Name: size}.With(desk.FacetPointerSize, size), 0, planning.Options{})
		require.NoError(t, apptest.Wait(job, err))
	}
	d.Keep = func(bool) error { return nil } // somebody's own
	dress("48")
	dress("64")
	list, err := a.History.Entries(d)
	require.NoError(t, err)
	require.Len(t, list, 3, "kept once")
	found := list[2]
	require.Equal(t, "As it was found", found.Title)
	require.True(t, found.Pinned)
	kept := map[string]bool{}
	for _, op := range found.Plan.Ops {
		require.True(t, op.Kind == plan.AsIs && op.Before.Is(op.After), op.Path)
		kept[op.Path] = op.Before.Kind == "file"
	}
	require.True(t, kept["/home/me/.config/gtk-3.0/settings.ini"] && kept["/home/me/.config/gtk-4.0/settings.ini"])
	require.Contains(t, kept, "/home/me/.config/environment.d/60-look.conf", "that it is not there is kept too")
	require.NotContains(t, kept, "/home/me/notes.txt")

	rv, err := a.Back.Review(d, changes.Way{Checkpoint: found.ID}, nil)
	require.NoError(t, err)
	require.Empty(t, rv.Conflicts)
	require.Len(t, rv.Return.Plan.Ops, 2, "to what was found is back on both")

	all := []plan.Plan{found.Plan, list[1].Plan, list[0].Plan}
	file := func(name string) string { return filepath.Join(d.Home, name) }
	require.NoError(t, os.MkdirAll(file(".config/environment.d"), 0o755))
	require.NoError(t, os.WriteFile(file(".config/environment.d/60-look.conf"), []byte("GTK_THEME=Theirs\n"), 0o644))
	back, err := planning.Back(d.Desk, all, a.Kept, planning.Aim{})
	require.NoError(t, err)
	require.Len(t, back.Conflicts, 1)
	require.Equal(t, planning.TakeNow, back.Conflicts[0].Taken, "what somebody else did stays, unless one says otherwise")
	require.Equal(t, "GTK_THEME=Theirs\n", string(back.Conflicts[0].Now))
	back, err = planning.Back(d.Desk, all, a.Kept, planning.Aim{Takes: map[string]planning.Take{"/home/me/.config/environment.d/60-look.conf": planning.TakeBefore}})
	require.NoError(t, err)
	require.NoError(t, a.Applier.Apply(t.Context(), d, back.Plan, store.Applied{}, func(int, int) {}))
	require.NoFileExists(t, file(".config/environment.d/60-look.conf"))
	for name, text := range map[string]string{".config/gtk-3.0/settings.ini": "[Settings]\ngtk-cursor-theme-size=24\n", ".config/gtk-4.0/settings.ini": "# mine\n[Settings]\n"} {
		b, err := os.ReadFile(file(name))
		require.NoError(t, err)
		require.Equal(t, text, string(b))
	}
}

// TestACheckpointIsTakenAtAnyTime, with a sentence; one can go back to it, more than once.
func TestACheckpointIsTakenAtAnyTime(t *testing.T) {
	const before = "[Settings]\ngtk-cursor-theme-size=24\n"
	a, d := apptest.WithHome(t, map[string]string{".config/gtk-3.0/settings.ini": before})
	dress := func(size string) {
		_, job, err := a.Changes.Dress(t.Context(), d, outfit.Outfit{Name: size}.With(desk.FacetPointerSize, size), 0, planning.Options{})
		require.NoError(t, apptest.Wait(job, err))
	}
	file := func() string {
		b, err := os.ReadFile(filepath.Join(d.Home, ".config/gtk-3.0/settings.ini"))
		require.NoError(t, err)
		return string(b)
	}
	dress("48")
	kept := file()
	require.NoError(t, a.Applier.Checkpoint(d, "  before the\n big change "))
	require.Equal(t, kept, file(), "nothing is changed")
	require.ErrorContains(t, a.Applier.Checkpoint(d, strings.Repeat("x", 201)), "201 letters")
	list, err := a.History.Entries(d)
	require.NoError(t, err)
	require.Len(t, list, 2)
	taken := list[0]
	require.Equal(t, "Checkpoint", taken.Title)
	require.Equal(t, "before the big change", taken.Note)
	require.True(t, taken.AsIs && taken.Pinned)

	for _, size := range []string{"64", "96"} {
		dress(size)
		require.NotEqual(t, kept, file())
		job, err := a.Back.Start(d, changes.Way{Checkpoint: taken.ID}, "", "")
		require.NoError(t, apptest.Wait(job, err))
		require.Equal(t, kept, file())
	}
	require.NoError(t, a.Applier.Checkpoint(d, "the same again"), "a second one of the same state")
	require.NoError(t, a.History.Note(d, list[1].ID, "the day it began"))
	require.Error(t, a.History.Note(d, 999, "nobody's"))
	list, err = a.History.Entries(d)
	require.NoError(t, err)
	require.Equal(t, "the same again", list[0].Note)
	require.Equal(t, "the day it began", list[len(list)-1].Note)
	job, err := a.Back.Start(d, changes.Way{Checkpoint: list[len(list)-1].ID, Since: true}, "", "")
	require.NoError(t, apptest.Wait(job, err))
	require.Equal(t, before, file())
}
