package backdrop

import (
	"image"
	"image/color"
	"math"

	"golang.org/x/image/draw"
	"golang.org/x/image/math/f64"
)

// Paint draws a part of a monitor with a picture on it: that within the bounds of to, in px of the
// monitor that l is of. The picture may have any size; it stands for the one that was laid.
func Paint(to *image.RGBA, im image.Image, l Laid, ground color.Color) {
	draw.Draw(to, to.Rect, image.NewUniform(ground), image.Point{}, draw.Src)
	b := im.Bounds()
	if l.Mode == None || b.Empty() {
		return
	}
	kx, ky := l.Drawn.W/float64(b.Dx()), l.Drawn.H/float64(b.Dy())
	if l.Mode != Tile {
		at := f64.Aff3{kx, 0, l.Drawn.X - kx*float64(b.Min.X), 0, ky, l.Drawn.Y - ky*float64(b.Min.Y)}
		draw.BiLinear.Transform(to, at, im, b, draw.Over, nil)
		return
	}
	place := func(at, long float64) float64 { return math.Mod(math.Mod(at, long)+long, long) }
	for y := to.Rect.Min.Y; y < to.Rect.Max.Y; y++ {
		v := b.Min.Y + min(int(place(float64(y)+0.5-l.Drawn.Y, l.Drawn.H)/ky), b.Dy()-1)
		for x := to.Rect.Min.X; x < to.Rect.Max.X; x++ {
			u := b.Min.X + min(int(place(float64(x)+0.5-l.Drawn.X, l.Drawn.W)/kx), b.Dx()-1)
			if c := color.RGBAModel.Convert(im.At(u, v)).(color.RGBA); c.A == 255 {
				to.SetRGBA(x, y, c)
			} else if c.A > 0 {
				draw.Draw(to, image.Rect(x, y, x+1, y+1), image.NewUniform(c), image.Point{}, draw.Over)
			}
		}
	}
}

// Smaller is how the same lies on a monitor that is k times as large.
func (l Laid) Smaller(k float64) Laid {
	l.W, l.H, l.ScaleX, l.ScaleY = l.W*k, l.H*k, l.ScaleX*k, l.ScaleY*k
	l.RoomX, l.RoomY = l.RoomX*k, l.RoomY*k
	l.Drawn = Box{l.Drawn.X * k, l.Drawn.Y * k, l.Drawn.W * k, l.Drawn.H * k}
	return l
}
