package changes_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/app"
	"ivelt/app/apptest"
	"ivelt/app/changes"
	"ivelt/app/desks"
	"ivelt/app/drafts"
	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/planning"
	"ivelt/core/reading"
	"ivelt/core/turning"
	"ivelt/demo/demotest"
)

// turned is a demo desk with a clock that the test sets.
type turned struct {
	*testing.T
	app *app.App
	on  *desks.Managed
	now time.Time
}

func turnedDesk(t *testing.T, id string) *turned {
	t.Helper()
	dir := t.TempDir()
	w := demotest.World(t, filepath.Join(dir, "world"))
	out := &turned{T: t, now: time.Date(2026, 11, 30, 12, 0, 0, 0, time.UTC)}
	for _, d := range w.Desks() {
		if d.ID == id {
			out.on = &desks.Managed{Desk: d}
		}
	}
	var err error
	out.app, err = app.New(t.Context(), app.Config{Dir: filepath.Join(dir, "data"), Desks: []*desks.Managed{out.on}, Now: func() time.Time { return out.now }})
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, out.app.Close()) })
	return out
}

func (t *turned) wear(o outfit.Outfit) {
	t.Helper()
	_, j, err := t.app.Changes.Dress(t.Context(), t.on, o, 0, planning.Options{})
	require.NoError(t, apptest.Wait(j, err))
}

// turn turns the desk after a while, and returns how long it is until the next time.
func (t *turned) turn(after time.Duration) time.Duration {
	t.Helper()
	t.now = t.now.Add(after)
	due, err := t.app.Turner.Turn(t.Context(), t.on, changes.Ask{})
	require.NoError(t, err)
	if due.IsZero() {
		return 0
	}
	return due.Sub(t.now)
}

func (t *turned) told(surface, facet string) string {
	t.Helper()
	s, _ := t.on.Surface(surface)
	f, ok := s.Facet(facet)
	require.True(t, ok)
	return reading.Told(t.on.Desk, s, f).Value
}

// matches holds the desk against what it wears: nothing may be open.
func (t *turned) matches() {
	t.Helper()
	o, err := t.app.Drafts.Worn(t.on)
	require.NoError(t, err)
	for _, th := range match.Of(t.on.Desk, o).Threads {
		for _, c := range th.Cells {
			require.NotContains(t, []match.State{match.Differs}, c.State, "%s of %s is %q", c.Facet, c.Surface.Title, c.Reading.Value)
		}
	}
}

func (t *turned) files() map[string]string {
	t.Helper()
	out := map[string]string{}
	require.NoError(t, filepath.WalkDir(t.on.Home, func(p string, e os.DirEntry, err error) error {
		if err == nil && e.Type().IsRegular() && !strings.HasSuffix(p, "session.conf") {
			b, err := os.ReadFile(p)
			out[p] = string(b)
			return err
		}
		return err
	}))
	return out
}

func (t *turned) entries() []changes.Past {
	t.Helper()
	past, err := t.app.History.Entries(t.on)
	require.NoError(t, err)
	return past
}

const (
	day   = "/usr/share/backgrounds/low-water.svg"
	night = "/usr/share/backgrounds/after-the-lamp.svg"
	buoy  = "/usr/share/backgrounds/red-buoy.svg"
)

// shell is the surface that draws the backdrop of a demo desk.
var shell = map[string]string{"avocet": "quayside", "dunlin": "creel-desk"}

func halves(t *testing.T) outfit.Outfit {
	t.Helper()
	o := outfit.Outfit{Name: "Bay"}
	for facet, of := range map[string][2]string{
		desk.FacetDark: {"light", "dark"}, desk.FacetAccent: {"#1d6b52", "#7ec9a8"},
		desk.FacetBackdrop: {day, night},
	} {
		var err error
		o, err = o.Pair(facet, of[0], of[1])
		require.NoError(t, err)
	}
	o.Turn = &turning.Schedule{By: turning.ByClock, Light: "07:00", Dark: "19:00"}
	return o
}

