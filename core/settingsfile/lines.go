package settingsfile

import (
	"bytes"
	"regexp"
	"strings"
)

// lineFile is a file of lines: its values, and what tells how it is written.
type lineFile struct {
	values []Value
	shapes []lineShape // of each value
	heads  []head      // of sections, and of blocks in braces
	braces bool        // it has blocks
}

// lineShape is how a line of a key and a value is written.
type lineShape struct {
	indent, between string // before the key; between it and the value
	after           string // what closes it: ";" or ","
	quote           byte   // of the value, or 0
}

// head is where a section begins, or a block in braces, and where it ends.
type head struct {
	group    string
	from, to int // from the head to the end of the last line in it
	block    bool
	open     int // the end of its own line
}

var (
	sectionLine = regexp.MustCompile(`^\s*\[\[?([^\[\]]+)\]\]?\s*(?:[#;].*)?$`)
	// verbs come before the key in the lines of some programs, with what tells how: "set -g
	// key value", "export KEY=value".
	verbs     = regexp.MustCompile(`^(?:set|setenv|export|let|set-option|setw|set-window-option)(?:[ \t]+-[A-Za-z]+)*[ \t]+`)
	separator = regexp.MustCompile(`^(?:[ \t]*(?:\+=|:=|=)[ \t]*|[ \t]*:(?:[ \t]+|$)|:|[ \t]+)`)
	// remark is one behind a value: a blank, its sign, a blank.
	remark = regexp.MustCompile(`[ \t]+(?:#|;|//)(?:[ \t].*|)$`)
)

// parseLines takes every line of a key and a value for one, whatever is between them and
// whatever begins a remark: what a program takes is never wrong. Common practice, no
// source.
func parseLines(b []byte) lineFile {
	var f lineFile
	group, blocks := "", []string{}
	where := func() string {
		out := group
		for _, name := range blocks {
			out = join(out, name)
		}
		return out
	}
	var open []int // indexes of heads
	section := -1  // the one that is open
	closeSection := func(end int) {
		if section >= 0 {
			f.heads[section].to = end
		}
	}
	start := 0
	if bytes.HasPrefix(b, []byte("\xef\xbb\xbf")) {
		start = 3
	}
	for n := 1; start < len(b) && len(f.heads) <= maxValues; n++ {
		first := n
		end, next := lineAt(b, start)
		for end > start && b[end-1] == '\\' && next < len(b) { // it goes on
			end, next = lineAt(b, next)
			n++
		}
		text := string(b[start:end])
		trimmed := strings.TrimSpace(text)
		var m []string
		if strings.HasPrefix(trimmed, "[") {
			m = sectionLine.FindStringSubmatch(text)
		}
		switch {
		case trimmed == "" || trimmed[0] == '#' || trimmed[0] == ';' || trimmed[0] == '!' || strings.HasPrefix(trimmed, "//"):
		case m != nil && first == n:
			closeSection(start)
			section = len(f.heads)
			group = Step(strings.TrimSpace(m[1]))
			f.heads = append(f.heads, head{group: group, from: start, open: next})
		case strings.HasPrefix(trimmed, "}"):
			if len(blocks) > 0 {
				f.heads[open[len(open)-1]].to = start
				blocks, open = blocks[:len(blocks)-1], open[:len(open)-1]
			}
		case strings.HasSuffix(trimmed, "{"):
			f.braces = true
			name := strings.TrimRight(strings.TrimSuffix(trimmed, "{"), " \t=:")
			if len(blocks) < maxDepth {
				blocks = append(blocks, Step(name))
				open = append(open, len(f.heads))
				f.heads = append(f.heads, head{group: where(), from: start, block: true, open: next})
			}
		default:
			if v, shape, ok := lineValue(text); ok && len(f.values) <= maxValues {
				v.Group, v.Line = where(), first
				v.from, v.to, v.cut = v.from+start, v.to+start, [2]int{start, next}
				v.fixed = first != n
				f.values, f.shapes = append(f.values, v), append(f.shapes, shape)
			}
		}
		start = next
	}
	closeSection(len(b))
	for i := range f.heads {
		if f.heads[i].to == 0 {
			f.heads[i].to = len(b)
		}
	}
	return f
}

