package truth

import (
	"encoding/json"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/goregular"

	"ivelt/core/typeset"
)

// TestTextWidthsAgreeWithHarfBuzz holds lines of text against hb-shape (Debian:
// libharfbuzz-bin) in the font the demo's are made from and in
// fonts-dejavu-core.
func TestTextWidthsAgreeWithHarfBuzz(t *testing.T) {
	t.Parallel()
	own := filepath.Join(t.TempDir(), "own.ttf")
	require.NoError(t, os.WriteFile(own, goregular.TTF, 0o644))
	fonts, err := filepath.Glob("/usr/share/fonts/truetype/dejavu/*.ttf")
	require.NoError(t, err)
	require.NotEmpty(t, fonts, "make deps installs fonts-dejavu-core")
	compared := 0
	for _, file := range append(fonts, own) {
		b, err := os.ReadFile(file)
		require.NoError(t, err)
		f, err := typeset.Load(b, 0)
		require.NoError(t, err)
		for _, text := range []string{"Low water 06:40", "AVAST To Ty Wave", "office ffi fl", "Größe, Übermut", "Привет", "Αλφα", "1/2 — “x”", "é", "…", "i"} {
			var glyphs []struct {
				G  int     `json:"g"`
				AX float64 `json:"ax"`
			}
			out := output(t, tool(t, "hb-shape", "libharfbuzz-bin", "--output-format=json", "--no-glyph-names", "--no-clusters", "--direction=ltr", "--language=en", file, text))
			require.NoError(t, json.Unmarshal([]byte(out), &glyphs), out)
			line := f.Set(text, f.Upem())
			width := 0.0
			for i, g := range glyphs {
				width += g.AX
				require.Equal(t, g.G, int(line.Glyphs[i].ID), "%s in %s", text, file)
			}
			require.InDelta(t, width, line.Width, 0.5, "%s in %s", text, file)
			compared++
		}
	}
	t.Logf("%d lines compared, in %d fonts", compared, len(fonts)+1)
}
