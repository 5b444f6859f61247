package backdrop

import (
	"context"
	"errors"
	"image"
	"image/draw"
	"sync"

	"ivelt/core/colour"
)

// Soft darkens or lightens a picture along its upper or lower edge, so that what lies over it
// there can be made out, and leaves the rest as it is.
type Soft struct {
	Bottom   bool    `json:"bottom"`   // its lower edge
	Until    float64 `json:"until"`    // how far from that edge it is wholly so, of 1, its height; it fades out beyond
	Dark     bool    `json:"dark"`     // or else it is lighter
	Strength float64 `json:"strength"` // of 1
}

// Valid tells what is wrong with it.
func (s Soft) Valid() error {
	if !(s.Strength > 0 && s.Strength <= 1) || !(s.Until > 0 && s.Until <= 1) {
		return errors.New("a picture is softened from 0 to 100 percent, along a part of its height")
	}
	return nil
}

// The lightness in OKLab that a softened picture goes towards; at the whole strength all has it.
const (
	dim    = 0.15
	bright = 0.97
)

// Of is a colour as it is softened by a part of 1: mixed with one that is dark, or bright, and
// weaker, of the same hue.
func (s Soft) Of(c colour.Colour, by float64) colour.Colour {
	to := s.whole(c)
	return colour.Colour{R: c.R + (to.R-c.R)*by, G: c.G + (to.G-c.G)*by, B: c.B + (to.B-c.B)*by}
}

// whole is a colour that is softened by all of it.
func (s Soft) whole(c colour.Colour) colour.Colour {
	_, a, b := c.Lab()
	to := bright
	if s.Dark {
		to = dim
	}
	return colour.OfLab(to, 0.4*a, 0.4*b)
}

// darkened and lightened are what becomes of colours.
var (
	darkened  = sync.OnceValue(func() lut { return lutOf(Soft{Dark: true}.whole) })
	lightened = sync.OnceValue(func() lut { return lutOf(Soft{}.whole) })
)

// At is by how much it is softened at a height from its upper edge, of 1.
func (s Soft) At(y float64) float64 {
	if s.Bottom {
		y = 1 - y
	}
	fade := max(s.Until, 0.08)
	switch far := (y - s.Until) / fade; {
	case far <= 0:
		return s.Strength
	case far >= 1:
		return 0
	default:
		return s.Strength * (1 - far*far*(3-2*far))
	}
}

// Apply is a picture as it is softened. Its errors are those of ctx.
func (s Soft) Apply(ctx context.Context, im image.Image) (*image.NRGBA, error) {
	b := im.Bounds()
	out := image.NewNRGBA(image.Rect(0, 0, b.Dx(), b.Dy()))
	draw.Draw(out, out.Rect, im, b.Min, draw.Src)
	table := lightened
	if s.Dark {
		table = darkened
	}
	to := table()
	for y := range b.Dy() {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		by := float32(s.At((float64(y) + 0.5) / float64(b.Dy())))
		if by == 0 {
			continue
		}
		row := out.Pix[y*out.Stride:][:4*b.Dx()]
		for i := 0; i < len(row); i += 4 {
			for c, v := range to.of(row[i], row[i+1], row[i+2]) {
				was := float32(row[i+c])
				row[i+c] = uint8(was + (v-was)*by + 0.5)
			}
		}
	}
	return out, nil
}
