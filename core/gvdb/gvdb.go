// Package gvdb reads GVDB tables, the files in which GLib keeps resource
// bundles, compiled schemas and settings databases (gvdb-format.h and
// gvdb-reader.c of GLib 2). Files of the other byte order are refused.
package gvdb

import (
	"encoding/binary"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"ivelt/core/gvariant"
)

// ErrTable: the bytes are no table, or a damaged one.
var ErrTable = errors.New("it is no GVDB table, or a damaged one")

const (
	maxItems = 200_000
	maxDeep  = 64
	maxName  = 4096 // bytes of a key

	headerSize = 24
	itemSize   = 24
	noParent   = 0xffffffff
)

// Table is a table of a file. The zero value is an empty one.
type Table struct {
	data   []byte // the file
	values map[string]span
	tables map[string]span
}

type span struct{ from, to uint32 }

// Open reads the directory of a file; values are unpacked when asked for. Errors
// wrap [ErrTable].
func Open(data []byte) (*Table, error) {
	if len(data) < headerSize || string(data[:8]) != "GVariant" {
		return nil, fmt.Errorf("%w: it does not begin as one", ErrTable)
	}
	if v := binary.LittleEndian.Uint32(data[8:]); v != 0 {
		return nil, fmt.Errorf("%w: version %d is not known", ErrTable, v)
	}
	return open(data, span{binary.LittleEndian.Uint32(data[16:]), binary.LittleEndian.Uint32(data[20:])})
}

// item is one entry of the hash table.
type item struct {
	parent, key uint32
	keySize     uint16
	kind        byte // 'v' a value, 'H' a table, 'L' a list
	at          span
}

func open(data []byte, at span) (*Table, error) {
	if at.from > at.to || int64(at.to) > int64(len(data)) || at.to-at.from < 8 {
		return nil, fmt.Errorf("%w: its directory lies outside", ErrTable)
	}
	t := data[at.from:at.to]
	bloom := uint64(binary.LittleEndian.Uint32(t)&(1<<27-1)) * 4
	buckets := uint64(binary.LittleEndian.Uint32(t[4:])) * 4
	if 8+bloom+buckets > uint64(len(t)) {
		return nil, fmt.Errorf("%w: its directory is cut off", ErrTable)
	}
	t = t[8+bloom+buckets:]
	n := len(t) / itemSize
	if n > maxItems {
		return nil, fmt.Errorf("%w: it has %d entries, the most is %d", ErrTable, n, maxItems)
	}
	items := make([]item, n)
	for i := range items {
		e := t[i*itemSize:]
		items[i] = item{binary.LittleEndian.Uint32(e[4:]), binary.LittleEndian.Uint32(e[8:]), binary.LittleEndian.Uint16(e[12:]), e[14],
			span{binary.LittleEndian.Uint32(e[16:]), binary.LittleEndian.Uint32(e[20:])}}
	}
	out := &Table{data: data, values: map[string]span{}, tables: map[string]span{}}
	for i, it := range items {
		into := out.values
		switch it.kind {
		case 'v':
		case 'H':
			into = out.tables
		default:
			continue
		}
		name, err := nameOf(data, items, uint32(i))
		if err != nil {
			return nil, err
		}
		if it.at.from > it.at.to || int64(it.at.to) > int64(len(data)) {
			return nil, fmt.Errorf("%w: %q lies outside", ErrTable, name)
		}
		into[name] = it.at
	}
	return out, nil
}

// nameOf puts a key together from those above it.
func nameOf(data []byte, items []item, at uint32) (string, error) {
	var parts []string
	long := 0
	for deep := 0; at != noParent; deep++ {
		if deep > maxDeep || uint64(at) >= uint64(len(items)) {
			return "", fmt.Errorf("%w: a name has no beginning", ErrTable)
		}
		it := items[at]
		end := uint64(it.key) + uint64(it.keySize)
		if end > uint64(len(data)) {
			return "", fmt.Errorf("%w: a name lies outside", ErrTable)
		}
		if long += int(it.keySize); long > maxName {
			return "", fmt.Errorf("%w: a name is longer than %d bytes", ErrTable, maxName)
		}
		parts = append(parts, string(data[it.key:end]))
		at = it.parent
	}
	slices.Reverse(parts)
	return strings.Join(parts, ""), nil
}

// Keys are the keys of the values, sorted.
func (t *Table) Keys() []string { return slices.Sorted(maps.Keys(t.values)) }

// Has reports whether there is a value of that key.
func (t *Table) Has(key string) bool {
	_, ok := t.values[key]
	return ok
}

// Raw returns the value of a key as its type and its bytes in the file.
func (t *Table) Raw(key string) (kind string, data []byte, ok bool) {
	at, ok := t.values[key]
	if !ok {
		return "", nil, false
	}
	kind, data, ok = gvariant.Split(t.data[at.from:at.to])
	return kind, data, ok
}

// Value returns the value of a key, see [gvariant.Parse].
func (t *Table) Value(key string) (any, bool) {
	kind, data, ok := t.Raw(key)
	if !ok {
		return nil, false
	}
	v, err := gvariant.Parse(kind, data)
	return v, err == nil
}

// Table returns the table of a key.
func (t *Table) Table(key string) (*Table, bool) {
	at, ok := t.tables[key]
	if !ok {
		return nil, false
	}
	sub, err := open(t.data, at)
	return sub, err == nil
}
