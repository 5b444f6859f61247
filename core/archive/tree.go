package archive

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"iter"
	"path"
	"slices"
	"strings"
	"time"
)

// Node is one file, folder or link of the tree.
type Node struct {
	Name     string // from the top, cleaned
	Mode     fs.FileMode
	Size     int64
	modTime  time.Time
	Link     string
	data     []byte
	Held     bool // data is the contents
	Hard     bool // the link is a hard link
	Body     Opener
	order    int32 // in which it came; of two with one name the later holds
	Children []*Node
}

var (
	_ fs.ReadDirFS  = (*Tree)(nil)
	_ fs.StatFS     = (*Tree)(nil)
	_ fs.ReadLinkFS = (*Tree)(nil)
)

var (
	ErrOut    = errors.New("the link leads out of the parcel")
	errCircle = errors.New("the link leads in a circle")
)

// Open opens the file or folder that name leads to, links followed.
func (t *Tree) Open(name string) (fs.File, error) {
	if err := t.until.Err(); err != nil {
		return nil, &fs.PathError{Op: "open", Path: name, Err: err}
	}
	n, err := t.Follow("open", name)
	if err != nil {
		return nil, err
	}
	if n.Mode.IsDir() {
		return &openFolder{info: info{n, path.Base(name)}, list: n.list()}, nil
	}
	data := n.data
	if !n.Held {
		if data, err = t.contents(n); err != nil {
			return nil, &fs.PathError{Op: "open", Path: name, Err: err}
		}
	}
	return &openFile{info{n, path.Base(name)}, bytes.NewReader(data)}, nil
}

// ReadDir lists a folder, sorted.
func (t *Tree) ReadDir(name string) ([]fs.DirEntry, error) {
	n, err := t.Follow("readdir", name)
	if err != nil {
		return nil, err
	}
	if !n.Mode.IsDir() {
		return nil, &fs.PathError{Op: "readdir", Path: name, Err: errors.New("not a folder")}
	}
	return n.list(), nil
}

// Stat describes what name leads to.
func (t *Tree) Stat(name string) (fs.FileInfo, error) {
	n, err := t.Follow("stat", name)
	if err != nil {
		return nil, err
	}
	return info{n, path.Base(name)}, nil
}

// Lstat describes name itself. A hard link is shown as a link.
func (t *Tree) Lstat(name string) (fs.FileInfo, error) {
	n, err := t.lookup("lstat", name, false)
	if err != nil {
		return nil, err
	}
	return info{n, path.Base(name)}, nil
}

// ReadLink returns the target of a link as written in the archive; the target
// of a hard link starts with "/", the parcel's top.
func (t *Tree) ReadLink(name string) (string, error) {
	n, err := t.lookup("readlink", name, false)
	if err != nil {
		return "", err
	}
	if n.Mode&fs.ModeSymlink == 0 {
		return "", &fs.PathError{Op: "readlink", Path: name, Err: fs.ErrInvalid}
	}
	return n.Link, nil
}

// Follow returns the node that a name leads to, links followed.
func (t *Tree) Follow(op, name string) (*Node, error) { return t.lookup(op, name, true) }

// maxLinkSteps bounds how many folders are gone through along links in one look for pieces.
const maxLinkSteps = 3_000_000

// lookup finds the node of name. A link among the parents is always followed,
// one at the end if last is set. Links are resolved inside the parcel.
func (t *Tree) lookup(op, name string, last bool) (*Node, error) {
	if !fs.ValidPath(name) {
		return nil, &fs.PathError{Op: op, Path: name, Err: fs.ErrInvalid}
	}
	fail := func(err error) (*Node, error) { return nil, &fs.PathError{Op: op, Path: name, Err: err} }
	if n := t.At(name); n != nil && (!last || n.Mode&fs.ModeSymlink == 0) {
		return n, nil
	}
	ahead, at := strings.Split(name, "/"), "."
	for links := 0; len(ahead) > 0; {
		if t.steps != nil {
			if *t.steps++; *t.steps%1024 == 0 && t.until.Err() != nil {
				*t.steps = maxLinkSteps
			}
			if *t.steps >= maxLinkSteps {
				return fail(errCircle)
			}
		}
		part := ahead[0]
		ahead = ahead[1:]
		if part == "" || part == "." {
			continue
		}
		if part == ".." {
			if at == "." {
				return fail(ErrOut)
			}
			at = path.Dir(at)
			continue
		}
		next := path.Join(at, part)
		n := t.At(next)
		if n == nil {
			return fail(fs.ErrNotExist)
		}
		if n.Mode&fs.ModeSymlink == 0 || (len(ahead) == 0 && !last) {
			at = next
			continue
		}
		if links++; links > 40 || len(n.Link) > maxName {
			return fail(errCircle)
		}
		if strings.HasPrefix(n.Link, "/") {
			at = "."
		}
		ahead = slices.Concat(strings.Split(n.Link, "/"), ahead)
	}
	return t.At(at), nil
}

