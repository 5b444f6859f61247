package svgraster

import (
	"math"
	"strings"
)

type point struct{ x, y float64 }

// matrix is a transformation: x' = a·x + c·y + e, y' = b·x + d·y + f.
type matrix struct{ a, b, c, d, e, f float64 }

var same = matrix{a: 1, d: 1}

// then is what n does first and m after it.
func (m matrix) then(n matrix) matrix {
	return matrix{
		m.a*n.a + m.c*n.b, m.b*n.a + m.d*n.b,
		m.a*n.c + m.c*n.d, m.b*n.c + m.d*n.d,
		m.a*n.e + m.c*n.f + m.e, m.b*n.e + m.d*n.f + m.f,
	}
}

func (m matrix) at(p point) point { return point{m.a*p.x + m.c*p.y + m.e, m.b*p.x + m.d*p.y + m.f} }

// scale is how much larger things get in the mean.
func (m matrix) scale() float64 { return math.Sqrt(math.Abs(m.a*m.d - m.b*m.c)) }

// even reports whether things keep their proportions.
func (m matrix) even() bool {
	k := 1e-3 * m.scale() * m.scale()
	return math.Abs(m.a*m.c+m.b*m.d) < k && math.Abs(m.a*m.a+m.b*m.b-m.c*m.c-m.d*m.d) < k
}

func (m matrix) back() (matrix, bool) {
	det := m.a*m.d - m.b*m.c
	if math.Abs(det) < 1e-12 || math.IsNaN(det) || math.IsInf(det, 0) {
		return same, false
	}
	out := matrix{a: m.d / det, b: -m.b / det, c: -m.c / det, d: m.a / det}
	out.e, out.f = -(out.a*m.e + out.c*m.f), -(out.b*m.e + out.d*m.f)
	return out, true
}

// transforms reads "translate(3 4) rotate(30)" (SVG 1.1, section 7.6).
func transforms(s string) matrix {
	m := same
	for {
		call, rest, ok := strings.Cut(s, ")")
		name, args, is := strings.Cut(call, "(")
		if !ok || !is {
			return m
		}
		s = rest
		args = strings.NewReplacer("deg", "", "px", "").Replace(args)
		n := numbers(args)
		arg := func(i int, usual float64) float64 {
			if i < len(n) {
				return n[i]
			}
			return usual
		}
		var t matrix
		switch strings.Trim(name, " ,\n\t\r") {
		case "matrix":
			if len(n) != 6 {
				return m
			}
			t = matrix{n[0], n[1], n[2], n[3], n[4], n[5]}
		case "translate":
			t = matrix{1, 0, 0, 1, arg(0, 0), arg(1, 0)}
		case "scale":
			t = matrix{a: arg(0, 1), d: arg(1, arg(0, 1))}
		case "rotate":
			sin, cos := math.Sincos(arg(0, 0) * math.Pi / 180)
			x, y := arg(1, 0), arg(2, 0)
			t = matrix{1, 0, 0, 1, x, y}.then(matrix{cos, sin, -sin, cos, 0, 0}).then(matrix{1, 0, 0, 1, -x, -y})
		case "skewX":
			t = matrix{a: 1, c: math.Tan(arg(0, 0) * math.Pi / 180), d: 1}
		case "skewY":
			t = matrix{a: 1, b: math.Tan(arg(0, 0) * math.Pi / 180), d: 1}
		default:
			return m
		}
		m = m.then(t)
	}
}

// segment is a step of a path: a move, a line, a curve with two handles, or a close.
type segment struct {
	kind byte // M L C Z
	p    [3]point
}

type path []segment

func (p *path) move(to point)        { *p = append(*p, segment{'M', [3]point{to}}) }
func (p *path) line(to point)        { *p = append(*p, segment{'L', [3]point{to}}) }
func (p *path) close()               { *p = append(*p, segment{kind: 'Z'}) }
func (p *path) curve(a, b, to point) { *p = append(*p, segment{'C', [3]point{a, b, to}}) }

