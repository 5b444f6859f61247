package typeset

import (
	"slices"

	"github.com/go-text/typesetting/di"
	"github.com/go-text/typesetting/font"
	"github.com/go-text/typesetting/language"
	"github.com/go-text/typesetting/shaping"
	"golang.org/x/image/math/fixed"
)

// SetIn shapes a line of text at a size in px, as Set does, in whatever direction its letters go
// (UAX #9), and takes letters that the face has not from others: instead finds one for a letter, nil
// where there is none. What is written from right to left is so as a whole if it begins so.
func (f *Face) SetIn(text string, size float64, instead func(rune) *Face) (line Line) {
	runes := []rune(text)
	of := fontmap{f, instead, map[*font.Face]*Face{}}
	plain := true
	for _, r := range runes {
		plain = plain && of.face(r) == f && !fromRight(r)
	}
	if plain {
		return f.Set(text, size)
	}
	defer func() { // a damaged font must not end the program
		if recover() != nil {
			line = Line{}
		}
	}()
	direction := di.DirectionLTR
	if i := slices.IndexFunc(runes, func(r rune) bool { return fromRight(r) || language.LookupScript(r).Strong() }); i >= 0 && fromRight(runes[i]) {
		direction = di.DirectionRTL
	}
	var split shaping.Segmenter
	runs := slices.Clone(split.Split(shaping.Input{
		Text: runes, RunEnd: len(runes), Direction: direction, Face: f.face, Size: fixed.I(int(f.upem)), Language: language.NewLanguage("en"),
	}, of))
	x := 0.0
	for _, run := range inSight(runs, direction) {
		by := of.faces[run.Face]
		k := size / by.upem
		run.Size = fixed.I(int(by.upem))
		for _, g := range by.shape(run) {
			line.Glyphs = append(line.Glyphs, Glyph{ID: uint32(g.GlyphID), X: x + px(g.XOffset)*k, Y: -px(g.YOffset) * k, Wide: px(g.Advance) * k, Face: by})
			x += px(g.Advance) * k
		}
	}
	line.Width = x
	return line
}

func (f *Face) shape(run shaping.Input) []shaping.Glyph {
	f.mu.Lock()
	defer f.mu.Unlock()
	return f.shaper.Shape(run).Glyphs
}

// inSight are runs in the order in which they are seen, from left to right (UAX #9, rule L2), with
// two levels: lines here are short.
func inSight(runs []shaping.Input, direction di.Direction) []shaping.Input {
	against := func(r shaping.Input) bool { return r.Direction != direction }
	for from := 0; from < len(runs); from++ {
		to := from
		for to < len(runs) && against(runs[to]) {
			to++
		}
		if to > from+1 {
			slices.Reverse(runs[from:to])
		}
		from = max(from, to-1)
	}
	if direction == di.DirectionRTL {
		// runs against the direction were turned above, and are turned back with all
		slices.Reverse(runs)
	}
	return runs
}

// fromRight tells letters that are written from right to left (Unicode, blocks of the scripts that
// are).
func fromRight(r rune) bool {
	return r >= 0x0590 && r <= 0x08ff || r >= 0xfb1d && r <= 0xfdff || r >= 0xfe70 && r <= 0xfeff || r >= 0x10800 && r <= 0x10fff || r >= 0x1e800 && r <= 0x1efff
}

// fontmap finds the face of each letter.
type fontmap struct {
	own     *Face
	instead func(rune) *Face
	faces   map[*font.Face]*Face
}

func (m fontmap) face(r rune) *Face {
	face := m.own
	if !m.own.Has(r) && m.instead != nil {
		if other := m.instead(r); other != nil {
			face = other
		}
	}
	m.faces[face.face] = face
	return face
}

func (m fontmap) ResolveFace(r rune) *font.Face { return m.face(r).face }
