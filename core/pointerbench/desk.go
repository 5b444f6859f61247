package pointerbench

import (
	"io/fs"
	"path"
	"slices"
	"strconv"

	"ivelt/core/desk"
	"ivelt/core/keyfile"
	"ivelt/core/reading"
)

// maxAsked is the largest size that is asked for, px.
const maxAsked = 512

// usualSize is the size that a surface asks for that is told none, px (Xcursor(3)).
const usualSize = 24

// SizesIn are the sizes of pointers that the surfaces of a desk ask for, px of the screen, each once: at
// the display scale of those that have one.
func SizesIn(d *desk.Desk) []int {
	var out []int
	for _, s := range d.Surfaces() {
		f, ok := s.Facet(desk.FacetPointerSize)
		if !ok {
			continue
		}
		n, err := strconv.Atoi(reading.Of(d, s, f).Value)
		if err != nil || n < 1 || n > maxAsked {
			n = usualSize
		}
		if f, ok := s.Facet(desk.FacetDisplayScale); ok {
			if scale, err := strconv.Atoi(reading.Of(d, s, f).Value); err == nil && scale > 100 {
				n = min(n*scale/100, maxAsked)
			}
		}
		out = append(out, n)
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// maxChain bounds how many sets are inherited.
const maxChain = 20

// Chain are the sets that a set at a name of a file system inherits, in the order in which programs
// look in them: the first that it names with all that this one inherits, and so on (libXcursor,
// library.c, from memory). bases are the folders in which sets are looked for.
func Chain(fsys fs.FS, root string, bases []string) []string {
	var out []string
	seen := map[string]bool{root: true}
	var add func(at string)
	add = func(at string) {
		for _, name := range inherits(fsys, at) {
			for _, base := range bases {
				next := path.Join(base, name)
				if info, err := fs.Stat(fsys, path.Join(next, "cursors")); err != nil || !info.IsDir() || seen[next] || len(out) >= maxChain {
					continue
				}
				seen[next] = true
				out = append(out, next)
				add(next)
			}
		}
	}
	add(root)
	return out
}

// inherits are the names that a set's description has, of a file that is not too large.
func inherits(fsys fs.FS, root string) []string {
	at := path.Join(root, "index.theme")
	info, err := fs.Stat(fsys, at)
	if err != nil || !info.Mode().IsRegular() || info.Size() > 1<<20 {
		return nil
	}
	b, err := fs.ReadFile(fsys, at)
	if err != nil {
		return nil
	}
	kf, err := keyfile.Parse(b)
	if err != nil {
		return nil
	}
	return slices.DeleteFunc(kf.List("Icon Theme", "Inherits", ','), func(name string) bool { return path.Base(name) != name || name == ".." })
}

// Bases are the folders of a desk in which some surface looks for pointers.
func Bases(d *desk.Desk) (out []string) {
	for _, s := range d.Surfaces() {
		if f, ok := s.Facet(desk.FacetPointer); ok {
			for _, base := range d.Folders(f.Lookup.Everywhere()) {
				if !slices.Contains(out, base) {
					out = append(out, base)
				}
			}
		}
	}
	return out
}
