package demo

import (
	"archive/tar"
	"archive/zip"
	"bytes"
	"compress/gzip"
	"io"
	"io/fs"
	"path"
	"strings"
	"time"

	"github.com/ulikunitz/xz"
)

// made is the date of everything in the demo world, so that it comes out the
// same each time.
var made = time.Date(2026, 3, 21, 6, 40, 0, 0, time.UTC)

// archive writes a tree as an archive of the kind its name ends in.
func archiveOf(name string, tree files) ([]byte, error) {
	var b bytes.Buffer
	switch {
	case strings.HasSuffix(name, ".zip"):
		err := writeZip(&b, tree)
		return b.Bytes(), err
	case strings.HasSuffix(name, ".tar.xz"):
		w, err := xz.NewWriter(&b)
		if err != nil {
			return nil, err
		}
		if err := writeTar(w, tree); err != nil {
			return nil, err
		}
		return finish(w, &b)
	}
	w := gzip.NewWriter(&b)
	if err := writeTar(w, tree); err != nil {
		return nil, err
	}
	return finish(w, &b)
}

func finish(w io.Closer, b *bytes.Buffer) ([]byte, error) {
	err := w.Close()
	return b.Bytes(), err
}

func writeTar(w io.Writer, tree files) error {
	t := tar.NewWriter(w)
	dirs := map[string]bool{".": true}
	var folder func(string) error
	folder = func(dir string) error {
		if dirs[dir] {
			return nil
		}
		dirs[dir] = true
		if err := folder(path.Dir(dir)); err != nil {
			return err
		}
		return t.WriteHeader(&tar.Header{Typeflag: tar.TypeDir, Name: dir + "/", Mode: 0o755, ModTime: made})
	}
	for _, name := range tree.names() {
		if err := folder(path.Dir(name)); err != nil {
			return err
		}
		b := tree[name]
		if to, ok := strings.CutPrefix(string(b), linkTo); ok {
			if err := t.WriteHeader(&tar.Header{Typeflag: tar.TypeSymlink, Name: name, Linkname: to, Mode: 0o777, ModTime: made}); err != nil {
				return err
			}
			continue
		}
		if err := t.WriteHeader(&tar.Header{Typeflag: tar.TypeReg, Name: name, Mode: 0o644, Size: int64(len(b)), ModTime: made}); err != nil {
			return err
		}
		if _, err := t.Write(b); err != nil {
			return err
		}
	}
	return t.Close()
}

func writeZip(w io.Writer, tree files) error {
	z := zip.NewWriter(w)
	for _, name := range tree.names() {
		b := tree[name]
		h := &zip.FileHeader{Name: name, Method: zip.Deflate, Modified: made}
		h.SetMode(0o644)
		if to, ok := strings.CutPrefix(string(b), linkTo); ok {
			h.SetMode(fs.ModeSymlink | 0o777)
			h.Method = zip.Store
			b = []byte(to)
		}
		f, err := z.CreateHeader(h)
		if err != nil {
			return err
		}
		if _, err := f.Write(b); err != nil {
			return err
		}
	}
	return z.Close()
}
