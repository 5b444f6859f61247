package picturestyle

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"maps"
	"regexp"
	"slices"
	"strings"

	"ivelt/core/svgraster"
)

// ErrChange: a change cannot be made to the drawing.
var ErrChange = errors.New("the drawing cannot be changed so")

// Change is one change to an element of a drawing.
type Change struct {
	Name  string            // of the element
	From  string            // what the drawing calls it: it is given its name
	Like  string            // the element that it is a copy of
	Edges string            // what it states as its edges, see [ParseEdges]
	Shape int               // the shape in it that is changed, from 1; 0 for all
	Set   map[string]string // attributes of shapes
}

// Attributes are those that can be set, by whether they are styled (SVG 1.1, appendix N): colours
// and how they are laid on, and the shapes themselves.
var Attributes = map[string]bool{
	"fill": true, "fill-opacity": true, "stroke": true, "stroke-width": true, "stroke-opacity": true,
	"stroke-linecap": true, "stroke-linejoin": true, "stroke-dasharray": true, "opacity": true,
	"d": false, "points": false, "x": false, "y": false, "width": false, "height": false, "rx": false, "ry": false,
	"r": false, "cx": false, "cy": false, "x1": false, "y1": false, "x2": false, "y2": false, "transform": false,
}

var (
	elementName = regexp.MustCompile(`^[A-Za-z_][A-Za-z0-9_.-]{0,79}$`)
	// shapeValue is one that is neither an address nor anything but one value.
	shapeValue = regexp.MustCompile(`^[#A-Za-z0-9.,() %+-]+$`)
)

// entities are those of a drawing's own in a style, which say what is not seen here.
var entities = regexp.MustCompile(`style\s*=\s*("[^"]*&[a-zA-Z_]|'[^']*&[a-zA-Z_])`)

// Valid is nil if a change can be made to some drawing.
func (c Change) Valid() error {
	for _, name := range []string{c.Name, c.From, c.Like} {
		if !elementName.MatchString(name) && (name != "" || c.Name == "") {
			return fmt.Errorf("%q is no name of an element", name)
		}
	}
	switch {
	case c.From != "" && c.Like != "":
		return errors.New("from and like exclude each other")
	case c.From == c.Name || c.Like == c.Name:
		return errors.New("an element does not come from itself")
	case c.From == "" && c.Like == "" && c.Edges == "" && len(c.Set) == 0:
		return errors.New("it changes nothing: there is no from, like, edges or set")
	case c.Shape < 0 || c.Shape > 10_000:
		return errors.New("shape is the number of a shape in the element, from 1")
	case c.Shape > 0 && len(c.Set) == 0:
		return errors.New("shape says which shape set is for, and there is no set")
	}
	if c.Edges != "" {
		if _, err := ParseEdges(c.Edges); err != nil {
			return fmt.Errorf("edges: %w", err)
		}
	}
	for name, value := range c.Set {
		if _, ok := Attributes[name]; !ok {
			return fmt.Errorf("set: %s is not one that can be set", name)
		}
		if len(value) > 2000 || !shapeValue.MatchString(value) || strings.Contains(strings.ToLower(value), "url(") {
			return fmt.Errorf("set: %s: %q is not one value", name, value)
		}
	}
	return nil
}

// tag is a start tag of a drawing.
type tag struct {
	name     string
	attrs    []xml.Attr
	from, to int // of the tag
	end      int // behind the whole element
	kids     []int
}

func (t tag) attr(name string) string {
	for _, a := range t.attrs {
		if a.Name.Local == name && a.Name.Space == "" {
			return a.Value
		}
	}
	return ""
}

// tags are the start tags of a drawing, in their order, and whether it has a style sheet.
func tags(raw []byte) (out []tag, styled bool, err error) {
	d := xml.NewDecoder(bytes.NewReader(raw))
	d.CharsetReader = func(_ string, r io.Reader) (io.Reader, error) { return r, nil }
	d.Strict = false
	var open []int
	for {
		from := int(d.InputOffset())
		t, err := d.RawToken()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, false, fmt.Errorf("%w: %w", svgraster.ErrDrawing, err)
		}
		switch t := t.(type) {
		case xml.StartElement:
			if len(out) > 200_000 || len(open) > 256 {
				return nil, false, svgraster.ErrCostly
			}
			styled = styled || t.Name.Local == "style"
			if len(open) > 0 {
				above := open[len(open)-1]
				out[above].kids = append(out[above].kids, len(out))
			}
			open = append(open, len(out))
			out = append(out, tag{name: t.Name.Local, attrs: slices.Clone(t.Attr), from: from, to: int(d.InputOffset())})
		case xml.EndElement:
			if len(open) == 0 {
				return nil, false, fmt.Errorf("%w: it ends what it did not begin", svgraster.ErrDrawing)
			}
			out[open[len(open)-1]].end = int(d.InputOffset())
			open = open[:len(open)-1]
		}
	}
	if len(open) > 0 {
		return nil, false, fmt.Errorf("%w: it does not end", svgraster.ErrDrawing)
	}
	return out, styled, nil
}

