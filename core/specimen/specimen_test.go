package specimen_test

import (
	"bytes"
	"encoding/binary"
	"image/color"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/gomono"
	"golang.org/x/image/font/gofont/goregular"

	"ivelt/core/fontfile/fontwrite"
	"ivelt/core/specimen"
	"ivelt/core/typeset"
)

// TestLinesAreDrawn: hard edges have no tones, sub-pixels colours, levels one base line, and an
// enlarged line is the same, pixel by pixel.
func TestLinesAreDrawn(t *testing.T) {
	f, err := specimen.Load(goregular.TTF, 0)
	require.NoError(t, err)
	tones := func(l specimen.Line) (grey, coloured bool) {
		for i := 0; i < len(l.Cover); i += 3 {
			c := l.Cover[i : i+3]
			grey = grey || c[0] != 0 && c[0] != 255
			coloured = coloured || c[0] != c[1] || c[1] != c[2]
		}
		return grey, coloured
	}
	for order, want := range map[string]bool{"": false, "rgb": true, "vbgr": true} {
		grey, coloured := tones(f.Draw("Hagx", 14, specimen.Rendering{Order: order}))
		require.True(t, grey)
		require.Equal(t, want, coloured, order)
		grey, coloured = tones(f.Draw("Hagx", 14, specimen.Rendering{Order: order, Hard: true}))
		require.False(t, grey || coloured, order)
	}
	rgb, bgr := f.Draw("H", 14, specimen.Rendering{Order: "rgb"}), f.Draw("H", 14, specimen.Rendering{Order: "bgr"})
	for i := 0; i < len(rgb.Cover); i += 3 {
		require.Equal(t, rgb.Cover[i], bgr.Cover[i+2])
	}
	small, large := f.Draw("x", 10, specimen.Rendering{}).Level(30, 10), f.Draw("x", 20, specimen.Rendering{}).Level(30, 10)
	require.Equal(t, small.High, large.High)
	base := func(l specimen.Line) int { // the lowest line with ink
		low := 0
		for y := range l.High {
			if bytes.ContainsFunc(l.Cover[3*y*l.Wide:3*(y+1)*l.Wide], func(r rune) bool { return r > 40 }) {
				low = y
			}
		}
		return low
	}
	require.Equal(t, base(small), base(large))
	ink, ground := color.NRGBA{10, 20, 30, 255}, color.NRGBA{250, 240, 230, 255}
	one, four := large.Paint(ink, ground, 1), large.Paint(ink, ground, 4)
	for y := range one.Bounds().Dy() {
		for x := range one.Bounds().Dx() {
			require.Equal(t, one.NRGBAAt(x, y), four.NRGBAAt(4*x+3, 4*y+2))
		}
	}
	require.Empty(t, f.Draw("", 14, specimen.Rendering{}).Cover[0])
}

// TestLettersInEachOtherAreRefused: a font in which a letter is put together from others, and these
// from others, so that to draw it would take for ever.
func TestLettersInEachOtherAreRefused(t *testing.T) {
	wide := make([]byte, 10) // a letter of many parts, each of which is the next one
	binary.BigEndian.PutUint16(wide, 0xffff)
	tower := func(next func(id int) int) []byte {
		var glyf, loca []byte
		n := int(binary.BigEndian.Uint16(typeset.Tables(gomono.TTF, 0)["maxp"][4:]))
		for id := range n {
			loca = binary.BigEndian.AppendUint32(loca, uint32(len(glyf)))
			glyf = append(glyf, wide...)
			for part := range 8 {
				flags := uint16(0x20)
				if part == 7 {
					flags = 0
				}
				glyf = binary.BigEndian.AppendUint16(glyf, flags)
				glyf = binary.BigEndian.AppendUint16(glyf, uint16(next(id)%n))
				glyf = append(glyf, 0, 0)
			}
		}
		loca = binary.BigEndian.AppendUint32(loca, uint32(len(glyf)))
		raw, err := fontwrite.Renamed(gomono.TTF, map[int]string{1: "Tower"}, func(tag string, table []byte) []byte {
			switch tag {
			case "glyf":
				return glyf
			case "loca":
				return loca
			}
			return table
		})
		require.NoError(t, err)
		return raw
	}
	for name, next := range map[string]func(id int) int{"in itself": func(id int) int { return id }, "in each other": func(id int) int { return id + 1 }} {
		_, err := specimen.Load(tower(next), 0)
		require.ErrorContains(t, err, "without end", name)
	}
}

// FuzzParse draws lines in what may be a font.
func FuzzParse(f *testing.F) {
	f.Add(goregular.TTF)
	f.Add(gomono.TTF[:4000])
	f.Fuzz(func(t *testing.T, raw []byte) {
		font, err := specimen.Load(raw, 0)
		if err != nil {
			return
		}
		for _, h := range []specimen.Hinting{specimen.Unhinted, specimen.UpAndDown, specimen.Whole} {
			l := font.Draw("Hag x 06|", 13.3, specimen.Rendering{Hinting: h, Order: "rgb"})
			if len(l.Cover) != 3*l.Wide*l.High {
				t.Fatal(l.Wide, l.High, len(l.Cover))
			}
		}
	})
}
