package archive

import (
	"bytes"
	"io"
	"io/fs"
	"path"
	"sync"
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
		n := &Node{Name: path.Join(folder, f.Name), Mode: 0o644, Size: f.Size, Body: &making{make: f.Make, room: &t.budget.shown}}
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

// making is a file that is made when it is read, and kept if there is room.
type making struct {
	make func() ([]byte, error)
	room *room
	mu   sync.Mutex
	made []byte
}

// room is how many bytes of what was made may be kept.
type room struct {
	mu   sync.Mutex
	used int
}

// maxShown is the room that there is.
const maxShown = 12 << 20

func (r *room) take(n int) bool {
	r.mu.Lock()
	defer r.mu.Unlock()
	if n > maxShown-r.used {
		return false
	}
	r.used += n
	return true
}

func (m *making) Open() (io.ReadCloser, error) {
	b, err := m.bytes()
	return io.NopCloser(bytes.NewReader(b)), err
}

// bytes are the whole file, which is only read.
func (m *making) bytes() ([]byte, error) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.made != nil {
		return m.made, nil
	}
	b, err := m.make()
	if err == nil && m.room.take(len(b)) {
		m.made = b
	}
	return b, err
}
