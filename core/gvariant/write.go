package gvariant

import (
	"encoding/binary"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
)

// Bytes serialises a value of a basic type, as [Parse] reads it back.
func Bytes(kind string, v any) ([]byte, error) {
	bad := fmt.Errorf("%w: %v is no %q", ErrValue, v, kind)
	switch of := v.(type) {
	case bool:
		if kind != "b" {
			return nil, bad
		}
		if of {
			return []byte{1}, nil
		}
		return []byte{0}, nil
	case string:
		if kind != "s" && kind != "o" && kind != "g" || strings.ContainsRune(of, 0) {
			return nil, bad
		}
		return append([]byte(of), 0), nil
	case float64:
		if kind != "d" {
			return nil, bad
		}
		return binary.LittleEndian.AppendUint64(nil, math.Float64bits(of)), nil
	case int64, uint64:
		_, size, rest, err := layout(kind, 0)
		if err != nil || rest != "" || !strings.Contains("ynqiuhxt", kind) {
			return nil, bad
		}
		n, signed := of.(int64)
		if !signed {
			n = int64(of.(uint64))
		}
		out := binary.LittleEndian.AppendUint64(nil, uint64(n))[:size]
		if back, err := Parse(kind, out); err != nil || fmt.Sprint(back) != fmt.Sprint(v) {
			return nil, bad
		}
		return out, nil
	}
	return nil, bad
}

// Changes serialises what a writer of settings is handed, a value of the type a{smv}: the
// paths in order, each with its value's type and bytes; an empty type resets a path.
func Changes(values map[string][2]string) []byte {
	var entries [][]byte
	for _, path := range slices.Sorted(maps.Keys(values)) {
		entry := append([]byte(path), 0)
		key := len(entry)
		if kind, data := values[path][0], values[path][1]; kind != "" {
			for len(entry)%8 != 0 {
				entry = append(entry, 0)
			}
			entry = append(entry, data...)
			entry = append(append(entry, 0), kind...) // a variant: the value, a zero, its type
			entry = append(entry, 0)                  // a maybe that holds something of no fixed size
		}
		entries = append(entries, framed(entry, key))
	}
	var out []byte
	var ends []int
	for _, entry := range entries {
		for len(out)%8 != 0 {
			out = append(out, 0)
		}
		out = append(out, entry...)
		ends = append(ends, len(out))
	}
	return framed(out, ends...)
}

// framed adds the framing offsets to the end of a container; their size goes by the size
// of the whole (GVariant Specification 1.0, 2.3.6).
func framed(body []byte, ends ...int) []byte {
	if len(ends) == 0 {
		return body
	}
	size := 1
	for _, wider := range []struct{ size, most int }{{1, math.MaxUint8}, {2, math.MaxUint16}, {4, math.MaxUint32}} {
		if size = wider.size; len(body)+size*len(ends) <= wider.most {
			break
		}
	}
	for _, end := range ends {
		body = append(body, binary.LittleEndian.AppendUint64(nil, uint64(end))[:size]...)
	}
	return body
}
