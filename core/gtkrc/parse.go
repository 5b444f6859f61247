package gtkrc

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
)

type parser struct {
	scanner
	file *File
	name string
}

var errMore = errors.New("something is missing")

func (t token) String() string {
	if t.kind == end {
		return "the end of the file"
	}
	return strconv.Quote(t.text)
}

func (p *parser) want(s string) error {
	if t := p.next(); t.kind != sign || t.text != s {
		return fmt.Errorf("%s stands where %q should", t, s)
	}
	return nil
}

func (p *parser) string() (string, error) {
	t := p.next()
	if t.kind != text {
		return "", fmt.Errorf("%s stands where a text in quotes should", t)
	}
	return t.text, nil
}

func (p *parser) is(s string) bool {
	t := p.peek()
	return t.kind == sign && t.text == s
}

// takeScheme takes the colours of a colour scheme; they count from there on. A
// name is all up to a colon, a value all up to a new line or a semicolon; blanks
// count but those right after the colon.
func (f *File) takeScheme(value string) {
	for {
		name, rest, ok := strings.Cut(value, ":")
		if !ok {
			return
		}
		colour := strings.TrimLeft(rest, " ")
		value = ""
		if at := strings.IndexAny(colour, "\n;"); at >= 0 {
			colour, value = colour[:at], colour[at+1:]
		}
		if c, ok := parseColour(colour); ok {
			f.scheme[name] = c
		}
	}
}

func (p *parser) statement() error {
	t := p.next()
	if t.kind != word {
		return fmt.Errorf("%s begins no statement", t)
	}
	switch t.text {
	case "include":
		name, err := p.string()
		if err == nil {
			p.file.include(p.name, name, t.line)
		}
		return err
	case "style":
		return p.style()
	case "widget", "widget_class", "class":
		return p.give(t.text)
	case "binding":
		if _, err := p.string(); err != nil {
			return err
		}
		return p.braces()
	case "pixmap_path", "module_path", "im_module_file":
		_, err := p.string()
		return err
	}
	if t.keyword() || !p.is("=") {
		return fmt.Errorf("%s begins no statement", t)
	}
	value, err := p.assignment(nil)
	if err != nil {
		return err
	}
	key := canonical(t.text)
	p.file.Settings = append(p.file.Settings, Setting{key, value, p.name, t.line})
	if key == "gtk-color-scheme" {
		p.file.takeScheme(value)
	}
	return nil
}

// canonical is a name as GTK keeps it: what is neither letter nor digit is a dash.
func canonical(name string) string {
	return strings.Map(func(r rune) rune {
		if r < 128 && alphanumeric(byte(r)) {
			return r
		}
		return '-'
	}, name)
}

// braces passes over what stands in braces.
func (p *parser) braces() error {
	if err := p.want("{"); err != nil {
		return err
	}
	for depth := 1; depth > 0; {
		switch t := p.next(); {
		case t.kind == end:
			return errMore
		case t.kind == sign && t.text == "{":
			depth++
		case t.kind == sign && t.text == "}":
			depth--
		}
	}
	return nil
}

// give reads which widgets get a style.
func (p *parser) give(kind string) error {
	pattern, err := p.string()
	if err != nil {
		return err
	}
	what := p.next()
	if what.kind != word || what.text != "style" && what.text != "binding" {
		return fmt.Errorf("%s stands where style should", what)
	}
	s := set{kind: kind, pattern: pattern, priority: priorities["theme"]}
	if p.is(":") {
		p.next()
		name := p.next()
		prio, ok := priorities[name.text]
		if !ok {
			return fmt.Errorf("%s is no priority", name)
		}
		s.priority = prio
	}
	name, err := p.string()
	if err != nil || what.text == "binding" {
		return err
	}
	if s.style = p.file.styles[name]; s.style == nil {
		return fmt.Errorf("there is no style %q yet", name)
	}
	p.file.sets = append(p.file.sets, s)
	return nil
}

func (p *parser) style() error {
	name, err := p.string()
	if err != nil {
		return err
	}
	st := p.file.styles[name]
	if st == nil {
		st = &style{colours: map[string]Colour{}}
	}
	var from *style
	if p.is("=") {
		p.next()
		parent, err := p.string()
		if err != nil {
			return err
		}
		if from = p.file.styles[parent]; from != nil {
			st.take(from)
		}
	}
	st.nameColours(from, p.file.scheme)
	if err := p.want("{"); err != nil {
		return err
	}
	for !p.is("}") {
		if err := p.property(st); err != nil {
			return err
		}
	}
	p.next()
	p.file.styles[name] = st
	return nil
}

// take makes a style what another one is; of what it had itself only what the
// other says nothing of stays, and no colour does.
func (st *style) take(from *style) {
	st.colours = maps.Clone(from.colours)
	st.x, st.y = from.x, from.y
	st.font = cmp.Or(from.font, st.font)
}

