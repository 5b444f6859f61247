package fontconf

import (
	"slices"

	"ivelt/core/fontfile"
)

// weights are fontconfig's for those of OpenType (fcweight.c).
var weights = [][2]float64{{0, 0}, {100, 0}, {200, 40}, {300, 50}, {350, 55}, {380, 75}, {400, 80}, {500, 100}, {600, 180}, {700, 200}, {800, 205}, {900, 210}, {1000, 215}}

func weightOf(openType float64) float64 {
	for i := 1; i < len(weights); i++ {
		if a, b := weights[i-1], weights[i]; openType <= b[0] {
			return a[1] + (openType-a[0])/(b[0]-a[0])*(b[1]-a[1])
		}
	}
	return weights[len(weights)-1][1]
}

const (
	roman   = 0.0
	italic  = 100.0
	oblique = 110.0
	far     = 1e9
)

// Match returns the place of the face that fontconfig takes among faces for
// families, by weight (OpenType's, 1 to 1000) and slant; -1 if there is none.
func Match(faces []fontfile.Face, families []Family, weight float64, slanted bool) int {
	slant := roman
	if slanted {
		slant = italic
	}
	best, scores := -1, []float64(nil)
	for i, f := range faces {
		strong, weak := far, far
		for j, want := range families {
			if !slices.ContainsFunc(f.Families, func(name string) bool { return equalNames(want.Name, name) }) {
				continue
			}
			if want.Strong {
				strong = min(strong, float64(j))
			} else {
				weak = min(weak, float64(j))
			}
		}
		has := roman
		switch {
		case f.Italic:
			has = italic
		case f.Oblique:
			has = oblique
		}
		now := []float64{strong, weak, max(has-slant, slant-has), max(weightOf(float64(f.Weight))-weightOf(weight), weightOf(weight)-weightOf(float64(f.Weight))), widthOff(f)}
		if best < 0 || slices.Compare(now, scores) < 0 {
			best, scores = i, now
		}
	}
	return best
}

// widthOff is how far a face is from the usual width.
func widthOff(f fontfile.Face) float64 {
	off := widths[min(max(f.Width, 1), 9)-1] - 100
	return max(off, -off)
}

// widths are fontconfig's for the classes of OpenType.
var widths = [9]float64{50, 63, 75, 87, 100, 113, 125, 150, 200}