// At returns the node of exactly that name, links not followed, or nil. The
// folders are sorted.
func (t *Tree) At(name string) *Node {
	if n := t.Folders[name]; n != nil {
		return n
	}
	up := t.Folders[path.Dir(name)]
	if up == nil {
		return nil
	}
	if i, ok := slices.BinarySearchFunc(up.Children, name, func(n *Node, name string) int { return strings.Compare(n.Name, name) }); ok {
		return up.Children[i]
	}
	return nil
}

// All goes through the tree below the top, folders before what they hold.
func (t *Tree) All() iter.Seq[*Node] {
	return func(yield func(*Node) bool) {
		var below func(*Node) bool
		below = func(n *Node) bool {
			for _, c := range n.Children {
				if !yield(c) || !below(c) {
					return false
				}
			}
			return true
		}
		below(t.Top)
	}
}

// sortFolders sorts every folder.
func (t *Tree) sortFolders() error {
	for _, n := range t.Folders {
		if err := n.sort(); err != nil {
			return err
		}
	}
	return nil
}

// sort brings the entries of a folder into order and drops those that came
// again later. A name that is both a folder and something else is refused.
func (n *Node) sort() error {
	// All that lies in one folder has the folder's name before its own.
	skip := len(n.Name) + 1
	if n.Name == "." {
		skip = 0
	}
	twice := false
	own := func(a, b *Node) int {
		order := strings.Compare(a.Name[skip:], b.Name[skip:])
		if order == 0 && a != b {
			twice = true
			return cmp.Compare(b.order, a.order)
		}
		return order
	}
	if len(n.Children) > 1 && !slices.IsSortedFunc(n.Children, own) {
		slices.SortFunc(n.Children, own)
	}
	if twice {
		for i, c := range n.Children[1:] {
			if before := n.Children[i]; before.Name == c.Name && before.Mode.IsDir() != c.Mode.IsDir() {
				return fmt.Errorf("%w: %q is both a folder and a file", ErrUnsafe, c.Name)
			}
		}
		n.Children = slices.CompactFunc(n.Children, func(a, b *Node) bool { return a.Name == b.Name })
	}
	return nil
}

// ByName orders nodes by their names.
func ByName(a, b *Node) int { return strings.Compare(a.Name, b.Name) }

func (n *Node) list() []fs.DirEntry {
	out := make([]fs.DirEntry, len(n.Children))
	for i, c := range n.Children {
		out[i] = fs.FileInfoToDirEntry(info{c, path.Base(c.Name)})
	}
	return out
}

type info struct {
	n    *Node
	name string
}

func (i info) Name() string { return i.name }

func (i info) Size() int64 { return i.n.Size }

func (i info) Mode() fs.FileMode { return i.n.Mode }

func (i info) ModTime() time.Time { return i.n.modTime }

func (i info) IsDir() bool { return i.n.Mode.IsDir() }

func (i info) Sys() any { return nil }

func (i info) Stat() (fs.FileInfo, error) { return i, nil }

func (i info) Close() error { return nil }

type openFile struct {
	info
	*bytes.Reader
}

func (f *openFile) Size() int64 { return f.info.Size() }

type openFolder struct {
	info
	list []fs.DirEntry
}

func (f *openFolder) Read([]byte) (int, error) {
	return 0, &fs.PathError{Op: "read", Path: f.name, Err: errors.New("is a folder")}
}

func (f *openFolder) ReadDir(n int) ([]fs.DirEntry, error) {
	if n <= 0 {
		list := f.list
		f.list = nil
		return list, nil
	}
	if len(f.list) == 0 {
		return nil, io.EOF
	}
	n = min(n, len(f.list))
	list := f.list[:n]
	f.list = f.list[n:]
	return list, nil
}
