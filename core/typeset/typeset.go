// Package typeset sets a line of text in a font file: it shapes the text as
// HarfBuzz does (through its port to Go) and gives glyphs, widths and outlines.
package typeset

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"math"
	"strings"
	"sync"

	"github.com/go-text/typesetting/di"
	"github.com/go-text/typesetting/font"
	ot "github.com/go-text/typesetting/font/opentype"
	"github.com/go-text/typesetting/language"
	"github.com/go-text/typesetting/shaping"
	"golang.org/x/image/math/fixed"
)

// ErrFont: the bytes are no font, or a damaged one.
var ErrFont = errors.New("this font cannot be used")

// Face is one face of a font file, ready to set text in. It may be used from
// several goroutines.
type Face struct {
	mu       sync.Mutex
	face     *font.Face
	shaper   shaping.HarfbuzzShaper
	upem     float64
	outlines map[font.GID]string
}

// Load reads a face of a font file; index counts in collections.
func Load(b []byte, index int) (f *Face, err error) {
	defer func() { // a damaged font must not end the program
		if p := recover(); p != nil {
			f, err = nil, fmt.Errorf("%w: %v", ErrFont, p)
		}
	}()
	if overloaded(Tables(b, index)) {
		return nil, fmt.Errorf("%w: its letters are put together from each other without end", ErrFont)
	}
	faces, err := font.ParseTTC(bytes.NewReader(withoutStrikes(b)))
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrFont, err)
	}
	if index < 0 || index >= len(faces) {
		return nil, fmt.Errorf("%w: it has no face %d", ErrFont, index)
	}
	face := faces[index]
	if face.Upem() == 0 {
		return nil, fmt.Errorf("%w: it has no size", ErrFont)
	}
	return &Face{face: face, upem: float64(face.Upem()), outlines: map[font.GID]string{}}, nil
}

// withoutStrikes is a font file without pictures of its letters in single sizes, if it has outlines
// as well: these are for every size. Tables that nobody knows are passed over (OpenType 1.9, "Table
// Directory").
func withoutStrikes(b []byte) []byte {
	out := b
	for _, at := range fontsIn(b) {
		outlines, strikes := false, []int(nil)
		for i := range records(b, at) {
			switch record := at + 12 + 16*i; string(b[record : record+4]) {
			case "glyf", "CFF ", "CFF2":
				outlines = true
			case "EBLC", "EBDT", "bloc", "bdat":
				strikes = append(strikes, record)
			}
		}
		for _, record := range strikes {
			if !outlines {
				break
			}
			if &out[0] == &b[0] {
				out = bytes.Clone(b)
			}
			copy(out[record:], "none")
		}
	}
	return out
}

// records is how many tables the directory at an offset of a font file tells of, and has.
func records(b []byte, at int) int {
	if at < 0 || at+12 > len(b) {
		return 0
	}
	return min(int(binary.BigEndian.Uint16(b[at+4:])), (len(b)-at-12)/16)
}

// Glyph is one glyph of a line.
type Glyph struct {
	ID   uint32
	X, Y float64 // px from where the line begins, on its base line; down is positive
	Wide float64 // px to where the next one stands
	Face *Face   // that it is of; nil for the face that the line was set in
}

// Line is a line of text that was set.
type Line struct {
	Width  float64 // px
	Glyphs []Glyph
}

// Set shapes a line of text from left to right at a size in px.
func (f *Face) Set(text string, size float64) (line Line) {
	f.mu.Lock()
	defer f.mu.Unlock()
	defer func() {
		if recover() != nil {
			line = Line{}
		}
	}()
	runes := []rune(text)
	if len(runes) == 0 {
		return Line{}
	}
	k := size / f.upem
	x := 0.0
	for _, run := range runsOf(runes) {
		out := f.shaper.Shape(shaping.Input{
			Text: runes, RunStart: run.from, RunEnd: run.to, Direction: di.DirectionLTR, Face: f.face, Size: fixed.I(int(f.upem)), Script: run.script, Language: language.NewLanguage("en"),
		})
		for _, g := range out.Glyphs {
			line.Glyphs = append(line.Glyphs, Glyph{ID: uint32(g.GlyphID), X: (x + px(g.XOffset)) * k, Y: -px(g.YOffset) * k, Wide: px(g.Advance) * k})
			x += px(g.Advance)
		}
	}
	line.Width = x * k
	return line
}

// run is a stretch of text in one script.
type run struct {
	from, to int
	script   language.Script
}