func named(all []tag, name string) int {
	return slices.IndexFunc(all, func(t tag) bool { return t.attr("id") == name })
}

var shapes = []string{"path", "rect", "circle", "ellipse", "line", "polyline", "polygon"}

// shapesIn are the shapes of an element, itself or below it.
func shapesIn(all []tag, at int) (out []int) {
	if slices.Contains(shapes, all[at].name) {
		return []int{at}
	}
	for _, k := range all[at].kids {
		out = append(out, shapesIn(all, k)...)
	}
	return out
}

// Shape is one of an element's shapes, with what it says of itself.
type Shape struct {
	Kind string
	Says map[string]string // by attribute
}

// Shapes are those of an element of a drawing, in their order.
func Shapes(raw []byte, name string) ([]Shape, error) {
	all, _, err := tags(raw)
	if err != nil {
		return nil, err
	}
	at := named(all, name)
	if at < 0 {
		return nil, nil
	}
	var out []Shape
	for _, i := range shapesIn(all, at) {
		s := Shape{Kind: all[i].name, Says: map[string]string{}}
		for attribute := range Attributes {
			if value := all[i].says(attribute); value != "" {
				s.Says[attribute] = value
			}
		}
		out = append(out, s)
	}
	return out, nil
}

// says is what a shape says of an attribute, in its style or by itself.
func (t tag) says(attribute string) string {
	for d := range strings.SplitSeq(t.attr("style"), ";") {
		if key, value, ok := strings.Cut(d, ":"); ok && strings.TrimSpace(key) == attribute {
			return strings.TrimSpace(value)
		}
	}
	return strings.TrimSpace(t.attr(attribute))
}

// Edit makes changes to a drawing, one after the other, and leaves all else as it is, byte for
// byte. Errors are [ErrChange], [svgraster.ErrDrawing] and [svgraster.ErrCostly].
func Edit(raw []byte, changes []Change) ([]byte, error) {
	for _, c := range changes {
		if err := c.Valid(); err != nil {
			return nil, fmt.Errorf("%w: %s: %w", ErrChange, c.Name, err)
		}
		out, err := c.edit(raw)
		if err != nil {
			return nil, err
		}
		if len(out) > MaxBytes {
			return nil, svgraster.ErrCostly
		}
		before, err := twice(raw)
		if err != nil {
			return nil, err
		}
		if after, err := twice(out); err != nil || after != before {
			return nil, fmt.Errorf("%w: %s is not written as XML asks for", ErrChange, c.Name)
		}
		raw = out
	}
	return raw, nil
}

// twice is how many attributes are stated more than once, which no XML may (XML 1.0, section 3.1).
func twice(raw []byte) (n int, err error) {
	all, _, err := tags(raw)
	for _, t := range all {
		seen := map[xml.Name]bool{}
		for _, a := range t.attrs {
			if seen[a.Name] {
				n++
			}
			seen[a.Name] = true
		}
	}
	return n, err
}

func (c Change) edit(raw []byte) ([]byte, error) {
	all, styled, err := tags(raw)
	if err != nil {
		return nil, err
	}
	switch at := named(all, c.Name); {
	case (c.From != "" || c.Like != "") && at >= 0:
		// The maker has drawn it meanwhile, or an earlier change has: it is theirs that counts.
	case c.From != "":
		from := named(all, c.From)
		if from < 0 {
			return nil, fmt.Errorf("%w: there is no %s", ErrChange, c.From)
		}
		raw = replaced(raw, all[from].from, all[from].to, withAttribute(raw[all[from].from:all[from].to], "id", c.Name))
	case c.Like != "":
		like := named(all, c.Like)
		if like < 0 {
			return nil, fmt.Errorf("%w: there is no %s", ErrChange, c.Like)
		}
		raw = replaced(raw, all[like].end, all[like].end, copied(raw, all, like, c.Name))
	}
	if len(c.Set) == 0 && c.Edges == "" {
		return raw, nil
	}
	if all, styled, err = tags(raw); err != nil {
		return nil, err
	}
	at := named(all, c.Name)
	if at < 0 {
		return nil, fmt.Errorf("%w: there is no %s", ErrChange, c.Name)
	}
	in := shapesIn(all, at)
	if c.Shape > len(in) || len(c.Set) > 0 && len(in) == 0 {
		return nil, fmt.Errorf("%w: %s has %d shapes", ErrChange, c.Name, len(in))
	}
	if len(c.Set) > 0 && entities.Match(raw[all[at].from:all[at].end]) {
		return nil, fmt.Errorf("%w: %s is styled by words that the drawing defines (entities)", ErrChange, c.Name)
	}
	for i, shape := range slices.Backward(in) { // from the end, so that places before stay
		if len(c.Set) > 0 && (c.Shape == 0 || c.Shape == i+1) && shape != at {
			raw = replaced(raw, all[shape].from, all[shape].to, c.onto(all[shape], raw[all[shape].from:all[shape].to], styled))
		}
	}
	text := raw[all[at].from:all[at].to]
	if len(in) == 1 && in[0] == at {
		text = c.onto(all[at], text, styled)
	}
	if c.Edges != "" {
		text = withAttribute(text, edgesAttribute, c.Edges)
	}
	return replaced(raw, all[at].from, all[at].to, text), nil
}

