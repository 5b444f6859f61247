package market

import (
	"math"

	"ivelt/core/colour"
)

// Point places looks in a space in which the straight line between two is how
// far apart they are: what tells first weighs most, and a plain difference is
// about 1 (docs/taste.md; the weights are our own). Colour is a point of the
// plane of chroma and hue, so that the hue of a grey counts nothing.
func (l Looks) Point() [6]float64 {
	h := l.Hue * math.Pi / 180
	return [6]float64{
		2.5 * l.Lightness, 6 * l.Chroma * math.Cos(h), 6 * l.Chroma * math.Sin(h),
		0.5 * math.Log2(max(l.Contrast, 1)), 0.8 * l.Roundness, 0.6 * l.Density,
	}
}

// Distance is how far apart two looks are, 0 for the same.
func (l Looks) Distance(m Looks) float64 {
	p, q := l.Point(), m.Point()
	sum := 0.0
	for i := range p {
		sum += (p[i] - q[i]) * (p[i] - q[i])
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
func (l Looks) Apart(m Looks) [5]float64 {
	p, q := l.Point(), m.Point()
	return [5]float64{
		PartLightness: math.Abs(p[0] - q[0]),
		PartColour:    math.Hypot(p[1]-q[1], p[2]-q[2]),
		PartContrast:  math.Abs(p[3] - q[3]),
		PartRoundness: math.Abs(p[4] - q[4]),
		PartDensity:   math.Abs(p[5] - q[5]),
	}
}

// Dark tells whether the looks are dark.
func (l Looks) Dark() bool { return l.Lightness < 0.5 }

// HueName names the hue, "grey" if there is none to speak of.
func (l Looks) HueName() string { return colour.HueName(l.Chroma, l.Hue) }
