package library

import (
	"errors"
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/app/desks"
	"ivelt/core/desk"
	"ivelt/core/icontheme"
	"ivelt/core/parcel"
	"ivelt/core/reading"
	"ivelt/core/say"
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
	Lacks    []string // packs it inherits that no surface finds
	Warned   string   // what the market says of the risk of the parcel it came in
}

// Shelf lists the icon packs in every folder that some surface of the desk
// looks in. Packs that are only there for others to inherit are left out.
func (pp *Pieces) Shelf(d *desks.Managed) ([]Pack, error) {
	placed, err := pp.store.Pieces(d.ID)
	if err != nil {
		return nil, err
	}
	l := shelving{d: d, tree: d.Tree(), readings: reading.All(d.Desk), placed: placed, first: map[string]int{}}
	for _, base := range iconBases(d.Desk) {
		entries, err := fs.ReadDir(l.tree, base)
		if err != nil {
			continue
		}
		for _, e := range entries {
			l.look(base, e.Name())
		}
	}
	for i := range l.packs {
		pack := &l.packs[i]
		for _, parent := range pack.Inherits {
			if parent != icontheme.Fallback && !onDesk(d.Desk, parent) {
				pack.Lacks = append(pack.Lacks, parent)
			}
		}
		if pack.Warned, err = pp.warned(placed, pack.Path); err != nil {
			return nil, err
		}
	}
	slices.SortStableFunc(l.packs, func(a, b Pack) int { return strings.Compare(strings.ToLower(a.Name), strings.ToLower(b.Name)) })
	return l.packs, nil
}

// onDesk reports whether some surface finds an icon pack of a name.
func onDesk(d *desk.Desk, name string) bool {
	return slices.ContainsFunc(iconBases(d), func(base string) bool { return d.Exists(desk.Path(path.Join(base, name))) })
}

// warned is what the market said of the parcel that a piece in place came from.
func (pp *Pieces) warned(placed []store.PieceRow, at string) (string, error) {
	i := slices.IndexFunc(placed, func(row store.PieceRow) bool { return row.Path == at && row.Parcel != "" })
	if i < 0 {
		return "", nil
	}
	row, err := pp.store.Parcel(placed[i].Parcel)
	if errors.Is(err, store.ErrNone) {
		return "", nil // it has been let go since
	}
	if err != nil {
		return "", err
	}
	contents, err := Contents(row)
	if err != nil {
		return "", err
	}
	for _, n := range contents.Notes {
		if n.Code == parcel.Warns {
			return n.Text, nil
		}
	}
	return "", nil
}

// shelving lists packs folder by folder.
type shelving struct {
	d        *desks.Managed
	tree     *desk.Tree
	readings []reading.Reading
	placed   []store.PieceRow
	packs    []Pack
	first    map[string]int // the pack that is found by a name
}

// look adds a pack, if there is one in a folder.
func (l *shelving) look(base, name string) {
	dir := path.Join(base, name)
	if _, err := fs.Stat(l.tree, path.Join(dir, "index.theme")); err != nil || l.linked(dir) {
		return
	}
	p, ok := readPack(l.tree, base, name)
	if !ok {
		return
	}
	p.Path, p.Mine = desk.Path(dir), l.d.Mine(desk.Path(dir))
	if !p.Mine {
		p.Owner = l.d.Owner(p.Path)
	}
	p.ByIvelt = slices.ContainsFunc(l.placed, func(row store.PieceRow) bool { return row.Path == p.Path })
	if i, hidden := l.first[p.Folder]; hidden {
		p.HiddenBy, l.packs[i].Hides = l.packs[i].Path, p.Path
	} else {
		l.first[p.Folder] = len(l.packs)
		for _, r := range l.readings {
			if r.Resolved == p.Path {
				s, _ := l.d.Surface(r.Surface)
				p.UsedBy = append(p.UsedBy, s.Title)
			}
		}
	}
	l.packs = append(l.packs, p)
}

// linked notes a link to a pack that is listed already.
func (l *shelving) linked(dir string) bool {
	real, err := l.tree.Resolve(dir)
	if err != nil || real == dir {
		return false
	}
	i := slices.IndexFunc(l.packs, func(p Pack) bool { return p.Path == desk.Path(real) })
	if i >= 0 {
		l.packs[i].Linked = append(l.packs[i].Linked, l.d.Show(desk.Path(dir)))
	}
	return i >= 0
}

func iconBases(d *desk.Desk) []string {
	var out []string
	for _, s := range d.Surfaces() {
		if f, ok := s.Facet(desk.FacetIcons); ok {
			for _, base := range d.Folders(f.Lookup.Everywhere()) {
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
		for _, s := range d.Surfaces() {
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
func (p Placed) Title() say.Word { return parcel.Kind(p.Kind).Title() }
