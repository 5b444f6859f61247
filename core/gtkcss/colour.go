package gtkcss

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"github.com/tdewolff/parse/v2/css"
	"golang.org/x/image/colornames"
)

// Colour is an sRGB colour: parts 0–1, not multiplied by A.
type Colour struct{ R, G, B, A float64 }

func part255(f float64) int { return int(math.Round(min(max(f, 0), 1) * 255)) }

// String writes it as r,g,b,a: 0–255, alpha with three decimals.
func (c Colour) String() string {
	return fmt.Sprintf("%d,%d,%d,%.3f", part255(c.R), part255(c.G), part255(c.B), min(max(c.A, 0), 1))
}

// CSS writes it for a picture.
func (c Colour) CSS() string {
	return fmt.Sprintf("rgba(%d,%d,%d,%.3g)", part255(c.R), part255(c.G), part255(c.B), min(max(c.A, 0), 1))
}

// Over is what is seen of it on a ground.
func (c Colour) Over(ground Colour) Colour {
	a := c.A + ground.A*(1-c.A)
	if a == 0 {
		return Colour{}
	}
	mix := func(x, y float64) float64 { return (x*c.A + y*ground.A*(1-c.A)) / a }
	return Colour{mix(c.R, ground.R), mix(c.G, ground.G), mix(c.B, ground.B), a}
}

func (c Colour) compute(*against) value { return c }

func (c Colour) text() string {
	if c.A > 0.999 {
		return fmt.Sprintf("rgb(%d,%d,%d)", part255(c.R), part255(c.G), part255(c.B))
	}
	return fmt.Sprintf("rgba(%d,%d,%d,%s)", part255(c.R), part255(c.G), part255(c.B), strconv.FormatFloat(max(c.A, 0), 'g', -1, 64))
}

// colour is a colour as it is written: fixed, named, or made from others.
type colour interface {
	resolve(colourContext) (Colour, bool)
}

// colourContext is what a colour may depend on.
type colourContext struct {
	named   func(string) (colour, bool)
	current Colour
	known   *knownColours // nil to resolve every name anew
	deep    int
}

// maxDeep bounds colours that are defined by others.
const maxDeep = 1000

// knownColours are the named colours that were resolved: each name is once, however
// many others are made from it.
type knownColours struct {
	always map[string]resolved // whatever the colour of the text
	now    map[string]resolved // while that is what it is now
	of     Colour              // that is
	text   bool                // the one being resolved depends on it
}

// resolved is what a name stands for. Of one that is being resolved it is nothing: it
// goes in a circle.
type resolved struct {
	colour Colour
	ok     bool
}

func newKnown() *knownColours {
	return &knownColours{always: map[string]resolved{}, now: map[string]resolved{}}
}

// find returns what a name stands for, if it is known while the text has a colour.
func (k *knownColours) find(name string, text Colour) (resolved, bool) {
	if r, ok := k.always[name]; ok {
		return r, true
	}
	if k.of != text {
		clear(k.now)
		k.of = text
	}
	r, ok := k.now[name]
	k.text = k.text || ok
	return r, ok
}

type (
	namedColour  string
	currentColor struct{}
	shadedColour struct {
		of colour
		by float64
	}
	alphaColour struct {
		of colour
		by float64
	}
	mixedColour struct {
		a, b colour
		by   float64
		gtk  int
	}
)

func (c Colour) resolve(colourContext) (Colour, bool) { return c, true }

func (n namedColour) resolve(c colourContext) (Colour, bool) {
	if c.named == nil || c.deep > maxDeep {
		return Colour{}, false
	}
	of, ok := c.named(string(n))
	if !ok {
		return Colour{}, false
	}
	c.deep++
	if c.known == nil {
		return of.resolve(c)
	}
	if r, ok := c.known.find(string(n), c.current); ok {
		return r.colour, r.ok
	}
	k, above := c.known, c.known.text
	k.now[string(n)] = resolved{} // in a circle it is nothing
	k.text = false
	var r resolved
	r.colour, r.ok = of.resolve(c)
	delete(k.now, string(n))
	if k.text {
		k.now[string(n)] = r
	} else {
		k.always[string(n)] = r
	}
	k.text = k.text || above
	return r.colour, r.ok
}

