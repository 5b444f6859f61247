package gtkcss

import "strings"

// value is the value of a property, as it is written or computed.
type value interface {
	compute(*against) value
	text() string
}

// against is what values are computed against.
type against struct {
	parent, own        *Style
	fontSize, rootSize float64 // px
	colours            colourContext
	fallback           Colour // for a colour that is not defined
	lost               bool   // one was not
}

type (
	keyword   string
	quoted    string
	words     []value // with blanks between
	list      []value // with commas between
	inherit   struct{}
	initial   struct{}
	unset     struct{}
	asWritten struct{ c colour } // a colour that is not computed yet
)

func (k keyword) compute(*against) value { return k }
func (k keyword) text() string           { return string(k) }
func (q quoted) compute(*against) value  { return q }
func (q quoted) text() string            { return `"` + string(q) + `"` }
func (inherit) compute(*against) value   { return inherit{} }
func (inherit) text() string             { return "inherit" }
func (initial) compute(*against) value   { return initial{} }
func (initial) text() string             { return "initial" }
func (unset) compute(*against) value     { return unset{} }
func (unset) text() string               { return "unset" }

func (w words) compute(c *against) value { return words(computeAll(w, c)) }
func (w words) text() string             { return joined(w, " ") }
func (l list) compute(c *against) value  { return list(computeAll(l, c)) }
func (l list) text() string              { return joined(l, ", ") }

func computeAll(of []value, c *against) []value {
	out := make([]value, len(of))
	for i, v := range of {
		out[i] = v.compute(c)
	}
	return out
}

func joined(of []value, with string) string {
	parts := make([]string, len(of))
	for i, v := range of {
		parts[i] = v.text()
	}
	return strings.Join(parts, with)
}

func (w asWritten) compute(c *against) value {
	if v, ok := w.c.resolve(c.colours); ok {
		return v
	}
	c.lost = true
	return c.fallback
}
func (w asWritten) text() string { return "" }

// shadow is one shadow of a box, a text or an icon.
type shadow struct {
	x, y, blur, spread number
	colour             value
	inset              bool
}

func (s shadow) compute(c *against) value {
	for _, n := range []*number{&s.x, &s.y, &s.blur, &s.spread} {
		*n = n.compute(c).(number)
	}
	s.colour = s.colour.compute(c)
	return s
}

func (s shadow) text() string {
	out := s.x.text() + " " + s.y.text()
	if s.blur.text() != "0" || s.spread.text() != "0" {
		out += " " + s.blur.text()
	}
	if s.spread.text() != "0" {
		out += " " + s.spread.text()
	}
	out += " " + s.colour.text()
	if s.inset {
		out += " inset"
	}
	return out
}

// readShadows reads none or shadows; box tells whether they may be inset and
// spread.
func readShadows(box bool) func(*reader) (value, bool) {
	return func(r *reader) (value, bool) {
		if _, ok := r.word("none"); ok {
			return keyword("none"), true
		}
		all, ok := commas(r, func(r *reader) (value, bool) { return readShadow(r, box) })
		return list(all), ok
	}
}

func readShadow(r *reader, box bool) (value, bool) {
	s := shadow{colour: asWritten{currentColor{}}, x: px(0), y: px(0), blur: px(0), spread: px(0)}
	var inset, lengths, coloured bool
	const length = takesLength | asPx
	if box {
		_, inset = r.word("inset")
	}
	for !lengths || !r.done() && !r.peek().is(",") {
		if x, ok := try(r, func(r *reader) (number, bool) { n, ok := readNumber(r, length); return n, ok && !lengths }); ok {
			lengths = true
			s.x = x
			if s.y, ok = readNumber(r, length); !ok {
				return nil, false
			}
			if s.blur, ok = readNumber(r, length|noLess); ok && box {
				s.spread, _ = readNumber(r, length)
			}
			continue
		}
		if box && !inset && lengths {
			if _, inset = r.word("inset"); inset && r.gtk == 3 {
				break // nothing may follow
			} else if inset {
				continue
			}
		}
		if coloured { // GTK 3 says nothing of what is left, and takes nothing
			r.silent = r.gtk == 3
			return nil, false
		}
		c, ok := readColour(r)
		if !ok {
			return nil, false
		}
		s.colour, coloured = asWritten{c}, true
	}
	s.inset = inset
	return s, lengths
}
