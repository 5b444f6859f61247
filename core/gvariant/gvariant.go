// Package gvariant reads GVariant values, serialised and as text (GVariant
// Specification 1.0, section 2.5; "GVariant Text Format" of GLib's reference).
// Serialised values are read in the machine's usual order, little end first; of
// the text format only basic types are.
package gvariant

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"
)

// ErrValue: the bytes are no value of that type.
var ErrValue = errors.New("it is no value of its type")

const maxDeep = 32

// Split takes a serialised variant apart: its value, a zero, and its type.
func Split(v []byte) (kind string, data []byte, ok bool) {
	end := bytes.LastIndexByte(v, 0)
	if end < 0 || end == len(v)-1 {
		return "", nil, false
	}
	return string(v[end+1:]), v[:end], true
}

// Parse reads a serialised value. It comes back as bool, int64, uint64, float64
// or string; an array or a tuple as []any; a dictionary entry as [2]any; a
// nothing as nil; and what is in a variant as it is itself.
func Parse(kind string, data []byte) (any, error) {
	v, rest, err := parse(kind, data, 0)
	if err == nil && rest != "" {
		err = fmt.Errorf("%w: %q is no type", ErrValue, kind)
	}
	return v, err
}

// layout is how a type lies in memory: its alignment, and its size, 0 if that
// varies.
func layout(kind string, deep int) (align, size int, rest string, err error) {
	if kind == "" || deep > maxDeep {
		return 0, 0, "", fmt.Errorf("%w: a type is cut off", ErrValue)
	}
	rest = kind[1:]
	switch kind[0] {
	case 'b', 'y':
		return 1, 1, rest, nil
	case 'n', 'q':
		return 2, 2, rest, nil
	case 'i', 'u', 'h':
		return 4, 4, rest, nil
	case 'x', 't', 'd':
		return 8, 8, rest, nil
	case 's', 'o', 'g':
		return 1, 0, rest, nil
	case 'v':
		return 8, 0, rest, nil
	case 'a', 'm':
		align, _, rest, err = layout(rest, deep+1)
		return align, 0, rest, err
	case '(', '{':
		align, fixed := 1, true
		for rest != "" && rest[0] != ')' && rest[0] != '}' {
			var a, s int
			if a, s, rest, err = layout(rest, deep+1); err != nil {
				return 0, 0, "", err
			}
			align = max(align, a)
			size = up(size, a) + s
			fixed = fixed && s > 0
		}
		if rest == "" {
			return 0, 0, "", fmt.Errorf("%w: a type is cut off", ErrValue)
		}
		size = max(up(size, align), 1) // one that holds nothing takes a byte
		if !fixed {
			size = 0
		}
		return align, size, rest[1:], nil
	}
	return 0, 0, "", fmt.Errorf("%w: %q is no type", ErrValue, kind)
}

func up(n, align int) int { return (n + align - 1) / align * align }

func parse(kind string, data []byte, deep int) (any, string, error) {
	align, size, rest, err := layout(kind, deep)
	if err != nil {
		return nil, "", err
	}
	bad := fmt.Errorf("%w: %d bytes are no %q", ErrValue, len(data), kind[:len(kind)-len(rest)])
	if size > 0 && len(data) != size {
		return nil, "", bad
	}
	switch kind[0] {
	case 'b':
		return data[0] != 0, rest, nil
	case 'y':
		return uint64(data[0]), rest, nil
	case 'n':
		return int64(int16(binary.LittleEndian.Uint16(data))), rest, nil
	case 'q':
		return uint64(binary.LittleEndian.Uint16(data)), rest, nil
	case 'i', 'h':
		return int64(int32(binary.LittleEndian.Uint32(data))), rest, nil
	case 'u':
		return uint64(binary.LittleEndian.Uint32(data)), rest, nil
	case 'x':
		return int64(binary.LittleEndian.Uint64(data)), rest, nil
	case 't':
		return binary.LittleEndian.Uint64(data), rest, nil
	case 'd':
		return math.Float64frombits(binary.LittleEndian.Uint64(data)), rest, nil
	case 's', 'o', 'g':
		if n := len(data); n == 0 || data[n-1] != 0 || !utf8.Valid(data) {
			return nil, "", bad
		}
		return string(data[:len(data)-1]), rest, nil
	case 'v':
		inner, value, ok := Split(data)
		if !ok {
			return nil, "", bad
		}
		v, left, err := parse(inner, value, deep+1)
		if err == nil && left != "" {
			err = bad
		}
		return v, rest, err
	case 'm':
		if len(data) == 0 {
			return nil, rest, nil
		}
		if _, fixed, _, _ := layout(kind[1:], deep+1); fixed == 0 {
			data = data[:len(data)-1]
		}
		v, _, err := parse(kind[1:], data, deep+1)
		return v, rest, err
	case 'a':
		v, err := array(kind[1:], data, align, deep, bad)
		return v, rest, err
	}
	members, err := tuple(kind[1:], data, deep, bad)
	if kind[0] == '{' && err == nil {
		if len(members) != 2 {
			return nil, "", bad
		}
		return [2]any{members[0], members[1]}, rest, nil
	}
	return members, rest, err
}

