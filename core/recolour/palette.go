package recolour

import "ivelt/core/colour"

// Palette gives each colour the hue of the one of a palette that is nearest to it in hue, and so much
// of its chroma as it had itself; how light it is stays. Hues of a palette's greys count for nothing.
type Palette struct{ to []lch }

type lch struct{ l, c, h float64 }

// colours are about as strong as that in icons; what is weaker or stronger stays so beside the
// palette's. Common practice, no source.
const strong = 0.12

// NewPalette is what maps to some colours; false if all of them are white, grey or black.
func NewPalette(colours []colour.Colour) (p Palette, ok bool) {
	for _, c := range colours {
		if l, chroma, hue := c.LCH(); chroma > grey {
			p.to = append(p.to, lch{l, chroma, hue})
		}
	}
	return p, len(p.to) > 0
}

// Of is what a colour becomes.
func (p Palette) Of(c colour.Colour) colour.Colour {
	l, chroma, hue := c.LCH()
	if chroma <= grey || len(p.to) == 0 {
		return c
	}
	near := p.to[0]
	for _, to := range p.to[1:] {
		if colour.HueDistance(hue, to.h) < colour.HueDistance(hue, near.h) {
			near = to
		}
	}
	return colour.OfLCH(l, max(near.c*min(chroma/strong, 1.25), 1.01*grey), near.h)
}
