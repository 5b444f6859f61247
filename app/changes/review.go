package changes

import (
	"context"
	"errors"
	"slices"
	"strings"

	"ivelt/app/desks"
	"ivelt/app/drafts"
	"ivelt/app/library"
	"ivelt/core/apply"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/store"
)

// Review plans what is to be changed and keeps the plan until it is carried out.
type Review struct {
	store    reviewStore
	kept     plan.Keeper
	plans    *Plans
	drafts   *drafts.Drafts
	overlays *drafts.Overlays
	judge    *drafts.Judge
}

type reviewStore interface {
	Parcels() ([]store.ParcelRow, error)
	Pieces(desk string) ([]store.PieceRow, error)
}

// NewReview returns what plans changes.
func NewReview(s reviewStore, kept plan.Keeper, plans *Plans, d *drafts.Drafts, o *drafts.Overlays, j *drafts.Judge) *Review {
	return &Review{s, kept, plans, d, o, j}
}

// Step plans the edit of one source of a reading, see [plan.Say].
func (rv *Review) Step(d *desks.Managed, at planning.SourceRef, want string) (plan.Plan, error) {
	p, err := planning.Say(d.Desk, at, want)
	if err != nil {
		return plan.Plan{}, err
	}
	return p, rv.plans.Keep(p)
}

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
	Open                  []match.Cell // that would not follow, and of which the plan does not say so
	said                  int          // those of which it does
}

// open adds a cell that would not follow.
func (a *Answer) open(c match.Cell, p plan.Plan) {
	if slices.ContainsFunc(p.Blocked, func(b plan.Blocked) bool { return b.Surface == c.Surface.ID && b.Facet == c.Facet }) {
		a.said++
		return
	}
	a.Open = append(a.Open, c)
}

// Not is how many would not follow, with those of which the plan says so.
func (a Answer) Not() int { return a.said + len(a.Open) }

// Of is how many surfaces are asked.
func (a Answer) Of() int { return a.Follow + a.Later + a.Cannot + a.Not() }

// Draft plans the draft, less the operations at some paths.
func (rv *Review) Draft(ctx context.Context, d *desks.Managed, left []string, opt planning.Options) (Reviewed, error) {
	o, err := rv.drafts.Draft(d)
	if err != nil {
		return Reviewed{}, err
	}
	if len(o.Choices) == 0 {
		return Reviewed{}, errors.New("the draft is empty: choose something in Compose first")
	}
	whole, err := rv.overlays.DressPlan(ctx, d, o, opt)
	if err != nil {
		return Reviewed{}, err
	}
	return rv.reviewed(d, whole, left, o)
}

// reviewed keeps a plan, and its parts, until one of them is applied, and asks
// the match board.
func (rv *Review) reviewed(d *desks.Managed, whole plan.Plan, left []string, o outfit.Outfit) (Reviewed, error) {
	r := Reviewed{Whole: whole, Plan: whole.Without(d.Desk, left)}
	r.Mine, r.Theirs = r.Plan.Mine(d.Desk), r.Plan.Theirs(d.Desk)
	for _, p := range []plan.Plan{r.Plan, r.Mine, r.Theirs} {
		if err := rv.plans.Keep(p); err != nil {
			return Reviewed{}, err
		}
	}
	var err error
	if r.Warned, err = rv.Warnings(d, whole, o); err != nil {
		return r, err
	}
	r.Answer, err = rv.answer(d, r, o)
	return r, err
}

// Listing lists what an operation of a plan writes, with what is kept of it.
func (rv *Review) Listing(ctx context.Context, op plan.Op) ([]apply.Entry, error) {
	return apply.Listing(ctx, op, rv.kept)
}

// Warnings lists what makers say of the risk of the pieces that a plan puts in place, or
// that an outfit names, in place or tried on.
func (rv *Review) Warnings(d *desks.Managed, p plan.Plan, o outfit.Outfit) ([]string, error) {
	rows, err := rv.store.Parcels()
	if err != nil {
		return nil, err
	}
	placed, err := rv.store.Pieces(d.ID)
	if err != nil {
		return nil, err
	}
	named := map[string]bool{}
	for _, s := range d.Surfaces() {
		for _, f := range o.Facets() {
			named[o.WantOn(s.ID, f)] = true
		}
	}
	tryings := rv.overlays.Tryings(d)
	var out []string
	for _, row := range rows {
		comes := slices.ContainsFunc(p.Ops, func(op plan.Op) bool { return op.Source != nil && op.Source.Parcel == row.File })
		worn := slices.ContainsFunc(placed, func(pc store.PieceRow) bool { return pc.Parcel == row.SHA256 && named[pc.Folder] })
		tried := slices.ContainsFunc(tryings, func(t drafts.Tried) bool {
			return t.SHA == row.SHA256 && slices.ContainsFunc(t.Pieces, func(pc drafts.TriedPiece) bool { return named[pc.Want] })
		})
		if !comes && !worn && !tried {
			continue
		}
		c, err := library.Contents(row)
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

func (rv *Review) answer(d *desks.Managed, r Reviewed, o outfit.Outfit) (*Answer, error) {
	kept := func(op plan.Op) bool { return op.Kind == plan.Copy && op.Source.Kept != "" }
	if len(o.Choices) == 0 || slices.ContainsFunc(r.Plan.Ops, kept) {
		return nil, nil // what is only kept cannot be asked about before it is back
	}
	done, release, err := plan.Done(rv.overlays.Trying(d, o), r.Whole, r.Plan)
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
				out.open(c, r.Plan)
			}
		}
	}
	return out, nil
}
