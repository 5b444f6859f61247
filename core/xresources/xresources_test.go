package xresources_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/xresources"
)

func TestValuesAreEditedInPlace(t *testing.T) {
	for _, c := range []struct{ what, before, after string }{
		{"the last of several", "Xcursor.size: 24\n! Xcursor.size: 9\nXcursor.size:\t32 \nXcursor*size: 8\n", "Xcursor.size: 24\n! Xcursor.size: 9\nXcursor.size:\t48\nXcursor*size: 8\n"},
		{"not there, no last line end", "*.color0: #000\\\n  more", "*.color0: #000\\\n  more\nXcursor.size: 48\n"},
		{"other line ends", "a.b: c\r\n", "a.b: c\r\nXcursor.size: 48\r\n"},
		{"over two lines", "Xcursor.size: 2\\\n4\nx.y: z\n", "Xcursor.size: 48\nx.y: z\n"},
		{"empty", "", "Xcursor.size: 48\n"},
		{"a comment that ends in a backslash", "! no \\\nXcursor.size: 24\n", "! no \\\nXcursor.size: 48\n"},
	} {
		got := xresources.Set([]byte(c.before), "Xcursor.size", "48")
		require.Equal(t, c.after, string(got), c.what)
		e, ok := xresources.Lookup(got, "Xcursor.size")
		require.True(t, ok)
		require.Equal(t, "48", e.Value, c.what)
	}
	e, ok := xresources.Lookup([]byte("\nXcursor*theme: Two\\ \\n\\101Words\n"), "Xcursor.theme")
	require.True(t, ok)
	require.Equal(t, "Two \nAWords", e.Value)
	require.Equal(t, 2, e.Line)
}

// TestWhatWasAddedIsTakenOut: a resource is removed with its lines, and nothing else is.
func TestWhatWasAddedIsTakenOut(t *testing.T) {
	for _, before := range []string{"", "a.b: c\n", "! no\nXcursor*size: 8\n", "*.color0: #000\\\n  more\n", "a.b: c\r\n"} {
		with := xresources.Set([]byte(before), "Xcursor.size", "48")
		require.Equal(t, before, string(xresources.Remove(with, "Xcursor.size")))
	}
	got := xresources.Remove([]byte("Xcursor.size: 2\\\n4\nx.y: z\nXcursor.size: 32"), "Xcursor.size")
	require.Equal(t, "x.y: z\n", string(got))
}

func FuzzParse(f *testing.F) {
	f.Add([]byte("Xcursor.size: 24\\\n\\101\n#include \"x\"\n! y\n*a*b : c"), "48")
	f.Fuzz(func(t *testing.T, b []byte, value string) {
		e, ok := xresources.Lookup(xresources.Set(b, "One.two", "x"+value), "One.two")
		require.True(t, ok)
		require.NotEmpty(t, e.Value)
	})
}
