package layer

import (
	"context"
	"errors"
	"io/fs"
	"path"

	"ivelt/core/parcel"
	"ivelt/core/pointerset"
)

// Convert makes a pointer set for X of .cur and .ani files, which lie in the piece itself, see
// package pointerset.
type Convert struct {
	Sizes  []int     `toml:"sizes,omitempty"`  // px; none for those of its own and the usual ones
	Scales []float64 `toml:"scales,omitempty"` // that each size is made for; none for 1
}

func (c Convert) options() pointerset.Options {
	return pointerset.Options{As: pointerset.XCursor, Sizes: c.Sizes, Scales: c.Scales}
}

// wholes is how many changes there are to a set as a whole.
func (r Recipe) wholes() (n int) {
	if r.Convert != nil {
		n++
	}
	if r.Every != nil {
		n++
	}
	return n
}

// convertible is nil if the recipe is a conversion and nothing else.
func (r Recipe) convertible() error {
	switch {
	case r.Base.Kind != parcel.Pointer:
		return errors.New("convert is of pointer sets")
	case r.Size() > 1:
		return errors.New("convert stands alone: other changes are a layer over what it makes")
	case r.Base.Within != pointerset.Original || r.Base.Folder != r.Folder:
		return errors.New("the base of convert is the folder " + pointerset.Original + " of the piece itself")
	}
	return r.Convert.options().Valid()
}

// converted is the set that the base becomes.
func (b *laid) converted(ctx context.Context, r Recipe) ([]Entry, error) {
	set, err := pointerset.Convert(ctx, b.tree, b.root, r.Convert.options())
	if err != nil {
		return nil, err
	}
	entries, err := set.Entries(r.Name)
	if err != nil {
		return nil, err
	}
	out := made{of: map[string]Entry{File: {Name: File, Mode: 0o644, Text: r.Bytes()}}}
	for _, e := range entries {
		of := Entry{Name: e.Name, Mode: 0o644, From: e.Copy, Size: e.Size, Make: e.Make}
		if e.Link != "" {
			of.Mode, of.Link = fs.ModeSymlink, e.Link
		}
		out.of[e.Name] = of
		for dir := path.Dir(e.Name); dir != "."; dir = path.Dir(dir) {
			out.of[dir] = Entry{Name: dir, Mode: fs.ModeDir | 0o755}
		}
	}
	return out.sorted(), nil
}
