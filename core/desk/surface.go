package desk

import (
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"sort"

	"github.com/pelletier/go-toml/v2"
)

// Surface is something on a desk that draws, as its descriptor tells: for each
// facet where it looks, in which order, and what it does with the name found.
type Surface struct {
	ID      string  `toml:"id"`
	Title   string  `toml:"title"`
	Version string  `toml:"version"` // of the program, where pieces are made for one
	Kind    string  `toml:"kind"`    // toolkit, shell …
	Restart string  `toml:"restart"` // what has to start again for a change to show: program, shell, session, machine
	Facets  []Facet `toml:"facet"`
	Looks   []Look  `toml:"looks"` // where it looks for pieces of a kind, besides what its facets say
	Parts   []Part  `toml:"part"`  // what of a theme dresses it
	Bar     *Bar    `toml:"bar"`   // where a shell keeps how its bar is laid out
}

// Look says in which folders a surface looks for pieces of a kind.
type Look struct {
	Kind    string   `toml:"kind"`
	Folders []string `toml:"folders"` // in order, with the place names of [Desk.Expand]
	// Sealed: it sees these folders alone, so a link that leads out of them
	// leads nowhere for it.
	Sealed bool `toml:"sealed"`
}

// Part is a folder in a theme that dresses a surface, and a file by which it is
// known. A star stands for anything.
type Part struct {
	Folder string `toml:"folder"`
	File   string `toml:"file"`
}

// Parts returns the parts that the desk's surfaces name.
func (d *Desk) Parts() []Part {
	var out []Part
	for _, s := range d.Surfaces {
		out = append(out, s.Parts...)
	}
	return out
}

// LooksIn returns the folders, in order, in which the surface looks for pieces
// of a kind.
func (s Surface) LooksIn(kind string) []string {
	folders, _ := s.Look(kind)
	return folders
}

// Look returns the same, and whether the surface is sealed in these folders.
func (s Surface) Look(kind string) (folders []string, sealed bool) {
	for _, l := range s.Looks {
		if l.Kind == kind {
			return l.Folders, l.Sealed
		}
	}
	if f, ok := s.Facet(FacetIcons); ok && kind == "icons" {
		return f.Lookup.Folders, false
	}
	return nil, false
}

// Bar says where a shell's bar is described, and under which keys.
type Bar struct {
	Files     []string `toml:"files"` // key files, weakest first, with the place names of [Desk.Expand]
	Group     string   `toml:"group"`
	Edge      string   `toml:"edge"`      // key: top or bottom
	Thickness string   `toml:"thickness"` // key: px
	Pinned    string   `toml:"pinned"`    // key: desktop file IDs, separated by ";"
}

// Facet is what a descriptor says of one facet of a surface.
type Facet struct {
	Name     string   `toml:"name"`
	Default  string   `toml:"default"`  // the value if no source speaks
	Evidence string   `toml:"evidence"` // what the order of sources was read from
	Sources  []Source `toml:"source"`   // strongest first
	Lookup   Lookup   `toml:"lookup"`
	Loaded   *Source  `toml:"loaded"` // where the running program says what it has loaded
}

// Source is one place a surface reads a value from.
type Source struct {
	Path   string `toml:"path"` // with the place names of [Desk.Expand]
	Format string `toml:"format"`
	Group  string `toml:"group"`
	Key    string `toml:"key"`
	Write  bool   `toml:"write"` // the source a plan sets
}

// Lookup says how the surface finds the piece a value names.
type Lookup struct {
	Kind    string   `toml:"kind"`     // icon-theme, theme, pointer
	Folders []string `toml:"folders"`  // base folders in order, with the place names of [Desk.Expand]
	Also    []string `toml:"also"`     // names the surface adds to the one it was told
	Parts   []string `toml:"parts"`    // of a theme: the folders in it that serve, the best first
	File    string   `toml:"file"`     // of a theme: what such a folder has to hold
	BuiltIn []string `toml:"built-in"` // names that need no folder
	Own     string   `toml:"own"`      // of a theme: the person's own sheet, which goes over it
}

// ErrDescriptor: a surface's descriptor is not usable.
var ErrDescriptor = errors.New("surface descriptor")

//go:embed surfaces/*.toml
var builtin embed.FS

// Builtin returns the surfaces of the toolkits.
func Builtin() []Surface {
	out, err := LoadSurfaces(builtin, "surfaces")
	if err != nil {
		panic(err) // embedded and tested
	}
	return out
}

// LoadSurfaces reads every descriptor in a folder, by file name.
func LoadSurfaces(fsys fs.FS, dir string) ([]Surface, error) {
	names, err := fs.Glob(fsys, dir+"/*.toml")
	if err != nil {
		return nil, err
	}
	sort.Strings(names)
	var out []Surface
	for _, name := range names {
		b, err := fs.ReadFile(fsys, name)
		if err != nil {
			return nil, err
		}
		s, err := ParseSurface(b)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		out = append(out, s)
	}
	return out, nil
}

// ParseSurface reads one descriptor. Errors wrap [ErrDescriptor].
func ParseSurface(b []byte) (Surface, error) {
	var s Surface
	if err := toml.Unmarshal(b, &s); err != nil {
		return s, fmt.Errorf("%w: %w", ErrDescriptor, err)
	}
	switch {
	case s.ID == "" || s.Title == "":
		return s, fmt.Errorf("%w: id and title must be given", ErrDescriptor)
	case len(s.Facets) == 0 && len(s.Looks) == 0:
		return s, fmt.Errorf("%w: %s has neither a facet nor a folder it looks in", ErrDescriptor, s.ID)
	}
	for _, f := range s.Facets {
		for _, src := range f.Sources {
			if src.Format != "keyfile" {
				return s, fmt.Errorf("%w: %s, facet %s: format %q is not known; use keyfile", ErrDescriptor, s.ID, f.Name, src.Format)
			}
		}
		switch f.Lookup.Kind {
		case "", "icon-theme", "theme", "pointer":
		default:
			return s, fmt.Errorf("%w: %s, facet %s: lookup kind %q is not known; use icon-theme, theme or pointer", ErrDescriptor, s.ID, f.Name, f.Lookup.Kind)
		}
	}
	return s, nil
}

// Facet returns what the surface says of a facet.
func (s Surface) Facet(name string) (Facet, bool) {
	for _, f := range s.Facets {
		if f.Name == name {
			return f, true
		}
	}
	return Facet{}, false
}
