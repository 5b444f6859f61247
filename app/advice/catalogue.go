package advice

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/app/desks"
	"ivelt/app/drafts"
	"ivelt/core/desk"
	"ivelt/core/fontbook"
	"ivelt/core/keyfile"
	"ivelt/core/parcel"
	"ivelt/core/reading"
	"ivelt/store"
)

// Wear is a piece that is in place on a desk and can be chosen for a facet.
type Wear struct {
	Folder  string // what programs ask for
	Name    string
	Comment string
	Maker   string       // if the piece's own file says so
	Piece   parcel.Piece // as it lies in the desk's tree
	Serves  []string     // titles of the surfaces that would wear it
	Misses  []string     // of those that have the facet and would not
	UsedBy  []string     // of those that wear it now
	Tried   string       // the parcel it is tried on from; "" if it is in place
	BuiltIn bool         // into the programs that wear it: there is no file to look at
}

// Catalogue is what can be chosen on a desk: for each facet the pieces that some
// surface of the desk finds, the families of fonts, or the backdrops in the usual
// folders; what is tried on is among them. Each facet is looked up once, and
// what is measured for whoever opened the catalogue ends with its context.
type Catalogue struct {
	ctx      context.Context
	a        *Advice
	real     *desks.Managed
	now      *desk.Desk // what there is, looked at once
	seen     *desk.Desk // with what is tried on
	readings []reading.Reading
	known    map[string][]Wear
	asked    map[string]bool                   // facets whose pieces every surface was asked for
	markets  map[string][]store.MarketEntryRow // what was searched for to go with it
}

// Catalogue opens the catalogue of a desk.
func (ad *Advice) Catalogue(ctx context.Context, d *desks.Managed) *Catalogue {
	return ad.CatalogueOf(ctx, d, d.Snapshot())
}

// CatalogueOf is the catalogue for whoever has looked at the desk already: now is what it
// remembers, see [desk.Desk.Snapshot].
func (ad *Advice) CatalogueOf(ctx context.Context, d *desks.Managed, now *desk.Desk) *Catalogue {
	c := &Catalogue{ctx: ctx, a: ad, real: d, now: now, seen: now, known: map[string][]Wear{}, asked: map[string]bool{}, markets: map[string][]store.MarketEntryRow{}}
	if with := ad.overlays.Overlay(d); len(with.Layers) > len(d.Layers) {
		c.seen = with.Snapshot()
	}
	return c
}

// Wear is one of the pieces for a facet, by its folder, without who would wear it.
func (c *Catalogue) Wear(facet, folder string) (Wear, bool) {
	all := c.Listed(facet)
	i := slices.IndexFunc(all, func(w Wear) bool { return w.Folder == folder })
	if i < 0 {
		return Wear{}, false
	}
	return all[i], true
}

// Of lists the pieces for a facet, by their names; what is built into programs comes last.
func (c *Catalogue) Of(facet string) []Wear {
	all := c.Listed(facet)
	if !c.asked[facet] {
		c.asked[facet] = true
		for i := range all {
			c.Ask(facet, &all[i])
		}
	}
	return all
}

// Listed are the same pieces, but it was not looked up which surfaces find each: of hundreds
// that takes a while. See [Catalogue.Ask].
func (c *Catalogue) Listed(facet string) []Wear {
	if all, ok := c.known[facet]; ok {
		return all
	}
	c.known[facet] = c.find(facet)
	return c.known[facet]
}

// Ask notes on a piece which surfaces find it by its name.
func (c *Catalogue) Ask(facet string, w *Wear) {
	w.Serves, w.Misses = nil, nil
	for _, s := range c.seen.Surfaces() {
		f, ok := s.Facet(facet)
		if !ok {
			continue
		}
		if _, err := reading.Find(c.seen, f.Lookup, w.Folder); err != nil {
			if _, e := reading.Makes(c.seen, f, w.Folder); e == nil || errors.Is(e, reading.ErrLocked) {
				w.Serves = append(w.Serves, s.Title)
				continue
			}
			w.Misses = append(w.Misses, s.Title)
			continue
		}
		w.Serves = append(w.Serves, s.Title)
	}
}

