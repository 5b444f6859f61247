package given

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/adrg/xdg"
	"github.com/stretchr/testify/require"
)

// TestTheOwnersWordIsKept in a file that may have been written by hand, or be a link.
func TestTheOwnersWordIsKept(t *testing.T) {
	t.Setenv("XDG_CONFIG_HOME", t.TempDir())
	xdg.Reload()
	t.Cleanup(xdg.Reload)
	may, err := MayWrite()
	require.NoError(t, err)
	require.False(t, may)
	require.NoError(t, KeepWriting(true))
	may, err = MayWrite()
	require.NoError(t, err)
	require.True(t, may)

	file := ConfigFile()
	real := filepath.Join(t.TempDir(), "mine.toml")
	require.NoError(t, os.WriteFile(real, []byte("# mine\nwrite = true # for now\nother = [1, 2]\n"), 0o640))
	require.NoError(t, os.Remove(file))
	require.NoError(t, os.Symlink(real, file))
	require.NoError(t, KeepWriting(false))
	b, err := os.ReadFile(real)
	require.NoError(t, err)
	require.Equal(t, "# mine\nwrite = false # for now\nother = [1, 2]\n", string(b))
	to, err := os.Readlink(file)
	require.NoError(t, err)
	require.Equal(t, real, to, "it stays linked")
	for _, wrong := range []string{"write = 3\n", "write = \"often\"\n", "write = \n", "\x00"} {
		require.NoError(t, os.WriteFile(real, []byte(wrong), 0o640))
		_, err := MayWrite()
		require.ErrorContains(t, err, file, wrong)
	}
}
