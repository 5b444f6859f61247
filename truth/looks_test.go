package truth

import (
	"regexp"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/archive"
	"ivelt/core/market"
	"ivelt/core/parcel"
	"ivelt/core/taste"
)

// nameSays are words in makers' names of pieces, and what looks they promise: hues are
// those of OKLCH, in degrees.
var nameSays = []struct {
	word  *regexp.Regexp
	kinds []parcel.Kind
	keeps func(l market.Looks) bool
}{
	{regexp.MustCompile(`(?i)(black|dark)`), []parcel.Kind{parcel.Pointer, parcel.Theme}, func(l market.Looks) bool { return l.Lightness < 0.55 }},
	{regexp.MustCompile(`(?i)(white|light)`), []parcel.Kind{parcel.Pointer, parcel.Theme}, func(l market.Looks) bool { return l.Lightness > 0.6 }},
	{regexp.MustCompile(`(?i)-?red(glass)?$`), []parcel.Kind{parcel.Pointer}, hued(5, 50)},
	{regexp.MustCompile(`(?i)orange`), []parcel.Kind{parcel.Pointer}, hued(45, 95)},
	{regexp.MustCompile(`(?i)green`), []parcel.Kind{parcel.Pointer}, hued(110, 175)},
	{regexp.MustCompile(`(?i)blue`), []parcel.Kind{parcel.Pointer}, hued(195, 290)},
}

func hued(from, to float64) func(market.Looks) bool {
	return func(l market.Looks) bool { return l.Chroma > 0.03 && l.Hue >= from && l.Hue <= to }
}

// TestLooksAreWhatNamesSay: what is measured of real pieces, against the words that their
// makers call them by.
func TestLooksAreWhatNamesSay(t *testing.T) {
	t.Parallel()
	type count struct{ asked, kept int }
	counts := map[string]*count{"worked": {}, "held out": {}}
	for i, p := range realPacks(t) {
		if !*all && i%2 == 1 {
			continue
		}
		opened, err := parcel.Open(t.Context(), p.file, archive.Options{})
		require.NoError(t, err)
		for _, pc := range opened.Recognise(t.Context()).Pieces {
			for _, says := range nameSays {
				if !slices.Contains(says.kinds, pc.Kind) || !says.word.MatchString(pc.Folder) {
					continue
				}
				looks, ok := taste.Of(t.Context(), opened, pc)
				if !ok {
					continue
				}
				n := counts[p.part()]
				n.asked++
				if says.keeps(looks) {
					n.kept++
				} else if !p.held {
					t.Logf("%s %s: lightness %.2f, chroma %.2f, hue %.0f", pc.Kind, pc.Folder, looks.Lightness, looks.Chroma, looks.Hue)
				}
			}
		}
		require.NoError(t, opened.Close())
	}
	for _, part := range []string{"worked", "held out"} {
		n := counts[part]
		t.Logf("%-8s  %d of %d words in names fit what is measured", part, n.kept, n.asked)
		require.GreaterOrEqual(t, n.kept*10, n.asked*8, part)
	}
	require.Greater(t, counts["worked"].asked, 10)
}
