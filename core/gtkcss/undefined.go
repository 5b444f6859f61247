package gtkcss

// Undefined says which rules ask for a named colour that no sheet of the
// cascade defines, or that is made from one that none does. What GTK takes
// instead is told by the property.
func (c *Cascade) Undefined() []Note {
	var out []Note
	known := map[string]bool{}
	seen := map[Note]bool{}
	for _, s := range c.sheets {
		for _, r := range s.rules {
			for _, d := range r.tells {
				namesIn(d.value, func(name string) {
					defined, checked := known[name]
					if !checked {
						_, defined = c.Colour(name)
						known[name] = defined
					}
					n := Note{d.file, d.line, "the colour @" + name + " is not defined"}
					if !defined && !seen[n] {
						seen[n] = true
						out = append(out, n)
					}
				})
			}
		}
	}
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
