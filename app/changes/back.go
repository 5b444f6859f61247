package changes

import (
	"context"
	"errors"
	"path"
	"slices"
	"time"

	"ivelt/app/desks"
	"ivelt/app/drafts"
	"ivelt/app/jobs"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/core/say"
	"ivelt/store"
)

// Back goes back on what was changed.
type Back struct {
	store   backStore
	kept    plan.Keeper
	plans   *Plans
	review  *Review
	applier *Applier
	drafts  *drafts.Drafts
	jobs    *jobs.List
}

type backStore interface {
	Checkpoints(desk string) ([]store.CheckpointRow, error)
	Worn(desk string) ([]store.OutfitRow, error)
}

// NewBack returns what goes back.
func NewBack(s backStore, kept plan.Keeper, plans *Plans, r *Review, ap *Applier, d *drafts.Drafts, running *jobs.List) *Back {
	return &Back{s, kept, plans, r, ap, d, running}
}

// Way is how far to go back.
type Way struct {
	Checkpoint uint
	Since      bool // to before it: on all that came after it too
	Lose       bool // what cannot be kept is given up
	planning.Aim
}

func (w Way) whole() bool { return w.Surface == "" && w.Facet == "" }

// ErrPurged: what was kept for a checkpoint was deleted.
var ErrPurged = errors.New("the old files kept for it were deleted, so you can no longer go back on it")

// gone are the entries of the history that a way leads back on, the oldest first.
func (b *Back) gone(d *desks.Managed, w Way) ([]store.CheckpointRow, error) {
	rows, err := b.store.Checkpoints(d.ID)
	if err != nil {
		return nil, err
	}
	if i := slices.IndexFunc(rows, func(c store.CheckpointRow) bool { return c.ID == w.Checkpoint }); i >= 0 {
		p, err := b.plans.Get(d, rows[i].PlanID)
		if err != nil {
			return nil, err
		}
		w.Since = w.Since || p.IsFound() // to what was found is back on all that came after it
	}
	var out []store.CheckpointRow
	for _, c := range slices.Backward(rows) {
		if c.ID == w.Checkpoint || c.TurnOf == w.Checkpoint && c.GoneOn == nil || w.Since && c.ID > w.Checkpoint {
			if c.Purged != nil {
				return nil, say.Errorf("%s: %w", c.Title, ErrPurged)
			}
			out = append(out, c)
		}
	}
	switch {
	case len(out) == 0 || out[0].ID != w.Checkpoint:
		return nil, say.Errorf("there is no such checkpoint (%w)", store.ErrNone)
	case !w.Since && out[0].GoneOn != nil:
		return nil, errors.New("this was undone already")
	}
	return out, nil
}

// ReviewedBack is a way back that is looked at before anything is written.
type ReviewedBack struct {
	Reviewed
	planning.Return
}

// Review plans a way back, less the operations at some paths.
func (b *Back) Review(d *desks.Managed, w Way, left []string) (ReviewedBack, error) {
	r, gone, err := b.plan(d, w)
	if err != nil {
		return ReviewedBack{}, err
	}
	worn, err := b.wornAfter(d, w, gone)
	if err != nil {
		return ReviewedBack{}, err
	}
	reviewed, err := b.review.reviewed(d, r.Plan, left, worn)
	return ReviewedBack{reviewed, r}, err
}

func (b *Back) plan(d *desks.Managed, w Way) (planning.Return, []store.CheckpointRow, error) {
	gone, err := b.gone(d, w)
	if err != nil {
		return planning.Return{}, nil, err
	}
	done, err := b.plansOf(d, gone)
	if err != nil {
		return planning.Return{}, nil, err
	}
	r, err := planning.Back(d.Desk, done, b.kept, w.Aim)
	return r, gone, err
}

