// Package apptest makes small desks, each with an Ivelt, for tests of use cases.
package apptest

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"os"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/app"
	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/core/desk"
	"ivelt/core/market"
)

// DeskIn is a desk with a home of its own below a folder, which may be there already.
func DeskIn(t testing.TB, dir, id string) *desks.Managed {
	t.Helper()
	home, system := filepath.Join(dir, "home-"+id), filepath.Join(dir, "system")
	for _, sub := range []string{home, system} {
		require.NoError(t, os.MkdirAll(sub, 0o755))
	}
	d, err := desk.Open(id, home, system, "/home/me")
	require.NoError(t, err)
	d.Title = id
	d.SetWritable(true)
	d.SetSurfaces(slices.DeleteFunc(desk.Builtin(), func(s desk.Surface) bool { return s.ID == "qt" }))
	return &desks.Managed{Desk: d}
}

// Open is a desk "d" below a folder with an Ivelt that may write to it.
func Open(t testing.TB, dir string) (*app.App, *desks.Managed) {
	t.Helper()
	d := DeskIn(t, dir, "d")
	a, err := app.New(t.Context(), app.Config{Dir: filepath.Join(dir, "data"), Desks: []*desks.Managed{d}})
	require.NoError(t, err)
	t.Cleanup(func() { _ = a.Close() })
	return a, d
}

// New is the same in a folder of its own.
func New(t testing.TB) (*app.App, *desks.Managed) {
	t.Helper()
	return Open(t, t.TempDir())
}

// WithHome is an Ivelt with one desk, of GTK 3 and 4 only, of whose home these files are.
func WithHome(t testing.TB, files map[string]string) (*app.App, *desks.Managed) {
	t.Helper()
	home := t.TempDir()
	for name, text := range files {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(home, name)), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(home, name), []byte(text), 0o644))
	}
	d, err := desk.Open("d", home, t.TempDir(), "/home/me")
	require.NoError(t, err)
	for _, s := range desk.Builtin() {
		if s.ID == "gtk3" || s.ID == "gtk4" {
			d.SetSurfaces(append(d.Surfaces(), s))
		}
	}
	d.SetWritable(true)
	of := &desks.Managed{Desk: d}
	a, err := app.New(t.Context(), app.Config{Dir: t.TempDir(), Desks: []*desks.Managed{of}})
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, a.Close()) })
	return a, of
}

// WithMarket is an Ivelt with a desk that has no surfaces and with one market, at an
// address or in a folder.
func WithMarket(t testing.TB, base string) *app.App {
	t.Helper()
	d, err := desk.Open("d", t.TempDir(), t.TempDir(), "/home/me")
	require.NoError(t, err)
	a, err := app.New(t.Context(), app.Config{Dir: t.TempDir(), Desks: []*desks.Managed{{Desk: d}}, Market: base})
	require.NoError(t, err)
	t.Cleanup(func() { _ = a.Close() })
	a.Markets.Fresh, a.Markets.Backoff = 0, time.Millisecond
	return a
}

// Wait waits for a job that may not have been started.
func Wait(j *jobs.Job, err error) error {
	if err != nil {
		return err
	}
	return j.Wait()
}

// JSON is a value as JSON.
func JSON(t testing.TB, v any) []byte {
	t.Helper()
	b, err := json.Marshal(v)
	require.NoError(t, err)
	return b
}

// Offer is an entry of a market with its parcel.
type Offer struct {
	market.Entry
	Parcel []byte
}

// Shop is the folder of a market that offers some things.
func Shop(t testing.TB, offers ...Offer) string {
	t.Helper()
	dir := t.TempDir()
	x := market.Index{Format: market.Format, Name: "The shop"}
	for _, o := range offers {
		sum := sha256.Sum256(o.Parcel)
		o.Versions = []market.Version{{Version: "1.0", Date: "2026-01-01", File: o.ID + ".zip", Size: int64(len(o.Parcel)), SHA256: hex.EncodeToString(sum[:])}}
		require.NoError(t, os.WriteFile(filepath.Join(dir, o.ID+".zip"), o.Parcel, 0o644))
		x.Entries = append(x.Entries, o.Entry)
	}
	require.NoError(t, os.WriteFile(filepath.Join(dir, market.IndexFile), JSON(t, x), 0o644))
	return dir
}

// WithShop is a desk with files in its home, and an Ivelt with one market.
func WithShop(t testing.TB, files map[string]string, offers ...Offer) (*app.App, *desks.Managed) {
	t.Helper()
	dir := t.TempDir()
	d := DeskIn(t, dir, "d")
	for name, text := range files {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(d.Home, name)), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(d.Home, name), []byte(text), 0o644))
	}
	a, err := app.New(t.Context(), app.Config{Dir: filepath.Join(dir, "data"), Desks: []*desks.Managed{d}, Market: Shop(t, offers...)})
	require.NoError(t, err)
	t.Cleanup(func() { _ = a.Close() })
	return a, d
}
