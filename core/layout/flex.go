package layout

import "math"

// Box is how long something on a line is, and how it goes with the room there is: CSS's flex items.
type Box struct {
	Basis        float64 // px, before anything is made longer or shorter
	Grow, Shrink float64
	Least        float64
	Most         float64 // 0 for no bound
}

// within is a length in the bounds of the box.
func (b Box) within(n float64) float64 {
	if b.Most > 0 {
		n = min(n, b.Most)
	}
	return max(n, b.Least, 0)
}

// Resolve is how long boxes on a line of some room become, with a gap between any two (CSS Flexible
// Box Layout Module Level 1, 9.7, "Resolving Flexible Lengths"; CSS Box Alignment, "gap"). They may
// take more room than there is.
func Resolve(room, gap float64, boxes []Box) []float64 {
	room -= gap * float64(max(len(boxes)-1, 0))
	out, frozen := make([]float64, len(boxes)), make([]bool, len(boxes))
	sum := 0.0
	for i, b := range boxes {
		out[i] = b.within(b.Basis)
		sum += out[i]
	}
	grows := sum < room
	factor := func(b Box) float64 {
		if grows {
			return b.Grow
		}
		return b.Shrink
	}
	for i, b := range boxes {
		frozen[i] = factor(b) <= 0 || grows && b.Basis > out[i] || !grows && b.Basis < out[i]
	}
	free := func() float64 {
		left := room
		for i, b := range boxes {
			if frozen[i] {
				left -= out[i]
			} else {
				left -= b.Basis
			}
		}
		return left
	}
	first := free()
	for {
		factors, scaled, any := 0.0, 0.0, false
		for i, b := range boxes {
			if !frozen[i] {
				any = true
				factors += factor(b)
				scaled += b.Shrink * b.Basis
			}
		}
		if !any {
			return out
		}
		left := free()
		if part := first * factors; factors < 1 && math.Abs(part) < math.Abs(left) {
			left = part
		}
		off, to := 0.0, make([]float64, len(boxes))
		for i, b := range boxes {
			if frozen[i] {
				continue
			}
			want := b.Basis
			switch {
			case left == 0:
			case grows:
				want += left * b.Grow / factors
			case scaled > 0:
				want += left * b.Shrink * b.Basis / scaled
			}
			to[i], out[i] = want, b.within(want)
			off += out[i] - want
		}
		for i := range boxes {
			if !frozen[i] && (off == 0 || off > 0 && out[i] > to[i] || off < 0 && out[i] < to[i]) {
				frozen[i] = true
			}
		}
	}
}
