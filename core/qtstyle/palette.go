package qtstyle

import (
	"fmt"
	"math"
)

// Colour is one with its parts from 0 to 1.
type Colour struct{ R, G, B, A float64 }

// Hex reads a colour as #rrggbb.
func Hex(s string) Colour {
	var r, g, b int
	if _, err := fmt.Sscanf(s, "#%02x%02x%02x", &r, &g, &b); err != nil {
		panic(err) // written here
	}
	return grey(r, g, b, 255)
}

func grey(r, g, b, a int) Colour {
	return Colour{float64(r) / 255, float64(g) / 255, float64(b) / 255, float64(a) / 255}
}

// String is the colour as #rrggbb, without its alpha.
func (c Colour) String() string {
	of := func(v float64) int { return int(math.Round(v * 255)) }
	return fmt.Sprintf("#%02x%02x%02x", of(c.R), of(c.G), of(c.B))
}

// seen is the colour with another alpha, 0 to 255.
func (c Colour) seen(alpha int) Colour {
	c.A = float64(alpha) / 255
	return c
}

// hsv is the colour as hue in sixths of a circle, saturation and value.
func (c Colour) hsv() (h, s, v float64) {
	v = max(c.R, c.G, c.B)
	d := v - min(c.R, c.G, c.B)
	switch {
	case d == 0:
		return 0, 0, v
	case v == c.R:
		h = math.Mod((c.G-c.B)/d+6, 6)
	case v == c.G:
		h = (c.B-c.R)/d + 2
	default:
		h = (c.R-c.G)/d + 4
	}
	return h, d / v, v
}

// ofHSV is the colour of that hue, saturation and value.
func ofHSV(h, s, v, alpha float64) Colour {
	of := func(n float64) float64 {
		k := math.Mod(n+h, 6)
		return v - v*s*max(0, min(k, 4-k, 1))
	}
	return Colour{of(5), of(3), of(1), alpha}
}

// lighter is the colour at so many hundredths of its value; what is too much for that
// goes off its saturation (qcolor.cpp, QColor::lighter).
func (c Colour) lighter(percent int) Colour {
	h, s, v := c.hsv()
	if v = v * float64(percent) / 100; v > 1 {
		s, v = max(s-(v-1), 0), 1
	}
	return ofHSV(h, s, v, c.A)
}

// darker is the colour at a value divided by so many hundredths (QColor::darker).
func (c Colour) darker(percent int) Colour {
	h, s, v := c.hsv()
	return ofHSV(h, s, v*100/float64(percent), c.A)
}

// merged is so many hundredths of a colour and the rest of another.
func merged(a, b Colour, percent float64) Colour {
	k := percent / 100
	return Colour{a.R*k + b.R*(1-k), a.G*k + b.G*(1-k), a.B*k + b.B*(1-k), a.A}
}

// light is how light a colour looks, 0 to 1 (qrgb.h, qGray).
func (c Colour) light() float64 { return (c.R*11 + c.G*16 + c.B*5) / 32 }

// Palette is the colours that Qt draws with.
type Palette struct {
	Window, WindowText, Base, Text, Button, ButtonText, Highlight, HighlightedText Colour
}

// Of are the colours of what is on and of what is off where no platform theme gives any:
// Qt 5.15 and 6.4 take those of the style Fusion, whatever GTK shows; their platform theme
// for GTK 3 gives none (qplatformtheme.cpp, qgtk3theme.cpp).
func Of(off bool) Palette {
	p := Palette{Hex("#efefef"), Hex("#000000"), Hex("#ffffff"), Hex("#000000"), Hex("#efefef"), Hex("#000000"), Hex("#308cc6"), Hex("#ffffff")}
	if off {
		p.WindowText, p.Text, p.ButtonText = Hex("#bebebe"), Hex("#bebebe"), Hex("#bebebe")
		p.Base, p.Highlight = p.Window, Hex("#919191")
	}
	return p
}

func (p Palette) outline() Colour { return p.Window.darker(140) }

func (p Palette) chosenOutline() Colour {
	c := p.Highlight.darker(125)
	if h, s, v := c.hsv(); v > 160.0/255 {
		return ofHSV(h, s, 160.0/255, 1)
	}
	return c
}

func (p Palette) button() Colour {
	c := p.Button.lighter(100 + max(1, int(180-255*p.Button.light())/6))
	h, s, v := c.hsv()
	return ofHSV(h, s*0.75, v, 1)
}

func (p Palette) page() Colour { return p.button().lighter(104) }
