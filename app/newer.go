package app

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/place"
	"ivelt/core/regular"
	"ivelt/core/taste"
	"ivelt/store"
)

// Newer is a piece in place of which a market has a newer version.
type Newer struct {
	Piece   store.PieceRow
	Shown   string // its path as people write it
	Market  uint
	Entry   string
	Version string
	Note    string
}

// Newer lists the pieces of a desk that came from a market which has a newer
// version by now.
func (a *App) Newer(d *Desk) ([]Newer, error) {
	rows, err := a.Store.Pieces(d.ID)
	if err != nil {
		return nil, err
	}
	var out []Newer
	for _, row := range rows {
		came, err := a.Store.Parcel(row.Parcel)
		if err != nil || came.Entry == "" || !d.Exists(row.Path) {
			continue
		}
		e, err := a.Store.MarketEntryByKey(came.Market, came.Entry)
		if err != nil {
			continue
		}
		now, err := e.Entry()
		if err != nil {
			return nil, err
		}
		if v := now.Newest(); v.Version != came.Version && v.SHA256 != came.SHA256 {
			out = append(out, Newer{row, d.Show(row.Path), e.Market, e.Key, v.Version, v.Note})
		}
	}
	return out, nil
}

// Difference is what a piece would bring that the one in place has not.
type Difference struct {
	Added, Gone, Changed []string // names of files, or of icons and shapes
	Looks                string   // in words, "" if they are about the same
	Update               bool     // the one in place came from an older version of the same entry
}

// Empty tells whether there is no difference to speak of.
func (d Difference) Empty() bool {
	return len(d.Added)+len(d.Gone)+len(d.Changed) == 0 && d.Looks == ""
}

// Differences compares a piece of a parcel with what is in place at a path of
// the desk.
func (a *App) Differences(ctx context.Context, d *Desk, row store.ParcelRow, p *parcel.Parcel, pc parcel.Piece, target string) (Difference, error) {
	var out Difference
	tree := regular.Until(ctx, d.Tree())
	old, err := contentsOf(tree, desk.Name(target), nil)
	if err != nil {
		return out, err
	}
	now, err := contentsOf(regular.Until(ctx, p), pc.Root, pc.Only)
	if err != nil {
		return out, err
	}
	for name, text := range now {
		switch was, ok := old[name]; {
		case !ok:
			out.Added = append(out.Added, name)
		case was != text:
			out.Changed = append(out.Changed, name)
		}
	}
	for name := range old {
		if _, ok := now[name]; !ok {
			out.Gone = append(out.Gone, name)
		}
	}
	for _, list := range []*[]string{&out.Added, &out.Gone, &out.Changed} {
		*list = called(*list)
	}
	there := pc
	there.Root = desk.Name(target)
	if was, ok := taste.Of(ctx, tree, there); ok {
		if is, ok := taste.Of(ctx, p, pc); ok {
			if was.Distance(is) > 0.15 {
				out.Looks = fmt.Sprintf("%s before, %s now", strings.Join(was.Colours, " "), strings.Join(is.Colours, " "))
			}
		}
	}
	placed, err := a.Store.Pieces(d.ID)
	if err != nil {
		return out, err
	}
	for _, piece := range placed {
		if piece.Path != target || row.Entry == "" {
			continue
		}
		came, err := a.Store.Parcel(piece.Parcel)
		out.Update = out.Update || err == nil && came.Entry == row.Entry && came.Market == row.Market && came.SHA256 != row.SHA256
	}
	return out, nil
}

// After is the desk as it would be with the pieces of a parcel in the stead of
// those in place of the same names. It is to be looked at.
func (a *App) After(ctx context.Context, d *Desk, sha string) (*desk.Desk, error) {
	row, err := a.Store.Parcel(sha)
	if err != nil {
		return nil, err
	}
	front := filepath.Join(a.Store.Dir, "after", d.ID, sha)
	d.Lock()
	defer d.Unlock()
	if _, err := os.Stat(front); errors.Is(err, fs.ErrNotExist) {
		if err := errors.Join(os.RemoveAll(filepath.Dir(front)), os.MkdirAll(filepath.Dir(front), 0o755)); err != nil { // one at a time
			return nil, err
		}
		if err := a.layOut(ctx, func(int64, int64) {}, d, row, &tried{SHA: sha, dir: front}, d.HomePath); err != nil {
			return nil, err
		}
	}
	contents, err := Contents(row)
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
func (a *App) Wearing(d *Desk, sha string) (outfit.Outfit, error) {
	var o outfit.Outfit
	row, err := a.Store.Parcel(sha)
	if err != nil {
		return o, err
	}
	contents, err := Contents(row)
	if err != nil {
		return o, err
	}
	for _, pc := range contents.Pieces {
		target, err := place.Target(pc, d.Desk, place.Mine)
		if err != nil || !d.Exists(target) {
			continue
		}
		for _, facet := range facetsOf(pc) {
			want := pc.Folder
			switch {
			case facet == desk.FacetBackdrop:
				want = path.Join(target, path.Base(pc.Only[0]))
			case facet == desk.FacetFont:
				_, size := FontOf(d.Desk, o)
				want = fmt.Sprintf("%s %g", pc.Name, size)
			}
			if o.Want(facet) == "" {
				o = o.With(facet, want)
			}
		}
	}
	return o, nil
}

// maxCompared bounds what is read of a file to tell two apart, in bytes.
const maxCompared = 1 << 20

// contentsOf maps the files of a piece, by their names in it, to something that
// tells their contents apart.
func contentsOf(fsys fs.FS, root string, only []string) (map[string]string, error) {
	out := map[string]string{}
	take := func(name, at string) error {
		fi, err := fs.Stat(fsys, at)
		if err != nil || fi.IsDir() {
			return nil // a broken link says nothing
		}
		out[name] = fmt.Sprint(fi.Size())
		if fi.Size() <= maxCompared {
			b, err := fs.ReadFile(fsys, at)
			if err != nil {
				return err
			}
			out[name] = string(b)
		}
		return nil
	}
	if only != nil {
		for _, name := range only {
			if err := take(path.Base(name), name); err != nil {
				return nil, err
			}
		}
		return out, nil
	}
	return out, fs.WalkDir(fsys, root, func(at string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		return take(strings.TrimPrefix(at, root+"/"), at)
	})
}

// called turns files into the names that people know: an icon's or a shape's,
// once for all its sizes.
func called(files []string) []string {
	var out []string
	for _, f := range files {
		name := f
		if strings.Contains(f, "/") {
			switch ext := path.Ext(f); ext {
			case ".png", ".svg", ".xpm":
				name = strings.TrimSuffix(path.Base(f), ext)
			case "":
				name = path.Base(f)
			}
		}
		if !slices.Contains(out, name) {
			out = append(out, name)
		}
	}
	slices.Sort(out)
	return out
}
