package imagefile

import (
	"bytes"
	"errors"
	"image"
	"math"

	"github.com/srwiley/oksvg"
	"github.com/srwiley/rasterx"
	_ "golang.org/x/image/webp"
)

// MostPixels bounds a picture that is unpacked.
const MostPixels = 80 << 20

// Raster reads a PNG, JPEG or WebP as it is, or draws an SVG so that its longer
// side has size px. It returns nil for what is none of them, or too large.
func Raster(raw []byte, size int) (im image.Image) {
	if c, _, err := image.DecodeConfig(bytes.NewReader(raw)); err == nil {
		if c.Width*c.Height > MostPixels {
			return nil
		}
		if im, _, err = image.Decode(bytes.NewReader(raw)); err != nil {
			return nil
		}
		return im
	}
	defer func() { // the rasteriser gives up on some drawings by panicking
		if recover() != nil {
			im = nil
		}
	}()
	if errors.Is(Check(raw), ErrCostly) {
		return nil
	}
	icon, err := oksvg.ReadIconStream(bytes.NewReader(raw))
	if err != nil {
		return nil
	}
	w, h := float64(size), float64(size)
	if iw, ih := icon.ViewBox.W, icon.ViewBox.H; iw > 0 && ih > 0 {
		k := float64(size) / max(iw, ih)
		w, h = iw*k, ih*k
	}
	cw, ch := max(int(math.Round(w)), 1), max(int(math.Round(h)), 1)
	icon.SetTarget(0, 0, float64(cw), float64(ch))
	out := image.NewRGBA(image.Rect(0, 0, cw, ch))
	icon.Draw(rasterx.NewDasher(cw, ch, rasterx.NewScannerGV(cw, ch, out, out.Bounds())), 1)
	return out
}
