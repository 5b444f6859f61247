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

// Program is an application.
type Program struct {
	ID         string // the desktop file ID, without ".desktop"
	Name       string
	Generic    string // what kind of program it is, "Text editor"
	Comment    string
	Icon       string // a name for the icon lookup, or an absolute path
	Categories []string
	Keywords   []string
	Kinds      []string // of file that it opens, "text/plain"
	Class      string   // of its windows
	Command    string   // the program that is started
	Quiet      bool     // no menu shows it
	Path       string   // of the file, as io/fs wants it
}

const group = "Desktop Entry"

// Parse reads one desktop entry. ok is false for entries that are not shown:
// other types, hidden ones, and files that are no key file.
func Parse(id string, b []byte) (p Program, ok bool) {
	p, ok = parse(id, b)
	if ok && p.Quiet {
		return Program{ID: id}, false
	}
	return p, ok
}

func parse(id string, b []byte) (p Program, ok bool) {
	kf, err := keyfile.Parse(b)
	if err != nil || kf.Get(group, "Type") != "Application" || kf.Get(group, "Name") == "" {
		return Program{}, false
	}
	if kf.Get(group, "Hidden") == "true" {
		return Program{ID: id}, false
	}
	p = Program{
		ID: id, Name: kf.Get(group, "Name"), Generic: kf.Get(group, "GenericName"), Comment: kf.Get(group, "Comment"),
		Icon: kf.Get(group, "Icon"), Categories: kf.List(group, "Categories", ';'), Keywords: kf.List(group, "Keywords", ';'), Kinds: kf.List(group, "MimeType", ';'),
		Class: kf.Get(group, "StartupWMClass"), Quiet: kf.Get(group, "NoDisplay") == "true",
	}
	if exec, has := kf.Lookup(group, "Exec"); has {
		if args := Args(keyfile.Unescape(exec.Value)); len(args) > 0 {
			p.Command = args[0]
		}
	}
	return p, true
}

// IconName is the name that an icon of an entry is looked up by: GLib takes the ending of a picture
// off what is no path (GLib 2.74, gdesktopappinfo.c, and checked against it). file is true for the
// path of a file, which is shown whatever pack is chosen.
func (p Program) IconName() (name string, file bool) {
	if path.IsAbs(p.Icon) {
		return p.Icon, true
	}
	for _, ending := range []string{".png", ".xpm", ".svg"} {
		if name, ok := strings.CutSuffix(p.Icon, ending); ok {
			return name, false
		}
	}
	return p.Icon, false
}

// List returns the programs in the applications folders, by name. An entry in
// an earlier folder hides those with the same ID in later ones, also if it is
// itself not shown.
func List(fsys fs.FS, dirs []string) []Program {
	return slices.DeleteFunc(All(fsys, dirs), func(p Program) bool { return p.Quiet })
}

// All is [List] with the programs that menus do not show.
func All(fsys fs.FS, dirs []string) []Program {
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
			if p, ok := parse(id, b); ok {
				p.Path = name
				out = append(out, p)
			}
			return nil
		})
	}
	slices.SortFunc(out, func(a, b Program) int { return strings.Compare(strings.ToLower(a.Name), strings.ToLower(b.Name)) })
	return out
}
