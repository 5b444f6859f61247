package parcel

import (
	"errors"
	"fmt"
	"path"
	"regexp"
	"slices"
	"strings"

	"ivelt/core/archive"
	"ivelt/core/icontheme"
	"ivelt/core/keyfile"
	"ivelt/core/say"
)

func (p *Parcel) iconPack(root string) (Piece, []Note, bool) {
	piece := p.piece(Icons, root)
	theme, err := p.iconTheme(root, piece.Folder)
	if err != nil {
		if kf := p.index(root); kf != nil {
			if _, ok := kf.Lookup("Icon Theme", "Directories"); !ok {
				return Piece{}, nil, false // the index of another kind of theme
			}
		}
		return Piece{}, []Note{note("icon-bad-index", showRoot(root), unwrapIndex(err))}, false
	}
	piece.Name, piece.Parts = theme.Name, []string{"icons"}
	piece.Inherits = append(piece.Inherits, theme.Inherits...)
	names := map[string]bool{}
	var missing []string
	looked := map[*archive.Node]bool{} // many are links to others
	for _, d := range theme.Directories {
		folder, err := p.Follow("readdir", path.Join(root, d.Path))
		if err != nil || !folder.Mode.IsDir() {
			missing = append(missing, d.Path)
			continue
		}
		if looked[folder] {
			continue
		}
		looked[folder] = true
		for _, c := range folder.Children {
			if name, ok := icontheme.IconName(c.Name[strings.LastIndexByte(c.Name, '/')+1:]); ok {
				names[name] = true
			}
		}
	}
	if len(names) == 0 {
		if _, err := p.Stat(path.Join(root, "cursors")); err == nil {
			return Piece{}, nil, false // a pointer set that lists folders it does not have
		}
		return Piece{}, []Note{note("icon-empty", showRoot(root))}, false
	}
	piece.Icons = len(names)
	if len(missing) > 0 {
		piece.Notes = append(piece.Notes, note("icon-missing-folders", fmt.Sprint(len(missing)), strings.Join(clipList(missing), ", ")))
	}
	for _, problem := range theme.Problems {
		piece.Notes = append(piece.Notes, note("icon-index-problem", problem))
	}
	if _, err := p.Stat(path.Join(root, "cursors")); err == nil {
		piece.Parts = append(piece.Parts, "cursors")
	}
	return p.finish(piece), nil, true
}

// unwrapIndex leaves the part of an index error that is news to a person.
func unwrapIndex(err error) error {
	var se *keyfile.SyntaxError
	if errors.As(err, &se) {
		return say.Errorf("index.theme, %w", se)
	}
	return err
}

// indexless names the folders that look like icon packs but are not described.
func (p *Parcel) indexless(described []string) []Note {
	var notes []Note
	noted, told := map[string]bool{}, map[string]bool{}
	for _, d := range described {
		told[d] = true
	}
	below := func(root string) bool { // or what is described itself
		for ; !told[root]; root = path.Dir(root) {
			if root == "." {
				return false
			}
		}
		return true
	}
	for _, n := range p.catalogue().folders {
		root := path.Dir(n.Name)
		if noted[root] || len(notes) >= maxNotes || !sizeFolder.MatchString(path.Base(n.Name)) || below(root) {
			continue
		}
		if slices.ContainsFunc(n.Children, holdsIcons) {
			noted[root] = true
			notes = append(notes, note("icon-no-index", showRoot(root)))
		}
	}
	slices.SortFunc(notes, func(a, b Note) int { return strings.Compare(a.Text, b.Text) })
	return notes
}

func holdsIcons(n *archive.Node) bool {
	return n.Mode.IsDir() && slices.ContainsFunc(n.Children, func(f *archive.Node) bool {
		_, ok := icontheme.IconName(path.Base(f.Name))
		return ok
	})
}

var sizeFolder = regexp.MustCompile(`^(\d+(x\d+)?(@\d+x?)?|scalable|symbolic)$`)
