// Package demotest gives tests demo worlds of their own, of which only the first is drawn.
package demotest

import (
	"io/fs"
	"os"
	"path/filepath"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/demo"
)

var (
	mu   sync.Mutex
	made []entry // what the first world held, each folder before what is in it
)

// entry is a file, folder or link of a world.
type entry struct {
	name string
	mode fs.FileMode
	text []byte // of a link where it leads
}

// World makes a demo world in a folder that is not there yet.
func World(t testing.TB, dir string) *demo.World {
	t.Helper()
	mu.Lock()
	defer mu.Unlock()
	for _, e := range made {
		require.NoError(t, e.write(filepath.Join(dir, e.name)))
	}
	w, err := demo.Open(t.Context(), dir, false)
	require.NoError(t, err)
	if made == nil {
		made, err = entries(dir)
		require.NoError(t, err)
	}
	return w
}

func (e entry) write(at string) error {
	switch {
	case e.mode.IsDir():
		return os.MkdirAll(at, e.mode.Perm())
	case e.mode&fs.ModeSymlink != 0:
		return os.Symlink(string(e.text), at)
	}
	return os.WriteFile(at, e.text, e.mode.Perm())
}

func entries(dir string) (out []entry, err error) {
	err = filepath.WalkDir(dir, func(p string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		info, err := d.Info()
		if err != nil {
			return err
		}
		e := entry{mode: info.Mode()}
		if e.name, err = filepath.Rel(dir, p); err != nil {
			return err
		}
		switch {
		case e.mode&fs.ModeSymlink != 0:
			var to string
			to, err = os.Readlink(p)
			e.text = []byte(to)
		case e.mode.IsRegular():
			e.text, err = os.ReadFile(p)
		}
		out = append(out, e)
		return err
	})
	return out, err
}
