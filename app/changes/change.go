// Package changes plans what is to be changed on desks, carries it out, tries it for a
// while, and goes back on it.
package changes

import (
	"bytes"
	"context"
	"errors"
	"log/slog"
	"time"

	"ivelt/app/desks"
	"ivelt/app/drafts"
	"ivelt/app/jobs"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/core/reading"
	"ivelt/core/say"
	"ivelt/store"
)

// Changes dresses desks.
type Changes struct {
	dir      string
	kept     store.Blobs
	plans    *Plans
	applier  *Applier
	trials   *Trials
	drafts   *drafts.Drafts
	overlays *drafts.Overlays
	jobs     *jobs.List
	log      *slog.Logger
	watchdog func(dir string) error
}

// New returns what dresses desks. watchdog is called with the data folder when something
// is tried; it may be nil.
func New(dir string, kept store.Blobs, plans *Plans, ap *Applier, t *Trials, d *drafts.Drafts, o *drafts.Overlays, running *jobs.List, log *slog.Logger, watchdog func(dir string) error) *Changes {
	return &Changes{dir, kept, plans, ap, t, d, o, running, log, watchdog}
}

// How is how a plan is to be carried out.
type How struct {
	Try  time.Duration // if above 0 it is gone back on after that time, unless it is kept
	Lose bool          // what cannot be kept is given up, see [plan.Plan.Lose]
	Then string        // where its job leads
}

// Apply starts carrying out a plan that was reviewed, of a draft. What the plan was
// made from leaves the draft, once it is kept if it is tried; what was chosen
// meanwhile stays on it.
func (ch *Changes) Apply(d *desks.Managed, planID string, how How) (*jobs.Job, error) {
	p, err := ch.plans.Get(d, planID)
	if err != nil {
		return nil, err
	}
	if p.Outfit == "" {
		return nil, say.Errorf("“%s” is not the plan of a look: review the draft again", p.Title)
	}
	p.Lose = how.Lose
	return ch.jobs.Start(p.Title, func(ctx context.Context, j *jobs.Job) error {
		j.Then(how.Then)
		if err := ch.wear(ctx, d, j, p, how.Try); err != nil || how.Try > 0 {
			return err
		}
		return ch.overlays.Worn(d, p)
	}), nil
}

// Dress starts putting an outfit on that is no draft; the draft stays. What needs an
// administrator is left out where this Ivelt is none, and the plan says so.
func (ch *Changes) Dress(ctx context.Context, d *desks.Managed, o outfit.Outfit, try time.Duration, opt planning.Options) (plan.Plan, *jobs.Job, error) {
	p, err := ch.overlays.DressPlan(ctx, d, o, opt)
	if err != nil {
		return plan.Plan{}, nil, err
	}
	if theirs := len(p.Theirs(d.Desk).Ops); theirs > 0 && !d.AdminHere() {
		p = planning.LeftForAdministrator(d.Desk, p.Mine(d.Desk), theirs)
	}
	done, err := ch.wornAlready(d, p, o)
	if err != nil {
		return p, nil, err
	}
	return p, ch.jobs.Start(p.Title, func(ctx context.Context, j *jobs.Job) error {
		if done {
			return nil
		}
		return ch.wear(ctx, d, j, p, try)
	}), nil
}

// wornAlready reports whether there is nothing to do for an outfit, nor to write down.
func (ch *Changes) wornAlready(d *desks.Managed, p plan.Plan, o outfit.Outfit) (bool, error) {
	if len(p.Ops) > 0 {
		return false, nil
	}
	worn, err := ch.drafts.Worn(d)
	return err == nil && bytes.Equal(worn.Over(o).Bytes(), worn.Bytes()), err
}

