package parcel

import (
	"fmt"
	"io"
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/core/archive"
	"ivelt/core/xcursor"
)

// pointers finds pointer sets: folders with a folder cursors that holds
// Xcursor files, described or not, also inside an icon pack.
func (p *Parcel) pointers() []Piece {
	var out []Piece
	for _, n := range p.catalogue().folders {
		if path.Base(n.Name) != "cursors" {
			continue
		}
		if shapes, first := p.shapesIn(n); shapes > 0 {
			out = append(out, p.pointerSet(n.Name, shapes, first))
		}
	}
	return out
}

// shapesIn counts the Xcursor files of a folder, and names one of them: the arrow, if it is
// there.
func (p *Parcel) shapesIn(folder *archive.Node) (shapes int, first string) {
	for _, c := range folder.Children {
		if c.Mode.IsDir() || !p.startsWith(c, xcursor.IsXcursor) {
			continue
		}
		shapes++
		if name := path.Base(c.Name); first == "" || name == "left_ptr" || name == "default" {
			first = c.Name
		}
	}
	return shapes, first
}

// pointerSet is the set whose shapes lie in a folder.
func (p *Parcel) pointerSet(folder string, shapes int, first string) Piece {
	root := path.Dir(folder)
	pc := p.piece(Pointer, root)
	pc.Shapes = shapes
	if b, err := fs.ReadFile(p, first); err == nil {
		if f, err := xcursor.Parse(b); err == nil {
			pc.Sizes = f.Sizes()
			slices.Sort(pc.Sizes)
		} else {
			pc.Notes = append(pc.Notes, note("pointer-damaged", path.Base(first), err))
		}
	}
	if kf := p.index(root); kf != nil {
		if name := kf.Get("Icon Theme", "Name"); name != "" {
			pc.Name = name
		}
		pc.Inherits = append(pc.Inherits, kf.List("Icon Theme", "Inherits", ',')...)
	} else if _, err := p.Stat(path.Join(root, "cursor.theme")); err != nil {
		pc.Notes = append(pc.Notes, note("pointer-no-index"))
	}
	if missing := p.shapesMissing(folder); len(missing) > 0 {
		pc.Notes = append(pc.Notes, note("pointer-shapes-missing", fmt.Sprint(len(missing)), strings.Join(clipList(missing), ", ")))
	}
	return p.finish(pc)
}

// shapesMissing are the shapes every program uses that a folder has under none of their names.
func (p *Parcel) shapesMissing(folder string) (missing []string) {
	there := func(name string) bool { _, err := p.Stat(path.Join(folder, name)); return err == nil }
	for _, names := range xcursor.Needed {
		if !slices.ContainsFunc(names, there) {
			missing = append(missing, names[0])
		}
	}
	return missing
}

// startsWith reads the first bytes of a file, links followed.
func (p *Parcel) startsWith(n *archive.Node, is func(head []byte) bool) bool {
	n, err := p.Follow("open", n.Name)
	if err != nil || n.Mode.IsDir() {
		return false
	}
	r, err := p.reader(n)
	if err != nil {
		return false
	}
	defer r.Close()
	var head [16]byte
	k, _ := io.ReadFull(r, head[:])
	return is(head[:k])
}

// vendorPointers finds the pointers of the vendor-locked family: a folder of
// .cur and .ani files.
func (p *Parcel) vendorPointers() []Piece {
	folders := map[string]int{}
	for _, name := range p.with([]string{".cur", ".ani"}, nil) {
		folders[path.Dir(name)]++
	}
	var out []Piece
	for _, root := range first(folders) {
		n := folders[root]
		pc := p.piece(Pointer, root)
		pc.Shapes, pc.Parts = n, []string{"cur"}
		pc.Notes = append(pc.Notes, note("pointer-other-family"))
		out = append(out, p.finish(pc))
	}
	return out
}
