package main

import (
	"fmt"
	"io"
	"io/fs"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// as runs a program as another user of the machine.
func as(t *testing.T, user uint32, name string, args ...string) (string, error) {
	t.Helper()
	c := exec.CommandContext(t.Context(), name, args...)
	c.SysProcAttr = &syscall.SysProcAttr{Credential: &syscall.Credential{Uid: user, Gid: user}}
	c.Dir = "/"
	out, err := c.CombinedOutput()
	return string(out), err
}

// TestOtherUsersOfTheMachine reads and changes things as a real second user, through the
// port, the socket and the files: nothing of a desk is read, and nothing is changed. The
// owner opens the printed address, once.
func TestOtherUsersOfTheMachine(t *testing.T) {
	if os.Getuid() != 0 {
		t.Skip("being somebody else needs an administrator")
	}
	const nobody = 65534
	home := t.TempDir()
	require.NoError(t, os.MkdirAll(filepath.Join(home, ".config/gtk-3.0"), 0o700))
	require.NoError(t, os.WriteFile(filepath.Join(home, ".config/gtk-3.0/settings.ini"), []byte("[Settings]\ngtk-icon-theme-name=Secretary\n"), 0o600))
	t.Setenv("HOME", home)
	t.Setenv("XDG_DATA_HOME", "")
	dir := filepath.Join(t.TempDir(), "data")
	require.NoError(t, os.Chmod(filepath.Dir(filepath.Dir(dir)), 0o755))
	require.NoError(t, os.Chmod(filepath.Dir(dir), 0o755))
	c, url := start(t, "serve", "--addr", "127.0.0.1:0", "--dir", dir)
	page := func() string {
		res, err := http.Get(url + "/d/own/why/gtk3/icons")
		require.NoError(t, err)
		defer res.Body.Close()
		b, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		return string(b)
	}
	require.Contains(t, page(), "Secretary", "the owner")

	ask := func(args ...string) string {
		out, err := as(t, nobody, "curl", append([]string{"-s", "-i", "-m", "20"}, args...)...)
		require.NoError(t, err, out)
		require.NotContains(t, out, "Secretary", args)
		return out
	}
	for _, path := range []string{"/", "/d/own/match", "/d/own/why/gtk3/icons", "/d/own/source?file=/home/x/.config/gtk-3.0/settings.ini", "/d/own/picture.svg", "/jobs/x", "/d/own/why/gtk3/icons?key=", "/d/own/why/gtk3/icons?key=" + strings.Repeat("A", 26)} {
		require.Contains(t, ask(url+path), "401 Unauthorized", path)
	}
	require.Contains(t, ask("-b", "ivelt="+strings.Repeat("A", 26), url+"/d/own/match"), "401")
	require.Contains(t, ask("-X", "POST", "-d", "facet=icons&piece=hicolor", url+"/d/own/draft"), "401")
	require.Contains(t, ask("-X", "POST", "-F", "parcel=@/etc/hostname", url+"/d/own/bring"), "401")
	require.Contains(t, ask(url+"/static/css/tokens.css"), "200 OK", "the program's own styles are everybody's")
	require.NotContains(t, page(), "hicolor on This computer")
	for _, file := range []string{"secret", "address", "ivelt.db", "history", ""} {
		_, err := as(t, nobody, "cat", filepath.Join(dir, file))
		require.Error(t, err, file)
		_, err = as(t, nobody, "ls", filepath.Join(dir, file))
		require.Error(t, err, file)
	}
	fi, err := os.Stat(dir)
	require.NoError(t, err)
	require.Equal(t, fs.FileMode(0o700), fi.Mode().Perm())
	for _, file := range []string{"secret", "address"} {
		fi, err := os.Stat(filepath.Join(dir, file))
		require.NoError(t, err)
		require.Equal(t, fs.FileMode(0o600), fi.Mode().Perm())
	}

	opened, err := command(t, "open", "--dir", dir).Output()
	require.NoError(t, err)
	require.Contains(t, string(opened), url+"/?key=")
	jar := http.DefaultClient.Jar
	require.NoError(t, c.Process.Signal(os.Interrupt))
	require.NoError(t, c.Wait())
	gone := command(t, "open", "--dir", dir)
	require.Error(t, gone.Run())
	require.Equal(t, 1, gone.ProcessState.ExitCode())

	// After a restart the browser is still known.
	_, again := start(t, "serve", "--addr", strings.TrimPrefix(url, "http://"), "--dir", dir)
	require.Equal(t, url, again)
	http.DefaultClient.Jar = jar
	require.Contains(t, page(), "Secretary")
}

// TestTheSocketIsItsOwners: whoever else connects is hung up on, even if the socket's
// own mode would let them.
func TestTheSocketIsItsOwners(t *testing.T) {
	if os.Getuid() != 0 {
		t.Skip("being somebody else needs an administrator")
	}
	dir := t.TempDir()
	for at := dir; at != "/tmp" && at != "/"; at = filepath.Dir(at) {
		require.NoError(t, os.Chmod(at, 0o755))
	}
	t.Setenv("HOME", t.TempDir())
	socket := filepath.Join(dir, "s")
	c := command(t, "serve", "--socket", socket, "--dir", filepath.Join(dir, "data"))
	require.NoError(t, c.Start())
	t.Cleanup(func() { _ = c.Process.Kill() })
	require.Eventually(t, func() bool {
		conn, err := net.Dial("unix", socket)
		if err == nil {
			conn.Close()
		}
		return err == nil
	}, 20*time.Second, 20*time.Millisecond)
	fi, err := os.Stat(socket)
	require.NoError(t, err)
	require.Equal(t, fs.FileMode(0o600), fi.Mode().Perm())
	out, err := exec.Command("curl", "-s", "-i", "--unix-socket", socket, "http://localhost/d/own/find").CombinedOutput()
	require.NoError(t, err)
	require.Contains(t, string(out), "200 OK")
	require.NoError(t, os.Chmod(socket, 0o666))
	said, err := as(t, 65534, "curl", "-s", "-i", "-m", "20", "--unix-socket", socket, "http://localhost/d/own/find")
	require.Error(t, err)
	require.NotContains(t, said, "HTTP/1.1 200")
	require.NoError(t, c.Process.Signal(os.Interrupt))
	require.NoError(t, c.Wait())
}

// TestBeyondThisComputer: an address that others reach is only listened on with the names
// it answers to, and it answers to no other.
func TestBeyondThisComputer(t *testing.T) {
	t.Setenv("HOME", t.TempDir())
	c := command(t, "serve", "--addr", "0.0.0.0:0", "--dir", filepath.Join(t.TempDir(), "d"))
	out, err := c.CombinedOutput()
	require.Error(t, err)
	require.Equal(t, 2, c.ProcessState.ExitCode())
	require.Contains(t, string(out), "--name")
	_, url := start(t, "serve", "--addr", "0.0.0.0:0", "--name", "localhost", "--dir", filepath.Join(t.TempDir(), "d"))
	require.Contains(t, url, "http://localhost:", "an address that one can open")
	req, err := http.NewRequest(http.MethodGet, url+"/d/own/find", nil)
	require.NoError(t, err)
	req.Host = "elsewhere.example"
	res, err := http.DefaultClient.Do(req)
	require.NoError(t, err)
	res.Body.Close()
	require.Equal(t, http.StatusMisdirectedRequest, res.StatusCode, fmt.Sprint(res.Header))
}