// lineAt is where the line from start ends, and where the next begins.
func lineAt(b []byte, start int) (end, next int) {
	i := bytes.IndexByte(b[start:], '\n')
	if i < 0 {
		return len(b), len(b)
	}
	end, next = start+i, start+i+1
	if end > start && b[end-1] == '\r' {
		end--
	}
	return end, next
}

// lineValue takes a line apart. Offsets are from its begin.
func lineValue(text string) (Value, lineShape, bool) {
	body := strings.TrimLeft(text, " \t")
	shape := lineShape{indent: text[:len(text)-len(body)]}
	verb := verbs.FindString(body)
	rest := body[len(verb):]
	size := 0
	for size < len(rest) && !strings.ContainsRune(" \t=", rune(rest[size])) && !(rest[size] == ':' && closes(rest, size)) {
		size++
	}
	if size < len(rest) && size > 0 && strings.HasSuffix(rest[:size], "+") && rest[size] == '=' {
		size--
	}
	key := rest[:size]
	shape.between = separator.FindString(rest[size:])
	if key == "" || shape.between == "" {
		return Value{}, shape, false
	}
	v := Value{Key: Step(strings.Join(append(strings.Fields(verb), unquoted(key)), " "))}
	v.from = len(shape.indent) + len(verb) + size + len(shape.between)
	raw := strings.TrimRight(text[v.from:], " \t\r")
	if q := first(raw); q == '"' || q == '\'' {
		if end := closing(raw, q); end > 0 && tail(raw[end:]) {
			shape.quote, shape.after = q, closer(raw[end:])
			v.Text, v.to = undo(raw[1:end-1], q), v.from+end
			return v, shape, true
		}
	}
	if m := remark.FindStringIndex(raw); m != nil {
		raw = raw[:m[0]]
	} else if strings.HasPrefix(raw, "# ") || raw == "#" { // nothing, and a remark
		raw = ""
		v.from -= len(shape.between) - len(strings.TrimRight(shape.between, " \t"))
	}
	if raw == "" && strings.Trim(shape.between, " \t") == "" {
		return Value{}, shape, false // a word alone
	}
	if strings.HasSuffix(raw, ";") && strings.Count(raw, ";") == 1 {
		raw, shape.after = strings.TrimRight(raw[:len(raw)-1], " \t"), ";"
	}
	v.Text, v.Bare, v.to = raw, true, v.from+len(raw)
	return v, shape, true
}

// closes reports whether a colon ends a key: it is not one of an address, or of a time.
func closes(rest string, at int) bool {
	return !strings.HasPrefix(rest[at:], "://") && (at+1 == len(rest) || strings.ContainsRune(" \t=\"'#", rune(rest[at+1])) || !strings.ContainsAny(rest[:at], "0123456789/"))
}

func first(s string) byte {
	if s == "" {
		return 0
	}
	return s[0]
}

// closing is where a quoted text ends, behind its quote, or 0.
func closing(raw string, q byte) int {
	for i := 1; i < len(raw); i++ {
		switch {
		case raw[i] == '\\' && q == '"':
			i++
		case raw[i] == q:
			return i + 1
		}
	}
	return 0
}

// tail reports whether nothing of weight comes after a quoted value.
func tail(rest string) bool {
	rest = strings.TrimLeft(strings.TrimLeft(rest, " \t"), ";,")
	rest = strings.TrimSpace(rest)
	return rest == "" || rest[0] == '#' || rest[0] == ';' || strings.HasPrefix(rest, "//")
}

