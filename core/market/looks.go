package market

import (
	"math"

	"ivelt/core/colour"
)

// Distance is how far apart two looks are, 0 for the same. It adds up what
// tells first: lightness, colour, shape; each part is scaled so that a plain
// difference counts about 1 (docs/taste.md; the weights are our own).
func (l Looks) Distance(m Looks) float64 {
	p := l.parts(m)
	sum := 0.0
	for _, d := range p {
		sum += d * d
	}
	return math.Sqrt(sum)
}

// Part is one of the measures that looks are told apart by.
type Part int

// The parts, in the order of [Looks.Apart].
const (
	PartLightness Part = iota
	PartColour
	PartContrast
	PartRoundness
	PartDensity
)

// Apart returns how far apart two looks are in each part.
func (l Looks) Apart(m Looks) [5]float64 { return l.parts(m) }

func (l Looks) parts(m Looks) [5]float64 {
	// Colour as a point of the plane of chroma and hue, so that the hue of a
	// grey counts nothing.
	a1, b1 := polar(l.Chroma, l.Hue)
	a2, b2 := polar(m.Chroma, m.Hue)
	return [5]float64{
		PartLightness: 2.5 * (l.Lightness - m.Lightness),
		PartColour:    6 * math.Hypot(a1-a2, b1-b2),
		PartContrast:  0.5 * math.Abs(math.Log2(max(l.Contrast, 1)/max(m.Contrast, 1))),
		PartRoundness: 0.8 * (l.Roundness - m.Roundness),
		PartDensity:   0.6 * (l.Density - m.Density),
	}
}

func polar(chroma, hue float64) (a, b float64) {
	h := hue * math.Pi / 180
	return chroma * math.Cos(h), chroma * math.Sin(h)
}

// Dark tells whether the looks are dark.
func (l Looks) Dark() bool { return l.Lightness < 0.5 }

// HueName names the hue, "grey" if there is none to speak of.
func (l Looks) HueName() string { return colour.HueName(l.Chroma, l.Hue) }
