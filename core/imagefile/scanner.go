package imagefile

import (
	"context"
	"image"
	"image/color"
	"image/draw"
	"math"
	"slices"

	"github.com/srwiley/rasterx"
	"golang.org/x/image/math/fixed"
	"golang.org/x/image/vector"
)

// maxPaint bounds what drawing a picture takes: the pixels of the boxes of all its shapes,
// and those that their lines go through. A second's worth.
const maxPaint = 60_000_000

// scanner fills the shapes of a drawing. It does what [rasterx.ScannerGV] does, within each
// shape's own box; it counts the work, and ends by panicking with [ErrCostly], or with the
// context's error once that has ended.
type scanner struct {
	ctx     context.Context
	on      *image.RGBA
	paint   image.Image
	clip    image.Rectangle // empty for none
	lines   []line
	at      fixed.Point26_6
	extent  fixed.Rectangle26_6
	fill    vector.Rasterizer
	painted int
}

type line struct{ from, to fixed.Point26_6 }

func newScanner(ctx context.Context, on *image.RGBA) *scanner {
	s := &scanner{ctx: ctx, on: on, paint: image.Black}
	s.Clear()
	return s
}

func (s *scanner) spend(n int) {
	const look = 1 << 18
	was := s.painted / look
	if s.painted += n; s.painted > maxPaint {
		panic(ErrCostly)
	}
	if s.painted/look != was {
		s.heed()
	}
}

// heed ends the work if nobody waits for it.
func (s *scanner) heed() {
	if err := s.ctx.Err(); err != nil {
		panic(err)
	}
}

func (s *scanner) reach(p fixed.Point26_6) {
	e := &s.extent
	e.Min.X, e.Min.Y = min(e.Min.X, p.X), min(e.Min.Y, p.Y)
	e.Max.X, e.Max.Y = max(e.Max.X, p.X), max(e.Max.Y, p.Y)
	s.at = p
}

func (s *scanner) Start(p fixed.Point26_6) { s.reach(p) }

func (s *scanner) Line(p fixed.Point26_6) {
	s.spend(4)
	s.lines = append(s.lines, line{s.at, p})
	s.reach(p)
}

func (s *scanner) Clear() {
	s.lines = s.lines[:0]
	s.extent = fixed.Rectangle26_6{Min: fixed.Point26_6{X: math.MaxInt32, Y: math.MaxInt32}, Max: fixed.Point26_6{X: -math.MaxInt32, Y: -math.MaxInt32}}
}

func (s *scanner) GetPathExtent() fixed.Rectangle26_6 { return s.extent }
func (s *scanner) SetBounds(int, int)                 { s.Clear() }
func (s *scanner) SetWinding(bool)                    {} // the rule of odd and even is not known to [vector]
func (s *scanner) SetClip(r image.Rectangle)          { s.clip = r }

func (s *scanner) SetColor(c any) {
	switch c := c.(type) {
	case color.Color:
		s.paint = image.NewUniform(c)
	case rasterx.ColorFunc:
		s.paint = shaded(c)
	}
}

// shaded is a picture without bounds that a function gives.
type shaded func(x, y int) color.Color

func (f shaded) ColorModel() color.Model { return color.RGBAModel }
func (f shaded) Bounds() image.Rectangle {
	return image.Rectangle{image.Point{-1e9, -1e9}, image.Point{1e9, 1e9}}
}
func (f shaded) At(x, y int) color.Color { return f(x, y) }

// Draw fills the shape.
func (s *scanner) Draw() {
	s.heed()
	e := s.extent
	box := image.Rect(e.Min.X.Floor(), e.Min.Y.Floor(), e.Max.X.Ceil(), e.Max.Y.Ceil()).Intersect(s.on.Rect)
	if !s.clip.Empty() {
		box = box.Intersect(s.clip)
	}
	if e.Max.X < e.Min.X || box.Empty() {
		return
	}
	s.spend(box.Dx() * box.Dy())
	s.fill.Reset(box.Dx(), box.Dy())
	s.fill.DrawOp = draw.Over
	for _, l := range s.lines {
		s.add(l, box)
	}
	s.fill.Draw(s.on, box, s.paint, box.Min)
}

// point is in px of a box.
type point struct{ x, y float64 }

// add lays a line into the filler as far as it is in the box: what is beside the box, left
// or right, counts at its edge.
func (s *scanner) add(l line, box image.Rectangle) {
	w, h := float64(box.Dx()), float64(box.Dy())
	of := func(p fixed.Point26_6) point {
		return point{float64(p.X)/64 - float64(box.Min.X), float64(p.Y)/64 - float64(box.Min.Y)}
	}
	from, to, in := between(of(l.from), of(l.to), h)
	if !in {
		return
	}
	// Where it crosses the sides, in its order.
	var cuts []float64
	for _, side := range []float64{0, w} {
		if (from.x < side) != (to.x < side) {
			cuts = append(cuts, (side-from.x)/(to.x-from.x))
		}
	}
	slices.Sort(cuts)
	at := from
	for _, t := range append(cuts, 1) {
		next := point{from.x + t*(to.x-from.x), from.y + t*(to.y-from.y)}
		x0, x1 := min(max(at.x, 0), w), min(max(next.x, 0), w)
		s.spend(int(math.Abs(next.y-at.y) + math.Abs(x1-x0)))
		s.fill.MoveTo(float32(x0), float32(at.y))
		s.fill.LineTo(float32(x1), float32(next.y))
		at = next
	}
}

// between is the part of a line whose height is from 0 to h.
func between(from, to point, h float64) (point, point, bool) {
	if from.y == to.y || max(from.y, to.y) <= 0 || min(from.y, to.y) >= h {
		return from, to, false
	}
	slope := (to.x - from.x) / (to.y - from.y)
	cut := func(p point) point {
		level := min(max(p.y, 0), h)
		if level == p.y {
			return p
		}
		return point{from.x + slope*(level-from.y), level}
	}
	return cut(from), cut(to), true
}
