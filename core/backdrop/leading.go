package backdrop

import (
	"cmp"
	"context"
	"image"
	"math"
	"slices"

	"golang.org/x/image/draw"

	"ivelt/core/colour"
)

// Leading is one of the colours that lead in a picture.
type Leading struct {
	Colour colour.Colour
	Share  float64 // of the picture, of 1
	X, Y   float64 // where most of it is: of 1 its width and height
	Spread float64 // how far it is from there, in the root mean square; 0.41 is all over the picture
}

// How a picture's colours are grouped. All own choice, by looking at pictures: what people call one
// colour is about 0.07 apart in OKLab, where its lightness counts less than its hue.
const (
	sampledSide = 112   // px of the longer side of what is looked at
	clusters    = 16    // that are begun with
	rounds      = 24    // at most
	oneColour   = 0.075 // apart are colours told as one
	leastShare  = 0.006
	lightness   = 0.75 // how much lightness counts beside the two axes of colour
)

type sample struct {
	p    [3]float64 // lightness, times how much it counts, and the two axes of OKLab
	x, y float64
	w    float64 // how opaque
}

// LeadingColours are up to most colours that lead in a picture, those with the largest share first: the
// means of its clusters in OKLab (Lloyd, "Least squares quantization in PCM", 1982), begun with colours
// that are far from each other, and those put together that are told as one. The same picture always
// has the same. What is transparent does not count. Errors are those of ctx.
func LeadingColours(ctx context.Context, im image.Image, most int) ([]Leading, error) {
	all := samples(im)
	if len(all) == 0 {
		return nil, ctx.Err()
	}
	at := seeds(all, clusters)
	of := make([]int, len(all))
	for range rounds {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		if !assign(all, at, of) {
			break
		}
		at = means(all, of, len(at))
	}
	return told(all, of, len(at), most), ctx.Err()
}

// samples are the pixels of a picture that is made small, a mean of each place.
func samples(im image.Image) (out []sample) {
	b := im.Bounds()
	if b.Empty() {
		return nil
	}
	k := min(float64(sampledSide)/float64(max(b.Dx(), b.Dy())), 1)
	small := image.NewRGBA(image.Rect(0, 0, max(int(float64(b.Dx())*k+0.5), 1), max(int(float64(b.Dy())*k+0.5), 1)))
	draw.ApproxBiLinear.Scale(small, small.Rect, im, b, draw.Src, nil)
	for y := range small.Rect.Dy() {
		for x := range small.Rect.Dx() {
			c := small.RGBAAt(x, y)
			if c.A < 32 {
				continue
			}
			part := func(v uint8) uint8 { return uint8(min(int(v)*255/int(c.A), 255)) }
			l, a, bb := colour.Of8(part(c.R), part(c.G), part(c.B)).Lab()
			out = append(out, sample{[3]float64{l * lightness, a, bb},
				(float64(x) + 0.5) / float64(small.Rect.Dx()), (float64(y) + 0.5) / float64(small.Rect.Dy()), float64(c.A) / 255})
		}
	}
	return out
}

func square(a, b [3]float64) float64 {
	x, y, z := a[0]-b[0], a[1]-b[1], a[2]-b[2]
	return x*x + y*y + z*z
}

// seeds are n colours that are far from each other and not alone: each time that with the most around
// it, of what is far from those before.
func seeds(all []sample, n int) (out [][3]float64) {
	const side = 0.05 // of the cells in which samples are counted
	type cell [3]int
	weight, sum := map[cell]float64{}, map[cell][3]float64{}
	for _, s := range all {
		at := cell{int(math.Floor(s.p[0] / side)), int(math.Floor(s.p[1] / side)), int(math.Floor(s.p[2] / side))}
		weight[at] += s.w
		v := sum[at]
		for i := range v {
			v[i] += s.w * s.p[i]
		}
		sum[at] = v
	}
	type full struct {
		cell
		w float64
		p [3]float64
	}
	var cells []full
	for at, w := range weight {
		v := sum[at]
		for i := range v {
			v[i] /= w
		}
		cells = append(cells, full{at, w, v})
	}
	slices.SortFunc(cells, func(a, b full) int {
		return cmp.Or(cmp.Compare(a.cell[0], b.cell[0]), cmp.Compare(a.cell[1], b.cell[1]), cmp.Compare(a.cell[2], b.cell[2]))
	})
	for len(out) < min(n, len(cells)) {
		best, score := 0, -1.0
		for i, c := range cells {
			near := 1.0
			for _, p := range out {
				near = min(near, square(p, c.p))
			}
			if s := math.Sqrt(c.w) * near; s > score {
				best, score = i, s
			}
		}
		out = append(out, cells[best].p)
	}
	return out
}

// assign gives each sample the nearest colour; false if none changed.
func assign(all []sample, at [][3]float64, of []int) (changed bool) {
	for i, s := range all {
		best := 0
		for k := range at {
			if square(s.p, at[k]) < square(s.p, at[best]) {
				best = k
			}
		}
		if of[i] != best {
			of[i], changed = best, true
		}
	}
	return changed
}

func means(all []sample, of []int, n int) [][3]float64 {
	out, weight := make([][3]float64, n), make([]float64, n)
	for i, s := range all {
		weight[of[i]] += s.w
		for c := range 3 {
			out[of[i]][c] += s.w * s.p[c]
		}
	}
	for k := range out {
		for c := range 3 {
			out[k][c] /= max(weight[k], 1e-9)
		}
	}
	return out
}

// group is a cluster, or several that are told as one.
type group struct{ w, l, a, b, x, y, xx, yy float64 }

func (g group) lab() [3]float64 { return [3]float64{g.l / g.w * lightness, g.a / g.w, g.b / g.w} }

func (g group) with(o group) group {
	return group{g.w + o.w, g.l + o.l, g.a + o.a, g.b + o.b, g.x + o.x, g.y + o.y, g.xx + o.xx, g.yy + o.yy}
}

// told are the clusters as colours.
func told(all []sample, of []int, n, most int) (out []Leading) {
	groups, weight := make([]group, n), 0.0
	for i, s := range all {
		groups[of[i]] = groups[of[i]].with(group{s.w, s.w * s.p[0] / lightness, s.w * s.p[1], s.w * s.p[2], s.w * s.x, s.w * s.y, s.w * s.x * s.x, s.w * s.y * s.y})
		weight += s.w
	}
	groups = slices.DeleteFunc(groups, func(g group) bool { return g.w <= 0 })
	for {
		p, q, near := 0, 0, oneColour*oneColour
		for i := range groups {
			for k := range groups[:i] {
				if d := square(groups[i].lab(), groups[k].lab()); d < near {
					p, q, near = k, i, d
				}
			}
		}
		if p == q {
			break
		}
		groups[p] = groups[p].with(groups[q])
		groups = slices.Delete(groups, q, q+1)
	}
	for _, g := range groups {
		share := g.w / weight
		if share < leastShare {
			continue
		}
		x, y := g.x/g.w, g.y/g.w
		out = append(out, Leading{colour.OfLab(g.l/g.w, g.a/g.w, g.b/g.w), share, x, y, math.Sqrt(max(g.xx/g.w-x*x+g.yy/g.w-y*y, 0))})
	}
	slices.SortStableFunc(out, func(a, b Leading) int { return cmp.Compare(b.Share, a.Share) })
	return out[:min(len(out), most)]
}
