// Package desktopentry reads the programs installed on a desk, after the
// Desktop Entry Specification 1.5 and, for which file counts, the Base
// Directory Specification.
package desktopentry

import (
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/core/keyfile"
)

// Program is an application that menus show.
type Program struct {
	ID         string // the desktop file ID, without ".desktop"
	Name       string
	Comment    string
	Icon       string // a name for the icon lookup, or an absolute path
	Categories []string
	Path       string // of the file, as io/fs wants it
}

const group = "Desktop Entry"

// Parse reads one desktop entry. ok is false for entries that are not shown:
// other types, hidden ones, and files that are no key file.
func Parse(id string, b []byte) (p Program, ok bool) {
	kf, err := keyfile.Parse(b)
	if err != nil || kf.Get(group, "Type") != "Application" || kf.Get(group, "Name") == "" {
		return Program{}, false
	}
	if kf.Get(group, "NoDisplay") == "true" || kf.Get(group, "Hidden") == "true" {
		return Program{ID: id}, false
	}
	return Program{
		ID: id, Name: kf.Get(group, "Name"), Comment: kf.Get(group, "Comment"),
		Icon: kf.Get(group, "Icon"), Categories: kf.List(group, "Categories", ';'),
	}, true
}

// List returns the programs in the applications folders, by name. An entry in
// an earlier folder hides those with the same ID in later ones, also if it is
// itself not shown.
func List(fsys fs.FS, dirs []string) []Program {
	var out []Program
	seen := map[string]bool{}
	for _, dir := range dirs {
		_ = fs.WalkDir(fsys, dir, func(name string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || path.Ext(name) != ".desktop" {
				return nil // an unreadable folder has no programs
			}
			id := strings.ReplaceAll(strings.TrimSuffix(strings.TrimPrefix(name, dir+"/"), ".desktop"), "/", "-")
			if seen[id] {
				return nil
			}
			seen[id] = true
			b, err := fs.ReadFile(fsys, name)
			if err != nil {
				return nil
			}
			if p, ok := Parse(id, b); ok {
				p.Path = name
				out = append(out, p)
			}
			return nil
		})
	}
	slices.SortFunc(out, func(a, b Program) int { return strings.Compare(strings.ToLower(a.Name), strings.ToLower(b.Name)) })
	return out
}
