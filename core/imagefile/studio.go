package imagefile

import (
	"image"
	"image/color"
)

// studio is a picture of a lossy WebP: its luma is from 16 to 235 and its chroma from 16 to 240 (RFC
// 6386, 9.2: ITU-R BT.601), which golang.org/x/image/webp hands out as if it were a JPEG's, from 0 to
// 255.
type studio struct {
	*image.YCbCr
	alpha *image.NYCbCrA // nil if it has none
}

// asStudio gives what was decoded of a WebP its colours.
func asStudio(im image.Image) image.Image {
	switch of := im.(type) {
	case *image.YCbCr:
		return studio{of, nil}
	case *image.NYCbCrA:
		return studio{&of.YCbCr, of}
	}
	return im // without loss
}

func (s studio) ColorModel() color.Model {
	if s.alpha != nil {
		return color.NRGBAModel
	}
	return color.RGBAModel
}

func (s studio) Opaque() bool { return s.alpha == nil || s.alpha.Opaque() }

func (s studio) At(x, y int) color.Color {
	if !image.Pt(x, y).In(s.Rect) {
		return color.RGBA{}
	}
	c := s.YCbCrAt(x, y)
	luma, cb, cr := 298*(int(c.Y)-16), int(c.Cb)-128, int(c.Cr)-128
	to := func(v int) uint8 { return uint8(min(max((v+128)>>8, 0), 255)) }
	r, g, b := to(luma+409*cr), to(luma-100*cb-208*cr), to(luma+516*cb)
	if s.alpha == nil {
		return color.RGBA{r, g, b, 255}
	}
	return color.NRGBA{r, g, b, s.alpha.A[s.alpha.AOffset(x, y)]}
}
