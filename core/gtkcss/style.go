package gtkcss

import (
	"cmp"
	"slices"
	"strings"
)

// Style is the computed style of a node. Lengths are in px; the four of a box
// are top, right, bottom, left.
type Style struct {
	Colour      Colour
	Background  Colour
	Gradient    []Stop // over the background, nil if there is none
	Across      bool   // the gradient runs to the right instead of down
	Border      [4]Colour
	BorderWidth [4]float64
	Radius      float64 // of the first corner
	Padding     [4]float64
	MinHeight   float64
	MinWidth    float64
	Opacity     float64

	drawn [4]bool // the border has a style other than none
}

// Stop is a colour of a gradient and where it stands, 0–1.
type Stop struct {
	At     float64
	Colour Colour
}

// Fill is the one colour that stands for what the node is filled with: the
// middle of its gradient over its background.
func (s Style) Fill() Colour {
	if len(s.Gradient) == 0 {
		return s.Background
	}
	a, b := s.Gradient[0].Colour, s.Gradient[len(s.Gradient)-1].Colour
	return Colour{(a.R + b.R) / 2, (a.G + b.G) / 2, (a.B + b.B) / 2, (a.A + b.A) / 2}
}

// Compute returns the style of the last node of a path. Sheets are in the order
// they win: a later one over an earlier one.
func Compute(nodes []Node, sheets ...*Sheet) Style {
	style := Style{Colour: Colour{A: 1}, Opacity: 1}
	for i := range nodes {
		style = computeOne(nodes[:i+1], style, sheets)
	}
	return style
}

// Compute returns the style of a node by its path.
func (s *Sheet) Compute(path string) Style { return Compute(ParsePath(path), s) }

func computeOne(nodes []Node, parent Style, sheets []*Sheet) Style {
	style := Style{Colour: parent.Colour, Opacity: 1} // only the colour of text is inherited
	won := make([][]rule, len(sheets))
	for i, s := range sheets {
		for _, r := range s.rules {
			if r.selector.matches(nodes) {
				won[i] = append(won[i], r)
			}
		}
		slices.SortStableFunc(won[i], func(a, b rule) int {
			return cmp.Or(cmp.Compare(a.selector.weight(), b.selector.weight()), cmp.Compare(a.order, b.order))
		})
	}
	set := func(text bool) {
		for i, s := range sheets {
			for _, r := range won[i] {
				if (r.name == "color") == text {
					style.set(s, r.name, r.value, parent)
				}
			}
		}
	}
	set(true) // text first: currentColor is that of the node itself
	for i := range style.Border {
		style.Border[i] = style.Colour // CSS Backgrounds and Borders 3, section 4.1
	}
	set(false)
	for i, drawn := range style.drawn {
		if !drawn { // section 4.3
			style.BorderWidth[i] = 0
		}
	}
	return style
}

var drawnStyle = map[string]bool{"solid": true, "dashed": true, "dotted": true, "double": true, "groove": true, "ridge": true, "inset": true, "outset": true}

var sides = map[string]int{"top": 0, "right": 1, "bottom": 2, "left": 3}

func (st *Style) set(s *Sheet, name, value string, parent Style) {
	value = strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(value), "!important"))
	colour := func(text string) (Colour, bool) {
		switch text {
		case "inherit":
			return parent.Colour, true
		case "initial", "unset":
			return Colour{A: 1}, true
		}
		return s.colour(text, st.Colour, 0)
	}
	switch name {
	case "color":
		if c, ok := colour(value); ok {
			st.Colour = c
		}
	case "background-color":
		if value == "inherit" {
			st.Background = parent.Background
		} else if c, ok := colour(value); ok {
			st.Background = c
		}
	case "background-image":
		st.gradient(s, value)
	case "background":
		st.Background, st.Gradient = Colour{}, nil
		for _, layer := range split(value, ',') {
			for _, word := range fields(layer) {
				if strings.Contains(word, "gradient(") {
					st.gradient(s, word)
				} else if c, ok := colour(word); ok {
					st.Background = c
				}
			}
		}
	case "border-color":
		box(fields(value), func(i int, word string) {
			if c, ok := colour(word); ok {
				st.Border[i] = c
			}
		})
	case "border-style":
		box(fields(value), func(i int, word string) { st.drawn[i] = drawnStyle[word] })
	case "border-width":
		box(fields(value), func(i int, word string) { st.BorderWidth[i] = px(word) })
	case "border", "border-top", "border-right", "border-bottom", "border-left":
		at := []int{0, 1, 2, 3}
		if _, side, ok := strings.Cut(name, "-"); ok {
			at = []int{sides[side]}
		}
		for _, i := range at {
			st.BorderWidth[i], st.Border[i], st.drawn[i] = 0, st.Colour, false
			for _, word := range fields(value) {
				st.drawn[i] = st.drawn[i] || drawnStyle[word]
				if c, ok := colour(word); ok {
					st.Border[i] = c
				} else if isLength(word) {
					st.BorderWidth[i] = px(word)
				}
			}
		}
	case "border-radius", "border-top-left-radius":
		if f := fields(value); len(f) > 0 {
			st.Radius = px(f[0])
		}
	case "padding":
		box(fields(value), func(i int, word string) { st.Padding[i] = px(word) })
	case "min-height":
		st.MinHeight = px(value)
	case "min-width":
		st.MinWidth = px(value)
	case "opacity":
		if f, ok := number(value); ok {
			st.Opacity = f
		}
	default:
		st.side(name, value, colour)
	}
}