// arc draws an elliptical arc as curves (SVG 1.1, appendix F.6).
func (p *path) arc(from point, rx, ry, turn float64, large, sweep bool, to point) {
	rx, ry = math.Abs(rx), math.Abs(ry)
	if rx == 0 || ry == 0 || from == to {
		p.line(to)
		return
	}
	sin, cos := math.Sincos(turn * math.Pi / 180)
	dx, dy := (from.x-to.x)/2, (from.y-to.y)/2
	x1, y1 := cos*dx+sin*dy, -sin*dx+cos*dy
	if k := x1*x1/(rx*rx) + y1*y1/(ry*ry); k > 1 {
		rx, ry = rx*math.Sqrt(k), ry*math.Sqrt(k)
	}
	k := math.Sqrt(max((rx*rx*ry*ry-rx*rx*y1*y1-ry*ry*x1*x1)/(rx*rx*y1*y1+ry*ry*x1*x1), 0))
	if large == sweep {
		k = -k
	}
	cx1, cy1 := k*rx*y1/ry, -k*ry*x1/rx
	cx, cy := cos*cx1-sin*cy1+(from.x+to.x)/2, sin*cx1+cos*cy1+(from.y+to.y)/2
	start := math.Atan2((y1-cy1)/ry, (x1-cx1)/rx)
	span := math.Atan2((-y1-cy1)/ry, (-x1-cx1)/rx) - start
	if sweep && span < 0 {
		span += 2 * math.Pi
	} else if !sweep && span > 0 {
		span -= 2 * math.Pi
	}
	n := max(int(math.Ceil(math.Abs(span)/(math.Pi/2)-1e-9)), 1)
	step := span / float64(n)
	t := 4.0 / 3 * math.Tan(step/4)
	on := func(angle float64) (at, slope point) {
		s, c := math.Sincos(angle)
		return point{cx + cos*rx*c - sin*ry*s, cy + sin*rx*c + cos*ry*s}, point{-cos*rx*s - sin*ry*c, -sin*rx*s + cos*ry*c}
	}
	at, slope := on(start)
	for i := range n {
		next, nextSlope := on(start + step*float64(i+1))
		if i == n-1 {
			next = to
		}
		p.curve(point{at.x + t*slope.x, at.y + t*slope.y}, point{next.x - t*nextSlope.x, next.y - t*nextSlope.y}, next)
		at, slope = next, nextSlope
	}
}

const maxSegments = 400_000

