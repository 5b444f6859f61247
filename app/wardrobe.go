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

// Themes lists the window themes that some surface of the desk finds.
func (a *App) Themes(d *Desk) []Wear {
	byName := map[string]*Wear{}
	for _, s := range d.Surfaces {
		f, ok := s.Facet(desk.FacetWidgets)
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
				part, err := reading.FindTheme(d.Desk, f.Lookup, e.Name())
				if err != nil || part == "" {
					continue
				}
				byName[e.Name()] = readTheme(d.Tree(), path.Dir(desk.Name(part)))
			}
		}
	}
	readings := reading.All(d.Desk)
	var out []Wear
	for name, w := range byName {
		for _, s := range d.Surfaces {
			f, ok := s.Facet(desk.FacetWidgets)
			if !ok {
				continue
			}
			if _, err := reading.FindTheme(d.Desk, f.Lookup, name); err != nil {
				w.Misses = append(w.Misses, s.Title)
				continue
			}
			w.Serves = append(w.Serves, s.Title)
			for _, r := range readings {
				if r.Surface == s.ID && r.Facet == desk.FacetWidgets && r.Value == name && r.Resolved != "" {
					w.UsedBy = append(w.UsedBy, s.Title)
				}
			}
		}
		out = append(out, *w)
	}
	slices.SortFunc(out, func(a, b Wear) int { return strings.Compare(strings.ToLower(a.Name), strings.ToLower(b.Name)) })
	return out
}

// Theme returns one of them.
func (a *App) Theme(d *Desk, folder string) (Wear, bool) {
	all := a.Themes(d)
	i := slices.IndexFunc(all, func(w Wear) bool { return w.Folder == folder })
	if i < 0 {
		return Wear{}, false
	}
	return all[i], true
}

func readTheme(tree fs.FS, dir string) *Wear {
	w := &Wear{Folder: path.Base(dir), Name: path.Base(dir)}
	if b, err := fs.ReadFile(tree, path.Join(dir, "index.theme")); err == nil {
		if kf, err := keyfile.Parse(b); err == nil {
			if name := kf.Get("Desktop Entry", "Name"); name != "" {
				w.Name = name
			}
			w.Comment = kf.Get("Desktop Entry", "Comment")
		}
	}
	w.Piece = parcel.Piece{Kind: parcel.Theme, Name: w.Name, Folder: w.Folder, Root: dir}
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
