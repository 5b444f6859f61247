package tomlfile_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/tomlfile"
)

func TestDecode(t *testing.T) {
	var into struct {
		Name string `toml:"name"`
	}
	require.NoError(t, tomlfile.Decode([]byte("name = \"a\"\nshine = 1\n"), &into))
	require.Equal(t, "a", into.Name)
	var unknown *tomlfile.Unknown
	require.ErrorAs(t, tomlfile.Strict([]byte("name = \"a\"\n[of]\nshine = 1\n"), &into), &unknown)
	require.Equal(t, 2, unknown.Line)
	require.ErrorContains(t, tomlfile.Decode([]byte("name = \"a\"\nname = 2"), &into), "line 2: ")
	require.ErrorContains(t, tomlfile.Decode([]byte("name = 5"), &into), "line 1: ")

	many := func(n int, line string) []byte {
		var b strings.Builder
		for i := range n {
			fmt.Fprintf(&b, line, i)
		}
		return []byte(b.String())
	}
	for what, b := range map[string][]byte{
		"bytes":       []byte("# " + strings.Repeat("a", tomlfile.MaxBytes)),
		"keys":        many(9000, "f%d = 1\n"),
		"dotted keys": []byte(strings.Repeat("a.", 9000) + "b = 1"),
		"tables":      many(9000, "[f%d]\n"),
	} {
		require.ErrorIs(t, tomlfile.Decode(b, &map[string]any{}), tomlfile.ErrTooMuch, what)
	}
}
