// Package settingsfile reads and edits the settings files of programs in the forms they
// are written in: lines of keys and values, with or without sections; JSON (RFC 8259),
// with comments and trailing commas too; TOML 1.0; YAML 1.2; and XML 1.0. A value is
// found by where it stands.
//
// Editing is lossless: [Set] changes the letters of one value, or adds one in the manner
// of its neighbours; [Remove] takes one out. Every edit is read again: one after which
// any other value would not be what it was is refused.
package settingsfile

import (
	"bytes"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/tailscale/hujson"
)

// Form is how a file is written.
type Form string

// The forms.
const (
	Lines Form = "lines" // key value, key: value, key = value
	JSON  Form = "json"
	TOML  Form = "toml"
	YAML  Form = "yaml"
	XML   Form = "xml"
)

// Forms are all forms.
func Forms() []Form { return []Form{Lines, JSON, TOML, YAML, XML} }

// Value is one value, and where it stands.
type Value struct {
	Group string // the way to it, its steps between slashes: a section, tables, elements; "" at the top
	Key   string
	Text  string // what it says: without quotes, escapes undone
	Line  int    // 1-based
	Bare  bool   // it stands without quotes

	from, to int  // its letters, quotes included
	fixed    bool // it stands over several lines, or is no value by itself: it cannot be set
	cut      [2]int
}

var (
	// ErrSyntax: the bytes are not of the form.
	ErrSyntax = errors.New("not a settings file of this form")
	// ErrEdit: the edit cannot be made without a change to something else.
	ErrEdit = errors.New("this value cannot be changed by itself")
	// ErrTooMuch: the file is larger, or deeper, than settings files are.
	ErrTooMuch = errors.New("it is larger than settings files are")
)

// What a file may have at most.
const (
	MaxBytes  = 512 << 10
	maxValues = 10_000
	maxDepth  = 100
)

// Step makes one step of a [Value.Group], or a key, of a name: a slash in it becomes
// "~1", and "~" becomes "~0" (JSON Pointer, RFC 6901, section 3).
func Step(name string) string { return stepEscaper.Replace(name) }

var (
	stepEscaper   = strings.NewReplacer("~", "~0", "/", "~1")
	stepUnescaper = strings.NewReplacer("~1", "/", "~0", "~")
)

func steps(group string) []string {
	if group == "" {
		return nil
	}
	return strings.Split(group, "/")
}

func join(group, step string) string {
	if group == "" {
		return step
	}
	return group + "/" + step
}

// Parse lists the values of a file, in order. Errors wrap [ErrSyntax] or [ErrTooMuch].
// A file of [Lines] has no wrong lines: what is no key with a value is passed over.
func Parse(form Form, b []byte) ([]Value, error) {
	if len(b) > MaxBytes {
		return nil, fmt.Errorf("%w: more than %d kB", ErrTooMuch, MaxBytes>>10)
	}
	if !utf8.Valid(b) && form != Lines {
		return nil, fmt.Errorf("%w: its letters are not UTF-8", ErrSyntax)
	}
	var values []Value
	var err error
	switch form {
	case Lines:
		f := parseLines(b)
		if len(f.heads) > maxValues {
			return nil, fmt.Errorf("%w: more than %d sections", ErrTooMuch, maxValues)
		}
		values = f.values
	case JSON:
		values, err = parseJSON(b)
	case TOML:
		values, err = parseTOML(b)
	case YAML:
		values, err = parseYAML(b)
	case XML:
		values, err = parseXML(b)
	default:
		return nil, fmt.Errorf("%w: %q is no form", ErrSyntax, form)
	}
	if err != nil && !errors.Is(err, ErrTooMuch) {
		err = fmt.Errorf("%w: %w", ErrSyntax, err)
	}
	if len(values) > maxValues {
		return nil, fmt.Errorf("%w: more than %d values", ErrTooMuch, maxValues)
	}
	return values, err
}

// Lookup finds a value; of several in one place the last, which most programs go by
// (common practice, no source).
func Lookup(values []Value, group, key string) (Value, bool) {
	for _, v := range slices.Backward(values) {
		if v.Group == group && v.Key == key {
			return v, true
		}
	}
	return Value{}, false
}

