package plan

import (
	"archive/tar"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"syscall"

	"golang.org/x/sys/unix"

	"ivelt/core/regular"
)

// A tree that no parcel can give back is kept as a tar: files with their modes, times,
// owners and extended attributes (as PAX records, under the names that star(1) and GNU
// tar give them), links, hard links inside of it, and pipes.

const xattrRecord = "SCHILY.xattr."

// tarOf packs a folder: the same tree gives the same bytes.
func tarOf(top string) ([]byte, error) {
	b, _, err := pack(top)
	return b, err
}

// pack packs a folder, and says what of it cannot be kept.
func pack(top string) ([]byte, []Loss, error) {
	var b bytes.Buffer
	var lost []Loss
	w := tar.NewWriter(&b)
	inodes := map[uint64]*inode{}
	err := filepath.WalkDir(top, func(file string, d fs.DirEntry, err error) error {
		if err != nil || file == top {
			return err
		}
		fi, err := d.Info()
		if err != nil {
			return err
		}
		rel := filepath.ToSlash(file[len(top)+1:])
		h, content, err := header(file, rel, fi)
		if err != nil {
			return err
		}
		if h == nil {
			lost = append(lost, Loss{"special", rel})
			return nil
		}
		if st, ok := fi.Sys().(*syscall.Stat_t); ok && fi.Mode().IsRegular() && st.Nlink > 1 {
			if first := inodes[st.Ino]; first != nil {
				first.met++
				return w.WriteHeader(&tar.Header{Name: rel, Linkname: first.name, Typeflag: tar.TypeLink, Format: tar.FormatPAX})
			}
			inodes[st.Ino] = &inode{name: rel, met: 1, names: uint64(st.Nlink)}
		}
		if err := w.WriteHeader(h); err != nil {
			return err
		}
		_, err = w.Write(content)
		return err
	})
	for _, in := range inodes {
		if in.met < in.names { // the others are outside of the folder
			lost = append(lost, Loss{"links", fmt.Sprint(in.names)})
		}
	}
	slices.SortFunc(lost, func(a, b Loss) int { return strings.Compare(a.Code+a.Of, b.Code+b.Of) })
	err = errors.Join(err, w.Close()) // before the bytes are taken: it writes the end
	return b.Bytes(), slices.Compact(lost), err
}

type inode struct {
	name       string
	met, names uint64
}

// header is that of a file, folder, link or pipe; nil for anything else.
func header(file, rel string, fi fs.FileInfo) (*tar.Header, []byte, error) {
	h := &tar.Header{Name: rel, Mode: int64(fi.Mode().Perm()), Format: tar.FormatPAX}
	var content []byte
	switch {
	case fi.IsDir():
		h.Typeflag, h.Name = tar.TypeDir, rel+"/"
	case fi.Mode()&fs.ModeSymlink != 0:
		to, err := os.Readlink(file)
		h.Typeflag, h.Linkname = tar.TypeSymlink, to
		return h, nil, err
	case fi.Mode()&fs.ModeNamedPipe != 0:
		h.Typeflag = tar.TypeFifo
	case fi.Mode().IsRegular():
		var err error
		if content, err = regular.Read(file, maxOriginal); err != nil {
			return nil, nil, err
		}
		h.Typeflag, h.Size, h.ModTime = tar.TypeReg, int64(len(content)), fi.ModTime()
	default:
		return nil, nil, nil
	}
	a, err := attributesOf(file, fi)
	if err != nil || a == nil {
		return h, content, err
	}
	h.Uid, h.Gid = a.UID, a.GID
	h.PAXRecords = map[string]string{ownedRecord: "1"}
	for name, value := range a.Extended {
		h.PAXRecords[xattrRecord+name] = string(value)
	}
	return h, content, nil
}

// ownedRecord marks a header of which the owner is told; earlier versions told none.
const ownedRecord = "IVELT.owned"

// writeKept writes a tree that was kept into the folder dir of k, which must not
// exist, and returns the manifest of what was written. step is called for each file.
func writeKept(ctx context.Context, k disk, dir string, kept []byte, lose []Loss, step func()) (manifest, error) {
	if err := k.mkdir(dir); err != nil {
		return nil, err
	}
	var m manifest
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
			return nil, fmt.Errorf("what was kept: %w", err)
		}
		rel := path.Clean(h.Name)
		at := path.Join(dir, rel)
		switch h.Typeflag {
		case tar.TypeDir:
			folders = append(folders, h)
			m.folder(rel)
			err = k.mkdir(at)
		case tar.TypeSymlink:
			m.link(rel, h.Linkname)
			err = k.symlink(h.Linkname, at)
		case tar.TypeLink:
			if err = k.hardLink(path.Join(dir, path.Clean(h.Linkname)), at); err == nil {
				err = m.again(path.Clean(h.Linkname), rel)
			}
		case tar.TypeFifo:
			m = append(m, "o "+rel)
			err = k.pipe(at, h)
		case tar.TypeReg:
			err = k.unpack(at, h, &m, rel, r, lose)
		default:
			err = fmt.Errorf("what was kept has %q of an unknown kind", h.Name)
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

// again adds a second name of a file that is in the manifest.
func (m *manifest) again(first, rel string) error {
	for _, line := range *m {
		if rest, ok := strings.CutPrefix(line, "f "+first+" "); ok {
			*m = append(*m, "f "+rel+" "+rest)
			return nil
		}
	}
	return fmt.Errorf("what was kept has no file %q", first)
}

func (k disk) unpack(at string, h *tar.Header, m *manifest, rel string, r io.Reader, lose []Loss) error {
	f, err := k.create(at, 0o600)
	if err != nil {
		return err
	}
	defer f.Close()
	if err := m.file(rel, io.TeeReader(r, f)); err != nil {
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
func (f newFile) as(h *tar.Header, lose []Loss) error {
	a := Attributes{UID: plain.UID, GID: plain.GID, Extended: map[string][]byte{}}
	if h.PAXRecords[ownedRecord] != "" {
		a.UID, a.GID = h.Uid, h.Gid
	}
	for name, value := range h.PAXRecords {
		if name, ok := strings.CutPrefix(name, xattrRecord); ok {
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

// unusual reports whether a tree has what a parcel could not give back though its
// files are those of the parcel: modes, owners, attributes, hard links.
func unusual(top string) (bool, error) {
	found := false
	err := filepath.WalkDir(top, func(file string, d fs.DirEntry, err error) error {
		if err != nil || found || d.Type()&fs.ModeSymlink != 0 {
			return err
		}
		fi, err := d.Info()
		if err != nil {
			return err
		}
		mode := fi.Mode().Perm()
		if mode != 0o755 && (d.IsDir() || mode != 0o644) {
			found = true
			return nil
		}
		a, err := attributesOf(file, fi)
		found = a != nil
		return err
	})
	return found, err
}
