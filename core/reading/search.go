package reading

import (
	"io/fs"
	"path"
	"slices"

	"ivelt/core/desk"
)

// Place is a folder in which a name was looked for.
type Place struct {
	Path  string
	State PlaceState
	Found string // what is there of that name, as a path of the desk
}

// PlaceState is what a folder has of a name.
type PlaceState string

const (
	FoundHere   PlaceState = "found"
	ShadowHere  PlaceState = "shadowed"    // one of that name is found before
	PartMissing PlaceState = "part"        // it is there, and has nothing for the surface
	Empty       PlaceState = "empty"       // there is none of that name
	NoFolder    PlaceState = "no-folder"   // the folder is not there
	NotGranted  PlaceState = "not-granted" // the program may not look there
)

// Search lists the folders in which a surface looks for the piece of a name, in
// order, with what is there; nil if it looks for none.
func Search(d *desk.Desk, l desk.Lookup, name string) []Place {
	if l.Kind == "" || l.Kind == "picture" || name == "" || slices.Contains(l.BuiltIn, name) {
		return nil
	}
	found, _ := Find(d, l, name)
	var out []Place
	for _, base := range d.Folders(l.Folders) {
		p := Place{Path: desk.Path(base), State: Empty}
		at := path.Join(base, name)
		one := l
		one.Folders, one.Grants = []string{desk.Path(base)}, nil
		here, err := find(d, one, name)
		switch {
		case l.Kind == "font":
			if found != "" && isBelow(found, p.Path) {
				p.State, p.Found = FoundHere, found
			}
		case l.Grants != nil && !granted(d, l, base):
			p.State = NotGranted
			if isDir(d, at) {
				p.Found = desk.Path(at)
			}
		case err == nil && here == found:
			p.State, p.Found = FoundHere, here
		case err == nil:
			p.State, p.Found = ShadowHere, here
		case isDir(d, at):
			p.State, p.Found = PartMissing, desk.Path(at)
		}
		if _, err := fs.Stat(d.Tree(), base); err != nil && p.State == Empty {
			p.State = NoFolder
		}
		out = append(out, p)
	}
	return out
}

func isBelow(p, dir string) bool {
	return len(p) > len(dir) && p[:len(dir)] == dir && p[len(dir)] == '/'
}
