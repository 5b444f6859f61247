package app

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path"
	"strings"
	"time"

	"ivelt/app/jobs"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/plan"
	"ivelt/core/reading"
	"ivelt/store"
)

// apply carries a plan out and writes down that it came through. The desk's
// lock must be held.
func (a *App) apply(ctx context.Context, d *Desk, p plan.Plan, done store.Applied, progress func(done, total int)) error {
	if t, err := a.Store.Trial(d.ID); err == nil && t.Checkpoint != done.TrialOf {
		return ErrTrying
	} else if err != nil && !errors.Is(err, store.ErrNone) {
		return err
	}
	b, err := json.Marshal(p)
	if err != nil {
		return err
	}
	done.Plan = store.PlanRow{ID: p.ID, Desk: d.ID, JSON: b, Made: time.Now()}
	c := a.planConfig(d)
	c.Progress, c.Run = progress, rand.Text()
	done.Checkpoint = store.CheckpointRow{Desk: d.ID, PlanID: p.ID, Title: p.Title, IsBack: len(p.Undoes) > 0, Changes: len(p.Ops), Run: c.Run}
	if seen := a.Notices(); len(seen) > 0 {
		done.Noticed = seen[len(seen)-1].ID
	}
	if err := a.finishFirst(d, c.LockTimeout); err != nil {
		return err
	}
	release, err := a.Store.Blobs.Hold()
	if err != nil {
		return err
	}
	if err := a.Store.Begin(store.RunRow{ID: c.Run, Desk: d.ID, PlanID: p.ID}, done.Plan); err != nil {
		release()
		return err
	}
	c.Commit = func() error {
		done.Checkpoint.At = a.now()
		done.Checkpoint.Bytes = a.Store.Blobs.Size(p.Kept())
		return a.Store.Commit(&done)
	}
	err = plan.Apply(ctx, d.Desk, p, c)
	release()
	if err != nil {
		return err
	}
	a.copyDaily(context.WithoutCancel(ctx)) // Close waits for it
	if err := a.prune(d); err != nil {      // the change is made all the same
		a.Log.Warn("let go what is too old", "desk", d.ID, "error", err)
	}
	return nil
}

// finishFirst finishes a change that was interrupted, before another is begun.
func (a *App) finishFirst(d *Desk, patience time.Duration) error {
	if _, err := os.Lstat(a.journal(d)); errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	err := a.recover(d, patience)
	if err != nil && !errors.Is(err, plan.ErrBusy) {
		st := a.stuckOn(d)
		st.mu.Lock()
		a.isStuck(d, err)
		st.mu.Unlock()
		return fmt.Errorf("%s: a change was interrupted, and could be neither undone nor finished: %w. Nothing else is changed on this desk until then; “ivelt recover” says more, and tries again", d.Title, err)
	}
	return err
}

// Order is how a plan is to be carried out.
type Order struct {
	Try  time.Duration // if above 0 it is gone back on after that time, unless it is kept
	Lose bool          // what cannot be kept is given up, see [plan.Plan.Lose]
	Then string        // where its job leads
}

// Apply starts carrying out a plan that was reviewed, of a draft. What the plan was
// made from leaves the draft, once it is kept if it is tried; what was chosen
// meanwhile stays on it.
func (a *App) Apply(d *Desk, planID string, how Order) (*jobs.Job, error) {
	p, err := a.Plan(d, planID)
	if err != nil {
		return nil, err
	}
	if p.Outfit == "" {
		return nil, fmt.Errorf("“%s” is not the plan of a look: review the draft again", p.Title)
	}
	p.Lose = how.Lose
	return a.Jobs.Start(p.Title, func(ctx context.Context, j *jobs.Job) error {
		j.Then(how.Then)
		if err := a.wear(ctx, d, j, p, how.Try); err != nil || how.Try > 0 {
			return err
		}
		return a.isWorn(d, p)
	}), nil
}

// isWorn takes off the draft what a plan has put on.
func (a *App) isWorn(d *Desk, p plan.Plan) error {
	o, err := outfit.Parse([]byte(p.Outfit))
	if err != nil {
		return err
	}
	draft, err := a.Draft(d)
	if err != nil {
		return err
	}
	rest := draft.Less(o)
	if len(rest.Choices) == 0 {
		return a.draftIsWorn(d)
	}
	return errors.Join(a.setDraft(d, rest.Bytes()), a.Store.PurgeUndoSteps(d.ID), a.clearRoom(d))
}

// draftIsWorn forgets a draft that is in place.
func (a *App) draftIsWorn(d *Desk) error {
	return errors.Join(a.clearRoom(d), a.Store.DropDraft(d.ID), a.Store.PurgeUndoSteps(d.ID))
}

