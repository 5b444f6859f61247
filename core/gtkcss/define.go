package gtkcss

import (
	"bytes"

	"github.com/tdewolff/parse/v2"
	"github.com/tdewolff/parse/v2/css"
)

// Definition is a colour that a sheet names, "@define-color NAME VALUE;".
type Definition struct {
	Name, Value string
	Line        int // 1-based
	from, to    int // of the value
}

// Definitions lists the colours that a sheet defines, in order; of equal names
// the last counts.
func Definitions(text []byte) []Definition {
	var out []Definition
	lexer := css.NewLexer(parse.NewInputBytes(bytes.Clone(text)))
	at, line, depth := 0, 1, 0
	var now *Definition
	for {
		kind, data := lexer.Next()
		if kind == css.ErrorToken {
			return out
		}
		begins := at
		at += len(data)
		line += bytes.Count(data, []byte("\n"))
		switch {
		case kind == css.AtKeywordToken && string(data) == "@define-color" && depth == 0:
			now = &Definition{Line: line, from: -1}
		case kind == css.LeftBraceToken:
			depth++
			now = nil
		case kind == css.RightBraceToken:
			depth--
		case now == nil || kind == css.CommentToken:
		case kind == css.WhitespaceToken:
		case kind == css.SemicolonToken:
			if now.from >= 0 {
				now.Value = string(text[now.from:now.to])
				out = append(out, *now)
			}
			now = nil
		case now.Name == "":
			now.Name = string(data)
		default:
			if now.from < 0 {
				now.from = begins
			}
			now.to = at
		}
	}
}

// Define returns a sheet in which a named colour has a value: in its last
// definition, else in a new one at the end. Everything else stays as it is.
func Define(text []byte, name, value string) []byte {
	var last *Definition
	for _, d := range Definitions(text) {
		if d.Name == name {
			last = &d
		}
	}
	if last != nil {
		return bytes.Join([][]byte{text[:last.from], []byte(value), text[last.to:]}, nil)
	}
	end := "\n"
	if bytes.Contains(text, []byte("\r\n")) {
		end = "\r\n"
	}
	out := bytes.Clone(text)
	if n := len(out); n > 0 && out[n-1] != '\n' {
		out = append(out, end...)
	}
	return append(out, "@define-color "+name+" "+value+";"+end...)
}
