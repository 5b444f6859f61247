// Package archivetest makes archives for tests.
package archivetest

import (
	"archive/tar"
	"archive/zip"
	"bytes"
	"compress/gzip"
	"io"
	"io/fs"
	"strings"
	"testing"

	"github.com/ulikunitz/xz"
)

// Entry is one member of an archive to be made: a folder if its name ends in a
// slash, a link if link is set, a hard link if hard is.
type Entry struct {
	Name, Text, Link, Hard string
	Kind                   byte
}

// Tar is a tar of entries.
func Tar(t testing.TB, entries []Entry) []byte {
	var b bytes.Buffer
	w := tar.NewWriter(&b)
	for _, e := range entries {
		h := &tar.Header{Name: e.Name, Mode: 0o644, Size: int64(len(e.Text)), Typeflag: tar.TypeReg}
		switch {
		case e.Kind != 0:
			h.Typeflag = e.Kind
		case e.Link != "":
			h.Typeflag, h.Linkname = tar.TypeSymlink, e.Link
		case e.Hard != "":
			h.Typeflag, h.Linkname = tar.TypeLink, e.Hard
		case strings.HasSuffix(e.Name, "/"):
			h.Typeflag, h.Mode = tar.TypeDir, 0o755
		}
		must(t, w.WriteHeader(h))
		_, err := io.WriteString(w, e.Text)
		must(t, err)
	}
	must(t, w.Close())
	return b.Bytes()
}

// Zip is a zip of entries, without permissions of folders.
func Zip(t testing.TB, entries []Entry) []byte {
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	for _, e := range entries {
		h := &zip.FileHeader{Name: e.Name, Method: zip.Deflate}
		h.SetMode(0o644)
		text := e.Text
		if e.Link != "" {
			h.SetMode(fs.ModeSymlink | 0o777)
			text = e.Link
		}
		f, err := w.CreateHeader(h)
		must(t, err)
		_, err = io.WriteString(f, text)
		must(t, err)
	}
	must(t, w.Close())
	return b.Bytes()
}

// Gz packs bytes with gzip.
func Gz(t testing.TB, b []byte) []byte {
	var out bytes.Buffer
	w := gzip.NewWriter(&out)
	_, err := w.Write(b)
	must(t, err)
	must(t, w.Close())
	return out.Bytes()
}

// Xz packs bytes with xz.
func Xz(t testing.TB, b []byte) []byte {
	var out bytes.Buffer
	w, err := xz.NewWriter(&out)
	must(t, err)
	_, err = w.Write(b)
	must(t, err)
	must(t, w.Close())
	return out.Bytes()
}

// Index is the index.theme of an icon pack with some folders.
func Index(name, inherits string, dirs ...string) string {
	s := "[Icon Theme]\nName=" + name + "\n"
	if inherits != "" {
		s += "Inherits=" + inherits + "\n"
	}
	s += "Directories=" + strings.Join(dirs, ",") + "\n"
	for _, d := range dirs {
		s += "[" + d + "]\nSize=48\n"
	}
	return s
}

// Small is an icon pack with links in it.
var Small = []Entry{
	{Name: "Pack/"}, {Name: "Pack/index.theme", Text: Index("A Pack", "", "48/apps")},
	{Name: "Pack/48/apps/leaf.png", Text: "leaf"}, {Name: "Pack/48/apps/frond.png", Link: "leaf.png"},
	{Name: "Pack/48/apps/far.png", Link: "../../48/apps/leaf.png"},
}

func must(t testing.TB, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}
