package parcel

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

// node is one file, folder or link of the tree.
type node struct {
	name     string // from the top, cleaned
	mode     fs.FileMode
	size     int64
	modTime  time.Time
	link     string
	data     []byte
	held     bool // data is the contents
	hard     bool // the link is a hard link
	body     Opener
	order    int32 // in which it came; of two with one name the later holds
	children []*node
}

var (
	_ fs.ReadDirFS  = (*Tree)(nil)
	_ fs.StatFS     = (*Tree)(nil)
	_ fs.ReadLinkFS = (*Tree)(nil)
)

var (
	errOut    = errors.New("the link leads out of the parcel")
	errCircle = errors.New("the link leads in a circle")
)

// Open opens the file or folder that name leads to, links followed.
func (t *Tree) Open(name string) (fs.File, error) {
	if err := t.context().Err(); err != nil {
		return nil, &fs.PathError{Op: "open", Path: name, Err: err}
	}
	n, err := t.follow("open", name)
	if err != nil {
		return nil, err
	}
	if n.mode.IsDir() {
		return &openFolder{info: info{n, path.Base(name)}, list: n.list()}, nil
	}
	data := n.data
	if !n.held {
		if data, err = t.contents(n); err != nil {
			return nil, &fs.PathError{Op: "open", Path: name, Err: err}
		}
	}
	return &openFile{info{n, path.Base(name)}, bytes.NewReader(data)}, nil
}

// ReadDir lists a folder, sorted.
func (t *Tree) ReadDir(name string) ([]fs.DirEntry, error) {
	n, err := t.follow("readdir", name)
	if err != nil {
		return nil, err
	}
	if !n.mode.IsDir() {
		return nil, &fs.PathError{Op: "readdir", Path: name, Err: errors.New("not a folder")}
	}
	return n.list(), nil
}

// Stat describes what name leads to.
func (t *Tree) Stat(name string) (fs.FileInfo, error) {
	n, err := t.follow("stat", name)
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
	if n.mode&fs.ModeSymlink == 0 {
		return "", &fs.PathError{Op: "readlink", Path: name, Err: fs.ErrInvalid}
	}
	return n.link, nil
}

func (t *Tree) follow(op, name string) (*node, error) { return t.lookup(op, name, true) }

// maxLinkSteps bounds how many folders are gone through along links in one look for pieces.
const maxLinkSteps = 3_000_000

// lookup finds the node of name. A link among the parents is always followed,
// one at the end if last is set. Links are resolved inside the parcel.
func (t *Tree) lookup(op, name string, last bool) (*node, error) {
	if !fs.ValidPath(name) {
		return nil, &fs.PathError{Op: op, Path: name, Err: fs.ErrInvalid}
	}
	fail := func(err error) (*node, error) { return nil, &fs.PathError{Op: op, Path: name, Err: err} }
	if n := t.at(name); n != nil && (!last || n.mode&fs.ModeSymlink == 0) {
		return n, nil
	}
	ahead, at := strings.Split(name, "/"), "."
	for links := 0; len(ahead) > 0; {
		if t.steps != nil {
			if *t.steps++; *t.steps%1024 == 0 && t.context().Err() != nil {
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
				return fail(errOut)
			}
			at = path.Dir(at)
			continue
		}
		next := path.Join(at, part)
		n := t.at(next)
		if n == nil {
			return fail(fs.ErrNotExist)
		}
		if n.mode&fs.ModeSymlink == 0 || (len(ahead) == 0 && !last) {
			at = next
			continue
		}
		if links++; links > 40 || len(n.link) > maxName {
			return fail(errCircle)
		}
		if strings.HasPrefix(n.link, "/") {
			at = "."
		}
		ahead = slices.Concat(strings.Split(n.link, "/"), ahead)
	}
	return t.at(at), nil
}

// at returns the node of exactly that name, links not followed, or nil. The
// folders are sorted.
func (t *Tree) at(name string) *node {
	if n := t.folders[name]; n != nil {
		return n
	}
	up := t.folders[path.Dir(name)]
	if up == nil {
		return nil
	}
	if i, ok := slices.BinarySearchFunc(up.children, name, func(n *node, name string) int { return strings.Compare(n.name, name) }); ok {
		return up.children[i]
	}
	return nil
}

// all goes through the tree below the top, folders before what they hold.
func (t *Tree) all() iter.Seq[*node] {
	return func(yield func(*node) bool) {
		var below func(*node) bool
		below = func(n *node) bool {
			for _, c := range n.children {
				if !yield(c) || !below(c) {
					return false
				}
			}
			return true
		}
		below(t.top)
	}
}

// sortFolders sorts every folder.
func (t *Tree) sortFolders() error {
	for _, n := range t.folders {
		if err := n.sort(); err != nil {
			return err
		}
	}
	return nil
}

// sort brings the entries of a folder into order and drops those that came
// again later. A name that is both a folder and something else is refused.
func (n *node) sort() error {
	// All that lies in one folder has the folder's name before its own.
	skip := len(n.name) + 1
	if n.name == "." {
		skip = 0
	}
	twice := false
	own := func(a, b *node) int {
		order := strings.Compare(a.name[skip:], b.name[skip:])
		if order == 0 && a != b {
			twice = true
			return cmp.Compare(b.order, a.order)
		}
		return order
	}
	if len(n.children) > 1 && !slices.IsSortedFunc(n.children, own) {
		slices.SortFunc(n.children, own)
	}
	if twice {
		for i, c := range n.children[1:] {
			if before := n.children[i]; before.name == c.name && before.mode.IsDir() != c.mode.IsDir() {
				return fmt.Errorf("%w: %q is both a folder and a file", ErrUnsafe, c.name)
			}
		}
		n.children = slices.CompactFunc(n.children, func(a, b *node) bool { return a.name == b.name })
	}
	return nil
}

func byName(a, b *node) int { return strings.Compare(a.name, b.name) }

func (n *node) list() []fs.DirEntry {
	out := make([]fs.DirEntry, len(n.children))
	for i, c := range n.children {
		out[i] = fs.FileInfoToDirEntry(info{c, path.Base(c.name)})
	}
	return out
}

type info struct {
	n    *node
	name string
}

func (i info) Name() string               { return i.name }
func (i info) Size() int64                { return i.n.size }
func (i info) Mode() fs.FileMode          { return i.n.mode }
func (i info) ModTime() time.Time         { return i.n.modTime }
func (i info) IsDir() bool                { return i.n.mode.IsDir() }
func (i info) Sys() any                   { return nil }
func (i info) Stat() (fs.FileInfo, error) { return i, nil }
func (i info) Close() error               { return nil }

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
