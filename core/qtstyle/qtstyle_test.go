package qtstyle_test

import (
	"encoding/xml"
	"errors"
	"fmt"
	"image/color"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/qtstyle"
	"ivelt/core/svgraster"
)

// TestEveryControlInEveryState is drawn as well-formed SVG inside its box, however small; its
// pixels are held against Qt's own in truth.
func TestEveryControlInEveryState(t *testing.T) {
	for _, kind := range qtstyle.Kinds {
		for is := range 2 * qtstyle.Chosen {
			for _, size := range [][2]int{{90, 40}, {3, 3}, {1, 1}, {0, 9}} {
				var b strings.Builder
				p := &qtstyle.Painter{B: &b, ID: "a"}
				p.Draw(kind, is, 5, 5, size[0], size[1])
				p.Draw(kind, is, 5, 5, size[0], size[1])
				ids := map[string]bool{}
				for d := xml.NewDecoder(strings.NewReader("<g>" + b.String() + "</g>")); ; {
					token, err := d.Token()
					if errors.Is(err, io.EOF) {
						break
					}
					require.NoError(t, err, kind)
					if e, ok := token.(xml.StartElement); ok {
						for _, a := range e.Attr {
							require.NotContains(t, a.Value, "NaN", kind)
							if a.Name.Local == "id" {
								require.False(t, ids[a.Value], kind)
								ids[a.Value] = true
							}
						}
					}
				}
			}
		}
	}
	var b strings.Builder
	(&qtstyle.Painter{B: &b}).Draw("gone", 0, 0, 0, 9, 9)
	require.Equal(t, `<g transform="translate(0 0)"></g>`, b.String())
}

// TestColoursOfStates: colours in the middle of controls.
func TestColoursOfStates(t *testing.T) {
	at := func(kind string, is qtstyle.State) color.RGBA {
		var b strings.Builder
		(&qtstyle.Painter{B: &b, ID: "a"}).Draw(kind, is, 0, 0, 40, 20)
		im, err := svgraster.Draw(t.Context(), fmt.Appendf(nil, `<svg xmlns="http://www.w3.org/2000/svg" width="40" height="20">%s</svg>`, b.String()), 40, 20, svgraster.Options{})
		require.NoError(t, err)
		return im.RGBAAt(12, 11)
	}
	require.Equal(t, color.RGBA{0x30, 0x8c, 0xc6, 255}, at("line", qtstyle.Chosen))
	require.Equal(t, color.RGBA{0x91, 0x91, 0x91, 255}, at("line", qtstyle.Chosen|qtstyle.Off))
	require.Equal(t, color.RGBA{255, 255, 255, 255}, at("entry", 0))
	require.Equal(t, color.RGBA{0xef, 0xef, 0xef, 255}, at("entry", qtstyle.Off))
	require.Less(t, at("button", qtstyle.Down).G, at("button", 0).G)
	require.Less(t, at("button", 0).G, at("button", qtstyle.Over).G)
	require.Less(t, at("button", qtstyle.Default).R, at("button", 0).R, "a little of what is chosen")
}
