package gvdb_test

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/gvariant"
	"ivelt/core/gvdb"
	"ivelt/core/within"
)

// database is what dconf makes of a folder of key files, see dconf(1).
func database(t testing.TB, files map[string]string) []byte {
	from, out := t.TempDir(), filepath.Join(t.TempDir(), "db")
	for name, text := range files {
		at := filepath.Join(from, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, []byte(text), 0o644))
	}
	said, err := exec.CommandContext(t.Context(), "dconf", "compile", out, from).CombinedOutput()
	require.NoError(t, err, string(said))
	b, err := os.ReadFile(out)
	require.NoError(t, err)
	return b
}

// TestAnythingThatDconfWrites is read: many keys, in folders in folders, of several types.
func TestAnythingThatDconfWrites(t *testing.T) {
	var text strings.Builder
	want := map[string]string{}
	for i := range 300 {
		group := fmt.Sprintf("org/reef/%d/%s", i%7, strings.Repeat("deep/", i%5)+"look")
		value := []string{"'Salt'", "uint32 7", "true", "1.5", `"it's"`, "-3"}[i%6]
		fmt.Fprintf(&text, "[%s]\nkey%d=%s\n", group, i, value)
		want[fmt.Sprintf("/%s/key%d", group, i)] = value
	}
	db, err := gvdb.Open(database(t, map[string]string{"00": text.String(), "locks/00": "/org/reef/1/look/key1\n"}))
	require.NoError(t, err)
	got := map[string]string{}
	for _, key := range db.Keys() {
		v, ok := db.Value(key)
		require.True(t, ok, key)
		got[key] = gvariant.Text(v)
	}
	require.Equal(t, want, got)
	locks, ok := db.Table(".locks")
	require.True(t, ok)
	require.True(t, locks.Has("/org/reef/1/look/key1"))
	require.False(t, locks.Has("/org/reef/1/look/key2"))
	_, ok = db.Table("/org/reef")
	require.False(t, ok)
	_, ok = db.Value("/none")
	require.False(t, ok)
	require.Empty(t, new(gvdb.Table).Keys())
}

// TestWhatIsCutOffOrTurned is an error or reads as something, and ends.
func TestWhatIsCutOffOrTurned(t *testing.T) {
	b := database(t, map[string]string{"00": "[org/reef]\ntheme='Salt'\nsize=48\n[org/reef/deep/er]\non=true\n", "locks/00": "/org/reef/size\n"})
	use := func(b []byte) {
		within.Reason(t, len(b), func() {
			db, err := gvdb.Open(b)
			if err != nil {
				require.ErrorIs(t, err, gvdb.ErrTable)
				return
			}
			for _, key := range db.Keys() {
				_, _ = db.Value(key)
			}
			_, _ = db.Table(".locks")
		})
	}
	for n := range b {
		use(b[:n])
		for _, to := range []byte{0, 0xff, b[n] ^ 1, b[n] + 1} {
			turned := append([]byte(nil), b...)
			turned[n] = to
			use(turned)
		}
	}
}