// Dress starts putting an outfit on that is no draft; the draft stays.
func (a *App) Dress(ctx context.Context, d *Desk, o outfit.Outfit, try time.Duration, opt plan.Options) (plan.Plan, *jobs.Job, error) {
	p, _, err := a.dressPlan(ctx, d, o, opt)
	if err != nil {
		return plan.Plan{}, nil, err
	}
	return p, a.Jobs.Start(p.Title, func(ctx context.Context, j *jobs.Job) error { return a.wear(ctx, d, j, p, try) }), nil
}

// wear carries out the plan of an outfit. What is written down as worn is what the
// plan was made from.
func (a *App) wear(ctx context.Context, d *Desk, j *jobs.Job, p plan.Plan, try time.Duration) error {
	d.Lock()
	defer d.Unlock()
	j.Step("Applying", "files")
	done := store.Applied{Try: try}
	var err error
	if done.Worn, err = a.puttingOn(d, p); err != nil {
		return err
	}
	if done.Placed, err = a.placedBy(d, p); err != nil {
		return err
	}
	if err := a.apply(ctx, d, p, done, func(n, total int) { j.At(int64(n), int64(total)) }); err != nil {
		return err
	}
	if try > 0 {
		if a.watchdog != nil {
			if err := a.watchdog(a.Store.Dir); err != nil {
				a.Log.Warn("nobody minds the trial", "error", err)
			}
		}
		if err := a.resumeTrial(ctx, d); err != nil {
			return err
		}
	}
	if len(done.Placed) > 0 {
		return refreshCaches(ctx, d, j, p)
	}
	return nil
}

// puttingOn is what a desk wears once a plan of an outfit has come through.
func (a *App) puttingOn(d *Desk, p plan.Plan) (*store.OutfitRow, error) {
	if p.Outfit == "" {
		return nil, nil
	}
	o, err := outfit.Parse([]byte(p.Outfit))
	if err != nil {
		return nil, err
	}
	worn, err := a.Worn(d)
	if err != nil {
		return nil, err
	}
	worn = worn.Over(o)
	return &store.OutfitRow{Desk: d.ID, Name: worn.Name, Text: worn.Bytes(), PlanID: p.ID, Changed: time.Now()}, nil
}

// ApplyStep starts carrying out a plan of [App.ReviewStep]: the draft, and what
// was last put on, stay.
func (a *App) ApplyStep(d *Desk, planID string, how Order) (*jobs.Job, error) {
	p, err := a.Plan(d, planID)
	if err != nil {
		return nil, err
	}
	p.Lose = how.Lose
	return a.Jobs.Start(p.Title, func(ctx context.Context, j *jobs.Job) error {
		d.Lock()
		defer d.Unlock()
		j.Then(how.Then)
		j.Step("Applying", "files")
		return a.apply(ctx, d, p, store.Applied{}, func(n, total int) { j.At(int64(n), int64(total)) })
	}), nil
}

// Remove starts taking away a piece, by its path. It is kept, so it can be gone
// back on.
func (a *App) Remove(d *Desk, p string, how Order) (*jobs.Job, error) {
	if !d.Mine(p) && d.Owner(p) != "" {
		return nil, fmt.Errorf("%s belongs to the package %s; remove it with the package manager", d.Show(p), d.Owner(p))
	}
	row, known, err := a.placedAt(d, p)
	if err != nil {
		return nil, err
	}
	if err := a.named(d, p); err != nil {
		return nil, err
	}
	return a.Jobs.Start("Remove "+row.Name, func(ctx context.Context, j *jobs.Job) error {
		d.Lock()
		defer d.Unlock()
		j.Then(how.Then)
		pl, err := plan.TakeAway(d.Desk, p, row.Name, row.Kind)
		if known {
			var done plan.Plan
			if done, err = a.Plan(d, row.PlanID); err == nil {
				pl, err = plan.Uninstall(d.Desk, done, p, row.Name)
			}
		}
		if err != nil {
			return err
		}
		pl.Lose = how.Lose
		j.Step("Taking away", "files")
		if err := a.apply(ctx, d, pl, store.Applied{Removed: []string{p}}, func(n, total int) { j.At(int64(n), int64(total)) }); err != nil {
			return err
		}
		return refreshCaches(ctx, d, j, pl)
	}), nil
}

