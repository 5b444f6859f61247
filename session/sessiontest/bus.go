// Package sessiontest has what a session of a test needs.
package sessiontest

import (
	"bufio"
	"os"
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Bus starts a message bus of its own in a session's environment, in which the services
// that it starts run too, and returns its address (Debian: dbus-daemon). It ends with the
// test, or before.
func Bus(t testing.TB, env []string) (address string, stop func()) {
	t.Helper()
	told, number, err := os.Pipe()
	require.NoError(t, err)
	defer told.Close()
	c := exec.CommandContext(t.Context(), "dbus-daemon", "--session", "--nofork", "--print-address=3", "--address=unix:dir="+t.TempDir())
	c.ExtraFiles, c.Env = []*os.File{number}, env
	require.NoError(t, c.Start())
	stop = func() { _ = c.Process.Kill(); _ = c.Wait() }
	t.Cleanup(stop)
	require.NoError(t, number.Close())
	line, err := bufio.NewReader(told).ReadString('\n')
	require.NoError(t, err)
	return strings.TrimSpace(line), stop
}
