package main

import (
	"archive/tar"
	"archive/zip"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// ends waits for a command that was told to end: three seconds is what is promised, and
// the machine may be at other work.
func ends(t *testing.T, wait func() error, what string) {
	t.Helper()
	done := make(chan error, 1)
	begun := time.Now()
	go func() { done <- wait() }()
	select {
	case <-done:
		t.Logf("%s: ended after %v", what, time.Since(begun).Round(time.Millisecond))
	case <-time.After(10 * time.Second):
		t.Fatalf("%s goes on", what)
	}
}

// TestItEndsWhateverRuns: a server with an upload of which nothing comes and a request
// that never ends, and a command in the middle of a large parcel.
func TestItEndsWhateverRuns(t *testing.T) {
	home := t.TempDir()
	t.Setenv("HOME", home)
	t.Setenv("XDG_DATA_HOME", "")
	c, url := start(t, "serve", "--addr", "127.0.0.1:0", "--dir", filepath.Join(t.TempDir(), "data"))
	from, to := io.Pipe()
	defer to.Close()
	req, err := http.NewRequestWithContext(t.Context(), http.MethodPost, url+"/d/own/bring", from)
	require.NoError(t, err)
	req.Header.Set("Content-Type", "multipart/form-data; boundary=x")
	go func() {
		if res, err := http.DefaultClient.Do(req); err == nil {
			res.Body.Close()
		}
	}()
	_, err = io.WriteString(to, "--x\r\nContent-Disposition: form-data; name=\"parcel\"; filename=\"slow.zip\"\r\n\r\nPK")
	require.NoError(t, err)
	half, err := net.Dial("tcp", strings.TrimPrefix(url, "http://"))
	require.NoError(t, err)
	defer half.Close()
	_, err = io.WriteString(half, "GET / HTTP/1.1\r\nHost: ")
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, status(t, url+"/d/own/find"))
	require.NoError(t, c.Process.Signal(syscall.SIGTERM))
	ends(t, c.Wait, "the server")

	file := filepath.Join(home, "many.zip")
	f, err := os.Create(file)
	require.NoError(t, err)
	z := zip.NewWriter(f)
	for n := range 10 {
		in, err := z.Create(fmt.Sprintf("%d.tar", n))
		require.NoError(t, err)
		w := tar.NewWriter(in)
		for i := range 19_000 {
			require.NoError(t, w.WriteHeader(&tar.Header{Name: fmt.Sprint(i), Typeflag: tar.TypeReg}))
		}
		require.NoError(t, w.Close())
	}
	require.NoError(t, z.Close())
	require.NoError(t, f.Close())
	for _, signal := range []os.Signal{os.Interrupt, syscall.SIGTERM} {
		c := command(t, "inspect", file)
		require.NoError(t, c.Start())
		time.Sleep(100 * time.Millisecond)
		require.NoError(t, c.Process.Signal(signal))
		ends(t, c.Wait, "inspect")
	}
}
