package parcel

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
func (p *Parcel) Files(ctx context.Context, root string, visit func(name string, fi fs.FileInfo, r io.Reader) error) error {
	within := func(name string) bool { return root == "." || strings.HasPrefix(name, root+"/") }
	ready, waiting := []*node{}, map[string]*node{}
	for n := range p.all() {
		switch {
		case !n.mode.IsRegular() || !within(n.name):
		case n.held || n.body != nil:
			ready = append(ready, n)
		default:
			waiting[n.name] = n
		}
	}
	slices.SortFunc(ready, func(a, b *node) int { return strings.Compare(a.name, b.name) })
	for _, n := range ready {
		if err := ctx.Err(); err != nil {
			return err
		}
		if err := p.visit(n, visit); err != nil {
			return err
		}
	}
	if len(waiting) == 0 {
		return nil
	}
	var inner error
	err := p.walk(ctx, func(m Member) error {
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

func (p *Parcel) visit(n *node, visit func(name string, fi fs.FileInfo, r io.Reader) error) error {
	fi := info{n, path.Base(n.name)}
	if n.held {
		return visit(n.name, fi, bytes.NewReader(n.data))
	}
	r, err := n.body.Open()
	if err != nil {
		return err
	}
	defer r.Close()
	return visit(n.name, fi, exactly(r, n.size))
}

// contents reads one file that is not held in memory.
func (p *Parcel) contents(n *node) ([]byte, error) {
	if err := p.context().Err(); err != nil {
		return nil, err
	}
	if n.size > maxAtOnce {
		return nil, fmt.Errorf("%w: %s has %d bytes, and no more than %d are read at once", ErrTooLarge, n.name, n.size, maxAtOnce)
	}
	if n.body != nil {
		return Member{Body: n.body, Size: n.size}.read(p.options.Limits.EntryBytes)
	}
	return p.read(n.name)
}

// Until is the parcel of which nothing more is read once ctx has ended, also in the middle of
// a file that is far back in the archive.
func (p *Parcel) Until(ctx context.Context) fs.FS {
	look := *p
	look.until = ctx
	return &look
}

// context is that of whoever looks for pieces, or into one.
func (p *Parcel) context() context.Context {
	if p.until == nil {
		return context.Background()
	}
	return p.until
}

// read goes through the archive for one file.
func (p *Parcel) read(name string) (data []byte, err error) {
	found := false
	err = p.walk(p.context(), func(m Member) error {
		if clean, err := safeName(m.Name); err != nil || clean != name {
			return err
		}
		found = true
		if data, err = m.read(p.options.Limits.EntryBytes); err != nil {
			return err
		}
		return errStop
	})
	if err == nil && !found {
		err = fs.ErrNotExist
	}
	return data, err
}
