package judge

import (
	"fmt"
	"slices"
	"strings"

	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/palette"
	"ivelt/core/say"
)

// Two colours that look clearly apart, and do not to somebody else (distances in
// OKLab; the values are our own).
const (
	apart   = 0.12
	too     = 0.05
	clearly = 1.6 // to 1: one is so much lighter that it tells them apart
)

// two are colours that mean different things.
type two struct {
	what string // "red and green"
	a, b colour.Colour
	of   int // the number of the second in its palette
}

// alikeTo tells whether two colours look alike to people who see in a way.
func alikeTo(v colour.Vision, a, b colour.Colour) bool {
	a, b = v.Of(a), v.Of(b)
	return colour.Distance(a, b) < too && colour.Contrast(a, b) < clearly
}

// toldFrom is the colour of the same hue, lighter or darker than b by the least,
// that everybody can tell from a and that can be read on a ground as well as b or
// better; "" if there is none.
func toldFrom(a, b, ground colour.Colour) string {
	l, chroma, hue := b.LCH()
	needs := min(colour.Contrast(b, ground), palette.Legible)
	for step := 0.02; step < 0.7; step += 0.02 {
		for _, to := range []float64{l - step, l + step} {
			if to < 0 || to > 1 {
				continue
			}
			c, err := colour.Parse(colour.OfLCH(to, chroma, hue).Hex())
			if err != nil || colour.Contrast(c, ground) < needs {
				continue
			}
			if !slices.ContainsFunc(colour.Visions, func(v colour.Vision) bool { return alikeTo(v, a, c) }) {
				return c.Hex()
			}
		}
	}
	return ""
}

// confused are those of pairs that people with one kind of cones missing cannot
// tell apart though others can, and a clause that says so.
func confused(pairs []two) (parts []Part, text string) {
	var says []string
	for _, v := range colour.Visions {
		var what []string
		for _, p := range pairs {
			if colour.Distance(p.a, p.b) < apart || !alikeTo(v, p.a, p.b) {
				continue
			}
			what = append(what, string(p.what))
			parts = append(parts, Part{What: string(p.what) + ", " + v.Title, Ink: p.a.Hex(), Ground: p.b.Hex()})
		}
		if what != nil {
			says = append(says, fmt.Sprintf("%s look alike to people %s", strings.Join(what, ", "), v.Title))
		}
	}
	return parts, strings.Join(says, "; ")
}

// pairsOf are the colours of a palette that programs set against each other: what
// was taken away and added, what failed, is doubtful and went well (common
// practice, no source).
func pairsOf(p palette.Palette) []two {
	c := p.Colours
	return []two{{"red and green", c[1], c[2], 2}, {"yellow and green", c[3], c[2], 2}, {"red and yellow", c[1], c[3], 3}, {"bright red and bright green", c[9], c[10], 10}, {"bright yellow and bright green", c[11], c[10], 10}}
}

// alike holds the colours of a theme that mean different things against each
// other: its named ones for what failed, is doubtful and went well, and the buttons
// that propose and that take away.
func (j *judging) alike(s desk.Surface) []Verdict {
	parts, text := confused(j.meaning(s))
	if parts == nil {
		return nil
	}
	v := Verdict{Surface: s.ID, Facet: desk.FacetWidgets, Code: Alike, Parts: parts, Says: say.Of("judge/look-alike", s.Named(), text)}
	well := func(other *judging) bool { parts, _ := confused(other.meaning(s)); return parts == nil }
	if shade := j.otherShade(s); shade != "" && well(j.with(desk.FacetDark, s.ID, shade)) {
		v.Remedies = append(v.Remedies, Fix{Facet: desk.FacetDark, Want: shade, Says: say.Of("judge/shade-do-not", shade)})
	}
	if name := j.nearest(s, desk.FacetWidgets, well); name != "" {
		v.Remedies = append(v.Remedies, Fix{Facet: desk.FacetWidgets, Want: name, Says: say.Of("judge/themes-place-nearest-do-not", name)})
	}
	if v.Remedies == nil {
		v.Remedies = []Fix{{Says: say.Of("judge/wear-another-theme-or-tell")}}
	}
	return []Verdict{v}
}

func (j *judging) meaning(s desk.Surface) []two {
	c := j.of(s.ID)
	var out []two
	for _, names := range [][2]string{{"error_color", "success_color"}, {"warning_color", "success_color"}, {"error_color", "warning_color"}} {
		a, hasA := c.Colour(names[0])
		b, hasB := c.Colour(names[1])
		if hasA && hasB {
			say := func(name string) string { return strings.TrimSuffix(name, "_color") }
			out = append(out, two{"the colours for " + say(names[0]) + " and " + say(names[1]), opaque(a), opaque(b), 0})
		}
	}
	ground := func(path string) colour.Colour {
		return held(c, pair{path: path}).ground
	}
	return append(out, two{"the buttons that propose and that take away", ground("window.background button.suggested-action.text-button"), ground("window.background button.destructive-action.text-button"), 0})
}
