package truth

import (
	"archive/zip"
	"errors"
	"fmt"
	"io"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/archive"
	"ivelt/core/parcel"
	"ivelt/core/zipdir"
)

// TestZipsOfTheStandardLibrary reads the zips that archive/zip is itself tested
// with (GOROOT/src/archive/zip/testdata): made by many programs, some damaged.
// Where that package reads one, the entries, modes and contents are the same.
func TestZipsOfTheStandardLibrary(t *testing.T) {
	t.Parallel()
	root, err := exec.CommandContext(t.Context(), "go", "env", "GOROOT").Output()
	require.NoError(t, err)
	files, err := filepath.Glob(filepath.Join(strings.TrimSpace(string(root)), "src/archive/zip/testdata/*.zip"))
	require.NoError(t, err)
	require.Greater(t, len(files), 10)
	entries := 0
	for _, file := range files {
		z, err := zip.OpenReader(file)
		if err != nil && z == nil {
			_, ours := parcel.Open(t.Context(), file, archive.Options{})
			require.Error(t, ours, file)
			continue
		}
		defer z.Close()
		p, err := parcel.Open(t.Context(), file, archive.Options{})
		if err != nil {
			require.True(t, errors.Is(err, archive.ErrUnsafe) || errors.Is(err, archive.ErrNotArchive) || errors.Is(err, zipdir.ErrPassword), "%s: %v", file, err)
			continue // on purpose
		}
		var want []string
		for _, h := range z.File {
			want = append(want, h.Name)
			name := strings.TrimSuffix(h.Name, "/")
			fi, err := p.Lstat(name)
			require.NoError(t, err, "%s: %s", file, name)
			require.Equal(t, h.Mode().Type(), fi.Mode().Type(), "%s: %s", file, name)
			if !h.Mode().IsRegular() {
				continue
			}
			require.Equal(t, h.Mode().Perm(), fi.Mode().Perm(), "%s: %s", file, name)
			require.Equal(t, readable(h.Open()), readable(opened(p, name)), "%s: %s", file, name)
			entries++
		}
		require.Equal(t, want, p.Entries(), file)
	}
	t.Logf("%d zips, %d files in them compared", len(files), entries)
}

func opened(p *parcel.Parcel, name string) (io.ReadCloser, error) {
	f, err := p.Open(name)
	if err != nil {
		return nil, err
	}
	return f, nil
}

// readable is what a member holds, or that it cannot be read.
func readable(r io.ReadCloser, err error) string {
	if err == nil {
		defer r.Close()
		var b []byte
		if b, err = io.ReadAll(r); err == nil {
			return fmt.Sprintf("%d bytes %x", len(b), b[:min(len(b), 64)])
		}
	}
	return "unreadable"
}
