package app

import (
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/keyfile"
	"ivelt/core/parcel"
	"ivelt/core/reading"
)

// Wear is a piece that is in place on a desk and can be chosen for a facet.
type Wear struct {
	Folder  string // what programs ask for
	Name    string
	Comment string
	Piece   parcel.Piece // as it lies in the desk's tree
	Serves  []string     // titles of the surfaces that would wear it
	Misses  []string     // of those that have the facet and would not
	UsedBy  []string     // of those that wear it now
}

// Wardrobe lists the window themes or the pointer sets that some surface of the
// desk finds.
func (a *App) Wardrobe(d *Desk, facet string) []Wear {
	byName := map[string]*Wear{}
	for _, s := range d.Surfaces {
		f, ok := s.Facet(facet)
		if !ok {
			continue
		}
		for _, base := range d.Folders(f.Lookup.Folders) {
			entries, err := fs.ReadDir(d.Tree(), base)
			if err != nil {
				continue
			}
			for _, e := range entries {
				if byName[e.Name()] != nil {
					continue
				}
				if at, err := reading.Find(d.Desk, f.Lookup, e.Name()); err == nil && at != "" {
					byName[e.Name()] = readWear(d.Tree(), desk.Name(at), facet)
				}
			}
		}
	}
	readings := reading.All(d.Desk)
	var out []Wear
	for name, w := range byName {
		for _, s := range d.Surfaces {
			f, ok := s.Facet(facet)
			if !ok {
				continue
			}
			if _, err := reading.Find(d.Desk, f.Lookup, name); err != nil {
				w.Misses = append(w.Misses, s.Title)
				continue
			}
			w.Serves = append(w.Serves, s.Title)
			for _, r := range readings {
				if r.Surface == s.ID && r.Facet == facet && r.Value == name && r.Resolved != "" {
					w.UsedBy = append(w.UsedBy, s.Title)
				}
			}
		}
		out = append(out, *w)
	}
	slices.SortFunc(out, func(a, b Wear) int { return strings.Compare(strings.ToLower(a.Name), strings.ToLower(b.Name)) })
	return out
}

// Wear returns one of them by its folder.
func (a *App) Wear(d *Desk, facet, folder string) (Wear, bool) {
	all := a.Wardrobe(d, facet)
	i := slices.IndexFunc(all, func(w Wear) bool { return w.Folder == folder })
	if i < 0 {
		return Wear{}, false
	}
	return all[i], true
}

func readWear(tree fs.FS, dir, facet string) *Wear {
	w := &Wear{Folder: path.Base(dir), Name: path.Base(dir)}
	if b, err := fs.ReadFile(tree, path.Join(dir, "index.theme")); err == nil {
		if kf, err := keyfile.Parse(b); err == nil {
			group := "Desktop Entry"
			if facet == desk.FacetPointer {
				group = "Icon Theme"
			}
			if name := kf.Get(group, "Name"); name != "" {
				w.Name = name
			}
			w.Comment = kf.Get(group, "Comment")
		}
	}
	w.Piece = parcel.Piece{Kind: parcel.Theme, Name: w.Name, Folder: w.Folder, Root: dir}
	if facet == desk.FacetPointer {
		w.Piece.Kind = parcel.Pointer
		return w
	}
	entries, err := fs.ReadDir(tree, dir)
	if err != nil {
		return w
	}
	for _, e := range entries {
		if strings.HasPrefix(e.Name(), "gtk-") {
			w.Piece.Parts = append(w.Piece.Parts, e.Name())
		}
	}
	return w
}
