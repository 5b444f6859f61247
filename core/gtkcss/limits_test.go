package gtkcss

import (
	"context"
	"fmt"
	"io"
	"runtime"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"github.com/stretchr/testify/require"
)

// costs runs something and tells what it took: time, and memory at its end.
func costs(t *testing.T, do func() any) (took time.Duration, bytes uint64) {
	t.Helper()
	var before, after runtime.MemStats
	runtime.GC()
	runtime.ReadMemStats(&before)
	begun := time.Now()
	kept := do()
	took = time.Since(begun)
	runtime.ReadMemStats(&after)
	runtime.KeepAlive(kept)
	return took, after.TotalAlloc - before.TotalAlloc
}

// TestHostileSheetsAreBounded: work and memory have limits that a note tells.
func TestHostileSheetsAreBounded(t *testing.T) {
	doubling := "@define-color c0 #102030;\n"
	for i := range 60 {
		doubling += fmt.Sprintf("@define-color c%d mix(@c%d, shade(@c%d, 1.01), 0.5);\n", i+1, i, i)
	}
	withText := strings.Replace(doubling, "#102030", "currentColor", 1)
	for what, text := range map[string]string{
		"colours made of colours":              doubling + "window { color: @c60; background-color: @c59; }",
		"colours made of the text's":           withText + "window { color: red; background-color: @c60; border-color: @c59; } button { color: blue; background-color: @c60; }",
		"300,000 rules":                        strings.Repeat("a{b:c}\n", 300_000),
		"300,000 rules that count":             strings.Repeat("button{color:red}\n", 300_000),
		"one selector, 200,000 times":          strings.Repeat("button,", 200_000) + "label { color: red }",
		"8 MB of brackets":                     strings.Repeat("(", 8<<20),
		"brackets in a value":                  "window { color: " + strings.Repeat("shade(", 400_000) + "red; }",
		"calc in calc":                         "window { margin: " + strings.Repeat("calc(", 400_000) + "1px; }",
		"images in images":                     "window { background-image: " + strings.Repeat("image(", 400_000) + "red; }",
		"not in not":                           strings.Repeat(":not(", 400_000) + "a { color: red }",
		"a comment that does not end":          "/*" + strings.Repeat("*", 8<<20),
		"a long chain of colours":              chain(100_000) + "window { color: @k99999; }",
		"one node, many rules of many classes": strings.Repeat("* * * * * * .x:not(.y) > * { color: red; }\n", 50_000),
	} {
		took, bytes := costs(t, func() any {
			s := Parse([]byte(text), 3)
			c := NewCascade(s)
			for _, name := range s.Colours() {
				c.Colour(name)
			}
			var at *Node
			for i := range 60 {
				n := New(fmt.Sprintf("button.x.c%d", i))
				if at != nil {
					at.Add(n)
				}
				at = n
				c.Style(n)
			}
			return c
		})
		require.Less(t, took, 20*time.Second, what) // the machine may be at other work; a hang is for ever
		require.Less(t, bytes, uint64(600<<20), what)
		t.Logf("%-40s %6d ms %5d MB in all", what, took.Milliseconds(), bytes>>20)
	}
}

func chain(n int) string {
	var b strings.Builder
	b.WriteString("@define-color k0 red;\n")
	for i := range n - 1 {
		fmt.Fprintf(&b, "@define-color k%d @k%d;\n", i+1, i)
	}
	return b.String()
}

// TestColoursMadeOfColours: each is what it would be, resolved one by one.
func TestColoursMadeOfColours(t *testing.T) {
	s := Parse([]byte(`@define-color a #ff0000; @define-color b alpha(currentColor, 0.5); @define-color c mix(@a, @b, 0.5); @define-color d @c;
		@define-color x @y; @define-color y @x; @define-color z mix(@x, @a, 1);
		window { color: #00ff00; background-color: @d; } window label { color: #0000ff; background-color: @d; border-color: @z; }`), 3)
	c := NewCascade(s)
	window := c.Compute("window")
	require.Equal(t, "128,128,0,0.750", window.Colour("background-color").String())
	require.Equal(t, "128,0,128,0.750", c.Compute("window label").Colour("background-color").String())
	require.Equal(t, "128,128,0,0.750", c.Compute("window").Colour("background-color").String())
	a, ok := c.Colour("a")
	require.True(t, ok)
	require.Equal(t, "255,0,0,1.000", a.String())
	for _, circle := range []string{"x", "y", "z"} {
		_, ok = c.Colour(circle)
		require.False(t, ok, circle)
	}
}

// TestLimitsAreTold: what is not read is said, once.
func TestLimitsAreTold(t *testing.T) {
	told := func(s *Sheet, words string) {
		t.Helper()
		require.NotEmpty(t, s.Notes)
		n := 0
		for _, note := range s.Notes {
			if strings.Contains(note.Text, "is not read") {
				require.Contains(t, note.Text, words)
				n++
			}
		}
		require.Equal(t, 1, n)
	}
	told(Parse([]byte(strings.Repeat("button{color:red}\n", mostRules+1)), 3), "rules")
	told(Parse([]byte(strings.Repeat("a ", mostTokens+1)), 3), "words")
	told(Parse([]byte(strings.Repeat(" ", MostBytes+1)), 3), "MiB")
	tree := fstest.MapFS{}
	for i := range mostImports - 1 { // each imports the next one twice
		tree[fmt.Sprintf("gtk-3.0/%d.css", i)] = &fstest.MapFile{Data: fmt.Appendf(nil, "@import '%d.css'; @import '%d.css';", i+1, i+1)}
	}
	tree[fmt.Sprintf("gtk-3.0/%d.css", mostImports-1)] = &fstest.MapFile{Data: []byte("a { color: red }")}
	s, err := Load(t.Context(), tree, "gtk-3.0/0.css")
	require.NoError(t, err)
	told(s, "imported")

	c := NewCascade(Parse([]byte(strings.Repeat("* * * * * * * * * * x { color: red; }\n* { color: blue }", mostRules/2)), 3))
	for i := range 400 {
		c.Style(New(fmt.Sprintf("x.c%d", i)))
	}
	require.True(t, c.Tired())
	require.False(t, NewCascade(Parse([]byte("a { color: red }"), 3)).Tired())
}

// TestWhatNobodyWaitsForIsGivenUp: once the context has ended no more rules are held
// against nodes.
func TestWhatNobodyWaitsForIsGivenUp(t *testing.T) {
	s := Parse([]byte("button { color: red; }"), 3)
	c := NewCascade(s)
	c.Until(&lasting{t.Context(), 3})
	require.Equal(t, "255,0,0,1.000", c.Compute("window button").Colour("color").String())
	require.False(t, c.Tired())
	require.NotEqual(t, "255,0,0,1.000", c.Compute("box box button").Colour("color").String())
	require.True(t, c.Tired())

	many := NewCascade(Parse([]byte(strings.Repeat("* * .x { color: red; }\n", 50_000)), 3))
	many.Until(&lasting{t.Context(), 4})
	for i := range 60 {
		many.Compute(fmt.Sprintf("window box.c%d button.x", i))
	}
	require.True(t, many.Tired())
	require.Less(t, many.work, 200_000, "in the middle of one node's rules too")
}

// lasting is a context that ends once it has been asked so often.
type lasting struct {
	context.Context
	asks int
}

func (l *lasting) Err() error {
	if l.asks--; l.asks < 0 {
		return io.ErrClosedPipe
	}
	return nil
}