// array reads the elements: of one size one after another, else by the offsets
// of their ends, which stand behind them.
func array(kind string, data []byte, align, deep int, bad error) ([]any, error) {
	out := []any{}
	if len(data) == 0 {
		return out, nil
	}
	_, size, _, err := layout(kind, deep+1)
	if err != nil {
		return nil, err
	}
	var ends []int
	if size > 0 {
		if len(data)%size != 0 {
			return nil, bad
		}
		for at := size; at <= len(data); at += size {
			ends = append(ends, at)
		}
	} else {
		o := offsets{data}
		last, ok := o.fromEnd(0)
		if !ok || last > len(data) || (len(data)-last)%o.size() != 0 {
			return nil, bad
		}
		n := (len(data) - last) / o.size()
		for i := range n {
			end, _ := o.fromEnd(n - 1 - i)
			ends = append(ends, end)
		}
	}
	from := 0
	for _, end := range ends {
		if from = up(from, align); from > end || end > len(data) {
			return nil, bad
		}
		v, _, err := parse(kind, data[from:end], deep+1)
		if err != nil {
			return nil, err
		}
		out = append(out, v)
		from = end
	}
	return out, nil
}

// tuple reads members up to the closing bracket. The end of each whose size
// varies, but for the last, is an offset; they stand at the end, the first last.
func tuple(kinds string, data []byte, deep int, bad error) ([]any, error) {
	out := []any{}
	o, used, at := offsets{data}, 0, 0
	for kinds != "" && kinds[0] != ')' && kinds[0] != '}' {
		align, size, rest, err := layout(kinds, deep+1)
		if err != nil {
			return nil, err
		}
		at = up(at, align)
		end := at + size
		if size == 0 {
			if rest != "" && (rest[0] == ')' || rest[0] == '}') {
				end = len(data) - used*o.size()
			} else {
				var ok bool
				if end, ok = o.fromEnd(used); !ok {
					return nil, bad
				}
				used++
			}
		}
		if at > end || end > len(data) {
			return nil, bad
		}
		v, _, err := parse(kinds, data[at:end], deep+1)
		if err != nil {
			return nil, err
		}
		out = append(out, v)
		at, kinds = end, rest
	}
	return out, nil
}

// offsets are the framing offsets at the end of a container; their size goes by
// its own.
type offsets struct{ data []byte }

func (o offsets) size() int {
	switch n := len(o.data); {
	case n <= math.MaxUint8:
		return 1
	case n <= math.MaxUint16:
		return 2
	}
	return 4
}

func (o offsets) fromEnd(i int) (int, bool) {
	at := len(o.data) - (i+1)*o.size()
	if at < 0 {
		return 0, false
	}
	var wide [8]byte
	copy(wide[:], o.data[at:at+o.size()])
	return int(binary.LittleEndian.Uint64(wide[:])), true
}

// keywords may stand before a value of the text format. Where the type is known
// they say nothing (typedecl_get_value, gvariant-parser.c).
var keywords = []string{"boolean", "byte", "int16", "uint16", "int32", "handle", "uint32", "int64", "uint64", "double", "string", "objectpath", "signature"}

