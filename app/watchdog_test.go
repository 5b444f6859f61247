package app_test

import (
	"context"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/app"
	"ivelt/app/apptest"
	"ivelt/app/desks"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/planning"
	"ivelt/store"
)

// TestTheWatchdogGoesBack on what is tried once its time is up, when the program that began it
// is gone; without anything tried it ends at once, and when it is asked to.
func TestTheWatchdogGoesBack(t *testing.T) {
	dir := t.TempDir()
	d := apptest.DeskIn(t, dir, "d")
	at := filepath.Join(d.Home, ".config/gtk-3.0/settings.ini")
	require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
	require.NoError(t, os.WriteFile(at, []byte("[Settings]\ngtk-cursor-theme-size=24\n"), 0o644))
	data := filepath.Join(dir, "data")
	a, err := app.New(t.Context(), app.Config{Dir: data, Desks: []*desks.Managed{d}})
	require.NoError(t, err)
	require.Same(t, d, a.Desks()[0])
	open := func(row store.DeskRow) (*desk.Desk, error) {
		of, err := desk.Open(row.ID, row.Home, row.System, row.HomePath)
		if err == nil {
			of.SetSurfaces(d.Surfaces())
		}
		return of, err
	}
	require.NoError(t, app.Watchdog(t.Context(), data, open), "nothing is tried")

	_, job, err := a.Changes.Dress(t.Context(), d, outfit.Outfit{Name: "Large"}.With(desk.FacetPointerSize, "48"), time.Hour, planning.Options{})
	require.NoError(t, apptest.Wait(job, err))
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	require.NoError(t, app.Watchdog(ctx, data, open), "cancelled")
	b, err := os.ReadFile(at)
	require.NoError(t, err)
	require.Contains(t, string(b), "size=48")
	trial, ok := a.Trials.Of(d)
	require.True(t, ok)
	require.NoError(t, a.Trials.Keep(d, trial.Checkpoint))

	_, job, err = a.Changes.Dress(t.Context(), d, outfit.Outfit{Name: "Larger"}.With(desk.FacetPointerSize, "64"), 500*time.Millisecond, planning.Options{})
	require.NoError(t, apptest.Wait(job, err))
	require.NoError(t, a.Close())
	require.NoError(t, app.Watchdog(t.Context(), data, open))
	b, err = os.ReadFile(at)
	require.NoError(t, err)
	require.Contains(t, string(b), "size=48", "gone back")
}
