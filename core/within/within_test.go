package within_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/within"
)

// heard notes whether a test was failed.
type heard struct {
	testing.TB
	failed int
}

func (h *heard) Helper()               {}
func (h *heard) Errorf(string, ...any) { h.failed++ }

var kept []byte

func TestWhatCostsTooMuchFails(t *testing.T) {
	h := &heard{TB: t}
	within.Reason(h, 10, func() {})
	require.Zero(t, h.failed)
	within.Reason(h, 10, func() { kept = make([]byte, within.Memory+1<<20) })
	require.Equal(t, 1, h.failed)
	const hardly = -int(within.Time/within.TimePerByte) + 100 // as long as 100 bytes may take
	within.Reason(h, hardly, func() {
		for n := 0; n < 1_000_000_000; n++ {
		}
	})
	require.Equal(t, 2, h.failed)
}
