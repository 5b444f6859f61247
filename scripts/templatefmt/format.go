package main

import (
	"errors"
	"slices"
	"strings"
)

const width = 120 // columns

// Format lays a template out.
func Format(s string) (string, error) {
	ts, err := tokens(s)
	if err != nil {
		return "", err
	}
	p := printer{ts: ts}
	p.list(0, len(ts), 0)
	p.flush()
	out := strings.TrimLeft(p.out.String(), "\n")
	again, err := tokens(out)
	if err != nil {
		return "", err
	}
	if !slices.Equal(meaning(ts), meaning(again)) {
		return "", errors.New("laid out it would mean something else; this is a fault of templatefmt")
	}
	return out, nil
}

// meaning is what counts of a template: its tokens, and the whitespace that shows.
func meaning(ts []token) []string {
	p := printer{ts: ts}
	var out []string
	for i, t := range ts {
		if t.space && !p.free(i) {
			out = append(out, " ")
		}
		out = append(out, t.text)
	}
	return out
}

// printer writes tokens line by line.
type printer struct {
	ts     []token
	out    strings.Builder
	line   string
	indent int  // of the next line
	at     int  // of this one
	trim   bool // it begins with an action that trims on the left
}

// before tells whether all that can stand before a token is such that whitespace there does
// not show.
func (p *printer) before(i int) bool {
	if i == 0 {
		return true
	}
	t := p.ts[i-1]
	switch {
	case t.kind != control:
		return t.block || t.kind == open && t.name == "button"
	case t.name == "define" || t.name == "block":
		return true
	case t.name == "else":
		return p.before(t.start)
	case t.name == "end":
		of := p.ts[t.start]
		if of.name == "define" {
			return true
		}
		for _, e := range append(slices.Clone(of.elses), i-1) {
			if !p.before(e) {
				return false
			}
		}
		return len(of.elses) > 0 && of.name != "range" || p.before(t.start)
	case t.name == "range":
		end := t.end
		if len(t.elses) > 0 {
			end = t.elses[0]
		}
		return p.before(i-1) && (end == i || p.lastIsBlock(i, end))
	}
	return p.before(i - 1)
}

// lastIsBlock tells whether what stands last in a body is such, for what comes round again.
func (p *printer) lastIsBlock(from, end int) bool {
	t := p.ts[end-1]
	if t.kind != control {
		return t.block
	}
	if t.name == "end" && t.start >= from {
		of := p.ts[t.start]
		for _, e := range append(slices.Clone(of.elses), end-1) {
			if e-1 <= of.start || !p.lastIsBlock(from, e) {
				return false
			}
		}
		return len(of.elses) > 0 || t.start > from && p.lastIsBlock(from, t.start)
	}
	return false
}

// after tells the same of what can stand from a token on.
func (p *printer) after(i int) bool {
	if i >= len(p.ts) {
		return true
	}
	t := p.ts[i]
	if t.kind != control {
		return t.block || t.kind == closing && t.name == "button"
	}
	switch t.name {
	case "define", "block":
		return true
	case "else":
		return p.after(p.ts[t.start].end)
	case "end":
		of := p.ts[t.start]
		if of.name == "define" || of.name == "block" {
			return true
		}
		return p.after(i+1) && (of.name != "range" || p.firstIsBlock(t.start+1))
	case "if", "with", "range":
		for _, e := range t.elses {
			if !p.after(e + 1) {
				return false
			}
		}
		return p.after(i+1) && (len(t.elses) > 0 || p.after(t.end+1))
	}
	return p.after(i + 1)
}

// firstIsBlock tells it of what stands first in a body.
func (p *printer) firstIsBlock(i int) bool {
	for ; i < len(p.ts); i++ {
		if t := p.ts[i]; t.kind != control {
			return t.block
		} else if t.name == "end" || t.name == "else" {
			return false
		}
	}
	return false
}

// free tells whether whitespace before a token does not show.
func (p *printer) free(i int) bool { return p.before(i) || p.after(i) }

// flat is a range of tokens in one line.
func (p *printer) flat(i, j int) string {
	var b strings.Builder
	for k := i; k < j; k++ {
		if k > i && p.ts[k].space && !p.free(k) {
			b.WriteByte(' ')
		}
		b.WriteString(p.ts[k].text)
	}
	return b.String()
}

// extent is the end of what begins with a token.
func (p *printer) extent(i int) int {
	if e := p.ts[i].end; e > 0 {
		return e + 1
	}
	return i + 1
}

// standsAlone tells whether what begins with a token is written on lines of its own.
func (p *printer) standsAlone(i int) bool {
	t := p.ts[i]
	if t.block || t.kind == control && t.end == 0 && t.name != "else" && t.name != "end" {
		return p.free(i)
	}
	if t.kind == control && t.end > 0 {
		for k := i; k < t.end; k++ {
			if p.ts[k].block || p.ts[k].name == "define" {
				return true
			}
		}
		return t.name == "define"
	}
	return false
}

func (p *printer) flush() {
	if p.line != "" {
		p.out.WriteString(strings.Repeat("  ", p.at) + p.line + "\n")
		p.line = ""
	}
}

func (p *printer) room() int {
	if p.line == "" {
		return width - 2*p.indent - map[bool]int{true: 1}[p.trim]
	}
	return width - 2*p.at - len([]rune(p.line))
}

