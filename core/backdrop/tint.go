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

// Apply is a picture as it is tinted. Its errors are those of ctx.
func (t Tint) Apply(ctx context.Context, im image.Image) (*image.NRGBA, error) {
	b := im.Bounds()
	out := image.NewNRGBA(image.Rect(0, 0, b.Dx(), b.Dy()))
	table := lutOf(t.Of)
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
					for c, v := range table.of(row[i], row[i+1], row[i+2]) {
						row[i+c] = uint8(v + 0.5)
					}
				}
			}
			return nil
		})
	}
	return out, work.Wait()
}
