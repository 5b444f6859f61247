package gtkcss_test

import (
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"ivelt/core/gtkcss"
	"ivelt/core/within"
)

// What the toolkits themselves compute is held against in package truth; here
// is what they cannot be asked about.

func TestWhatIsWrongIsNotedAndTheRestCounts(t *testing.T) {
	s := gtkcss.Parse([]byte(`@define-color ink #203040;
button { color: @ink; padding: 3px 4px; colour: red; margin: 5foo; }
button:nonsense { color: red; }
@media print { button { color: red; } }
} stray { }
entry { color: nowhere; border: 2px solid
; min-height: 12px }
label { background: url("a.png`+"\n"+`"); color: #123 }
row { color: lime`), 3)
	b := s.Compute("window button")
	require.Equal(t, "32,48,64,1.000", b.Colour("color").String())
	require.Equal(t, gtkcss.Box{3, 4, 3, 4}, b.Padding())
	e := s.Compute("window entry")
	require.Equal(t, 12.0, e.Length("min-height"))
	require.Equal(t, 2.0, e.BorderWidth()[0])
	require.Equal(t, "0,255,0,1.000", s.Compute("window row").Colour("color").String(), "a block that is never closed")
	var said []string
	for _, n := range s.Notes {
		said = append(said, n.String())
	}
	require.Subset(t, said, []string{
		":2: colour is not a property of GTK 3",
		`:2: margin: "5foo" does not count`,
		":3: button:nonsense: is no selector: ‘:nonsense’ is not known",
		":4: @media is not known",
		":5: } stray: is no selector",
		`:6: color: "nowhere" does not count`,
	})
	require.Contains(t, gtkcss.Note{File: "a.css", Line: 3, Text: "x"}.String(), "a.css:3: x")
}

func TestImports(t *testing.T) {
	tree := fstest.MapFS{
		"T/gtk-3.0/gtk.css":  {Data: []byte("@import url(\"base.css\");\n@import 'gone.css';\n@import url(\"../../out.css\");\n@import url(\"../../../out.css\");\n@import url(\"https://a.example/x.css\");\n@import url(\"resource:///a/b.css\");\nbutton { color: red; }")},
		"T/gtk-3.0/base.css": {Data: []byte("@import 'gtk.css';\nbutton { color: blue; padding: 2px; background-image: url('assets/a.png'); }")},
		"T/gtk-4.0/gtk.css":  {Data: []byte("button:root, box { color: #12345680; }")},
		"out.css":            {Data: []byte("label { color: lime; }")},
	}
	s, err := gtkcss.Load(t.Context(), tree, "T/gtk-3.0/gtk.css")
	require.NoError(t, err)
	st := s.Compute("window button")
	require.Equal(t, "255,0,0,1.000", st.Colour("color").String())
	require.Equal(t, 2.0, st.Padding()[0])
	require.Equal(t, "T/gtk-3.0/assets/a.png", st.Layers()[0].Image.File, "beside the sheet that names it")
	file, line, told := st.Told("padding-top")
	require.True(t, told)
	require.Equal(t, "T/gtk-3.0/base.css", file)
	require.Equal(t, 2, line)
	var said []string
	for _, n := range s.Notes {
		said = append(said, n.String())
	}
	require.Equal(t, []string{
		`T/gtk-3.0/base.css:1: import of "gtk.css" goes in a circle`,
		`T/gtk-3.0/gtk.css:2: import of "gone.css" is not there`,
		`T/gtk-3.0/gtk.css:4: import of "../../../out.css" leaves the piece`,
		`T/gtk-3.0/gtk.css:5: import of "https://a.example/x.css" leaves the piece`,
		`T/gtk-3.0/gtk.css:6: import of "resource:///a/b.css" is not there`,
	}, said)
	require.Equal(t, 3, s.Generation)
	s, err = gtkcss.Load(t.Context(), tree, "T/gtk-4.0/gtk.css")
	require.NoError(t, err)
	require.Equal(t, "18,52,86,0.502", s.Compute("window box").Colour("color").String(), "GTK 4 reads alpha in hex")
	_, err = gtkcss.Load(t.Context(), tree, "T/none.css")
	require.ErrorIs(t, err, gtkcss.ErrSheet)
}

// TestSheetsOverEachOther: the person's own sheet wins, whatever the theme's
// selectors weigh, and its colours count in the theme's rules.
func TestSheetsOverEachOther(t *testing.T) {
	theme := gtkcss.Parse([]byte("@define-color accent #f00; window box button { color: @accent; padding: 1px; } "), 3)
	own := gtkcss.Parse([]byte("@define-color accent #00f; button { padding: 9px; }"), 3)
	c := gtkcss.NewCascade(theme, own)
	st := c.Compute("window box button")
	require.Equal(t, "0,0,255,1.000", st.Colour("color").String())
	require.Equal(t, 9.0, st.Padding()[0])
	accent, ok := c.Colour("accent")
	require.True(t, ok)
	require.Equal(t, gtkcss.Colour{B: 1, A: 1}, accent)
	_, ok = c.Colour("nowhere")
	require.False(t, ok)
}

