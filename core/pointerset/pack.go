package pointerset

import (
	"archive/zip"
	"context"
	"io"
	"io/fs"
	"path"
	"time"

	"ivelt/core/say"
)

// made1980 is the time of everything in an archive: the first that the format can hold.
var made1980 = time.Date(1980, 1, 1, 0, 0, 0, 0, time.UTC)

// Zip writes files of a set into an archive, in a folder. Links are written as such.
func (s *Set) Zip(ctx context.Context, w io.Writer, folder string, files []Entry) error {
	z := zip.NewWriter(w)
	for _, e := range files {
		if err := ctx.Err(); err != nil {
			return err
		}
		h := &zip.FileHeader{Name: path.Join(folder, e.Name), Method: zip.Deflate, Modified: made1980}
		h.SetMode(0o644)
		b, err := s.Bytes(e)
		if e.Link != "" {
			h.SetMode(fs.ModeSymlink | 0o777)
			b, err = []byte(e.Link), nil
		}
		if err != nil {
			return say.Errorf("%s: %w", e.Name, err)
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

// Bytes are what a file of a set has.
func (s *Set) Bytes(e Entry) ([]byte, error) {
	if e.Make != nil {
		return e.Make()
	}
	return (&reader{s.fsys, NewBudget()}).read(e.Copy)
}
