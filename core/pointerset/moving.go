package pointerset

import (
	"cmp"
	"context"
	"image"
	"math"
	"slices"
	"sync"
	"time"

	"golang.org/x/image/draw"

	"ivelt/core/curfile"
	"ivelt/core/xcursor"
)

// moving is a pointer as both formats can hold it: a row of steps, each in the same sizes.
type moving struct {
	sizes []int           // px, ascending: those that every step has a picture of its own for
	steps []time.Duration // how long each lasts
	// extent is how large the picture of a step in one of the sizes is, without looking at it.
	extent func(step, size int) image.Point
	cell   func(step, size int) (cell, error)
	frame  []int // the picture that each step shows: some come again
	// check looks at what only the pictures themselves tell, of no more than some pixels.
	check func(ctx context.Context, pixels *int) error

	turns  bool          // some pixels turn the colour of what lies below
	uneven bool          // its sizes do not move alike
	wider  []int         // sizes whose pictures are larger than they say
	off    time.Duration // by how much a step is longer or shorter than in the source
}

// cell is one picture.
type cell struct {
	*image.RGBA // at 0, 0
	hot         image.Point
}

// fromCur is what a .cur or .ani holds.
func fromCur(p *curfile.Pointer) *moving {
	m := &moving{}
	for _, s := range p.Frames[0].Sizes() {
		if !slices.ContainsFunc(p.Frames, func(f *curfile.File) bool { _, ok := f.Of(s); return !ok }) {
			m.sizes = append(m.sizes, s)
		}
	}
	if len(m.sizes) == 0 { // each step in a size of its own: the largest of the first
		m.sizes = []int{slices.Max(p.Frames[0].Sizes())}
	}
	slices.Sort(m.sizes)
	// Times are counted on from the first, so that they do not drift.
	jiffies, before := 0, time.Duration(0)
	for _, s := range p.Steps {
		jiffies += s.Jiffies
		end := (time.Duration(jiffies) * time.Second / 60).Round(time.Millisecond)
		m.steps, m.frame = append(m.steps, end-before), append(m.frame, s.Frame)
		m.off = max(m.off, (end - before - time.Duration(s.Jiffies)*time.Second/60).Abs())
		before = end
	}
	if len(m.steps) == 1 {
		m.off = 0 // it is not counted
	}
	m.check = func(ctx context.Context, pixels *int) error {
		for _, f := range p.Frames {
			for _, im := range f.Images {
				if im.Plain() {
					continue
				}
				if *pixels -= im.Width * im.Height; *pixels < 0 {
					return nil // it shows when it is made
				}
				if err := ctx.Err(); err != nil {
					return err
				}
				_, turned, err := im.Picture()
				if err != nil {
					return err
				}
				m.turns = m.turns || turned != nil
			}
		}
		return nil
	}
	of := func(step, size int) (curfile.Image, bool) {
		f := p.Frames[p.Steps[step].Frame]
		if im, ok := f.Of(size); ok {
			return im, true
		}
		im, _ := f.Of(nearest(f.Sizes(), size))
		return im, false
	}
	m.extent = func(step, size int) image.Point {
		im, _ := of(step, size)
		return scaledTo(image.Pt(im.Width, im.Height), im.Size(), size)
	}
	m.cell = func(step, size int) (cell, error) {
		im, own := of(step, size)
		picture, turned, err := im.Picture()
		if err != nil {
			return cell{}, err
		}
		c := cell{premultiplied(picture), image.Pt(im.HotX, im.HotY)}
		if turned != nil {
			c.darken(turned)
		}
		if !own {
			c = c.scaled(im.Size(), size)
		}
		return c, nil
	}
	return m
}

// fromX is what an Xcursor file holds. Its pictures are laid into squares of their nominal size,
// as the other format knows no other size than that of the picture.
func fromX(f *xcursor.File) *moving {
	m := &moving{sizes: slices.Sorted(slices.Values(f.Sizes())), check: func(context.Context, *int) error { return nil }}
	frames, side := map[int][]xcursor.Image{}, map[int]int{}
	longest := m.sizes[0]
	for _, s := range m.sizes {
		frames[s] = f.Frames(s)
		side[s] = s
		for _, im := range frames[s] {
			side[s] = max(side[s], im.Rect.Dx(), im.Rect.Dy())
		}
		if side[s] > s {
			m.wider = append(m.wider, s)
		}
		if len(frames[s]) > len(frames[longest]) {
			longest = s
		}
	}
	var starts []time.Duration
	at := time.Duration(0)
	for i, im := range frames[longest] {
		m.frame = append(m.frame, i)
		starts = append(starts, at)
		m.steps = append(m.steps, im.Delay)
		at += im.Delay
	}
	for _, s := range m.sizes {
		m.uneven = m.uneven || !slices.EqualFunc(frames[s], frames[longest], func(a, b xcursor.Image) bool { return a.Delay == b.Delay })
	}
	if len(m.steps) > 1 {
		for i, j := range jiffies(m.steps) {
			m.off = max(m.off, (m.steps[i] - time.Duration(j)*time.Second/60).Abs())
		}
	}
	of := func(step, size int) xcursor.Image {
		all := frames[size]
		if len(all) == len(starts) {
			return all[step]
		}
		var turn time.Duration
		for _, im := range all {
			turn += im.Delay
		}
		if turn <= 0 {
			return all[step%len(all)]
		}
		for left, i := starts[step]%turn, 0; ; i++ {
			if left -= all[i].Delay; left < 0 || i == len(all)-1 {
				return all[i]
			}
		}
	}
	m.extent = func(step, size int) image.Point { return image.Pt(side[size], side[size]) }
	m.cell = func(step, size int) (cell, error) {
		im := of(step, size)
		square := image.NewRGBA(image.Rect(0, 0, side[size], side[size]))
		draw.Copy(square, image.Point{}, f.Picture(im), im.Rect, draw.Src, nil)
		return cell{square, image.Pt(im.HotX, im.HotY)}, nil
	}
	return m
}

