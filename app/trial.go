package app

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"strings"
	"sync"
	"time"

	"ivelt/app/jobs"
	"ivelt/core/desk"
	"ivelt/core/plan"
	"ivelt/store"
)

// ErrTrying: something is tried on the desk, and has to be kept or gone back on
// before anything else is changed.
var ErrTrying = errors.New("something is being tried on this desk: keep it or go back first")

// Trial is what is tried on a desk.
type Trial struct {
	store.TrialRow
	Title string
	Left  time.Duration
}

// Trial returns what is tried on a desk, if anything is.
func (a *App) Trial(d *Desk) (Trial, bool) {
	t, err := a.Store.Trial(d.ID)
	if err != nil {
		return Trial{}, false
	}
	c, err := a.Store.Checkpoint(t.Checkpoint)
	return Trial{t, c.Title, max(0, t.Until.Sub(a.now()))}, err == nil
}

// KeepTrial ends a trial: what was tried stays, and leaves the draft. checkpoint is
// the entry of the history that is tried; 0 is whichever it is.
func (a *App) KeepTrial(d *Desk, checkpoint uint) error {
	d.Lock()
	defer d.Unlock()
	t, err := a.Store.Trial(d.ID)
	if err == nil {
		err = a.Store.KeepTrial(d.ID, cmp.Or(checkpoint, t.Checkpoint))
	}
	if err != nil {
		return fmt.Errorf("it has ended already: nothing is tried on %s (%w)", d.Title, err)
	}
	a.due.stop(d.ID)
	c, err := a.Store.Checkpoint(t.Checkpoint)
	if err != nil {
		return err
	}
	p, err := a.Plan(d, c.PlanID)
	if err != nil || p.Outfit == "" {
		return err
	}
	return a.isWorn(d, p)
}

// EndTrial starts going back on what is tried. checkpoint is as of [App.KeepTrial].
func (a *App) EndTrial(d *Desk, checkpoint uint, then string) (*jobs.Job, error) {
	t, err := a.Store.Trial(d.ID)
	if err == nil && checkpoint != 0 && t.Checkpoint != checkpoint {
		err = store.ErrNone
	}
	if err != nil {
		return nil, fmt.Errorf("it has ended already: nothing is tried on %s (%w)", d.Title, err)
	}
	return a.Jobs.Start("Go back", func(ctx context.Context, j *jobs.Job) error {
		j.Then(then)
		return a.endTrial(ctx, d, j)
	}), nil
}

func (a *App) endTrial(ctx context.Context, d *Desk, j *jobs.Job) error {
	d.Lock()
	defer d.Unlock()
	return a.untry(ctx, d, j)
}

// untry goes back on what is tried. The desk's lock must be held.
func (a *App) untry(ctx context.Context, d *Desk, j *jobs.Job) error {
	t, err := a.Store.Trial(d.ID)
	if errors.Is(err, store.ErrNone) {
		return nil // kept, or ended, a moment ago
	}
	if err != nil {
		return err
	}
	if err := a.goBack(ctx, d, j, Way{Checkpoint: t.Checkpoint}, "", store.Applied{TrialOf: t.Checkpoint}); err != nil {
		return err
	}
	var failed []error
	for _, s := range strings.Fields(t.Restarted) { // what shows the tried look shows the old one again
		if d.CanRestart(s) {
			failed = append(failed, d.Restarts[s]())
		}
	}
	return errors.Join(failed...)
}

// resumeTrial goes back on a trial whose time is up, and else sees to it that
// this is done in time.
func (a *App) resumeTrial(ctx context.Context, d *Desk) error {
	t, err := a.Store.Trial(d.ID)
	if errors.Is(err, store.ErrNone) {
		return nil
	}
	if err != nil {
		return err
	}
	left := t.Until.Sub(a.now())
	if t.For > 0 { // a clock that was put back does not make it longer
		left = min(left, t.For)
	}
	if left <= 0 {
		c, err := a.Store.Checkpoint(t.Checkpoint)
		if err == nil {
			err = a.untry(ctx, d, &jobs.Job{})
		}
		if errors.Is(err, plan.ErrBusy) || errors.Is(err, store.ErrNone) {
			return nil // another Ivelt is at it
		}
		if err != nil {
			return fmt.Errorf("%s: what was tried could not be gone back on: %w", d.Title, err)
		}
		a.notice(d, "“%s” was tried on %s and not kept in time. It was gone back on.", c.Title, d.Title)
		return nil
	}
	a.due.after(d.ID, left, func() { a.timeIsUp(d) })
	return nil
}

