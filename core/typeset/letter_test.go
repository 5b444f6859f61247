package typeset_test

import (
	"bytes"
	"encoding/binary"
	"testing"

	ot "github.com/go-text/typesetting/font/opentype"
	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/goregular"

	"ivelt/core/typeset"
)

// struck is a font that has, besides its outlines, a picture of each letter for a size of 8 px (OpenType
// 1.9, EBLC and EBDT: index subtables of format 2, images of format 5).
func struck(t *testing.T, ttf []byte) []byte {
	t.Helper()
	l, err := ot.NewLoader(bytes.NewReader(ttf))
	require.NoError(t, err)
	var tables []ot.Table
	glyphs := 0
	for _, tag := range l.Tables() {
		b, err := l.RawTable(tag)
		require.NoError(t, err)
		if tag == ot.MustNewTag("maxp") {
			glyphs = int(binary.BigEndian.Uint16(b[4:]))
		}
		tables = append(tables, ot.Table{Tag: tag, Content: b})
	}
	numbers := func(of ...any) []byte {
		var b bytes.Buffer
		for _, n := range of {
			require.NoError(t, binary.Write(&b, binary.BigEndian, n))
		}
		return b.Bytes()
	}
	last := uint16(glyphs - 1)
	metrics := []byte{8, 8, 0, 8, 8, 0, 8, 8} // height, width, bearing, advance; then upright
	index := append(numbers(uint16(2), uint16(5), uint32(4), uint32(8)), metrics...)
	array := numbers(uint16(0), last, uint32(8))
	size := numbers(uint32(56), uint32(len(array)+len(index)), uint32(1), uint32(0), make([]byte, 24), uint16(0), last, uint8(8), uint8(8), uint8(1), uint8(1))
	eblc := bytes.Join([][]byte{numbers(uint16(2), uint16(0), uint32(1)), size, array, index}, nil)
	ebdt := append(numbers(uint16(2), uint16(0)), bytes.Repeat([]byte{0x81}, 8*glyphs)...)
	tables = append(tables, ot.Table{Tag: ot.MustNewTag("EBLC"), Content: eblc}, ot.Table{Tag: ot.MustNewTag("EBDT"), Content: ebdt})
	return ot.WriteTTF(tables)
}

// TestFontsWithStrikesHaveTheirOutlines: pictures of letters in one size do not take the place of
// outlines, which are for every size.
func TestFontsWithStrikesHaveTheirOutlines(t *testing.T) {
	plain, err := typeset.Load(goregular.TTF, 0)
	require.NoError(t, err)
	raw := struck(t, goregular.TTF)
	before := bytes.Clone(raw)
	with, err := typeset.Load(raw, 0)
	require.NoError(t, err)
	require.Equal(t, before, raw, "what it is read from stays as it is")
	for _, r := range "xH|g" {
		a, ok := plain.Letter(r)
		require.True(t, ok)
		b, ok := with.Letter(r)
		require.True(t, ok)
		require.Equal(t, a, b)
		require.NotEmpty(t, with.Outline(b.ID))
		require.Equal(t, plain.Outline(a.ID), with.Outline(b.ID))
	}
	_, ok := plain.Letter('字')
	require.False(t, ok)
}
