package archive

import (
	"bytes"
	"io"
	"io/fs"
	"path"
)

// Made is a file or link that a tree shows and the archive does not have: it is made of others
// when it is read.
type Made struct {
	Name string // in the folder that it is shown in
	Link string // where it leads; "" for a file
	Size int64  // bytes, of a file
	Make func() ([]byte, error)
}

// Show lays a folder of files that are made into the tree, at a name that nothing has. It is
// done before anybody else has the tree.
func (t *Tree) Show(folder string, files []Made) error {
	for _, f := range files {
		if err := t.spend(); err != nil {
			return err
		}
		n := &Node{Name: path.Join(folder, f.Name), Mode: 0o644, Size: f.Size, Body: making{f.Make}}
		if f.Link != "" {
			n.Mode, n.Link, n.Size, n.Body = fs.ModeSymlink|0o777, f.Link, 0, nil
		}
		if err := t.insert(n); err != nil {
			return err
		}
	}
	t.last = nil
	return t.sortFolders()
}

type making struct{ make func() ([]byte, error) }

func (m making) Open() (io.ReadCloser, error) {
	b, err := m.make()
	return io.NopCloser(bytes.NewReader(b)), err
}
