package changes_test

import (
	"errors"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"ivelt/app"
	"ivelt/app/apptest"
	"ivelt/app/changes"
	"ivelt/app/desks"
	"ivelt/core/apply"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/planning"
	"ivelt/store"
)

var errGone = errors.New("it is gone")

const gtk3Settings = ".config/gtk-3.0/settings.ini"

// crashed leaves a change of a desk in the middle, as a kill does.
func crashed(t *testing.T, dir, id string) {
	t.Helper()
	d, swaps := apptest.DeskIn(t, dir, id), 0
	a, err := app.New(t.Context(), app.Config{Dir: filepath.Join(dir, "data"), Desks: []*desks.Managed{d}, Before: func(c apply.Call) error {
		if swaps > 0 {
			return errGone
		}
		if c.Name == "swap" {
			swaps++
		}
		return nil
	}})
	require.NoError(t, err)
	settings := filepath.Join(d.Home, gtk3Settings)
	require.NoError(t, os.MkdirAll(filepath.Dir(settings), 0o755))
	require.NoError(t, os.WriteFile(settings, []byte("[Settings]\ngtk-cursor-theme-size=24\n"), 0o644))
	_, j, err := a.Changes.Dress(t.Context(), d, outfit.Outfit{Name: "Large"}.With(desk.FacetPointerSize, "48"), 0, planning.Options{})
	require.NoError(t, err)
	require.Error(t, j.Wait())
	require.FileExists(t, filepath.Join(dir, "data/journal", id+".json"))
	_ = a.Close()
}

func wears(t *testing.T, a *app.App, d *desks.Managed, size string) error {
	t.Helper()
	_, j, err := a.Changes.Dress(t.Context(), d, outfit.Outfit{Name: size}.With(desk.FacetPointerSize, size), 0, planning.Options{})
	require.NoError(t, err)
	return j.Wait()
}

// TestOneDeskInTroubleStopsNoOther: a desk on which an interrupted change can be
// neither undone nor finished is stuck, and told so; the others are changed as ever.
func TestOneDeskInTroubleStopsNoOther(t *testing.T) {
	if os.Getuid() != 0 {
		t.Skip("mounting a file system needs an administrator")
	}
	dir := t.TempDir()
	crashed(t, dir, "d")
	config := filepath.Join(dir, "home-d/.config/gtk-3.0")
	require.NoError(t, unix.Mount(config, config, "", unix.MS_BIND, ""))
	t.Cleanup(func() { _ = unix.Unmount(config, unix.MNT_DETACH) })
	require.NoError(t, unix.Mount("", config, "", unix.MS_BIND|unix.MS_REMOUNT|unix.MS_RDONLY, ""))
	left, err := os.ReadDir(config)
	require.NoError(t, err)

	d, e := apptest.DeskIn(t, dir, "d"), apptest.DeskIn(t, dir, "e")
	a, err := app.New(t.Context(), app.Config{Dir: filepath.Join(dir, "data"), Desks: []*desks.Managed{d, e}})
	require.NoError(t, err, "it starts")
	stuck, ok := a.Applier.Settle(d)
	require.True(t, ok)
	require.Equal(t, "Apply Large", stuck.Title)
	require.ErrorIs(t, stuck.Why, unix.EROFS)
	require.False(t, stuck.Damaged)
	require.Len(t, stuck.Lies, 1)
	require.True(t, stuck.Lies[0].Original)
	require.ErrorIs(t, wears(t, a, d, "32"), unix.EROFS)
	_, err = a.Applier.Unstick(d, true)
	require.ErrorIs(t, err, unix.EROFS, "a journal that can be read is not put aside")
	_, ok = a.Applier.Settle(e)
	require.False(t, ok)
	require.NoError(t, wears(t, a, e, "32"), "the other desk")
	now, err := os.ReadDir(config)
	require.NoError(t, err)
	require.Equal(t, len(left), len(now), "nothing of it is lost")

	require.NoError(t, unix.Mount("", config, "", unix.MS_BIND|unix.MS_REMOUNT, ""))
	_, err = a.Applier.Unstick(d, false)
	require.NoError(t, err)
	_, ok = a.Applier.Settle(d)
	require.False(t, ok)
	text, err := os.ReadFile(filepath.Join(dir, "home-d", gtk3Settings))
	require.NoError(t, err)
	require.Contains(t, string(text), "=24")
	require.NoError(t, wears(t, a, d, "32"))
	require.NoError(t, a.Close())
}