func TestPlacesAmongSiblings(t *testing.T) {
	s := gtkcss.Parse([]byte(`row:nth-child(odd) { color: red; } row:last-child { padding: 4px; } row + row { margin: 2px; } row:not(:first-child) { border: 1px solid; }`), 3)
	c := gtkcss.NewCascade(s)
	a, b, d, hidden := gtkcss.New("row"), gtkcss.New("row"), gtkcss.New("row"), gtkcss.New("row")
	hidden.Hidden = true
	gtkcss.New("list").Add(hidden, a, b, d)
	require.Equal(t, "255,0,0,1.000", c.Style(a).Colour("color").String())
	require.Equal(t, "255,255,255,1.000", c.Style(b).Colour("color").String())
	require.Equal(t, "255,0,0,1.000", c.Style(d).Colour("color").String())
	require.Equal(t, 4.0, c.Style(d).Padding()[0])
	require.Zero(t, c.Style(a).Margin()[0])
	require.Equal(t, 2.0, c.Style(b).Margin()[0])
	require.Equal(t, 1.0, c.Style(d).BorderWidth()[0])
	// Written as a path, only those beside it are known.
	require.Zero(t, c.Compute("list row").Padding()[0])
	require.Equal(t, 2.0, c.Compute("list row + row:hover").Margin()[0])
}

func TestPaintableValues(t *testing.T) {
	s := gtkcss.Parse([]byte(`box { background: linear-gradient(to top right, red, lime 30%, blue), radial-gradient(circle closest-side at 20% 30%, #fff, #000 40%), #102030;
 border-radius: 30px 4px; box-shadow: inset 0 1px 2px rgba(0,0,0,0.5), 1px 2px red; font: italic bold 15px "A B", serif; opacity: 1.4; }`), 4)
	st := s.Compute("box")
	layers := st.Layers()
	require.Len(t, layers, 2)
	require.Equal(t, "linear", layers[0].Image.Kind)
	require.Equal(t, "to top right", layers[0].Image.Side)
	require.Equal(t, []float64{0, 0.3, 1}, []float64{layers[0].Image.Stops[0].At, layers[0].Image.Stops[1].At, layers[0].Image.Stops[2].At})
	require.Equal(t, [2]float64{0.2, 0.3}, layers[1].Image.At)
	require.True(t, layers[1].Image.Circle)
	require.Equal(t, "16,32,48,1.000", st.Colour("background-color").String())
	// Corners that would meet get smaller together (css-backgrounds-3, 5.5).
	require.InDelta(t, 30*30/34.0, st.Radii(40, 30)[0][1], 1e-9)
	require.Equal(t, []gtkcss.Shadow{{Y: 1, Blur: 2, Colour: gtkcss.Colour{A: 0.5}, Inset: true}, {X: 1, Y: 2, Colour: gtkcss.Colour{R: 1, A: 1}}}, st.Shadows("box-shadow"))
	require.Equal(t, gtkcss.Font{Families: []string{"A B", "serif"}, Size: 15, Weight: 700, Italic: true}, st.Font())
	require.Equal(t, 1.0, st.Opacity())
}

func FuzzParse(f *testing.F) {
	for _, seed := range []string{
		"a{b:c}", "@import 'x';", "@define-color a @b; @define-color b @a; * { color: @a }", "a { background: linear-gradient(to right, red, blue 20%), url(x) 1px / 2px }",
		"a:not(:nth-child(2n+1)) > b ~ c + d { border: 1px solid rgba(0,0,0,.5) }", "a { padding: calc(1px + (2em * 3) - 4pt / 2) }", "{{{{", "a{b:c", "a { color: #12345678 }",
		"a { transition: all 1s cubic-bezier(0,0,1,1), color 2s; animation: x 1s infinite; font: bold 12px A, B }",
	} {
		f.Add([]byte(seed))
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		within.Reason(t, len(text), func() {
			for _, gtk := range []int{3, 4} {
				st := gtkcss.Parse(text, gtk).Compute("window.background box.a button.b:hover + button:checked")
				for _, name := range gtkcss.Properties(gtk) {
					st.Text(name)
				}
				st.Layers()
				st.Radii(10, 10)
				st.Fill()
			}
		})
	})
}

func BenchmarkSheet(b *testing.B) {
	var text []byte
	for n := range 2500 { // 10,000 lines
		text = append(text, []byte("button.c"+string(rune('a'+n%26))+":hover > label, entry:not(.x"+string(rune('a'+n%7))+") {\n  padding: 4px 6px;\n  background: linear-gradient(to top, #123, shade(@a, 1.2));\n}\n")...)
	}
	var nodes []string
	for _, leaf := range []string{"button.ca label", "button.cb", "entry", "row.cq", "headerbar button.cz:hover label"} {
		for _, state := range []string{"", ":hover", ":active", ":checked", ":disabled", ":backdrop", ":selected", ":focus"} {
			nodes = append(nodes, "window.background box "+leaf+state)
		}
	}
	for b.Loop() {
		c := gtkcss.NewCascade(gtkcss.Parse(text, 3))
		for _, n := range nodes {
			c.Compute(n)
		}
	}
}
