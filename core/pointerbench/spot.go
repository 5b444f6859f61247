package pointerbench

import (
	"image"
	"math"
	"strings"

	"golang.org/x/image/draw"

	"ivelt/core/pointerset"
	"ivelt/core/xcursor"
)

// solid is how opaque a pixel has to be to belong to a pointer, and not to its shadow, of 255.
const solid = 128

// Where the hot spots of roles are expected: at the tip of what points, in the middle of what
// lies around a place (common practice, no source).
const (
	tipRoles    = " default progress "
	topRoles    = " pointer up-arrow "
	middleRoles = " crosshair ns-resize ew-resize nwse-resize nesw-resize "
)

// expected are the places at one of which the hot spot of a picture is expected; none if that
// cannot be told.
func expected(p *image.RGBA, ink image.Rectangle, role *pointerset.Role) []spot {
	if role == nil || ink.Empty() {
		return nil
	}
	is := func(list string) bool { return strings.Contains(list, " "+role.Name+" ") }
	switch {
	case is(tipRoles):
		return []spot{corner(p, ink)}
	case is(topRoles): // a finger that points aslant has its tip in a corner
		return []spot{top(p, ink), corner(p, ink)}
	case is(middleRoles):
		x, y := (ink.Min.X+ink.Max.X-1)/2, (ink.Min.Y+ink.Max.Y-1)/2
		return []spot{{image.Rectangle{image.Pt(x, y), image.Pt(x+1, y+1)}}}
	}
	return nil
}

// corner is the tip of an arrow: the solid pixels that are furthest to the upper left, or to the
// upper right in a set for the left hand, whichever lies further out in its corner.
func corner(p *image.RGBA, ink image.Rectangle) spot {
	best, at := math.MaxInt, map[bool]image.Rectangle{}
	far := map[bool]int{false: best, true: best}
	for y := ink.Min.Y; y < ink.Max.Y; y++ {
		for x := ink.Min.X; x < ink.Max.X; x++ {
			if p.Pix[y*p.Stride+4*x+3] < solid {
				continue
			}
			for _, right := range []bool{false, true} {
				d := x - ink.Min.X + y - ink.Min.Y
				if right {
					d = ink.Max.X - 1 - x + y - ink.Min.Y
				}
				switch {
				case d < far[right]:
					far[right], at[right] = d, image.Rect(x, y, x, y)
				case d == far[right]:
					r := at[right]
					at[right] = image.Rect(min(r.Min.X, x), min(r.Min.Y, y), max(r.Max.X, x), max(r.Max.Y, y))
				}
			}
		}
	}
	return spot{at[far[true] < far[false]]}
}

// top is the tip of a finger: the solid pixels of the upper edge, and the few lines below.
func top(p *image.RGBA, ink image.Rectangle) spot {
	out := image.Rectangle{image.Pt(ink.Max.X, ink.Min.Y), image.Pt(ink.Min.X, ink.Min.Y+ink.Dy()/6)}
	for y := ink.Min.Y; y <= ink.Min.Y+ink.Dy()/8; y++ {
		for x := ink.Min.X; x < ink.Max.X; x++ {
			if p.Pix[y*p.Stride+4*x+3] >= solid {
				out.Min.X, out.Max.X = min(out.Min.X, x), max(out.Max.X, x)
			}
		}
	}
	return spot{out}
}

// jump is how much more differs between the last picture of a row and its first than between
// others that follow each other, in the median.
func jump(f *xcursor.File, frames []xcursor.Image) (times float64, spare int) {
	var steps, ends []float64 // from one to the next, and from each of the last ones to the first
	before := f.Picture(frames[0])
	first := before
	from := len(frames) - 1 - max(len(frames)/8, 1)
	for i, im := range frames[1:] {
		now := f.Picture(im)
		steps = append(steps, apart(before, now))
		if i+1 >= from {
			ends = append(ends, apart(now, first))
		}
		before = now
	}
	usual := median(steps)
	if usual == 0 {
		return 1, 0
	}
	times = max(ends[len(ends)-1]/usual, 1)
	for n := 1; times > largeJump && n < len(ends); n++ {
		if ends[len(ends)-1-n]/usual <= largeJump {
			return times, n
		}
	}
	return times, 0
}

// apart is how much two pictures differ, in the mean over the pixels of the larger.
func apart(a, b *image.RGBA) float64 {
	if a.Rect != b.Rect {
		return 255
	}
	sum := 0
	for i := range a.Pix {
		d := int(a.Pix[i]) - int(b.Pix[i])
		sum += max(d, -d)
	}
	return float64(sum) / float64(max(len(a.Pix), 1))
}

// edge is how many px an edge of a picture is wide when it is scaled: the pixels that are neither
// there nor not, by those of the outline.
func edge(p *image.RGBA, from, to int) float64 {
	if from != to {
		size := image.Pt(max(1, p.Rect.Dx()*to/from), max(1, p.Rect.Dy()*to/from))
		out := image.NewRGBA(image.Rectangle{Max: size})
		draw.CatmullRom.Scale(out, out.Rect, p, p.Rect, draw.Src, nil)
		p = out
	}
	at := func(x, y int) uint8 {
		if !image.Pt(x, y).In(p.Rect) {
			return 0
		}
		return p.Pix[y*p.Stride+4*x+3]
	}
	half, outline := 0, 0
	for y := range p.Rect.Dy() {
		for x := range p.Rect.Dx() {
			a := at(x, y)
			if a > 25 && a < 230 {
				half++
			}
			if a >= solid && min(at(x-1, y), at(x+1, y), at(x, y-1), at(x, y+1)) < solid {
				outline++
			}
		}
	}
	return float64(half) / float64(max(outline, 1))
}