// timeIsUp goes back on what was not kept, and tries again if it cannot be now.
func (a *App) timeIsUp(d *Desk) {
	t, ok := a.Trial(d)
	if !ok {
		return
	}
	err := a.Jobs.Start("Go back", func(ctx context.Context, j *jobs.Job) error { return a.endTrial(ctx, d, j) }).Wait()
	switch {
	case err == nil:
		a.notice(d, "“%s” was tried on %s and not kept in time. It was gone back on.", t.Title, d.Title)
	case errors.Is(err, jobs.ErrStopping) || errors.Is(err, context.Canceled):
	default:
		a.Log.Error("go back on what was tried", "desk", d.ID, "error", err)
		a.due.after(d.ID, 2*time.Second, func() { a.timeIsUp(d) })
	}
}

// timers are one a desk, each for what is to be done when the time of its trial is up.
type timers struct {
	mu sync.Mutex
	of map[string]*time.Timer
}

// after does something on a desk after a time, unless it is stopped or something else is to
// be done after another time.
func (t *timers) after(desk string, left time.Duration, do func()) {
	t.mu.Lock()
	defer t.mu.Unlock()
	if old := t.of[desk]; old != nil {
		old.Stop()
	}
	if t.of == nil {
		t.of = map[string]*time.Timer{}
	}
	t.of[desk] = time.AfterFunc(left, do)
}

// stop stops a desk's timer, if it has one.
func (t *timers) stop(desk string) {
	t.mu.Lock()
	defer t.mu.Unlock()
	if old := t.of[desk]; old != nil {
		old.Stop()
	}
}

// restarted remembers what was started again during a trial.
func (a *App) restarted(d *Desk, surface string) error {
	t, err := a.Store.Trial(d.ID)
	if errors.Is(err, store.ErrNone) {
		return nil
	}
	if err != nil || slices.Contains(strings.Fields(t.Restarted), surface) {
		return err
	}
	t.Restarted += surface + "\n"
	return a.Store.SaveTrial(t)
}

// grace is how long a program that minds a trial waits for the one that began it.
const grace = 2 * time.Second

// Watchdog waits until the trials of a data folder are over, and goes back on those
// that nobody has kept or gone back on by then.
func Watchdog(ctx context.Context, dir string, surfaces []desk.Surface) error {
	for {
		desks, until, err := triedIn(ctx, dir, surfaces)
		if err != nil || len(desks) == 0 {
			return err
		}
		if left := time.Until(until); left > 0 {
			select {
			case <-ctx.Done():
				return nil
			case <-time.After(left):
			}
			continue
		}
		a, err := New(ctx, Config{Dir: dir, Desks: desks})
		if err != nil {
			return err
		}
		if err := a.Close(); err != nil {
			return err
		}
		time.Sleep(grace) // another Ivelt may be at it
	}
}

// triedIn are the desks of a data folder on which something is tried, and when the
// last of that should be over.
func triedIn(ctx context.Context, dir string, surfaces []desk.Surface) (desks []*Desk, until time.Time, err error) {
	s, err := store.Open(ctx, dir)
	if err != nil {
		return nil, until, err
	}
	defer s.Close()
	rows, err := s.Desks()
	if err != nil {
		return nil, until, err
	}
	for _, row := range rows {
		t, err := s.Trial(row.ID)
		if errors.Is(err, store.ErrNone) {
			continue
		}
		if err != nil {
			return nil, until, err
		}
		d, err := desk.Open(row.ID, row.Home, row.System, row.HomePath)
		if err != nil {
			slog.Warn("what is tried on a desk that is not there", "desk", row.ID, "error", err)
			continue // it goes back when the desk is there again
		}
		d.Title, d.Writable, d.Surfaces = row.Title, true, surfaces
		desks = append(desks, &Desk{Desk: d})
		if t.Until.Add(grace).After(until) {
			until = t.Until.Add(grace)
		}
	}
	return desks, until, nil
}
