package svgraster

import (
	"image/color"
	"math"
	"slices"
	"strconv"
	"strings"

	"golang.org/x/image/colornames"
)

// said is what a property is told, and how strongly.
type said struct {
	value    string
	strength int
}

// cssRule is a rule of a drawing's own style sheet.
type cssRule struct {
	parts    []simple // from the element itself upwards
	tells    map[string]said
	strength int
}

// simple is what is asked of one element.
type simple struct {
	tag     string
	id      string
	classes []string
	child   bool // the one above must be its parent
}

// Strengths: rules by what their selectors weigh and where they stand, then the style
// attribute, then what is important.
const (
	ofAttribute = -1
	ofStyle     = 1 << 28
	important   = 1 << 29
)

// sheets reads all style elements.
func (doc *document) sheets(e *element) {
	if e.name == "style" && len(doc.sheet) < 10_000 {
		doc.read(e.text)
	}
	for _, k := range e.kids {
		doc.sheets(k)
	}
}

func (doc *document) read(text string) {
	for {
		from := strings.Index(text, "/*")
		if from < 0 {
			break
		}
		length := strings.Index(text[from:], "*/")
		if length < 0 {
			text = text[:from]
			break
		}
		text = text[:from] + " " + text[from+length+2:]
	}
	for len(doc.sheet) < 10_000 {
		head, rest, ok := strings.Cut(text, "{")
		if !ok {
			return
		}
		body, after, _ := strings.Cut(rest, "}")
		text = after
		if strings.Contains(head, "@") {
			continue
		}
		tells := declarations(body)
		for one := range strings.SplitSeq(head, ",") {
			if r, ok := readSelector(one); ok {
				r.tells = tells
				r.strength = r.strength<<14 + len(doc.sheet)
				doc.sheet = append(doc.sheet, r)
			}
		}
	}
}

func readSelector(text string) (r cssRule, ok bool) {
	child := false
	for _, word := range strings.Fields(strings.ReplaceAll(text, ">", " > ")) {
		if word == ">" {
			child = true
			continue
		}
		if strings.ContainsAny(word, "[:+~") {
			return r, false
		}
		s := simple{child: child}
		child = false
		for word != "" {
			end := 1
			for end < len(word) && word[end] != '.' && word[end] != '#' {
				end++
			}
			switch part := word[:end]; part[0] {
			case '.':
				s.classes = append(s.classes, part[1:])
				r.strength += 10
			case '#':
				s.id = part[1:]
				r.strength += 100
			default:
				if part != "*" {
					s.tag = part
					r.strength++
				}
			}
			word = word[end:]
		}
		r.parts = append(r.parts, s)
	}
	slices.Reverse(r.parts)
	return r, len(r.parts) > 0 && r.strength < 8000
}

func (s simple) fits(e *element) bool {
	if s.tag != "" && s.tag != e.name || s.id != "" && s.id != e.attrs["id"] {
		return false
	}
	if len(s.classes) == 0 {
		return true
	}
	has := strings.Fields(e.attrs["class"])
	for _, c := range s.classes {
		if !slices.Contains(has, c) {
			return false
		}
	}
	return true
}

func (r cssRule) fits(e *element) bool {
	if !r.parts[0].fits(e) {
		return false
	}
	at := e.above
	for i, part := range r.parts[1:] {
		for direct := r.parts[i].child; ; at = at.above {
			if at == nil {
				return false
			}
			if part.fits(at) {
				at = at.above
				break
			}
			if direct {
				return false
			}
		}
	}
	return true
}

// declarations reads "a: b; c: d".
func declarations(body string) map[string]said {
	out := map[string]said{}
	for one := range strings.SplitSeq(body, ";") {
		name, value, ok := strings.Cut(one, ":")
		if !ok {
			continue
		}
		value = strings.TrimSpace(value)
		strength := 0
		if plain, is := strings.CutSuffix(value, "!important"); is {
			value, strength = strings.TrimSpace(plain), important
		}
		out[strings.TrimSpace(name)] = said{value, strength}
	}
	return out
}

// told is what an element is told of a property, "" for nothing.
func (doc *document) told(e *element, name string) string {
	if e.rules == nil {
		e.rules = map[string]said{}
		put := func(name string, s said) {
			if was, ok := e.rules[name]; !ok || s.strength >= was.strength {
				e.rules[name] = s
			}
		}
		for name, value := range e.attrs {
			put(name, said{value, ofAttribute})
		}
		for _, r := range doc.sheet {
			if r.fits(e) {
				for name, s := range r.tells {
					put(name, said{s.value, s.strength + r.strength})
				}
			}
		}
		if style := e.attrs["style"]; style != "" {
			for name, s := range declarations(style) {
				put(name, said{s.value, s.strength + ofStyle})
			}
		}
	}
	return e.rules[name].value
}

// paint is what a shape is filled or stroked with.
type paint struct {
	none   bool
	colour color.NRGBA
	server string // the ID of a gradient or a pattern, "" for the colour
}

// style is what goes down from element to element.
type style struct {
	fill, stroke               paint
	fillOpacity, strokeOpacity float64
	colour                     color.NRGBA
	evenOdd, clipEvenOdd       bool
	width, miter, offset       float64
	dashes                     []float64
	cap, join                  string
	hidden                     bool
}

