package apptest

import (
	"os"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Resident is the memory the process holds (proc(5), VmRSS), in MB.
func Resident(b *testing.B) float64 {
	b.Helper()
	text, err := os.ReadFile("/proc/self/status")
	require.NoError(b, err)
	for line := range strings.Lines(string(text)) {
		if rest, ok := strings.CutPrefix(line, "VmRSS:"); ok {
			kb, err := strconv.Atoi(strings.Fields(rest)[0])
			require.NoError(b, err)
			return float64(kb) / 1000
		}
	}
	return 0
}
