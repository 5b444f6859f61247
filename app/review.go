package app

import (
	"context"
	"errors"
	"slices"

	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/plan"
)

// Reviewed is a plan that is looked at before anything is written.
type Reviewed struct {
	Whole  plan.Plan // all there would be to do
	Plan   plan.Plan // less what is left out: this is kept until it is applied
	Mine   plan.Plan // the part of it that needs no administrator
	Theirs plan.Plan // and the part that does
	Answer *Answer
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
	r.Answer, err = a.answer(d, r, o)
	return r, err
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
