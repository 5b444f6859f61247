// Package keyfile reads and edits key files: groups of "key=value" lines as
// the Desktop Entry Specification 1.5 (section 3, "Basic format of the file")
// describes them and as GLib's GKeyFile reads them. Index files of icon themes
// and the settings files of GTK 3 and GTK 4 are key files.
//
// Editing is lossless. A [File] remembers every line as it stood, with its own
// line end; [File.Set] and [File.Remove] touch the lines of one key and no
// other byte.
package keyfile

import (
	"bytes"
	"errors"
	"fmt"
	"strings"
	"unicode/utf8"
)

// ErrSyntax is what every [SyntaxError] wraps: the bytes are not a key file.
var ErrSyntax = errors.New("not a key file")

// SyntaxError names the line that no reader of key files would accept.
type SyntaxError struct {
	Line int // 1-based
	Text string
	Why  string
}

func (e *SyntaxError) Error() string {
	return fmt.Sprintf("line %d: %s: %q", e.Line, e.Why, clip(e.Text))
}

func (e *SyntaxError) Unwrap() error { return ErrSyntax }

// Entry is one key with its value, and where it stands.
type Entry struct {
	Key, Value string // the value as written, blanks before it removed, escapes kept
	Line       int    // 1-based
}

// File is a key file. The zero value is an empty one. It is not safe for
// concurrent use.
type File struct {
	lines []line
	last  map[[2]string]int // the line that counts for group and key; nil after a change
}

type line struct {
	text, end  string // end is "\n", "\r\n" or, on a last line, ""
	group      string // the group this line belongs to, "" before the first
	key, value string // set on key lines only
	header     bool
}

// Parse reads b. Like GKeyFile it refuses the whole file at the first line
// that is neither a blank, a comment, a group header nor a key; the error is
// then a [*SyntaxError].
func Parse(b []byte) (*File, error) {
	all, group := string(b), "" // lines share its letters
	f := &File{lines: make([]line, 0, strings.Count(all, "\n")+1)}
	for n := 1; all != ""; n++ {
		l := line{text: all}
		if i := strings.IndexByte(all, '\n'); i >= 0 {
			l.text, l.end = all[:i], "\n"
			all = all[i+1:]
			if k := len(l.text); k > 0 && l.text[k-1] == '\r' {
				l.text, l.end = l.text[:k-1], "\r\n"
			}
		} else {
			all = ""
		}
		if err := l.classify(n, group); err != nil {
			return nil, err
		}
		if l.header {
			group = l.group
		}
		f.lines = append(f.lines, l)
	}
	return f, nil
}

func (l *line) classify(n int, group string) error {
	l.group = group
	s := strings.TrimLeft(l.text, " \t\r\v\f")
	switch {
	case s == "" || s[0] == '#':
		return nil
	case s[0] == '[':
		end := strings.IndexByte(s, ']')
		if end < 0 || strings.TrimSpace(s[end+1:]) != "" || !validGroup(s[1:end]) {
			return &SyntaxError{n, l.text, "a group header must be a name in square brackets"}
		}
		l.group, l.header = s[1:end], true
		return nil
	}
	key, value, ok := strings.Cut(s, "=")
	key = strings.TrimRight(key, " \t")
	switch {
	case !ok:
		return &SyntaxError{n, l.text, "a line must be a comment, a [group] or key=value"}
	case group == "":
		return &SyntaxError{n, l.text, "a key stands before the first [group]"}
	case !validKey(key):
		return &SyntaxError{n, l.text, "the name of the key is not allowed"}
	}
	l.key, l.value = key, strings.TrimLeft(value, " \t\r\v\f")
	return nil
}

func validGroup(s string) bool {
	return s != "" && utf8.ValidString(s) && !strings.ContainsFunc(s, func(r rune) bool {
		return r == '[' || r == ']' || r < 0x20 || r == 0x7f
	})
}

func validKey(s string) bool {
	return s != "" && utf8.ValidString(s) && !strings.ContainsAny(s, "=\n")
}

// Lookup returns the entry that counts for key in group. Of several the last
// one counts, as in GKeyFile; groups of the same name are one group.
func (f *File) Lookup(group, key string) (Entry, bool) {
	if i := f.index(group, key); i >= 0 {
		return f.entry(i), true
	}
	return Entry{}, false
}

// Get returns the value of key in group with escapes resolved, or "".
func (f *File) Get(group, key string) string {
	e, _ := f.Lookup(group, key)
	return Unescape(e.Value)
}

// List returns the value of key in group split at sep. Like GKeyFile it keeps
// blanks around an item, so "a, b" names " b"; an empty last item is dropped.
// The Icon Theme Specification separates with ',', the Desktop Entry
// Specification with ';'.
func (f *File) List(group, key string, sep byte) []string {
	value := strings.TrimSuffix(f.Get(group, key), string(sep))
	if value == "" {
		return nil
	}
	return strings.Split(value, string(sep))
}

