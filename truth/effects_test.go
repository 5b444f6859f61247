package truth

import (
	"encoding/json"
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/effect"
	"ivelt/web/browsertest"
)

// TestEasingsAreTheBrowsers: how far each has come after each hundredth of its time, as
// Chromium's animations say (Debian: chromium; Web Animations, the progress of an effect).
func TestEasingsAreTheBrowsers(t *testing.T) {
	t.Parallel()
	var names []string
	for _, e := range effect.Easings {
		names = append(names, e.Name)
	}
	asked, err := json.Marshal(names)
	require.NoError(t, err)
	theirs := browsertest.Value[map[string][]float64](browsertest.Start(t, "about:blank"), fmt.Sprintf(`Object.fromEntries(%s.map(easing => {
		const it = document.body.animate([{opacity: 0}, {opacity: 1}], {duration: 1000, easing, fill: "both"});
		it.pause();
		return [easing, Array.from({length: 101}, (_, i) => (it.currentTime = 10 * i, it.effect.getComputedTiming().progress))];
	}))`, asked))
	worst := 0.0
	for _, e := range effect.Easings {
		require.Len(t, theirs[e.Name], 101)
		for i, far := range theirs[e.Name] {
			off := e.At(float64(i)/100) - far
			worst = max(worst, off, -off)
		}
	}
	t.Logf("%d easings, at most %.1g apart", len(names), worst)
	require.Less(t, worst, 1e-4)
}
