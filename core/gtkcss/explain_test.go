package gtkcss_test

import (
	"os"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"ivelt/core/gtkcss"
)

// TestWhichRuleWon: for each declaration that wins at a node the selector, the file and line and
// what is written there, what it wins over, and the named colours behind it; whatever else
// stands in the same line.
func TestWhichRuleWon(t *testing.T) {
	tree := fstest.MapFS{
		"T/gtk-3.0/gtk.css": {Data: []byte(`@import url("colours.css");
button, .flat { border: 1px solid shade(@edge, 0.9); color: red }
window button:hover { color: @ink; background-color: blue; color: mix(@ink, @edge, 0.5); }
@define-color edge #102030; a { color: green } button { padding: 2px 4px; } b { padding: 9px }
button { min-height: 10px; unknown: 3; padding-left: 7px; }
`)},
		"T/gtk-3.0/colours.css": {Data: []byte("@define-color ink shade(@base,\n  1.2);\n@define-color base #eee;\n@define-color edge #ffffff;\n")},
	}
	s, err := gtkcss.Load(t.Context(), tree, "T/gtk-3.0/gtk.css")
	require.NoError(t, err)
	own := gtkcss.Parse([]byte("button { min-height: 12px; }"), 3)
	c := gtkcss.NewCascade(s, own)
	x := c.Explain(func(file string) ([]byte, error) {
		if file == "" {
			return nil, os.ErrNotExist
		}
		return tree.ReadFile(file)
	})
	const sheet = "T/gtk-3.0/gtk.css"
	n := gtkcss.Path("window button.flat:hover")
	require.Equal(t, "window > button.flat:hover", n.Way())
	of := map[string]gtkcss.Explained{}
	decided := 0
	for _, e := range x.Node(n) {
		for _, p := range e.Properties {
			of[p] = e
			decided++
		}
	}
	require.Len(t, of, decided, "one for each property")
	require.Equal(t, gtkcss.Rung{sheet, 3, "window button:hover", "color", "mix(@ink, @edge, 0.5)"}, of["color"].Won)
	require.Equal(t, []gtkcss.Rung{{sheet, 2, ".flat", "color", "red"}, {sheet, 2, "button", "color", "red"}}, of["color"].Overruled)
	require.Equal(t, []string{"color"}, of["color"].Properties)
	require.Equal(t, gtkcss.Rung{sheet, 2, ".flat", "border", "1px solid shade(@edge, 0.9)"}, of["border-top-color"].Won)
	require.Contains(t, of["border-top-color"].Properties, "border-left-width")
	require.Equal(t, gtkcss.Rung{sheet, 4, "button", "padding", "2px 4px"}, of["padding-top"].Won)
	require.Equal(t, gtkcss.Rung{sheet, 5, "button", "padding-left", "7px"}, of["padding-left"].Won)
	require.Equal(t, []gtkcss.Rung{{sheet, 4, "button", "padding", "2px 4px"}}, of["padding-left"].Overruled)
	require.Equal(t, gtkcss.Rung{"", 1, "", "min-height", "12px"}, of["min-height"].Won, "of a sheet that is no file")
	require.Len(t, of["min-height"].Overruled, 1)
	require.NotContains(t, of, "font-size")

	named := x.Named(of["color"].Won.Value)
	require.Len(t, named, 3)
	require.Equal(t, gtkcss.Named{"ink", "shade(@base,\n  1.2)", "T/gtk-3.0/colours.css", 1, named[0].Colour}, named[0])
	require.Equal(t, []any{"base", "#eee", 3}, []any{named[1].Name, named[1].Value, named[1].Line})
	require.Equal(t, []any{"edge", "#102030", sheet, 4, "rgba(16,32,48,1)"}, []any{named[2].Name, named[2].Value, named[2].File, named[2].Line, named[2].Colour.CSS()}, "the last one counts")
	require.Empty(t, x.Named("#fff"))
	require.Equal(t, "", x.Named("@nobody")[0].File)
}