// Groups returns the names of the groups in the order they first appear.
func (f *File) Groups() []string {
	var out []string
	seen := map[string]bool{}
	for _, l := range f.lines {
		if l.header && !seen[l.group] {
			seen[l.group] = true
			out = append(out, l.group)
		}
	}
	return out
}

// Entries returns the keys of group in file order, repeated ones included.
func (f *File) Entries(group string) []Entry {
	var out []Entry
	for i, l := range f.lines {
		if l.key != "" && l.group == group {
			out = append(out, f.entry(i))
		}
	}
	return out
}

// Set makes key in group read value. If the key is there, only its value is
// replaced: indent, blanks round the equals sign and line end stay. If it is
// not, it is added after the last key of the group, and a missing group is
// added at the end of the file. The value is escaped as needed.
func (f *File) Set(group, key, value string) {
	value = Escape(value)
	if i := f.index(group, key); i >= 0 {
		l := &f.lines[i]
		eq := strings.IndexByte(l.text, '=') + 1
		rest := l.text[eq:]
		blank := rest[:len(rest)-len(strings.TrimLeft(rest, " \t"))]
		l.text, l.value = l.text[:eq]+blank+value, value
		return
	}
	f.last = nil
	end := f.lineEnd()
	added := line{text: key + "=" + value, end: end, group: group, key: key, value: value}
	at := -1
	for i, l := range f.lines {
		if l.group == group && (l.header || l.key != "") {
			at = i + 1
		}
	}
	if at < 0 {
		f.closeLastLine(end)
		if n := len(f.lines); n > 0 && strings.TrimSpace(f.lines[n-1].text) != "" {
			f.lines = append(f.lines, line{end: end, group: f.lines[n-1].group})
		}
		f.lines = append(f.lines, line{text: "[" + group + "]", end: end, group: group, header: true}, added)
		return
	}
	if f.lines[at-1].end == "" { // the key goes after a last line without a line end: keep it that way
		f.lines[at-1].end, added.end = end, ""
	}
	f.lines = append(f.lines[:at], append([]line{added}, f.lines[at:]...)...)
}

// Remove deletes every line of key in group and reports whether there was one.
func (f *File) Remove(group, key string) bool {
	f.last = nil
	kept := f.lines[:0]
	for _, l := range f.lines {
		if l.key == "" || l.key != key || l.group != group {
			kept = append(kept, l)
		}
	}
	removed := len(kept) < len(f.lines)
	f.lines = kept
	return removed
}

// Bytes returns the file as it is to be written.
func (f *File) Bytes() []byte {
	var b bytes.Buffer
	for _, l := range f.lines {
		b.WriteString(l.text)
		b.WriteString(l.end)
	}
	return b.Bytes()
}

func (f *File) entry(i int) Entry {
	return Entry{f.lines[i].key, f.lines[i].value, i + 1}
}

func (f *File) index(group, key string) int {
	if f.last == nil {
		f.last = make(map[[2]string]int, len(f.lines))
		for i, l := range f.lines {
			if l.key != "" {
				f.last[[2]string{l.group, l.key}] = i
			}
		}
	}
	if i, ok := f.last[[2]string{group, key}]; ok {
		return i
	}
	return -1
}

// lineEnd is the line end most lines have, so that an added line fits in.
func (f *File) lineEnd() string {
	crlf, lf := 0, 0
	for _, l := range f.lines {
		switch l.end {
		case "\r\n":
			crlf++
		case "\n":
			lf++
		}
	}
	if crlf > lf {
		return "\r\n"
	}
	return "\n"
}

func (f *File) closeLastLine(end string) {
	if n := len(f.lines); n > 0 && f.lines[n-1].end == "" {
		f.lines[n-1].end = end
	}
}

var (
	escaper   = strings.NewReplacer(`\`, `\\`, "\n", `\n`, "\t", `\t`, "\r", `\r`)
	unescaper = strings.NewReplacer(`\\`, `\`, `\n`, "\n", `\t`, "\t", `\r`, "\r", `\s`, " ")
)

// Escape writes s as a value: line breaks, tabs, backslashes and a leading
// blank become escapes (Desktop Entry Specification 1.5, section 4).
func Escape(s string) string {
	out := escaper.Replace(s)
	if strings.HasPrefix(out, " ") {
		out = `\s` + out[1:]
	}
	return out
}

// Unescape is the inverse of [Escape]. Unknown escapes are kept as they are.
func Unescape(s string) string {
	if !strings.Contains(s, `\`) {
		return s
	}
	return unescaper.Replace(s)
}

func clip(s string) string {
	const most = 60
	if len(s) <= most {
		return s
	}
	return strings.ToValidUTF8(s[:most], "") + "…"
}
