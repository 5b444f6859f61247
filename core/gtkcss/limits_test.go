package gtkcss

import (
	"context"
	"fmt"
	"io"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"
)

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
	told(Parse([]byte(strings.Repeat("button{color:red}\n", maxRules+1)), 3), "rules")
	told(Parse([]byte(strings.Repeat("a ", maxTokens+1)), 3), "words")
	told(Parse([]byte(strings.Repeat(" ", MaxBytes+1)), 3), "MiB")
	tree := fstest.MapFS{}
	for i := range maxImports - 1 { // each imports the next one twice
		tree[fmt.Sprintf("gtk-3.0/%d.css", i)] = &fstest.MapFile{Data: fmt.Appendf(nil, "@import '%d.css'; @import '%d.css';", i+1, i+1)}
	}
	tree[fmt.Sprintf("gtk-3.0/%d.css", maxImports-1)] = &fstest.MapFile{Data: []byte("a { color: red }")}
	s, err := Load(t.Context(), tree, "gtk-3.0/0.css")
	require.NoError(t, err)
	told(s, "imported")

	c := NewCascade(Parse([]byte(strings.Repeat("* * * * * * * * * * x { color: red; }\n* { color: blue }", maxRules/2)), 3))
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