// runsOf splits text by script: what belongs to none goes with what stands before it, and at
// the start with what comes after (Unicode Standard Annex 24, section 5.2).
func runsOf(text []rune) []run {
	var out []run
	for i, r := range text {
		s := language.LookupScript(r)
		known := s != language.Common && s != language.Inherited && s != language.Unknown
		switch last := len(out) - 1; {
		case last < 0 && known:
			out = append(out, run{0, i + 1, s})
		case last >= 0 && (!known || out[last].script == s):
			out[last].to = i + 1
		case last >= 0:
			out = append(out, run{i, i + 1, s})
		}
	}
	if out == nil {
		return []run{{0, len(text), language.Latin}}
	}
	return out
}

// Snap sets each glyph to a whole px, as Pango does at a scale of 1
// (pango_context_set_round_glyph_positions).
func (l Line) Snap() Line {
	out := Line{Glyphs: make([]Glyph, len(l.Glyphs))}
	at := 0.0
	for i, g := range l.Glyphs {
		off := g.X - at
		g.X, g.Wide = out.Width+off, math.Round(g.Wide)
		at += l.Glyphs[i].Wide
		out.Width += g.Wide
		out.Glyphs[i] = g
	}
	return out
}

func px(v fixed.Int26_6) float64 { return float64(v) / 64 }

// Heights returns how far the face reaches over and under its base line at a
// size, in px.
func (f *Face) Heights(size float64) (ascent, descent float64) {
	f.mu.Lock()
	defer f.mu.Unlock()
	e, ok := f.face.FontHExtents()
	if !ok {
		return size * 0.8, size * 0.2
	}
	k := size / f.upem
	return float64(e.Ascender) * k, -float64(e.Descender) * k
}

// Rule is a line along text: how far its top is under the base line, and how thick it is, px.
type Rule struct{ Top, Thick float64 }

// Lines are where the face has the lines under its text and through it at a size in px, set
// on whole pixels as Pango does (pango-utils.c, pango_quantize_line_geometry).
func (f *Face) Lines(size float64) (under, through Rule) {
	f.mu.Lock()
	defer f.mu.Unlock()
	k := size / f.upem
	of := func(top, thick font.LineMetric) Rule {
		t, at := float64(f.face.LineMetric(thick))*k, float64(f.face.LineMetric(top))*k
		whole := max(math.Round(t), 1)
		middle := math.Floor(at-t/2) + 0.5
		if int(whole)%2 == 0 {
			middle = math.Floor(at - t/2 + 0.5)
		}
		return Rule{-(middle + whole/2), whole}
	}
	return of(font.UnderlinePosition, font.UnderlineThickness), of(font.StrikethroughPosition, font.StrikethroughThickness)
}

// Upem is how many units of the outlines one size is.
func (f *Face) Upem() float64 { return f.upem }

// Outline returns a glyph's outline as an SVG path in the font's units, y up;
// "" for a blank one.
func (f *Face) Outline(id uint32) (d string) {
	f.mu.Lock()
	defer f.mu.Unlock()
	if d, ok := f.outlines[font.GID(id)]; ok {
		return d
	}
	defer func() {
		if recover() != nil {
			d = ""
		}
		f.outlines[font.GID(id)] = d
	}()
	outline, ok := f.face.GlyphData(font.GID(id)).(font.GlyphOutline)
	if !ok {
		return ""
	}
	var b strings.Builder
	for _, s := range outline.Segments {
		switch s.Op {
		case ot.SegmentOpMoveTo:
			if b.Len() > 0 {
				b.WriteByte('Z')
			}
			fmt.Fprintf(&b, "M%g %g", s.Args[0].X, s.Args[0].Y)
		case ot.SegmentOpLineTo:
			fmt.Fprintf(&b, "L%g %g", s.Args[0].X, s.Args[0].Y)
		case ot.SegmentOpQuadTo:
			fmt.Fprintf(&b, "Q%g %g %g %g", s.Args[0].X, s.Args[0].Y, s.Args[1].X, s.Args[1].Y)
		case ot.SegmentOpCubeTo:
			fmt.Fprintf(&b, "C%g %g %g %g %g %g", s.Args[0].X, s.Args[0].Y, s.Args[1].X, s.Args[1].Y, s.Args[2].X, s.Args[2].Y)
		}
	}
	if b.Len() > 0 {
		b.WriteByte('Z')
	}
	return b.String()
}