// nameColours gives a style the names of colours that it may use: its own, then
// those of the one that it is made from, or else those of the colour scheme
// (gtkrc.c, gtk_rc_style_copy_icons_and_colors).
func (st *style) nameColours(from *style, scheme map[string]Colour) {
	if from != nil {
		if len(st.named) == 0 && len(from.named) > 0 {
			st.named = []map[string]Colour{{}}
		}
		st.named = append(st.named, from.named...)
	}
	if len(st.named) == 0 {
		st.named = []map[string]Colour{{}, scheme}
	}
	if len(st.named) > maxNested { // reopened again and again
		st.named = st.named[:maxNested]
	}
}

// colour is one that has a name.
func (st *style) colour(name string) (Colour, bool) {
	for _, names := range st.named {
		if c, ok := names[name]; ok {
			return c, true
		}
	}
	return Colour{}, false
}

func (p *parser) property(st *style) error {
	t := p.next()
	if t.kind != word {
		return fmt.Errorf("%s is no property", t)
	}
	switch t.text {
	case "fg", "bg", "text", "base":
		state, err := p.state()
		if err != nil {
			return err
		}
		c, err := p.assigned(st)
		if err == nil {
			st.colours[t.text+"["+state+"]"] = c
		}
		return err
	case "color":
		name, err := p.inBrackets()
		if err != nil {
			return err
		}
		c, err := p.assigned(st)
		if err == nil {
			st.named[0][name] = c
		}
		return err
	case "xthickness":
		n, err := p.wholeNumber()
		if err == nil {
			st.x = &n
		}
		return err
	case "ythickness":
		n, err := p.wholeNumber()
		if err == nil {
			st.y = &n
		}
		return err
	case "font_name":
		v, err := p.text()
		st.font = v
		return err
	case "font", "fontset", "font_fontset":
		_, err := p.text()
		return err
	case "engine":
		name, err := p.string()
		if err != nil {
			return err
		}
		if st.engine, st.engineTold = name, true; name != "" {
			p.file.engines[name] = true
		}
		return p.braces()
	}
	return p.passed(t, st)
}

// passed reads a property that nothing is drawn from.
func (p *parser) passed(t token, st *style) error {
	switch t.text {
	case "bg_pixmap":
		if _, err := p.state(); err != nil {
			return err
		}
		_, err := p.text()
		return err
	case "stock":
		return p.stock()
	}
	if t.keyword() || !p.is(":") {
		return fmt.Errorf("%s is no property of a style", t)
	}
	for range 2 { // a property of a class of widgets
		if err := p.want(":"); err != nil {
			return err
		}
	}
	if n := p.next(); n.kind != word || n.keyword() {
		return fmt.Errorf("%s is no property", n)
	}
	_, err := p.assignment(st)
	return err
}

// stock reads which pictures a sign of the toolkit has: {{ "file", LTR, NORMAL,
// "size" }, …}.
func (p *parser) stock() error {
	if _, err := p.inBrackets(); err != nil {
		return err
	}
	if err := p.want("="); err != nil {
		return err
	}
	if err := p.want("{"); err != nil {
		return err
	}
	if p.is("}") { // GTK leaves it, and it ends the style
		return nil
	}
	for {
		if err := p.iconSource(); err != nil {
			return err
		}
		switch t := p.next(); {
		case t.is("}"):
			return nil
		case !t.is(","):
			return fmt.Errorf("%s stands where \"}\" should", t)
		}
	}
}

// iconSource reads one picture: its file, or @ and a name of an icon, then the
// direction, the state and the size that it is for, as far as they are told.
func (p *parser) iconSource() error {
	if err := p.want("{"); err != nil {
		return err
	}
	if p.is("@") {
		p.next()
	}
	if _, err := p.string(); err != nil {
		return err
	}
	for _, fits := range []func(t token) bool{
		func(t token) bool { return t.kind == word && (t.text == "LTR" || t.text == "RTL") },
		func(t token) bool { return t.kind == word && slices.Contains(stateNames, t.text) },
		func(t token) bool { return t.kind == text },
	} {
		t := p.next()
		if t.is("}") {
			return nil
		}
		if !t.is(",") {
			return fmt.Errorf("%s stands where \",\" should", t)
		}
		if t = p.next(); !t.is("*") && !fits(t) {
			return fmt.Errorf("%s is nothing that a picture is for", t)
		}
	}
	return p.want("}")
}

// text reads what a property is told in quotes.
func (p *parser) text() (string, error) {
	if err := p.want("="); err != nil {
		return "", err
	}
	return p.string()
}

// wholeNumber reads one that a property is told.
func (p *parser) wholeNumber() (int, error) {
	if err := p.want("="); err != nil {
		return 0, err
	}
	n := p.next()
	if n.kind != number || !n.whole {
		return 0, fmt.Errorf("%s is no whole number", n)
	}
	return int(n.value), nil
}