// ParseText reads a value of a basic type as people write it: a string in
// quotes, a number, true or false. Text that is not UTF-8,
// or has a NUL in it, is none (g_variant_parse).
func ParseText(kind, text string) (any, error) {
	text = strings.TrimSpace(text)
	bad := fmt.Errorf("%w: %q", ErrValue, text)
	if !utf8.ValidString(text) || strings.ContainsRune(text, 0) {
		return nil, bad
	}
	if word, rest, ok := strings.Cut(text, " "); ok && slices.Contains(keywords, word) {
		text = strings.TrimSpace(rest)
	}
	switch kind {
	case "b":
		if text != "true" && text != "false" {
			return nil, bad
		}
		return text == "true", nil
	case "d":
		f, err := strconv.ParseFloat(text, 64)
		if err != nil {
			return nil, bad
		}
		return f, nil
	case "s", "o", "g":
		if text == "" || text[0] != '\'' && text[0] != '"' {
			return nil, bad
		}
		s, rest, err := unquote(text)
		if err != nil || strings.TrimSpace(rest) != "" {
			return nil, bad
		}
		return s, nil
	case "n", "i", "h", "x":
		n, err := strconv.ParseInt(text, 0, map[string]int{"n": 16, "i": 32, "h": 32, "x": 64}[kind])
		if err != nil {
			return nil, bad
		}
		return n, nil
	case "y", "q", "u", "t":
		n, err := strconv.ParseUint(text, 0, map[string]int{"y": 8, "q": 16, "u": 32, "t": 64}[kind])
		if err != nil {
			return nil, bad
		}
		return n, nil
	}
	return nil, fmt.Errorf("%w: values of type %q are not read as text", ErrValue, kind)
}

func unquote(text string) (s, rest string, err error) {
	quote := text[0]
	var b strings.Builder
	for i := 1; i < len(text); i++ {
		switch c := text[i]; {
		case c == quote:
			return b.String(), text[i+1:], nil
		case c == '\\' && i+1 < len(text):
			i++
			switch e := text[i]; e {
			case 'a', 'b', 'f', 'n', 'r', 't', 'v':
				b.WriteByte(map[byte]byte{'a': 7, 'b': 8, 'f': 12, 'n': 10, 'r': 13, 't': 9, 'v': 11}[e])
			case 'u', 'U':
				n := map[byte]int{'u': 4, 'U': 8}[e]
				if i+n >= len(text) {
					return "", "", ErrValue
				}
				r, err := strconv.ParseUint(text[i+1:i+1+n], 16, 32)
				if err != nil || r == 0 {
					return "", "", ErrValue
				}
				b.WriteRune(rune(r))
				i += n
			default:
				b.WriteByte(e)
			}
		default:
			b.WriteByte(c)
		}
	}
	return "", "", ErrValue
}

// Text writes a value as it is written for people, the way GLib prints it: bool,
// string, integers and float64; anything else as Go prints it.
func Text(v any) string {
	switch v := v.(type) {
	case string:
		quote := byte('\'')
		if strings.Contains(v, "'") {
			quote = '"'
		}
		var b strings.Builder
		b.WriteByte(quote)
		for _, r := range v {
			switch {
			case r == rune(quote) || r == '\\':
				b.WriteByte('\\')
				b.WriteRune(r)
			case r == '\n':
				b.WriteString(`\n`)
			case r == '\t':
				b.WriteString(`\t`)
			case r == '\r':
				b.WriteString(`\r`)
			case r < ' ' || r == 0x7f:
				fmt.Fprintf(&b, `\u%04x`, r)
			default:
				b.WriteRune(r)
			}
		}
		b.WriteByte(quote)
		return b.String()
	case uint64:
		return "uint32 " + strconv.FormatUint(v, 10)
	case float64:
		s := strconv.FormatFloat(v, 'g', 17, 64)
		if !strings.ContainsAny(s, ".en") {
			s += ".0"
		}
		return s
	}
	return fmt.Sprint(v)
}

// Plain writes a value as settings files write it: a string without quotes.
func Plain(v any) string {
	switch v := v.(type) {
	case string:
		return v
	case float64:
		return strconv.FormatFloat(v, 'g', -1, 64)
	}
	return fmt.Sprint(v)
}

// First is the first type of a row of types, "" if there is none.
func First(kinds string) string {
	_, _, rest, err := layout(kinds, 0)
	if err != nil {
		return ""
	}
	return kinds[:len(kinds)-len(rest)]
}
