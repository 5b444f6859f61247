// Package truth holds Ivelt against programs it did not write: GTK itself and
// the usual tools. All of them come from Debian's packages; `make deps`
// installs them. A missing one is a failure, not a skip: an unchecked reading
// is worth nothing.
package truth

import (
	"bytes"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// tool returns a command of a Debian package.
func tool(t testing.TB, name, debian string, args ...string) *exec.Cmd {
	t.Helper()
	path, err := exec.LookPath(name)
	require.NoError(t, err, "%s is missing: make deps installs it (Debian package %s)", name, debian)
	return exec.CommandContext(t.Context(), path, args...)
}

func output(t testing.TB, c *exec.Cmd) string {
	t.Helper()
	var out, complaints bytes.Buffer
	c.Stdout, c.Stderr = &out, &complaints
	require.NoError(t, c.Run(), "%s\n%s", c, complaints.String())
	return out.String()
}

func lines(s string) []string {
	if s = strings.TrimSuffix(s, "\n"); s == "" {
		return nil
	}
	return strings.Split(s, "\n")
}

// built holds a lock for each program that several tests use: it is built once.
var built sync.Map

// once returns where a program lies, built by the first who asks.
func once(t testing.TB, name, how string, build func(to string)) string {
	t.Helper()
	lock, _ := built.LoadOrStore(how, new(sync.Mutex))
	lock.(*sync.Mutex).Lock()
	defer lock.(*sync.Mutex).Unlock()
	to := filepath.Join(scratch, "built", strings.ReplaceAll(how, "/", "-"), name)
	if _, err := os.Stat(to); err != nil {
		require.NoError(t, os.MkdirAll(filepath.Dir(to), 0o755))
		build(to)
	}
	return to
}

// ivelt is the whole program.
func ivelt(t testing.TB) string {
	t.Helper()
	return once(t, "ivelt", "ivelt/cmd/ivelt", func(to string) {
		output(t, tool(t, "go", "golang", "build", "-o", to, "ivelt/cmd/ivelt"))
	})
}

// build compiles reference/name.c against libraries.
func build(t *testing.T, name, library, debian string) string {
	t.Helper()
	return once(t, name, name+" "+library, func(to string) {
		flags := strings.Fields(output(t, tool(t, "pkg-config", "pkg-config, "+debian, append([]string{"--cflags", "--libs"}, strings.Fields(library)...)...)))
		args := append([]string{"-O1", "-rdynamic", "-Wno-deprecated-declarations", "-o", to, filepath.Join("reference", name+".c"), "-lm"}, flags...)
		output(t, tool(t, "cc", "gcc", args...))
	})
}

// display starts a display without a screen and returns its name.
func display(t *testing.T) string { return displayOf(t, "640x480") }

// displayOf is one of a size.
func displayOf(t *testing.T, size string) string {
	t.Helper()
	r, w, err := os.Pipe()
	require.NoError(t, err)
	defer r.Close()
	c := tool(t, "Xvfb", "xvfb", "-displayfd", "3", "-screen", "0", size+"x24", "-nolisten", "tcp", "-noreset")
	c.ExtraFiles = []*os.File{w}
	require.NoError(t, c.Start())
	w.Close()
	t.Cleanup(func() { _ = c.Process.Kill(); _ = c.Wait() })
	require.NoError(t, r.SetReadDeadline(time.Now().Add(20*time.Second)))
	var n int
	_, err = fmt.Fscan(r, &n)
	require.NoError(t, err, "Xvfb did not come up")
	return fmt.Sprintf(":%d", n)
}
