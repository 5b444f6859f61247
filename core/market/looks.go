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
	h, chroma := l.Hue*math.Pi/180, l.Chroma
	if l.Hue < 0 {
		chroma = 0 // as far from every hue
	}
	roundness := l.Roundness
	if roundness < 0 {
		roundness = 0.5 // as far from either
	}
	return [6]float64{
		2.5 * l.Lightness, 6 * chroma * math.Cos(h), 6 * chroma * math.Sin(h),
		0.5 * math.Log2(max(l.Contrast, 1)), 0.8 * roundness, 0.6 * l.Density,
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

// Shade is the word for how light they are: light or dark.
func (l Looks) Shade() string {
	if l.Dark() {
		return "dark"
	}
	return "light"
}

// In is what the form of a shade looks like, the usual one if there is none of it.
func (l Looks) In(dark bool) Looks {
	if l.Other != nil && l.Dark() != dark {
		return *l.Other
	}
	return l
}

// Shapeless is the roundness of what has no outline to speak of: pointers, pictures,
// palettes, themes whose engine draws the shapes.
const Shapeless = -1

// Shape is the word for how round a piece is: round or square, "" if it is shapeless.
func (l Looks) Shape() string {
	switch {
	case l.Roundness < 0:
		return ""
	case l.Roundness >= 0.5:
		return "round"
	}
	return "square"
}

// Words say what a piece looks like: its shade, or both if it has two forms, its hue and
// its shape.
func (l Looks) Words() []string {
	out := []string{l.Shade(), l.HueName()}
	if l.TwoForms {
		out[0] = "light and dark"
	}
	if shape := l.Shape(); shape != "" {
		out = append(out, shape)
	}
	return out
}

// Mixed is the hue of what has several, none of them before the others.
const Mixed = -1

// leastMixed is the chroma from which several hues are seen as such.
const leastMixed = 0.025

// HueName names the hue: "grey" if there is none to speak of, "mixed" if there are several.
func (l Looks) HueName() string {
	switch {
	case l.Hue >= 0:
		return colour.HueName(l.Chroma, l.Hue)
	case l.Chroma < leastMixed:
		return "grey"
	}
	return "mixed"
}

// OneHue tells whether there is a hue, and but one.
func (l Looks) OneHue() bool { return l.Hue >= 0 && l.Chroma >= colour.Grey }
