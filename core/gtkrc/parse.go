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

type kind int

const (
	end kind = iota
	word
	text
	number
	sign
)

type token struct {
	kind  kind
	text  string
	value float64
	whole bool // a number without a point
	line  int
}

// scanner reads tokens as GLib's GScanner is set up for resource files.
type scanner struct {
	text  []byte
	at    int
	line  int
	ahead *token
	last  int // line of the token that was taken last
}

func (s *scanner) peek() token {
	if s.ahead == nil {
		t := s.scan()
		s.ahead = &t
	}
	return *s.ahead
}

func (s *scanner) next() token {
	t := s.peek()
	s.ahead = nil
	s.last = t.line
	return t
}

func (s *scanner) scan() token {
	if s.skip(); s.at < len(s.text) {
		return s.token(s.text[s.at])
	}
	return token{kind: end, line: s.line}
}

func letter(c byte) bool {
	return c == '_' || c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z'
}

func digit(c byte) bool { return c >= '0' && c <= '9' }

func (s *scanner) token(c byte) token {
	from, line := s.at, s.line
	switch {
	case c == '"':
		return s.quoted()
	case letter(c):
		for s.at < len(s.text) && (letter(s.text[s.at]) || digit(s.text[s.at]) || s.text[s.at] == '-') {
			s.at++
		}
		if s.at == from+1 { // one letter is no word to GTK
			return token{kind: sign, text: string(c), line: line}
		}
		return token{kind: word, text: string(s.text[from:s.at]), line: line}
	case digit(c) || c == '.' && s.at+1 < len(s.text) && digit(s.text[s.at+1]):
		for s.at < len(s.text) && (digit(s.text[s.at]) || s.text[s.at] == '.' || s.text[s.at] == 'x' || letter(s.text[s.at]) && s.text[s.at] != '_') {
			s.at++
		}
		t := string(s.text[from:s.at])
		if v, err := strconv.ParseInt(t, 0, 64); err == nil {
			return token{kind: number, text: t, value: float64(v), whole: true, line: line}
		}
		v, err := strconv.ParseFloat(t, 64)
		if err != nil {
			return token{kind: sign, text: t, line: line}
		}
		return token{kind: number, text: t, value: v, line: line}
	}
	s.at++
	return token{kind: sign, text: string(c), line: line}
}

func (s *scanner) quoted() token {
	line := s.line
	var b strings.Builder
	for s.at++; s.at < len(s.text); s.at++ {
		c := s.text[s.at]
		switch {
		case c == '"':
			s.at++
			return token{kind: text, text: b.String(), line: line}
		case c == '\\' && s.at+1 < len(s.text):
			s.at++
			switch e := s.text[s.at]; e {
			case 'n':
				b.WriteByte('\n')
			case 't':
				b.WriteByte('\t')
			case 'r':
				b.WriteByte('\r')
			case 'b':
				b.WriteByte('\b')
			case 'f':
				b.WriteByte('\f')
			default:
				if e == '\n' {
					s.line++
				}
				b.WriteByte(e)
			}
		default:
			if c == '\n' {
				s.line++
			}
			b.WriteByte(c)
		}
	}
	return token{kind: sign, text: "a text that does not end", line: line}
}

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
	if !p.is("=") {
		return fmt.Errorf("%s begins no statement", t)
	}
	p.next()
	value := p.next()
	if value.kind == sign && value.text == "-" {
		value = p.next()
		value.text = "-" + value.text
	}
	if value.kind == end || value.kind == sign {
		return fmt.Errorf("%s is no value", value)
	}
	if value.whole && !strings.HasPrefix(value.text, "-") {
		value.text = strconv.FormatFloat(value.value, 'f', -1, 64)
	}
	p.file.Settings = append(p.file.Settings, Setting{t.text, value.text, p.name, t.line})
	if t.text == "gtk-color-scheme" {
		p.file.takeScheme(value.text)
	}
	return nil
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
		st = &style{colours: map[string]Colour{}, named: map[string]Colour{}}
	}
	if p.is("=") {
		p.next()
		parent, err := p.string()
		if err != nil {
			return err
		}
		if from := p.file.styles[parent]; from != nil {
			st.take(from)
		}
	}
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
	maps.Copy(st.named, from.named)
	st.x, st.y = from.x, from.y
	st.font, st.engine = cmp.Or(from.font, st.font), cmp.Or(from.engine, st.engine)
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
			st.named[name] = c
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
		st.engine = name
		return p.braces()
	}
	return p.passed(t)
}

// passed reads a property that nothing is drawn from.
func (p *parser) passed(t token) error {
	switch t.text {
	case "bg_pixmap":
		if _, err := p.state(); err != nil {
			return err
		}
		_, err := p.text()
		return err
	case "stock":
		if _, err := p.inBrackets(); err != nil {
			return err
		}
		if err := p.want("="); err != nil {
			return err
		}
		return p.braces()
	}
	if !p.is(":") {
		return fmt.Errorf("%s is no property of a style", t)
	}
	for range 2 { // a property of a class of widgets
		if err := p.want(":"); err != nil {
			return err
		}
	}
	if n := p.next(); n.kind != word {
		return fmt.Errorf("%s is no property", n)
	}
	if err := p.want("="); err != nil {
		return err
	}
	return p.passValue()
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

// passValue passes over one value: a text, a number, words, or what stands in
// braces.
func (p *parser) passValue() error {
	if p.is("{") {
		return p.braces()
	}
	t := p.next()
	if t.kind == sign && (t.text == "-" || t.text == "+") {
		t = p.next()
	}
	for t.kind == word && p.is("|") { // flags
		p.next()
		t = p.next()
	}
	if t.kind == end || t.kind == sign {
		return fmt.Errorf("%s is no value", t)
	}
	if t.kind != word || !p.is("(") {
		return nil
	}
	for depth := 0; ; { // an expression
		n := p.next()
		switch {
		case n.kind == end:
			return errMore
		case n.kind == sign && n.text == "(":
			depth++
		case n.kind == sign && n.text == ")":
			if depth--; depth == 0 {
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
		if c, ok := st.named[name.text]; ok {
			return c, nil
		}
		if c, ok := p.file.scheme[name.text]; ok && name.kind == word {
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
		n := p.next()
		if n.kind != number {
			return c, fmt.Errorf("%s is no number", n)
		}
		factor = n.value
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
