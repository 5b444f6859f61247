// Package typebench looks closely at fonts: what letters they have, how wide and how tall these
// are, which are taken for one another, which styles are drawn and which are made up; and at what a
// desk makes of them: in which roles they stand beside each other, how many pixels each toolkit
// gives them, and what would make them sit alike.
package typebench

import (
	"cmp"
	"errors"
	"fmt"
	"io/fs"
	"math"
	"slices"
	"strings"

	"ivelt/core/cache"
	"ivelt/core/desk"
	"ivelt/core/fontbook"
	"ivelt/core/fontfile"
	"ivelt/core/say"
	"ivelt/core/specimen"
)

// Bounds of what is read.
const (
	maxFile  = 40 << 20 // bytes of a font file
	maxFaces = 200      // of a family
)

// ErrNone: there is no font that can be read.
var ErrNone = errors.New("there is no font in it that can be read")

// Face is a face of a family, in a file of some file system.
type Face struct {
	fontfile.Face
	File  string
	Index int // in the file
}

// Family is a family of faces, with what its letters are read from.
type Family struct {
	Name  string
	Faces []Face
	load  func(Face) (*specimen.Font, error)
}

// Of is the family of a name as surfaces of a desk find it; false if no font folder of the desk has
// it.
func Of(d *desk.Desk, book *fontbook.Book, name string) (Family, bool) {
	out := Family{Name: name, load: func(f Face) (*specimen.Font, error) { return loaded(d, f) }}
	for _, f := range book.Faces(name) {
		out.Faces = append(out.Faces, Face{f.Face, f.File, f.Index})
		out.Name = f.Family()
		if len(out.Faces) == maxFaces {
			break
		}
	}
	return out, len(out.Faces) > 0
}

// In are the families of font files of a file system, by name, and the files that are no fonts,
// each with why.
func In(fsys fs.FS, files []string) (out []Family, wrong []error) {
	load := func(f Face) (*specimen.Font, error) {
		raw, err := read(fsys, f.File)
		if err != nil {
			return nil, err
		}
		return specimen.Load(raw, f.Index)
	}
	for _, file := range files {
		raw, err := read(fsys, file)
		if err != nil {
			wrong = append(wrong, err)
			continue
		}
		faces, err := fontfile.Parse(raw)
		if err != nil {
			wrong = append(wrong, say.Errorf("%s: %w", file, err))
			continue
		}
		for index, face := range faces {
			i := slices.IndexFunc(out, func(f Family) bool { return strings.EqualFold(f.Name, face.Family()) })
			if i < 0 {
				i = len(out)
				out = append(out, Family{Name: face.Family(), load: load})
			}
			if len(out[i].Faces) < maxFaces {
				out[i].Faces = append(out[i].Faces, Face{face, file, index})
			}
		}
	}
	slices.SortFunc(out, func(a, b Family) int { return cmp.Compare(strings.ToLower(a.Name), strings.ToLower(b.Name)) })
	return out, wrong
}

func read(fsys fs.FS, file string) ([]byte, error) {
	info, err := fs.Stat(fsys, file)
	if err != nil {
		return nil, err
	}
	if !info.Mode().IsRegular() || info.Size() > maxFile {
		return nil, say.Errorf("%s is no file that is read as a font, or larger than %d MB", file, maxFile>>20)
	}
	return fs.ReadFile(fsys, file)
}

// ofFont is the key of a face that was loaded.
type ofFont struct {
	where, file, stamp string
	index              int
}

// loaded is a face of a desk, kept while there is room for it.
func loaded(d *desk.Desk, f Face) (*specimen.Font, error) {
	info, err := fs.Stat(d.Tree(), f.File)
	if err != nil {
		return nil, err
	}
	type result struct {
		font *specimen.Font
		err  error
	}
	key := ofFont{d.Where(), f.File, fmt.Sprint(info.Size(), info.ModTime().UnixNano()), f.Index}
	r := cache.Of(d.Cache, key, cache.Always[result], func() cache.Made[result] {
		raw, err := read(d.Tree(), f.File)
		if err != nil {
			return cache.Made[result]{Value: result{err: err}, Bytes: 200}
		}
		font, err := specimen.Load(raw, f.Index)
		return cache.Made[result]{Value: result{font, err}, Bytes: 3 * len(raw)}
	})
	return r.font, r.err
}

// Load reads a face's letters.
func (f *Family) Load(face Face) (*specimen.Font, error) { return f.load(face) }

// Plain is the face that stands for the family: the one nearest to a regular, upright one of usual
// width.
func (f *Family) Plain() Face { return f.Nearest(400, false) }

// Nearest is the face nearest to a weight (1 to 1000) and a slant.
func (f *Family) Nearest(weight float64, italic bool) Face {
	off := func(face Face) float64 {
		out := math.Abs(float64(face.Weight)-weight) + 1000*math.Abs(float64(face.Width)-5)
		if (face.Italic || face.Oblique) != italic {
			out += 300
		}
		return out
	}
	return slices.MinFunc(f.Faces, func(a, b Face) int { return cmp.Compare(off(a), off(b)) })
}

// boldFrom is the weight from which on a face is taken for bold: halfway between regular and bold
// (OpenType 1.9, usWeightClass).
const boldFrom = 600

// has reports whether there is a face of a kind, or one that can be any weight.
func (f *Family) has(bold, italic bool) bool {
	return slices.ContainsFunc(f.Faces, func(face Face) bool {
		return (face.Weight >= boldFrom == bold || face.Variable) && (face.Italic || face.Oblique) == italic
	})
}
