package app

import (
	"context"
	"errors"
	"fmt"
	"path"
	"slices"
	"time"

	"ivelt/app/jobs"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/store"
)

// Way is how far to go back.
type Way struct {
	Checkpoint uint
	Since      bool // to before it: on all that came after it too
	Lose       bool // what cannot be kept is given up
	plan.Aim
}

func (w Way) whole() bool { return w.Surface == "" && w.Facet == "" }

// ErrLetGo: what was kept for a checkpoint was deleted.
var ErrLetGo = errors.New("what was kept for it was let go, so it can no longer be gone back on")

// gone are the entries of the history that a way leads back on, the oldest first.
func (a *App) gone(d *Desk, w Way) ([]store.CheckpointRow, error) {
	rows, err := a.Store.Checkpoints(d.ID)
	if err != nil {
		return nil, err
	}
	var out []store.CheckpointRow
	for _, c := range slices.Backward(rows) {
		if c.ID == w.Checkpoint || w.Since && c.ID > w.Checkpoint {
			if c.LetGo != nil {
				return nil, fmt.Errorf("%s: %w", c.Title, ErrLetGo)
			}
			out = append(out, c)
		}
	}
	switch {
	case len(out) == 0 || out[0].ID != w.Checkpoint:
		return nil, fmt.Errorf("there is no such checkpoint (%w)", store.ErrNone)
	case !w.Since && out[0].GoneOn != nil:
		return nil, errors.New("this was gone back on already")
	}
	return out, nil
}

// ReviewedBack is a way back that is looked at before anything is written.
type ReviewedBack struct {
	Reviewed
	plan.Return
}

// ReviewBack plans a way back, less the operations at some paths.
func (a *App) ReviewBack(d *Desk, w Way, left []string) (ReviewedBack, error) {
	r, _, err := a.backOn(d, w)
	if err != nil {
		return ReviewedBack{}, err
	}
	worn, err := a.Worn(d)
	if err != nil {
		return ReviewedBack{}, err
	}
	reviewed, err := a.reviewed(d, r.Plan, left, worn)
	return ReviewedBack{reviewed, r}, err
}

func (a *App) backOn(d *Desk, w Way) (plan.Return, []store.CheckpointRow, error) {
	gone, err := a.gone(d, w)
	if err != nil {
		return plan.Return{}, nil, err
	}
	done, err := a.plansOf(d, gone)
	if err != nil {
		return plan.Return{}, nil, err
	}
	r, err := plan.Back(d.Desk, done, a.Store.Blobs, w.Aim)
	return r, gone, err
}

// Back starts going back. planID is that of the review; without one what is
// planned now is done.
func (a *App) Back(d *Desk, w Way, planID, then string) (*jobs.Job, error) {
	if _, err := a.gone(d, w); err != nil {
		return nil, err
	}
	return a.Jobs.Start("Go back", func(ctx context.Context, j *jobs.Job) error {
		d.Lock()
		defer d.Unlock()
		j.Then(then)
		return a.goBack(ctx, d, j, w, planID, store.Applied{})
	}), nil
}

// goBack goes back. The desk's lock must be held.
func (a *App) goBack(ctx context.Context, d *Desk, j *jobs.Job, w Way, planID string, done store.Applied) error {
	r, gone, err := a.backOn(d, w)
	if err != nil {
		return err
	}
	back := r.Plan
	whole := w.whole() && !slices.ContainsFunc(r.Conflicts, func(c plan.Conflict) bool { return c.Lost != "" })
	if planID != "" && planID != back.ID { // some of it is left out, or something has changed: then the plan says so itself
		whole = false
		if back, err = a.Plan(d, planID); err != nil {
			return err
		}
		if !slices.Equal(back.Undoes, r.Plan.Undoes) {
			return fmt.Errorf("%w: nothing was touched; look at it again", plan.ErrChanged)
		}
	}
	back.Lose = w.Lose
	j.Step("Going back", "files")
	if whole {
		for _, c := range gone {
			done.GoneOn = append(done.GoneOn, c.ID)
		}
	} else if w.Surface == "" && w.Facet != "" {
		if done.Worn, err = a.wornBefore(d, w.Facet, gone, back.ID); err != nil {
			return err
		}
	}
	for _, op := range back.Ops {
		switch {
		case op.Kind == plan.Remove && op.Source != nil:
			done.Removed = append(done.Removed, op.Path)
		case op.Kind == plan.Copy:
			done.Placed = append(done.Placed, store.PieceRow{Desk: d.ID, Kind: op.Facet, Name: path.Base(op.Path), Folder: path.Base(op.Path), Path: op.Path, PlanID: back.ID, PlacedAt: time.Now()})
		}
	}
	if err := a.apply(ctx, d, back, done, func(n, total int) { j.At(int64(n), int64(total)) }); err != nil {
		return err
	}
	return refreshCaches(ctx, d, j, back)
}

// wornBefore is what the desk wears with one facet as it was before.
func (a *App) wornBefore(d *Desk, facet string, gone []store.CheckpointRow, planID string) (*store.OutfitRow, error) {
	rows, err := a.Store.Worn(d.ID)
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	now, err := outfit.Parse(rows[0].Text)
	if err != nil {
		return nil, err
	}
	want := ""
	for _, row := range rows {
		if row.Checkpoint >= gone[0].ID {
			continue
		}
		before, err := outfit.Parse(row.Text)
		if err != nil {
			return nil, err
		}
		want = before.Want(facet)
		break
	}
	now = now.With(facet, want)
	return &store.OutfitRow{Desk: d.ID, Name: now.Name, Text: now.Bytes(), PlanID: planID, Changed: time.Now()}, nil
}

// Touched are the surfaces and the facets that a way leads back on, to go back
// for one of them.
func (a *App) Touched(d *Desk, w Way) (surfaces []desk.Surface, facets []desk.FacetInfo, err error) {
	gone, err := a.gone(d, w)
	if err != nil {
		return nil, nil, err
	}
	done, err := a.plansOf(d, gone)
	if err != nil {
		return nil, nil, err
	}
	told, err := plan.Changed(d.Desk, done, a.Store.Blobs)
	if err != nil {
		return nil, nil, err
	}
	for _, s := range d.Surfaces {
		if slices.ContainsFunc(told, func(t plan.Told) bool { return t.Surface == s.ID }) {
			surfaces = append(surfaces, s)
		}
	}
	for _, f := range desk.Facets {
		if slices.ContainsFunc(told, func(t plan.Told) bool { return t.Facet == f.Name }) {
			facets = append(facets, f)
		}
	}
	return surfaces, facets, nil
}

func (a *App) plansOf(d *Desk, gone []store.CheckpointRow) ([]plan.Plan, error) {
	var done []plan.Plan
	for _, c := range gone {
		p, err := a.Plan(d, c.PlanID)
		if err != nil {
			return nil, err
		}
		done = append(done, p)
	}
	return done, nil
}
