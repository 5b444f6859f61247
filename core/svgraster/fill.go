package svgraster

import (
	"image"
	"math"

	"github.com/srwiley/rasterx"
	"golang.org/x/image/math/fixed"
)

// mask says how much of each pixel of a box is covered.
type mask struct {
	box   image.Rectangle
	cover []uint8
}

func newMask(box image.Rectangle) *mask { return &mask{box, make([]uint8, box.Dx()*box.Dy())} }

// row is that of a line of pixels.
func (m *mask) row(y int) []uint8 {
	w := m.box.Dx()
	return m.cover[(y-m.box.Min.Y)*w : (y-m.box.Min.Y+1)*w]
}

// lines are the sides of shapes, each from a place to a place.
type lines struct {
	ends           [][2]point
	x0, y0, x1, y1 float64
}

func newLines() *lines {
	return &lines{x0: math.Inf(1), y0: math.Inf(1), x1: math.Inf(-1), y1: math.Inf(-1)}
}

// far is how far away, px, what is drawn may be; beyond it is there.
const far = 1 << 22

func (l *lines) add(a, b point) {
	for _, c := range []*float64{&a.x, &a.y, &b.x, &b.y} {
		if math.IsNaN(*c) { // numbers that were too large
			return
		}
		*c = min(max(*c, -far), far)
	}
	l.x0, l.y0 = min(l.x0, a.x, b.x), min(l.y0, a.y, b.y)
	l.x1, l.y1 = max(l.x1, a.x, b.x), max(l.y1, a.y, b.y)
	l.ends = append(l.ends, [2]point{a, b})
}

// around takes in the box of others.
func (l *lines) around(o *lines) {
	l.x0, l.y0, l.x1, l.y1 = min(l.x0, o.x0), min(l.y0, o.y0), max(l.x1, o.x1), max(l.y1, o.y1)
}

const within = 0.05 // px that a curve may be left by

// outline is that of a path, each part closed.
func outline(p path, m matrix) *lines {
	out := newLines()
	var first, last point
	begun := false
	end := func() {
		if begun && last != first {
			out.add(last, first)
		}
		last = first
	}
	p.flat(m, within, func(at point, start bool) {
		if start {
			end()
			first, last, begun = at, at, true
			return
		}
		out.add(last, at)
		last = at
	}, end)
	end()
	return out
}

// stroked is the outline of a path's stroke. A stroke is as wide as it is before it is
// stretched (SVG 1.1, section 11.4).
func stroked(p path, m matrix, st style) *lines {
	k := m.scale()
	if k <= 0 || m.even() {
		return evenly(p, m, st)
	}
	out, stretched := newLines(), m.then(matrix{1 / k, 0, 0, 1 / k, 0, 0})
	for _, of := range evenly(p, matrix{k, 0, 0, k, 0, 0}, st).ends {
		out.add(stretched.at(of[0]), stretched.at(of[1]))
	}
	return out
}

// evenly is the outline of a stroke that is not stretched.
func evenly(p path, m matrix, st style) *lines {
	out := newLines()
	width := st.width * m.scale()
	if width <= 0 || width > 1<<14 {
		return out
	}
	into := &outliner{lines: out}
	d := rasterx.NewDasher(1, 1, into)
	join := map[string]rasterx.JoinMode{"round": rasterx.Round, "bevel": rasterx.Bevel}
	mode, ok := join[st.join]
	if !ok {
		mode = rasterx.Miter
	}
	caps := rasterx.ButtCap
	switch st.cap {
	case "round":
		caps = rasterx.RoundCap
	case "square":
		caps = rasterx.SquareCap
	}
	var dashes []float64
	for _, f := range st.dashes {
		dashes = append(dashes, f*m.scale())
	}
	d.SetStroke(toFixed(width), toFixed(max(st.miter, 1)), caps, caps, rasterx.RoundGap, mode, dashes, st.offset*m.scale())
	tame := func(q point) fixed.Point26_6 {
		const far = 1 << 20
		at := m.at(q)
		return fixed.Point26_6{X: toFixed(min(max(at.x, -far), far)), Y: toFixed(min(max(at.y, -far), far))}
	}
	open := false
	var begun, last point
	for _, s := range p {
		switch s.kind {
		case 'M':
			if open {
				d.Stop(false)
			}
			begun, open = s.p[0], true
			last = begun
			d.Start(tame(begun))
		case 'Z':
			if open {
				if last != begun {
					d.Line(tame(begun))
				}
				d.Stop(true)
			}
			open, last = false, begun
		default:
			if !open {
				d.Start(tame(begun))
				open = true
			}
			if s.kind == 'C' {
				d.CubeBezier(tame(s.p[0]), tame(s.p[1]), tame(s.p[2]))
				last = s.p[2]
			} else {
				d.Line(tame(s.p[0]))
				last = s.p[0]
			}
		}
	}
	if open {
		d.Stop(false)
	}
	return out
}