func closer(rest string) string {
	rest = strings.TrimLeft(rest, " \t")
	if rest != "" && (rest[0] == ';' || rest[0] == ',') {
		return rest[:1]
	}
	return ""
}

func unquoted(key string) string {
	if len(key) > 1 && (key[0] == '"' || key[0] == '\'') && key[len(key)-1] == key[0] {
		return key[1 : len(key)-1]
	}
	return key
}

func undo(s string, q byte) string {
	if q != '"' || !strings.Contains(s, `\`) {
		return s
	}
	return strings.NewReplacer(`\\`, `\`, `\"`, `"`).Replace(s)
}

// quoteLine is a value in the quotes that stood there, or in some if it needs them.
func quoteLine(old []byte, text string, bare bool) string {
	q := byte(0)
	if !bare && len(old) > 0 {
		q = old[0]
	}
	return inQuotes(q, text)
}

func inQuotes(q byte, text string) string {
	switch {
	case q == '\'' && !strings.Contains(text, "'"):
		return "'" + text + "'"
	case q != 0:
		return Quoted(text)
	}
	return text
}

// addLine adds a line: behind the last of its group, written like that one, or like most
// lines, or as how.Like says; a group that is missing is added too.
func addLine(b []byte, group, key, text string, how How) []byte {
	f := parseLines(b)
	end := lineEnd(b)
	like, at := lineShape{between: "="}, -1
	if v, shape, ok := lineValue(how.Like); ok && v.Key != "" {
		like = shape
	}
	if len(f.shapes) > 0 {
		like = f.usual()
	}
	for i, v := range f.values {
		if v.Group == group {
			like.indent, like.after, at = f.shapes[i].indent, f.shapes[i].after, v.cut[1]
		}
	}
	line := func(indent string) string {
		return indent + stepUnescaper.Replace(key) + like.between + inQuotes(like.quote, text) + like.after + end
	}
	if at >= 0 {
		return insertLine(b, at, line(like.indent), end)
	}
	for _, h := range f.heads {
		if h.group == group {
			indent := ""
			if h.block {
				indent = indentOf(b, h.from+len(indentAt(b, h.from))) + "    "
			}
			return insertLine(b, h.open, line(indent), end)
		}
	}
	if group == "" {
		at := len(b)
		if len(f.heads) > 0 {
			at = f.heads[0].from
		}
		return insertLine(b, at, line(""), end)
	}
	var added strings.Builder
	if f.braces {
		all := steps(group)
		for i, s := range all {
			added.WriteString(strings.Repeat("    ", i) + stepUnescaper.Replace(s) + " {" + end)
		}
		added.WriteString(line(strings.Repeat("    ", len(all))))
		for i := range all {
			added.WriteString(strings.Repeat("    ", len(all)-1-i) + "}" + end)
		}
	} else {
		if len(bytes.TrimSpace(b)) > 0 && !bytes.HasSuffix(b, []byte("\n\n")) {
			added.WriteString(end)
		}
		added.WriteString("[" + stepUnescaper.Replace(group) + "]" + end + line(""))
	}
	return insertLine(b, len(b), added.String(), end)
}

func indentAt(b []byte, start int) string {
	line := string(b[start:])
	return line[:len(line)-len(strings.TrimLeft(line, " \t"))]
}

// usual is how most lines of the file are written.
func (f lineFile) usual() lineShape {
	count := map[lineShape]int{}
	var best lineShape
	for _, s := range f.shapes {
		s.indent, s.after = "", ""
		if strings.Trim(s.between, " \t") == "" {
			s.between = " " // whatever was lined up
		}
		if count[s]++; count[s] > count[best] {
			best = s
		}
	}
	return best
}

// insertLine adds whole lines at the begin of a line, or behind a last one that has no
// line end.
func insertLine(b []byte, at int, lines, end string) []byte {
	if at > 0 && b[at-1] != '\n' {
		lines = end + strings.TrimSuffix(lines, end)
	}
	return splice(b, at, at, lines)
}
