package pointerbench

import (
	"slices"
	"strconv"

	"ivelt/core/desk"
	"ivelt/core/reading"
)

// usualSize is the size that a surface asks for that is told none, px (Xcursor(3)).
const usualSize = 24

// SizesIn are the sizes of pointers that the surfaces of a desk ask for, px, each once.
func SizesIn(d *desk.Desk) []int {
	var out []int
	for _, s := range d.Surfaces() {
		f, ok := s.Facet(desk.FacetPointerSize)
		if !ok {
			continue
		}
		n, err := strconv.Atoi(reading.Of(d, s, f).Value)
		if err != nil || n < 1 || n > 512 {
			n = usualSize
		}
		out = append(out, n)
	}
	slices.Sort(out)
	return slices.Compact(out)
}
