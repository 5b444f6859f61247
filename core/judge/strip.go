package judge

import (
	"image"
	"math"

	"golang.org/x/image/draw"
)

// Strip is what a screen of w × h px shows of a part of a picture that fills it, in
// the rectangle at, with a blur behind it as a shell's setting gives it, px: a
// Gaussian of half that as its standard deviation, of the picture and nothing
// outside of it, its colours so many times as strong, over the picture itself.
func Strip(im image.Image, part image.Rectangle, w, h int, at image.Rectangle, blur, saturation float64) *image.RGBA {
	reach := reachOf(at, w, h, blur)
	kx, ky := float64(part.Dx())/float64(w), float64(part.Dy())/float64(h)
	from := image.Rect(part.Min.X+int(float64(reach.Min.X)*kx), part.Min.Y+int(float64(reach.Min.Y)*ky), part.Min.X+int(math.Ceil(float64(reach.Max.X)*kx)), part.Min.Y+int(math.Ceil(float64(reach.Max.Y)*ky)))
	sharp := image.NewRGBA(reach)
	draw.BiLinear.Scale(sharp, reach, im, from, draw.Src, nil)
	return through(sharp, at, blur, saturation)
}

// reachOf is what of a screen is seen in a part of it through a blur.
func reachOf(at image.Rectangle, w, h int, blur float64) image.Rectangle {
	return at.Inset(-int(math.Ceil(3 * blur / 2))).Intersect(image.Rect(0, 0, w, h))
}

// through is a part of a screen, given with all that reaches into it, blurred and saturated.
func through(sharp *image.RGBA, at image.Rectangle, blur, saturation float64) *image.RGBA {
	sd := blur / 2
	out := image.NewRGBA(at)
	draw.Copy(out, at.Min, sharp, at, draw.Src, nil)
	if sd > 0 {
		soft := blurred(sharp, at, sd)
		saturate(soft, saturation)
		draw.Copy(out, at.Min, soft, at, draw.Over, nil)
	} else {
		saturate(out, saturation)
	}
	return out
}

// saturate makes the colours of a picture so many times as strong (Filter Effects Module
// Level 1, "feColorMatrix", type saturate).
func saturate(im *image.RGBA, s float64) {
	if s == 1 {
		return
	}
	for i := 0; i+3 < len(im.Pix); i += 4 {
		most := float64(im.Pix[i+3]) // of a colour that its alpha is in
		r, g, b := float64(im.Pix[i]), float64(im.Pix[i+1]), float64(im.Pix[i+2])
		grey := 0.213*r + 0.715*g + 0.072*b
		for c, v := range [3]float64{r, g, b} {
			im.Pix[i+c] = uint8(min(max(grey+s*(v-grey)+0.5, 0), most))
		}
	}
}

// blurred is a picture through a Gaussian, by three box blurs one after the other
// (Filter Effects Module Level 1, "feGaussianBlur"); what is outside of it is
// clear. Only the rows and columns of at, and as far around as counts, are right.
func blurred(im *image.RGBA, at image.Rectangle, sd float64) *image.RGBA {
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
