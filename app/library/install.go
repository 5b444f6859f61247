package library

import (
	"context"
	"errors"
	"slices"
	"time"

	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/place"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/store"
)

// Pieces puts pieces in place on desks, tells what is there, and takes it away.
type Pieces struct {
	store   pieceStore
	library *Library
	drafts  drafts
	plans   plans
	applier applier
	jobs    *jobs.List
}

type pieceStore interface {
	Parcel(sha string) (store.ParcelRow, error)
	Pieces(desk string) ([]store.PieceRow, error)
}

// drafts tells what a desk is to wear and what it wears: pieces that are named there would
// be missed.
type drafts interface {
	Draft(d *desks.Managed) (outfit.Outfit, error)
	Worn(d *desks.Managed) (outfit.Outfit, error)
	Saved(d *desks.Managed) ([]outfit.Outfit, error)
}

// plans are those that were carried out.
type plans interface {
	Get(d *desks.Managed, id string) (plan.Plan, error)
}

// applier carries plans out.
type applier interface {
	Apply(ctx context.Context, d *desks.Managed, p plan.Plan, done store.Applied, progress func(done, total int)) error
}

// NewPieces returns what puts pieces of a library in place.
func NewPieces(s pieceStore, l *Library, drafts drafts, plans plans, applier applier, running *jobs.List) *Pieces {
	return &Pieces{store: s, library: l, drafts: drafts, plans: plans, applier: applier, jobs: running}
}

// How says in which way pieces are put in place. The zero value but for Scope is
// the usual one.
type How struct {
	Scope  place.Scope
	Exists planning.Exists // if something else is there
	Second planning.Second // what a second folder gets, where one cannot serve all
	Lose   bool            // what cannot be kept of something that is replaced is given up
}

// Install starts putting pieces of a parcel in place. keys says which. When
// done the job leads to then.
func (pp *Pieces) Install(d *desks.Managed, sha string, keys []string, how How, then string) (*jobs.Job, error) {
	row, pieces, err := pp.piecesOf(sha, keys)
	if err != nil {
		return nil, err
	}
	return pp.jobs.Start("Install "+pieces[0].Name, func(ctx context.Context, j *jobs.Job) error {
		d.Lock()
		defer d.Unlock()
		j.Step("Planning", "")
		pl, err := pp.installPlan(ctx, d, row, pieces, how)
		if err != nil {
			return err
		}
		j.Then(then)
		if len(pl.Ops) == 0 {
			return nil
		}
		j.Step("Putting in place", "files")
		done := store.Applied{Placed: PlacedRows(d, row, pieces, pl)}
		for _, op := range pl.Ops {
			if op.Kind == plan.Remove { // replaced
				done.Removed = append(done.Removed, op.Path)
			}
		}
		err = pp.applier.Apply(ctx, d, pl, done, func(done, total int) { j.At(int64(done), int64(total)) })
		if err != nil {
			return err
		}
		return desks.RefreshCaches(ctx, d, j, pl)
	}), nil
}

// InstallPlan is the plan by which pieces would be put in place.
func (pp *Pieces) InstallPlan(ctx context.Context, d *desks.Managed, sha string, keys []string, how How) (plan.Plan, error) {
	row, pieces, err := pp.piecesOf(sha, keys)
	if err != nil {
		return plan.Plan{}, err
	}
	return pp.installPlan(ctx, d, row, pieces, how)
}

func (pp *Pieces) installPlan(ctx context.Context, d *desks.Managed, row store.ParcelRow, pieces []parcel.Piece, how How) (plan.Plan, error) {
	p, err := pp.library.Open(ctx, row)
	if err != nil {
		return plan.Plan{}, err
	}
	placings, err := place.All(pieces, d.Desk, how.Scope, how.Exists, how.Second)
	if err != nil {
		return plan.Plan{}, err
	}
	pl, err := planning.Install(ctx, d.Desk, p, placings)
	pl.Lose = how.Lose
	return pl, err
}

func (pp *Pieces) piecesOf(sha string, keys []string) (store.ParcelRow, []parcel.Piece, error) {
	row, err := pp.store.Parcel(sha)
	if err != nil {
		return row, nil, err
	}
	if len(keys) == 0 {
		return row, nil, errors.New("choose at least one piece to install")
	}
	var pieces []parcel.Piece
	for _, key := range keys {
		p, err := PieceOf(row, key)
		if err != nil {
			return row, nil, err
		}
		pieces = append(pieces, p)
	}
	return row, pieces, nil
}

// PlacedRows are the rows of what a plan puts in place of some pieces of a parcel.
func PlacedRows(d *desks.Managed, row store.ParcelRow, pieces []parcel.Piece, pl plan.Plan) []store.PieceRow {
	var out []store.PieceRow
	for _, op := range pl.Ops {
		for _, pc := range pieces {
			if op.Kind == plan.Copy && op.Source.Parcel == row.File && op.Source.Root == pc.Root && slices.Equal(op.Source.Only, pc.Only) && op.Facet == string(pc.Kind) {
				out = append(out, store.PieceRow{
					Desk: d.ID, Kind: string(pc.Kind), Name: pc.Name, Folder: pc.Folder, Path: op.Path,
					Version: row.Version, Parcel: row.SHA256, PlanID: pl.ID, PlacedAt: time.Now(),
				})
			}
		}
	}
	return out
}