func toFixed(f float64) fixed.Int26_6 {
	if math.IsNaN(f) {
		return 0
	}
	return fixed.Int26_6(math.Round(min(max(f, -far), far) * 64))
}

// outliner keeps the lines that a stroker makes, which close together.
type outliner struct {
	*lines
	at point
}

func (o *outliner) Start(p fixed.Point26_6) { o.at = point{float64(p.X) / 64, float64(p.Y) / 64} }

func (o *outliner) Line(p fixed.Point26_6) {
	to := point{float64(p.X) / 64, float64(p.Y) / 64}
	o.add(o.at, to)
	o.at = to
}

func (o *outliner) Draw()                              {}
func (o *outliner) GetPathExtent() fixed.Rectangle26_6 { return fixed.Rectangle26_6{} }
func (o *outliner) SetBounds(int, int)                 {}
func (o *outliner) SetColor(any)                       {}
func (o *outliner) SetWinding(bool)                    {}
func (o *outliner) Clear()                             {}
func (o *outliner) SetClip(image.Rectangle)            {}

// sum is what sides add at a pixel, a float32 by its bits: many of them that are nought
// are found at once.
type sum uint32

func (s *sum) add(v float32) { *s = sum(math.Float32bits(s.float() + v)) }
func (s sum) float() float32 { return math.Float32frombits(uint32(s)) }

var (
	many    = [16]uint8{255, 255, 255, 255, 255, 255, 255, 255, 255, 255, 255, 255, 255, 255, 255, 255}
	nothing [len(many)]sum
)

// cover is how much of each pixel lines enclose, within a box; nil for nothing. Areas
// are exact; room is kept for the next. Each side adds what is to its right (R. Levien, "Inside the fastest font
// renderer in the world", 2016).
func (l *lines) cover(within image.Rectangle, evenOdd bool, spend func(int), room *[]sum) *mask {
	if l.x1 <= l.x0 || l.y1 <= l.y0 || math.IsNaN(l.x0+l.x1+l.y0+l.y1) {
		return nil
	}
	const far = 1 << 24
	clamp := func(f float64) int { return int(min(max(f, -far), far)) }
	box := image.Rect(clamp(math.Floor(l.x0)), clamp(math.Floor(l.y0)), clamp(math.Ceil(l.x1)), clamp(math.Ceil(l.y1))).Intersect(within)
	if box.Empty() {
		return nil
	}
	w, h := box.Dx(), box.Dy()
	spend(w * h)
	stride := w + 2
	if cap(*room) < stride*h {
		*room = make([]sum, stride*h)
	}
	sums := (*room)[:stride*h] // all nought, as it is left
	steps := 0
	for _, e := range l.ends {
		a, b := e[0], e[1]
		if steps += 2 + int(math.Abs(min(max(a.y, float64(box.Min.Y)), float64(box.Max.Y))-min(max(b.y, float64(box.Min.Y)), float64(box.Max.Y)))); steps > 1<<14 {
			spend(16 * steps)
			steps = 0
		}
		a.x, a.y, b.x, b.y = a.x-float64(box.Min.X), a.y-float64(box.Min.Y), b.x-float64(box.Min.X), b.y-float64(box.Min.Y)
		side(sums, stride, float64(w), float64(h), a, b)
	}
	out := newMask(box)
	for y := range h {
		all := float32(0)
		from, to := sums[y*stride:(y+1)*stride], out.cover[y*w:(y+1)*w]
		last := uint8(0)
		for x := 0; x < w; x++ {
			for x+len(many) <= w && [len(many)]sum(from[x:]) == nothing { // as it is to the left
				if last != 0 {
					copy(to[x:], many[:])
					if last != 255 {
						for k := range many {
							to[x+k] = last
						}
					}
				}
				x += len(many)
			}
			if x == w {
				break
			}
			s := from[x]
			if s == 0 {
				to[x] = last
				continue
			}
			from[x] = 0
			all += s.float()
			c := all
			if c < 0 {
				c = -c
			}
			if evenOdd {
				c -= 2 * float32(int(c/2))
				if c > 1 {
					c = 2 - c
				}
			} else if c > 1 {
				c = 1
			}
			last = uint8(c*255 + 0.5)
			to[x] = last
		}
		from[w], from[w+1] = 0, 0
	}
	return out
}