// named tells who still names a piece: it would be missed.
func (a *App) named(d *Desk, p string) error {
	var by []string
	for _, r := range reading.All(d.Desk) {
		if r.Resolved == p {
			s, _ := d.Surface(r.Surface)
			by = append(by, s.Title)
		}
	}
	o, err := a.Draft(d)
	if err != nil {
		return err
	}
	for _, c := range o.Choices {
		if c.Piece == path.Base(p) {
			by = append(by, "the draft")
		}
	}
	if len(by) == 0 {
		return nil
	}
	verb := "name"
	if len(by) == 1 && by[0] == "the draft" {
		verb = "names"
	}
	return fmt.Errorf("%s %s it. Let them wear something else first", strings.Join(by, ", "), verb)
}

// placedAt returns what Ivelt knows of the piece at a path; known is false for
// one that somebody else put there.
func (a *App) placedAt(d *Desk, p string) (row store.PieceRow, known bool, err error) {
	rows, err := a.Store.Pieces(d.ID)
	if err != nil {
		return store.PieceRow{}, false, err
	}
	for _, row := range rows {
		if row.Path == p {
			return row, true, nil
		}
	}
	packs, err := a.Shelf(d)
	if err != nil {
		return store.PieceRow{}, false, err
	}
	for _, pack := range packs {
		if pack.Path == p {
			return store.PieceRow{Name: pack.Name, Kind: string(parcel.Icons)}, false, nil
		}
	}
	return store.PieceRow{}, false, fmt.Errorf("there is no piece at %s", d.Show(p))
}

// Rename gives an icon pack in the home another display name.
func (a *App) Rename(ctx context.Context, d *Desk, p, name string) error {
	name = strings.TrimSpace(name)
	if name == "" || len(name) > 80 || strings.ContainsAny(name, "\n\r\x00") {
		return errors.New("a name is one line of 1 to 80 letters")
	}
	if !d.Mine(p) {
		return fmt.Errorf("%s belongs to the system; only what is in your home can be renamed", d.Show(p))
	}
	d.Lock()
	defer d.Unlock()
	pl, err := plan.Rename(d.Desk, p, "Icon Theme", name)
	if err != nil || len(pl.Ops) == 0 {
		return err
	}
	return a.apply(ctx, d, pl, store.Applied{}, nil)
}

// CanRestart reports whether Ivelt can start a surface's program again.
func (d *Desk) CanRestart(surface string) bool { return d.Restarts[surface] != nil }

// ErrWouldFail: what is to be started again would not come up.
var ErrWouldFail = errors.New("it would not come up")

// Restart starts a surface's program again, if Ivelt can. A login screen, or a
// shell, that would not come up is left running unless it is forced, with an
// error that wraps [ErrWouldFail].
func (a *App) Restart(d *Desk, surface string, force bool) error {
	s, ok := d.Surface(surface)
	if !ok {
		return fmt.Errorf("%s has no surface %q", d.Title, surface)
	}
	if !d.CanRestart(surface) {
		return fmt.Errorf("%s cannot be restarted from here: they read their settings when they start. Do it yourself and look again", s.Title)
	}
	if p := reading.Fatal(d.Desk, s); p != nil && !force {
		return fmt.Errorf("%s was not started again: %w. %s %s", s.Title, ErrWouldFail, p.Text, p.Remedy)
	}
	if err := d.Restarts[surface](); err != nil {
		return err
	}
	return a.restarted(d, surface)
}

// History returns the desk's checkpoints with their plans, newest first.
func (a *App) History(d *Desk) ([]Past, error) {
	rows, err := a.Store.Checkpoints(d.ID)
	if err != nil {
		return nil, err
	}
	readings := reading.All(d.Desk)
	var out []Past
	for _, c := range rows {
		p, err := a.Plan(d, c.PlanID)
		if err != nil {
			return nil, err
		}
		past := Past{CheckpointRow: c, Plan: p}
		if c.GoneOn == nil {
			past.StillNamed = stillNamed(d, p, readings)
		}
		out = append(out, past)
	}
	return out, nil
}

// Past is one entry of a desk's history.
type Past struct {
	store.CheckpointRow
	Plan       plan.Plan
	StillNamed []string // surfaces that would be left naming a piece this put in place
}

func stillNamed(d *Desk, p plan.Plan, readings []reading.Reading) []string {
	var out []string
	for _, op := range p.Ops {
		if op.Kind != plan.Copy {
			continue
		}
		for _, r := range readings {
			if r.Resolved == op.Path {
				s, _ := d.Surface(r.Surface)
				out = append(out, s.Title)
			}
		}
	}
	return out
}

// Dressed says in words what the desk wears.
func (a *App) Dressed(d *Desk) string {
	worn, err := a.Worn(d)
	if err == nil && worn.Name != "" {
		return worn.Name
	}
	return "as it was found"
}
