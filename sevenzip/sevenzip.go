// Package sevenzip lets parcels be 7z archives. It stands outside core because
// the library it uses reaches further than core may; importing it is enough.
package sevenzip

import (
	"bytes"
	"context"
	"errors"
	"io/fs"
	"strings"

	"github.com/bodgit/sevenzip"

	"ivelt/core/archive"
)

func init() {
	archive.Register(archive.Format{Name: "7z", Match: match, Walk: walk})
}

func match(head []byte) (string, bool) {
	return "7z", bytes.HasPrefix(head, []byte("7z\xbc\xaf\x27\x1c"))
}

func walk(_ context.Context, a *archive.Archive, each func(archive.Member) error) error {
	z, ok := a.Cache.(*sevenzip.Reader)
	if !ok {
		var err error
		z, err = sevenzip.NewReaderWithPassword(a, a.Size, a.Password)
		if err != nil {
			return explain(err, a.Password)
		}
		a.Cache = z
	}
	for _, f := range z.File {
		fi := f.FileInfo()
		m := archive.Member{Name: f.Name, Mode: fi.Mode(), Size: fi.Size(), ModTime: f.Modified, Body: f}
		if fi.IsDir() && !strings.HasSuffix(m.Name, "/") {
			m.Name += "/"
		}
		if m.Mode&fs.ModeType == 0 && m.Mode.Perm() == 0 {
			m.Mode = 0o644 // made where files have no modes
		}
		if err := each(m); err != nil {
			return explain(err, a.Password)
		}
	}
	return nil
}

// explain tells a missing or wrong password from damage.
func explain(err error, password string) error {
	var re *sevenzip.ReadError
	if errors.As(err, &re) && re.Encrypted {
		if password == "" {
			return archive.ErrPassword
		}
		return errors.Join(archive.ErrPassword, errors.New("this one does not fit"))
	}
	return err
}
