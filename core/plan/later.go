package plan

import (
	"context"
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/parcel"
)

// Later is what has to start again for a change to be seen.
type Later struct {
	Effect   Effect   `json:"effect"`
	Surfaces []string `json:"surfaces"` // that show it then
}

var effects = []Effect{ProgramRestart, ShellRestart, SignIn, MachineRestart}

// Later lists what has to start again once the plan is carried out, in the order
// in which to do it: what a later one starts anyway comes last.
func (p Plan) Later(d *desk.Desk) []Later {
	var out []Later
	for _, e := range effects {
		l := Later{Effect: e}
		for _, op := range p.Ops {
			if op.Effect == e && op.Surface != "" && !slices.Contains(l.Surfaces, op.Surface) {
				l.Surfaces = append(l.Surfaces, op.Surface)
			}
		}
		if len(l.Surfaces) > 0 {
			out = append(out, l)
		}
	}
	return out
}

// Cache is what programs remember of a folder, which a plan changes.
type Cache struct {
	Kind   string `json:"kind"` // of the pieces in it: icons or font
	Folder string `json:"folder"`
}

// Caches lists what has to be made anew once the plan is carried out: what
// programs remember of folders of icons and of fonts.
func (p Plan) Caches() []Cache {
	var out []Cache
	for _, op := range p.Ops {
		c := Cache{op.Facet, path.Dir(op.Path)}
		changes := op.Kind == Copy || op.Kind == Link || op.Kind == Remove && !op.IsFolder()
		if changes && (c.Kind == string(parcel.Icons) || c.Kind == string(parcel.Font)) && !slices.Contains(out, c) {
			out = append(out, c)
		}
	}
	return out
}

// Entry is a file that a plan copies or takes away with a piece.
type Entry struct {
	Name  string // below the piece's folder
	Bytes int64
	Link  string // where it leads, if it is a link
}

// Listing lists what an operation on a piece copies, or takes away. keep has what
// was kept.
func Listing(ctx context.Context, op Op, keep Keeper) ([]Entry, error) {
	if op.Source == nil {
		return nil, nil
	}
	x := &run{Config: Config{Keep: keep}}
	p, err := x.parcel(ctx, *op.Source)
	if err != nil {
		return nil, err
	}
	defer p.Close()
	c, err := readPiece(p, *op.Source)
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
	for name := range c.files {
		out = append(out, Entry{Name: c.rel(name), Bytes: size(p, name)})
	}
	for rel, name := range c.copies {
		out = append(out, Entry{Name: rel, Bytes: size(p, name)})
	}
	for rel, to := range c.links {
		out = append(out, Entry{Name: rel, Link: to})
	}
	slices.SortFunc(out, func(a, b Entry) int { return strings.Compare(a.Name, b.Name) })
	return out, nil
}
