package archive

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"io/fs"
	"path"
	"slices"
	"strings"
)

// Files calls visit for each regular file below root, with its name from the
// top, reading the archive at most once. It is the way to read many.
func (t *Tree) Files(ctx context.Context, root string, visit func(name string, fi fs.FileInfo, r io.Reader) error) error {
	within := func(name string) bool { return root == "." || strings.HasPrefix(name, root+"/") }
	ready, waiting := []*Node{}, map[string]*Node{}
	for n := range t.All() {
		switch {
		case !n.Mode.IsRegular() || !within(n.Name):
		case n.Held || n.Body != nil:
			ready = append(ready, n)
		default:
			waiting[n.Name] = n
		}
	}
	slices.SortFunc(ready, func(a, b *Node) int { return strings.Compare(a.Name, b.Name) })
	for _, n := range ready {
		if err := ctx.Err(); err != nil {
			return err
		}
		if err := t.visit(n, visit); err != nil {
			return err
		}
	}
	if len(waiting) == 0 {
		return nil
	}
	var inner error
	err := t.walk(ctx, func(m Member) error {
		name, err := safeName(m.Name)
		if err != nil {
			return err
		}
		n := waiting[name]
		if n == nil || !m.Mode.IsRegular() || m.Hard != "" {
			return nil
		}
		r, err := m.Body.Open()
		if err != nil {
			return err
		}
		defer r.Close()
		if inner = visit(name, info{n, path.Base(name)}, exactly(r, m.Size)); inner != nil {
			return errStop
		}
		delete(waiting, name)
		if len(waiting) == 0 {
			return errStop
		}
		return nil
	})
	if inner != nil {
		return inner
	}
	return err
}

func (t *Tree) visit(n *Node, visit func(name string, fi fs.FileInfo, r io.Reader) error) error {
	fi := info{n, path.Base(n.Name)}
	if n.Held {
		return visit(n.Name, fi, bytes.NewReader(n.data))
	}
	r, err := n.Body.Open()
	if err != nil {
		return err
	}
	defer r.Close()
	return visit(n.Name, fi, exactly(r, n.Size))
}

// contents reads one file that is not held in memory.
func (t *Tree) contents(n *Node) ([]byte, error) {
	if err := t.until.Err(); err != nil {
		return nil, err
	}
	if n.Size > maxAtOnce {
		return nil, fmt.Errorf("%w: %s has %d bytes, and no more than %d are read at once", ErrTooLarge, n.Name, n.Size, maxAtOnce)
	}
	if m, ok := n.Body.(*making); ok {
		return m.bytes()
	}
	if n.Body != nil {
		return Member{Body: n.Body, Size: n.Size}.read(t.options.Limits.EntryBytes)
	}
	return t.read(n.Name)
}

// During is the tree for one look into it, which ends with ctx and goes only so far along
// links.
func (t *Tree) During(ctx context.Context) *Tree {
	look := *t
	look.until, look.steps = ctx, new(int)
	return &look
}

// Until is the tree of which nothing more is read once ctx has ended, also in the middle of
// a file that is far back in the archive.
func (t *Tree) Until(ctx context.Context) fs.FS {
	look := *t
	look.until = ctx
	return &look
}

// Err is why nothing more of the tree is read: what it is looked into for has ended.
func (t *Tree) Err() error { return t.until.Err() }

// read goes through the archive for one file.
func (t *Tree) read(name string) (data []byte, err error) {
	found := false
	err = t.walk(t.until, func(m Member) error {
		if clean, err := safeName(m.Name); err != nil || clean != name {
			return err
		}
		found = true
		if data, err = m.read(t.options.Limits.EntryBytes); err != nil {
			return err
		}
		return errStop
	})
	if err == nil && !found {
		err = fs.ErrNotExist
	}
	return data, err
}
