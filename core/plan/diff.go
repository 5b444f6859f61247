package plan

import (
	"regexp"
	"slices"
	"strings"

	"github.com/aymanbagabas/go-udiff/lcs"
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

// around is how many unchanged lines are shown before and after changes.
const around = 3

// Diff compares two texts by line, with three unchanged lines around changes.
// A carriage return before the line end is shown as "\r".
func Diff(before, after []byte) []DiffLine {
	a, b := linesOf(before), linesOf(after)
	var out []DiffLine
	add := func(sign string, old, now int, text string) {
		text = strings.TrimSuffix(text, "\n")
		if cut, ok := strings.CutSuffix(text, "\r"); ok {
			text = cut + `\r`
		}
		out = append(out, DiffLine{Sign: sign, Old: old, New: now, Text: text})
	}
	at, moved := 0, 0 // lines of a that are told, and how far those of b are ahead
	same := func(from, to int) {
		if from > at {
			out = append(out, DiffLine{Sign: "…"})
		}
		for i := max(at, from); i < to; i++ {
			add(" ", i+1, i+moved+1, a[i])
		}
		at = max(at, to)
	}
	edits := lcs.DiffLines(a, b)
	for n, e := range edits {
		same(max(at, e.Start-around), e.Start)
		first := len(out)
		for i := e.Start; i < e.End; i++ {
			add("-", i+1, 0, a[i])
		}
		for j := e.ReplStart; j < e.ReplEnd; j++ {
			add("+", 0, j+1, b[j])
		}
		if n := e.End - e.Start; n == e.ReplEnd-e.ReplStart {
			for i := range n {
				was, is := &out[first+i], &out[first+n+i]
				was.Spans, is.Spans = words(was.Text, is.Text)
			}
		}
		at, moved = e.End, e.ReplEnd-e.End
		after := len(a)
		if n+1 < len(edits) {
			after = edits[n+1].Start
		}
		same(at, min(after, e.End+around))
	}
	if at < len(a) {
		out = append(out, DiffLine{Sign: "…"})
	}
	return out
}

// linesOf are the lines of a text with their ends.
func linesOf(text []byte) []string { return slices.Collect(strings.Lines(string(text))) }

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
	at := 0
	same := func(to int) {
		text := one[at:to]
		common = common || strings.TrimSpace(strings.Join(text, "")) != ""
		span(&a, text, false)
		span(&b, text, false)
	}
	for _, e := range lcs.DiffLines(one, other) {
		same(e.Start)
		span(&a, one[e.Start:e.End], true)
		span(&b, other[e.ReplStart:e.ReplEnd], true)
		at = e.End
	}
	same(len(one))
	if !common {
		return nil, nil
	}
	return a, b
}
