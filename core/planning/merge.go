package planning

import (
	"bytes"
	"cmp"
	"maps"
	"slices"
	"strings"

	"github.com/aymanbagabas/go-udiff/lcs"
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
	var out []hunk
	for _, d := range lcs.DiffLines(a, b) {
		gone, come := d.End-d.Start, d.ReplEnd-d.ReplStart
		if gone != come && come > 0 {
			out = append(out, hunk{d.Start, d.End, b[d.ReplStart:d.ReplEnd]})
			continue
		}
		for i := range gone {
			h := hunk{from: d.Start + i, to: d.Start + i + 1}
			if come > 0 {
				h.lines = b[d.ReplStart+i : d.ReplStart+i+1]
			}
			out = append(out, h)
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

// Clash is where an edit, and the undoing of a change before it, are about the same
// lines.
type Clash struct {
	Number     int    // by which [Aim.Lines] knows it
	Line       int    // of the file as it is, from 1
	Now, Older string // the lines as they are, and as they would come back
	Taken      bool   // the older ones are taken
}

// merging is the undoing of a change of a text that was edited since.
type merging struct {
	left    []string // as the change left it
	edits   []hunk   // what was done since
	undo    []hunk   // what undoes the change, apart from edits
	clashes []Clash
	older   bool // some older lines are taken where they clash
}

// undoing works out how the change from want to left is undone in now, which is
// left with edits. older tells of a clash, by its number, that the older lines
// are taken; numbers begin at from.
func undoing(left, now, want []string, from int, older func(clash int) bool) merging {
	m := merging{left: left, edits: hunks(left, now)}
	for _, u := range hunks(left, want) {
		var against []int
		same := false
		for i, e := range m.edits {
			switch {
			case e.from == u.from && e.to == u.to && slices.Equal(e.lines, u.lines):
				same = true // both do the same
			case meet(e, u):
				against = append(against, i)
			}
		}
		if same {
			continue
		}
		if len(against) == 0 {
			m.undo = append(m.undo, u)
			continue
		}
		c := Clash{Number: from + len(m.clashes), Line: m.lineOf(against[0]), Older: strings.Join(u.lines, "")}
		for _, i := range against {
			c.Now += strings.Join(m.edits[i].lines, "")
		}
		if c.Taken = older(c.Number); c.Taken {
			m.older = true
			m.undo = append(m.undo, u)
			m.edits = slices.DeleteFunc(m.edits, func(e hunk) bool { return meet(e, u) })
		}
		m.clashes = append(m.clashes, c)
	}
	return m
}

// meet reports whether two hunks are about the same lines. Lines that come in
// before, behind or beside those of the other are not.
func meet(a, b hunk) bool { return a.from < b.to && b.from < a.to }

// lineOf is where an edit begins in the text as it is.
func (m merging) lineOf(edit int) int {
	line := m.edits[edit].from + 1
	for _, e := range m.edits[:edit] {
		line += len(e.lines) - (e.to - e.from)
	}
	return line
}

// without is the text with the change undone, but for the hunks that stay, by
// their numbers. The head of a group stays as long as anything but comments is
// left in the group.
func (m merging) without(stays map[int]bool) []byte {
	stays = maps.Clone(stays)
	if stays == nil {
		stays = map[int]bool{}
	}
	for i, u := range slices.Backward(m.undo) {
		if !stays[i] && len(u.lines) == 0 && u.to == u.from+1 && isHead(m.left[u.from]) {
			stays[i] = m.filled(u.from, stays)
		}
	}
	return m.done(stays, -1)
}

func (m merging) done(stays map[int]bool, mark int) []byte {
	var do []hunk
	for i, u := range m.undo {
		if !stays[i] {
			if u.from == mark && u.to == mark+1 {
				u.lines = []string{headMark}
			}
			do = append(do, u)
		}
	}
	do = append(do, m.edits...) // of lines that come in at one place the older come first
	slices.SortStableFunc(do, func(x, y hunk) int { return cmp.Or(x.from-y.from, x.to-y.to) })
	return changed(m.left, do)
}

const headMark = "\x00 the head of a group\n"

// filled reports whether something would be left in the group whose head is a line.
func (m merging) filled(head int, stays map[int]bool) bool {
	_, rest, _ := strings.Cut(string(m.done(stays, head)), headMark)
	for line := range strings.Lines(rest) {
		switch line = strings.TrimSpace(line); {
		case isHead(line):
			return false
		case line != "" && line[0] != '#' && line[0] != ';':
			return true
		}
	}
	return false
}

// isHead tells the head of a group of a key file.
func isHead(line string) bool {
	line = strings.TrimSpace(line)
	return strings.HasPrefix(line, "[") && strings.HasSuffix(line, "]")
}