// wear carries out the plan of an outfit. What is written down as worn is what the
// plan was made from.
func (ch *Changes) wear(ctx context.Context, d *desks.Managed, j *jobs.Job, p plan.Plan, try time.Duration) error {
	d.Lock()
	defer d.Unlock()
	j.Step("Applying", "files")
	done := store.Applied{Try: try}
	var err error
	if done.Worn, err = ch.puttingOn(d, p); err != nil {
		return err
	}
	if done.Placed, err = ch.overlays.PlacedBy(d, p); err != nil {
		return err
	}
	if err := ch.applier.Apply(ctx, d, p, done, func(n, total int) { j.At(int64(n), int64(total)) }); err != nil {
		return err
	}
	if try > 0 {
		if ch.watchdog != nil {
			if err := ch.watchdog(ch.dir); err != nil {
				ch.log.Warn("nobody minds the trial", "error", err)
			}
		}
		if err := ch.trials.Resume(ctx, d); err != nil {
			return err
		}
	}
	if len(done.Placed) > 0 {
		return desks.RefreshCaches(ctx, d, j, p)
	}
	return nil
}

// puttingOn is what a desk wears once a plan of an outfit has come through.
func (ch *Changes) puttingOn(d *desks.Managed, p plan.Plan) (*store.OutfitRow, error) {
	if p.Outfit == "" {
		return nil, nil
	}
	o, err := outfit.Parse([]byte(p.Outfit))
	if err != nil {
		return nil, err
	}
	worn, err := ch.drafts.Worn(d)
	if err != nil {
		return nil, err
	}
	worn = worn.Over(o)
	return &store.OutfitRow{Desk: d.ID, Name: worn.Name, Text: worn.Bytes(), PlanID: p.ID, Changed: time.Now()}, nil
}

// WearDraft writes down that the draft is worn, if the desk is told all of it already. One that
// turns has an entry of the history, to which its turns belong.
func (ch *Changes) WearDraft(ctx context.Context, d *desks.Managed) error {
	draft, err := ch.drafts.Draft(d)
	if err != nil || len(draft.Turns()) == 0 {
		return errors.Join(err, ch.overlays.WearDraft(ctx, d))
	}
	p, err := ch.overlays.DressPlan(ctx, d, draft, planning.Options{})
	if err != nil {
		return err
	}
	if len(p.Ops) > 0 {
		return drafts.ErrToChange
	}
	if err := ch.wear(ctx, d, &jobs.Job{}, p, 0); err != nil {
		return err
	}
	return ch.overlays.Worn(d, p)
}

// ApplyStep starts carrying out a plan of [App.ReviewStep]: the draft, and what
// was last put on, stay.
func (ch *Changes) ApplyStep(d *desks.Managed, planID string, how How) (*jobs.Job, error) {
	p, err := ch.plans.Get(d, planID)
	if err != nil {
		return nil, err
	}
	p.Lose = how.Lose
	return ch.jobs.Start(p.Title, func(ctx context.Context, j *jobs.Job) error {
		d.Lock()
		defer d.Unlock()
		j.Then(how.Then)
		j.Step("Applying", "files")
		return ch.applier.Apply(ctx, d, p, store.Applied{}, func(n, total int) { j.At(int64(n), int64(total)) })
	}), nil
}

// ErrWouldFail: what is to be started again would not come up.
var ErrWouldFail = errors.New("it would not come up")

// Restart starts a surface's program again, if Ivelt can. A login screen, or a
// shell, that would not come up is left running unless it is forced, with an
// error that wraps [ErrWouldFail].
func (ch *Changes) Restart(d *desks.Managed, surface string, force bool) error {
	s, ok := d.Surface(surface)
	if !ok {
		return say.Errorf("%s has no surface %q", d.Title, surface)
	}
	if !d.CanRestart(surface) {
		return say.Errorf("%s cannot be restarted from here: they read their settings when they start. Do it yourself and look again", s.Title)
	}
	if p := reading.Fatal(d.Desk, s); p != nil && !force {
		return say.Errorf("%s was not started again: %w. %s %s", s.Title, ErrWouldFail, p.Text, p.Remedy)
	}
	if err := d.Restarts[surface](); err != nil {
		return err
	}
	return ch.trials.restarted(d, surface)
}
