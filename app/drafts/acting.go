package drafts

import (
	"maps"
	"slices"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/say"
)

// Acting are choices of an outfit that do something, and change more than a look.
type Acting struct {
	Facet string
	Title say.Word
	Does  []say.Message // in words, for each value that some surface is told
}

// WhatActs lists what of an outfit does something on a desk.
func WhatActs(d *desk.Desk, o outfit.Outfit) []Acting {
	var out []Acting
	for _, f := range o.Facets() {
		if !d.Acts(f) {
			continue
		}
		a := Acting{Facet: f, Title: desk.FacetTitle(f), Does: []say.Message{desk.Doing(f, o.Want(f))}}
		for _, surface := range slices.Sorted(maps.Keys(o.Choices[f].Except)) {
			if want := o.WantOn(surface, f); want != "" {
				a.Does = append(a.Does, desk.Doing(f, want))
			}
		}
		out = append(out, a)
	}
	return out
}

// Harmless is an outfit without what does something, and that in words; it is to be
// chosen by itself.
func Harmless(d *desk.Desk, o outfit.Outfit) (outfit.Outfit, []string) {
	var does []string
	for _, a := range WhatActs(d, o) {
		does = append(does, string(a.Title)+": "+say.Join("; ", a.Does...).String())
	}
	return o.Only(func(facet string) bool { return !d.Acts(facet) }), does
}
