package archive

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path"
	"slices"
	"strings"
)

// archiveEndings are what an archive inside an archive is called. Only these
// are opened: the contents of other members are left alone until asked for.
var archiveEndings = []string{".zip", ".7z", ".deb", ".tar", ".gz", ".tgz", ".xz", ".txz", ".bz2", ".tbz2", ".tbz", ".zst"}

// LooksLikeOne reports whether a file of that name is probably a parcel.
func LooksLikeOne(name string) bool {
	return slices.Contains(archiveEndings, strings.ToLower(path.Ext(name)))
}

// maxNested bounds the archives inside an archive together: they are held in memory.
const maxNested = 48 << 20

// bytes

// openNested lays the contents of the archives inside this one into its tree,
// each below its own name, as if it were a folder. One level is opened.
func (t *Tree) openNested(ctx context.Context) error {
	if t.inner {
		return nil
	}
	var found []*Node
	for n := range t.All() {
		if n.Mode.IsRegular() && n.Size > 0 && n.Size <= maxNested && LooksLikeOne(n.Name) {
			found = append(found, n)
		}
	}
	slices.SortFunc(found, ByName)
	for _, n := range found {
		if err := ctx.Err(); err != nil {
			return err
		}
		if n.Size > t.budget.nested {
			t.Problems = append(t.Problems, Problem{n.Name, fmt.Errorf("%w: with the others it would be more than %d MB", ErrTooLarge, maxNested>>20)})
			continue
		}
		t.budget.nested -= n.Size
		if err := t.layIn(ctx, n); err != nil {
			return err
		}
	}
	return nil
}

func (t *Tree) layIn(ctx context.Context, n *Node) error {
	data := n.data
	if !n.Held {
		var err error
		if data, err = t.contents(n); err != nil {
			return err
		}
	}
	o := t.options
	o.Progress = nil
	sub := newTree(ctx, n.Name, o)
	sub.inner, sub.budget = true, t.budget
	sub.holds(data)
	err := sub.openArchive()
	if err == nil {
		err = sub.readArchive(ctx)
	}
	switch {
	case errors.Is(err, ErrNotArchive):
		return nil // a file with a misleading name
	case errors.Is(err, ErrUnsafe), errors.Is(err, ErrTooLarge), ctx.Err() != nil:
		return err
	case err != nil:
		t.Problems = append(t.Problems, Problem{n.Name, err})
		return nil
	}
	t.nested = append(t.nested, n.Name)
	n.Mode, n.data, n.Held = fs.ModeDir|0o755, nil, false
	n.Children = sub.Top.Children
	t.Folders[n.Name] = n
	for inner := range sub.All() {
		if inner.Mode.IsRegular() && !inner.Held && inner.Body == nil {
			inner.Body = insideOf{sub, inner.Name}
		}
		inner.Name = path.Join(n.Name, inner.Name)
		if rest, ok := strings.CutPrefix(inner.Link, "/"); ok { // the top of the inner archive
			inner.Link = "/" + path.Join(n.Name, rest)
		}
		if inner.Mode.IsDir() {
			t.Folders[inner.Name] = inner
		}
	}
	return nil
}

// insideOf is a file of an archive inside an archive that can only be read by
// going through it.
type insideOf struct {
	tree *Tree
	name string
}

func (i insideOf) Open() (io.ReadCloser, error) {
	b, err := i.tree.read(i.name)
	return io.NopCloser(bytes.NewReader(b)), err
}
