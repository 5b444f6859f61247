package parcel

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io"
	"io/fs"
	"path"
	"regexp"
	"slices"
	"strings"

	"ivelt/core/archive"
	"ivelt/core/pointerset"
	"ivelt/core/shown"
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
		if from, ok := p.converted[path.Dir(n.Name)]; ok { // it is not made to be looked at
			out = append(out, p.finish(from.piece(p.piece(Pointer, path.Dir(n.Name)))))
		} else if shapes, first := p.shapesIn(n); shapes > 0 {
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

// converted is a set of the other family that a parcel shows as what it becomes for X.
type converted struct {
	*pointerset.Set
	pointerset.Origin
	from string // the folder of its files
}

// maxConverted bounds how many sets of a parcel are looked at.
const maxConverted = 30

// convert lays beside each set of the other family, a folder of .cur and .ani files, what it
// becomes for X: a folder that is put in place like any other set. One that cannot be converted
// is left alone.
func (p *Parcel) convert(ctx context.Context) error {
	var folders []string
	count := map[string]int{}
	for n := range p.All() {
		if folder := path.Dir(n.Name); n.Mode.IsRegular() && pointerset.IsFile(n.Name) && !p.isOriginal(folder) {
			if count[folder]++; count[folder] == 1 {
				folders = append(folders, folder)
			}
		}
	}
	slices.Sort(folders)
	budget := pointerset.SmallBudget()
	for _, folder := range folders[:min(len(folders), maxConverted)] {
		set, err := budget.Convert(ctx, p, folder, pointerset.Options{})
		if ctx.Err() != nil {
			return ctx.Err()
		}
		if err != nil {
			if p.refused == nil {
				p.refused = map[string]error{}
			}
			p.refused[folder] = err
			continue
		}
		if err := p.show(folder, set); err != nil {
			return err
		}
	}
	return nil
}

// isOriginal reports whether a folder has what the set around it was made from.
func (p *Parcel) isOriginal(folder string) bool {
	return path.Base(folder) == pointerset.Original && p.At(path.Join(path.Dir(folder), pointerset.RecipeFile)) != nil
}

// show lays in what a set becomes.
func (p *Parcel) show(folder string, set *pointerset.Set) error {
	at := path.Join(folder, "Xcursor")
	for n := 2; p.At(at) != nil; n++ {
		at = path.Join(folder, fmt.Sprintf("Xcursor-%d", n))
	}
	c := converted{set, pointerset.Origin{Name: shown.Line(p.setName(folder)), Version: shown.Line(p.version())}, folder}
	c.Folder = plainFolder(c.Name)
	look := &Parcel{Tree: p.Tree, licences: map[string]string{}, texts: map[string]string{}}
	c.Licence = shown.Line(look.licence(folder))
	entries, err := set.Entries(c.Name)
	if err != nil {
		return err
	}
	recipe := c.Recipe(nil, nil)
	files := []archive.Made{{Name: pointerset.RecipeFile, Size: int64(len(recipe)), Make: func() ([]byte, error) { return recipe, nil }}}
	for _, e := range entries {
		m := archive.Made{Name: e.Name, Link: e.Link, Size: e.Size, Make: e.Make}
		if e.Copy != "" {
			info, err := p.Stat(e.Copy)
			if err != nil {
				return err
			}
			m.Size, m.Make = info.Size(), func() ([]byte, error) { return fs.ReadFile(p, e.Copy) }
		}
		files = append(files, m)
	}
	if p.converted == nil {
		p.converted = map[string]converted{}
	}
	p.converted[at] = c
	return p.Show(at, files)
}

// What the folder of a set is called that is told apart by that alone, so that the set has the name
// of the one around it; and what stands behind a name: common practice, no source.
var (
	plainName = regexp.MustCompile(`(?i)^(cursors?|pointers?|cur|ani|win(dows)?|files)$`)
	kindWord  = regexp.MustCompile(`(?i)[ _-]+(cursors?|pointers?)([ _-]?set)?$`)
	sizeName  = regexp.MustCompile(`(?i)^(\d+( ?px)?|small|medium|regular|large|extra[ -]?large)$`)
)

// setName is what people call the set in a folder.
func (p *Parcel) setName(folder string) string {
	base := path.Base(folder)
	switch {
	case folder == ".":
		name := p.stem()
		if pointerset.IsFile(name) { // a pointer that came alone
			name = strings.TrimSuffix(name, path.Ext(name))
		}
		return kindWord.ReplaceAllString(name, "")
	case plainName.MatchString(base):
		return p.setName(path.Dir(folder))
	case sizeName.MatchString(base):
		return p.setName(path.Dir(folder)) + " " + base
	}
	return kindWord.ReplaceAllString(base, "")
}

var unplain = regexp.MustCompile(`[^A-Za-z0-9._+-]+`)

// plainFolder is a name for a folder that every program can be told.
func plainFolder(name string) string {
	out := strings.Trim(unplain.ReplaceAllString(name, "-"), "-._+")
	if len(out) > 60 {
		out = out[:60]
	}
	if out == "" {
		sum := sha256.Sum256([]byte(name))
		return "Pointers-" + hex.EncodeToString(sum[:3])
	}
	return out
}

// vendorPointers finds the pointers of the other family that cannot be converted.
func (p *Parcel) vendorPointers() []Piece {
	folders := map[string]int{}
	for _, name := range p.with([]string{".cur", ".ani"}, nil) {
		if folder := path.Dir(name); p.refused[folder] != nil {
			folders[folder]++
		}
	}
	var out []Piece
	for _, root := range first(folders) {
		pc := p.piece(Pointer, root)
		pc.Shapes, pc.Parts = folders[root], []string{"cur"}
		pc.Notes = append(pc.Notes, note("pointer-other-family", p.refused[root]))
		out = append(out, p.finish(pc))
	}
	return out
}

// piece is what becomes of a set that is converted.
func (c converted) piece(pc Piece) Piece {
	pc.Name, pc.Folder, pc.Version, pc.Licence = c.Name, c.Folder, c.Version, c.Licence
	pc.Parts = []string{"cur", "xcursor"}
	pc.Shapes = len(c.Pointers)
	for _, of := range c.Pointers {
		pc.Sizes = append(pc.Sizes, of.Making()...)
	}
	slices.Sort(pc.Sizes)
	pc.Sizes = slices.Compact(pc.Sizes)
	pc.Notes = append(pc.Notes, note("pointer-converted", fmt.Sprint(len(c.Pointers))))
	for _, lost := range c.Lost {
		pc.Notes = append(pc.Notes, note("pointer-loses", lost))
	}
	if len(c.Left) > 0 {
		pc.Notes = append(pc.Notes, note("pointer-left-out", fmt.Sprint(len(c.Left)), c.Left[0].File, c.Left[0].Why))
	}
	return pc
}

// Sources is where a pointer set of a parcel can be converted from: the folder of its .cur and
// .ani files, "" if there are none, and the one that has its folder "cursors"; with what is known
// of it.
func (p *Parcel) Sources(pc Piece) (cur, x string, of pointerset.Origin) {
	of = pointerset.Origin{Name: pc.Name, Folder: pc.Folder, Version: pc.Version, Licence: pc.Licence}
	original := path.Join(pc.Root, pointerset.Original)
	switch c, ok := p.converted[pc.Root]; {
	case pc.Kind != Pointer:
		return "", "", of
	case ok:
		return c.from, pc.Root, of
	case slices.Equal(pc.Parts, []string{"cur"}):
		return pc.Root, "", of
	case p.isOriginal(original) && p.Folders[original] != nil:
		return original, pc.Root, of
	}
	return "", pc.Root, of
}
