package recolour

import (
	"context"
	"fmt"
	"image"
	"image/color"

	"ivelt/core/colour"
	"ivelt/core/xcursor"
)

// Fill says what the inside of a pointer becomes and what its outline; what is shaded between
// the two stays between them. Colours that are on no way from one to the other are left alone.
type Fill struct {
	Inside, Outline     colour.Colour // as they are
	ToInside, ToOutline colour.Colour
}

// offLine is how far a colour may be from the way between inside and outline to be one of their
// shades, in OKLab. Common practice, no source: what is drawn in a third colour is further.
const offLine = 0.08

// Of is what a colour becomes.
func (f Fill) Of(c colour.Colour) colour.Colour {
	at, from, to := lab(c), lab(f.Inside), lab(f.Outline)
	var along, long float64
	for i := range at {
		along += (at[i] - from[i]) * (to[i] - from[i])
		long += (to[i] - from[i]) * (to[i] - from[i])
	}
	t := 0.0
	if long > 0 {
		t = min(max(along/long, 0), 1)
	}
	inside, outline := lab(f.ToInside), lab(f.ToOutline)
	var off float64
	var made [3]float64
	for i := range at {
		apart := at[i] - (from[i] + t*(to[i]-from[i]))
		off += apart * apart
		made[i] = inside[i] + t*(outline[i]-inside[i]) + apart
	}
	switch {
	case off > offLine*offLine:
		return c
	case f.ToInside == f.Inside && f.ToOutline == f.Outline:
		return c
	}
	return colour.OfLab(made[0], made[1], made[2])
}

func lab(c colour.Colour) [3]float64 {
	l, a, b := c.Lab()
	return [3]float64{l, a, b}
}

// pointer recolours every picture of an Xcursor file; sizes, hot spots and delays stay.
func (d *Dyer) pointer(ctx context.Context, raw []byte) ([]byte, bool, error) {
	f, err := xcursor.Parse(raw)
	if err != nil {
		return nil, false, fmt.Errorf("%w: %w", ErrPicture, err)
	}
	changed := false
	var frames []xcursor.Frame
	for _, im := range f.Images {
		if err := ctx.Err(); err != nil {
			return nil, false, err
		}
		picture := f.Picture(im)
		for i := 0; i < len(picture.Pix); i += 4 {
			c := color.NRGBAModel.Convert(color.RGBA{picture.Pix[i], picture.Pix[i+1], picture.Pix[i+2], picture.Pix[i+3]}).(color.NRGBA)
			if c.A == 0 {
				continue
			}
			from := [3]uint8{c.R, c.G, c.B}
			to := d.eight(from)
			if to == from {
				continue
			}
			changed = true
			made := color.RGBAModel.Convert(color.NRGBA{to[0], to[1], to[2], c.A}).(color.RGBA)
			picture.Pix[i], picture.Pix[i+1], picture.Pix[i+2] = made.R, made.G, made.B
		}
		frames = append(frames, xcursor.Frame{Size: im.Size, Picture: picture, HotX: im.HotX, HotY: im.HotY, Delay: int(im.Delay.Milliseconds())})
	}
	if !changed {
		return raw, false, nil
	}
	return xcursor.Encode(frames), true, nil
}

// MainPointer are the colours that a pointer has most of inside and at its edge; false for what
// is no pointer, or an empty one.
func MainPointer(raw []byte) (inside, outline colour.Colour, ok bool) {
	f, err := xcursor.Parse(raw)
	if err != nil || len(f.Images) == 0 {
		return inside, outline, false
	}
	picture := f.Picture(f.Frames(f.Best(48))[0])
	at := func(x, y int) color.NRGBA {
		if !(image.Point{x, y}).In(picture.Rect) {
			return color.NRGBA{}
		}
		return color.NRGBAModel.Convert(picture.RGBAAt(x, y)).(color.NRGBA)
	}
	var within, edge counted
	for y := picture.Rect.Min.Y; y < picture.Rect.Max.Y; y++ {
		for x := picture.Rect.Min.X; x < picture.Rect.Max.X; x++ {
			c := at(x, y)
			if c.A < solid {
				continue
			}
			if min(at(x-1, y).A, at(x+1, y).A, at(x, y-1).A, at(x, y+1).A) < solid {
				edge.add(c)
			} else {
				within.add(c)
			}
		}
	}
	outline, hasEdge := edge.most(func(color.NRGBA) bool { return true })
	inside, hasInside := within.most(func(c color.NRGBA) bool {
		return colour.Distance(colour.Of8(c.R, c.G, c.B), outline) > offLine
	})
	if !hasInside {
		inside = outline
	}
	return inside, outline, hasEdge
}

// solid is the alpha from which a pixel counts as part of the drawing.
const solid = 200

// counted are colours with how often they were seen.
type counted struct{ of map[color.NRGBA]int }

func (c *counted) add(of color.NRGBA) {
	if c.of == nil {
		c.of = map[color.NRGBA]int{}
	}
	of.A = 255
	c.of[of]++
}

// most is the colour that was seen most of those that are meant; of equals the darkest.
func (c *counted) most(meant func(color.NRGBA) bool) (colour.Colour, bool) {
	var best color.NRGBA
	n := 0
	order := func(c color.NRGBA) int { return int(c.R)<<16 | int(c.G)<<8 | int(c.B) }
	for of, times := range c.of {
		if meant(of) && (times > n || times == n && order(of) < order(best)) {
			best, n = of, times
		}
	}
	return colour.Of8(best.R, best.G, best.B), n > 0
}
