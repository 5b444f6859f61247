package match

import (
	"io/fs"
	"slices"

	"ivelt/core/desk"
	"ivelt/core/desktopentry"
	"ivelt/core/outfit"
	"ivelt/core/reading"
)

// Runtime is what the sandboxed programs of one runtime may look into, held against what
// they would have to see.
type Runtime struct {
	File     string // where the grants are, as people write it
	Wanted   []Piece
	Grants   []Granted // to all of its programs
	Programs []Sandboxed
	Missing  []Lacking // what would make them follow, the smallest folder each
}

// Piece is what a facet asks for.
type Piece struct{ Facet, Name string }

// Granted is a folder that is granted.
type Granted struct {
	Path  string
	Holds []string // what lies there
	Wide  bool     // it is more than is needed
	Gone  bool     // it is not there
}

// Sandboxed is one program of the runtime.
type Sandboxed struct {
	ID, Name string
	Sees     []Sees
	Grants   []Granted // to it alone
}

// Sees tells whether a program sees a piece.
type Sees struct {
	Piece
	OK     bool
	Why    *reading.Problem // it does not
	Folder string           // that would have to be granted, "" if no grant would help
}

// Lacking is a folder that has to be granted, and what for.
type Lacking struct {
	Folder string
	For    []Piece
}

// RuntimeOf weighs what is granted to the programs of a surface that is a runtime of
// sandboxed ones, against an outfit.
func RuntimeOf(d *desk.Desk, surface desk.Surface, o outfit.Outfit) Runtime {
	var out Runtime
	var of []desk.Facet // those that have to be granted
	for _, f := range surface.Facets {
		if f.Lookup.Grants == nil {
			continue
		}
		want := o.WantOn(surface.ID, f.Name)
		if want == "" {
			want = reading.Told(d, surface, f).Value
		}
		of, out.Wanted = append(of, f), append(out.Wanted, Piece{f.Name, want})
	}
	if len(of) == 0 {
		return out
	}
	out.File = d.Show(d.First(of[0].Lookup.Grants.Path))
	all := reading.Grants(d, of[0].Lookup)
	out.Grants = granted(d, of[0].Lookup, all)
	for _, p := range desktopentry.List(d.Tree(), d.Folders(surface.Sandbox.Programs)) {
		v := Sandboxed{ID: p.ID, Name: p.Name}
		own := of[0].Lookup
		own.Program = p.ID
		v.Grants = granted(d, own, slices.DeleteFunc(reading.Grants(d, own), func(p string) bool { return slices.Contains(all, p) }))
		for i, f := range of {
			f.Lookup.Program = p.ID
			sees := seen(d, surface, f, out.Wanted[i])
			v.Sees = append(v.Sees, sees)
			if sees.Folder != "" {
				out.lacks(sees.Folder, sees.Piece)
			}
		}
		out.Programs = append(out.Programs, v)
	}
	return out
}

// seen tells whether the program of a facet's lookup sees a piece.
func seen(d *desk.Desk, surface desk.Surface, f desk.Facet, p Piece) Sees {
	if _, err := reading.Find(d, f.Lookup, p.Name); err == nil {
		return Sees{Piece: p, OK: true}
	}
	return Sees{Piece: p, Why: reading.Why(d, surface, f, p.Name), Folder: reading.Grantable(d, f.Lookup, p.Name)}
}

// lacks adds what a folder has to be granted for.
func (r *Runtime) lacks(folder string, p Piece) {
	i := slices.IndexFunc(r.Missing, func(m Lacking) bool { return m.Folder == folder })
	if i < 0 {
		i = len(r.Missing)
		r.Missing = append(r.Missing, Lacking{Folder: folder})
	}
	if !slices.Contains(r.Missing[i].For, p) {
		r.Missing[i].For = append(r.Missing[i].For, p)
	}
}

// granted tells of folders what lies there and whether they are more than is needed.
func granted(d *desk.Desk, l desk.Lookup, folders []string) []Granted {
	wide := reading.TooWide(d, l)
	var out []Granted
	for _, p := range folders {
		g := Granted{Path: p, Wide: slices.Contains(wide, p)}
		entries, err := fs.ReadDir(d.Tree(), desk.Name(p))
		g.Gone = err != nil
		for _, e := range entries {
			g.Holds = append(g.Holds, e.Name())
		}
		out = append(out, g)
	}
	return out
}
