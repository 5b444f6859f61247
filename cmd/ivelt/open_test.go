package main

import (
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// TestOpenedFromTheMenu starts the pages if they are not up, on another port if something has the
// usual one, and shows them in the browser that the desktop has; the second time it starts nothing.
func TestOpenedFromTheMenu(t *testing.T) {
	dir := t.TempDir()
	for _, name := range []string{"data", "config"} {
		t.Setenv("XDG_"+strings.ToUpper(name)+"_HOME", filepath.Join(dir, name))
	}
	t.Setenv("HOME", dir)
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer l.Close()
	t.Setenv("IVELT_ADDR", l.Addr().String())
	bin := filepath.Join(dir, "bin")
	require.NoError(t, os.MkdirAll(bin, 0o755))
	opened := filepath.Join(dir, "opened")
	require.NoError(t, os.WriteFile(filepath.Join(bin, "xdg-open"), []byte("#!/bin/sh\necho \"$1\" >> "+opened+"\n"), 0o755))
	t.Setenv("PATH", bin+":"+os.Getenv("PATH"))
	t.Cleanup(func() {
		for exec.Command("pkill", "-f", os.Args[0]+" serve").Run() == nil { // until none is left
			time.Sleep(20 * time.Millisecond)
		}
	})
	for range 2 {
		out, err := command(t, "open", "--in-browser").CombinedOutput()
		require.NoError(t, err, string(out))
	}
	b, err := os.ReadFile(opened)
	require.NoError(t, err)
	lines := strings.Fields(string(b))
	require.Len(t, lines, 2)
	require.Equal(t, lines[0], lines[1])
	require.NotContains(t, lines[0], l.Addr().String())
	require.Equal(t, http.StatusOK, status(t, known(t, lines[0])+"/d/own/start"))

	require.NoError(t, os.Remove(filepath.Join(bin, "xdg-open")))
	t.Setenv("PATH", bin)
	out, err := command(t, "open", "--in-browser").CombinedOutput()
	require.Error(t, err)
	require.Contains(t, string(out), "Open "+lines[0][:20])
}
