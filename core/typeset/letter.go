package typeset

import (
	"github.com/go-text/typesetting/font"
	ot "github.com/go-text/typesetting/font/opentype"
)

// Letter is a letter of a face, lengths in parts of the size, up from the base line.
type Letter struct {
	ID                       uint32
	Wide                     float64 // to where the next one stands
	Left, Right, Bottom, Top float64 // what it covers; all 0 for a blank
}

// Has reports whether the face has a letter.
func (f *Face) Has(r rune) bool {
	f.mu.Lock()
	defer f.mu.Unlock()
	id, ok := f.face.NominalGlyph(r)
	return ok && id != 0
}

// Letter measures a letter; false if the face has it not, or cannot draw it.
func (f *Face) Letter(r rune) (l Letter, ok bool) {
	f.mu.Lock()
	defer f.mu.Unlock()
	defer func() { // a damaged font must not end the program
		if recover() != nil {
			l, ok = Letter{}, false
		}
	}()
	id, ok := f.face.NominalGlyph(r)
	if !ok || id == 0 {
		return Letter{}, false
	}
	l = Letter{ID: uint32(id), Wide: float64(f.face.HorizontalAdvance(id)) / f.upem}
	if e, ok := f.face.GlyphExtents(id); ok {
		l.Left, l.Top = float64(e.XBearing)/f.upem, float64(e.YBearing)/f.upem
		l.Right, l.Bottom = l.Left+float64(e.Width)/f.upem, l.Top+float64(e.Height)/f.upem
	}
	return l, true
}

// Pen draws outlines, as a rasterizer of golang.org/x/image/vector does.
type Pen interface {
	MoveTo(x, y float32)
	LineTo(x, y float32)
	QuadTo(x1, y1, x, y float32)
	CubeTo(x1, y1, x2, y2, x, y float32)
	ClosePath()
}

// Trace draws a glyph's outline at a size in px, with its origin at (x, y), y down; wide is how
// many times as broad as it is tall a pixel's part is.
func (f *Face) Trace(id uint32, size, x, y, wide float64, to Pen) {
	f.mu.Lock()
	defer f.mu.Unlock()
	defer func() { _ = recover() }() // a damaged font must not end the program
	outline, ok := f.face.GlyphData(font.GID(id)).(font.GlyphOutline)
	if !ok {
		return
	}
	k := size / f.upem
	at := func(p ot.SegmentPoint) (float32, float32) {
		return float32((x + float64(p.X)*k) * wide), float32(y - float64(p.Y)*k)
	}
	open := false
	for _, s := range outline.Segments {
		x0, y0 := at(s.Args[0])
		x1, y1 := at(s.Args[1])
		x2, y2 := at(s.Args[2])
		switch s.Op {
		case ot.SegmentOpMoveTo:
			if open {
				to.ClosePath()
			}
			to.MoveTo(x0, y0)
			open = true
		case ot.SegmentOpLineTo:
			to.LineTo(x0, y0)
		case ot.SegmentOpQuadTo:
			to.QuadTo(x0, y0, x1, y1)
		case ot.SegmentOpCubeTo:
			to.CubeTo(x0, y0, x1, y1, x2, y2)
		}
	}
	if open {
		to.ClosePath()
	}
}
