package judge

import (
	"image"
	"math"

	"golang.org/x/image/draw"

	"ivelt/core/backdrop"
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
		soft := backdrop.Blurred(sharp, at, sd)
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
