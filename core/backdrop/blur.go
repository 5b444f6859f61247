package backdrop

import (
	"image"
	"math"
)

// Blurred is a picture through a Gaussian, by three box blurs one after the other
// (Filter Effects Module Level 1, "feGaussianBlur"); what is outside of it is
// clear. sd is its standard deviation, px. Only the rows and columns of at, and as far around as counts, are right.
func Blurred(im *image.RGBA, at image.Rectangle, sd float64) *image.RGBA {
	around := at.Inset(-int(math.Ceil(3 * sd)))
	w, h := around.Dx(), around.Dy()
	plane := make([]float32, 4*w*h)
	for y := range h {
		for x := range w {
			if p := image.Pt(around.Min.X+x, around.Min.Y+y); p.In(im.Rect) {
				o := im.PixOffset(p.X, p.Y)
				for c := range 4 {
					plane[4*(y*w+x)+c] = float32(im.Pix[o+c])
				}
			}
		}
	}
	boxes := boxesOf(sd)
	line := make([]float32, 4*max(w, h))
	for y := range h {
		boxBlur(plane, line, 4*y*w, 4, w, boxes)
	}
	for x := range w {
		boxBlur(plane, line, 4*x, 4*w, h, boxes)
	}
	out := image.NewRGBA(around)
	for i, v := range plane {
		out.Pix[i] = uint8(min(max(v+0.5, 0), 255))
	}
	return out
}

// boxesOf are the three boxes that come near a Gaussian: how far each reaches before and
// after.
func boxesOf(sd float64) [3][2]int {
	d := max(int(sd*3*math.Sqrt(2*math.Pi)/4+0.5), 1)
	if d%2 == 0 { // one to the left, one to the right, and one of a pixel more
		return [3][2]int{{d / 2, d/2 - 1}, {d/2 - 1, d / 2}, {d / 2, d / 2}}
	}
	return [3][2]int{{d / 2, d - d/2 - 1}, {d / 2, d - d/2 - 1}, {d / 2, d - d/2 - 1}}
}

// boxBlur blurs n pixels of a plane from a place on, each so many values after the other;
// line is room to work in.
func boxBlur(plane, line []float32, start, step, n int, boxes [3][2]int) {
	for _, b := range boxes {
		size := float32(b[0] + b[1] + 1)
		for c := range 4 {
			get := func(i int) float32 {
				if i < 0 || i >= n {
					return 0
				}
				return plane[start+i*step+c]
			}
			sum := float32(0)
			for i := -b[0]; i <= b[1]; i++ {
				sum += get(i)
			}
			for i := range n {
				line[4*i+c] = sum / size
				sum += get(i+b[1]+1) - get(i-b[0])
			}
		}
		for i := range n {
			copy(plane[start+i*step:start+i*step+4], line[4*i:4*i+4])
		}
	}
}