// How says how a value is added where there is none.
type How struct {
	Bare bool // without quotes, where the form can say it so
	// Like is a line of the program's, for a file that has none to go by: "key = 'value'".
	Like string
}

// Set makes the value in a place say text. One that is there keeps its quotes; one that
// is not is added in the manner of its neighbours, with what it lies in.
func Set(form Form, b []byte, group, key, text string, how How) ([]byte, error) {
	if strings.ContainsFunc(text, func(r rune) bool { return r < ' ' || r == 0x7f }) || !utf8.ValidString(text) {
		return nil, fmt.Errorf("%w: a value is of letters in one line, not %q", ErrEdit, text)
	}
	old, err := Parse(form, b)
	if err != nil {
		return nil, err
	}
	at, there := Lookup(old, group, key)
	var out []byte
	switch {
	case there && at.fixed:
		return nil, fmt.Errorf("%w: line %d: it is not of one line", ErrEdit, at.Line)
	case there && at.Text == text:
		return b, nil
	case there:
		out = splice(b, at.from, at.to, written(form, b[at.from:at.to], text, at.Bare))
	default:
		if out, err = add(form, b, group, key, text, how); err != nil {
			return nil, err
		}
	}
	return out, same(form, old, out, group, key, &text)
}

// Remove takes out every value in a place, and reports whether there was one.
func Remove(form Form, b []byte, group, key string) ([]byte, bool, error) {
	old, err := Parse(form, b)
	if err != nil {
		return nil, false, err
	}
	out, found := b, false
	for _, v := range slices.Backward(old) {
		if v.Group != group || v.Key != key {
			continue
		}
		if v.cut[1] == 0 {
			return nil, true, fmt.Errorf("%w: line %d: it stands among others", ErrEdit, v.Line)
		}
		from, to := v.whole(form, b)
		out, found = splice(out, from, to, ""), true
	}
	return out, found, same(form, old, out, group, key, nil)
}

// whole is what goes with a value: all of its lines, if nothing else stands in them.
func (v Value) whole(form Form, b []byte) (from, to int) {
	from, to = v.cut[0], v.cut[1]
	if form != JSON && form != XML {
		return from, to
	}
	if form == JSON {
		b, _ = hujson.Standardize(bytes.Clone(b)) // remarks go too
	}
	if lines := wholeLines(b, from, to); lines[1] > 0 {
		return lines[0], lines[1]
	}
	if form == JSON && b[to-1] == ',' {
		to += len(b[to:]) - len(bytes.TrimLeft(b[to:], " "))
	}
	return from, to
}

// same holds an edited file against what it was: nothing but the one value, or its
// absence, may differ.
func same(form Form, old []Value, b []byte, group, key string, text *string) error {
	values, err := Parse(form, b)
	if err != nil {
		return fmt.Errorf("%w: after it the file could not be read: %w", ErrEdit, err)
	}
	if now, there := Lookup(values, group, key); there != (text != nil) || there && now.Text != *text {
		return fmt.Errorf("%w: after it %s would not say so", ErrEdit, key)
	}
	brought := func(v Value) bool {
		if form == YAML { // a mapping with nothing in it is a key without a value
			return v.Text == "" && strings.HasPrefix(group+"/", join(v.Group, v.Key)+"/")
		}
		if form != XML || text == nil || !strings.HasPrefix(v.Key, "@") || !strings.HasPrefix(group+"/", v.Group+"/") {
			return false
		}
		_, was := Lookup(old, v.Group, v.Key)
		return !was // it is what an added element is told from its like by
	}
	others := func(all []Value) (out []string) {
		for _, v := range all {
			if (v.Group != group || v.Key != key) && !brought(v) {
				out = append(out, v.Group+"\x00"+v.Key+"\x00"+v.Text)
			}
		}
		return out
	}
	if !slices.Equal(others(old), others(values)) {
		return fmt.Errorf("%w: after it other values would not be what they are", ErrEdit)
	}
	return nil
}

