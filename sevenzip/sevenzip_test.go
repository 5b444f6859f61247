package sevenzip_test

import (
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"ivelt/core/archive"
	_ "ivelt/sevenzip"
)

// TestSevenZip reads what 7-Zip itself packs (Debian: 7zip), also with its names encrypted.
func TestSevenZip(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "Pack/48"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "Pack/48/leaf.png"), []byte("leaf"), 0o644))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "Pack/index.theme"), []byte("[Icon Theme]\n"), 0o644))
	pack := func(name string, flags ...string) string {
		c := exec.CommandContext(t.Context(), "7zz", append([]string{"a", "-bd", name, "Pack"}, flags...)...)
		c.Dir = dir
		out, err := c.CombinedOutput()
		require.NoError(t, err, string(out))
		return filepath.Join(dir, name)
	}
	for _, file := range []string{pack("a.7z"), pack("b.7z", "-ptide"), pack("c.7z", "-ptide", "-mhe=on")} {
		p, err := archive.Open(t.Context(), file, archive.Options{Password: "tide"})
		require.NoError(t, err, file)
		require.NoError(t, fstest.TestFS(p, "Pack/48/leaf.png", "Pack/index.theme"), file)
		text, err := fs.ReadFile(p, "Pack/48/leaf.png")
		require.NoError(t, err)
		require.Equal(t, "leaf", string(text))
	}
	for _, password := range []string{"", "ebb"} {
		p, err := archive.Open(t.Context(), filepath.Join(dir, "c.7z"), archive.Options{Password: password})
		require.ErrorIs(t, err, archive.ErrPassword, password)
		require.Nil(t, p)
	}
}
