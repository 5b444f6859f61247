package truth

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/gresource"
	"ivelt/core/gtkcss"
)

// TestResourceBundlesAgreeWithGLib reads bundles that glib-compile-resources
// made and holds the list and every file against `gresource` (Debian:
// libglib2.0-dev-bin, libglib2.0-bin), plain and compressed.
func TestResourceBundlesAgreeWithGLib(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	r := rand.New(rand.NewPCG(3, 4))
	var xml strings.Builder
	xml.WriteString(`<gresources><gresource prefix="/org/example/theme">`)
	for i := range 120 {
		name := fmt.Sprintf("dist/%s/f%d.css", []string{"a", "a/b", "c"}[i%3], i)
		write(t, filepath.Join(dir, name), strings.Repeat(fmt.Sprintf("button { min-height: %dpx; }\n", i), r.IntN(90)))
		packed := ""
		if i%2 == 0 {
			packed = ` compressed="true"`
		}
		fmt.Fprintf(&xml, `<file%s>%s</file>`, packed, name)
	}
	xml.WriteString(`<file alias="gtk.css">dist/gtk.css</file><file>part.css</file></gresource></gresources>`)
	write(t, filepath.Join(dir, "dist/gtk.css"), "@import url('part.css');\nlabel { color: #010203; }\n")
	write(t, filepath.Join(dir, "part.css"), "button { padding: 7px; }\n")
	write(t, filepath.Join(dir, "theme.xml"), xml.String())
	bundle := filepath.Join(dir, "gtk.gresource")
	output(t, tool(t, "glib-compile-resources", "libglib2.0-dev-bin", "--sourcedir="+dir, "--target="+bundle, filepath.Join(dir, "theme.xml")))
	data, err := os.ReadFile(bundle)
	require.NoError(t, err)
	ours, err := gresource.Open(data)
	require.NoError(t, err)
	names := lines(output(t, tool(t, "gresource", "libglib2.0-bin", "list", bundle)))
	require.ElementsMatch(t, names, ours.Names())
	for _, name := range names {
		got, err := ours.Read(name)
		require.NoError(t, err)
		require.Equal(t, output(t, tool(t, "gresource", "libglib2.0-bin", "extract", bundle, name)), string(got), name)
	}
	t.Logf("%d files compared", len(names))

	// A sheet that lies in the bundle beside the one that names it.
	write(t, filepath.Join(dir, "gtk.css"), "@import url(\"resource:///org/example/theme/gtk.css\");\n")
	s, err := gtkcss.Load(t.Context(), os.DirFS(dir), "gtk.css")
	require.NoError(t, err)
	require.Empty(t, s.Notes)
	require.Equal(t, 7.0, s.Compute("window button").Padding()[0])
	require.Equal(t, "1,2,3,1.000", s.Compute("window label").Colour("color").String())
}
