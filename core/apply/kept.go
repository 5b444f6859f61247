package apply

import (
	"archive/tar"
	"bytes"
	"context"
	"errors"
	"io"
	"io/fs"
	"path"
	"slices"
	"strings"

	"golang.org/x/sys/unix"

	"ivelt/core/plan"
	"ivelt/core/say"
)

// writeKept writes a tree that was kept into the folder dir of k, which must not
// exist, and returns the manifest of what was written. step is called for each file.
func writeKept(ctx context.Context, k disk, dir string, kept []byte, lose []plan.Loss, step func()) (plan.Manifest, error) {
	if err := k.mkdir(dir); err != nil {
		return nil, err
	}
	var m plan.Manifest
	var folders []*tar.Header // they get their modes once nothing more is written in them
	r := tar.NewReader(bytes.NewReader(kept))
	for {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		h, err := r.Next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, say.Errorf("what was kept: %w", err)
		}
		rel := path.Clean(h.Name)
		at := path.Join(dir, rel)
		switch h.Typeflag {
		case tar.TypeDir:
			folders = append(folders, h)
			m.Folder(rel)
			err = k.mkdir(at)
		case tar.TypeSymlink:
			m.Link(rel, h.Linkname)
			err = k.symlink(h.Linkname, at)
		case tar.TypeLink:
			if err = k.hardLink(path.Join(dir, path.Clean(h.Linkname)), at); err == nil {
				err = m.Again(path.Clean(h.Linkname), rel)
			}
		case tar.TypeFifo:
			m = append(m, "o "+rel)
			err = k.pipe(at, h)
		case tar.TypeReg:
			err = k.unpack(at, h, &m, rel, r, lose)
		default:
			err = say.Errorf("what was kept has %q of an unknown kind", h.Name)
		}
		if err != nil {
			return nil, err
		}
		step()
	}
	for _, h := range slices.Backward(folders) {
		f, err := k.root.Open(path.Join(dir, path.Clean(h.Name)))
		if err != nil {
			return nil, err
		}
		err = newFile{f, k, path.Join(dir, path.Clean(h.Name))}.as(h, lose)
		if err = errors.Join(err, f.Close()); err != nil {
			return nil, err
		}
	}
	return m, nil
}

func (k disk) unpack(at string, h *tar.Header, m *plan.Manifest, rel string, r io.Reader, lose []plan.Loss) error {
	f, err := k.create(at, 0o600)
	if err != nil {
		return err
	}
	defer f.Close()
	if err := m.File(rel, io.TeeReader(r, f)); err != nil {
		return err
	}
	if err := f.as(h, lose); err != nil {
		return err
	}
	if err := f.Close(); err != nil || h.ModTime.Unix() <= 0 {
		return err
	}
	return k.times(at, h.ModTime)
}

// as gives a file or folder the attributes and the mode that a header tells.
func (f newFile) as(h *tar.Header, lose []plan.Loss) error {
	a := plan.Attributes{UID: plan.Plain.UID, GID: plan.Plain.GID, Extended: map[string][]byte{}}
	if h.PAXRecords[plan.OwnedRecord] != "" {
		a.UID, a.GID = h.Uid, h.Gid
	}
	for name, value := range h.PAXRecords {
		if name, ok := strings.CutPrefix(name, plan.XattrRecord); ok {
			a.Extended[name] = []byte(value)
		}
	}
	if err := f.having(a, lose); err != nil {
		return err
	}
	return f.chmod(fs.FileMode(h.Mode).Perm())
}

func (k disk) hardLink(first, name string) error {
	if err := k.call("link", name, ""); err != nil {
		return err
	}
	return k.root.Link(first, name)
}

func (k disk) pipe(name string, h *tar.Header) error {
	if err := k.call("create", name, ""); err != nil {
		return err
	}
	dir, err := k.root.Open(path.Dir(name))
	if err != nil {
		return err
	}
	defer dir.Close()
	if err := unix.Mkfifoat(int(dir.Fd()), path.Base(name), uint32(h.Mode)); err != nil {
		return &fs.PathError{Op: "mkfifo", Path: name, Err: err}
	}
	return nil
}
