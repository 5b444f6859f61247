package main

import (
	"bufio"
	"context"
	"io"
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/cmd/ivelt/internal/commands"
	"ivelt/core/apply"
)

// TestMain lets the test binary be the command itself.
func TestMain(m *testing.M) {
	if os.Getenv("IVELT_AS_COMMAND") != "" {
		diesAt, calls := os.Getenv("IVELT_DIES_AT"), 0
		p := commands.Build()
		p.Before = func(apply.Call) error {
			if calls++; strconv.Itoa(calls) == diesAt {
				_ = syscall.Kill(os.Getpid(), syscall.SIGKILL)
				select {}
			}
			return nil
		}
		begin(p)
	}
	os.Exit(m.Run())
}

func command(t *testing.T, args ...string) *exec.Cmd {
	c := exec.CommandContext(t.Context(), os.Args[0], args...)
	c.Env = append(os.Environ(), "IVELT_AS_COMMAND=1")
	return c
}

// start runs a serving command until it says where it is.
func start(t *testing.T, args ...string) (c *exec.Cmd, at string) {
	t.Helper()
	c = command(t, args...)
	out, err := c.StdoutPipe()
	require.NoError(t, err)
	c.Stderr = os.Stderr
	require.NoError(t, c.Start())
	t.Cleanup(func() { _ = c.Process.Kill() })
	address := regexp.MustCompile(`Open (http://\S+)`)
	for s := bufio.NewScanner(out); s.Scan(); {
		if m := address.FindStringSubmatch(s.Text()); m != nil {
			go func() { _, _ = io.Copy(io.Discard, out) }()
			return c, known(t, m[1])
		}
	}
	t.Fatal("it did not say where it is")
	return nil, ""
}

// known opens the printed address as a browser does, and returns it without its key.
func known(t *testing.T, address string) string {
	t.Helper()
	u, err := url.Parse(address)
	require.NoError(t, err)
	require.NotEmpty(t, u.Query().Get("key"))
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	http.DefaultClient.Jar = jar
	t.Cleanup(func() { http.DefaultClient.Jar = nil })
	require.Equal(t, http.StatusOK, status(t, address))
	return "http://" + u.Host
}

func status(t *testing.T, url string) int {
	t.Helper()
	res, err := http.Get(url)
	require.NoError(t, err)
	defer res.Body.Close()
	return res.StatusCode
}

func TestDemoStartsAndStopsCleanly(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "world")
	c, url := start(t, "demo", "--addr", "127.0.0.1:0", "--dir", dir)
	for _, page := range []string{"find", "shelf", "compose", "match", "history"} {
		require.Equal(t, http.StatusOK, status(t, url+"/d/avocet/"+page), page)
	}
	require.NoError(t, c.Process.Signal(os.Interrupt))
	require.NoError(t, c.Wait(), "Ctrl-C ends with exit 0")

	c, url = start(t, "demo", "--addr", "127.0.0.1:0", "--dir", dir)
	require.Equal(t, http.StatusOK, status(t, url+"/"))
	require.NoError(t, c.Process.Signal(syscall.SIGTERM))
	require.NoError(t, c.Wait())
}

func TestServeShowsThisComputerReadOnly(t *testing.T) {
	home := t.TempDir()
	require.NoError(t, os.MkdirAll(filepath.Join(home, ".config/gtk-3.0"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(home, ".config/gtk-3.0/settings.ini"), []byte("[Settings]\ngtk-icon-theme-name=hicolor\n"), 0o644))
	t.Setenv("HOME", home)
	t.Setenv("XDG_DATA_HOME", "")
	c, url := start(t, "serve", "--addr", "127.0.0.1:0", "--dir", filepath.Join(t.TempDir(), "data"))
	res, err := http.Get(url + "/d/own/why/gtk3/icons")
	require.NoError(t, err)
	page, err := io.ReadAll(res.Body)
	res.Body.Close()
	require.NoError(t, err)
	require.Contains(t, string(page), "~/.config/gtk-3.0/settings.ini:2")
	require.Contains(t, string(page), "read-only")
	require.Equal(t, http.StatusOK, status(t, url+"/d/own/find"))
	require.NoError(t, c.Process.Signal(os.Interrupt))
	require.NoError(t, c.Wait())
}

func TestPortInUse(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer l.Close()
	dir := filepath.Join(t.TempDir(), "world")
	c := command(t, "demo", "--addr", l.Addr().String(), "--dir", dir)
	out, err := c.CombinedOutput()
	require.Error(t, err)
	require.Equal(t, 2, c.ProcessState.ExitCode())
	require.Contains(t, string(out), "is in use")
	require.Contains(t, string(out), "--addr")
	require.NoDirExists(t, dir, "nothing is made before the port is ours")
}

func TestServeEndsWithItsContext(t *testing.T) {
	ctx, cancel := context.WithTimeout(t.Context(), 300*time.Millisecond)
	defer cancel()
	require.Equal(t, 0, run(ctx, commands.Build(), []string{"serve", "--addr", "127.0.0.1:0", "--dir", filepath.Join(t.TempDir(), "d")}))
}
