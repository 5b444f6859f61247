package drafts

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path"
	"path/filepath"

	"ivelt/app/desks"
	"ivelt/app/library"
	"ivelt/core/desk"
	"ivelt/core/fine"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/place"
)

// After is the desk as it would be with the pieces of a parcel in the stead of
// those in place of the same names. It is to be looked at.
func (ov *Overlays) After(ctx context.Context, d *desks.Managed, sha string) (*desk.Desk, error) {
	row, err := ov.store.Parcel(sha)
	if err != nil {
		return nil, err
	}
	front := filepath.Join(ov.dir, "after", d.ID, sha)
	d.Lock()
	defer d.Unlock()
	if _, err := os.Stat(front); errors.Is(err, fs.ErrNotExist) {
		if err := errors.Join(os.RemoveAll(filepath.Dir(front)), os.MkdirAll(filepath.Dir(front), 0o755)); err != nil { // one at a time
			return nil, err
		}
		if err := ov.layOut(ctx, func(int64, int64) {}, d, row, &Tried{SHA: sha, dir: front}, d.HomePath); err != nil {
			return nil, err
		}
	}
	contents, err := library.Contents(row)
	if err != nil {
		return nil, err
	}
	var gone []string
	for _, pc := range contents.Pieces {
		if target, err := place.Target(pc, d.Desk, place.Mine); err == nil && d.Exists(target) {
			gone = append(gone, target)
		}
	}
	after := d.Laid(front, gone)
	after.ID += " with " + sha
	return after, nil
}

// Wearing is an outfit of the pieces of a parcel of which others are in place, so
// that both can be pictured worn.
func (ov *Overlays) Wearing(d *desks.Managed, sha string) (outfit.Outfit, error) {
	var o outfit.Outfit
	row, err := ov.store.Parcel(sha)
	if err != nil {
		return o, err
	}
	contents, err := library.Contents(row)
	if err != nil {
		return o, err
	}
	var there []parcel.Piece
	for _, pc := range contents.Pieces {
		if target, err := place.Target(pc, d.Desk, place.Mine); err == nil && d.Exists(target) {
			there = append(there, pc)
		}
	}
	return Wearing(d.Desk, there), nil
}

// Wearing is an outfit of pieces as they are called once they are in place on a desk: for every
// facet that one of them can be chosen for, the first.
func Wearing(d *desk.Desk, pieces []parcel.Piece) (o outfit.Outfit) {
	for _, pc := range pieces {
		target, err := place.Target(pc, d, place.Mine)
		if err != nil {
			continue
		}
		for _, facet := range facetsOf(pc) {
			want := pc.Folder
			switch {
			case facet == desk.FacetBackdrop:
				want = path.Join(target, path.Base(pc.Only[0]))
			case facet == desk.FacetFont:
				_, size := fine.FontOf(d, o, desk.FacetFont)
				want = fmt.Sprintf("%s %g", pc.Name, size)
			}
			if o.Want(facet) == "" {
				o = o.With(facet, want)
			}
		}
	}
	return o
}
