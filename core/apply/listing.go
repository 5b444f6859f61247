package apply

import (
	"context"
	"io/fs"
	"slices"
	"strings"

	"ivelt/core/parcel"
	"ivelt/core/plan"
)

// Entry is a file that a plan copies or takes away with a piece.
type Entry struct {
	Name  string // below the piece's folder
	Bytes int64
	Link  string // where it leads, if it is a link
}

// Listing lists what an operation on a piece copies, or takes away. keep has what
// was kept.
func Listing(ctx context.Context, op plan.Op, keep plan.Keeper) ([]Entry, error) {
	if op.Source == nil {
		return nil, nil
	}
	x := &run{Config: Config{Keep: keep}}
	p, err := x.parcel(ctx, *op.Source)
	if err != nil {
		return nil, err
	}
	defer p.Close()
	c, err := plan.ReadTree(p, *op.Source)
	if err != nil {
		return nil, err
	}
	var out []Entry
	size := func(p *parcel.Parcel, name string) int64 {
		if fi, err := fs.Stat(p, name); err == nil {
			return fi.Size()
		}
		return 0
	}
	for name := range c.Files {
		out = append(out, Entry{Name: c.Rel(name), Bytes: size(p, name)})
	}
	for rel, name := range c.Copies {
		out = append(out, Entry{Name: rel, Bytes: size(p, name)})
	}
	for rel, to := range c.Links {
		out = append(out, Entry{Name: rel, Link: to})
	}
	slices.SortFunc(out, func(a, b Entry) int { return strings.Compare(a.Name, b.Name) })
	return out, nil
}