// Start starts going back. planID is that of the review; without one what is
// planned now is done.
func (b *Back) Start(d *desks.Managed, w Way, planID, then string) (*jobs.Job, error) {
	if _, err := b.gone(d, w); err != nil {
		return nil, err
	}
	return b.jobs.Start("Go back", func(ctx context.Context, j *jobs.Job) error {
		d.Lock()
		defer d.Unlock()
		j.Then(then)
		return b.carryOut(ctx, d, j, w, planID, store.Applied{})
	}), nil
}

// carryOut goes back. The desk's lock must be held.
func (b *Back) carryOut(ctx context.Context, d *desks.Managed, j *jobs.Job, w Way, planID string, done store.Applied) error {
	r, gone, err := b.plan(d, w)
	if err != nil {
		return err
	}
	back := r.Plan
	whole := w.whole() && !slices.ContainsFunc(r.Conflicts, func(c planning.Conflict) bool { return c.Lost != "" })
	if planID != "" && planID != back.ID { // some of it is left out, or something has changed: then the plan says so itself
		whole = false
		if back, err = b.plans.Get(d, planID); err != nil {
			return err
		}
		if !slices.Equal(back.Undoes, r.Plan.Undoes) {
			return say.Errorf("%w: nothing was touched; look at it again", plan.ErrChanged)
		}
	}
	back.Lose = w.Lose
	j.Step("Going back", "files")
	if whole {
		for _, c := range gone {
			done.GoneOn = append(done.GoneOn, c.ID)
		}
	} else if w.Surface == "" && w.Facet != "" {
		if done.Worn, err = b.wornBefore(d, w.Facet, gone, back.ID); err != nil {
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
	if err := b.applier.Apply(ctx, d, back, done, func(n, total int) { j.At(int64(n), int64(total)) }); err != nil {
		return err
	}
	return desks.RefreshCaches(ctx, d, j, back)
}

// wornAfter is what the desk is to wear after a way back.
func (b *Back) wornAfter(d *desks.Managed, w Way, gone []store.CheckpointRow) (outfit.Outfit, error) {
	if !w.whole() {
		return b.drafts.Worn(d)
	}
	rows, err := b.store.Worn(d.ID)
	if err != nil {
		return outfit.Outfit{}, err
	}
	i := slices.IndexFunc(rows, func(row store.OutfitRow) bool {
		return !slices.ContainsFunc(gone, func(c store.CheckpointRow) bool { return c.ID == row.Checkpoint })
	})
	if i < 0 {
		return outfit.Outfit{}, nil
	}
	return outfit.Parse(rows[i].Text)
}

// wornBefore is what the desk wears with one facet as it was before.
func (b *Back) wornBefore(d *desks.Managed, facet string, gone []store.CheckpointRow, planID string) (*store.OutfitRow, error) {
	rows, err := b.store.Worn(d.ID)
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
func (b *Back) Touched(d *desks.Managed, w Way) (surfaces []desk.Surface, facets []desk.FacetInfo, err error) {
	gone, err := b.gone(d, w)
	if err != nil {
		return nil, nil, err
	}
	done, err := b.plansOf(d, gone)
	if err != nil {
		return nil, nil, err
	}
	told, err := planning.Changed(d.Desk, done, b.kept)
	if err != nil {
		return nil, nil, err
	}
	for _, s := range d.Surfaces() {
		if slices.ContainsFunc(told, func(t planning.Told) bool { return t.Surface == s.ID }) {
			surfaces = append(surfaces, s)
		}
	}
	for _, f := range desk.Facets {
		if slices.ContainsFunc(told, func(t planning.Told) bool { return t.Facet == f.Name }) {
			facets = append(facets, f)
		}
	}
	return surfaces, facets, nil
}

func (b *Back) plansOf(d *desks.Managed, gone []store.CheckpointRow) ([]plan.Plan, error) {
	var done []plan.Plan
	for _, c := range gone {
		p, err := b.plans.Get(d, c.PlanID)
		if err != nil {
			return nil, err
		}
		done = append(done, p)
	}
	return done, nil
}
