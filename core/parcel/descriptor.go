package parcel

import (
	"errors"
	"io/fs"
	"path"
	"slices"

	"ivelt/core/archive"
	"ivelt/core/desk"
	"ivelt/core/shown"
	"ivelt/core/tomlfile"
)

// descriptors finds descriptors of surfaces (docs/surfaces.md). One that reaches for more
// than such may, or cannot be used, is no piece, and a note says why.
func (p *Parcel) descriptors() (out []Piece, notes []Note) {
	for _, name := range p.with([]string{".toml"}, func(n *archive.Node) bool { return n.Size < tomlfile.MaxBytes }) {
		b, err := fs.ReadFile(p, name)
		if err != nil || !desk.IsDescriptor(b) {
			continue
		}
		s, err := desk.ParseCame(b, nil)
		if err != nil {
			for _, why := range each(err) {
				notes = append(notes, Refused(path.Base(name), why))
			}
			continue
		}
		reach := s.Reach()
		pc := p.piece(Descriptor, path.Dir(name))
		pc.Folder, pc.Name, pc.Only, pc.Reach = s.ID, s.Title, []string{name}, &reach
		for _, f := range s.Facets {
			pc.Parts = append(pc.Parts, f.Name)
		}
		if len(reach.Starts) > 0 {
			pc.Notes = append(pc.Notes, note("descriptor-acts"))
		}
		out = append(out, p.finish(pc))
	}
	return out, notes
}

// example is the folder beside a descriptor in which it is held against small desks: what lies
// there is no piece (package example).
const example = "examples"

// describes reports whether a folder has a descriptor in it.
func (p *Parcel) describes(folder *archive.Node) bool {
	return slices.ContainsFunc(folder.Children, func(n *archive.Node) bool {
		if !n.Mode.IsRegular() || path.Ext(n.Name) != ".toml" || n.Size >= tomlfile.MaxBytes {
			return false
		}
		b, err := fs.ReadFile(p, n.Name)
		return err == nil && desk.IsDescriptor(b)
	})
}

// Refused is the note of a descriptor that is refused.
func Refused(name string, why error) Note {
	return note("descriptor-refused", shown.Line(name), shown.Line(why.Error()))
}

// each are the errors that one joins, or itself.
func each(err error) []error {
	var joined interface{ Unwrap() []error }
	if errors.Is(err, desk.ErrOverreach) && errors.As(err, &joined) {
		if all := joined.Unwrap(); len(all) > 0 && errors.Is(all[0], desk.ErrOverreach) {
			return all
		}
	}
	return []error{err}
}
