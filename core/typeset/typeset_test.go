package typeset_test

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/goregular"

	"ivelt/core/typeset"
)

// TestLinesAreSetAsHarfBuzzSetsThem: glyphs, their places and the width, in Debian's fonts,
// for words with kerning, ligatures, marks and other scripts, and for random ones. Where a
// font has the kerning of a letter in several subtables, HarfBuzz goes on to the next if the
// second letter is of no class in one; go-text 0.3.5 does not. Lato is such a font: lines of
// it that are set wider or narrower for that are counted, and are few.
func TestLinesAreSetAsHarfBuzzSetsThem(t *testing.T) {
	var fonts []string
	for _, like := range []string{"/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf", "/usr/share/fonts/truetype/liberation*/LiberationSerif-Regular.ttf", "/usr/share/fonts/truetype/lato/Lato-Regular.ttf"} {
		list, err := filepath.Glob(like)
		require.NoError(t, err)
		require.NotEmpty(t, list, like)
		fonts = append(fonts, list[0])
	}
	texts := []string{"AVATAR To. Wa", "office affluent ffi", "Straße à é ñ", "e\u0301a\u0308", "Σχεδία", "Корабль", "a", " ", "0123456789 — …"}
	r := rand.New(rand.NewPCG(3, 4))
	for n := range 30 { // each of one script: hb-shape takes all for one run
		letters := []rune([]string{"AVToWfijlmrty.,-'éßž", "ΑΩαβρτς.,", "АБжфгуя.,-"}[n%3])
		var b strings.Builder
		for range 1 + r.IntN(12) {
			b.WriteRune(letters[r.IntN(len(letters))])
		}
		texts = append(texts, b.String())
	}
	lines, apart := 0, 0
	for _, file := range fonts {
		b, err := os.ReadFile(file)
		require.NoError(t, err)
		face, err := typeset.Load(b, 0)
		require.NoError(t, err)
		for _, text := range texts {
			out, err := exec.CommandContext(t.Context(), "hb-shape", "--no-glyph-names", "--no-clusters", "--output-format=json", "--direction=ltr", "--language=en", "--font-file="+file, "--text="+text).Output()
			require.NoError(t, err)
			var want []struct{ G, Dx, Dy, Ax float64 }
			require.NoError(t, json.Unmarshal(out, &want))
			line := face.Set(text, face.Upem()) // in the font's own units
			require.Len(t, line.Glyphs, len(want), "%s %q", file, text)
			x, total := 0.0, 0.0
			for _, g := range want {
				total += g.Ax
			}
			lines++
			if strings.Contains(file, "lato") && math.Abs(line.Width-total) > 0.5 {
				apart++
				continue
			}
			for i, g := range want {
				ours := line.Glyphs[i]
				require.EqualValues(t, g.G, ours.ID, "%s %q", file, text)
				require.InDelta(t, x+g.Dx, ours.X, 0.5, "%s %q", file, text)
				require.InDelta(t, -g.Dy, ours.Y, 0.5, "%s %q", file, text)
				x += g.Ax
			}
			require.InDelta(t, x, line.Width, 0.5, "%s %q", file, text)
			require.InDelta(t, line.Width*12/face.Upem(), face.Set(text, 12).Width, 1e-6)
		}
	}
	t.Logf("%d of %d lines are kerned otherwise", apart, lines)
	require.LessOrEqual(t, apart, 6)
}

func TestFacesAndOutlines(t *testing.T) {
	face, err := typeset.Load(goregular.TTF, 0)
	require.NoError(t, err)
	line := face.Set("Ig ", 20)
	require.Len(t, line.Glyphs, 3)
	require.True(t, strings.HasPrefix(face.Outline(line.Glyphs[0].ID), "M"))
	require.Equal(t, face.Outline(line.Glyphs[1].ID), face.Outline(line.Glyphs[1].ID))
	require.Empty(t, face.Outline(line.Glyphs[2].ID), "a blank has none")
	ascent, descent := face.Heights(20)
	require.Greater(t, ascent, descent)
	require.InDelta(t, 20*1.18, ascent+descent, 1.5)

	snapped := line.Snap()
	for _, g := range snapped.Glyphs {
		require.Equal(t, float64(int(g.Wide)), g.Wide)
	}
	require.InDelta(t, line.Width, snapped.Width, 1.5)
	require.Zero(t, face.Set("", 20))
	apart := face.Set("Tide", 20).Width + face.Set("Вода, ", 20).Width + face.Set("AV", 20).Width
	require.InDelta(t, apart, face.Set("TideВода, AV", 20).Width, 1e-6, "each script by itself, a blank with what it follows")

	for what, b := range map[string][]byte{"none": nil, "words": []byte("this is no font"), "cut off": goregular.TTF[:200]} {
		_, err := typeset.Load(b, 0)
		require.ErrorIs(t, err, typeset.ErrFont, what)
	}
	_, err = typeset.Load(goregular.TTF, 1)
	require.ErrorIs(t, err, typeset.ErrFont)
}
