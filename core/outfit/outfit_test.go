package outfit_test

import (
	"encoding/json"
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/pelletier/go-toml/v2"
	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/shown"
	"ivelt/core/within"
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
		"format = 1\n[facet.icons]\npiece = 7":           "line 3",
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

// manuals is the example of docs/outfit.md, which was written by hand.
func manuals(t *testing.T) []byte {
	b, err := os.ReadFile("../../docs/outfit.md")
	require.NoError(t, err)
	return []byte(regexp.MustCompile("(?s)```toml\n(.*?)```").FindStringSubmatch(string(b))[1])
}

// TestTheManualsExample reads as it says, keeps what Ivelt does not know, and is
// written so that it reads the same again.
func TestTheManualsExample(t *testing.T) {
	o, err := outfit.Parse(manuals(t))
	require.NoError(t, err)
	require.Equal(t, "Dusk at the shore", o.Name)
	require.Equal(t, "For the evening watch.", o.About)
	require.Equal(t, []string{"accent", "backdrop", "dark", "font", "icons", "pointer-size", "widgets"}, o.Facets())
	require.Equal(t, "CC0-1.0", o.Choices["widgets"].Licence)
	require.Equal(t, "Wrack", o.WantOn("samphire", "icons"))
	require.Equal(t, "", o.WantOn("creel", "icons"))
	require.Equal(t, "Shingle", o.WantOn("gtk3", "icons"))
	require.Equal(t, []string{"watch"}, o.Unknown())
	again, err := outfit.Parse(o.Bytes())
	require.NoError(t, err)
	require.Equal(t, o, again)
	require.Contains(t, string(o.Bytes()), "keeper = 'Mara'")

	later := strings.Replace(string(manuals(t)), "[facet.dark]", "[facet.hats]\npiece = 'Bowler'\nbrim = 3\n\n[facet.dark]\nshine = true", 1)
	o, err = outfit.Parse([]byte(later))
	require.NoError(t, err)
	require.Equal(t, []string{"facet.dark.shine", "facet.hats", "watch"}, o.Unknown())
	changed, err := outfit.Parse(o.With("accent", "#112233").Bytes())
	require.NoError(t, err)
	require.Equal(t, o.Unknown(), changed.Unknown(), "they are kept when something else changes")
	require.Contains(t, string(changed.Bytes()), "brim = 3")
	require.Empty(t, o.With("widgets", "Saltpan").Choices["widgets"].Version, "what was known was of the other piece")
	require.Equal(t, "1.2", o.With("widgets", "Groyne").Choices["widgets"].Version)
}

// TestTheSchemaTakesWhatParseTakes, by a standard validator
// (santhosh-tekuri/jsonschema), and is the one that is published.
func TestTheSchemaTakesWhatParseTakes(t *testing.T) {
	published, err := os.ReadFile("../../docs/outfit.schema.json")
	require.NoError(t, err)
	require.Equal(t, string(outfit.Schema()), string(published), "go run ./cmd/ivelt outfit schema > docs/outfit.schema.json")
	doc, err := jsonschema.UnmarshalJSON(strings.NewReader(string(published)))
	require.NoError(t, err)
	c := jsonschema.NewCompiler()
	require.NoError(t, c.AddResource("outfit.json", doc))
	schema, err := c.Compile("outfit.json")
	require.NoError(t, err)
	takes := func(text string) bool {
		var all map[string]any
		require.NoError(t, toml.Unmarshal([]byte(text), &all))
		b, err := json.Marshal(all)
		require.NoError(t, err)
		doc, err := jsonschema.UnmarshalJSON(strings.NewReader(string(b)))
		require.NoError(t, err)
		return schema.Validate(doc) == nil
	}
	require.True(t, takes(string(manuals(t))))
	head := "format = 1\nname = 'x'\n"
	for _, text := range []string{
		head, head + "[facet.icons]\npiece = 'Shingle'\n", head + "[facet.icons]\nvalue = 'Shingle'\n", head + "[facet.dark]\nvalue = 'dim'\n", head + "[facet.dark]\nvalue = 'light'\n",
		head + "[facet.accent]\nvalue = 'teal'\n", head + "[facet.accent]\nvalue = '#abcdef'\n", head + "[facet.font]\npiece = 'A'\n", head + "[facet.font]\npiece = 'A'\nsize = 200.0\n", head + "[facet.font]\npiece = 'A'\nsize = 11.5\n",
		head + "[facet.backdrop]\nvalue = 'x.png'\n", head + "[facet.buttons]\nvalue = ':close'\n", head + "[facet.buttons]\nvalue = 'close'\n", "format = 2\nname = 'x'\n", head + "[facet.hats]\npiece = 'x'\n", head + "[facet.pane]\nvalue = 'hidden'\n",
	} {
		_, err := outfit.Parse([]byte(text))
		require.Equal(t, err == nil, takes(text), "%s: %v", text, err)
	}
}

func TestDifferencesInWords(t *testing.T) {
	a := outfit.Outfit{Name: "A"}.With("icons", "Shingle").With("dark", "light").With("accent", "#112233").Except("withy", "accent", "")
	b := outfit.Outfit{Name: "B"}.With("icons", "Wrack").With("accent", "#112233").With("pointer", "Tern").Except("tidestaff", "accent", "#ffffff")
	require.Equal(t, []string{
		"Shade: left open, here it is light.", "Accent: tidestaff is asked for #ffffff, withy goes with the others.", "Icons: Wrack instead of Shingle.", "Pointer: Tern, which is left open here.",
	}, a.Differences(b))
	require.Empty(t, a.Differences(a))
}

// FuzzParse: what is taken is written as it was read, and says nothing harmful.
func FuzzParse(f *testing.F) {
	f.Add(outfit.Outfit{Name: "Dusk"}.With(desk.FacetIcons, "Shingle").With(desk.FacetFont, "Estuary Sans 10.5").Bytes())
	f.Add([]byte("format = 1\nname = 'x'\n[facet.start]\nvalue = '/bin/sh'\nexcept = { creek = '/usr/bin/env y' }\n"))
	f.Add([]byte("format = 1\nname = \"\\u202e\\n\"\nkeeper = [[[[[[]]]]]]\n[facet.icons]\npiece = '../../x'\n"))
	f.Fuzz(func(t *testing.T, b []byte) {
		within.Reason(t, len(b), func() {
			o, err := outfit.Parse(b)
			if err != nil {
				require.ErrorIs(t, err, outfit.ErrFormat)
				return
			}
			require.Equal(t, shown.Line(o.Name), o.Name)
			again, err := outfit.Parse(o.Bytes())
			require.NoError(t, err, "%s", o.Bytes())
			require.Empty(t, o.Differences(again))
			require.Equal(t, o.Unknown(), again.Unknown())
		})
	})
}
