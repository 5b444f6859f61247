package gtkcss

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"golang.org/x/image/colornames"
)

// Colour is an sRGB colour: parts 0–1, not multiplied by A.
type Colour struct{ R, G, B, A float64 }

// String writes it as r,g,b,a: 0–255, alpha with three decimals.
func (c Colour) String() string {
	part := func(f float64) int { return int(math.Round(min(max(f, 0), 1) * 255)) }
	return fmt.Sprintf("%d,%d,%d,%.3f", part(c.R), part(c.G), part(c.B), min(max(c.A, 0), 1))
}

// CSS writes it for a picture.
func (c Colour) CSS() string {
	part := func(f float64) int { return int(math.Round(min(max(f, 0), 1) * 255)) }
	return fmt.Sprintf("rgba(%d,%d,%d,%.3g)", part(c.R), part(c.G), part(c.B), c.A)
}

// mostDeep bounds colours that are defined by others.
const mostDeep = 32

// colour resolves a colour expression: CSS colours, @names, and GTK's shade,
// lighter, darker, alpha and mix.
func (s *Sheet) colour(text string, current Colour, deep int) (Colour, bool) {
	text = strings.TrimSpace(text)
	if text == "" || deep > mostDeep {
		return Colour{}, false
	}
	low := strings.ToLower(text)
	switch {
	case text[0] == '@':
		value, ok := s.colours[text[1:]]
		if !ok {
			return Colour{}, false
		}
		return s.colour(value, current, deep+1)
	case text[0] == '#':
		return hexColour(text[1:])
	case low == "transparent":
		return Colour{}, true
	case low == "currentcolor":
		return current, true
	}
	name, rest, ok := strings.Cut(text, "(")
	if !ok {
		c, ok := colornames.Map[low]
		return Colour{float64(c.R) / 255, float64(c.G) / 255, float64(c.B) / 255, float64(c.A) / 255}, ok
	}
	args := split(strings.TrimSuffix(rest, ")"), ',')
	for i := range args {
		args[i] = strings.TrimSpace(args[i])
	}
	first := func() (Colour, bool) { return s.colour(args[0], current, deep+1) }
	switch strings.ToLower(strings.TrimSpace(name)) {
	case "rgb", "rgba":
		return rgb(args)
	case "shade":
		if c, ok := first(); ok && len(args) == 2 {
			if k, ok := number(args[1]); ok {
				return shade(c, k), true
			}
		}
	case "lighter":
		if c, ok := first(); ok {
			return shade(c, 1.3), true
		}
	case "darker":
		if c, ok := first(); ok {
			return shade(c, 0.7), true
		}
	case "alpha":
		if c, ok := first(); ok && len(args) == 2 {
			if k, ok := number(args[1]); ok {
				c.A = min(max(c.A*k, 0), 1)
				return c, true
			}
		}
	case "mix":
		if len(args) != 3 {
			break
		}
		a, ok1 := first()
		b, ok2 := s.colour(args[1], current, deep+1)
		k, ok3 := number(args[2])
		if ok1 && ok2 && ok3 {
			mix := func(x, y float64) float64 { return x + (y-x)*k }
			return Colour{mix(a.R, b.R), mix(a.G, b.G), mix(a.B, b.B), mix(a.A, b.A)}, true
		}
	}
	return Colour{}, false
}

func number(text string) (float64, bool) {
	k := 1.0
	if t, ok := strings.CutSuffix(text, "%"); ok {
		text, k = t, 0.01
	}
	f, err := strconv.ParseFloat(text, 64)
	return f * k, err == nil
}

// hexColour reads #rgb, #rgba, #rrggbb and #rrggbbaa. Those with alpha are GTK
// 4's; GTK 3 leaves it out.
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

func rgb(args []string) (Colour, bool) {
	if len(args) != 3 && len(args) != 4 {
		return Colour{}, false
	}
	var v [4]float64
	v[3] = 1
	for i, a := range args {
		f, ok := number(a)
		if !ok {
			return Colour{}, false
		}
		if i < 3 && !strings.HasSuffix(a, "%") {
			f /= 255
		}
		v[i] = min(max(f, 0), 1)
	}
	return Colour{v[0], v[1], v[2], v[3]}, true
}

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
