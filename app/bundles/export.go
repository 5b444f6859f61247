package bundles

import (
	"archive/zip"
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path"
	"regexp"
	"slices"
	"strings"
	"time"

	"ivelt/app/advice"
	"ivelt/app/desks"
	"ivelt/app/drafts"
	"ivelt/app/library"
	"ivelt/core/desk"
	"ivelt/core/layer"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// LeftOut is a piece that does not go along with an outfit, and why.
type LeftOut struct{ Facet, Piece, Why string }

// passes are licences that let a piece be passed on as it is, by the beginning of
// their SPDX identifiers.
var passes = regexp.MustCompile(`^(public-domain|CC0|CC-BY|GPL|LGPL|AGPL|MIT|BSD|Apache|OFL|MPL|Zlib|ISC|Unlicense|0BSD|Artistic|EUPL|WTFPL)`)

// shelfOf is the folder of an exported archive that a facet's piece goes to.
var shelfOf = map[string]string{
	desk.FacetWidgets: "themes", desk.FacetBar: "themes", desk.FacetFrame: "themes", desk.FacetNotices: "themes", desk.FacetIcons: "icons", desk.FacetPointer: "icons", desk.FacetLoginIcons: "icons", desk.FacetLoginPointer: "icons", desk.FacetLoginFont: "fonts",
	desk.FacetFont: "fonts", desk.FacetFontMono: "fonts", desk.FacetFontDocument: "fonts", desk.FacetFontTitle: "fonts", desk.FacetBackdrop: "backdrops", desk.FacetPalette: "palettes", desk.FacetLogin: "login", desk.FacetPictures: "styles",
}

// maxExported bounds what goes along, in bytes.
const maxExported = 512 << 20

// Export writes an outfit with its pieces as a zip: outfit.toml, each piece in a
// folder of its kind, and LEFT-OUT.txt if something is left out, which is returned
// too. A piece goes along if its licence is known and lets it be passed on.
func (bs *Bundles) Export(ctx context.Context, d *desks.Managed, o outfit.Outfit, w io.Writer) ([]LeftOut, error) {
	z := zip.NewWriter(w)
	begun := time.Now()
	put := func(name string, b []byte) error {
		f, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate, Modified: begun})
		if err == nil {
			_, err = f.Write(b)
		}
		return err
	}
	var left []LeftOut
	gone, bytes := map[string]bool{}, int64(0)
	tree := d.Tree()
	for _, info := range desk.Facets {
		shelf, want := shelfOf[info.Name], o.Want(info.Name)
		if shelf == "" || want == "" {
			continue
		}
		at := bs.whereIs(d, info.Name, want)
		licence := o.Choices[info.Name].Licence
		switch {
		case at == "":
			left = append(left, LeftOut{info.Name, want, "no surface of this desk finds it, or it is in the programs themselves"})
			continue
		case gone[at]:
			continue
		case licence == "" && info.Name != desk.FacetBackdrop:
			left = append(left, LeftOut{info.Name, want, "its licence is not known"})
			continue
		case licence != "" && !passes.MatchString(licence):
			left = append(left, LeftOut{info.Name, want, "its licence, " + licence + ", does not say that it may be passed on"})
			continue
		case licence == "":
			left = append(left, LeftOut{info.Name, want, "nothing is known of who made it"})
			continue
		}
		gone[at] = true
		err := fs.WalkDir(tree, desk.Name(at), func(name string, e fs.DirEntry, err error) error {
			if err != nil || ctx.Err() != nil {
				return errors.Join(err, ctx.Err())
			}
			stat, err := fs.Stat(tree, name)
			if err != nil || !stat.Mode().IsRegular() {
				return nil // a folder, or a link that leads nowhere
			}
			if bytes += stat.Size(); bytes > maxExported {
				return say.Errorf("the pieces come to more than %d MB: take some off", maxExported>>20)
			}
			b, err := fs.ReadFile(tree, name)
			if err != nil {
				return err
			}
			rel := strings.TrimPrefix(name, path.Dir(desk.Name(at))+"/")
			return put(path.Join(shelf, rel), b)
		})
		if err != nil {
			return left, err
		}
	}
	if err := put("outfit.toml", o.Bytes()); err != nil {
		return left, err
	}
	if len(left) > 0 {
		var b strings.Builder
		b.WriteString("These pieces did not go along:\n\n")
		for i, l := range left {
			if o.Choices[l.Facet].Recipe != "" {
				l.Why += "; what it is built from is in the outfit"
				left[i] = l
			}
			fmt.Fprintf(&b, "%s: %s: %s\n", desk.FacetTitle(l.Facet), l.Piece, l.Why)
		}
		if err := put("LEFT-OUT.txt", []byte(b.String())); err != nil {
			return left, err
		}
	}
	return left, z.Close()
}

// whereIs is where the first surface that finds a piece finds it.
func (bs *Bundles) whereIs(d *desks.Managed, facet, want string) string {
	for _, s := range d.Surfaces() {
		if f, ok := s.Facet(facet); ok && f.Lookup.Kind != "" {
			if at, err := reading.Find(d.Desk, f.Lookup, want); err == nil && at != "" {
				return at
			}
		}
	}
	return ""
}