// TestADamagedJournalOfADesk: the store knows which change was begun last, and that is
// undone. Where it does not, the journal can be put aside.
func TestADamagedJournalOfADesk(t *testing.T) {
	for _, damage := range []string{"", "{\"journal\":2,"} {
		for _, known := range []bool{true, false} {
			dir := t.TempDir()
			crashed(t, dir, "d")
			journal := filepath.Join(dir, "data/journal/d.json")
			require.NoError(t, os.WriteFile(journal, []byte(damage), 0o600))
			if !known {
				require.NoError(t, os.Remove(filepath.Join(dir, "data/ivelt.db")))
			}
			a, d := apptest.Open(t, dir)
			stuck, ok := a.Applier.Settle(d)
			require.Equal(t, !known, ok)
			if known {
				text, err := os.ReadFile(filepath.Join(dir, "home-d", gtk3Settings))
				require.NoError(t, err)
				require.Contains(t, string(text), "=24")
				require.Len(t, a.Notices.All(), 1)
				require.NoError(t, wears(t, a, d, "32"))
				continue
			}
			require.True(t, stuck.Damaged)
			require.ErrorIs(t, wears(t, a, d, "32"), apply.ErrJournal)
			aside, err := a.Applier.Unstick(d, true)
			require.NoError(t, err)
			require.FileExists(t, aside)
			require.NoError(t, wears(t, a, d, "32"))
		}
	}
}

// TestWhatAnotherProcessLeftUnfinished is settled by one that is up, and told until it
// is seen, also after a restart.
func TestWhatAnotherProcessLeftUnfinished(t *testing.T) {
	dir := t.TempDir()
	a, d := apptest.Open(t, dir)
	crashed(t, dir, "d")
	_, ok := a.Applier.Settle(d)
	require.False(t, ok)
	require.NoFileExists(t, filepath.Join(dir, "data/journal/d.json"))
	require.Len(t, a.Notices.All(), 1)
	require.Contains(t, a.Notices.All()[0].Text, "Everything is as it was before it")
	require.NoError(t, a.Close())

	a, d = apptest.Open(t, dir)
	require.Len(t, a.Notices.All(), 1, "it was not seen yet")
	require.NoError(t, wears(t, a, d, "32"))
	require.Empty(t, a.Notices.All(), "and is of no use after the next change")

	release := make(chan struct{})
	held := apptest.DeskIn(t, dir, "d")
	other, err := app.New(t.Context(), app.Config{Dir: filepath.Join(dir, "data"), Desks: []*desks.Managed{held}, Before: func(c apply.Call) error {
		if c.Name == "swap" {
			<-release
		}
		return nil
	}})
	require.NoError(t, err)
	_, j, err := other.Changes.Dress(t.Context(), held, outfit.Outfit{Name: "x"}.With(desk.FacetPointerSize, "64"), 0, planning.Options{})
	require.NoError(t, err)
	for {
		if _, err := os.Stat(filepath.Join(dir, "data/journal/d.json")); err == nil {
			break
		}
	}
	_, ok = a.Applier.Settle(d)
	require.False(t, ok, "one that is at work is left to its work")
	close(release)
	require.NoError(t, j.Wait())
	require.NoError(t, other.Close())
}

