package plan

import (
	"regexp"
	"strings"

	"github.com/pmezard/go-difflib/difflib"
)

// DiffLine is a line of a comparison. Old and New are line numbers, 0 where
// the line is not in that file. Sign is ' ', '-', '+', or '…' for lines left
// out.
type DiffLine struct {
	Sign     string
	Old, New int
	Text     string
	Spans    []Span // of a line that took the place of one like it: what differs, word by word
}

// Span is a stretch of a line.
type Span struct {
	Text    string
	Changed bool
}

// Diff compares two texts by line, with three unchanged lines around changes.
// A carriage return before the line end is shown as "\r".
func Diff(before, after []byte) []DiffLine {
	a, b := difflib.SplitLines(string(before)), difflib.SplitLines(string(after))
	var out []DiffLine
	add := func(sign string, old, now int, text string) {
		text = strings.TrimSuffix(text, "\n")
		if cut, ok := strings.CutSuffix(text, "\r"); ok {
			text = cut + `\r`
		}
		out = append(out, DiffLine{Sign: sign, Old: old, New: now, Text: text})
	}
	end := 0
	for _, group := range difflib.NewMatcher(a, b).GetGroupedOpCodes(3) {
		if group[0].I1 > end {
			out = append(out, DiffLine{Sign: "…"})
		}
		for _, op := range group {
			first := len(out)
			if op.Tag == 'e' {
				for i := op.I1; i < op.I2; i++ {
					add(" ", i+1, op.J1+i-op.I1+1, a[i])
				}
				continue
			}
			for i := op.I1; i < op.I2; i++ {
				add("-", i+1, 0, a[i])
			}
			for j := op.J1; j < op.J2; j++ {
				add("+", 0, j+1, b[j])
			}
			if n := op.I2 - op.I1; n == op.J2-op.J1 {
				for i := range n {
					was, is := &out[first+i], &out[first+n+i]
					was.Spans, is.Spans = words(was.Text, is.Text)
				}
			}
		}
		end = group[len(group)-1].I2
	}
	// SplitLines counts an empty line after the last line end.
	if end < len(a)-1 {
		out = append(out, DiffLine{Sign: "…"})
	}
	for len(out) > 0 && out[len(out)-1].Text == "" && out[len(out)-1].Sign == " " {
		out = out[:len(out)-1]
	}
	return out
}

var word = regexp.MustCompile(`[\pL\pN]+|\s+|.`)

// words tells two lines apart by words. Lines that have nothing in common have no
// spans.
func words(was, is string) (a, b []Span) {
	one, other := word.FindAllString(was, -1), word.FindAllString(is, -1)
	common := false
	span := func(to *[]Span, text []string, changed bool) {
		if len(text) > 0 {
			*to = append(*to, Span{strings.Join(text, ""), changed})
		}
	}
	for _, op := range difflib.NewMatcherWithJunk(one, other, false, nil).GetOpCodes() {
		same := op.Tag == 'e'
		common = common || same && strings.TrimSpace(strings.Join(one[op.I1:op.I2], "")) != ""
		span(&a, one[op.I1:op.I2], !same)
		span(&b, other[op.J1:op.J2], !same)
	}
	if !common {
		return nil, nil
	}
	return a, b
}