// TestALookTurnsByTheClock, on both desks of the demo: at seven in the evening everything that
// has two halves is dark, in the morning light; History has one entry, and going back on it is
// back before all of that.
func TestALookTurnsByTheClock(t *testing.T) {
	for id, draws := range shell {
		t.Run(id, func(t *testing.T) {
			d := turnedDesk(t, id)
			before, entries := d.files(), len(d.entries())
			d.wear(halves(t))
			require.Equal(t, day, d.told(draws, desk.FacetBackdrop))
			worn := d.files()
			require.Equal(t, 7*time.Hour, d.turn(0))
			require.Equal(t, worn, d.files())

			require.Equal(t, 12*time.Hour, d.turn(7*time.Hour))
			require.Equal(t, night, d.told(draws, desk.FacetBackdrop))
			if id == "avocet" {
				require.Equal(t, "dark", d.told("gtk3", desk.FacetDark))
			}
			d.matches()
			dark := d.files()
			require.Equal(t, 12*time.Hour, d.turn(12*time.Hour))
			require.Equal(t, day, d.told(draws, desk.FacetBackdrop))
			d.matches()
			light := d.files() // with lines that say so where nothing was said
			for range 3 {
				d.turn(12 * time.Hour)
			}
			require.Equal(t, dark, d.files())
			past := d.entries()
			require.Len(t, past, entries+1)
			require.Equal(t, "Apply Bay", past[0].Title)
			kept, err := filepath.Glob(filepath.Join(d.app.Dir, "history", id, "*.json"))
			require.NoError(t, err)
			require.Len(t, kept, len(past)+1, "five turns are one")

			require.NoError(t, apptest.Wait(d.app.Back.Start(d.on, changes.Way{Checkpoint: past[0].ID}, "", "")))
			require.Equal(t, before, d.files())
			_, err = d.app.Turner.Turn(t.Context(), d.on, changes.Ask{})
			require.ErrorIs(t, err, changes.ErrStill)
			require.NoError(t, apptest.Wait(d.app.Back.Start(d.on, changes.Way{Checkpoint: d.entries()[0].ID}, "", "")))
			require.Equal(t, dark, d.files())
			require.Equal(t, 12*time.Hour, d.turn(12*time.Hour))
			require.Equal(t, light, d.files(), "it goes on where it was")
		})
	}
}

// TestATurnBelongsToWhatStartedIt: another look may be put on over it, and be gone back on.
func TestATurnBelongsToWhatStartedIt(t *testing.T) {
	d := turnedDesk(t, "avocet")
	before := d.files()
	d.wear(halves(t))
	first := d.entries()[0].ID
	d.turn(7 * time.Hour)
	d.wear(outfit.Outfit{Name: "Large"}.With(desk.FacetIconSize, "96"))
	d.turn(12 * time.Hour)
	require.Equal(t, day, d.told("quayside", desk.FacetBackdrop))
	is, err := d.app.Turner.Of(d.on)
	require.NoError(t, err)
	require.Equal(t, first, is.Checkpoint)
	require.NoError(t, apptest.Wait(d.app.Back.Start(d.on, changes.Way{Checkpoint: first}, "", "")))
	require.Equal(t, "96", d.told("quayside", desk.FacetIconSize))
	require.NoError(t, apptest.Wait(d.app.Back.Start(d.on, changes.Way{Checkpoint: first, Since: true}, "", "")))
	require.Equal(t, before, d.files())
}

