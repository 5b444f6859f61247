package library

import (
	"cmp"
	"context"
	"errors"
	"path"

	"ivelt/core/outfit"
	"ivelt/core/worn"
	"ivelt/store"
)

// Record is what was written down of desks: their history, what was put in place on them,
// and what they were dressed in.
type Record struct{ store recordStore }

type recordStore interface {
	Checkpoints(desk string) ([]store.CheckpointRow, error)
	Checkpoint(id uint) (store.CheckpointRow, error)
	Pieces(desk string) ([]store.PieceRow, error)
	Parcel(sha string) (store.ParcelRow, error)
	Worn(desk string) ([]store.OutfitRow, error)
}

// NewRecord returns the one in a store.
func NewRecord(s recordStore) Record { return Record{s} }

// ReadRecord opens the record of a data folder to look at it. It is not ok if nothing was
// ever written down there. The caller closes it.
func ReadRecord(ctx context.Context, dir string) (r Record, done func() error, ok bool, err error) {
	if !store.Exists(dir) {
		return Record{}, nil, false, nil
	}
	s, err := store.Open(ctx, dir)
	if err != nil {
		return Record{}, nil, false, err
	}
	return Record{s}, s.Close, true, nil
}

// Entries are those of a desk's history, the last first.
func (r Record) Entries(desk string) ([]store.CheckpointRow, error) {
	rows, err := r.store.Checkpoints(desk)
	return store.Started(rows), err
}

// Entry returns one of any desk's, or [store.ErrNone].
func (r Record) Entry(id uint) (store.CheckpointRow, error) { return r.store.Checkpoint(id) }

// Pieces are what Ivelt put in place on a desk.
func (r Record) Pieces(desk string) ([]store.PieceRow, error) { return r.store.Pieces(desk) }

// Origins are the same with the parcels they came in.
func (r Record) Origins(desk string) ([]Origin, error) {
	rows, err := r.store.Pieces(desk)
	if err != nil {
		return nil, err
	}
	var out []Origin
	parcels := map[string]store.ParcelRow{}
	for _, row := range rows {
		from, known := parcels[row.Parcel]
		if !known {
			if from, err = r.store.Parcel(row.Parcel); err != nil && !errors.Is(err, store.ErrNone) {
				return nil, err
			}
			parcels[row.Parcel] = from
		}
		out = append(out, Origin{row, from})
	}
	return out, nil
}

// Worn is what a desk was last dressed in; it asks for nothing if Ivelt has not dressed it.
func (r Record) Worn(desk string) (outfit.Outfit, error) {
	rows, err := r.store.Worn(desk)
	if err != nil || len(rows) == 0 {
		return outfit.Outfit{}, err
	}
	return outfit.Parse(rows[0].Text)
}

// Origin is a piece that Ivelt put in place, with the parcel it came in.
type Origin struct {
	store.PieceRow
	From store.ParcelRow
}

// Known tells what is known of the pieces that Ivelt put in place, by their paths
// on the desk.
func Known(pieces []Origin) func(path string) worn.About {
	known := map[string]worn.About{}
	for _, p := range pieces {
		a := worn.About{Version: cmp.Or(p.Version, p.From.Version), Licence: licenceIn(p), Source: cmp.Or(p.From.Name, "a parcel")}
		if p.Parcel != "" {
			a.Checksum = "sha256:" + p.Parcel
		}
		known[p.Path] = a
	}
	return func(at string) worn.About {
		for ; at != "/" && at != "."; at = path.Dir(at) { // a file of a piece is asked for by its own path
			if a, ok := known[at]; ok {
				return a
			}
		}
		return worn.About{}
	}
}

// licenceIn is the licence of a piece, as its parcel's page says it.
func licenceIn(p Origin) string {
	if len(p.From.Contents) == 0 {
		return p.From.Licence
	}
	contents, err := Contents(p.From)
	if err != nil {
		return ""
	}
	for _, pc := range contents.Pieces {
		if pc.Folder == p.Folder && string(pc.Kind) == p.Kind {
			return pc.Licence
		}
	}
	return p.From.Licence
}