// assignment reads a value: a number, a text, a colour's name, a word with what
// stands in brackets after it, or what stands in brackets (gtkrc.c,
// gtk_rc_parse_assignment). Only a style knows colours by name.
func (p *parser) assignment(st *style) (string, error) {
	if err := p.want("="); err != nil {
		return "", err
	}
	if p.is("@") {
		p.next()
		return "", p.named(st)
	}
	minus := ""
	if p.is("-") {
		p.next()
		minus = "-"
	}
	switch t := p.peek(); {
	case t.kind == number:
		p.next()
		return minus + strconv.FormatFloat(t.value, 'f', -1, 64), nil
	case minus != "":
	case t.kind == text:
		p.next()
		return t.text, nil
	case t.kind == word:
		p.next()
		if !p.is("(") {
			return t.text, nil
		}
		return t.text, p.compound(st)
	case t.is("("), t.is("{"), t.is("["):
		return "", p.compound(st)
	}
	return "", fmt.Errorf("%s is no value", p.next())
}

// named reads the name of a colour that there is.
func (p *parser) named(st *style) error {
	name := p.next()
	if name.kind != word {
		return fmt.Errorf("%s is no name of a colour", name)
	}
	if st != nil {
		if _, ok := st.colour(name.text); ok {
			return nil
		}
	}
	return fmt.Errorf("the colour @%s is not defined", name.text)
}

// compound passes over what stands in brackets, each kind closed by its own; names
// of colours in it must be defined.
func (p *parser) compound(st *style) error {
	closing := map[string]string{"(": ")", "{": "}", "[": "]"}
	var open []string
	for {
		t := p.next()
		switch {
		case t.kind == end:
			return errMore
		case t.kind == fault:
			return fmt.Errorf("%s is no value", t)
		case t.is("@"):
			if err := p.named(st); err != nil {
				return err
			}
		case t.kind == sign && closing[t.text] != "":
			if open = append(open, closing[t.text]); len(open) > maxNested {
				return errors.New("brackets are nested too deep")
			}
		case t.is(open[len(open)-1]):
			if open = open[:len(open)-1]; len(open) == 0 {
				return nil
			}
		}
	}
}

func (p *parser) inBrackets() (string, error) {
	if err := p.want("["); err != nil {
		return "", err
	}
	name, err := p.string()
	if err != nil {
		return "", err
	}
	return name, p.want("]")
}

func (p *parser) state() (string, error) {
	if err := p.want("["); err != nil {
		return "", err
	}
	t := p.next()
	if t.kind != word || !slices.Contains(stateNames, t.text) {
		return "", fmt.Errorf("%s is no state", t)
	}
	return t.text, p.want("]")
}

func (p *parser) assigned(st *style) (Colour, error) {
	if err := p.want("="); err != nil {
		return Colour{}, err
	}
	return p.colour(st, 0)
}

const maxNested = 40 // colours in colours

func (p *parser) colour(st *style, depth int) (c Colour, err error) {
	t := p.next()
	switch {
	case depth > maxNested:
		return c, errors.New("colours are nested too deep")
	case t.kind == text:
		c, ok := parseColour(t.text)
		if !ok {
			return c, fmt.Errorf("%s is no colour", t)
		}
		return c, nil
	case t.kind == sign && t.text == "@":
		name := p.next()
		if name.kind != word || name.keyword() {
			return c, fmt.Errorf("%s is no name of a colour", name)
		}
		if c, ok := st.colour(name.text); ok {
			return c, nil
		}
		return c, fmt.Errorf("the colour @%s is not defined", name.text)
	case t.kind == sign && t.text == "{":
		for i := range c {
			if i > 0 {
				if err := p.want(","); err != nil {
					return c, err
				}
			}
			n := p.next()
			if n.kind != number {
				return c, fmt.Errorf("%s is no part of a colour", n)
			}
			if c[i] = n.value; n.whole {
				c[i] /= 65535
			}
			c[i] = min(max(c[i], 0), 1)
		}
		return c, p.want("}")
	case t.kind == word:
		return p.function(t, st, depth)
	}
	return c, fmt.Errorf("%s is no colour", t)
}

func (p *parser) function(t token, st *style, depth int) (c Colour, err error) {
	factor := map[string]float64{"lighter": 1.3, "darker": 0.7}[t.text]
	if err := p.want("("); err != nil {
		return c, err
	}
	switch t.text {
	case "shade", "mix":
		minus := p.is("-")
		if minus {
			p.next()
		}
		n := p.next()
		if n.kind != number || n.whole {
			return c, fmt.Errorf("%s is no number with a point", n)
		}
		if factor = n.value; minus {
			factor = -factor
		}
		if err := p.want(","); err != nil {
			return c, err
		}
	case "lighter", "darker":
	default:
		return c, fmt.Errorf("%s is no function of colours", t)
	}
	if c, err = p.colour(st, depth+1); err != nil {
		return c, err
	}
	if t.text != "mix" {
		return c.Shade(factor), p.want(")")
	}
	if err := p.want(","); err != nil {
		return c, err
	}
	other, err := p.colour(st, depth+1)
	if err != nil {
		return c, err
	}
	return mix(factor, c, other), p.want(")")
}
