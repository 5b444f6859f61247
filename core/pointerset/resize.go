package pointerset

import (
	"context"
	"image"
	"slices"

	"ivelt/core/say"
	"ivelt/core/xcursor"
)

// Change is what is changed in a pointer for X.
type Change struct {
	Sizes  []int // nominal, px, made from the nearest where it has none; none for those that it has
	Mirror bool  // for the other hand
	// Hot moves the hot spot, by what is drawn in a picture; nil leaves it.
	Hot    *Spot
	Motion Motion
}

// None reports whether it changes nothing.
func (c Change) None() bool {
	return len(c.Sizes) == 0 && !c.Mirror && c.Hot == nil && c.Motion.None()
}

// Spot is a place in what is drawn of a pointer, from its left and its top, of 1 its extent.
type Spot struct{ X, Y float64 }

// Changed is a file for X with a change made in all its pictures.
func Changed(ctx context.Context, raw []byte, c Change) ([]byte, error) {
	f, err := xcursor.Parse(raw)
	if err != nil {
		return nil, err
	}
	sizes := append([]int{}, f.Sizes()...)
	own := sizes
	if c.Motion.Pictures > 1 {
		moves := func(size int) bool { return len(f.Frames(size)) > 1 }
		if still := slices.DeleteFunc(slices.Clone(own), moves); len(still) < len(own) {
			own = slices.DeleteFunc(slices.Clone(own), func(size int) bool { return slices.Contains(still, size) })
		}
	}
	for _, s := range c.Sizes {
		if !slices.Contains(sizes, s) {
			sizes = append(sizes, s)
		}
	}
	var frames []xcursor.Frame
	pixels := 0
	for _, size := range sizes {
		from := nearest(own, size)
		for _, im := range c.Motion.Of(f.Frames(from)) {
			if err := ctx.Err(); err != nil {
				return nil, err
			}
			extent := scaledTo(im.Rect.Size(), from, size)
			if pixels += extent.X * extent.Y; pixels > maxMade {
				return nil, say.Errorf("%w: its pictures have more than %d million pixels", ErrWanted, maxMade>>20)
			}
			made := cell{f.Picture(im), image.Pt(im.HotX, im.HotY)}
			if from != size {
				made = made.scaled(from, size)
			}
			if c.Hot != nil {
				made.hot = c.Hot.in(made.RGBA)
			}
			if c.Mirror {
				made = made.mirrored()
			}
			frames = append(frames, xcursor.Frame{Size: size, Picture: made.RGBA, HotX: made.hot.X, HotY: made.hot.Y, Delay: int(im.Delay.Milliseconds())})
		}
	}
	return xcursor.Encode(frames), nil
}

// in is the pixel of a picture that a spot is at.
func (s Spot) in(p *image.RGBA) image.Point {
	ink := Ink(p)
	if ink.Empty() {
		ink = p.Rect
	}
	at := func(from, long int, part float64, most int) int {
		return min(max(from+int(part*float64(long-1)+0.5), 0), most-1)
	}
	return image.Pt(at(ink.Min.X, ink.Dx(), s.X, p.Rect.Dx()), at(ink.Min.Y, ink.Dy(), s.Y, p.Rect.Dy()))
}

// SpotOf is where a pixel of a picture is in what is drawn there.
func SpotOf(p *image.RGBA, x, y int) Spot {
	ink := Ink(p)
	if ink.Empty() {
		ink = p.Rect
	}
	return Spot{float64(x-ink.Min.X) / float64(max(ink.Dx()-1, 1)), float64(y-ink.Min.Y) / float64(max(ink.Dy()-1, 1))}
}

// solid is how opaque a pixel has to be to belong to a pointer, and not to its shadow, of 255.
const solid = 128

// Ink is the box of what is drawn of a pointer, its shadow left out; empty if nothing is.
func Ink(p *image.RGBA) (box image.Rectangle) {
	for y := range p.Rect.Dy() {
		line := p.Pix[y*p.Stride:]
		for x := range p.Rect.Dx() {
			if line[4*x+3] >= solid {
				box = box.Union(image.Rect(x, y, x+1, y+1))
			}
		}
	}
	return box
}

func (c cell) mirrored() cell {
	out := cell{image.NewRGBA(c.Rect), image.Pt(max(c.Rect.Dx()-1-c.hot.X, 0), c.hot.Y)}
	for y := range c.Rect.Dy() {
		from, to := c.Pix[y*c.Stride:], out.Pix[y*out.Stride:]
		for x := range c.Rect.Dx() {
			copy(to[4*(c.Rect.Dx()-1-x):][:4], from[4*x:])
		}
	}
	return out
}
