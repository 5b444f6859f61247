package library

import (
	"context"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/app/desks"
	"ivelt/core/desk"
	"ivelt/core/parcel"
	"ivelt/core/regular"
	"ivelt/core/taste"
	"ivelt/store"
)

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
func (pp *Pieces) Differences(ctx context.Context, d *desks.Managed, row store.ParcelRow, p *parcel.Parcel, pc parcel.Piece, target string) (Difference, error) {
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
	placed, err := pp.store.Pieces(d.ID)
	if err != nil {
		return out, err
	}
	for _, piece := range placed {
		if piece.Path != target || row.Entry == "" {
			continue
		}
		came, err := pp.store.Parcel(piece.Parcel)
		out.Update = out.Update || err == nil && came.Entry == row.Entry && came.Market == row.Market && came.SHA256 != row.SHA256
	}
	return out, nil
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
