// Package demotest gives tests demo worlds of their own, of which only the first is drawn.
package demotest

import (
	"io/fs"
	"os"
	"path/filepath"
	"sync"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"ivelt/demo"
)

var (
	mu   sync.Mutex
	made fstest.MapFS // what the first world held
)

// World makes a demo world in a folder that is not there yet.
func World(t testing.TB, dir string) *demo.World {
	t.Helper()
	mu.Lock()
	defer mu.Unlock()
	if made != nil {
		require.NoError(t, os.CopyFS(dir, made))
	}
	w, err := demo.Open(t.Context(), dir, false)
	require.NoError(t, err)
	if made == nil {
		made = treeOf(t, dir)
	}
	return w
}

func treeOf(t testing.TB, dir string) fstest.MapFS {
	t.Helper()
	out := fstest.MapFS{}
	require.NoError(t, filepath.WalkDir(dir, func(p string, e fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		at, err := filepath.Rel(dir, p)
		if err != nil {
			return err
		}
		info, err := e.Info()
		if err != nil {
			return err
		}
		f := &fstest.MapFile{Mode: info.Mode()}
		switch {
		case e.Type()&fs.ModeSymlink != 0:
			to, err := os.Readlink(p)
			f.Data = []byte(to)
			out[filepath.ToSlash(at)] = f
			return err
		case e.Type().IsRegular():
			f.Data, err = os.ReadFile(p)
		}
		out[filepath.ToSlash(at)] = f
		return err
	}))
	return out
}
