// Package fontbook finds faces among the font files of a desk.
package fontbook

import (
	"cmp"
	"io/fs"
	"path"
	"slices"
	"strings"
	"sync"

	"ivelt/core/desk"
	"ivelt/core/fontfile"
)

// Book is what the font folders of a desk hold.
type Book struct{ faces []Face }

// Face is a face in a font file of the desk's tree.
type Face struct {
	fontfile.Face
	File  string // in the desk's tree
	Index int    // in the file
}

// Bounds of how many files are looked into, and of each, in bytes.
const (
	mostFonts     = 400
	mostFontBytes = 40 << 20
)

var books sync.Map // by what the folders hold: *Book

// Of returns the fonts in folders, which may have the place names of
// [desk.Desk.Expand]. They are read anew only if a folder has changed.
func Of(d *desk.Desk, folders []string) *Book {
	var files []string
	var key strings.Builder
	key.WriteString(d.ID + d.HostPath("/") + d.HostPath(d.HomePath))
	for _, base := range d.Folders(folders) {
		_ = fs.WalkDir(d.Tree(), base, func(name string, e fs.DirEntry, err error) error {
			if err != nil || len(files) >= mostFonts {
				return nil // what cannot be read is not there
			}
			switch strings.ToLower(path.Ext(name)) {
			case ".ttf", ".otf", ".ttc", ".otc":
				if info, err := e.Info(); err == nil && !e.IsDir() && info.Size() < mostFontBytes {
					files = append(files, name)
					key.WriteString("\x00" + name + info.ModTime().String())
				}
			}
			return nil
		})
	}
	if b, ok := books.Load(key.String()); ok {
		return b.(*Book)
	}
	b := &Book{}
	for _, name := range files {
		data, err := fs.ReadFile(d.Tree(), name)
		if err != nil {
			continue
		}
		faces, err := fontfile.Parse(data)
		if err != nil {
			continue
		}
		for i, f := range faces {
			b.faces = append(b.faces, Face{f, name, i})
		}
	}
	books.Store(key.String(), b)
	return b
}

// Folders are the folders in which some surface of the desk looks for fonts.
func Folders(d *desk.Desk) []string {
	var out []string
	for _, s := range d.Surfaces {
		folders, sealed := s.Look("font")
		if sealed {
			continue
		}
		for _, f := range folders {
			if !slices.Contains(out, f) {
				out = append(out, f)
			}
		}
	}
	return out
}

// Find returns the face of a family that comes nearest to a weight (CSS's, 1 to
// 1000) and a slant.
func (b *Book) Find(family string, weight float64, italic bool) (Face, bool) {
	var best *Face
	worst := 0.0
	for i := range b.faces {
		f := &b.faces[i]
		if !slices.ContainsFunc(f.Families, func(s string) bool { return strings.EqualFold(s, family) }) {
			continue
		}
		off := max(float64(f.Weight)-weight, weight-float64(f.Weight))
		if (f.Italic || f.Oblique) != italic {
			off += 1000
		}
		if best == nil || off < worst {
			best, worst = f, off
		}
	}
	if best == nil {
		return Face{}, false
	}
	return *best, true
}

// sans are the families that fontconfig likes best for plain text, in order
// (its 60-latin.conf, from memory).
var sans = []string{"Noto Sans", "DejaVu Sans", "Verdana", "Arial", "Liberation Sans", "Helvetica"}

// Any returns a face for text whose family is not there: of a usual family, else
// of the first there is.
func (b *Book) Any(weight float64, italic bool) (Face, bool) {
	for _, family := range sans {
		if f, ok := b.Find(family, weight, italic); ok {
			return f, true
		}
	}
	if all := b.Families(); len(all) > 0 {
		return b.Find(all[0].Family(), weight, italic)
	}
	return Face{}, false
}

// Families lists the families, by name, each with its plainest face.
func (b *Book) Families() []Face {
	var out []Face
	for _, f := range b.faces {
		if plain, ok := b.Find(f.Family(), 400, false); ok && !slices.ContainsFunc(out, func(o Face) bool { return strings.EqualFold(o.Family(), f.Family()) }) {
			out = append(out, plain)
		}
	}
	slices.SortFunc(out, func(a, b Face) int { return cmp.Compare(strings.ToLower(a.Family()), strings.ToLower(b.Family())) })
	return out
}

// Styles is how many faces a family has.
func (b *Book) Styles(family string) int {
	n := 0
	for _, f := range b.faces {
		if strings.EqualFold(f.Family(), family) {
			n++
		}
	}
	return n
}

// styleWords end a font setting between the family and the size (Pango,
// pango_font_description_from_string).
var styleWords = []string{
	"thin", "ultra-light", "extra-light", "light", "semi-light", "book", "regular", "normal", "medium", "semi-bold", "demi-bold", "bold",
	"ultra-bold", "extra-bold", "heavy", "black", "roman", "oblique", "italic", "condensed", "semi-condensed", "expanded",
}

// Setting finds what a font setting names, "Estuary Sans Bold 10.5": a family
// that is there, with the style words and the size that follow it.
func (b *Book) Setting(value string) (Face, bool) {
	family, _ := desk.SplitFont(value)
	weight, italic := 400.0, false
	for {
		if f, ok := b.Find(family, weight, italic); ok {
			return f, true
		}
		at := strings.LastIndexByte(family, ' ')
		if at < 0 || !slices.Contains(styleWords, strings.ToLower(family[at+1:])) {
			return Face{}, false
		}
		switch word := strings.ToLower(family[at+1:]); word {
		case "italic", "oblique":
			italic = true
		case "bold", "heavy", "black", "semi-bold", "demi-bold", "ultra-bold", "extra-bold":
			weight = 700
		case "light", "thin", "ultra-light", "extra-light":
			weight = 300
		}
		family = strings.TrimRight(family[:at], " ,")
	}
}
