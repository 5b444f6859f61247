package app_test

import (
	"encoding/json"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/app"
	"ivelt/core/desk"
)

// deskIn is a desk with a home of its own below a folder, which may be there
// already.
func deskIn(t *testing.T, dir, id string) *app.Desk {
	t.Helper()
	home, system := filepath.Join(dir, "home-"+id), filepath.Join(dir, "system")
	for _, sub := range []string{home, system} {
		require.NoError(t, os.MkdirAll(sub, 0o755))
	}
	d, err := desk.Open(id, home, system, "/home/me")
	require.NoError(t, err)
	d.Title, d.Writable = id, true
	d.Surfaces = slices.DeleteFunc(desk.Builtin(), func(s desk.Surface) bool { return s.ID == "qt" })
	return &app.Desk{Desk: d}
}

func jsonOf(t *testing.T, v any) []byte {
	t.Helper()
	b, err := json.Marshal(v)
	require.NoError(t, err)
	return b
}
