package typebench_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/text/language"
	"golang.org/x/text/language/display"

	"ivelt/core/fontconf"
	"ivelt/core/typebench"
)

// TestLanguagesAreCalledAsUnicodeCallsThem, all whose letters are known (CLDR's English names, as
// golang.org/x/text has them; of six that are not there the names of ISO 639, from memory).
func TestLanguagesAreCalledAsUnicodeCallsThem(t *testing.T) {
	names := display.English.Tags()
	others := []string{"ber-dz", "ber-ma", "hne", "kwm", "shs", "wen"}
	for _, name := range fontconf.Languages() {
		title := typebench.LanguageTitle(name)
		require.NotEqual(t, name, title)
		if tag, err := language.Parse(name); err == nil && !slices.Contains(others, name) {
			require.Equal(t, names.Name(tag), title)
		}
	}
	require.Equal(t, "no-such", typebench.LanguageTitle("no-such"))
}