// list writes a range of tokens, one step further in for each that holds others.
func (p *printer) list(i, j, indent int) {
	p.indent = indent
	for k := i; k < j; {
		e := p.extent(k)
		if p.standsAlone(k) {
			p.newline(k)
			p.indent = indent
			if flat := p.flat(k, e); len([]rune(flat)) <= p.room() && p.inOneLine(k, e) {
				p.write(flat)
			} else {
				p.broken(k, indent)
			}
			if e < j && (p.free(e) || p.ts[e].space || p.trimmable(e)) {
				p.newline(e)
				p.indent = indent
			}
			k = e
			continue
		}
		p.inline(k, e, j, indent)
		k = e
	}
}

// inOneLine tells whether what fits into a line is written so: an element with others that
// stand alone is not.
func (p *printer) inOneLine(i, e int) bool {
	n := 0
	for k := i + 1; k < e-1; k++ {
		if p.ts[k].block && p.ts[k].kind != closing || p.ts[k].name == "define" {
			n++
		}
	}
	return n == 0
}

// newline goes to a new line before a token, if whitespace may stand there.
func (p *printer) newline(k int) {
	if p.line == "" || k >= len(p.ts) {
		p.flush()
		return
	}
	switch {
	case p.free(k) || p.ts[k].space:
		p.flush()
	case p.isAction(k - 1):
		p.line = strings.TrimSuffix(p.line, "}}") + " -}}"
		p.flush()
	case p.isAction(k):
		p.flush()
		p.trim = true
	}
}

func (p *printer) isAction(k int) bool { return p.ts[k].kind == action || p.ts[k].kind == control }

// trimmable tells whether a line may end before a token with a trim.
func (p *printer) trimmable(k int) bool { return p.isAction(k) || p.isAction(k-1) }

func (p *printer) write(s string) {
	switch {
	case s == "":
		return
	case p.line == "":
		p.at = p.indent
		if p.trim {
			s = "{{- " + strings.TrimPrefix(s, "{{")
		}
	}
	p.trim = false
	p.line += s
}

// broken writes what begins with a token over several lines.
func (p *printer) broken(k, indent int) {
	t := p.ts[k]
	p.token(k, indent)
	if t.end == 0 {
		return
	}
	from := k + 1
	for _, e := range append(slices.Clone(t.elses), t.end) {
		if from < e {
			p.edge(from)
			p.list(from, e, indent+1)
		}
		p.edge(e)
		p.indent = indent
		p.token(e, indent)
		from = e + 1
	}
}

// edge goes to a new line before a token, if it may.
func (p *printer) edge(k int) {
	if p.free(k) || p.ts[k].space || p.trimmable(k) {
		p.newline(k)
	}
}

// token writes one, over several lines if it is too long.
func (p *printer) token(k, indent int) {
	t := p.ts[k]
	if t.kind == raw {
		p.write(t.text)
		return
	}
	tail := p.tail(k + 1)
	if len([]rune(t.text))+tail <= p.room() {
		p.write(t.text)
		return
	}
	var parts []string
	switch t.kind {
	case open, void:
		parts = attributes(strings.TrimSuffix(strings.TrimPrefix(t.text, "<"), ">"))
		parts[0] = "<" + parts[0]
		parts[len(parts)-1] += ">"
	case action, control:
		parts = words(t.text)
	default:
		parts = []string{t.text}
	}
	for i, part := range parts {
		needs := 0
		if i == len(parts)-1 {
			needs = tail
		}
		switch {
		case i == 0:
			p.write(part)
		case len([]rune(part))+1+needs <= p.room():
			p.write(" " + part)
		default:
			p.flush()
			p.indent = indent + 2
			p.write(part)
		}
	}
}

// tail is the width of what cannot be parted from what stands before a token.
func (p *printer) tail(k int) (n int) {
	for ; k < len(p.ts) && !p.free(k) && !p.ts[k].space && !p.trimmable(k); k++ {
		if p.ts[k].kind == open && n > 0 {
			return n // its attributes can be
		}
		n += len([]rune(p.ts[k].text))
	}
	return n
}

// words splits an action at whitespace outside of strings.
func words(s string) []string {
	var out []string
	quote, from := byte(0), 0
	for i := 0; i < len(s); i++ {
		switch c := s[i]; {
		case quote != 0 && c == '\\' && quote == '"':
			i++
		case quote != 0 && c == quote:
			quote = 0
		case quote == 0 && (c == '"' || c == '`'):
			quote = c
		case quote == 0 && c == ' ':
			out = append(out, s[from:i])
			from = i + 1
		}
	}
	return append(out, s[from:])
}

// inline writes what stands in a line of text.
func (p *printer) inline(k, e, j, indent int) {
	if p.line == "" {
		p.indent = indent
	}
	stop := e
	for stop < j && !p.free(stop) && !p.ts[stop].space && !p.trimmable(stop) {
		stop = p.extent(stop) // it cannot be parted from what follows
	}
	stop = min(stop, j)
	gap := ""
	if p.line != "" && p.ts[k].space && !p.free(k) {
		gap = " "
	}
	chunk := gap + p.flat(k, stop)
	if stop < len(p.ts) && p.isAction(stop-1) && !p.free(stop) && !p.ts[stop].space {
		chunk += " -" // it may have to trim
	}
	if len([]rune(chunk)) <= p.room() && p.inOneLine(k, stop) {
		p.write(gap + p.flat(k, e))
		return
	}
	if p.line != "" {
		before := p.line
		p.newline(k)
		if p.line != before {
			p.indent, gap = indent, ""
		}
	}
	if gap+p.flat(k, e) != "" && len([]rune(gap+p.flat(k, e))) <= p.room() {
		p.write(gap + p.flat(k, e))
		return
	}
	p.write(gap)
	p.broken(k, indent)
}
