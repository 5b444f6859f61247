package library

import (
	"context"
	"errors"
	"os"
	"path/filepath"

	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/core/layer"
	"ivelt/core/parcel"
	"ivelt/core/place"
	"ivelt/core/planning"
)

// Layer builds a recipe over the theme of a desk, keeps the result as a parcel, and starts
// putting it in the place of the one built before.
func (pp *Pieces) Layer(ctx context.Context, d *desks.Managed, r layer.Recipe, lose bool) (layer.Report, *jobs.Job, error) {
	root, err := layer.Find(d.Desk, r.Base.Folder)
	if err != nil {
		return layer.Report{}, nil, err
	}
	piece, report, err := layer.Build(ctx, d.Tree(), root, r)
	if err != nil {
		return report, nil, err
	}
	dir, err := os.MkdirTemp("", "layer")
	if err != nil {
		return report, nil, err
	}
	defer os.RemoveAll(dir)
	f, err := os.Create(filepath.Join(dir, r.Folder+".tar.gz"))
	if err != nil {
		return report, nil, err
	}
	if err := errors.Join(layer.Archive(ctx, f, d.Tree(), r.Folder, piece), f.Close()); err != nil {
		return report, nil, err
	}
	row, err := pp.library.Keep(ctx, f.Name(), "")
	if err != nil {
		return report, nil, err
	}
	contents, err := Contents(row)
	if err != nil {
		return report, nil, err
	}
	for _, p := range contents.Pieces {
		if p.Kind == parcel.Theme && p.Folder == r.Folder {
			job, err := pp.Install(d, row.SHA256, []string{PieceKey(p)}, How{Scope: place.Mine, Exists: planning.Replace, Lose: lose}, "")
			return report, job, err
		}
	}
	return report, nil, layer.ErrBase
}
