package taste

import (
	"cmp"
	"slices"

	"ivelt/core/colour"
)

// Shades are the darkest and the lightest of a picture's colours, but for the
// twentieth part of it at either end. It is not ok if it is no picture.
func Shades(raw []byte) (dark, light colour.Colour, ok bool) {
	im := picture(raw, 64)
	if im == nil {
		return dark, light, false
	}
	var all []colour.Colour
	for y := im.Bounds().Min.Y; y < im.Bounds().Max.Y; y++ {
		for x := im.Bounds().Min.X; x < im.Bounds().Max.X; x++ {
			r, g, b, a := im.At(x, y).RGBA()
			if a > 0x8000 {
				all = append(all, colour.Of8(uint8(r>>8), uint8(g>>8), uint8(b>>8)))
			}
		}
	}
	if len(all) == 0 {
		return dark, light, false
	}
	slices.SortFunc(all, func(a, b colour.Colour) int { return cmp.Compare(a.Luminance(), b.Luminance()) })
	return all[len(all)/20], all[len(all)-1-len(all)/20], true
}
