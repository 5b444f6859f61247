package preview_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/language"
	"ivelt/core/preview"
	"ivelt/core/say"
	"ivelt/core/typeset"
)

// TestPicturesAreInThePersonsLetters, joined and from right to left, in a font of the desk that has
// them (Debian: fonts-dejavu-core); without one the words stay as they are, and no boxes are drawn.
func TestPicturesAreInThePersonsLetters(t *testing.T) {
	dejavu, err := os.ReadFile("/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf")
	require.NoError(t, err)
	face, err := typeset.Load(dejavu, 0)
	require.NoError(t, err)
	mirrored := language.Made()[1]
	said := say.Word("Suggested").In(mirrored)
	require.NotEqual(t, "Suggested", said)
	with, without := desk1(t), desk1(t)
	require.NoError(t, os.MkdirAll(filepath.Join(with.Home, ".fonts"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(with.Home, ".fonts/DejaVuSans.ttf"), dejavu, 0o644))
	draw := func(on *desk.Desk) string {
		look := preview.Worn(t.Context(), on)
		look.Language = mirrored
		return wellFormed(t, preview.Draw(on, look, "controls"))
	}
	has, hasNot := draw(with), draw(without)
	for _, g := range face.SetIn(said, 11, nil).Glyphs {
		require.Contains(t, has, face.Outline(g.ID))
	}
	english := preview.Draw(without, preview.Worn(t.Context(), without), "controls")
	require.Equal(t, string(english), hasNot, "nothing has the letters")
	longer := preview.Worn(t.Context(), without)
	longer.Language = language.Made()[0]
	require.NotEqual(t, string(english), string(preview.Draw(without, longer, "controls")), "a font that Ivelt carries has these")
}
