package colour_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/colour"
)

func hex(t *testing.T, s string) colour.Colour {
	t.Helper()
	c, err := colour.Parse(s)
	require.NoError(t, err)
	return c
}

// TestAgainstPublishedValues takes OKLCH of the sRGB primaries and secondaries
// from CSS Color Module Level 4 (the table of named colours in its test suite
// gives them to these digits; from memory), and OKLab's own table of white.
func TestAgainstPublishedValues(t *testing.T) {
	for _, c := range []struct {
		hex     string
		l, c, h float64
	}{
		{"#ff0000", 0.62796, 0.25768, 29.234}, {"#00ff00", 0.86644, 0.29483, 142.495}, {"#0000ff", 0.45201, 0.31321, 264.052},
		{"#ffff00", 0.96798, 0.21101, 109.769}, {"#00ffff", 0.90540, 0.15455, 194.769}, {"#ff00ff", 0.70167, 0.32249, 328.363},
		{"#800080", 0.42091, 0.19347, 328.363}, {"#ffffff", 1, 0, 0}, {"#000000", 0, 0, 0}, {"#808080", 0.59987, 0, 0},
	} {
		l, ch, h := hex(t, c.hex).LCH()
		require.InDelta(t, c.l, l, 0.0005, c.hex)
		require.InDelta(t, c.c, ch, 0.0005, c.hex)
		if c.c > 0 {
			require.InDelta(t, c.h, h, 0.05, c.hex)
			require.Less(t, colour.Distance(hex(t, c.hex), colour.OfLCH(l, ch, h)), 0.005, "and back")
		}
	}
	require.InDelta(t, 1, colour.Distance(hex(t, "#000"), hex(t, "#fff")), 0.001)
}

// TestContrastExamples are from WCAG 2.2 (1.4.3, 1.4.6 and their Understanding
// documents): the extremes, and #767676 on white as the lightest grey of 4.5:1,
// #949494 of 3:1 and #595959 of 7:1.
func TestContrastExamples(t *testing.T) {
	white := hex(t, "#ffffff")
	require.InDelta(t, 21, colour.Contrast(white, hex(t, "#000000")), 0.001)
	require.InDelta(t, 1, colour.Contrast(white, white), 0.001)
	for _, c := range []struct {
		passes, fails string
		ratio         float64
	}{{"#767676", "#777777", 4.5}, {"#949494", "#959595", 3}, {"#595959", "#5a5a5a", 7}} {
		require.GreaterOrEqual(t, colour.Contrast(hex(t, c.passes), white), c.ratio)
		require.Less(t, colour.Contrast(white, hex(t, c.fails)), c.ratio)
	}
}

func TestHueNamesGoRoundTheCircle(t *testing.T) {
	for text, want := range map[string]string{
		"#ff0000": "red", "#ff8800": "orange", "#ffdd00": "yellow", "#22aa33": "green", "#00aaaa": "teal", "#2255dd": "blue",
		"#8833cc": "violet", "#ff44aa": "pink", "#777777": "grey", "#7a7674": "grey",
		// As people named them in the xkcd colour survey (2010, CC0).
		"#e50000": "red", "#f97306": "orange", "#ffff14": "yellow", "#15b01a": "green", "#029386": "teal", "#0343df": "blue",
		"#7e1e9c": "violet", "#9a0eea": "violet", "#ff81c0": "pink", "#be0119": "red", "#c65102": "orange",
		"#fac205": "yellow", "#aaff32": "green", "#95d0fc": "blue", "#cea2fd": "violet", "#ffb07c": "orange",
	} {
		_, ch, h := hex(t, text).LCH()
		require.Equal(t, want, colour.HueName(ch, h), text)
	}
	require.InDelta(t, 20, colour.HueDistance(350, 10), 1e-9)
	require.InDelta(t, 180, colour.HueDistance(0, 180), 1e-9)
	for _, bad := range []string{"", "red", "#12", "#12345g"} {
		_, err := colour.Parse(bad)
		require.ErrorIs(t, err, colour.ErrColour)
	}
}

// TestTheNearestThatCanBeRead has the contrast that is needed, the hue it had, and no more of
// a change than it takes.
func TestTheNearestThatCanBeRead(t *testing.T) {
	white, black := hex(t, "#fff"), hex(t, "#000")
	same, ok := colour.Nearest(black, white, 4.5)
	require.True(t, ok)
	require.Equal(t, black, same)
	for _, of := range []string{"#8ab4f8", "#e0a030", "#909090"} {
		c := hex(t, of)
		near, ok := colour.Nearest(c, white, 4.5)
		require.True(t, ok, of)
		require.GreaterOrEqual(t, colour.Contrast(near, white), 4.5, of)
		require.Less(t, colour.Contrast(near, white), 4.6, of)
		_, ch, h := c.LCH()
		if _, nch, nh := near.LCH(); ch > 0.02 && nch > 0.02 {
			require.Less(t, colour.HueDistance(h, nh), 8.0, of)
		}
	}
	_, ok = colour.Nearest(hex(t, "#777"), hex(t, "#777"), 15)
	require.False(t, ok, "no grey is that far from grey")
	lighter, ok := colour.Nearest(hex(t, "#333"), black, 4.5)
	require.True(t, ok)
	require.Greater(t, lighter.Luminance(), hex(t, "#333").Luminance())
}

// TestWaysOfSeeing: greys are what they are, and the colours that each way is known to take
// for one another are nearer to each other than they were (common practice, no source: red and
// green without either of their cones, blue and green without the blue one's).
func TestWaysOfSeeing(t *testing.T) {
	for _, v := range colour.Visions {
		for _, grey := range []string{"#000000", "#808080", "#ffffff"} {
			require.Less(t, colour.Distance(v.Of(hex(t, grey)), hex(t, grey)), 0.01, "%s %s", v.Name, grey)
		}
		one, two := hex(t, "#c04040"), hex(t, "#608020")
		if v.Name == "tritanopia" {
			one, two = hex(t, "#2060c0"), hex(t, "#207060")
		}
		require.Less(t, colour.Distance(v.Of(one), v.Of(two)), 0.7*colour.Distance(one, two), v.Name)
	}
	require.Equal(t, "#2f7f8c", colour.Of8(0x2f, 0x7f, 0x8c).Hex())
}