// own reports whether a size is there, and need not be made.
func (m *moving) own(size int) bool { return slices.Contains(m.sizes, size) }

// work is how many pixels are gone through to make a size.
func (m *moving) work(size int) (pixels int) {
	area := func(p image.Point) int { return p.X * p.Y }
	from := nearest(m.sizes, size)
	seen := map[int]bool{}
	for step, f := range m.frame {
		if !seen[f] {
			seen[f] = true
			pixels += max(area(m.extent(step, from)), area(m.extentIn(step, size)))
		}
	}
	return pixels
}

// extentIn is how large the picture of a step in any size is: made of that of the next larger
// size, or else of the largest.
func (m *moving) extentIn(step, size int) image.Point {
	if m.own(size) {
		return m.extent(step, size)
	}
	from := nearest(m.sizes, size)
	return scaledTo(m.extent(step, from), from, size)
}

// nearest is the size that another is made from: the next larger one, or the largest.
func nearest(sizes []int, size int) int {
	best := 0
	for _, s := range sizes {
		if better := s >= size && (best < size || s < best) || s < size && best < size && s > best; better {
			best = s
		}
	}
	return best
}

// scaledTo is an extent times to/from, at least a pixel each way.
func scaledTo(of image.Point, from, to int) image.Point {
	by := func(n int) int { return max(1, (2*n*to+from)/(2*from)) }
	return image.Pt(by(of.X), by(of.Y))
}

// scaled is a picture times to/from. The hot spot stays at the upper left corner of its pixel,
// where the tip of an arrow is.
func (c cell) scaled(from, to int) cell {
	size := scaledTo(c.Rect.Size(), from, to)
	out := cell{image.NewRGBA(image.Rectangle{Max: size}), image.Pt(c.hot.X*to/from, c.hot.Y*to/from)}
	out.hot.X, out.hot.Y = min(out.hot.X, size.X), min(out.hot.Y, size.Y)
	draw.CatmullRom.Scale(out.RGBA, out.Rect, c.RGBA, c.Rect, draw.Src, nil)
	return out
}

// darken draws what turns the colour of what lies below: in black, with white around it where
// nothing else is, so that it is seen on any ground.
func (c cell) darken(turned *image.Alpha) {
	is := func(x, y int) bool { return image.Pt(x, y).In(turned.Rect) && turned.AlphaAt(x, y).A != 0 }
	for y := range c.Rect.Dy() {
		for x := range c.Rect.Dx() {
			at := c.Pix[c.PixOffset(x, y):]
			if is(x, y) {
				copy(at, []byte{0, 0, 0, 255})
				continue
			}
			near := false
			for _, d := range []image.Point{{-1, -1}, {0, -1}, {1, -1}, {-1, 0}, {1, 0}, {-1, 1}, {0, 1}, {1, 1}} {
				near = near || is(x+d.X, y+d.Y)
			}
			if near && at[3] == 0 {
				copy(at, []byte{255, 255, 255, 255})
			}
		}
	}
}

// premultiplied is a picture with its colours times their alpha, rounded.
func premultiplied(p *image.NRGBA) *image.RGBA {
	out := image.NewRGBA(image.Rect(0, 0, p.Rect.Dx(), p.Rect.Dy()))
	for y := range p.Rect.Dy() {
		from, to := p.Pix[y*p.Stride:], out.Pix[y*out.Stride:]
		for i := 0; i < 4*p.Rect.Dx(); i += 4 {
			a := uint(from[i+3])
			for k := range 3 {
				to[i+k] = uint8((uint(from[i+k])*a*2 + 255) / 510)
			}
			to[i+3] = from[i+3]
		}
	}
	return out
}

// parted are the colours that were multiplied by an alpha, by both.
var parted = sync.OnceValue(func() *[256][256]uint8 {
	var out [256][256]uint8
	for a := uint(1); a < 256; a++ {
		for c := range uint(256) {
			out[a][c] = uint8(min((c*510+a)/(2*a), 255))
		}
	}
	return &out
})

// straight is the same back. What comes of [premultiplied] afterwards is what there was.
func straight(p *image.RGBA) *image.NRGBA {
	out, by := image.NewNRGBA(p.Rect), parted()
	for i := 0; i+3 < len(p.Pix); i += 4 {
		from, to := p.Pix[i:i+4:i+4], out.Pix[i:i+4:i+4]
		if a := from[3]; a != 0 {
			of := &by[a]
			to[0], to[1], to[2], to[3] = of[from[0]], of[from[1]], of[from[2]], a
		}
	}
	return out
}

// jiffies are the times of steps in 1/60 s, each at least one, and counted on from the first.
func jiffies(steps []time.Duration) []int {
	var out []int
	var end time.Duration
	before := 0
	for _, s := range steps {
		end += s
		at := int(math.Round(end.Seconds() * 60))
		out = append(out, max(at-before, 1))
		before = max(at, before+1)
	}
	return out
}

// byRole orders pointers by the table.
func byRole(a, b *Pointer) int {
	return cmp.Compare(slices.Index(Roles, a.Role), slices.Index(Roles, b.Role))
}
