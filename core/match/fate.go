package match

import (
	"errors"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/reading"
)

// Fate is what becomes of a choice of an outfit on a desk.
type Fate string

// The fates, the best first.
const (
	Goes     Fate = "follows"  // some surface follows, once the plan is carried out
	Unlocked Fate = "unlocked" // one follows once its system is unlocked
	Nearest  Fate = "nearest"  // something comes near
	Cannot   Fate = "cannot"
)

// Fated is a choice with its fate.
type Fated struct {
	Facet, Want string
	Fate        Fate
	Near        string // what comes nearest, and of which facet
	NearFacet   string
	Why         string // why it cannot follow, "" where nothing has such a setting
}

// Fates tells what becomes of each choice of an outfit on a desk, before anything is done; what
// follows first.
func Fates(d *desk.Desk, o outfit.Outfit) (out []Fated) {
	d = d.Snapshot()
	short := Shortfalls(d, o)
	for _, facet := range o.Facets() {
		one := Fated{Facet: facet, Want: o.Want(facet), Fate: Cannot}
		for _, s := range d.Surfaces() {
			f, has := s.Facet(facet)
			want := o.WantOn(s.ID, facet)
			if !has || want == "" {
				continue
			}
			switch err := reading.Possible(d, s, f, want); {
			case err == nil:
				one.Fate = Goes
			case errors.Is(err, reading.ErrLocked) && one.Fate != Goes:
				one.Fate = Unlocked
			}
		}
		for _, of := range short {
			if of.Facet != facet || one.Fate != Cannot {
				continue
			}
			if one.Why == "" {
				one.Why = strings.TrimSuffix(of.Why, ".")
			}
			if of.Nearest != "" {
				one.Fate, one.Near, one.NearFacet = Nearest, of.Nearest, of.NearestFacet
			}
		}
		out = append(out, one)
	}
	order := []Fate{Goes, Unlocked, Nearest, Cannot}
	slices.SortStableFunc(out, func(a, b Fated) int { return slices.Index(order, a.Fate) - slices.Index(order, b.Fate) })
	return out
}
