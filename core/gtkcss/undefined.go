package gtkcss

import (
	"cmp"
	"maps"
	"slices"
)

// Undefined says which rules ask for a named colour that no sheet of the
// cascade defines, or that is made from one that none does. What GTK takes
// instead is told by the property; it does not complain.
func (c *Cascade) Undefined() []Note {
	var out []Note
	known := map[string]bool{}
	for _, s := range c.sheets {
		for _, r := range s.rules {
			for i := range r.tells {
				out = c.undefinedIn(out, &r.tells[i], known)
			}
		}
	}
	return out
}

// Lost are those of the rules that a node met which was asked about: they show.
func (c *Cascade) Lost() []Note {
	var out []Note
	known := map[string]bool{}
	for _, d := range slices.SortedFunc(maps.Keys(c.lost), func(a, b *declaration) int {
		return cmp.Or(cmp.Compare(a.file, b.file), a.line-b.line, a.property-b.property)
	}) {
		out = c.undefinedIn(out, d, known)
	}
	return out
}

// undefinedIn adds a note for each name in a declaration that is not defined, one
// for a line. known are names that were looked up.
func (c *Cascade) undefinedIn(out []Note, d *declaration, known map[string]bool) []Note {
	namesIn(d.value, func(name string) {
		defined, checked := known[name]
		if !checked {
			_, defined = c.Colour(name)
			known[name] = defined
		}
		n := Note{File: d.file, Line: d.line, Text: "the colour @" + name + " is not defined"}
		if !defined && !slices.Contains(out[max(len(out)-32, 0):], n) {
			out = append(out, n)
		}
	})
	return out
}

// namesIn calls back with every named colour that a value depends on.
func namesIn(v value, each func(string)) {
	switch v := v.(type) {
	case asWritten:
		namesOf(v.c, each)
	case words:
		for _, w := range v {
			namesIn(w, each)
		}
	case list:
		for _, w := range v {
			namesIn(w, each)
		}
	case shadow:
		namesIn(v.colour, each)
	case gradient:
		for _, s := range v.stops {
			namesIn(s.colour, each)
		}
	case picture:
		for _, of := range v.of {
			namesIn(of, each)
		}
	}
}

func namesOf(c colour, each func(string)) {
	switch c := c.(type) {
	case namedColour:
		each(string(c))
	case shadedColour:
		namesOf(c.of, each)
	case alphaColour:
		namesOf(c.of, each)
	case mixedColour:
		namesOf(c.a, each)
		namesOf(c.b, each)
	}
}
