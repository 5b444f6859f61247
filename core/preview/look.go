package preview

import (
	"strconv"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/reading"
)

// Look is what is to be pictured.
type Look struct {
	Names map[string]map[string]string // by facet and surface, the piece or the value
	Shade string                       // light or dark whatever the surfaces are told; "" as they are told
	State string                       // of every control: one of [States], "" as it comes
}

// States are the states that all controls can be pictured in.
var States = []struct{ Name, Title string }{
	{"hover", "pointer over"}, {"active", "pressed"}, {"checked", "chosen"}, {"focus", "in focus"}, {"disabled", "off"}, {"backdrop", "window not active"},
}

// Of returns the piece or value that a surface shows for a facet.
func (l Look) Of(facet, surface string) string { return l.Names[facet][surface] }

func (l Look) set(facet, surface, name string) {
	if l.Names[facet] == nil {
		l.Names[facet] = map[string]string{}
	}
	l.Names[facet][surface] = name
}

// dark reports whether a surface is pictured dark. What goes by the time of day
// is pictured as at noon.
func (l Look) dark(surface string) bool {
	if l.Shade != "" {
		return l.Shade == "dark"
	}
	return l.Of(desk.FacetDark, surface) == "dark"
}

func (l Look) number(facet, surface string, usual int) int {
	if n, err := strconv.Atoi(l.Of(facet, surface)); err == nil {
		return n
	}
	return usual
}

// Worn is the look of a desk as it is: what each surface reads, or still has
// loaded.
func Worn(d *desk.Desk) Look {
	d = d.Glance()
	l := Look{Names: map[string]map[string]string{}}
	for _, s := range d.Surfaces {
		for _, f := range s.Facets {
			r := reading.Told(d, s, f)
			name := r.Value
			if r.Pending != "" {
				name = r.Loaded
			}
			l.set(r.Facet, r.Surface, name)
		}
	}
	return l
}

// Draft is the look of a desk once it wears the outfit. A surface that cannot
// follow keeps what it shows.
func Draft(d *desk.Desk, o outfit.Outfit) Look {
	d = d.Glance()
	l := Worn(d)
	for _, facet := range o.Facets() {
		want := o.Want(facet)
		for _, s := range d.Surfaces {
			f, ok := s.Facet(facet)
			if ok && reading.Check(d, s, f, want) == nil {
				l.set(facet, s.ID, want)
			}
		}
	}
	return l
}
