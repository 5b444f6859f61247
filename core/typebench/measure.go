package typebench

import (
	"image"
	"math"
	"slices"
	"strings"

	"golang.org/x/image/vector"

	"ivelt/core/fontconf"
	"ivelt/core/say"
	"ivelt/core/specimen"
	"ivelt/core/typeset"
)

// Measures are what is measured of a family, in its plain face. Lengths are parts of the size.
type Measures struct {
	Family  string  `json:"family"`
	Style   string  `json:"style"`
	File    string  `json:"file"`
	XHeight float64 `json:"x-height"` // of an x over the base line
	Capital float64 `json:"capital"`  // and of an H
	Ascent  float64 `json:"ascent"`
	Descent float64 `json:"descent"`
	Wide    float64 `json:"wide"` // what letters are wide on average, as they stand in English
	// Fixed: it says that all letters are equally wide. Uneven are those that are not as wide as
	// most.
	Fixed  bool     `json:"fixed"`
	Uneven []Letter `json:"uneven,omitempty"`
	// Alike are pairs of letters that look the same.
	Alike      []Pair     `json:"alike,omitempty"`
	Lacks      []Lack     `json:"lacks,omitempty"` // by language
	Languages  int        `json:"languages"`       // that it has all letters of
	Bold       bool       `json:"bold"`            // drawn, and not made up by programs
	Italic     bool       `json:"italic"`
	BoldItalic bool       `json:"bold-italic"`
	Faces      int        `json:"faces"`
	Instructed bool       `json:"instructed"` // it has instructions for fitting letters to the pixels
	Embedding  Permission `json:"embedding"`
	Licence    string     `json:"licence,omitempty"` // how what the file says of it begins
}

// Letter is a letter with how wide it is.
type Letter struct {
	Letter string  `json:"letter"`
	Wide   float64 `json:"wide"`
}

// Pair are two letters, and which part of what both cover they cover together.
type Pair struct {
	A    string  `json:"a"`
	B    string  `json:"b"`
	Part float64 `json:"part"`
}

// Lack is what a family lacks for a language.
type Lack struct {
	Language string `json:"language"` // as fontconfig calls it
	Letters  string `json:"letters"`  // some of those
	Missing  int    `json:"missing"`
	Of       int    `json:"of"`
}

// Permission is what a font file says of being put into documents (OpenType 1.9, OS/2 fsType).
type Permission string

const (
	Free       Permission = "free"       // may be taken along and installed
	Editable   Permission = "editable"   // in documents that can be changed
	Preview    Permission = "preview"    // in documents that are read and printed
	Restricted Permission = "restricted" // not without the owner's leave
)

// permission reads fsType; of several bits the freest counts (as the specification has it for
// versions 0 to 2 of the table).
func permission(bits int) Permission {
	switch {
	case bits&0xe == 0:
		return Free
	case bits&8 != 0:
		return Editable
	case bits&4 != 0:
		return Preview
	}
	return Restricted
}

// likely are how often letters stand in English text, per thousand letters and blanks (common
// practice, no source; from memory).
var likely = map[rune]float64{
	' ': 180, 'e': 104, 't': 74, 'a': 67, 'o': 62, 'i': 57, 'n': 57, 's': 52, 'h': 50, 'r': 49, 'd': 35, 'l': 33, 'u': 23, 'c': 23,
	'm': 20, 'w': 19, 'f': 18, 'g': 16, 'y': 16, 'p': 16, 'b': 12, 'v': 8, 'k': 6,
}

// mistaken are letters that are taken for one another, in groups.
var mistaken = [][]rune{[]rune("1lI|"), []rune("0O")}

// sameFrom is how much of what two letters cover they have in common from which on they look the
// same: measured on real fonts, see docs/bench.md.
const sameFrom = 0.85

// evenWithin is how far a letter's width may be off in a face of fixed width: what rounding to
// whole units makes, in parts of the size.
const evenWithin = 0.002

