package preview

import (
	"slices"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/reading"
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

// helped lets a shell's bar be as the program draws it that does so in its stead, if that is started,
// or would be: something is wanted of it. One that does not come up leaves no bar.
func (l Look) helped(d *desk.Desk, o outfit.Outfit) {
	for _, s := range d.Surfaces() {
		if s.Instead == "" {
			continue
		}
		wanted := slices.ContainsFunc(s.Facets, func(f desk.Facet) bool {
			want := o.WantOn(s.ID, f.Name)
			return want != "" && reading.Check(d, s, f, want) == nil
		})
		if !wanted && !reading.Started(d, s) {
			continue
		}
		if reading.Unfit(d, s).Code != "" {
			if reading.Started(d, s) {
				l.set(desk.FacetBars, s.Instead, "none")
			}
			continue
		}
		for _, f := range s.Facets {
			l.set(f.Name, s.Instead, l.Of(f.Name, s.ID))
		}
	}
}

// ofPlace is the surface whose icon is shown where an icon is that of a folder or a volume that
// has a picture of its own; else the one that it is asked of.
func (c *Canvas) ofPlace(surface string, names []string) string {
	for _, s := range c.D.Surfaces() {
		f, has := s.Facet(desk.FacetIcons)
		if !has || f.Places == nil {
			continue
		}
		for _, p := range reading.PlacesOf(c.D, f) {
			if p.Icon == names[0] {
				return s.ID
			}
		}
	}
	return surface
}

// iconsOf is the surface that says which icons another one shows.
func iconsOf(d *desk.Desk, surface string) desk.Surface {
	s := toolkitOf(d, surface)
	if _, has := s.Facet(desk.FacetIcons); !has && s.ID != surface {
		s, _ = d.Surface(shellOf(d))
	}
	return s
}
