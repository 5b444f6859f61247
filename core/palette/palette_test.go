package palette_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/colour"
	"ivelt/core/palette"
)

func file(ground, ink string, colours map[int]string) []byte {
	var b strings.Builder
	fmt.Fprintf(&b, "! mine\n*.background: %s\nTerm*foreground: %s\n", ground, ink)
	for i := range 16 {
		c := colours[i]
		if c == "" {
			c = "#808080"
		}
		fmt.Fprintf(&b, "*.color%d:   %s\n", i, c)
	}
	return []byte(b.String())
}

// TestContrastIsWCAGs: contrasts on white that WebAIM's and W3C's own texts give,
// "Understanding SC 1.4.3" (4.5 and 7 are met by #767676 and #595959 and by
// nothing lighter) and the technique G18; black on white has 21 to 1.
func TestContrastIsWCAGs(t *testing.T) {
	p, err := palette.Parse(file("#ffffff", "#000000", map[int]string{0: "#000000", 1: "#767676", 2: "#777777", 3: "#595959", 4: "#ff0000", 5: "#ffffff", 6: "#0000ff", 7: "#f5f5f5"}))
	require.NoError(t, err)
	held := p.Contrasts()
	for i, want := range map[int]float64{0: 21, 1: 4.54, 2: 4.48, 3: 7.00, 4: 4.00, 5: 1, 6: 8.59} {
		require.InDelta(t, want, held[i].Contrast, 0.005, "%s", held[i].Colour.Hex())
		require.Equal(t, want >= 4.5, held[i].Legible())
	}
	require.True(t, held[7].Quiet, "white on a light ground is to draw with")
	require.False(t, held[0].Quiet)
	require.Equal(t, "bright yellow", held[11].Name)
}

// TestColoursAreReadAsXReadsThem: XParseColor(3), "#3a7 is the same as
// #3000a0007000".
func TestColoursAreReadAsXReadsThem(t *testing.T) {
	for text, want := range map[string]string{"#3a7": "#30a070", "#33aa77": "#33aa77", "#333aaa777": "#33aa77", "#3333aaaa7777": "#33aa77", "#3000a0007000": "#30a070"} {
		p, err := palette.Parse(file("#000000", "#ffffff", map[int]string{9: text}))
		require.NoError(t, err, text)
		require.Equal(t, want, p.Colours[9].Hex(), text)
	}
	for text, why := range map[string]string{
		string(file("#000000", "teal", nil)):                                                 "foreground is \"teal\", which is no colour",
		string(file("#000000", "#12345", nil)):                                               "which is no colour",
		string(file("#00000g", "#ffffff", nil)):                                              "background is",
		strings.Replace(string(file("#000000", "#ffffff", nil)), "*.color7:", "*.tint7:", 1): "it does not set color7",
		"": "it does not set background",
	} {
		_, err := palette.Parse([]byte(text))
		require.ErrorIs(t, err, palette.ErrPalette)
		require.ErrorContains(t, err, why)
	}
}

// TestNearestCanBeReadAndIsNear: of any colour on any ground what comes out can be
// read, has the hue it had, and is no farther in lightness than it has to be.
func TestNearestCanBeReadAndIsNear(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 5))
	any := func() colour.Colour { return colour.Of8(uint8(r.IntN(256)), uint8(r.IntN(256)), uint8(r.IntN(256))) }
	moved, ink := 0, 0
	for range 4000 {
		p := palette.Palette{Ground: any()}
		p.Ink = colour.Of8(255, 255, 255)
		if colour.Contrast(p.Ink, p.Ground) < palette.Legible {
			p.Ink = colour.Of8(0, 0, 0)
		}
		c := any()
		to := p.Nearest(c)
		require.GreaterOrEqual(t, colour.Contrast(to, p.Ground), palette.Legible, "%s on %s became %s", c.Hex(), p.Ground.Hex(), to.Hex())
		switch {
		case colour.Contrast(c, p.Ground) >= palette.Legible:
			require.Equal(t, c, to, "it is left as it is")
			continue
		case to == p.Ink:
			ink++
			continue
		}
		moved++
		l, chroma, hue := c.LCH()
		tl, tc, th := to.LCH()
		if chroma > 0.05 && tc > 0.05 {
			require.Less(t, colour.HueDistance(hue, th), 6.0, "%s became %s", c.Hex(), to.Hex())
		}
		// Two steps of 8 bits nearer it could not be read.
		back := 0.02
		if tl < l {
			back = -0.02
		}
		nearer := colour.OfLCH(tl-back, chroma, hue)
		require.Less(t, colour.Contrast(nearer, p.Ground), palette.Legible+0.35, "%s on %s could have stayed nearer than %s", c.Hex(), p.Ground.Hex(), to.Hex())
	}
	require.Greater(t, moved, 1000)
	t.Logf("%d moved, %d became the ink", moved, ink)
}

// TestOneColourIsSetInPlace: everything else in the file stays byte for byte.
func TestOneColourIsSetInPlace(t *testing.T) {
	old := file("#101010", "#f0f0f0", map[int]string{4: "#000044"})
	is := palette.Set(old, 4, colour.Of8(0x88, 0x99, 0xff))
	require.Equal(t, strings.Replace(string(old), "#000044", "#8899ff", 1), string(is))
}

// TestThroughIsMixedInSRGB: half of black over white is the middle grey that
// compositors show.
func TestThroughIsMixedInSRGB(t *testing.T) {
	p := palette.Palette{Ground: colour.Of8(0, 0, 0)}
	require.Equal(t, "#808080", p.Through(colour.Of8(255, 255, 255), 0.5).Hex())
	require.Equal(t, "#000000", p.Through(colour.Of8(255, 255, 255), 1).Hex())
}