// TestAnotherDesksOriginalsAreKept: letting go, with only some of the store's desks
// open, deletes nothing of the others'.
func TestAnotherDesksOriginalsAreKept(t *testing.T) {
	dir := t.TempDir()
	e := apptest.DeskIn(t, dir, "e")
	a, err := app.New(t.Context(), app.Config{Dir: filepath.Join(dir, "data"), Desks: []*desks.Managed{e}})
	require.NoError(t, err)
	settings := filepath.Join(e.Home, gtk3Settings)
	require.NoError(t, os.MkdirAll(filepath.Dir(settings), 0o755))
	require.NoError(t, os.WriteFile(settings, []byte("[Settings]\n# the only copy of it\n"), 0o644))
	require.NoError(t, wears(t, a, e, "32"))
	require.NoError(t, a.Close())

	a, d := apptest.Open(t, dir) // without the other desk
	require.NoError(t, wears(t, a, d, "32"))
	require.NoError(t, wears(t, a, d, "48"))
	rows, err := a.Record.Entries("d")
	require.NoError(t, err)
	require.NoError(t, a.History.Purge(d, rows[1].ID))
	require.NoError(t, a.Close())

	// What a change that was interrupted needs is kept, too.
	crashed(t, dir, "f")
	a, d = apptest.Open(t, dir)
	rows, err = a.Record.Entries("d")
	require.NoError(t, err)
	require.NoError(t, a.History.Purge(d, rows[0].ID))
	r, err := apply.ReadJournal(filepath.Join(dir, "data/journal/f.json"))
	require.NoError(t, err)
	require.NotEmpty(t, r.Plan.Kept())
	for _, hash := range r.Plan.Kept() {
		_, err := a.Kept.Get(hash)
		require.NoError(t, err)
	}
	require.NoError(t, a.Close())

	e = apptest.DeskIn(t, dir, "e")
	a, err = app.New(t.Context(), app.Config{Dir: filepath.Join(dir, "data"), Desks: []*desks.Managed{e}})
	require.NoError(t, err)
	rows, err = a.Record.Entries("e")
	require.NoError(t, err)
	require.NoError(t, apptest.Wait(a.Back.Start(e, changes.Way{Checkpoint: rows[0].ID}, "", "")))
	text, err := os.ReadFile(settings)
	require.NoError(t, err)
	require.Equal(t, "[Settings]\n# the only copy of it\n", string(text))
	require.NoError(t, a.Close())
}

// TestADamagedOriginalIsNotPutBack as good: the file is told, and stays as it is.
func TestADamagedOriginalIsNotPutBack(t *testing.T) {
	a, d := apptest.New(t)
	settings := filepath.Join(d.Home, gtk3Settings)
	require.NoError(t, os.MkdirAll(filepath.Dir(settings), 0o755))
	require.NoError(t, os.WriteFile(settings, []byte("[Settings]\n# the only copy of it\n"), 0o644))
	require.NoError(t, wears(t, a, d, "32"))
	now, err := os.ReadFile(settings)
	require.NoError(t, err)
	blobs, err := filepath.Glob(filepath.Join(a.Dir, "blobs", "*", "????????????????????????????????????????????????????????????????"))
	require.NoError(t, err)
	require.Len(t, blobs, 1)
	require.NoError(t, os.Truncate(blobs[0], 12))
	rv, err := a.Back.Review(d, changes.Way{Checkpoint: 1}, nil)
	require.NoError(t, err)
	require.Len(t, rv.Conflicts, 1)
	require.Contains(t, rv.Conflicts[0].Lost, "damaged")
	require.NoError(t, apptest.Wait(a.Back.Start(d, changes.Way{Checkpoint: 1}, "", "")))
	text, err := os.ReadFile(settings)
	require.NoError(t, err)
	require.Equal(t, string(now), string(text))
	require.NoFileExists(t, filepath.Join(d.Home, ".config/gtk-4.0/settings.ini"), "the others go back")
	c, err := a.Record.Entry(1)
	require.NoError(t, err)
	require.Nil(t, c.GoneOn, "so it is not gone back on as a whole")
	_, err = a.Kept.Get(filepath.Base(blobs[0]))
	require.ErrorIs(t, err, store.ErrDamaged)
}