// pathData reads the data of a path; what comes after a mistake is left out, as SVG
// wants it.
func pathData(s string) path {
	var p path
	var at, begun, handle point
	var last byte
	r := dataReader{s: s}
	for len(p) < maxSegments {
		r.blanks()
		if r.i >= len(r.s) {
			return p
		}
		c := r.s[r.i]
		if strings.IndexByte("MmLlHhVvCcSsQqTtAaZz", c) >= 0 {
			r.i++
		} else if c = last; c == 0 || c == 'z' || c == 'Z' {
			return p
		} else if c == 'M' {
			c = 'L'
		} else if c == 'm' {
			c = 'l'
		}
		if len(p) == 0 && c != 'M' && c != 'm' {
			return p
		}
		from := point{}
		if c >= 'a' {
			from = at
		}
		xy := func() (point, bool) {
			x, ok1 := r.number()
			y, ok2 := r.number()
			return point{from.x + x, from.y + y}, ok1 && ok2
		}
		before := handle
		if last == 0 || strings.IndexByte("CcSs", last) < 0 && strings.IndexByte("CcSs", c) >= 0 || strings.IndexByte("QqTt", last) < 0 && strings.IndexByte("QqTt", c) >= 0 {
			before = at
		}
		mirrored := point{2*at.x - before.x, 2*at.y - before.y}
		ok := true
		switch c {
		case 'M', 'm':
			if at, ok = xy(); ok {
				begun = at
				p.move(at)
			}
		case 'L', 'l':
			var to point
			if to, ok = xy(); ok {
				at = to
				p.line(at)
			}
		case 'H', 'h':
			var x float64
			if x, ok = r.number(); ok {
				at.x = from.x + x
				p.line(at)
			}
		case 'V', 'v':
			var y float64
			if y, ok = r.number(); ok {
				at.y = from.y + y
				p.line(at)
			}
		case 'C', 'c', 'S', 's':
			a := mirrored
			if c == 'C' || c == 'c' {
				a, ok = xy()
			}
			b, ok2 := xy()
			to, ok3 := xy()
			if ok = ok && ok2 && ok3; ok {
				p.curve(a, b, to)
				handle, at = b, to
			}
		case 'Q', 'q', 'T', 't':
			a := mirrored
			if c == 'Q' || c == 'q' {
				a, ok = xy()
			}
			to, ok2 := xy()
			if ok = ok && ok2; ok {
				p.curve(point{at.x + 2.0/3*(a.x-at.x), at.y + 2.0/3*(a.y-at.y)}, point{to.x + 2.0/3*(a.x-to.x), to.y + 2.0/3*(a.y-to.y)}, to)
				handle, at = a, to
			}
		case 'A', 'a':
			rx, ok1 := r.number()
			ry, ok2 := r.number()
			turn, ok3 := r.number()
			large, ok4 := r.flag()
			sweep, ok5 := r.flag()
			to, ok6 := xy()
			if ok = ok1 && ok2 && ok3 && ok4 && ok5 && ok6; ok {
				p.arc(at, rx, ry, turn, large, sweep, to)
				at = to
			}
		default:
			p.close()
			at = begun
		}
		if !ok {
			return p
		}
		last = c
	}
	return p
}

type dataReader struct {
	s string
	i int
}

func (r *dataReader) blanks() {
	for r.i < len(r.s) && (r.s[r.i] == ' ' || r.s[r.i] == ',' || r.s[r.i] == '\n' || r.s[r.i] == '\t' || r.s[r.i] == '\r') {
		r.i++
	}
}

func (r *dataReader) number() (float64, bool) {
	r.blanks()
	from := r.i
	if r.i < len(r.s) && (r.s[r.i] == '-' || r.s[r.i] == '+') {
		r.i++
	}
	dot, exp := false, false
	for ; r.i < len(r.s); r.i++ {
		switch c := r.s[r.i]; {
		case c >= '0' && c <= '9':
			continue
		case c == '.' && !dot && !exp:
			dot = true
			continue
		case (c == 'e' || c == 'E') && !exp && r.i > from && r.i+1 < len(r.s) && strings.IndexByte("0123456789+-", r.s[r.i+1]) >= 0:
			exp = true
			r.i++
			continue
		}
		break
	}
	v, err := number(r.s[from:r.i])
	return v, err == nil
}

func (r *dataReader) flag() (bool, bool) {
	r.blanks()
	if r.i >= len(r.s) || r.s[r.i] != '0' && r.s[r.i] != '1' {
		return false, false
	}
	r.i++
	return r.s[r.i-1] == '1', true
}

