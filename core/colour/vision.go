package colour

import "github.com/lucasb-eyer/go-colorful"

// Vision is a way of seeing colours in which one of the eye's three kinds of
// cones is missing.
type Vision struct {
	Name, Title string
	from        [3][3]float64 // of linear red, green and blue
}

// Visions are those three, after the matrices for full severity that G. M.
// Machado, M. M. Oliveira and L. A. F. Fernandes published ("A Physiologically-based
// Model for Simulation of Color Vision Deficiency", IEEE Transactions on
// Visualization and Computer Graphics 15, 2009; values from memory, held against
// those that a browser emulates).
var Visions = []Vision{
	{"protanopia", "without red cones", [3][3]float64{{0.152286, 1.052583, -0.204868}, {0.114503, 0.786281, 0.099216}, {-0.003882, -0.048116, 1.051998}}},
	{"deuteranopia", "without green cones", [3][3]float64{{0.367322, 0.860646, -0.227968}, {0.280085, 0.672501, 0.047413}, {-0.011820, 0.042940, 0.968881}}},
	{"tritanopia", "without blue cones", [3][3]float64{{1.255528, -0.076749, -0.178779}, {-0.078411, 0.930809, 0.147602}, {0.004733, 0.691367, 0.303900}}},
}

// Of is a colour as it is seen so.
func (v Vision) Of(c Colour) Colour {
	r, g, b := colorful.Color(c).LinearRgb()
	out := [3]float64{}
	for i, row := range v.from {
		out[i] = min(max(row[0]*r+row[1]*g+row[2]*b, 0), 1)
	}
	return Colour(colorful.LinearRgb(out[0], out[1], out[2]))
}

// Nearest is a colour of the same hue whose contrast with a ground is at least
// needed: the one that is lighter or darker by the least, as a screen of 8 bits a
// part shows it. It is the colour itself if that will do; ok is false if no colour
// of its hue does.
func Nearest(c, ground Colour, needed float64) (nearest Colour, ok bool) {
	if Contrast(c, ground) >= needed {
		return c, true
	}
	l, chroma, hue := c.LCH()
	least := 2.0
	for _, to := range []float64{0, 1} {
		if Contrast(shown(to, chroma, hue), ground) < needed {
			continue
		}
		far, near := to, l // far will do, near will not
		for range 24 {
			if mid := (far + near) / 2; Contrast(shown(mid, chroma, hue), ground) >= needed {
				far = mid
			} else {
				near = mid
			}
		}
		if d := max(far-l, l-far); d < least {
			nearest, least, ok = shown(far, chroma, hue), d, true
		}
	}
	return nearest, ok
}

// shown is a colour as a screen of 8 bits a part shows it.
func shown(l, chroma, hue float64) Colour {
	c, err := Parse(OfLCH(l, chroma, hue).Hex())
	if err != nil {
		panic(err) // it was just written
	}
	return c
}
