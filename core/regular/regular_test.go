package regular_test

import (
	"io/fs"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"ivelt/core/regular"
)

// TestOnlyFilesAreRead: nothing waits for whoever writes into a pipe, nothing is asked
// of a device, and no more is read than is stated.
func TestOnlyFilesAreRead(t *testing.T) {
	dir := t.TempDir()
	at := func(name string) string { return filepath.Join(dir, name) }
	require.NoError(t, os.WriteFile(at("file"), []byte("twelve bytes"), 0o600))
	require.NoError(t, os.Symlink("file", at("link")))
	require.NoError(t, unix.Mkfifo(at("pipe"), 0o600))
	require.NoError(t, os.Symlink("/dev/zero", at("zero")))
	require.NoError(t, os.Symlink("pipe", at("to pipe")))
	fd, err := unix.Socket(unix.AF_UNIX, unix.SOCK_STREAM, 0)
	require.NoError(t, err)
	defer unix.Close(fd)
	t.Chdir(dir)
	require.NoError(t, unix.Bind(fd, &unix.SockaddrUnix{Name: "socket"}))
	f, err := os.Create(at("huge"))
	require.NoError(t, err)
	require.NoError(t, f.Truncate(1<<40))
	require.NoError(t, f.Close())

	done := make(chan struct{})
	go func() {
		defer close(done)
		for _, name := range []string{"pipe", "to pipe", "zero", "socket"} {
			_, err := regular.Read(at(name), 100)
			require.ErrorIs(t, err, regular.ErrKind, name)
			_, err = regular.Open(at(name))
			require.ErrorIs(t, err, regular.ErrKind, name)
		}
		_, err := regular.Read(at("huge"), 100)
		require.ErrorIs(t, err, regular.ErrSize)
	}()
	select {
	case <-done:
	case <-time.After(20 * time.Second):
		t.Fatal("it waits")
	}
	for _, name := range []string{"file", "link"} {
		b, err := regular.Read(at(name), 12)
		require.NoError(t, err)
		require.Equal(t, "twelve bytes", string(b))
		_, err = regular.Read(at(name), 11)
		require.ErrorIs(t, err, regular.ErrSize)
	}
	_, err = regular.Read(at("none"), 1)
	require.ErrorIs(t, err, fs.ErrNotExist)
	_, err = regular.Read(dir, 1)
	require.ErrorIs(t, err, unix.EISDIR)
	b, err := regular.Read("/proc/self/status", 1<<20) // which says that it has no bytes
	require.NoError(t, err)
	require.NotEmpty(t, b)
}