func usual() style {
	black := color.NRGBA{A: 255}
	return style{fill: paint{colour: black}, stroke: paint{none: true}, fillOpacity: 1, strokeOpacity: 1, colour: black, width: 1, miter: 4, cap: "butt", join: "miter"}
}

// under is the style of an element in one of another style.
func (doc *document) under(st style, e *element, diagonal float64) style {
	if v := doc.told(e, "color"); v != "" && v != "inherit" {
		if c, ok := readColour(v, st.colour); ok {
			st.colour = c
		}
	}
	for _, p := range []struct {
		name string
		to   *paint
	}{{"fill", &st.fill}, {"stroke", &st.stroke}} {
		if v := doc.told(e, p.name); v != "" && v != "inherit" {
			*p.to = doc.paint(v, st.colour, *p.to)
		}
	}
	set := func(name string, to *float64) {
		if v := strings.TrimSpace(doc.told(e, name)); v != "" {
			share, is := strings.CutSuffix(v, "%")
			if f, err := number(share); err == nil {
				if *to = f; is {
					*to /= 100
				}
			}
		}
	}
	set("fill-opacity", &st.fillOpacity)
	set("stroke-opacity", &st.strokeOpacity)
	set("stroke-miterlimit", &st.miter)
	if v := doc.told(e, "stroke-width"); v != "" && v != "inherit" {
		st.width = length(v, diagonal, st.width)
	}
	if v := doc.told(e, "stroke-dashoffset"); v != "" {
		st.offset = length(v, diagonal, st.offset)
	}
	switch v := doc.told(e, "stroke-dasharray"); v {
	case "", "inherit":
	case "none":
		st.dashes = nil
	default:
		st.dashes = nil
		sum := 0.0
		for _, f := range strings.FieldsFunc(v, func(r rune) bool { return r == ' ' || r == ',' }) {
			d := length(f, diagonal, -1)
			if d < 0 || len(st.dashes) > 64 {
				st.dashes, sum = nil, 0
				break
			}
			st.dashes, sum = append(st.dashes, d), sum+d
		}
		if sum <= 0 {
			st.dashes = nil
		}
	}
	word := func(name string, to *string) {
		if v := doc.told(e, name); v != "" && v != "inherit" {
			*to = v
		}
	}
	word("stroke-linecap", &st.cap)
	word("stroke-linejoin", &st.join)
	if v := doc.told(e, "fill-rule"); v != "" && v != "inherit" {
		st.evenOdd = v == "evenodd"
	}
	if v := doc.told(e, "clip-rule"); v != "" && v != "inherit" {
		st.clipEvenOdd = v == "evenodd"
	}
	if v := doc.told(e, "visibility"); v != "" && v != "inherit" {
		st.hidden = v != "visible"
	}
	return st
}

func (doc *document) paint(v string, current color.NRGBA, was paint) paint {
	v = strings.TrimSpace(v)
	if strings.HasPrefix(v, "url(") {
		id := refers(v)
		_, fallback, _ := strings.Cut(v, ")")
		if doc.ids[id] != nil {
			return paint{server: id}
		}
		if c, ok := readColour(fallback, current); ok {
			return paint{colour: c}
		}
		return paint{none: true}
	}
	if v == "none" {
		return paint{none: true}
	}
	if c, ok := readColour(v, current); ok {
		return paint{colour: c}
	}
	return was
}

// readColour reads a colour (CSS Color 3).
func readColour(s string, current color.NRGBA) (color.NRGBA, bool) {
	s = strings.ToLower(strings.TrimSpace(s))
	switch {
	case s == "currentcolor":
		return current, true
	case s == "transparent":
		return color.NRGBA{}, true
	case strings.HasPrefix(s, "#"):
		return hexColour(s[1:])
	}
	if name, args, ok := strings.Cut(s, "("); ok {
		f := strings.FieldsFunc(strings.TrimSuffix(args, ")"), func(r rune) bool { return r == ',' || r == ' ' || r == '/' })
		if name != "rgb" && name != "rgba" || len(f) < 3 {
			return color.NRGBA{}, false
		}
		var v [4]float64
		v[3] = 255
		for i, part := range f[:min(len(f), 4)] {
			share, is := strings.CutSuffix(part, "%")
			n, err := number(share)
			switch {
			case err != nil:
				return color.NRGBA{}, false
			case is:
				n *= 2.55
			case i == 3:
				n *= 255
			}
			v[i] = math.Round(min(max(n, 0), 255))
		}
		return color.NRGBA{uint8(v[0]), uint8(v[1]), uint8(v[2]), uint8(v[3])}, true
	}
	c, ok := colornames.Map[s]
	return color.NRGBA{c.R, c.G, c.B, 255}, ok
}

func hexColour(h string) (color.NRGBA, bool) {
	if len(h) == 3 || len(h) == 4 {
		wide := ""
		for _, r := range h {
			wide += string(r) + string(r)
		}
		h = wide
	}
	if len(h) == 6 {
		h += "ff"
	}
	n, err := strconv.ParseUint(h, 16, 64)
	return color.NRGBA{uint8(n >> 24), uint8(n >> 16), uint8(n >> 8), uint8(n)}, err == nil && len(h) == 8
}
