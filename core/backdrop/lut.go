package backdrop

import "ivelt/core/colour"

// side is how many steps of a part of sRGB are reckoned; colours between them are mixed.
const side = 17

// lut is what becomes of colours, reckoned for some and mixed for those between, in parts of 255.
type lut [][3]float32

// lutOf reckons what becomes of colours.
func lutOf(of func(colour.Colour) colour.Colour) lut {
	table := make(lut, side*side*side)
	for i := range table {
		c := of(colour.Colour{R: float64(i%side) / (side - 1), G: float64(i/side%side) / (side - 1), B: float64(i/side/side) / (side - 1)})
		for k, v := range [3]float64{c.R, c.G, c.B} {
			table[i][k] = float32(255 * min(max(v, 0), 1))
		}
	}
	return table
}

// steps are where each value of a part lies between two that are reckoned.
var steps = func() (out [256]struct {
	at   int
	part float32
}) {
	for v := range out {
		x := float64(v) * (side - 1) / 255
		out[v].at = min(int(x), side-2)
		out[v].part = float32(x - float64(out[v].at))
	}
	return out
}()

// of is what becomes of a colour.
func (t lut) of(red, green, blue uint8) (out [3]float32) {
	r, g, b := steps[red], steps[green], steps[blue]
	at := r.at + side*(g.at+side*b.at)
	for c := range 3 {
		mix := func(i int) float32 { return t[i][c] + (t[i+1][c]-t[i][c])*r.part }
		low := mix(at) + (mix(at+side)-mix(at))*g.part
		high := mix(at+side*side) + (mix(at+side*side+side)-mix(at+side*side))*g.part
		out[c] = low + (high-low)*b.part
	}
	return out
}
