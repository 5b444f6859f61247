// Package colour measures colours the way people see them: OKLab and OKLCH
// (Björn Ottosson, "A perceptual color space for image processing", 2020; CSS
// Color Module Level 4, section 9), and the contrast of two colours (WCAG 2.2,
// "contrast ratio" and "relative luminance").
package colour

import (
	"errors"
	"fmt"
	"image/color"
	"math"

	"github.com/lucasb-eyer/go-colorful"
)

// Colour is an opaque sRGB colour, each part 0–1.
type Colour struct{ R, G, B float64 }

// ErrColour: the text is no colour.
var ErrColour = errors.New("not a colour; write #rrggbb or #rgb")

// Parse reads #rrggbb or #rgb.
func Parse(text string) (Colour, error) {
	c, err := colorful.Hex(text)
	if err != nil {
		return Colour{}, fmt.Errorf("%q is %w", text, ErrColour)
	}
	return Colour{c.R, c.G, c.B}, nil
}

// Of8 makes a colour from parts of 0–255.
func Of8(r, g, b uint8) Colour { return Colour{float64(r) / 255, float64(g) / 255, float64(b) / 255} }

// Opaque is the colour as pictures have it, rounded to eight bits.
func (c Colour) Opaque() color.RGBA {
	r, g, b := colorful.Color(c).Clamped().RGB255()
	return color.RGBA{r, g, b, 255}
}

// Hex writes the colour as #rrggbb.
func (c Colour) Hex() string { return colorful.Color(c).Clamped().Hex() }

// Lab returns lightness 0–1 and the two axes of OKLab.
func (c Colour) Lab() (l, a, b float64) { return colorful.Color(c).OkLab() }

// LCH returns lightness 0–1, chroma and hue in degrees. The hue of a grey has no
// meaning and is 0.
func (c Colour) LCH() (l, ch, h float64) {
	l, a, b := c.Lab()
	ch = math.Hypot(a, b)
	if ch < 1e-4 {
		return l, ch, 0
	}
	h = math.Atan2(b, a) * 180 / math.Pi
	if h < 0 {
		h += 360
	}
	return l, ch, h
}

// OfLCH makes a colour, moved to the nearest chroma that sRGB can show.
func OfLCH(l, ch, h float64) Colour {
	const slack = 1e-3 // of rounding
	for ; ch > 0; ch -= 0.002 {
		c := colorful.OkLch(l, ch, h)
		if min(c.R, c.G, c.B) >= -slack && max(c.R, c.G, c.B) <= 1+slack {
			return Colour(c.Clamped())
		}
	}
	return Colour(colorful.OkLch(l, 0, h).Clamped())
}

// OfLab is the colour of OKLab coordinates, with less chroma where sRGB has none of that much.
func OfLab(l, a, b float64) Colour {
	return OfLCH(min(max(l, 0), 1), math.Hypot(a, b), math.Mod(math.Atan2(b, a)*180/math.Pi+360, 360))
}

// Distance is how far apart two colours look: the straight line in OKLab. 0.02
// is just seen; black and white are 1 apart.
func Distance(a, b Colour) float64 {
	la, aa, ba := a.Lab()
	lb, ab, bb := b.Lab()
	return math.Sqrt((la-lb)*(la-lb) + (aa-ab)*(aa-ab) + (ba-bb)*(ba-bb))
}

// HueDistance is the angle between two hues, 0–180 degrees.
func HueDistance(a, b float64) float64 {
	d := math.Mod(math.Abs(a-b), 360)
	return math.Min(d, 360-d)
}

// Luminance is WCAG's relative luminance, 0–1.
func (c Colour) Luminance() float64 {
	r, g, b := colorful.Color(c).LinearRgb()
	return 0.2126*r + 0.7152*g + 0.0722*b
}

// Contrast is WCAG's contrast ratio of two colours, 1–21.
func Contrast(a, b Colour) float64 {
	la, lb := a.Luminance(), b.Luminance()
	if la < lb {
		la, lb = lb, la
	}
	return (la + 0.05) / (lb + 0.05)
}

// hues are the names of hues by where their stretch of the OKLCH circle ends,
// in degrees. The borders lie where the names change that people gave to colours in the
// xkcd colour survey (2010, CC0): 329 of its 353 names of one or two words that end in one of
// these are on their side of them.
var hues = []struct {
	upTo float64
	name string
}{{12, "pink"}, {35, "red"}, {78, "orange"}, {114, "yellow"}, {165, "green"}, {200, "teal"}, {290, "blue"}, {335, "violet"}, {360, "pink"}}

// Hues are the names [HueName] gives, in the order of the circle.
var Hues = []string{"red", "orange", "yellow", "green", "teal", "blue", "violet", "pink"}

// Grey is the chroma below which a colour has no hue to speak of.
const Grey = 0.035

// HueName names a colour's hue, "grey" if it has none to speak of.
func HueName(chroma, hue float64) string {
	if chroma < Grey {
		return "grey"
	}
	for _, h := range hues {
		if hue < h.upTo {
			return h.name
		}
	}
	return "pink"
}
