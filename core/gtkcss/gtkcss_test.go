package gtkcss_test

import (
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"ivelt/core/gtkcss"
)

func sheet(t *testing.T, text string) *gtkcss.Sheet {
	t.Helper()
	s, err := gtkcss.Parse([]byte(text))
	require.NoError(t, err)
	return s
}

// TestWhichRuleWins follows Selectors Level 3, section 9, and the cascade's
// order of appearance.
func TestWhichRuleWins(t *testing.T) {
	s := sheet(t, `
		@define-color ink #102030;
		* { color: @ink; }
		button { background-color: #010101; }
		window button { background-color: #020202; }
		window > button { border-color: red; }
		window > box > button { border: 2px solid blue; padding: 1px 2px 3px; }
		button.flat, button.flat:hover { background-color: transparent; }
		button:hover { background-color: #030303; }
		button:not(.flat):active { background-color: #040404; }
		button:checked:hover { background-color: #050505; }
		button:first-child { background-color: #ff0000; }
		label + button { background-color: #ff0000; }
		#main { background: linear-gradient(to bottom, white, rgba(0,0,0,0.5)) , #060606; }
		button { border-radius: 3px 9px; min-height: 2em; }
		@media print { button { color: red; } }
		label { color: inherit; nonsense: 1 2 3; }
		entry { color: currentColor; background-color: alpha(currentColor, 0.5); color: #00ff00; }
	`)
	for _, c := range []struct{ path, background string }{
		{"button", "1,1,1,1.000"}, {"window button", "2,2,2,1.000"}, {"window box button", "2,2,2,1.000"},
		{"window box button:hover", "3,3,3,1.000"}, {"window button.flat:hover", "0,0,0,0.000"}, {"button:active", "4,4,4,1.000"},
		{"button.flat:active", "0,0,0,0.000"}, {"button:checked:hover", "5,5,5,1.000"}, {"box#main", "6,6,6,1.000"}, {"window", "0,0,0,0.000"},
		{"entry", "0,255,0,0.500"},
	} {
		require.Equal(t, c.background, s.Compute(c.path).Background.String(), c.path)
	}
	b := s.Compute("window box button")
	require.Equal(t, "16,32,48,1.000", b.Colour.String())
	require.Equal(t, "0,0,255,1.000", b.Border[0].String())
	require.Equal(t, [4]float64{1, 2, 3, 2}, b.Padding)
	require.InDelta(t, 3, b.Radius, 1e-9)
	require.InDelta(t, 26.667, b.MinHeight, 0.01)
	require.Equal(t, "255,0,0,1.000", s.Compute("window button").Border[0].String())
	g := s.Compute("box#main").Gradient
	require.Len(t, g, 2)
	require.Equal(t, "0,0,0,0.500", g[1].Colour.String())
	require.Equal(t, "16,32,48,1.000", s.Compute("window label").Colour.String())
}

// TestColours: CSS Color Level 4 for the plain ones; the results of shade and
// mix are worked out by hand from gtkhsla.c and the mean of each part.
func TestColours(t *testing.T) {
	for text, want := range map[string]string{
		"#abc": "170,187,204,1.000", "#aabbcc80": "170,187,204,0.502", "rgb(1, 2, 3)": "1,2,3,1.000", "rgba(100%,0%,0%,.25)": "255,0,0,0.250",
		"tomato": "255,99,71,1.000", "transparent": "0,0,0,0.000", "mix(black, white, 0.25)": "64,64,64,1.000", "alpha(#ffffff, 0.5)": "255,255,255,0.500",
		"shade(#808080, 0.5)": "64,64,64,1.000", "shade(#4080c0, 1.0)": "64,128,192,1.000", "shade(#ffffff, 1.3)": "255,255,255,1.000", "darker(#808080)": "90,90,90,1.000",
		"alpha(mix(@x, shade(@x, 0), 0.5), 0.5)": "8,16,24,0.500",
	} {
		s := sheet(t, "@define-color x #102030;\nx { color: "+text+"; }")
		require.Equal(t, want, s.Compute("x").Colour.String(), text)
	}
	for _, bad := range []string{"#12", "rgb(1,2)", "shade(#fff)", "@none", "mix(@loop, @loop, 1)", "grünlich", "mix("} {
		s := sheet(t, "@define-color loop @loop;\nx { color: #010203; color: "+bad+"; }")
		require.Equal(t, "1,2,3,1.000", s.Compute("x").Colour.String(), bad+": a value that is none leaves the one before")
	}
}

func TestImports(t *testing.T) {
	fsys := fstest.MapFS{
		"T/gtk-3.0/gtk.css":     {Data: []byte(`@import url("colours.css"); @import "gone.css"; @import url("resource:///x.css"); x { color: @ink; }`)},
		"T/gtk-3.0/colours.css": {Data: []byte(`@import url("gtk.css"); @define-color ink #0a0b0c;`)}, // in a circle
	}
	s, err := gtkcss.Load(fsys, "T/gtk-3.0/gtk.css")
	require.NoError(t, err)
	require.Equal(t, "10,11,12,1.000", s.Compute("x").Colour.String())
	c, ok := s.Colour("ink")
	require.True(t, ok)
	require.Equal(t, "rgba(10,11,12,1)", c.CSS())
	_, err = gtkcss.Load(fsys, "none.css")
	require.ErrorIs(t, err, gtkcss.ErrSheet)
}

func FuzzParse(f *testing.F) {
	f.Add("@define-color a shade(@a, 1.2); button:not(:hover) > x { background: linear-gradient(to top, @a, red 10%); }", "a b:hover#c.d")
	f.Add("x { color: mix(mix(mix(", ":not(")
	f.Fuzz(func(_ *testing.T, text, path string) {
		s, err := gtkcss.Parse([]byte(text))
		if err == nil {
			_ = s.Compute(path).Fill().CSS()
		}
	})
}
