package typeset_test

import (
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/goregular"

	"ivelt/core/typeset"
)

// TestLinesFromRightToLeft: letters that join and do not, as hb-shape sets them (Debian:
// libharfbuzz-bin, fonts-dejavu-core).
func TestLinesFromRightToLeft(t *testing.T) {
	file := "/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf"
	b, err := os.ReadFile(file)
	require.NoError(t, err)
	face, err := typeset.Load(b, 0)
	require.NoError(t, err)
	for _, text := range []string{"שלום עולם", "سلام", "النوافذ والأيقونات", "لا", "אבג", "ميناء"} {
		out, err := exec.CommandContext(t.Context(), "hb-shape", "--no-glyph-names", "--no-clusters", "--output-format=json", "--direction=rtl", "--language=en", "--font-file="+file, "--text="+text).Output()
		require.NoError(t, err)
		var want []struct{ G, Dx, Dy, Ax float64 }
		require.NoError(t, json.Unmarshal(out, &want))
		line := face.SetIn(text, face.Upem(), nil)
		require.Len(t, line.Glyphs, len(want), text)
		x := 0.0
		for i, g := range want {
			require.InDelta(t, g.G, line.Glyphs[i].ID, 0, "%s, %d", text, i)
			require.InDelta(t, x+g.Dx, line.Glyphs[i].X, 1, "%s, %d", text, i)
			x += g.Ax
		}
		require.InDelta(t, x, line.Width, 1, text)
	}
}

// TestLettersOfAnotherFont stand where the first one has none, and the directions of a line are
// those of its words (UAX #9, its example of a car in a sentence; the order worked out by hand).
func TestLettersOfAnotherFont(t *testing.T) {
	plain, err := typeset.Load(goregular.TTF, 0)
	require.NoError(t, err)
	list, err := filepath.Glob("/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf")
	require.NoError(t, err)
	b, err := os.ReadFile(list[0])
	require.NoError(t, err)
	other, err := typeset.Load(b, 0)
	require.NoError(t, err)
	instead := func(rune) *typeset.Face { return other }
	ids := func(of *typeset.Face, text string) (out []uint32) {
		for _, r := range text {
			l, ok := of.Letter(r)
			require.True(t, ok)
			out = append(out, l.ID)
		}
		return out
	}
	seen := func(text string) (out []uint32) {
		line := plain.SetIn(text, 16, instead)
		at := -1.0
		for _, g := range line.Glyphs {
			require.Greater(t, g.X, at, "from left to right")
			at = g.X
			out = append(out, g.ID)
		}
		require.Greater(t, line.Width, at)
		return out
	}
	require.Equal(t, plain.Set("Reef", 16), plain.SetIn("Reef", 16, instead), "nothing is asked of another")
	require.Equal(t, append(append(ids(plain, "ab "), ids(other, "גבא")...), ids(plain, " cd")...), seen("ab אבג cd"))
	require.Equal(t, append(append(ids(other, "דג"), ids(plain, " ab ")...), ids(other, "בא")...), seen("אב ab גד"), "as a whole from right to left")
	require.Len(t, plain.SetIn("ab א", 16, nil).Glyphs, 4, "without another it has a box")
}
