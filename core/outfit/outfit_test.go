package outfit_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/outfit"
)

func TestOutfitFiles(t *testing.T) {
	o := outfit.Outfit{Name: "Dusk"}.With(desk.FacetIcons, "Shingle")
	again, err := outfit.Parse(o.Bytes())
	require.NoError(t, err)
	require.Equal(t, o, again)
	all := o.With(desk.FacetFont, "Estuary Sans 10.5").With(desk.FacetDark, "automatic").With(desk.FacetPointerSize, "32")
	again, err = outfit.Parse(all.Bytes())
	require.NoError(t, err)
	require.Equal(t, all, again)
	require.Contains(t, string(all.Bytes()), "piece = 'Estuary Sans'\nsize = 10.5\n", "as a person would write it")
	require.Equal(t, "Estuary Sans 10.5", again.Want(desk.FacetFont))
	require.Empty(t, o.With(desk.FacetIcons, "").Choices)
	require.Equal(t, "Shingle", o.Want(desk.FacetIcons), "With leaves the outfit it starts from alone")
	for text, says := range map[string]string{
		"name = ":                                        "not an outfit file",
		"format = 7":                                     "format is 7",
		"format = 1\n[facet.hats]\npiece='x'":            "facet \"hats\" is not known",
		"format = 1\n[facet.icons]\n":                    "names nothing",
		"format = 1\n[facet.icons]\nvalue='x'":           "takes a piece",
		"format = 1\n[facet.dark]\nvalue='dim'":          "shade is one of light, dark, automatic",
		"format = 1\n[facet.pointer-size]\nvalue='900'":  "a number from 8 to 256",
		"format = 1\n[facet.accent]\nvalue='red;}'":      "#rrggbb",
		"format = 1\n[facet.font]\npiece='Estuary Sans'": "a size in points",
		"format = 1\n[facet.buttons]\nvalue='a b'":       "before a colon",
		"format = 1\n[facet.backdrop]\nvalue='x.png'":    "the full path",
	} {
		_, err := outfit.Parse([]byte(text))
		require.ErrorIs(t, err, outfit.ErrFormat)
		require.ErrorContains(t, err, says)
	}
}