func (currentColor) resolve(c colourContext) (Colour, bool) {
	if c.known != nil {
		c.known.text = true
	}
	return c.current, true
}

func (s shadedColour) resolve(c colourContext) (Colour, bool) {
	of, ok := s.of.resolve(c)
	return shade(of, s.by), ok
}

func (a alphaColour) resolve(c colourContext) (Colour, bool) {
	of, ok := a.of.resolve(c)
	of.A = min(max(of.A*a.by, 0), 1)
	return of, ok
}

func (m mixedColour) resolve(c colourContext) (Colour, bool) {
	a, ok1 := m.a.resolve(c)
	b, ok2 := m.b.resolve(c)
	if m.gtk == 4 { // each part counts as much as it is seen
		alpha := min(max(a.A+(b.A-a.A)*m.by, 0), 1)
		if alpha == 0 {
			return Colour{}, ok1 && ok2
		}
		mix := func(x, y float64) float64 { return min(max((x*a.A+(y*b.A-x*a.A)*m.by)/alpha, 0), 1) }
		return Colour{mix(a.R, b.R), mix(a.G, b.G), mix(a.B, b.B), alpha}, ok1 && ok2
	}
	return mixColours(a, b, m.by), ok1 && ok2
}

// mixColours mixes each part by itself, alpha too (GTK 3, gtkcsscolorvalue.c).
func mixColours(a, b Colour, k float64) Colour {
	mix := func(x, y float64) float64 { return min(max(x+(y-x)*k, 0), 1) }
	return Colour{mix(a.R, b.R), mix(a.G, b.G), mix(a.B, b.B), mix(a.A, b.A)}
}

// readColour reads a colour: of CSS, a named one, or by a function of GTK's.
func readColour(r *reader) (colour, bool) {
	if !r.enter() {
		return nil, false
	}
	defer r.leave()
	return try(r, func(r *reader) (colour, bool) {
		if name, is := r.function(); is {
			c, ok := colourFunction(name, r)
			return c, ok
		}
		t := r.peek()
		if slices.Contains([]css.TokenType{css.AtKeywordToken, css.HashToken, css.IdentToken}, t.kind) {
			r.at++
		}
		switch t.kind {
		case css.AtKeywordToken:
			return namedColour(t.text[1:]), true
		case css.HashToken:
			h := t.text[1:]
			if r.gtk == 3 { // it takes six digits or three and leaves the rest
				n := 3
				if len(h) >= 6 && strings.Trim(h[:6], "0123456789abcdefABCDEF") == "" {
					n = 6
				}
				if len(h) > n {
					rest := tokens([]byte(h[n:]))
					for i := range rest {
						rest[i].line = t.line
					}
					r.tokens = slices.Concat(r.tokens[:r.at], rest, r.tokens[r.at:])
					h = h[:n]
				}
			}
			c, ok := hexColour(h)
			return c, ok
		case css.IdentToken:
			switch low := strings.ToLower(t.text); low {
			case "transparent":
				return Colour{}, true
			case "currentcolor":
				return currentColor{}, true
			case "rebeccapurple": // css-color-4, section 6.1
				return Colour{0x66 / 255.0, 0x33 / 255.0, 0x99 / 255.0, 1}, true
			default:
				c, ok := colornames.Map[low]
				if !ok {
					r.at--
				}
				return Colour{float64(c.R) / 255, float64(c.G) / 255, float64(c.B) / 255, float64(c.A) / 255}, ok
			}
		}
		return nil, false
	})
}

