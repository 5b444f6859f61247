package demo

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"strings"
	"unicode/utf16"

	ot "github.com/go-text/typesetting/font/opentype"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/gobolditalic"
	"golang.org/x/image/font/gofont/goitalic"
	"golang.org/x/image/font/gofont/gomono"
	"golang.org/x/image/font/gofont/gomonobold"
	"golang.org/x/image/font/gofont/goregular"
)

// estuary makes the family Estuary from the Go fonts (BSD, Bigelow & Holmes),
// which may be changed under another name.
func estuary(family string) (files, error) {
	styles := map[string][]byte{"Regular": goregular.TTF, "Bold": gobold.TTF, "Italic": goitalic.TTF, "Bold Italic": gobolditalic.TTF}
	if strings.HasSuffix(family, "Mono") {
		styles = map[string][]byte{"Regular": gomono.TTF, "Bold": gomonobold.TTF}
	}
	folder := strings.ToLower(strings.ReplaceAll(family, " ", "-"))
	out := files{folder + "/LICENSE": []byte("Estuary is made from the Go fonts, copyright Bigelow & Holmes, under the BSD 3-clause licence.\n")}
	for style, ttf := range styles {
		b, err := rename(ttf, family, style)
		if err != nil {
			return nil, err
		}
		out[folder+"/"+strings.ReplaceAll(family+"-"+style, " ", "")+".ttf"] = b
	}
	return out, nil
}

// rename writes a font anew with another name table (OpenType 1.9, "name").
func rename(ttf []byte, family, style string) ([]byte, error) {
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
		if tag == ot.MustNewTag("name") {
			b = nameTable(family, style)
		}
		for len(b)%4 != 0 { // tables begin on a multiple of four bytes
			b = append(b, 0)
		}
		tables = append(tables, ot.Table{Tag: tag, Content: b})
	}
	return ot.WriteTTF(tables), nil
}

func nameTable(family, style string) []byte {
	names := []struct {
		id   uint16
		text string
	}{
		{0, "Copyright Bigelow & Holmes; renamed for the demo"}, {1, family}, {2, style}, {3, fmt.Sprintf("%s %s 1.0", family, style)},
		{4, family + " " + style}, {5, "Version 1.0"}, {6, strings.ReplaceAll(family+"-"+style, " ", "")}, {8, "Maud Pell"}, {13, "BSD-3-Clause"},
	}
	var records, text []byte
	for _, n := range names {
		var raw []byte
		for _, u := range utf16.Encode([]rune(n.text)) {
			raw = binary.BigEndian.AppendUint16(raw, u)
		}
		for _, v := range []uint16{3, 1, 0x409, n.id, uint16(len(raw)), uint16(len(text))} { // Windows, Unicode, English
			records = binary.BigEndian.AppendUint16(records, v)
		}
		text = append(text, raw...)
	}
	out := binary.BigEndian.AppendUint16(nil, 0)
	out = binary.BigEndian.AppendUint16(out, uint16(len(names)))
	out = binary.BigEndian.AppendUint16(out, uint16(6+len(records)))
	return append(append(out, records...), text...)
}
