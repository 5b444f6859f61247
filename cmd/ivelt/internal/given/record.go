package given

import (
	"context"
	"errors"

	"ivelt/app/library"
	"ivelt/core/desk"
	"ivelt/core/outfit"
)

// Record asks what was written down of a desk that was named; it is not asked if Ivelt has
// not touched the desk.
func (f *DeskFlags) Record(ctx context.Context, d *desk.Desk, ask func(library.Record) error) error {
	dir, err := f.Data(ctx, d)
	if err != nil || dir == "" {
		return err
	}
	r, done, ok, err := library.ReadRecord(ctx, dir)
	if err != nil || !ok {
		return err
	}
	return errors.Join(ask(r), done())
}

// Worn is what a desk was last dressed in.
func (f *DeskFlags) Worn(ctx context.Context, d *desk.Desk) (o outfit.Outfit, err error) {
	err = f.Record(ctx, d, func(r library.Record) error { o, err = r.Worn(d.ID); return err })
	return o, err
}

// Pieces are those that Ivelt put in place on a desk, with their parcels.
func (f *DeskFlags) Pieces(ctx context.Context, d *desk.Desk) (out []library.Origin, err error) {
	err = f.Record(ctx, d, func(r library.Record) error { out, err = r.Origins(d.ID); return err })
	return out, err
}