// TestAnotherChangeStopsIt: what somebody else has set stays.
func TestAnotherChangeStopsIt(t *testing.T) {
	d := turnedDesk(t, "avocet")
	d.wear(halves(t))
	file := filepath.Join(d.on.Home, ".config/quayside/quayside.conf")
	text, err := os.ReadFile(file)
	require.NoError(t, err)
	// What does not turn may change.
	require.NoError(t, os.WriteFile(file, append(text, "\n[Look]\nworkspaces=7\n"...), 0o644))
	d.turn(7 * time.Hour)
	require.Equal(t, night, d.told("quayside", desk.FacetBackdrop))
	require.Equal(t, "7", d.told("quayside", desk.FacetWorkspaces))

	text, err = os.ReadFile(file)
	require.NoError(t, err)
	theirs := strings.ReplaceAll(string(text), night, buoy)
	require.NoError(t, os.WriteFile(file, []byte(theirs), 0o644))
	require.Zero(t, d.turn(12*time.Hour))
	text, err = os.ReadFile(file)
	require.NoError(t, err)
	require.Equal(t, theirs, string(text))
	is, err := d.app.Turner.Of(d.on)
	require.NoError(t, err)
	require.Equal(t, "Backdrop of Quayside was changed elsewhere, from after the lamp to red buoy", is.Stopped)
	require.Contains(t, d.app.Notices.All()[0].Text, "turns no more on Avocet: "+is.Stopped)
	_, err = d.app.Turner.Turn(t.Context(), d.on, changes.Ask{})
	require.ErrorContains(t, err, is.Stopped)
	require.NoError(t, d.app.Turner.Pause(d.on, false))
	d.turn(0)
	require.Equal(t, day, d.told("quayside", desk.FacetBackdrop), "told to go on it does")
	require.NoError(t, os.WriteFile(file, []byte(theirs), 0o644))
	require.Zero(t, d.turn(12*time.Hour))
	d.wear(halves(t))
	require.Positive(t, d.turn(0), "and applied again it turns again")
}

