package reading

import (
	"io/fs"
	"path"
	"slices"

	"ivelt/core/desk"
)

// maxInside bounds how many files of a folder of pictures are listed.
const maxInside = 50

// Choices lists what a surface could be told for a facet so that it finds it: the
// names of pieces and of what is described in files, sorted, and the paths of the
// pictures in the folders it looks in. What it takes otherwise is not listed.
func Choices(d *desk.Desk, s desk.Surface, f desk.Facet) []string {
	d = d.Snapshot()
	l := f.Lookup
	var out []string
	take := func(name string) {
		if _, err := Find(d, l, name); err == nil && !slices.Contains(out, name) {
			out = append(out, name)
		}
	}
	switch l.Kind {
	case "palette", "named-file":
		return slices.DeleteFunc(Named(d, l), func(name string) bool { return name == "" })
	case "theme", "icon-theme", "pointer", "login":
		for _, base := range bases(d, l) {
			entries, _ := fs.ReadDir(d.Tree(), base)
			for _, e := range entries {
				take(e.Name())
			}
		}
		for _, name := range l.BuiltIn {
			if name != "" {
				take(name)
			}
		}
	case "picture":
		folders := l.Folders
		if folders == nil {
			folders, _ = s.Look("backdrop")
		}
		for _, base := range d.Folders(folders) {
			entries, _ := fs.ReadDir(d.Tree(), base)
			for _, e := range entries {
				at := path.Join(base, e.Name())
				if !e.IsDir() || l.Slides {
					take(desk.Path(at))
					continue
				}
				inside, _ := fs.ReadDir(d.Tree(), at) // where a set of pictures is put
				for _, e := range inside[:min(maxInside, len(inside))] {
					if !e.IsDir() {
						take(desk.Path(path.Join(at, e.Name())))
					}
				}
			}
		}
	}
	slices.Sort(out)
	return out
}
