package match

import (
	"cmp"
	"slices"

	"ivelt/core/reading"
	"ivelt/core/say"
)

// Spread is what the surfaces of a desk show of one facet, whatever is wanted of them.
type Spread struct {
	Facet string
	Title say.Word
	Shown []Shown // what most of them show first
}

// Shown is one value, and the cells of the surfaces that show it.
type Shown struct {
	Value string
	Cells []Cell
}

// Disagree reports whether surfaces show different things.
func (s Spread) Disagree() bool { return len(s.Shown) > 1 }

// Spreads are those of the facets that some surface shows something of.
func (b Board) Spreads() []Spread {
	var out []Spread
	for _, t := range b.Threads {
		s := Spread{Facet: t.Facet, Title: t.Title}
		for _, c := range t.Cells {
			value := c.Reading.Value
			if c.State == NotHere || value == "" {
				continue
			}
			f, _ := c.Surface.Facet(t.Facet)
			i := slices.IndexFunc(s.Shown, func(other Shown) bool { return reading.Same(f, other.Value, value) })
			if i < 0 {
				i = len(s.Shown)
				s.Shown = append(s.Shown, Shown{Value: value})
			}
			s.Shown[i].Cells = append(s.Shown[i].Cells, c)
		}
		if len(s.Shown) == 0 {
			continue
		}
		slices.SortStableFunc(s.Shown, func(a, b Shown) int { return cmp.Compare(len(b.Cells), len(a.Cells)) })
		out = append(out, s)
	}
	return out
}