// side sets what is about one side only: border-top-color, padding-left …
func (st *Style) side(name, value string, colour func(string) (Colour, bool)) {
	parts := strings.Split(name, "-")
	i, ok := 0, false
	if len(parts) > 1 {
		i, ok = sides[parts[1]]
	}
	switch {
	case !ok:
	case parts[0] == "padding" && len(parts) == 2:
		st.Padding[i] = px(value)
	case parts[0] == "border" && len(parts) == 3 && parts[2] == "width":
		st.BorderWidth[i] = px(value)
	case parts[0] == "border" && len(parts) == 3 && parts[2] == "style":
		st.drawn[i] = drawnStyle[value]
	case parts[0] == "border" && len(parts) == 3 && parts[2] == "color":
		if c, ok := colour(value); ok {
			st.Border[i] = c
		}
	}
}

func (st *Style) gradient(s *Sheet, value string) {
	st.Gradient, st.Across = nil, false
	value = strings.TrimSpace(split(value, ',')[0]) // the topmost picture
	inner, ok := strings.CutPrefix(value, "linear-gradient(")
	if !ok {
		return
	}
	args := split(strings.TrimSuffix(inner, ")"), ',')
	up := false
	if first := strings.TrimSpace(args[0]); strings.HasPrefix(first, "to ") || strings.HasSuffix(first, "deg") {
		st.Across = strings.HasPrefix(first, "to right") || strings.HasPrefix(first, "to left") || first == "90deg" || first == "270deg"
		up = strings.HasPrefix(first, "to top") || strings.HasPrefix(first, "to left") || first == "0deg" || first == "270deg"
		args = args[1:]
	}
	for i, a := range args {
		words := fields(a)
		if len(words) == 0 {
			continue
		}
		c, ok := s.colour(words[0], st.Colour, 0)
		if !ok {
			continue
		}
		at := float64(i) / float64(max(len(args)-1, 1))
		if len(words) > 1 {
			if f, ok := number(words[1]); ok && strings.HasSuffix(words[1], "%") {
				at = f
			}
		}
		if up {
			at = 1 - at
		}
		st.Gradient = append(st.Gradient, Stop{at, c})
	}
	if up {
		slices.Reverse(st.Gradient)
	}
}

// box hands one to four values to the four sides, as CSS does.
func box(words []string, set func(i int, word string)) {
	if len(words) == 0 {
		return
	}
	for i, from := range [4][4]int{{0, 0, 0, 0}, {0, 1, 0, 1}, {0, 1, 2, 1}, {0, 1, 2, 3}}[min(len(words), 4)-1] {
		set(i, words[from])
	}
}

func isLength(word string) bool {
	return word == "0" || strings.HasSuffix(word, "px") || strings.HasSuffix(word, "em") || strings.HasSuffix(word, "pt")
}

// px reads a length. One em is 13.333 px, 10 pt at 96 dpi, GTK's usual font.
func px(word string) float64 {
	k := 1.0
	switch {
	case strings.HasSuffix(word, "px"):
		word = strings.TrimSuffix(word, "px")
	case strings.HasSuffix(word, "rem"):
		word, k = strings.TrimSuffix(word, "rem"), 40.0/3
	case strings.HasSuffix(word, "em"):
		word, k = strings.TrimSuffix(word, "em"), 40.0/3
	case strings.HasSuffix(word, "pt"):
		word, k = strings.TrimSuffix(word, "pt"), 4.0/3
	}
	f, ok := number(word)
	if !ok {
		return 0
	}
	return f * k
}

// fields splits at blanks outside brackets.
func fields(text string) []string {
	var out []string
	for _, f := range split(strings.TrimSpace(text), ' ') {
		if f != "" {
			out = append(out, f)
		}
	}
	return out
}
