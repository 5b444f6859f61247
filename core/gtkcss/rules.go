package gtkcss

import (
	"bytes"
	"strings"

	"github.com/tdewolff/parse/v2"
	"github.com/tdewolff/parse/v2/css"
)

// Rule is what a sheet writes for a list of selectors, as text: whether the toolkit takes it
// is another question.
type Rule struct {
	Selectors []string // each with single blanks, as [Selector] writes them
	Tells     []Tell
	Line      int // 1-based, of the first selector
}

// Tell is one property's value as it is written.
type Tell struct {
	Property, Value string
	Line            int
}

// maxRuleText is how much of a sheet is read for its rules, in bytes.
const maxRuleText = MaxBytes

// Rules lists the rules of a sheet in order, without those in blocks of at-rules. Of a sheet
// that is longer than [MaxBytes] the rest is left out.
func Rules(text []byte) []Rule {
	var out []Rule
	words := lexed(text[:min(len(text), maxRuleText)])
	for i := 0; i < len(words); {
		if words[i].kind == css.AtKeywordToken {
			i = pastStatement(words, i)
			continue
		}
		from, deep := i, 0
		for i < len(words) && !(deep == 0 && words[i].kind == css.LeftBraceToken) {
			deep += deeper(words[i])
			i++
		}
		if i == len(words) {
			return out
		}
		r := Rule{Line: words[i].line}
		if head := trimmed(words[from:i]); len(head) > 0 {
			r.Line = head[0].line
		}
		for _, part := range splitAt(words[from:i], css.CommaToken) {
			if s := asText(part); s != "" {
				r.Selectors = append(r.Selectors, s)
			}
		}
		from = i + 1
		for i, deep = i+1, 1; i < len(words) && deep > 0; i++ {
			switch words[i].kind {
			case css.LeftBraceToken:
				deep++
			case css.RightBraceToken:
				deep--
			}
		}
		end := i
		if deep == 0 {
			end--
		}
		for _, part := range splitAt(words[from:end], css.SemicolonToken) {
			for n, w := range part {
				if w.kind == css.ColonToken {
					if name := asText(part[:n]); name != "" {
						r.Tells = append(r.Tells, Tell{name, asText(part[n+1:]), part[0].line})
					}
					break
				}
			}
		}
		out = append(out, r)
	}
	return out
}

// Selector is a selector as [Rules] writes it, so that two that mean the same word by word
// are equal.
func Selector(text string) string { return asText(lexed([]byte(text))) }

// word is a token where it is written; comments are none, blanks are one.
type word struct {
	kind css.TokenType
	text string
	line int
}

func lexed(text []byte) []word {
	var out []word
	lexer := css.NewLexer(parse.NewInputBytes(bytes.Clone(text)))
	line := 1
	for {
		kind, data := lexer.Next()
		if kind == css.ErrorToken {
			return out
		}
		at := line
		line += bytes.Count(data, []byte("\n"))
		switch kind {
		case css.CommentToken:
		case css.WhitespaceToken:
			if len(out) > 0 && out[len(out)-1].kind != css.WhitespaceToken {
				out = append(out, word{kind, " ", at})
			}
		default:
			if len(out) > 0 && out[len(out)-1].kind == css.WhitespaceToken && ends(kind) {
				out = out[:len(out)-1]
			}
			out = append(out, word{kind, string(data), at})
			if kind == css.RightBraceToken || kind == css.SemicolonToken || kind == css.LeftBraceToken {
				out = append(out, word{css.WhitespaceToken, " ", line})
			}
		}
	}
}

// ends reports whether a blank before a token says nothing.
func ends(kind css.TokenType) bool {
	return kind == css.LeftBraceToken || kind == css.RightBraceToken || kind == css.SemicolonToken || kind == css.CommaToken
}

func deeper(w word) int {
	switch w.kind {
	case css.LeftParenthesisToken, css.LeftBracketToken, css.FunctionToken:
		return 1
	case css.RightParenthesisToken, css.RightBracketToken:
		return -1
	}
	return 0
}

// pastStatement is behind an at-rule: its semicolon or its block.
func pastStatement(words []word, i int) int {
	for deep := 0; i < len(words); i++ {
		switch words[i].kind {
		case css.SemicolonToken:
			if deep == 0 {
				return pastBlank(words, i+1)
			}
		case css.LeftBraceToken:
			deep++
		case css.RightBraceToken:
			if deep--; deep <= 0 {
				return pastBlank(words, i+1)
			}
		}
	}
	return i
}

func pastBlank(words []word, i int) int {
	if i < len(words) && words[i].kind == css.WhitespaceToken {
		i++
	}
	return i
}

// splitAt parts words at tokens of a kind outside brackets.
func splitAt(words []word, kind css.TokenType) (out [][]word) {
	from, deep := 0, 0
	for i, w := range words {
		if deep += deeper(w); w.kind == kind && deep <= 0 {
			out = append(out, trimmed(words[from:i]))
			from = i + 1
		}
	}
	return append(out, trimmed(words[from:]))
}

func trimmed(words []word) []word {
	for len(words) > 0 && words[0].kind == css.WhitespaceToken {
		words = words[1:]
	}
	for len(words) > 0 && words[len(words)-1].kind == css.WhitespaceToken {
		words = words[:len(words)-1]
	}
	return words
}

func asText(words []word) string {
	var b strings.Builder
	for _, w := range trimmed(words) {
		b.WriteString(w.text)
	}
	return b.String()
}
