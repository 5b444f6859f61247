package app

import (
	"context"
	"errors"
	"slices"
	"strings"

	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/plan"
	"ivelt/store"
)

// Reviewed is a plan that is looked at before anything is written.
type Reviewed struct {
	Whole  plan.Plan // all there would be to do
	Plan   plan.Plan // less what is left out: this is kept until it is applied
	Mine   plan.Plan // the part of it that needs no administrator
	Theirs plan.Plan // and the part that does
	Answer *Answer
	Warned []string // what makers say of the risk of pieces in it, sentences
}

// Answer is what the match board would say once a plan is carried out.
type Answer struct {
	Follow, Later, Cannot int          // surfaces by facet that follow, that follow after a restart, that never can
	Open                  []match.Cell // that would not follow
}

// Of is how many surfaces are asked.
func (a Answer) Of() int { return a.Follow + a.Later + a.Cannot + len(a.Open) }

// Review plans the draft, less the operations at some paths.
func (a *App) Review(ctx context.Context, d *Desk, left []string, opt plan.Options) (Reviewed, error) {
	o, err := a.Draft(d)
	if err != nil {
		return Reviewed{}, err
	}
	if len(o.Choices) == 0 {
		return Reviewed{}, errors.New("the draft is empty: choose something in Compose first")
	}
	whole, _, err := a.dressPlan(ctx, d, o, opt)
	if err != nil {
		return Reviewed{}, err
	}
	return a.reviewed(d, whole, left, o)
}

// reviewed keeps a plan, and its parts, until one of them is applied, and asks
// the match board.
func (a *App) reviewed(d *Desk, whole plan.Plan, left []string, o outfit.Outfit) (Reviewed, error) {
	r := Reviewed{Whole: whole, Plan: whole.Without(d.Desk, left)}
	r.Mine, r.Theirs = r.Plan.Mine(d.Desk), r.Plan.Theirs(d.Desk)
	for _, p := range []plan.Plan{r.Plan, r.Mine, r.Theirs} {
		if err := a.keepPlan(p); err != nil {
			return Reviewed{}, err
		}
	}
	var err error
	if r.Warned, err = a.Warnings(d, whole, o); err != nil {
		return r, err
	}
	r.Answer, err = a.answer(d, r, o)
	return r, err
}

// Listing lists what an operation of a plan writes, with what is kept of it.
func (a *App) Listing(ctx context.Context, op plan.Op) ([]plan.Entry, error) {
	return plan.Listing(ctx, op, a.Store.Blobs)
}

// Warnings lists what makers say of the risk of the pieces that a plan puts in place or an
// outfit names.
func (a *App) Warnings(d *Desk, p plan.Plan, o outfit.Outfit) ([]string, error) {
	rows, err := a.Store.Parcels()
	if err != nil {
		return nil, err
	}
	placed, err := a.Store.Pieces(d.ID)
	if err != nil {
		return nil, err
	}
	named := map[string]bool{}
	for _, s := range d.Surfaces {
		for _, f := range o.Facets() {
			named[o.WantOn(s.ID, f)] = true
		}
	}
	var out []string
	for _, row := range rows {
		comes := slices.ContainsFunc(p.Ops, func(op plan.Op) bool { return op.Source != nil && op.Source.Parcel == row.File })
		worn := slices.ContainsFunc(placed, func(pc store.PieceRow) bool { return pc.Parcel == row.SHA256 && named[pc.Folder] })
		if !comes && !worn {
			continue
		}
		c, err := Contents(row)
		if err != nil {
			return nil, err
		}
		for _, n := range c.Notes {
			if n.Code == parcel.Warns {
				out = append(out, row.Title+": "+strings.TrimPrefix(n.Text, "Careful: "))
			}
		}
	}
	return out, nil
}

func (a *App) answer(d *Desk, r Reviewed, o outfit.Outfit) (*Answer, error) {
	kept := func(op plan.Op) bool { return op.Kind == plan.Copy && op.Source.Kept != "" }
	if len(o.Choices) == 0 || slices.ContainsFunc(r.Plan.Ops, kept) {
		return nil, nil // what is only kept cannot be asked about before it is back
	}
	done, release, err := plan.Done(a.Trying(d, o), r.Whole, r.Plan)
	if err != nil {
		return nil, err
	}
	defer release()
	out := &Answer{}
	for _, t := range match.Of(done, o).Threads {
		for _, c := range t.Cells {
			switch c.State {
			case match.Unasked, match.NotHere:
			case match.Follows:
				out.Follow++
			case match.Pending:
				out.Later++
			case match.CannotFollow:
				out.Cannot++
			default:
				out.Open = append(out.Open, c)
			}
		}
	}
	return out, nil
}
