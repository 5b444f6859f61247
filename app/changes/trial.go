package changes

import (
	"cmp"
	"context"
	"errors"
	"log/slog"
	"slices"
	"strings"
	"sync"
	"time"

	"ivelt/app/desks"
	"ivelt/app/drafts"
	"ivelt/app/jobs"
	"ivelt/core/apply"
	"ivelt/core/say"
	"ivelt/store"
)

// Trials are looks that are tried: they are gone back on unless they are kept in time.
type Trials struct {
	store    trialStore
	plans    *Plans
	back     *Back
	overlays *drafts.Overlays
	notices  *desks.Notices
	jobs     *jobs.List
	log      *slog.Logger
	now      func() time.Time
	due      timers
}

type trialStore interface {
	Trial(desk string) (store.TrialRow, error)
	KeepTrial(desk string, checkpoint uint) error
	SaveTrial(t store.TrialRow) error
	Checkpoint(id uint) (store.CheckpointRow, error)
}

// NewTrials returns what looks after trials.
func NewTrials(s trialStore, plans *Plans, b *Back, o *drafts.Overlays, n *desks.Notices, running *jobs.List, log *slog.Logger, now func() time.Time) *Trials {
	return &Trials{store: s, plans: plans, back: b, overlays: o, notices: n, jobs: running, log: log, now: now}
}

// Stop stops waiting for the trial on a desk.
func (ts *Trials) Stop(d *desks.Managed) { ts.due.stop(d.ID) }

// ErrTrying: something is tried on the desk, and has to be kept or gone back on
// before anything else is changed.
var ErrTrying = errors.New("something is being tried on this desk: keep it or go back first")

// Trial is what is tried on a desk.
type Trial struct {
	store.TrialRow
	Title string
	Left  time.Duration
}

// Of returns what is tried on a desk, if anything is.
func (ts *Trials) Of(d *desks.Managed) (Trial, bool) {
	t, err := ts.store.Trial(d.ID)
	if err != nil {
		return Trial{}, false
	}
	c, err := ts.store.Checkpoint(t.Checkpoint)
	return Trial{t, c.Title, max(0, t.Until.Sub(ts.now()))}, err == nil
}

// Keep ends a trial: what was tried stays, and leaves the draft. checkpoint is
// the entry of the history that is tried; 0 is whichever it is.
func (ts *Trials) Keep(d *desks.Managed, checkpoint uint) error {
	d.Lock()
	defer d.Unlock()
	t, err := ts.store.Trial(d.ID)
	if err == nil {
		err = ts.store.KeepTrial(d.ID, cmp.Or(checkpoint, t.Checkpoint))
	}
	if err != nil {
		return say.Errorf("it has ended already: nothing is tried on %s (%w)", d.Title, err)
	}
	ts.due.stop(d.ID)
	c, err := ts.store.Checkpoint(t.Checkpoint)
	if err != nil {
		return err
	}
	p, err := ts.plans.Get(d, c.PlanID)
	if err != nil || p.Outfit == "" {
		return err
	}
	return ts.overlays.Worn(d, p)
}

// End starts going back on what is tried. checkpoint is as of [App.KeepTrial].
func (ts *Trials) End(d *desks.Managed, checkpoint uint, then string) (*jobs.Job, error) {
	t, err := ts.store.Trial(d.ID)
	if err == nil && checkpoint != 0 && t.Checkpoint != checkpoint {
		err = store.ErrNone
	}
	if err != nil {
		return nil, say.Errorf("it has ended already: nothing is tried on %s (%w)", d.Title, err)
	}
	return ts.jobs.Start("Go back", func(ctx context.Context, j *jobs.Job) error {
		j.Then(then)
		return ts.end(ctx, d, j)
	}), nil
}

func (ts *Trials) end(ctx context.Context, d *desks.Managed, j *jobs.Job) error {
	d.Lock()
	defer d.Unlock()
	return ts.undo(ctx, d, j)
}

// undo goes back on what is tried. The desk's lock must be held.
func (ts *Trials) undo(ctx context.Context, d *desks.Managed, j *jobs.Job) error {
	t, err := ts.store.Trial(d.ID)
	if errors.Is(err, store.ErrNone) {
		return nil // kept, or ended, a moment ago
	}
	if err != nil {
		return err
	}
	if err := ts.back.carryOut(ctx, d, j, Way{Checkpoint: t.Checkpoint}, "", store.Applied{TrialOf: t.Checkpoint}); err != nil {
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

// Resume goes back on a trial whose time is up, and else sees to it that
// this is done in time.
func (ts *Trials) Resume(ctx context.Context, d *desks.Managed) error {
	t, err := ts.store.Trial(d.ID)
	if errors.Is(err, store.ErrNone) {
		return nil
	}
	if err != nil {
		return err
	}
	left := t.Until.Sub(ts.now())
	if t.For > 0 { // a clock that was put back does not make it longer
		left = min(left, t.For)
	}
	if left <= 0 {
		c, err := ts.store.Checkpoint(t.Checkpoint)
		if err == nil {
			err = ts.undo(ctx, d, &jobs.Job{})
		}
		if errors.Is(err, apply.ErrBusy) || errors.Is(err, store.ErrNone) {
			return nil // another Ivelt is at it
		}
		if err != nil {
			return say.Errorf("%s: what was tried could not be undone: %w", d.Title, err)
		}
		ts.notices.Add(d, "“%s” was tried on %s and not kept in time, so it was undone.", c.Title, d.Title)
		return nil
	}
	ts.due.after(d.ID, left, func() { ts.timeIsUp(d) })
	return nil
}

// timeIsUp goes back on what was not kept, and tries again if it cannot be now.
func (ts *Trials) timeIsUp(d *desks.Managed) {
	t, ok := ts.Of(d)
	if !ok {
		return
	}
	err := ts.jobs.Start("Go back", func(ctx context.Context, j *jobs.Job) error { return ts.end(ctx, d, j) }).Wait()
	switch {
	case err == nil:
		ts.notices.Add(d, "“%s” was tried on %s and not kept in time, so it was undone.", t.Title, d.Title)
	case errors.Is(err, jobs.ErrStopping) || errors.Is(err, context.Canceled):
	default:
		ts.log.Error("could not go back on a trial", "desk", d.ID, "error", err)
		ts.due.after(d.ID, 2*time.Second, func() { ts.timeIsUp(d) })
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
func (ts *Trials) restarted(d *desks.Managed, surface string) error {
	t, err := ts.store.Trial(d.ID)
	if errors.Is(err, store.ErrNone) {
		return nil
	}
	if err != nil || slices.Contains(strings.Fields(t.Restarted), surface) {
		return err
	}
	t.Restarted += surface + "\n"
	return ts.store.SaveTrial(t)
}
