// Package fontwrite writes fonts anew: under another name, and with tables that were changed.
package fontwrite

import (
	"bytes"
	"encoding/binary"
	"maps"
	"slices"
	"unicode/utf16"

	ot "github.com/go-text/typesetting/font/opentype"
)

// Renamed writes a font anew with a name table of its own, names in English by their IDs (OpenType
// 1.9, "name"), and each other table as change has it, which may be nil; change gets the tag and a
// copy of the contents.
func Renamed(ttf []byte, names map[int]string, change func(tag string, table []byte) []byte) ([]byte, error) {
	l, err := ot.NewLoader(bytes.NewReader(ttf))
	if err != nil {
		return nil, err
	}
	var tables []ot.Table
	for _, tag := range l.Tables() {
		b, err := l.RawTable(tag)
		if err != nil {
			return nil, err
		}
		switch {
		case tag == ot.MustNewTag("name"):
			b = nameTable(names)
		case change != nil:
			b = change(tag.String(), bytes.Clone(b))
		}
		for len(b)%4 != 0 { // tables begin on a multiple of four bytes
			b = append(b, 0)
		}
		tables = append(tables, ot.Table{Tag: tag, Content: b})
	}
	return ot.WriteTTF(tables), nil
}

func nameTable(names map[int]string) []byte {
	const platform3, unicode, english = 3, 1, 0x409
	var records, text []byte
	for _, id := range slices.Sorted(maps.Keys(names)) {
		var raw []byte
		for _, u := range utf16.Encode([]rune(names[id])) {
			raw = binary.BigEndian.AppendUint16(raw, u)
		}
		for _, v := range []uint16{platform3, unicode, english, uint16(id), uint16(len(raw)), uint16(len(text))} {
			records = binary.BigEndian.AppendUint16(records, v)
		}
		text = append(text, raw...)
	}
	out := binary.BigEndian.AppendUint16(nil, 0)
	out = binary.BigEndian.AppendUint16(out, uint16(len(names)))
	out = binary.BigEndian.AppendUint16(out, uint16(6+len(records)))
	return append(append(out, records...), text...)
}
