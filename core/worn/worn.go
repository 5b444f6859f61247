// Package worn writes what a desk wears now as an outfit, also a desk that Ivelt
// never touched.
package worn

import (
	"cmp"
	"io/fs"
	"maps"
	"path"
	"slices"
	"strconv"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/fontfile"
	"ivelt/core/keyfile"
	"ivelt/core/layer"
	"ivelt/core/licence"
	"ivelt/core/outfit"
	"ivelt/core/reading"
)

// About is what is known of a piece.
type About struct{ Version, Source, Licence, Checksum string }

// Of reads the desk. For each facet it takes what most of the surfaces are told,
// and the others as exceptions; a facet of which no surface is told anything, and
// what no outfit can say, is left open. know tells what else is known of a piece
// at a path of the desk; it may be nil.
func Of(d *desk.Desk, know func(path string) About) outfit.Outfit {
	d = d.Snapshot()
	o := outfit.Outfit{Name: "Worn by " + d.Title}
	for _, info := range desk.Facets {
		told, set, at := map[string][]string{}, map[string][]string{}, map[string]string{}
		for _, s := range d.Surfaces() {
			f, ok := s.Facet(info.Name)
			if !ok {
				continue
			}
			r := reading.Of(d, s, f)
			value := sayable(d, info, f, r.Value)
			told[value] = append(told[value], s.ID)
			at[value] = cmp.Or(at[value], r.Resolved)
			if r.Source.Kind != "default" {
				set[value] = append(set[value], s.ID)
			}
		}
		most := maxOf(set) // what somebody set goes before what is usual
		if most == "" {
			continue
		}
		o = o.With(info.Name, most)
		for value, surfaces := range told {
			for _, s := range surfaces {
				if value != most {
					o = o.Except(s, info.Name, value)
				}
			}
		}
		if pieced(info) {
			o.Choices[info.Name] = described(d, o.Choices[info.Name], at[most], know)
		}
	}
	return o
}

// pieced reports whether a facet is of pieces, or of files.
func pieced(info desk.FacetInfo) bool {
	return info.Takes == desk.TakesPiece || info.Takes == desk.TakesFont || info.Takes == desk.TakesPicture
}

// described is a choice with what is known of its piece, which lies at a path of the desk.
func described(d *desk.Desk, c outfit.Choice, where string, know func(path string) About) outfit.Choice {
	if real, err := d.Tree().Resolve(desk.Name(where)); where != "" && err == nil {
		where = desk.Path(real) // a link leads to the piece
	}
	a := identify(d, where)
	if know != nil && where != "" {
		if more := know(where); more != (About{}) {
			a = About{cmp.Or(more.Version, a.Version), cmp.Or(more.Source, a.Source), cmp.Or(more.Licence, a.Licence), more.Checksum}
		}
	}
	c = c.Pieced(a.Version, a.Source, a.Licence, a.Checksum)
	c.Recipe = recipe(d, where)
	return c
}

// Described is an outfit with what is known of those of its pieces that a desk has and nothing is
// said of. know is as of [Of].
func Described(d *desk.Desk, o outfit.Outfit, know func(path string) About) outfit.Outfit {
	d = d.Snapshot()
	o.Choices = maps.Clone(o.Choices)
	for facet, c := range o.Choices {
		info, _ := desk.FacetOf(facet)
		if !pieced(info) || c.Version+c.Source+c.Licence+c.Checksum+c.Recipe != "" {
			continue
		}
		for _, s := range d.Surfaces() {
			f, ok := s.Facet(facet)
			if at, err := reading.Find(d, f.Lookup, o.Want(facet)); ok && err == nil && at != "" {
				o.Choices[facet] = described(d, c, at, know)
				break
			}
		}
	}
	return o
}

// recipe is what a piece at a path is built from, "" if it is no layer.
func recipe(d *desk.Desk, at string) string {
	if at == "" {
		return ""
	}
	if path.Ext(at) == ".svg" { // of a picture style
		at = path.Dir(at)
	}
	b, err := d.Tree().ReadSettings(path.Join(desk.Name(at), layer.File))
	if err != nil || len(b) > outfit.MaxRecipe {
		return ""
	}
	if r, err := layer.Parse(b); err != nil || r.Folder != path.Base(at) {
		return ""
	}
	return string(b)
}

// sayable is a value as an outfit says it, "" if it cannot.
func sayable(d *desk.Desk, info desk.FacetInfo, f desk.Facet, value string) string {
	if info.Takes == desk.TakesFont {
		family, size := desk.SplitFont(value)
		if size == 0 && family != "" && f.Sizeless {
			return "" // it goes with any size
		}
		if family != "" {
			value = family + " " + strconv.FormatFloat(size, 'f', -1, 64)
		}
	}
	if value == "" || info.Accepts(value) != nil {
		return ""
	}
	return value
}

// maxOf is the value that most surfaces have, of several the first by name.
func maxOf(told map[string][]string) string {
	best := ""
	for _, value := range slices.Sorted(maps.Keys(told)) {
		if value != "" && (best == "" || len(told[value]) > len(told[best])) {
			best = value
		}
	}
	return best
}

// identify tells of a piece what its own description and the package database say.
func identify(d *desk.Desk, at string) About {
	if at == "" {
		return About{}
	}
	a := About{Source: d.Show(at)}
	if owner := reading.Owner(d, at); owner != "" {
		a.Source = "package " + owner
		if p, ok := d.Packages()[owner]; ok {
			a.Version = p.Version
		}
	}
	a.Licence = licenceOf(d, at, strings.TrimPrefix(a.Source, "package "))
	for _, name := range []string{"index.theme", "login.theme", "gate.theme"} {
		b, err := fs.ReadFile(d.Tree(), desk.Name(path.Join(at, name)))
		if err != nil {
			continue
		}
		kf, err := keyfile.Parse(b)
		if err != nil {
			continue
		}
		for _, group := range kf.Groups() {
			a.Version = cmp.Or(a.Version, kf.Get(group, "Version"), kf.Get(group, "X-Version"))
		}
		a.Licence = cmp.Or(licence.Stated(kf), a.Licence)
	}
	return a
}

// licenceOf is what a licence file in a piece, or beside it if it is a file, says;
// of a font what the font says, of a piece of a package what the package's file of
// licences says (Debian Policy, 12.5); "" if nothing is known.
func licenceOf(d *desk.Desk, at, pkg string) string {
	tree := d.Tree()
	folder := desk.Name(at)
	if info, err := fs.Stat(tree, folder); err == nil && !info.IsDir() {
		if raw, err := fs.ReadFile(tree, folder); err == nil {
			if faces, err := fontfile.Parse(raw); err == nil && len(faces) > 0 {
				if of := licence.Of(faces[0].Licence); of != "" {
					return of
				}
			} else if of := licence.OfHead(raw); of != "" { // in a comment at its head
				return of
			}
		}
		folder = path.Dir(folder)
	}
	entries, err := fs.ReadDir(tree, folder)
	if err != nil {
		return ""
	}
	for _, e := range entries {
		if !licence.IsFile(e.Name()) {
			continue
		}
		if raw, err := fs.ReadFile(tree, path.Join(folder, e.Name())); err == nil {
			if of := licence.Of(string(raw)); of != "" {
				return of
			}
		}
	}
	if raw, err := fs.ReadFile(tree, path.Join("usr/share/doc", pkg, "copyright")); err == nil && pkg != "" {
		return licence.Of(string(raw))
	}
	return ""
}
