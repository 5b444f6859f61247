package gtkrc

import (
	"bytes"
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
	fault // what no token begins with, or a token that does not end
)

type token struct {
	kind  kind
	text  string
	value float64
	whole bool // a number without a point
	line  int
}

// is reports whether it is a sign.
func (t token) is(s string) bool { return t.kind == sign && t.text == s }

// keyword reports whether it is one of the words that resource files keep for
// themselves: none of them is a name (gtkrc.c, symbol_names).
func (t token) keyword() bool { return t.kind == word && slices.Contains(keywords, t.text) }

var keywords = strings.Fields(`include NORMAL ACTIVE PRELIGHT SELECTED INSENSITIVE fg bg text base xthickness ythickness font fontset font_name
	bg_pixmap pixmap_path style binding bind widget widget_class class lowest gtk application theme rc highest engine module_path stock im_module_file
	LTR RTL color unbind`)

// scanner reads tokens as GLib's GScanner (2.74, gscanner.c) does, set up as it is
// for resource files.
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
	if s.skip(); s.at < len(s.text) && s.text[s.at] != 0 {
		return s.token(s.text[s.at])
	}
	return token{kind: end, line: s.line}
}

// skip goes over blanks and comments and returns where the next token begins. A
// comment that does not end is left to be told.
func (s *scanner) skip() int {
	for s.at < len(s.text) {
		switch c := s.text[s.at]; {
		case c == '\n':
			s.line++
			s.at++
		case c == ' ' || c == '\t' || c == '\r':
			s.at++
		case c == '#':
			for s.at < len(s.text) && s.text[s.at] != '\n' {
				s.at++
			}
		case c == '/' && bytes.HasPrefix(s.text[s.at:], []byte("/*")):
			length := bytes.Index(s.text[s.at+2:], []byte("*/"))
			if length < 0 {
				return s.at
			}
			s.line += bytes.Count(s.text[s.at:s.at+2+length], []byte("\n"))
			s.at += length + 4
		default:
			return s.at
		}
	}
	return s.at
}

func letter(c byte) bool {
	return c == '_' || c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z'
}

func digit(c byte) bool { return c >= '0' && c <= '9' }

func alphanumeric(c byte) bool { return digit(c) || letter(c) && c != '_' }

func (s *scanner) byteAt(i int) byte {
	if i < len(s.text) {
		return s.text[i]
	}
	return 0
}

func (s *scanner) token(c byte) token {
	from, line := s.at, s.line
	switch {
	case c == '"':
		return s.quoted()
	case c == '\'':
		return s.singleQuoted()
	case letter(c):
		for s.at < len(s.text) && (letter(s.text[s.at]) || digit(s.text[s.at]) || s.text[s.at] == '-') {
			s.at++
		}
		if s.at == from+1 { // one letter is no word to GTK
			return token{kind: sign, text: string(c), line: line}
		}
		return token{kind: word, text: string(s.text[from:s.at]), line: line}
	case digit(c) || c == '.' || c == '$':
		return s.number()
	case c == '/' && s.byteAt(s.at+1) == '*':
		s.at = len(s.text)
		return token{kind: fault, text: "a comment that does not end", line: line}
	}
	s.at++
	return token{kind: sign, text: string(c), line: line}
}

// number reads one: decimal, octal with a zero before, hexadecimal with 0x or $,
// binary with 0b, or one with a point, which may begin with it.
func (s *scanner) number() token {
	from, line, radix := s.at, s.line, 10
	float := false
	switch s.text[s.at] {
	case '$':
		radix = 16
		s.at++
		from = s.at
	case '.':
		float = true
		s.at++
	case '0':
		radix = 8
		switch s.byteAt(s.at + 1) {
		case 'x', 'X':
			radix = 16
			s.at += 2
			from = s.at
		case 'b', 'B':
			radix = 2
			s.at += 2
			from = s.at
		}
	}
	for ; s.at < len(s.text); s.at++ {
		switch c := s.text[s.at]; {
		case c == '.' && !float && (radix == 10 || radix == 8), (c == 'e' || c == 'E') && radix != 16 && radix != 2:
			float = true
			continue
		case (c == '+' || c == '-') && float && s.at > from && (s.text[s.at-1] == 'e' || s.text[s.at-1] == 'E'), alphanumeric(c):
			continue
		}
		break
	}
	t := token{kind: number, text: string(s.text[from:s.at]), line: line}
	if float {
		v, err := strconv.ParseFloat(t.text, 64)
		if err != nil {
			return token{kind: fault, text: t.text, line: line}
		}
		t.value = v
		return t
	}
	v, err := strconv.ParseUint(t.text, radix, 32)
	if err != nil {
		return token{kind: fault, text: t.text, line: line}
	}
	t.value, t.whole = float64(v), true
	return t
}

func (s *scanner) singleQuoted() token {
	line, from := s.line, s.at+1
	length := bytes.IndexByte(s.text[from:], '\'')
	if length < 0 {
		s.at = len(s.text)
		return token{kind: fault, text: "a text that does not end", line: line}
	}
	s.at = from + length + 1
	inside := s.text[from : from+length]
	s.line += bytes.Count(inside, []byte("\n"))
	return token{kind: text, text: string(inside), line: line}
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
			b.WriteByte(s.escaped())
		default:
			if c == '\n' {
				s.line++
			}
			b.WriteByte(c)
		}
	}
	return token{kind: fault, text: "a text that does not end", line: line}
}

// escaped is what stands for a character after a backslash; up to three octal
// digits are its number.
func (s *scanner) escaped() byte {
	c := s.text[s.at]
	if i := strings.IndexByte("ntrbf", c); i >= 0 {
		return "\n\t\r\b\f"[i]
	}
	octal := func(c byte) bool { return c >= '0' && c <= '7' }
	if !octal(c) {
		if c == '\n' {
			s.line++
		}
		return c
	}
	v := c - '0'
	for range 2 {
		if !octal(s.byteAt(s.at + 1)) {
			break
		}
		s.at++
		v = v*8 + s.text[s.at] - '0'
	}
	return v
}
