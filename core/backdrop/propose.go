package backdrop

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"ivelt/core/colour"
	"ivelt/core/palette"
)

// Ground is what an accent is seen on.
type Ground struct {
	Name   string
	Colour colour.Colour
}

// Accent is a proposal for the one colour that stands out.
type Accent struct {
	Colour   colour.Colour
	From     Leading
	Moved    float64 // how far it is from the colour of the picture, in OKLab; 0 if it is that itself
	Contrast float64 // to the ground on which it is seen least
	On       string  // that ground
	Score    float64 // of 1
}

// Seen reports whether it has the contrast that it needs on all grounds.
func (a Accent) Seen() bool { return a.Contrast >= SeenOn }

// How is how it differs from the colour of the picture, in words.
func (a Accent) How() string {
	var out []string
	was, chroma, _ := a.From.Colour.LCH()
	now, strong, _ := a.Colour.LCH()
	if strong > chroma+0.01 {
		out = append(out, "stronger")
	}
	switch {
	case now > was+0.01:
		out = append(out, "lighter")
	case now < was-0.01:
		out = append(out, "darker")
	}
	return strings.Join(out, " and ")
}

// SeenOn is the contrast that an accent needs on its ground: WCAG 2.2, success criterion 1.4.11.
const SeenOn = 3.0

// From what on a colour can be an accent, and how far apart accents are. Own choice.
const (
	leastChroma = 0.025
	strong      = 0.08 // what has a hue and is weaker is made so strong
	hueApart    = 20.0 // degrees
)

// Accents are up to most accents out of a picture's leading colours, the best first: stronger where they
// are weak, and lighter or darker where they have to be to be seen on all grounds, or at least on the first
// if no colour of the hue is seen on all; of the same hue. What is strong, much of the picture, little
// changed and seen is better.
func Accents(leading []Leading, grounds []Ground, most int) (out []Accent) {
	for _, l := range leading {
		lightness, chroma, hue := l.Colour.LCH()
		if chroma < leastChroma {
			continue
		}
		c := l.Colour
		if chroma < strong {
			c = colour.OfLCH(lightness, strong, hue)
		}
		c, ok := seenOnAll(c, grounds)
		if !ok && len(grounds) > 0 {
			if near, can := colour.Nearest(c, grounds[0].Colour, SeenOn*1.01); can {
				c = near
			}
		}
		a := Accent{Colour: c, From: l, Moved: colour.Distance(c, l.Colour), Contrast: 21}
		for _, g := range grounds {
			if ratio := colour.Contrast(c, g.Colour); ratio < a.Contrast {
				a.Contrast, a.On = ratio, g.Name
			}
		}
		_, chroma, _ = c.LCH()
		a.Score = min(chroma/0.16, 1)*0.4 + min(math.Sqrt(l.Share)/0.5, 1)*0.25 + max(1-a.Moved/0.3, 0)*0.2
		if a.Seen() {
			a.Score += 0.15
		}
		out = append(out, a)
	}
	slices.SortStableFunc(out, func(a, b Accent) int { return cmp.Compare(b.Score, a.Score) })
	var kept []Accent
	for _, a := range out {
		_, _, hue := a.Colour.LCH()
		if !slices.ContainsFunc(kept, func(k Accent) bool {
			_, _, h := k.Colour.LCH()
			return colour.HueDistance(hue, h) < hueApart
		}) {
			kept = append(kept, a)
		}
	}
	return kept[:min(len(kept), most)]
}

// seenOnAll is the nearest colour of a hue that is seen on all grounds; false if there is none.
func seenOnAll(c colour.Colour, grounds []Ground) (colour.Colour, bool) {
	well := func(c colour.Colour) bool {
		return !slices.ContainsFunc(grounds, func(g Ground) bool { return colour.Contrast(c, g.Colour) < SeenOn })
	}
	if well(c) {
		return c, true
	}
	best, near := c, math.Inf(1)
	for _, g := range grounds {
		if n, ok := colour.Nearest(c, g.Colour, SeenOn*1.01); ok && well(n) && colour.Distance(n, c) < near {
			best, near = n, colour.Distance(n, c)
		}
	}
	return best, !math.IsInf(near, 1)
}