// side adds a line. What is left of the box counts at its edge, what is right of it not.
func side(sums []sum, stride int, w, h float64, from, to point) {
	if from.y == to.y {
		return
	}
	dir := float32(1)
	if from.y > to.y {
		from, to, dir = to, from, -1
	}
	if to.y <= 0 || from.y >= h {
		return
	}
	slope := (to.x - from.x) / (to.y - from.y)
	if from.y < 0 {
		from = point{from.x - from.y*slope, 0}
	}
	if to.y > h {
		to = point{from.x + (h-from.y)*slope, h}
	}
	// Cut where it crosses the sides of the box.
	for _, edge := range [2]float64{0, w} {
		if (from.x < edge) != (to.x < edge) && slope != 0 {
			y := from.y + (edge-from.x)/slope
			if y > from.y && y < to.y {
				cut := point{edge, y}
				part(sums, stride, w, from, cut, dir)
				if edge == 0 && (to.x > w) {
					side2(sums, stride, w, cut, to, dir, slope)
					return
				}
				from = cut
			}
		}
	}
	part(sums, stride, w, from, to, dir)
}

// side2 is the rest of a line that crossed the left side and crosses the right one too.
func side2(sums []sum, stride int, w float64, from, to point, dir float32, slope float64) {
	y := from.y + (w-from.x)/slope
	if y > from.y && y < to.y {
		cut := point{w, y}
		part(sums, stride, w, from, cut, dir)
		from = cut
	}
	part(sums, stride, w, from, to, dir)
}

// part adds a line that is on one side of each edge.
func part(sums []sum, stride int, w float64, from, to point, dir float32) {
	from.x, to.x = min(max(from.x, 0), w), min(max(to.x, 0), w)
	if to.y <= from.y {
		return
	}
	slope := (to.x - from.x) / (to.y - from.y)
	x := from.x
	for y := int(from.y); float64(y) < to.y; y++ {
		row := y * stride
		if row+stride > len(sums) {
			return
		}
		dy := min(float64(y+1), to.y) - max(float64(y), from.y)
		next := min(max(x+slope*dy, 0), w)
		d := float32(dy) * dir
		x0, x1 := min(x, next), max(x, next)
		x = next
		floor := math.Floor(x0)
		i, j := int(floor), int(math.Ceil(x1))
		if j <= i+1 {
			mid := float32(0.5*(x0+x1) - floor)
			sums[row+i].add(d - d*mid)
			sums[row+i+1].add(d * mid)
			continue
		}
		s := float32(1 / (x1 - x0))
		f0 := float32(x0 - floor)
		a0 := 0.5 * s * (1 - f0) * (1 - f0)
		f1 := float32(x1 - float64(j) + 1)
		am := 0.5 * s * f1 * f1
		sums[row+i].add(d * a0)
		if j == i+2 {
			sums[row+i+1].add(d * (1 - a0 - am))
		} else {
			a1 := s * (1.5 - f0)
			sums[row+i+1].add(d * (a1 - a0))
			for k := i + 2; k < j-1; k++ {
				sums[row+k].add(d * s)
			}
			a2 := a1 + float32(j-i-3)*s
			sums[row+j-1].add(d * (1 - a2 - am))
		}
		sums[row+j].add(d * am)
	}
}
