package preview

import (
	"slices"

	"ivelt/core/desk"
)

// toolkitOf is the surface that dresses the programs pictured as those of a toolkit: that
// itself, or on a desk that has none of them its own programs, whose sheets are of that kind.
func toolkitOf(d *desk.Desk, surface string) desk.Surface {
	s, ok := d.Surface(surface)
	if ok || !slices.Contains(toolkits, surface) {
		return s
	}
	for _, t := range toolkits {
		if _, ok := d.Surface(t); ok {
			return s
		}
	}
	for _, own := range d.Surfaces() {
		if f, has := own.Facet(desk.FacetWidgets); has && own.Kind == "toolkit" && len(f.Lookup.From) > 0 {
			return own
		}
	}
	return s
}

// alike lets the programs of a desk that has none of the toolkits show what its own are told, and
// what they are not told what its shell is.
func (l Look) alike(d *desk.Desk) {
	for _, t := range toolkits {
		own := toolkitOf(d, t)
		if own.ID == "" || own.ID == t {
			continue
		}
		for facet, by := range l.Names {
			if value, told := by[own.ID]; told {
				by[t] = value
			} else if value, told := by[shellOf(d)]; told && facet != desk.FacetBar {
				by[t] = value
			}
		}
	}
}

// iconsOf is the surface that says which icons another one shows.
func iconsOf(d *desk.Desk, surface string) desk.Surface {
	s := toolkitOf(d, surface)
	if _, has := s.Facet(desk.FacetIcons); !has && s.ID != surface {
		s, _ = d.Surface(shellOf(d))
	}
	return s
}
