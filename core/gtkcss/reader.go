package gtkcss

import (
	"bytes"
	"slices"
	"strings"

	"github.com/tdewolff/parse/v2"
	"github.com/tdewolff/parse/v2/css"
)

// token is a word of a style sheet and the line it stands in.
type token struct {
	kind   css.TokenType
	text   string
	line   int
	spaced bool // a blank or a comment stands before it
}

func (t token) is(delim string) bool { return t.text == delim && t.kind != css.StringToken }

// tokens splits a style sheet into its words (css-syntax-3).
func tokens(text []byte) []token {
	out, _ := someTokens(text, len(text)+1, func() bool { return false }, func([]byte, int) {})
	return out
}

// someTokens returns no more than so many words, and whether these are all: they are not
// when somebody gave up on them.
func someTokens(text []byte, most int, givenUp func() bool, comment func(text []byte, line int)) (out []token, all bool) {
	lexer := css.NewLexer(parse.NewInputBytes(bytes.Clone(text)))
	out = make([]token, 0, min(len(text)/4, most))
	line, spaced := 1, false
	for n := 0; ; n++ {
		if len(out) >= most || n%1024 == 0 && givenUp() {
			return out, false
		}
		kind, data := lexer.Next()
		switch kind {
		case css.ErrorToken:
			return out, true
		case css.WhitespaceToken, css.CommentToken, css.CDOToken, css.CDCToken:
			if spaced = true; kind == css.CommentToken {
				comment(data, line)
			}
		default:
			out = append(out, token{kind, string(data), line, spaced})
			spaced = false
		}
		line += bytes.Count(data, []byte("\n"))
	}
}

// reader takes the words of a value one after the other.
type reader struct {
	tokens []token
	at     int
	gtk    int // the generation whose rules count: 3 or 4
	deep   int // in how many functions it is
	far    int // how far reading came, where something was tried that did not fit
	end    int // line of what stands after the last word

	room      []step               // for what a selector is read into
	compounds map[string]*compound // that selectors have, by their words
	silent    bool                 // the toolkit does not complain of what does not fit
	afresh    bool                 // a selector begins anew
	complains int                  // line of what the toolkit complains of and takes all the same
}

// failed is the line of the word at which reading ended.
func (r *reader) failed() int {
	if at := max(r.at, r.far); at < len(r.tokens) {
		return r.tokens[at].line
	}
	return r.end
}

// maxNested bounds functions within functions.
const maxNested = 100

// enter goes into a function, if that is not nested too deep; leave goes out of it.
func (r *reader) enter() bool {
	if r.deep >= maxNested {
		return false
	}
	r.deep++
	return true
}

func (r *reader) leave() { r.deep-- }

func (r *reader) done() bool { return r.at >= len(r.tokens) }

func (r *reader) peek() token {
	if r.done() {
		return token{kind: css.ErrorToken}
	}
	return r.tokens[r.at]
}

func (r *reader) next() token {
	t := r.peek()
	r.at++
	return t
}

// take goes on past a delimiter if it is the next word.
func (r *reader) take(delim string) bool {
	if !r.done() && r.peek().is(delim) {
		r.at++
		return true
	}
	return false
}

// word goes on past a keyword if the next one is among those given.
func (r *reader) word(of ...string) (string, bool) {
	if t := r.peek(); t.kind == css.IdentToken {
		for _, w := range of {
			if strings.EqualFold(t.text, w) {
				r.at++
				return w, true
			}
		}
	}
	return "", false
}

// function goes on past a function's name and bracket and returns the name.
func (r *reader) function() (string, bool) {
	switch t := r.peek(); {
	case t.kind == css.FunctionToken:
		r.at++
		return strings.ToLower(strings.TrimSuffix(t.text, "(")), true
	case r.isApart():
		r.at += 2
		return strings.ToLower(t.text), true
	}
	return "", false
}

// apart are the functions whose bracket GTK 3 takes after a blank too; GTK 4 does
// of none (GTK 3.24, gtkcsscolorvalue.c, gtkcssimage*.c, gtkcsseasevalue.c).
var apart = []string{"rgb", "rgba", "lighter", "darker", "shade", "alpha", "mix", "-gtk-gradient", "from", "to", "color-stop", "image", "-gtk-recolor", "-gtk-scaled", "cubic-bezier", "steps"}

// isApart reports whether a function with a blank before its bracket is next.
func (r *reader) isApart() bool {
	t := r.peek()
	if r.gtk != 3 || t.kind != css.IdentToken || r.at+1 >= len(r.tokens) || !r.tokens[r.at+1].is("(") {
		return false
	}
	return slices.Contains(apart, strings.ToLower(t.text))
}

// try reads something or leaves the reader where it was.
func try[T any](r *reader, read func(*reader) (T, bool)) (T, bool) {
	from := *r
	v, ok := read(r)
	if !ok {
		from.far, from.silent = max(r.far, r.at), r.silent
		*r = from
	}
	return v, ok
}

// commas reads one thing or more, with commas between.
func commas[T any](r *reader, read func(*reader) (T, bool)) ([]T, bool) {
	var out []T
	for {
		v, ok := read(r)
		if !ok {
			return nil, false
		}
		out = append(out, v)
		if !r.take(",") {
			return out, true
		}
	}
}

// text reads a string or the address in url(…).
func (r *reader) text() (string, bool) {
	switch t := r.peek(); t.kind {
	case css.StringToken:
		r.at++
		return unquote(t.text), true
	case css.URLToken:
		address := strings.TrimSpace(strings.TrimSuffix(t.text[4:], ")"))
		if r.gtk == 3 && !strings.HasPrefix(address, `"`) && !strings.HasPrefix(address, "'") {
			return "", false // GTK 3 asks for quotes
		}
		r.at++
		return unquote(address), true
	}
	return "", false
}

// unquote takes the quotes and the escapes off a string.
func unquote(s string) string {
	if len(s) >= 2 && (s[0] == '"' || s[0] == '\'') {
		s = s[1 : len(s)-1]
	}
	if !strings.Contains(s, `\`) {
		return s
	}
	var b strings.Builder
	for i := 0; i < len(s); i++ {
		if s[i] != '\\' || i+1 == len(s) {
			b.WriteByte(s[i])
			continue
		}
		n, digits := rune(0), 0
		for digits < 6 && i+1+digits < len(s) {
			d := strings.IndexByte("0123456789abcdef", s[i+1+digits]|0x20)
			if d < 0 || s[i+1+digits] < '0' {
				break
			}
			n, digits = n*16+rune(d), digits+1
		}
		if digits == 0 {
			i++
			if s[i] != '\n' {
				b.WriteByte(s[i])
			}
			continue
		}
		b.WriteRune(n)
		if i += digits; i+1 < len(s) && s[i+1] == ' ' {
			i++
		}
	}
	return b.String()
}