func add(form Form, b []byte, group, key, text string, how How) ([]byte, error) {
	switch form {
	case Lines:
		return addLine(b, group, key, text, how), nil
	case JSON:
		return addJSON(b, group, key, text, how.Bare)
	case TOML:
		return addTOML(b, group, key, text, how.Bare)
	case YAML:
		return addYAML(b, group, key, text, how.Bare)
	}
	return addXML(b, group, key, text)
}

// written is text in the manner of what stood there.
func written(form Form, old []byte, text string, bare bool) string {
	switch form {
	case JSON:
		return literal(form, text, bare)
	case TOML:
		if !bare && old[0] == '\'' && !strings.Contains(text, "'") {
			return "'" + text + "'"
		}
		return literal(form, text, bare)
	case YAML:
		switch {
		case len(old) == 0: // behind the colon
			return " " + literal(form, text, plainYAML(text))
		case old[0] == '\'':
			return "'" + strings.ReplaceAll(text, "'", "''") + "'"
		case bare && plainYAML(text):
			return text
		}
		return literal(form, text, bare && old[0] != '"')
	case XML:
		return escapeXML(text)
	}
	return quoteLine(old, text, bare)
}

// literal is a value of a form with quotes, or without where that says the same.
func literal(form Form, text string, bare bool) string {
	if bare {
		if text == "true" || text == "false" || number(form, text) {
			return text
		}
	}
	return Quoted(text)
}

// Quoted is a text in double quotes with the escapes that JSON, TOML and YAML have in
// common.
func Quoted(text string) string {
	var out strings.Builder
	for _, r := range text {
		switch {
		case r == '"' || r == '\\':
			out.WriteString(`\` + string(r))
		case r < ' ' || r == 0x7f:
			fmt.Fprintf(&out, `\u%04x`, r)
		default:
			out.WriteRune(r)
		}
	}
	return `"` + out.String() + `"`
}

// number reports whether a text is a number in any of the forms.
func number(form Form, text string) bool {
	if strings.ContainsFunc(text, func(r rune) bool { return !strings.ContainsRune("+-.0123456789eE", r) }) {
		return false
	}
	digits := strings.TrimLeft(text, "-")
	if digits == "" || digits[0] < '0' || digits[0] > '9' || strings.HasSuffix(text, ".") || len(digits) > 1 && digits[0] == '0' && digits[1] != '.' {
		return false
	}
	_, err := strconv.ParseFloat(text, 64)
	return err == nil && (form == JSON || form == TOML || form == YAML)
}

func splice(b []byte, from, to int, with string) []byte {
	return slices.Concat(b[:from], []byte(with), b[to:])
}

// lineOf is the number of the line that an offset lies in, counted on from the last.
type lineOf struct {
	b        []byte
	at, line int
}

func (l *lineOf) of(offset int) int {
	if l.line == 0 || offset < l.at {
		l.at, l.line = 0, 1
	}
	l.line += bytes.Count(l.b[l.at:offset], []byte("\n"))
	l.at = offset
	return l.line
}

// wholeLines is the range of the lines that a range lies in, if nothing else does; else it
// is nought.
func wholeLines(b []byte, from, to int) [2]int {
	start := bytes.LastIndexByte(b[:from], '\n') + 1
	end := len(b)
	if i := bytes.IndexByte(b[to:], '\n'); i >= 0 {
		end = to + i + 1
	}
	if len(bytes.TrimSpace(b[start:from])) > 0 || len(bytes.TrimSpace(b[to:end])) > 0 {
		return [2]int{}
	}
	return [2]int{start, end}
}

// lineEnd is the one that most lines have.
func lineEnd(b []byte) string {
	if crlf := bytes.Count(b, []byte("\r\n")); crlf*2 > bytes.Count(b, []byte("\n")) {
		return "\r\n"
	}
	return "\n"
}

// indentOf are the blanks before what stands at an offset, if nothing else does.
func indentOf(b []byte, offset int) string {
	start := bytes.LastIndexByte(b[:offset], '\n') + 1
	line := string(b[start:offset])
	return line[:len(line)-len(strings.TrimLeft(line, " \t"))]
}
