package backdrop

import (
	"context"
	"errors"
	"image"
	"math"
	"slices"
	"sync"

	"golang.org/x/image/draw"
	"golang.org/x/image/math/f64"

	"ivelt/core/colour"
)

// Soft darkens or lightens a picture along one of its edges, or blurs it there, so that what lies over
// it can be made out, and leaves the rest as it is.
type Soft struct {
	Edge     string  `json:"edge"`     // one of Edges
	Until    float64 `json:"until"`    // how far from that edge it is wholly so, of 1, the picture; it fades out beyond
	Dark     bool    `json:"dark"`     // or else it is lighter
	Strength float64 `json:"strength"` // of 1; 0 for as dark as it is
	Blur     float64 `json:"blur"`     // the standard deviation of a Gaussian, of 1, its height; 0 for as sharp as it is
}

// Edges are those along which a picture may be softened.
var Edges = []string{"upper", "lower", "left", "right"}

const mostBlur = 0.25 // of a picture's height: beyond there is nothing to be told apart

// Valid tells what is wrong with it.
func (s Soft) Valid() error {
	within := func(v, most float64) bool { return v >= 0 && v <= most }
	if !within(s.Strength, 1) || !within(s.Blur, mostBlur) || !(s.Strength+s.Blur > 0) || !(s.Until > 0 && s.Until <= 1) || !slices.Contains(Edges, s.Edge) {
		return errors.New("a picture is softened from 0 to 100 percent, or blurred, along a part of it")
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

// At is how much of the softening there is at a place of a picture, each of 1 from its upper left
// corner: 1 along the edge, then less and less, 0 for the rest.
func (s Soft) At(x, y float64) float64 {
	far := map[string]float64{"upper": y, "lower": 1 - y, "left": x, "right": 1 - x}[s.Edge]
	switch far = (far - s.Until) / s.fade(); {
	case far <= 0:
		return 1
	case far >= 1:
		return 0
	default:
		return 1 - far*far*(3-2*far)
	}
}

// fade is along how much of a picture it fades out.
func (s Soft) fade() float64 { return max(s.Until, 0.08) }

// reach is the part of a picture that is softened at all.
func (s Soft) reach(of image.Rectangle) image.Rectangle {
	until := min(s.Until+s.fade(), 1)
	wide, high := int(math.Ceil(until*float64(of.Dx()))), int(math.Ceil(until*float64(of.Dy())))
	switch s.Edge {
	case "upper":
		of.Max.Y = of.Min.Y + high
	case "lower":
		of.Min.Y = of.Max.Y - high
	case "left":
		of.Max.X = of.Min.X + wide
	case "right":
		of.Min.X = of.Max.X - wide
	}
	return of
}

// Apply is a picture as it is softened. Its errors are those of ctx, and what [Soft.Valid] tells.
func (s Soft) Apply(ctx context.Context, im image.Image) (*image.NRGBA, error) {
	if err := s.Valid(); err != nil {
		return nil, err
	}
	b := im.Bounds()
	out := copied(im)
	at := s.reach(out.Rect)
	along, down := make([]float32, b.Dx()), make([]float32, b.Dy())
	for x := range along {
		along[x] = float32(s.At((float64(x)+0.5)/float64(b.Dx()), 0.5))
	}
	for y := range down {
		down[y] = float32(s.At(0.5, (float64(y)+0.5)/float64(b.Dy())))
	}
	by := func(x, y int) float32 {
		if s.Edge == "left" || s.Edge == "right" {
			return along[x]
		}
		return down[y]
	}
	var hazy *image.RGBA
	if s.Blur > 0 {
		if hazy = s.hazy(im, at); ctx.Err() != nil {
			return nil, ctx.Err()
		}
	}
	var to lut
	if s.Strength > 0 && s.Dark {
		to = darkened()
	} else if s.Strength > 0 {
		to = lightened()
	}
	for y := at.Min.Y; y < at.Max.Y; y++ {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		for x := at.Min.X; x < at.Max.X; x++ {
			p, by := out.Pix[out.PixOffset(x, y):][:4], by(x, y)
			mix := func(c int, v, by float32) { p[c] = uint8(float32(p[c]) + (v-float32(p[c]))*by + 0.5) }
			if hazy != nil {
				if soft := hazy.Pix[hazy.PixOffset(x, y):][:4]; soft[3] > 0 { // colours that their alpha is in
					for c := range 3 {
						mix(c, min(255*float32(soft[c])/float32(soft[3]), 255), by)
					}
				}
			}
			if s.Strength > 0 {
				for c, v := range to.of(p[0], p[1], p[2]) {
					mix(c, v, by*float32(s.Strength))
				}
			}
		}
	}
	return out, nil
}

// copied is a picture with its colours apart from its alpha.
func copied(im image.Image) *image.NRGBA {
	b := im.Bounds()
	out := image.NewNRGBA(image.Rect(0, 0, b.Dx(), b.Dy()))
	if of, ok := im.(*image.RGBA); ok && of.Opaque() { // which has them so
		for y := range b.Dy() {
			copy(out.Pix[y*out.Stride:][:4*b.Dx()], of.Pix[of.PixOffset(b.Min.X, b.Min.Y+y):])
		}
		return out
	}
	draw.Draw(out, out.Rect, im, b.Min, draw.Src)
	return out
}

// hazy is a part of a picture through the Gaussian: of a wide one the picture is taken smaller first,
// in which nothing is lost that it would leave.
func (s Soft) hazy(im image.Image, at image.Rectangle) *image.RGBA {
	b := im.Bounds()
	sd := s.Blur * float64(b.Dy())
	part := at.Inset(-int(math.Ceil(3 * sd))).Intersect(image.Rect(0, 0, b.Dx(), b.Dy())) // all that reaches into it
	times := max(sd/4, 1)
	inner := image.Rect(0, 0, max(int(math.Round(float64(part.Dx())/times)), 1), max(int(math.Round(float64(part.Dy())/times)), 1))
	kx, ky := float64(part.Dx())/float64(inner.Dx()), float64(part.Dy())/float64(inner.Dy())
	small := image.NewRGBA(inner.Inset(-int(math.Ceil(3 * sd / ky))))
	draw.BiLinear.Scale(small, inner, im, part.Add(b.Min), draw.Src, nil)
	for y := small.Rect.Min.Y; y < small.Rect.Max.Y; y++ { // beyond its edges it goes on as it is there
		for x := small.Rect.Min.X; x < small.Rect.Max.X; x++ {
			if !image.Pt(x, y).In(inner) {
				small.SetRGBA(x, y, small.RGBAAt(min(max(x, 0), inner.Max.X-1), min(max(y, 0), inner.Max.Y-1)))
			}
		}
	}
	soft := Blurred(small, inner, sd/ky)
	out := image.NewRGBA(at)
	to := f64.Aff3{kx, 0, float64(part.Min.X), 0, ky, float64(part.Min.Y)}
	draw.ApproxBiLinear.Transform(out, to, soft, inner, draw.Src, nil) // what becomes larger needs no more
	return out
}