// TestAChangeThatCameThroughStays, whatever the clock and the zone say when it is asked
// about, and however often the same plan was carried out before.
func TestAChangeThatCameThroughStays(t *testing.T) {
	zone := time.Local
	defer func() { time.Local = zone }()
	for _, turned := range []time.Duration{-365 * 24 * time.Hour, 0, 365 * 24 * time.Hour} {
		dir, gone := t.TempDir(), false
		d := apptest.DeskIn(t, dir, "d")
		settings := filepath.Join(d.Home, gtk3Settings)
		require.NoError(t, os.MkdirAll(filepath.Dir(settings), 0o755))
		require.NoError(t, os.WriteFile(settings, []byte("[Settings]\n"), 0o644))
		time.Local = time.FixedZone("far east", 14*3600)
		a, err := app.New(t.Context(), app.Config{Dir: filepath.Join(dir, "data"), Desks: []*desks.Managed{d}, Before: func(c apply.Call) error {
			if gone && c.Name == "remove" { // what stood there before is to be cleared away: it has come through
				return errGone
			}
			return nil
		}})
		require.NoError(t, err)
		require.NoError(t, wears(t, a, d, "48"))
		require.NoError(t, apptest.Wait(a.Back.Start(d, changes.Way{Checkpoint: 1}, "", "")))
		gone = true
		_ = wears(t, a, d, "48") // the same plan
		require.FileExists(t, filepath.Join(dir, "data/journal/d.json"))
		_ = a.Close()

		time.Local = time.FixedZone("far west", -11*3600)
		d = apptest.DeskIn(t, dir, "d")
		a, err = app.New(t.Context(), app.Config{Dir: filepath.Join(dir, "data"), Desks: []*desks.Managed{d}, Now: func() time.Time { return time.Now().Add(turned) }})
		require.NoError(t, err)
		require.Len(t, a.Notices.All(), 1)
		require.Contains(t, a.Notices.All()[0].Text, "It is in place")
		text, err := os.ReadFile(settings)
		require.NoError(t, err)
		require.Contains(t, string(text), "48")
		require.NoFileExists(t, filepath.Join(dir, "data/journal/d.json"))

		// The same, interrupted before it came through, after it once had.
		require.NoError(t, apptest.Wait(a.Back.Start(d, changes.Way{Checkpoint: 3}, "", "")))
		require.NoError(t, a.Close())
		crashed(t, dir, "d")
		a, _ = apptest.Open(t, dir)
		require.Contains(t, a.Notices.All()[len(a.Notices.All())-1].Text, "Everything is as it was before it")
		require.NoError(t, a.Close())
	}
}

// TestAClockThatIsWrongLetsNothingGo: only days on which Ivelt was in use count.
func TestAClockThatIsWrongLetsNothingGo(t *testing.T) {
	dir := t.TempDir()
	turned := time.Duration(0)
	open := func() (*app.App, *desks.Managed) {
		d := apptest.DeskIn(t, dir, "d")
		a, err := app.New(t.Context(), app.Config{Dir: filepath.Join(dir, "data"), Desks: []*desks.Managed{d}, Now: func() time.Time { return time.Now().Add(turned) }})
		require.NoError(t, err)
		return a, d
	}
	kept := func(a *app.App) (n int) {
		rows, err := a.Record.Entries("d")
		require.NoError(t, err)
		for _, c := range rows {
			if c.Purged == nil {
				n++
			}
		}
		return n
	}
	a, d := open()
	require.NoError(t, wears(t, a, d, "32"))
	require.NoError(t, wears(t, a, d, "48"))
	for _, turned = range []time.Duration{50 * 365 * 24 * time.Hour, -10 * 365 * 24 * time.Hour} {
		require.NoError(t, wears(t, a, d, "24"))
		require.NoError(t, wears(t, a, d, "48"))
	}
	require.Equal(t, 6, kept(a))
	s, err := store.Open(t.Context(), a.Dir)
	require.NoError(t, err)
	defer s.Close()
	s.Now = func() time.Time { return time.Now().Add(turned) }
	for day := range 200 {
		turned = time.Duration(day) * 24 * time.Hour
		_, err := s.Day()
		require.NoError(t, err)
	}
	require.NoError(t, wears(t, a, d, "24"))
	require.Equal(t, 1, kept(a), "two hundred days of use are")
	require.NoError(t, a.Close())
}
