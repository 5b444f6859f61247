package backdrop

import (
	"context"
	"errors"
	"image"
	"image/draw"
	"runtime"

	"golang.org/x/sync/errgroup"

	"ivelt/core/colour"
)

// Tint draws the colours of a picture towards one, and leaves what is light light and what is dark dark.
type Tint struct {
	Toward   colour.Colour
	Strength float64 // of 1: 0 leaves all, at 1 all has its hue
}

// Valid tells what is wrong with it.
func (t Tint) Valid() error {
	if !(t.Strength >= 0 && t.Strength <= 1) {
		return errors.New("a tint is from 0 to 100 percent strong")
	}
	return nil
}

// Of is a colour as it is tinted: of the same lightness in OKLCH, with its hue and strength drawn towards
// those of the tint, which fade to none at black and white, where no colour can be as strong. What no
// screen can show becomes weaker.
func (t Tint) Of(c colour.Colour) colour.Colour {
	l, a, b := c.Lab()
	_, ta, tb := t.Toward.Lab()
	fade := min(4*l*(1-l)*1.25, 1)
	a, b = a+(ta*fade-a)*t.Strength, b+(tb*fade-b)*t.Strength
	return colour.OfLab(l, a, b)
}

// side is how many steps of a part of sRGB are reckoned; colours between them are mixed.
const side = 17

// Apply is a picture as it is tinted. Its errors are those of ctx.
func (t Tint) Apply(ctx context.Context, im image.Image) (*image.NRGBA, error) {
	b := im.Bounds()
	out := image.NewNRGBA(image.Rect(0, 0, b.Dx(), b.Dy()))
	table := make([][3]float32, side*side*side)
	for i := range table {
		c := t.Of(colour.Colour{R: float64(i%side) / (side - 1), G: float64(i/side%side) / (side - 1), B: float64(i/side/side) / (side - 1)})
		for k, v := range [3]float64{c.R, c.G, c.B} {
			table[i][k] = float32(255 * min(max(v, 0), 1))
		}
	}
	var steps [256]struct {
		at   int
		part float32
	}
	for v := range steps {
		x := float64(v) * (side - 1) / 255
		steps[v].at = min(int(x), side-2)
		steps[v].part = float32(x - float64(steps[v].at))
	}
	const band = 64 // rows
	work, ctx := errgroup.WithContext(ctx)
	work.SetLimit(runtime.GOMAXPROCS(0))
	for top := 0; top < b.Dy(); top += band {
		work.Go(func() error {
			if err := ctx.Err(); err != nil {
				return err
			}
			part := image.Rect(0, top, b.Dx(), min(top+band, b.Dy()))
			draw.Draw(out.SubImage(part).(draw.Image), part, im, b.Min.Add(part.Min), draw.Src)
			for y := part.Min.Y; y < part.Max.Y; y++ {
				row := out.Pix[y*out.Stride:][:4*b.Dx()]
				for i := 0; i < len(row); i += 4 {
					r, g, bl := steps[row[i]], steps[row[i+1]], steps[row[i+2]]
					at := r.at + side*(g.at+side*bl.at)
					for c := range 3 {
						mix := func(i int) float32 { return table[i][c] + (table[i+1][c]-table[i][c])*r.part }
						low := mix(at) + (mix(at+side)-mix(at))*g.part
						high := mix(at+side*side) + (mix(at+side*side+side)-mix(at+side*side))*g.part
						row[i+c] = uint8(low + (high-low)*bl.part + 0.5)
					}
				}
			}
			return nil
		})
	}
	return out, work.Wait()
}
