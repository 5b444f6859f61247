package gtkcss_test

import (
	"flag"
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/gtkcss"
)

var rewrite = flag.Bool("rewrite", false, "write the values anew")

// TestValuesAreWrittenAsGTKDoes: the computed text of each property that a declaration sets,
// and what is told of one that cannot be. What GTK itself makes of such declarations, and of
// thousands more, is compared in truth.
func TestValuesAreWrittenAsGTKDoes(t *testing.T) {
	const file = "testdata/values.txt"
	b, err := os.ReadFile(file)
	require.NoError(t, err)
	var out strings.Builder
	for line := range strings.Lines(string(b)) {
		if strings.HasPrefix(line, "\t") {
			continue // what came out
		}
		line = strings.TrimSpace(line)
		fmt.Fprintln(&out, line)
		gtk, css, ok := strings.Cut(line, " ")
		require.True(t, ok, line)
		n := int(gtk[0] - '0')
		s := gtkcss.Parse([]byte("@define-color accent #3584e4;\nwindow { color: #203040; font-size: 10px; }\nbox { "+css+"; }"), n)
		c := gtkcss.NewCascade(s)
		box, plain := c.Compute("window box"), gtkcss.Parse([]byte("window { color: #203040; font-size: 10px; }"), n).Compute("window box")
		for _, name := range gtkcss.Properties(n) {
			if text := box.Text(name); text != plain.Text(name) {
				fmt.Fprintf(&out, "\t%s: %s\n", name, text)
			}
		}
		for _, note := range append(s.Notes, c.Undefined()...) {
			fmt.Fprintf(&out, "\t! %s\n", note.Text)
		}
	}
	if *rewrite {
		require.NoError(t, os.WriteFile(file, []byte(out.String()), 0o644))
	}
	require.Equal(t, string(b), out.String())
}
