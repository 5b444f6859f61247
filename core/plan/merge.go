package plan

import (
	"bytes"
	"slices"

	"github.com/pmezard/go-difflib/difflib"
)

// hunk is a stretch of lines of one text, from and up to, that another text has
// otherwise.
type hunk struct {
	from, to int
	lines    []string
}

// hunks are what has to be done to a to make it b, line by line where as many
// lines come as go.
func hunks(a, b []string) []hunk {
	m := difflib.NewMatcherWithJunk(a, b, false, nil)
	var out []hunk
	for _, op := range m.GetOpCodes() {
		gone, come := op.I2-op.I1, op.J2-op.J1
		switch {
		case op.Tag == 'e':
		case gone == come || come == 0:
			for i := range gone {
				h := hunk{from: op.I1 + i, to: op.I1 + i + 1}
				if come > 0 {
					h.lines = b[op.J1+i : op.J1+i+1]
				}
				out = append(out, h)
			}
		default:
			out = append(out, hunk{op.I1, op.I2, b[op.J1:op.J2]})
		}
	}
	return out
}

// changed is a text with some hunks done to it, which are in order and apart.
func changed(a []string, do []hunk) []byte {
	var out bytes.Buffer
	at := 0
	for _, h := range do {
		for _, l := range a[at:h.from] {
			out.WriteString(l)
		}
		for _, l := range h.lines {
			out.WriteString(l)
		}
		at = h.to
	}
	for _, l := range a[at:] {
		out.WriteString(l)
	}
	return out.Bytes()
}

func linesOf(b []byte) []string {
	var out []string
	for l := range bytes.Lines(b) {
		out = append(out, string(l))
	}
	return out
}

// merge does to a text what makes it one and what makes it the other. It fails
// where both change the same lines, or lines that touch, otherwise.
func merge(base, one, other []byte) (merged []byte, ok bool) {
	a := linesOf(base)
	do := slices.Concat(hunks(a, linesOf(one)), hunks(a, linesOf(other)))
	slices.SortStableFunc(do, func(x, y hunk) int {
		if x.from != y.from {
			return x.from - y.from
		}
		return x.to - y.to
	})
	var apart []hunk
	for _, h := range do {
		if n := len(apart); n > 0 {
			last := apart[n-1]
			if last.from == h.from && last.to == h.to && slices.Equal(last.lines, h.lines) {
				continue // both do the same
			}
			if h.from < last.to || h.from == last.from {
				return nil, false
			}
		}
		apart = append(apart, h)
	}
	return changed(a, apart), true
}