// ansi are the hues of the six colours of a terminal, degrees of OKLCH: those of sRGB's own red, green,
// yellow, blue, magenta and cyan.
var ansi = [6]float64{29.2, 142.5, 109.8, 264.1, 328.4, 194.8}

// Tone is where a colour of a proposed palette comes from.
type Tone struct {
	Colour colour.Colour
	From   *Leading // whose hue and strength it takes, as far as it stays what it is called; nil for none
}

// Own choice: from how far a colour of the picture counts as a red, and how far it draws the red to it.
const (
	drawnFrom = 40.0 // degrees
	drawnBy   = 22.0
)

// Sixteen is a palette of a terminal out of a picture's leading colours, light or dark: ground and ink
// have the hue of its darkest and lightest, the six colours are drawn to those of the picture that are
// nearest in hue and are as strong, and all that is written in can be read on the ground (see
// [palette.Legible]). tones tell where each comes from.
func Sixteen(leading []Leading, dark bool) (p palette.Palette, tones [16]Tone) {
	back := Leading{Colour: colour.OfLCH(0.3, 0.01, 250)}
	for i, l := range leading {
		lightness, _, _ := l.Colour.LCH()
		now, _, _ := back.Colour.LCH()
		if l.Share >= 0.02 && (i == 0 || dark == (lightness < now)) {
			back = l
		}
	}
	_, chroma, hue := back.Colour.LCH()
	grey := func(lightness, most float64) colour.Colour { return colour.OfLCH(lightness, min(chroma, most), hue) }
	shades := map[int]float64{0: 0.3, 7: 0.85, 8: 0.62, 15: 0.95}
	plain, bright := 0.72, 0.82
	p.Ground, p.Ink = grey(0.2, 0.045), grey(0.9, 0.02)
	if !dark {
		p.Ground, p.Ink = grey(0.965, 0.02), grey(0.28, 0.03)
		shades = map[int]float64{0: 0.28, 7: 0.9, 8: 0.48, 15: 0.99}
		plain, bright = 0.52, 0.45
	}
	for i, lightness := range shades {
		c := grey(lightness, 0.02)
		if quiet := dark && i == 0 || !dark && (i == 7 || i == 15); !quiet {
			c = p.Nearest(c)
		}
		p.Colours[i], tones[i] = c, Tone{Colour: c}
	}
	usual := usualChroma(leading)
	for i, at := range ansi {
		hue, strength := at, usual
		var from *Leading
		near := drawnFrom
		for k, l := range leading {
			_, c, h := l.Colour.LCH()
			if d := colour.HueDistance(h, at); c >= 0.03 && d < near {
				near, from = d, &leading[k]
			}
		}
		if from != nil {
			_, c, h := from.Colour.LCH()
			off := math.Remainder(h-at, 360)
			hue, strength = at+min(max(off, -drawnBy), drawnBy), min(max(c, 0.07), 0.16)
		}
		for k, lightness := range [2]float64{plain, bright} {
			c := p.Nearest(colour.OfLCH(lightness, strength, math.Mod(hue+360, 360)))
			p.Colours[1+i+8*k], tones[1+i+8*k] = c, Tone{c, from}
		}
	}
	return p, tones
}

// usualChroma is how strong colours are in a picture, in the median of those that have a hue.
func usualChroma(leading []Leading) float64 {
	var all []float64
	for _, l := range leading {
		if _, c, _ := l.Colour.LCH(); c >= 0.04 {
			all = append(all, c)
		}
	}
	if len(all) == 0 {
		return 0.08
	}
	slices.Sort(all)
	return min(max(all[len(all)/2], 0.06), 0.13)
}
