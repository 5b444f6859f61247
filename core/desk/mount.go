package desk

import (
	"io/fs"
	"strings"
)

// Mounted is a tree with another one laid in below the folder At, so that a
// lookup can be tried as if a parcel were already in place.
type Mounted struct {
	fs.FS
	At    string // a name without slash
	Inner fs.FS
}

func (m Mounted) pick(name string) (fs.FS, string) {
	if name == m.At {
		return m.Inner, "."
	}
	if rest, ok := strings.CutPrefix(name, m.At+"/"); ok {
		return m.Inner, rest
	}
	return m.FS, name
}

// Open opens a file of either tree.
func (m Mounted) Open(name string) (fs.File, error) {
	f, n := m.pick(name)
	return f.Open(n)
}

// ReadDir lists a folder of either tree.
func (m Mounted) ReadDir(name string) ([]fs.DirEntry, error) {
	f, n := m.pick(name)
	return fs.ReadDir(f, n)
}

// ReadFile reads a file of either tree.
func (m Mounted) ReadFile(name string) ([]byte, error) {
	f, n := m.pick(name)
	return fs.ReadFile(f, n)
}

// Stat describes what name leads to in either tree.
func (m Mounted) Stat(name string) (fs.FileInfo, error) {
	f, n := m.pick(name)
	return fs.Stat(f, n)
}