func (c *Catalogue) find(facet string) []Wear {
	byName := map[string]*Wear{}
	for _, s := range c.seen.Surfaces() {
		f, ok := s.Facet(facet)
		if !ok {
			continue
		}
		for _, w := range append(c.listed(f, byName), builtIn(f, byName)...) {
			byName[w.Folder] = w
		}
	}
	if c.readings == nil {
		c.readings = reading.All(c.now)
	}
	room := c.a.overlays.Tryings(c.real)
	var out []Wear
	for name, w := range byName {
		w.UsedBy = c.using(facet, name)
		if !w.BuiltIn && !c.now.Exists(desk.Path(w.at())) {
			w.Tried = triedAs(room, facet, name)
		}
		out = append(out, *w)
	}
	slices.SortFunc(out, func(a, b Wear) int {
		if a.BuiltIn != b.BuiltIn { // those come last
			return map[bool]int{false: -1, true: 1}[a.BuiltIn]
		}
		return strings.Compare(strings.ToLower(a.Name), strings.ToLower(b.Name))
	})
	return out
}

// listed are the pieces that a facet's lookup finds where it looks, less those that are
// known by their names.
func (c *Catalogue) listed(f desk.Facet, known map[string]*Wear) (out []*Wear) {
	d := c.seen
	switch f.Lookup.Kind {
	case "font":
		for _, face := range fontbook.Of(d, f.Lookup.Folders).Families() {
			family := face.Family()
			if known[family] != nil || f.Name == desk.FacetFontMono && !face.Fixed {
				continue
			}
			out = append(out, &Wear{Folder: family, Name: family, Comment: many(family, d, f), Maker: face.Maker, Piece: parcel.Piece{Kind: parcel.Font, Name: family, Only: []string{face.File}}})
		}
		return out
	case "picture":
		return backdrops(d, f.Lookup.Folders)
	case "palette", "named-file":
		kind := parcel.Palette
		if f.Name == desk.FacetPictures {
			kind = parcel.Style
		}
		for _, name := range reading.Named(d, f.Lookup) {
			if at, err := reading.Find(d, f.Lookup, name); err == nil && at != "" && known[name] == nil {
				out = append(out, &Wear{Folder: name, Name: name, Comment: d.Show(path.Dir(at)), Piece: parcel.Piece{Kind: kind, Name: name, Folder: name, Only: []string{desk.Name(at)}}})
			}
		}
		return out
	}
	for _, name := range c.foldersIn(d.Folders(f.Lookup.From)) {
		if from, err := reading.Makes(d, f, name); known[name] == nil && (err == nil || errors.Is(err, reading.ErrLocked)) {
			w := readWear(d.Tree(), desk.Name(from.Folder), f.Name)
			known[name] = w
			out = append(out, w)
		}
	}
	for _, name := range c.foldersIn(d.Folders(f.Lookup.Folders)) {
		if known[name] != nil {
			continue
		}
		if at, err := reading.Find(d, f.Lookup, name); err == nil && at != "" {
			out = append(out, readWear(d.Tree(), desk.Name(at), f.Name))
		}
	}
	return out
}

// builtIn are the themes that programs have in themselves, less those that are known.
func builtIn(f desk.Facet, known map[string]*Wear) (out []*Wear) {
	if f.Lookup.Kind != "theme" {
		return nil
	}
	for _, name := range f.Lookup.BuiltIn {
		if name != "" && known[name] == nil {
			out = append(out, &Wear{Folder: name, Name: name, Comment: "built in", BuiltIn: true, Piece: parcel.Piece{Kind: KindOf(f.Name), Name: name}})
		}
	}
	return out
}

// foldersIn are the names of what lies in folders, each once, in order.
func (c *Catalogue) foldersIn(folders []string) (out []string) {
	seen := map[string]bool{}
	for _, base := range folders {
		entries, err := fs.ReadDir(c.seen.Tree(), base)
		if err != nil {
			continue
		}
		for _, e := range entries {
			if !seen[e.Name()] {
				seen[e.Name()] = true
				out = append(out, e.Name())
			}
		}
	}
	return out
}

// using are the titles of the surfaces that show a piece now.
func (c *Catalogue) using(facet, name string) (out []string) {
	for _, s := range c.seen.Surfaces() {
		f, ok := s.Facet(facet)
		if !ok {
			continue
		}
		for _, r := range c.readings {
			if r.Surface != s.ID || r.Facet != facet || r.Resolved == "" {
				continue
			}
			value := r.Value
			if f.Lookup.Kind == "font" {
				value, _ = desk.SplitFont(value)
			}
			if !strings.EqualFold(value, name) {
				continue
			}
			if _, err := reading.Find(c.seen, f.Lookup, name); err == nil {
				out = append(out, s.Title)
			}
		}
	}
	return out
}