// shapeOf is the outline of an element, nil if it is none. w and h are those that shares
// are of.
func (doc *document) shapeOf(e *element, w, h float64) path {
	get := func(name string, whole float64) float64 { return length(doc.told(e, name), whole, 0) }
	diagonal := math.Sqrt((w*w + h*h) / 2)
	var p path
	switch e.name {
	case "path":
		return pathData(e.attrs["d"])
	case "rect":
		x, y, rw, rh := get("x", w), get("y", h), get("width", w), get("height", h)
		if rw <= 0 || rh <= 0 {
			return nil
		}
		rx, ry := length(doc.told(e, "rx"), w, -1), length(doc.told(e, "ry"), h, -1)
		if rx < 0 {
			rx = ry
		}
		if ry < 0 {
			ry = rx
		}
		rx, ry = min(max(rx, 0), rw/2), min(max(ry, 0), rh/2)
		if rx == 0 || ry == 0 {
			p.move(point{x, y})
			p.line(point{x + rw, y})
			p.line(point{x + rw, y + rh})
			p.line(point{x, y + rh})
			p.close()
			return p
		}
		p.move(point{x + rx, y})
		p.line(point{x + rw - rx, y})
		p.arc(point{x + rw - rx, y}, rx, ry, 0, false, true, point{x + rw, y + ry})
		p.line(point{x + rw, y + rh - ry})
		p.arc(point{x + rw, y + rh - ry}, rx, ry, 0, false, true, point{x + rw - rx, y + rh})
		p.line(point{x + rx, y + rh})
		p.arc(point{x + rx, y + rh}, rx, ry, 0, false, true, point{x, y + rh - ry})
		p.line(point{x, y + ry})
		p.arc(point{x, y + ry}, rx, ry, 0, false, true, point{x + rx, y})
		p.close()
	case "circle", "ellipse":
		rx, ry := get("rx", w), get("ry", h)
		if e.name == "circle" {
			rx = get("r", diagonal)
			ry = rx
		}
		if rx <= 0 || ry <= 0 {
			return nil
		}
		x, y := get("cx", w), get("cy", h)
		p.move(point{x + rx, y})
		p.arc(point{x + rx, y}, rx, ry, 0, false, true, point{x - rx, y})
		p.arc(point{x - rx, y}, rx, ry, 0, false, true, point{x + rx, y})
		p.close()
	case "line":
		p.move(point{get("x1", w), get("y1", h)})
		p.line(point{get("x2", w), get("y2", h)})
	case "polyline", "polygon":
		n := numbers(e.attrs["points"])
		for i := 0; i+1 < len(n); i += 2 {
			if i == 0 {
				p.move(point{n[i], n[i+1]})
			} else {
				p.line(point{n[i], n[i+1]})
			}
		}
		if e.name == "polygon" && len(p) > 0 {
			p.close()
		}
	}
	return p
}

// bounds is the box of a path, its curves as they really go.
func (p path) bounds() (x0, y0, x1, y1 float64, ok bool) {
	x0, y0, x1, y1 = math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
	p.flat(same, 0.02, func(at point, _ bool) {
		x0, y0, x1, y1 = min(x0, at.x), min(y0, at.y), max(x1, at.x), max(y1, at.y)
	}, func() {})
	return x0, y0, x1, y1, x1 >= x0
}

// flat goes along a path in a transformation in straight steps that leave it by no more
// than so much: to is called with each place, and whether it is the first of a part;
// closed at the end of each part that is closed.
func (p path) flat(m matrix, within float64, to func(at point, first bool), closed func()) {
	var at, begun point
	open := false
	for _, s := range p {
		switch s.kind {
		case 'M':
			at = m.at(s.p[0])
			begun, open = at, true
			to(at, true)
		case 'Z':
			if open {
				closed()
			}
			at = begun
		default:
			if !open {
				begun, open = at, true
				to(at, true)
			}
			end := m.at(s.p[0])
			if s.kind == 'C' {
				a, b := end, m.at(s.p[1])
				end = m.at(s.p[2])
				// How far the curve is from its chord at most, by its second differences.
				d := max(math.Hypot(at.x-2*a.x+b.x, at.y-2*a.y+b.y), math.Hypot(a.x-2*b.x+end.x, a.y-2*b.y+end.y))
				n := int(min(math.Ceil(math.Sqrt(0.75*d/within)), 200))
				for i := 1; i < n; i++ {
					t := float64(i) / float64(n)
					u := 1 - t
					c0, c1, c2, c3 := u*u*u, 3*u*u*t, 3*u*t*t, t*t*t
					to(point{c0*at.x + c1*a.x + c2*b.x + c3*end.x, c0*at.y + c1*a.y + c2*b.y + c3*end.y}, false)
				}
			}
			at = end
			to(at, false)
		}
	}
}
