package gtkcss_test

import (
	"io/fs"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/gtkcss"
)

// TestRewrite: what is made of a value stands in its place; all else stays as it was written.
func TestRewrite(t *testing.T) {
	text := "@import url('a.css');\n@define-color  edge  #ABC ; /* padding: 1px; */\n" +
		"button:hover, a[href=\"x;}\"] { padding : 4px  /* tight */ 6px; color:@edge}\n" +
		"@keyframes turn { from { padding: 1px } to { padding: 2px; } }\n@media (a: b) { row:first-child { padding: 3px } }\nlast { padding: 9px"
	var tells [][]gtkcss.Tell
	out := gtkcss.Rewrite([]byte(text), func(of []gtkcss.Tell) (values []string) {
		tells = append(tells, of)
		for _, one := range of {
			values = append(values, map[string]string{"padding": "<" + one.Value + ">", "@define-color edge": "red"}[one.Property])
			if values[len(values)-1] == "" {
				values[len(values)-1] = one.Value
			}
		}
		return values
	})
	require.Equal(t, "@import url('a.css');\n@define-color  edge  red ; /* padding: 1px; */\n"+
		"button:hover, a[href=\"x;}\"] { padding : <4px  /* tight */ 6px>; color:@edge}\n"+
		"@keyframes turn { from { padding: <1px> } to { padding: <2px>; } }\n@media (a: b) { row:first-child { padding: <3px> } }\nlast { padding: <9px>", string(out))
	require.Len(t, tells[1], 2, "one block comes at once")

	double := func(n float64, unit string) float64 {
		if unit != "px" {
			return n
		}
		return 2 * n
	}
	require.Equal(t, "2px 10% 0 calc(3em + 5px) solid -4px", gtkcss.Lengths("1px 10% 0 calc(3em + 2.5px) solid -2px", double))
	invert := func(c gtkcss.Colour) gtkcss.Colour { return gtkcss.Colour{R: 1 - c.R, G: 1 - c.G, B: 1 - c.B, A: 1} }
	require.Equal(t, "#ffeeddcc url(red.png) shade(@red, 1.1) rgba(255, 0, 127, .5) #00ffff rgb(@x) hsl(1, 2%, 3%) #xyz",
		gtkcss.Colours("#001122cc url(red.png) shade(@red, 1.1) rgba(0, 100%, 128 , .5) red rgb(@x) hsl(1, 2%, 3%) #xyz", invert))
	require.Equal(t, "@import \"<1>\"; @import url(\"<2>\"); a { b: url(\"<3>\"), url(\"<4>\"); font-family: \"5\"; }",
		string(gtkcss.Addresses([]byte("@import '1'; @import url( \"2\" ); a { b: url(3), url('4'); font-family: \"5\"; }"), func(of string, _ bool) string {
			return "<" + of + ">"
		})))
}

// TestRewritingHasBounds: blocks without end and words without number are left as they are.
func TestRewritingHasBounds(t *testing.T) {
	widen := func(of []gtkcss.Tell) (values []string) {
		for range of {
			values = append(values, "9px")
		}
		return values
	}
	for _, text := range []string{strings.Repeat("{", 2_000_000), strings.Repeat("a{", 900_000) + "b:1px", strings.Repeat("a ", 1_200_000) + "{b:1px}", strings.Repeat("}", 2_000_000)} {
		require.Equal(t, len(text), len(gtkcss.Rewrite([]byte(text), widen)))
	}
	deep := strings.Repeat("a{", 100) + "b:1px" + strings.Repeat("}", 100) + "c{b:1px}"
	require.Equal(t, strings.Replace(deep, "c{b:1px}", "c{b:9px}", 1), string(gtkcss.Rewrite([]byte(deep), widen)))
	for seed := range uint64(300) {
		r := rand.New(rand.NewPCG(seed, 5))
		var b strings.Builder
		for range 60 {
			b.WriteString([]string{"a", "{", "}", ":", ";", " ", "b: 1px", "@define-color x #123456;", "@import 'y';", "/* z */", "(", ")", "\"", "url(q)", "\n", "@media"}[r.IntN(16)])
		}
		text := b.String()
		require.Equal(t, text, string(gtkcss.Rewrite([]byte(text), func(of []gtkcss.Tell) (values []string) {
			for _, one := range of {
				values = append(values, one.Value)
			}
			return values
		})), "%q", text)
		gtkcss.Rewrite([]byte(text), widen)
		gtkcss.Addresses([]byte(text), func(of string, _ bool) string { return of + "x" })
	}
}

// TestRewritingNothing leaves every sheet of this machine's packages byte for byte, and what a
// sheet says, rewritten in the same words, is read as the same.
func TestRewritingNothing(t *testing.T) {
	n := 0
	_ = filepath.WalkDir("/usr/share/themes", func(name string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() || filepath.Ext(name) != ".css" {
			return nil
		}
		text, err := os.ReadFile(name)
		require.NoError(t, err)
		tells := 0
		require.Equal(t, string(text), string(gtkcss.Rewrite(text, func(of []gtkcss.Tell) (values []string) {
			for _, one := range of {
				tells++
				values = append(values, one.Value)
			}
			return values
		})), name)
		require.Equal(t, string(text), string(gtkcss.Addresses(text, func(of string, _ bool) string { return of })), name)
		require.LessOrEqual(t, count(text), tells, name)
		n++
		return nil
	})
	t.Logf("%d sheets", n)
}

func count(text []byte) (n int) {
	for _, r := range gtkcss.Rules(text) {
		n += len(r.Tells)
	}
	return n
}

// TestColourOf: what a value stands for, as the sheet names it.
func TestColourOf(t *testing.T) {
	s, err := gtkcss.LoadFrom(t.Context(), texts{"a.css": "@define-color one #ff0000; @define-color two mix(@one, #0000ff, 0.5);"}, "a.css", 3)
	require.NoError(t, err)
	c, ok := s.ColourOf("@two")
	require.True(t, ok)
	require.InDelta(t, 0.5, c.R, 1e-9)
	_, ok = s.ColourOf("@one solid")
	require.False(t, ok)
	_, ok = s.ColourOf("url(x.png)")
	require.False(t, ok)
}

type texts map[string]string

func (t texts) Read(name string, _ bool) ([]byte, error) {
	if text, ok := t[name]; ok {
		return []byte(text), nil
	}
	return nil, fs.ErrNotExist
}
