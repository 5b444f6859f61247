package session_test

import (
	"os"
	"runtime"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/session"
)

// TestAProcessIsSlimWhileItWaits: less of its program is in memory, and it goes on.
func TestAProcessIsSlimWhileItWaits(t *testing.T) {
	inMemory := func() (kB int) {
		b, err := os.ReadFile("/proc/self/status")
		require.NoError(t, err)
		for line := range strings.Lines(string(b)) {
			if name, rest, _ := strings.Cut(line, ":"); name == "RssFile" || name == "RssShmem" { // of a program in memory
				n, err := strconv.Atoi(strings.Fields(rest)[0])
				require.NoError(t, err)
				kB += n
			}
		}
		return kB
	}
	before := inMemory()
	require.NoError(t, session.Slim())
	require.Less(t, inMemory(), before)
	var all sync.WaitGroup
	for range 50 { // by the C library, which what the linker wrote leads to
		all.Go(func() { runtime.LockOSThread(); time.Sleep(10 * time.Millisecond) })
	}
	all.Wait()
}
