package regular_test

import (
	"context"
	"io/fs"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"ivelt/core/regular"
)

// TestATreeEndsWithWhoWaits: whatever is asked of it answers as the tree does, and fails with
// the context's error once that has ended.
func TestATreeEndsWithWhoWaits(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	tree := regular.Until(ctx, fstest.MapFS{"a/b": {Data: []byte("text")}, "a/link": {Data: []byte("b"), Mode: fs.ModeSymlink}})
	ways := map[string]func() (any, error){
		"open": func() (any, error) { f, err := tree.Open("a/b"); return f != nil, err },
		"read": func() (any, error) { b, err := fs.ReadFile(tree, "a/b"); return string(b), err },
		"list": func() (any, error) { l, err := fs.ReadDir(tree, "a"); return len(l), err },
		"stat": func() (any, error) { i, err := fs.Stat(tree, "a/b"); return err == nil && i.Size() == 4, err },
		"lstat": func() (any, error) {
			i, err := fs.Lstat(tree, "a/link")
			return err == nil && i.Mode()&fs.ModeSymlink != 0, err
		},
		"follow": func() (any, error) { return fs.ReadLink(tree, "a/link") },
		"nothing": func() (any, error) {
			_, err := fs.ReadFile(tree, "gone")
			require.ErrorIs(t, err, fs.ErrNotExist)
			return nil, ctx.Err()
		},
	}
	wants := map[string]any{"open": true, "read": "text", "list": 2, "stat": true, "lstat": true, "follow": "b", "nothing": nil}
	for name, ask := range ways {
		got, err := ask()
		require.NoError(t, err, name)
		require.Equal(t, wants[name], got, name)
	}
	delete(ways, "nothing")
	cancel()
	for name, ask := range ways {
		_, err := ask()
		require.ErrorIs(t, err, context.Canceled, name)
	}
}