func colourFunction(name string, r *reader) (colour, bool) {
	end := func(c colour, ok bool) (colour, bool) { return c, ok && r.take(")") }
	factor := func() (float64, bool) {
		if !r.take(",") {
			return 0, false
		}
		return plain(r)
	}
	switch name {
	case "rgb", "rgba":
		return end(rgb(r, name == "rgba"))
	case "lighter", "darker":
		of, ok := readColour(r)
		by := 1.3
		if name == "darker" {
			by = 0.7
		}
		return end(shadedColour{of, by}, ok)
	case "shade", "alpha":
		of, ok1 := readColour(r)
		if !ok1 {
			return nil, false
		}
		by, ok2 := factor()
		if name == "shade" {
			return end(shadedColour{of, by}, ok2)
		}
		return end(alphaColour{of, by}, ok2)
	case "mix":
		a, ok1 := readColour(r)
		if !ok1 || !r.take(",") {
			return nil, false
		}
		b, ok2 := readColour(r)
		if !ok2 {
			return nil, false
		}
		by, ok3 := factor()
		return end(mixedColour{a, b, by, r.gtk}, ok3)
	}
	return nil, false
}

// plain reads a bare number.
func plain(r *reader) (float64, bool) {
	t := r.peek()
	if t.kind != css.NumberToken {
		return 0, false
	}
	r.at++
	f, err := strconv.ParseFloat(t.text, 64)
	return f, err == nil
}

// rgb reads three parts, 0–255 or percent, and alpha.
func rgb(r *reader, alpha bool) (Colour, bool) {
	var v [4]float64
	v[3] = 1
	n := 3
	if alpha {
		n = 4
	}
	for i := range n {
		if i > 0 && !r.take(",") {
			return Colour{}, false
		}
		t := r.next()
		f, err := strconv.ParseFloat(strings.TrimSuffix(t.text, "%"), 64)
		switch {
		case err != nil:
			return Colour{}, false
		case t.kind == css.PercentageToken:
			f /= 100
		case t.kind != css.NumberToken:
			return Colour{}, false
		case i < 3:
			f /= 255
		}
		v[i] = min(max(f, 0), 1)
	}
	return Colour{v[0], v[1], v[2], v[3]}, true
}

// hexColour reads rgb, rgba, rrggbb and rrggbbaa.
func hexColour(h string) (Colour, bool) {
	if len(h) == 3 || len(h) == 4 {
		wide := ""
		for _, r := range h {
			wide += string(r) + string(r)
		}
		h = wide
	}
	n, err := strconv.ParseUint(h, 16, 64)
	if err != nil {
		return Colour{}, false
	}
	switch len(h) {
	case 6:
		n = n<<8 | 0xff
	case 8:
	default:
		return Colour{}, false
	}
	part := func(shift uint) float64 { return float64(n>>shift&0xff) / 255 }
	return Colour{part(24), part(16), part(8), part(0)}, true
}

// Shade makes a colour lighter or darker, as the function of that name.
func (c Colour) Shade(k float64) Colour { return shade(c, k) }

// shade makes a colour lighter or darker: lightness and saturation of HSL are
// multiplied (gtkhsla.c, _gtk_hsla_shade).
func shade(c Colour, k float64) Colour {
	h, s, l := toHSL(c)
	r, g, b := fromHSL(h, min(max(s*k, 0), 1), min(max(l*k, 0), 1))
	return Colour{r, g, b, c.A}
}

func toHSL(c Colour) (h, s, l float64) {
	most, least := max(c.R, c.G, c.B), min(c.R, c.G, c.B)
	l = (most + least) / 2
	d := most - least
	if d < 1e-9 {
		return 0, 0, l
	}
	if l <= 0.5 {
		s = d / (most + least)
	} else {
		s = d / (2 - most - least)
	}
	switch most {
	case c.R:
		h = (c.G - c.B) / d
	case c.G:
		h = 2 + (c.B-c.R)/d
	default:
		h = 4 + (c.R-c.G)/d
	}
	if h *= 60; h < 0 {
		h += 360
	}
	return h, s, l
}

func fromHSL(h, s, l float64) (r, g, b float64) {
	if s == 0 {
		return l, l, l
	}
	m2 := l * (1 + s)
	if l > 0.5 {
		m2 = l + s - l*s
	}
	m1 := 2*l - m2
	part := func(h float64) float64 {
		h = math.Mod(h+720, 360)
		switch {
		case h < 60:
			return m1 + (m2-m1)*h/60
		case h < 180:
			return m2
		case h < 240:
			return m1 + (m2-m1)*(240-h)/60
		}
		return m1
	}
	return part(h + 120), part(h), part(h - 120)
}
