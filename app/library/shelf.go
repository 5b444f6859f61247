package library

import (
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/app/desks"
	"ivelt/core/desk"
	"ivelt/core/icontheme"
	"ivelt/core/parcel"
	"ivelt/core/reading"
	"ivelt/store"
)

// Pack is an icon pack that is in place on a desk.
type Pack struct {
	Folder   string // what programs ask for
	Name     string
	Comment  string
	Path     string // of the desk
	Mine     bool
	Icons    int // names of its own
	Inherits []string
	UsedBy   []string // titles of the surfaces that show it
	ByIvelt  bool
	Owner    string   // the package it belongs to
	Linked   []string // links in other folders that lead here
	Hides    string   // path of another pack of that name that this one is found before
	HiddenBy string
	Problem  string
}

// Shelf lists the icon packs in every folder that some surface of the desk
// looks in. Packs that are only there for others to inherit are left out.
func (pp *Pieces) Shelf(d *desks.Managed) ([]Pack, error) {
	placed, err := pp.store.Pieces(d.ID)
	if err != nil {
		return nil, err
	}
	tree := d.Tree()
	readings := reading.All(d.Desk)
	var out []Pack
	first := map[string]int{}
	for _, base := range iconBases(d.Desk) {
		entries, err := fs.ReadDir(tree, base)
		if err != nil {
			continue
		}
		for _, e := range entries {
			dir := path.Join(base, e.Name())
			if _, err := fs.Stat(tree, path.Join(dir, "index.theme")); err != nil {
				continue
			}
			if real, err := tree.Resolve(dir); err == nil && real != dir {
				if i := slices.IndexFunc(out, func(p Pack) bool { return p.Path == desk.Path(real) }); i >= 0 {
					out[i].Linked = append(out[i].Linked, d.Show(desk.Path(dir)))
					continue
				}
			}
			p, ok := readPack(tree, base, e.Name())
			if !ok {
				continue
			}
			p.Path, p.Mine = desk.Path(dir), d.Mine(desk.Path(dir))
			if !p.Mine {
				p.Owner = d.Owner(p.Path)
			}
			for _, row := range placed {
				p.ByIvelt = p.ByIvelt || row.Path == p.Path
			}
			if i, hidden := first[p.Folder]; hidden {
				p.HiddenBy, out[i].Hides = out[i].Path, p.Path
			} else {
				first[p.Folder] = len(out)
				for _, r := range readings {
					if r.Resolved == p.Path {
						s, _ := d.Surface(r.Surface)
						p.UsedBy = append(p.UsedBy, s.Title)
					}
				}
			}
			out = append(out, p)
		}
	}
	slices.SortStableFunc(out, func(a, b Pack) int { return strings.Compare(strings.ToLower(a.Name), strings.ToLower(b.Name)) })
	return out, nil
}

func iconBases(d *desk.Desk) []string {
	var out []string
	for _, s := range d.Surfaces {
		if f, ok := s.Facet(desk.FacetIcons); ok {
			for _, base := range d.Folders(f.Lookup.Folders) {
				if !slices.Contains(out, base) {
					out = append(out, base)
				}
			}
		}
	}
	return out
}

func readPack(tree fs.FS, base, folder string) (Pack, bool) {
	t, _, err := icontheme.Find(tree, []string{base}, folder)
	if err != nil {
		return Pack{Folder: folder, Name: folder, Problem: err.Error()}, !strings.Contains(err.Error(), "has no Directories")
	}
	if t.Hidden {
		return Pack{}, false
	}
	names := map[string]bool{}
	for _, dir := range t.Directories {
		entries, err := fs.ReadDir(tree, path.Join(base, folder, dir.Path))
		if err != nil {
			continue
		}
		for _, e := range entries {
			if name, ok := icontheme.IconName(e.Name()); ok {
				names[name] = true
			}
		}
	}
	return Pack{Folder: folder, Name: t.Name, Comment: t.Comment, Inherits: t.Inherits, Icons: len(names)}, true
}

// Placed is a piece of another kind than icons that Ivelt put in place.
type Placed struct {
	store.PieceRow
	Shown  string   // the path as people write it
	SeenBy []string // titles of the surfaces that look there
	Gone   bool     // it is not there any more
	Named  []string // settings and outfits that name it
}

// Placed lists what Ivelt put in place on a desk besides icon packs.
func (pp *Pieces) Placed(d *desks.Managed) ([]Placed, error) {
	rows, err := pp.store.Pieces(d.ID)
	if err != nil {
		return nil, err
	}
	var out []Placed
	for _, row := range rows {
		if parcel.Kind(row.Kind) == parcel.Icons {
			continue
		}
		p := Placed{PieceRow: row, Shown: d.Show(row.Path), Gone: !d.Exists(row.Path)}
		for _, s := range d.Surfaces {
			for _, folder := range d.Folders(s.LooksIn(row.Kind)) {
				if strings.HasPrefix(desk.Name(row.Path), folder+"/") {
					p.SeenBy = append(p.SeenBy, s.Title)
					break
				}
			}
		}
		if p.Named, err = pp.NamedBy(d, row); err != nil {
			return nil, err
		}
		out = append(out, p)
	}
	return out, nil
}

// Title is what the piece's kind is called.
func (p Placed) Title() string { return parcel.Kind(p.Kind).Title() }