// triedAs is the parcel that is tried on which has a piece for a facet by a name, "" for
// none.
func triedAs(room []drafts.Tried, facet, name string) (sha string) {
	for _, t := range room {
		if slices.ContainsFunc(t.Pieces, func(p drafts.TriedPiece) bool { return p.Facet == facet && p.Want == name }) {
			sha = t.SHA
		}
	}
	return sha
}

// at is the folder or a file of the piece, in the tree it was found in.
func (w Wear) at() string {
	if len(w.Piece.Only) > 0 {
		return w.Piece.Only[0]
	}
	return w.Piece.Root
}

// Path is the folder or the file of the piece on its desk.
func (w Wear) Path() string { return desk.Path(w.at()) }

// many says how many styles a family has.
func many(family string, d *desk.Desk, f desk.Facet) string {
	n := len(fontbook.Of(d, f.Lookup.Folders).Faces(family))
	if n == 1 {
		return "one style"
	}
	return fmt.Sprintf("%d styles", n)
}

// maxBackdrops bounds how many pictures are listed.
const maxBackdrops = 200

// backdrops are the pictures in folders and those within.
func backdrops(d *desk.Desk, folders []string) []*Wear {
	var out []*Wear
	for _, base := range d.Folders(folders) {
		_ = fs.WalkDir(d.Tree(), base, func(name string, e fs.DirEntry, err error) error {
			if err != nil || len(out) == maxBackdrops {
				return nil // what cannot be read is not there
			}
			switch strings.ToLower(path.Ext(name)) {
			case ".png", ".jpg", ".jpeg", ".svg":
				title := strings.ReplaceAll(strings.TrimSuffix(path.Base(name), path.Ext(name)), "-", " ")
				out = append(out, &Wear{Folder: desk.Path(name), Name: title, Comment: d.Show(desk.Path(path.Dir(name))), Piece: parcel.Piece{Kind: parcel.Backdrop, Name: title, Only: []string{name}}})
			}
			return nil
		})
	}
	return out
}

// Piece returns one of them by its folder, without who would wear it and who does.
func (ad *Advice) Piece(ctx context.Context, d *desks.Managed, facet, folder string) (Wear, bool) {
	c := ad.Catalogue(ctx, d)
	for _, s := range c.seen.Surfaces() { // what lies in a folder of that name is found without the others
		f, ok := s.Facet(facet)
		if !ok || !slices.Contains([]string{"theme", "icon-theme", "pointer", "login"}, f.Lookup.Kind) || strings.Contains(folder, "/") {
			continue
		}
		if at, err := reading.Find(c.seen, f.Lookup, folder); err == nil && at != "" {
			w := readWear(c.seen.Tree(), desk.Name(at), facet)
			if !d.Exists(desk.Path(w.at())) {
				w.Tried = triedAs(ad.overlays.Tryings(d), facet, folder)
			}
			return *w, true
		}
	}
	return c.Wear(facet, folder)
}

func readWear(tree fs.FS, dir, facet string) *Wear {
	w := &Wear{Folder: path.Base(dir), Name: path.Base(dir)}
	if b, err := fs.ReadFile(tree, path.Join(dir, "index.theme")); err == nil {
		if kf, err := keyfile.Parse(b); err == nil {
			group := "Desktop Entry"
			if facet == desk.FacetPointer || facet == desk.FacetIcons {
				group = "Icon Theme"
			}
			if name := kf.Get(group, "Name"); name != "" {
				w.Name = name
			}
			w.Comment = kf.Get(group, "Comment")
		}
	}
	w.Piece = parcel.Piece{Kind: parcel.Theme, Name: w.Name, Folder: w.Folder, Root: dir}
	switch facet {
	case desk.FacetPointer:
		w.Piece.Kind = parcel.Pointer
		return w
	case desk.FacetIcons:
		w.Piece.Kind = parcel.Icons
		return w
	case desk.FacetLogin:
		w.Piece.Kind, w.Name = parcel.Login, strings.ReplaceAll(w.Folder, "-", " ")
		w.Piece.Name = w.Name
		return w
	}
	entries, err := fs.ReadDir(tree, dir)
	if err != nil {
		return w
	}
	for _, e := range entries {
		if strings.HasPrefix(e.Name(), "gtk-") || facet == desk.FacetBar {
			w.Piece.Parts = append(w.Piece.Parts, e.Name())
		}
	}
	if len(w.Piece.Parts) == 0 { // of a system with programs of its own
		for _, e := range entries {
			if e.IsDir() {
				w.Piece.Parts = append(w.Piece.Parts, e.Name())
			}
		}
	}
	return w
}