// Measure measures a family for languages, by their names as fontconfig has them.
func Measure(f *Family, languages []string) (*Measures, error) {
	face := f.Plain()
	font, err := f.load(face)
	if err != nil {
		return nil, say.Errorf("%s: %w", face.File, err)
	}
	set := font.Set
	m := &Measures{
		Family: face.Family(), Style: face.Style(), File: face.File, Fixed: face.Fixed, Faces: len(f.Faces),
		Bold: f.has(true, false), Italic: f.has(false, true), BoldItalic: f.has(true, true),
		Instructed: font.Hints(), Embedding: permission(face.Embedding), Licence: short(face.Licence),
	}
	if l, ok := set.Letter('x'); ok {
		m.XHeight = l.Top
	}
	if l, ok := set.Letter('H'); ok {
		m.Capital = l.Top
	}
	m.Ascent, m.Descent = set.Heights(1)
	parts := 0.0
	for r, part := range likely {
		if l, ok := set.Letter(r); ok {
			m.Wide, parts = m.Wide+part*l.Wide, parts+part
		}
	}
	m.Wide /= max(parts, 1)
	m.uneven(set)
	for _, group := range mistaken {
		for i, a := range group {
			for _, b := range group[i+1:] {
				if part := alike(font, a, b); part >= sameFrom {
					m.Alike = append(m.Alike, Pair{string(a), string(b), part})
				}
			}
		}
	}
	for _, language := range fontconf.Languages() {
		lack := lacks(set, language)
		switch {
		case lack.Missing == 0:
			m.Languages++
		case slices.Contains(languages, language):
			m.Lacks = append(m.Lacks, lack)
		}
	}
	return m, nil
}

// short is how a text begins: its first line, cut.
func short(text string) string {
	line, _, _ := strings.Cut(text, "\n")
	if runes := []rune(strings.TrimSpace(line)); len(runes) > maxLine {
		return string(runes[:maxLine]) + "…"
	}
	return strings.TrimSpace(line)
}

const maxLine = 120

// uneven finds the letters of ASCII and Latin-1 that are not as wide as most.
func (m *Measures) uneven(set *typeset.Face) {
	if !m.Fixed {
		return
	}
	counts := map[float64]int{}
	var letters []Letter
	for r := rune(' '); r <= 'ÿ'; r++ {
		if r > '~' && r < '¡' || r == '\u00ad' {
			continue
		}
		if l, ok := set.Letter(r); ok {
			wide := math.Round(l.Wide*1e4) / 1e4
			letters = append(letters, Letter{string(r), wide})
			counts[wide]++
		}
	}
	usual := 0.0
	for wide, n := range counts {
		if n > counts[usual] || n == counts[usual] && wide > usual {
			usual = wide
		}
	}
	for _, l := range letters {
		if math.Abs(l.Wide-usual) > evenWithin {
			m.Uneven = append(m.Uneven, l)
		}
	}
}

// maxNamed is how many letters are named of many.
const maxNamed = 12

// lacks are the letters of a language that a face has not.
func lacks(set *typeset.Face, language string) Lack {
	out := Lack{Language: language}
	named := 0
	for _, r := range fontconf.Letters(language) {
		out.Of++
		if set.Has(r) {
			continue
		}
		if out.Missing++; named < maxNamed {
			out.Letters += string(r)
			named++
		}
	}
	return out
}

// seen is the size at which letters are held against each other, px.
const seen = 64

// alike is which part of what two letters cover they cover together, when one is laid over the
// other; 0 if one of them is not there.
func alike(font *specimen.Font, a, b rune) float64 {
	one, ok := drawn(font, a)
	two, also := drawn(font, b)
	if !ok || !also {
		return 0
	}
	both, any := 0.0, 0.0
	for i := range one.Pix {
		both += float64(min(one.Pix[i], two.Pix[i]))
		any += float64(max(one.Pix[i], two.Pix[i]))
	}
	return both / max(any, 1)
}

// drawn is a letter at [seen] px, in the middle of a square.
func drawn(font *specimen.Font, r rune) (*image.Alpha, bool) {
	l, ok := font.Set.Letter(r)
	if !ok || l.Right <= l.Left {
		return nil, false
	}
	const side = 2 * seen
	z := vector.NewRasterizer(side, side)
	font.Set.Trace(l.ID, seen, side/2-seen*(l.Left+l.Right)/2, side*0.7, 1, z)
	out := image.NewAlpha(image.Rect(0, 0, side, side))
	z.Draw(out, out.Bounds(), image.Opaque, image.Point{})
	return out, true
}