// withBackdrop gives an outfit's backdrop the place that it has on this desk, if it
// came along.
func withBackdrop(o outfit.Outfit, t drafts.Tried) outfit.Outfit {
	want := o.Want(desk.FacetBackdrop)
	for _, p := range t.Pieces {
		if p.Facet == desk.FacetBackdrop && want != "" && path.Base(p.Want) == path.Base(want) {
			return o.With(desk.FacetBackdrop, p.Want)
		}
	}
	return o
}

// isHere tells whether a piece is on a desk, if not where all look that are to show
// it: another facet may be of the same kind of piece.
func (bs *Bundles) isHere(d *desks.Managed, facet, want string) bool {
	for _, info := range desk.Facets {
		if (info.Name == facet || advice.KindOf(info.Name) == advice.KindOf(facet) && advice.KindOf(facet) != "") && bs.whereIs(d, info.Name, want) != "" {
			return true
		}
	}
	return false
}

// Missing is a piece that a draft asks for and a desk does not have.
type Missing struct {
	Facet, Piece string
	Source       string // where the outfit says that it can be had
	Market       uint   // an entry of a market that has one of that name
	Entry, Name  string
	Package      string // of the desk's system, that the entry stands for
	Inside       bool   // the entry has another name, which that of the piece begins with
	// Recipe is what the piece can be built from over another, nil for none; Entry is that of the
	// other then, if the desk does not have it either.
	Recipe *layer.Recipe
	Below  bool // the desk has the other
}

// Gettable reports whether a market has something of what is missing. A login theme is put
// in place for everyone, and not with the rest.
func Gettable(all []Missing) bool { return slices.ContainsFunc(all, Missing.gettable) }

func (m Missing) gettable() bool {
	return (m.Entry != "" || m.Below) && m.Facet != desk.FacetLogin
}

// Once are those that are missing, each once, whichever facets ask for it.
func Once(all []Missing) (out []Missing) {
	for _, m := range all {
		if !slices.ContainsFunc(out, func(o Missing) bool { return o.Piece == m.Piece && o.Entry == m.Entry }) {
			out = append(out, m)
		}
	}
	return out
}

// MissingOf lists the pieces of the draft that no surface would find, with where to
// get each.
func (bs *Bundles) MissingOf(d *desks.Managed, o outfit.Outfit) ([]Missing, error) {
	seen := &desks.Managed{Desk: bs.overlays.Trying(d, o)}
	var out []Missing
	for _, info := range desk.Facets {
		want := o.Want(info.Name)
		if want == "" || shelfOf[info.Name] == "" || bs.isHere(seen, info.Name, want) {
			continue
		}
		asked := false
		for _, s := range d.Surfaces() {
			f, ok := s.Facet(info.Name)
			asked = asked || ok && !f.Fixed && !reading.Reachable(seen.Desk, s, f, want)
		}
		if !asked {
			continue
		}
		bs.markets.Ready()
		c := o.Choices[info.Name]
		m := Missing{Facet: info.Name, Piece: cmp.Or(c.Piece, want), Source: c.Source}
		if r, err := layer.Parse([]byte(c.Recipe)); c.Recipe != "" && err == nil && r.Folder == m.Piece {
			_, err := r.Base.Find(seen.Desk)
			m.Recipe, m.Below = &r, err == nil
		}
		if err := bs.entryOf(d, &m); err != nil {
			return nil, err
		}
		out = append(out, m)
	}
	return out, nil
}

// entryOf finds what a market may have a piece in: an entry of its name, else the longest
// that its name begins with, as those of variants do; or a package of the system.
func (bs *Bundles) entryOf(d *desks.Managed, m *Missing) error {
	if m.Below {
		return nil
	}
	wanted := m.wanted()
	for name := wanted; name != ""; name = name[:max(strings.LastIndexAny(name, "-_ "), 0)] {
		found, err := bs.markets.Named(name)
		if err != nil {
			return err
		}
		for _, e := range found {
			if e.Kind == string(advice.KindOf(m.Facet)) {
				m.Market, m.Entry, m.Name, m.Inside = e.Market, e.Key, e.Name, name != wanted
				return nil
			}
		}
		if e, ok := bs.markets.PackageEntry(d, string(advice.KindOf(m.Facet)), name); ok {
			m.Market, m.Entry, m.Name, m.Package, m.Inside = e.Market, e.Key, e.Name, e.Key, true
			return nil
		}
	}
	return nil
}

// wanted is the piece to be had: the one below, if this one is built over it.
func (m Missing) wanted() string {
	if m.Recipe != nil {
		return m.Recipe.Base.Folder
	}
	return m.Piece
}

// in are the keys of the pieces of a parcel that were missing: the one of that name, else,
// of an entry that has its name, all of that kind.
func (m Missing) in(contents parcel.Contents) ([]string, error) {
	var all []string
	for _, pc := range contents.Pieces {
		if pc.Kind != advice.KindOf(m.Facet) {
			continue
		}
		if pc.Folder == m.wanted() || pc.Name == m.wanted() {
			return []string{library.PieceKey(pc)}, nil
		}
		all = append(all, library.PieceKey(pc))
	}
	if m.Inside {
		return nil, say.Errorf("%s, which a market has, has no %s in it", m.Name, m.wanted())
	}
	return all, nil
}
