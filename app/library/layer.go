package library

import (
	"cmp"
	"context"
	"errors"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"

	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/core/archive"
	"ivelt/core/desk"
	"ivelt/core/layer"
	"ivelt/core/parcel"
	"ivelt/core/place"
	"ivelt/core/planning"
	"ivelt/core/say"
	"ivelt/store"
)

// DescribeBase is what is known of a piece of a kind that lies at a name of a desk's tree: as Ivelt
// installed it, else as its own files say. pieces are what was installed.
func DescribeBase(ctx context.Context, d *desk.Desk, kind parcel.Kind, root string, pieces []Origin) (layer.Base, error) {
	b := layer.Base{Kind: kind, Folder: path.Base(root)}
	if kind == parcel.Style { // which may be one file
		b.Folder = strings.TrimSuffix(b.Folder, ".svg")
	}
	about := Known(pieces)(desk.Path(root))
	b.Version, b.Licence, b.Source = about.Version, about.Licence, about.Source
	if b.Licence != "" && b.Version != "" {
		return b, nil
	}
	if path.Ext(root) == ".svg" {
		root = path.Dir(root)
	}
	opened, err := parcel.Open(ctx, d.HostPath(desk.Path(root)), archive.Options{})
	if err != nil {
		return b, err
	}
	defer opened.Close()
	for _, piece := range opened.Recognise(ctx).Pieces {
		if piece.Kind == kind && (kind != parcel.Style || piece.Folder == b.Folder) {
			b.Version, b.Licence = cmp.Or(b.Version, piece.Version), cmp.Or(b.Licence, piece.Licence)
		}
	}
	return b, nil
}

// KeepLayer builds a recipe over the theme of a desk and keeps the result as a parcel of the
// library; key is that of its piece. tell is as of [layer.Build].
func (pp *Pieces) KeepLayer(ctx context.Context, d *desks.Managed, r layer.Recipe, tell func(done, all int)) (row store.ParcelRow, key string, report layer.Report, err error) {
	root, err := r.Base.Find(d.Desk)
	if err != nil {
		return row, "", report, err
	}
	piece, report, err := layer.Build(ctx, d.Tree(), root, r, tell)
	if err != nil {
		return row, "", report, err
	}
	dir, err := os.MkdirTemp("", "layer")
	if err != nil {
		return row, "", report, err
	}
	defer os.RemoveAll(dir)
	f, err := os.Create(filepath.Join(dir, r.Folder+".tar.gz"))
	if err != nil {
		return row, "", report, err
	}
	if err := errors.Join(layer.Archive(ctx, f, d.Tree(), r.Folder, piece), f.Close()); err != nil {
		return row, "", report, err
	}
	if row, err = pp.library.Keep(ctx, f.Name(), ""); err != nil {
		return row, "", report, err
	}
	contents, err := Contents(row)
	if err != nil {
		return row, "", report, err
	}
	for _, p := range contents.Pieces {
		if p.Kind == r.Base.Kind && p.Folder == r.Folder {
			return row, PieceKey(p), report, nil
		}
	}
	return row, "", report, layer.ErrBase
}

// Layer builds a recipe over the theme of a desk, keeps the result as a parcel, and starts
// putting it in the place of the one built before. then is where a page goes on afterwards.
func (pp *Pieces) Layer(ctx context.Context, d *desks.Managed, r layer.Recipe, lose bool, then string) (layer.Report, *jobs.Job, error) {
	row, key, report, err := pp.KeepLayer(ctx, d, r, nil)
	if err != nil {
		return report, nil, err
	}
	job, err := pp.Install(d, row.SHA256, []string{key}, How{Scope: place.Mine, Exists: planning.Replace, Lose: lose}, then)
	return report, job, err
}

// Layered is a theme of a desk that was built from a recipe.
type Layered struct {
	Recipe layer.Recipe
	Gone   bool     // the theme below is not on the desk any more
	Moved  bool     // it is not as it was
	Loose  []string // what of the recipe no longer fits it, in words
	Wrong  string   // why the recipe cannot be used, "" if it can
}

// LayerAt is what a piece at a path of a desk, of a picture style that of its drawing, was built
// from, and how the recipe stands to the piece below now. It is not ok if the piece is no layer.
func (pp *Pieces) LayerAt(ctx context.Context, d *desk.Desk, at string) (out Layered, ok bool) {
	if path.Ext(at) == ".svg" {
		at = path.Dir(at)
	}
	b, err := d.Tree().ReadSettings(path.Join(desk.Name(at), layer.File))
	if errors.Is(err, fs.ErrNotExist) {
		return Layered{}, false
	}
	if err == nil {
		out.Recipe, err = layer.Parse(b)
	}
	if err == nil && out.Recipe.Folder != path.Base(at) {
		err = say.Errorf("%s is the recipe of %s", layer.File, out.Recipe.Folder)
	}
	if err != nil {
		out.Wrong = err.Error()
		return out, true
	}
	root, err := out.Recipe.Base.Find(d)
	if err != nil {
		out.Gone = true
		return out, true
	}
	report, err := layer.Check(ctx, d.Tree(), root, out.Recipe)
	if err != nil {
		out.Wrong = err.Error()
		return out, true
	}
	out.Moved = !report.Same
	for _, f := range report.Loose() {
		out.Loose = append(out.Loose, f.Says.String())
	}
	return out, true
}

// Rebuild builds a layer of a desk anew over the theme below as it is now, which its recipe is
// held against from then on.
func (pp *Pieces) Rebuild(ctx context.Context, d *desks.Managed, at string, lose bool, then string) (*jobs.Job, error) {
	of, ok := pp.LayerAt(ctx, d.Desk, at)
	switch {
	case !ok:
		return nil, errors.New("that is no layer over another theme")
	case of.Wrong != "":
		return nil, errors.New(of.Wrong)
	}
	root, err := of.Recipe.Base.Find(d.Desk)
	if err != nil {
		return nil, err
	}
	r, _, err := layer.Rebased(ctx, d.Tree(), root, of.Recipe)
	if err != nil {
		return nil, err
	}
	_, job, err := pp.Layer(ctx, d, r, lose, then)
	return job, err
}

// KeepFile keeps a file that was made here as a parcel of the library.
func (pp *Pieces) KeepFile(ctx context.Context, name string, text []byte) (store.ParcelRow, error) {
	dir, err := os.MkdirTemp("", "made")
	if err != nil {
		return store.ParcelRow{}, err
	}
	defer os.RemoveAll(dir)
	file := filepath.Join(dir, filepath.Base(name))
	if err := os.WriteFile(file, text, 0o644); err != nil {
		return store.ParcelRow{}, err
	}
	return pp.library.Keep(ctx, file, "")
}