// onto is a shape's start tag with what is set. What is styled goes into its style where that,
// a class or a style sheet would count before an attribute.
func (c Change) onto(t tag, text []byte, styled bool) []byte {
	style := t.attr("style")
	for _, name := range slices.Sorted(maps.Keys(c.Set)) {
		if Attributes[name] && (styled || style != "") {
			style = restyled(style, name, c.Set[name])
			text = withAttribute(text, "style", style)
			continue
		}
		text = withAttribute(text, name, c.Set[name])
	}
	return text
}

// restyled is a style with a property in it.
func restyled(style, name, value string) string {
	var out []string
	for d := range strings.SplitSeq(style, ";") {
		if key, _, _ := strings.Cut(d, ":"); strings.TrimSpace(d) != "" && strings.TrimSpace(key) != name {
			out = append(out, strings.TrimSpace(d))
		}
	}
	return strings.Join(append(out, name+":"+value), ";")
}

// copied is an element again, under another name; what is in it keeps no names, as each names
// one thing.
func copied(raw []byte, all []tag, at int, name string) []byte {
	from := all[at].from
	out := slices.Clone(raw[from:all[at].end])
	inside := at + 1
	for inside < len(all) && all[inside].from < all[at].end {
		inside++
	}
	for i := inside - 1; i > at; i-- {
		if all[i].attr("id") != "" {
			out = replaced(out, all[i].from-from, all[i].to-from, withoutAttribute(raw[all[i].from:all[i].to], "id"))
		}
	}
	return replaced(out, 0, all[at].to-from, withAttribute(raw[from:all[at].to], "id", name))
}

func replaced(raw []byte, from, to int, with []byte) []byte {
	return slices.Concat(raw[:from], with, raw[to:])
}

// attribute is the place of an attribute in a start tag: all of it, and its value.
func attribute(text []byte, name string) (from, to, value, end int, ok bool) {
	i := 1
	for i < len(text) && !bytes.ContainsRune([]byte(" \t\r\n/>"), rune(text[i])) {
		i++
	}
	for i < len(text) {
		for i < len(text) && bytes.ContainsRune([]byte(" \t\r\n/"), rune(text[i])) {
			i++
		}
		begin := i
		for i < len(text) && !bytes.ContainsRune([]byte(" \t\r\n=/>"), rune(text[i])) {
			i++
		}
		key := string(text[begin:i])
		for i < len(text) && bytes.ContainsRune([]byte(" \t\r\n"), rune(text[i])) {
			i++
		}
		if i >= len(text) || text[i] != '=' {
			if key == "" {
				return 0, 0, 0, 0, false
			}
			continue
		}
		i++
		for i < len(text) && bytes.ContainsRune([]byte(" \t\r\n"), rune(text[i])) {
			i++
		}
		if i >= len(text) || text[i] != '"' && text[i] != '\'' {
			return 0, 0, 0, 0, false // without quotes: the drawing is none
		}
		close := bytes.IndexByte(text[i+1:], text[i])
		if close < 0 {
			return 0, 0, 0, 0, false
		}
		if key == name {
			return begin, i + 2 + close, i + 1, i + 1 + close, true
		}
		i += 2 + close
	}
	return 0, 0, 0, 0, false
}

// withAttribute is a start tag in which an attribute has a value. Values have no quotes in them.
func withAttribute(text []byte, name, value string) []byte {
	var escaped bytes.Buffer
	_ = xml.EscapeText(&escaped, []byte(value)) // a buffer takes everything
	if _, _, from, to, ok := attribute(text, name); ok {
		return replaced(text, from, to, escaped.Bytes())
	}
	at := len(text) - 1
	if at > 0 && text[at-1] == '/' {
		at--
	}
	return replaced(text, at, at, fmt.Appendf(nil, ` %s="%s"`, name, escaped.String()))
}

func withoutAttribute(text []byte, name string) []byte {
	from, to, _, _, ok := attribute(text, name)
	if !ok {
		return text
	}
	for from > 0 && bytes.ContainsRune([]byte(" \t\r\n"), rune(text[from-1])) {
		from--
	}
	return replaced(text, from, to, nil)
}
