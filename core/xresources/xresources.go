// Package xresources reads and edits X resource files (X(7), RESOURCES).
package xresources

import (
	"bytes"
	"strings"
)

// Entry is a resource that a file sets.
type Entry struct {
	Name, Value string
	Line        int // 1-based, of its beginning
	from, to    int // of the value, in bytes
	start, end  int // of its lines, with the end of the last
}

// Parse returns what a file sets, in order. Comments and lines for the
// preprocessor are passed over.
func Parse(file []byte) []Entry {
	var out []Entry
	line := 0
	for at := 0; at < len(file); {
		start, first := at, line+1
		for { // a backslash at the end of a line goes on with the next
			end := bytes.IndexByte(file[at:], '\n')
			line++
			if end < 0 {
				at = len(file)
				break
			}
			at += end + 1
			if body := bytes.TrimSuffix(file[start:at-1], []byte("\r")); !bytes.HasSuffix(body, []byte(`\`)) || bytes.HasPrefix(bytes.TrimLeft(body, " \t"), []byte("!")) {
				break
			}
		}
		text := bytes.TrimRight(file[start:at], "\r\n")
		trimmed := bytes.TrimLeft(text, " \t")
		if len(trimmed) == 0 || trimmed[0] == '!' || trimmed[0] == '#' {
			continue
		}
		colon := bytes.IndexByte(text, ':')
		if colon < 0 {
			continue
		}
		name := string(bytes.TrimSpace(text[:colon]))
		if name == "" || strings.ContainsAny(name, " \t") {
			continue
		}
		from := colon + 1
		for from < len(text) && (text[from] == ' ' || text[from] == '\t') {
			from++
		}
		out = append(out, Entry{name, unescape(text[from:]), first, start + from, start + len(text), start, at})
	}
	return out
}

// Lookup returns what a file says of a resource of two parts, "Xcursor.size": the
// last line that names it, or else the last with a star in the dot's stead.
func Lookup(file []byte, name string) (Entry, bool) {
	loose := strings.Replace(name, ".", "*", 1)
	var exact, near *Entry
	for _, e := range Parse(file) {
		switch e.Name {
		case name:
			exact = &e
		case loose:
			near = &e
		}
	}
	switch {
	case exact != nil:
		return *exact, true
	case near != nil:
		return *near, true
	}
	return Entry{}, false
}

// Exact is the last line that names a resource so, without a star.
func Exact(file []byte, name string) (out Entry, ok bool) {
	for _, e := range Parse(file) {
		if e.Name == name {
			out, ok = e, true
		}
	}
	return out, ok
}

// Remove returns the file without the lines that name a resource so. All else stays byte
// for byte.
func Remove(file []byte, name string) []byte {
	var out []byte
	kept := 0
	for _, e := range Parse(file) {
		if e.Name != name {
			continue
		}
		out = append(out, file[kept:e.start]...)
		kept = e.end
	}
	return append(out, file[kept:]...)
}

// Set returns the file with a resource set: where it is named last its value is
// put in the stead of the old one, else a line is added. All else stays byte for
// byte.
func Set(file []byte, name, value string) []byte {
	value = strings.NewReplacer(`\`, `\\`, "\n", `\n`).Replace(value)
	if strings.HasPrefix(value, " ") || strings.HasPrefix(value, "\t") {
		value = `\` + value
	}
	if last, ok := Exact(file, name); ok {
		return bytes.Join([][]byte{file[:last.from], []byte(value), file[last.to:]}, nil)
	}
	end := "\n"
	if bytes.Contains(file, []byte("\r\n")) {
		end = "\r\n"
	}
	var b bytes.Buffer
	b.Write(file)
	if len(file) > 0 && file[len(file)-1] != '\n' {
		b.WriteString(end)
	}
	if bytes.HasSuffix(bytes.TrimRight(file, "\r\n"), []byte(`\`)) {
		b.WriteString(end) // the last line would go on with this one
	}
	b.WriteString(name + ": " + value + end)
	return b.Bytes()
}

// unescape undoes the backslashes of a value: \n, \\, an octal code, a blank, and
// the end of a line.
func unescape(b []byte) string {
	var out strings.Builder
	for i := 0; i < len(b); i++ {
		if b[i] != '\\' || i+1 == len(b) {
			out.WriteByte(b[i])
			continue
		}
		i++
		switch c := b[i]; {
		case c == 'n':
			out.WriteByte('\n')
		case c == '\r' && i+1 < len(b) && b[i+1] == '\n':
			i++
		case c == '\n':
		case i+2 < len(b) && octal(b[i]) && octal(b[i+1]) && octal(b[i+2]):
			out.WriteByte((b[i]-'0')<<6 | (b[i+1]-'0')<<3 | b[i+2] - '0')
			i += 2
		default:
			out.WriteByte(c)
		}
	}
	return out.String()
}

func octal(c byte) bool { return c >= '0' && c <= '7' }
