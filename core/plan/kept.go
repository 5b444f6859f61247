package plan

import (
	"archive/tar"
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"syscall"

	"ivelt/core/regular"
)

// A tree that no parcel can give back is kept as a tar: files with their modes, times,
// owners and extended attributes (as PAX records, under the names that star(1) and GNU
// tar give them), links, hard links inside of it, and pipes.

const XattrRecord = "SCHILY.xattr."

// TarOf packs a folder: the same tree gives the same bytes.
func TarOf(top string) ([]byte, error) {
	b, _, err := Pack(top)
	return b, err
}

// Pack packs a folder, and says what of it cannot be kept.
func Pack(top string) ([]byte, []Loss, error) {
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
		if content, err = regular.Read(file, MaxOriginal); err != nil {
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
	h.PAXRecords = map[string]string{OwnedRecord: "1"}
	for name, value := range a.Extended {
		h.PAXRecords[XattrRecord+name] = string(value)
	}
	return h, content, nil
}

// ownedRecord marks a header of which the owner is told; earlier versions told none.
const OwnedRecord = "IVELT.owned"

// Unusual reports whether a tree has what a parcel could not give back though its
// files are those of the parcel: modes, owners, attributes, hard links.
func Unusual(top string) (bool, error) {
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
