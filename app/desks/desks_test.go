package desks_test

import (
	"bytes"
	"context"
	"errors"
	"log/slog"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/core/desk"
	"ivelt/core/plan"
	"ivelt/store"
)

// made is when what is changed here was changed.
var made = time.Date(2025, 1, 2, 3, 4, 5, 0, time.UTC)

func managed(t *testing.T) *desks.Managed {
	t.Helper()
	home, system := t.TempDir(), t.TempDir()
	d, err := desk.Open("d", home, system, "/home/me")
	require.NoError(t, err)
	d.SetSurfaces(desk.Builtin())
	return &desks.Managed{Desk: d}
}

func put(t *testing.T, at, text string) {
	t.Helper()
	require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
	require.NoError(t, os.WriteFile(at, []byte(text), 0o644))
}

// TestOneAtATime changes a desk, whoever asks first.
func TestOneAtATime(t *testing.T) {
	d := managed(t)
	d.Lock()
	require.False(t, d.TryLock())
	d.Unlock()
	require.True(t, d.TryLock())
	d.Unlock()
	require.True(t, d.Has(desk.FacetIcons))
	require.False(t, d.Has("tides"))
	require.False(t, d.CanRestart("gtk3"))
	d.Restarts = map[string]func() error{"gtk3": func() error { return nil }}
	require.True(t, d.CanRestart("gtk3"))
	require.True(t, d.AdminHere())
}

// TestPackagesAreReadAgain once their lists have changed, and not before.
func TestPackagesAreReadAgain(t *testing.T) {
	d := managed(t)
	at := filepath.Join(d.System, "var/lib/dpkg/status")
	put(t, at, "Package: reef-icon-theme\nStatus: install ok installed\nVersion: 1\n")
	first := d.Packaged()
	require.Len(t, first, 1)
	first["kept"] = desk.Package{}
	require.Len(t, d.Packaged(), 2, "the lists are not read a second time")
	put(t, at, "Package: reef-icon-theme\nStatus: install ok installed\nVersion: 2\n")
	require.NoError(t, os.Chtimes(at, made, made))
	require.Equal(t, "2", d.Packaged()["reef-icon-theme"].Version)
	require.Len(t, d.Packaged(), 1)
}

type keptNotices struct {
	rows []store.NoticeRow
	err  error
}

func (k *keptNotices) Notify(d, text string) error {
	k.rows = append(k.rows, store.NoticeRow{Desk: d, Text: text})
	return k.err
}
func (k *keptNotices) Notices() ([]store.NoticeRow, error) { return k.rows, k.err }
func (k *keptNotices) Noticed(uint) error                  { k.rows = nil; return k.err }

// TestNoticesAreKept until they are seen; what cannot be kept is at least logged.
func TestNoticesAreKept(t *testing.T) {
	var log bytes.Buffer
	kept := &keptNotices{}
	n := desks.NewNotices(kept, slog.New(slog.NewTextHandler(&log, nil)))
	n.Add(managed(t), "%s is %d", "tide", 3)
	require.Equal(t, "tide is 3", n.All()[0].Text)
	require.NoError(t, n.Seen(1))
	require.Empty(t, n.All())
	kept.err = errors.New("no room")
	n.Add(managed(t), "again")
	n.All()
	require.Contains(t, log.String(), "keep a notice")
	require.Contains(t, log.String(), "read the notices")
}

// TestCachesFollow what a plan changed; one that cannot be made anew is told, and the others
// are made all the same.
func TestCachesFollow(t *testing.T) {
	d := managed(t)
	p := plan.Plan{Ops: []plan.Op{{Kind: plan.Copy, Path: "/home/me/.icons/Reef", Facet: "icons"}, {Kind: plan.Copy, Path: "/home/me/.fonts/Lora", Facet: "font"}}}
	require.NotEmpty(t, p.Caches())
	list := jobs.New(t.Context(), slog.New(slog.DiscardHandler))
	run := func() error {
		return list.Start("refresh", func(ctx context.Context, j *jobs.Job) error { return desks.RefreshCaches(ctx, d, j, p) }).Wait()
	}
	require.NoError(t, run(), "nothing keeps one")
	var asked []string
	d.Refresh = func(_ context.Context, kind, folder string) error {
		asked = append(asked, kind+" "+folder)
		return errors.New("it is full")
	}
	require.ErrorContains(t, run(), "the cache that programs keep of it is not: it is full")
	require.Len(t, asked, len(p.Caches()))
}

// TestSystemCaches asks the desk's own tools (Debian: gtk-update-icon-cache, fontconfig).
func TestSystemCaches(t *testing.T) {
	d := managed(t)
	refresh := desks.SystemCaches(d.Desk)
	put(t, filepath.Join(d.Home, ".icons/Reef/index.theme"), "[Icon Theme]\nName=Reef\nDirectories=16\n[16]\nSize=16\n")
	put(t, filepath.Join(d.Home, ".icons/Reef/16/a.png"), "x")
	cache := filepath.Join(d.Home, ".icons/Reef/icon-theme.cache")
	require.NoError(t, refresh(t.Context(), "icons", "/home/me/.icons/Reef"))
	require.NoFileExists(t, cache, "it had none")
	put(t, cache, "stale")
	require.NoError(t, refresh(t.Context(), "icons", "/home/me/.icons/Reef"))
	b, err := os.ReadFile(cache)
	require.NoError(t, err)
	require.NotEqual(t, "stale", string(b))
	require.NoError(t, refresh(t.Context(), "theme", "/home/me/.themes/Reef"), "themes have none")
	require.NoError(t, os.MkdirAll(filepath.Join(d.Home, ".fonts"), 0o755))
	require.NoError(t, refresh(t.Context(), "font", "/home/me/.fonts"))
	put(t, filepath.Join(d.Home, ".icons/Bad/icon-theme.cache"), "stale")
	require.ErrorContains(t, refresh(t.Context(), "icons", "/home/me/.icons/Bad"), "gtk-update-icon-cache", "it has no index")
}
