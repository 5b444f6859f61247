package session_test

import (
	"bufio"
	"os"
	"os/exec"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/session"
)

// What a display tells is compared with what toolkits make of it in package truth.
func TestWithoutADisplay(t *testing.T) {
	for _, display := range []string{"", ":99999", "nowhere:0.x"} {
		_, err := session.Ask(display)
		require.ErrorIs(t, err, session.ErrDisplay, display)
	}
	s := session.Of("")()
	require.Nil(t, s.XSettings)
	require.Nil(t, s.Resources)
	require.True(t, s.Started.Before(time.Now()))
	require.WithinDuration(t, time.Now(), s.Started, 400*24*time.Hour)
}

// xvfb starts a display of its own (Debian: xvfb).
func xvfb(t *testing.T) (display string, stop func()) {
	t.Helper()
	told, number, err := os.Pipe()
	require.NoError(t, err)
	defer told.Close()
	c := exec.CommandContext(t.Context(), "Xvfb", "-displayfd", "3", "-nolisten", "tcp", "-screen", "0", "320x200x24", "-noreset")
	c.ExtraFiles = []*os.File{number}
	require.NoError(t, c.Start())
	stop = func() { _ = c.Process.Kill(); _ = c.Wait() }
	t.Cleanup(stop)
	require.NoError(t, number.Close())
	line, err := bufio.NewReader(told).ReadString('\n')
	require.NoError(t, err)
	return ":" + strings.TrimSpace(line), stop
}

// TestADisplay of Xvfb's (Debian: x11-xserver-utils) tells the resources that xrdb loads.
func TestADisplay(t *testing.T) {
	display, stop := xvfb(t)
	s, err := session.Ask(display)
	require.NoError(t, err)
	require.Nil(t, s.XSettings, "nobody provides any")
	require.Empty(t, s.Resources)

	load := exec.CommandContext(t.Context(), "xrdb", "-display", display, "-nocpp", "-load", "-")
	load.Stdin = strings.NewReader("Xcursor.size: 48\n")
	out, err := load.CombinedOutput()
	require.NoError(t, err, string(out))
	s, err = session.Ask(display)
	require.NoError(t, err)
	require.Contains(t, string(s.Resources), "Xcursor.size:\t48")
	of := session.Of(display)
	require.Equal(t, s.Resources, of().Resources)
	load = exec.CommandContext(t.Context(), "xrdb", "-display", display, "-nocpp", "-load", "-")
	load.Stdin = strings.NewReader("Xcursor.size: 32\n")
	out, err = load.CombinedOutput()
	require.NoError(t, err, string(out))
	require.Contains(t, string(of().Resources), "Xcursor.size:\t32", "it is asked each time")
	stop()
	require.Nil(t, of().Resources)
}