// TestAShowRuns on both desks: in turn, on battery, by hand, and with its folder emptied.
func TestAShowRuns(t *testing.T) {
	for id, draws := range shell {
		t.Run(id, func(t *testing.T) {
			d := turnedDesk(t, id)
			before := d.files()
			folder := filepath.Join(d.on.Home, "Shores")
			at := func(name string) string { return d.on.HomePath + "/Shores/" + name }
			o := outfit.Outfit{Name: "Shores"}.WithShow(&turning.Show{Folder: d.on.HomePath + "/Shores", Every: "10m", Battery: turning.Pause}, at("a.svg"))
			require.NoError(t, os.MkdirAll(folder, 0o755))
			for _, name := range []string{"a.svg", "b.svg", "c.svg", "notes.txt"} {
				require.NoError(t, os.WriteFile(filepath.Join(folder, name), []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 4 3"/>`), 0o644))
			}
			d.wear(o)
			shows := func(name string) { t.Helper(); require.Equal(t, at(name), d.told(draws, desk.FacetBackdrop)) }
			require.Equal(t, time.Minute, d.turn(9*time.Minute))
			shows("a.svg")
			require.Equal(t, 10*time.Minute, d.turn(time.Minute))
			shows("b.svg")
			d.matches()
			d.turn(-3 * time.Hour) // the clock was set back
			require.Equal(t, 10*time.Minute, d.turn(10*time.Minute))
			shows("c.svg")

			power := filepath.Join(d.on.System, "sys/class/power_supply/BAT0")
			require.NoError(t, os.MkdirAll(power, 0o755))
			for file, text := range map[string]string{"type": "Battery\n", "status": "Discharging\n"} {
				require.NoError(t, os.WriteFile(filepath.Join(power, file), []byte(text), 0o644))
			}
			require.Equal(t, 10*time.Minute, d.turn(10*time.Minute))
			shows("c.svg")
			_, err := d.app.Turner.Turn(t.Context(), d.on, changes.Ask{Next: true})
			require.NoError(t, err)
			shows("a.svg")
			require.NoError(t, os.WriteFile(filepath.Join(power, "status"), []byte("Charging\n"), 0o644))
			d.turn(10 * time.Minute)
			shows("b.svg")

			require.NoError(t, d.app.Turner.Pause(d.on, true))
			require.Zero(t, d.turn(time.Hour))
			shows("b.svg")
			require.NoError(t, d.app.Turner.Pause(d.on, false))
			require.Equal(t, 10*time.Minute, d.turn(0))
			for _, name := range []string{"a.svg", "b.svg", "c.svg"} {
				require.NoError(t, os.Rename(filepath.Join(folder, name), filepath.Join(folder, name+".away")))
			}
			require.Equal(t, 10*time.Minute, d.turn(10*time.Minute))
			shows("b.svg")
			is, err := d.app.Turner.Of(d.on)
			require.NoError(t, err)
			require.Empty(t, is.Pictures)
			require.NoError(t, os.Rename(filepath.Join(folder, "c.svg.away"), filepath.Join(folder, "c.svg")))
			d.turn(10 * time.Minute)
			shows("c.svg")
			first := d.entries()[0]
			require.Equal(t, "Apply Shores", first.Title)
			require.NoError(t, os.RemoveAll(folder))

			require.NoError(t, d.app.Turner.End(d.on))
			_, err = d.app.Turner.Turn(t.Context(), d.on, changes.Ask{})
			require.ErrorIs(t, err, changes.ErrStill)
			shows("c.svg")
			require.NoError(t, apptest.Wait(d.app.Back.Start(d.on, changes.Way{Checkpoint: first.ID}, "", "")))
			require.Equal(t, before, d.files())
		})
	}
}

// TestNothingTurnsWhileItIsTried.
func TestNothingTurnsWhileItIsTried(t *testing.T) {
	d := turnedDesk(t, "avocet")
	_, j, err := d.app.Changes.Dress(t.Context(), d.on, halves(t), 10*time.Hour, planning.Options{})
	require.NoError(t, apptest.Wait(j, err))
	require.Positive(t, d.turn(7*time.Hour))
	require.Equal(t, day, d.told("quayside", desk.FacetBackdrop))
	dark := true
	_, err = d.app.Turner.Turn(t.Context(), d.on, changes.Ask{Dark: &dark})
	require.ErrorIs(t, err, changes.ErrTrying)
	require.NoError(t, d.app.Trials.Keep(d.on, 0))
	d.turn(0)
	require.Equal(t, night, d.told("quayside", desk.FacetBackdrop))
}

// TestWornAlready: what is worn already when it is composed turns too, and goes back.
func TestWornAlready(t *testing.T) {
	d := turnedDesk(t, "avocet")
	now := outfit.Outfit{Name: "Now"}.With(desk.FacetBackdrop, day).With(desk.FacetDark, "light")
	d.wear(now)
	before := d.files()
	_, err := d.app.Drafts.ChooseHalves(d.on, drafts.Halves{Light: map[string]string{desk.FacetBackdrop: day}, Dark: map[string]string{desk.FacetBackdrop: night}, Turn: turning.Schedule{By: turning.ByClock, Light: "07:00", Dark: "19:00"}},
		func(o outfit.Outfit) outfit.Outfit { return d.app.Turner.Half(d.on, o) })
	require.NoError(t, err)
	require.NoError(t, d.app.Changes.WearDraft(t.Context(), d.on))
	require.Equal(t, before, d.files())
	d.turn(7 * time.Hour)
	require.Equal(t, night, d.told("quayside", desk.FacetBackdrop))
	require.NoError(t, apptest.Wait(d.app.Back.Start(d.on, changes.Way{Checkpoint: d.entries()[0].ID}, "", "")))
	require.Equal(t, before, d.files())
	_, err = d.app.Turner.Turn(t.Context(), d.on, changes.Ask{})
	require.ErrorIs(t, err, changes.ErrStill)
}

// TestTurnedByHand, and by the sun at a place where it does not rise.
func TestTurnedByHand(t *testing.T) {
	d := turnedDesk(t, "avocet")
	o := halves(t)
	o.Turn = &turning.Schedule{By: turning.ByHand}
	d.wear(o)
	require.Zero(t, d.turn(7*time.Hour))
	for _, dark := range []bool{true, false, true} {
		_, err := d.app.Turner.Turn(t.Context(), d.on, changes.Ask{Dark: &dark})
		require.NoError(t, err)
		require.Equal(t, map[bool]string{true: night, false: day}[dark], d.told("quayside", desk.FacetBackdrop))
	}
	o.Turn = &turning.Schedule{By: turning.BySun, At: &turning.Place{Latitude: 78.2, Longitude: 15.6}}
	d.wear(o)
	require.Equal(t, 24*time.Hour, d.turn(0))
	require.Equal(t, night, d.told("quayside", desk.FacetBackdrop))
	_, err := d.app.Turner.Turn(t.Context(), d.on, changes.Ask{Next: true})
	require.ErrorContains(t, err, "no slide show")
}
