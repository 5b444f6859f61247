package archive

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"

	"ivelt/core/zipdir"
)

var zipFormat = Format{
	Name: "zip",
	Match: func(head []byte) (string, bool) {
		return "zip", bytes.HasPrefix(head, []byte("PK\x03\x04")) || bytes.HasPrefix(head, []byte("PK\x05\x06"))
	},
	Walk: walkZip,
}

func walkZip(_ context.Context, a *Archive, each func(Member) error) error {
	files, ok := a.Cache.([]zipdir.File)
	if !ok {
		var err error
		if files, err = zipdir.Read(a, a.Size, a.Members); err != nil {
			if errors.Is(err, zipdir.ErrTooMany) {
				return fmt.Errorf("%w: %w", ErrTooLarge, err)
			}
			return err
		}
		if err := tryPassword(files, a.Password); err != nil {
			return err
		}
		a.Cache = files
		if a.Expect != nil {
			a.Expect(len(files))
		}
	}
	for i := range files {
		h := &files[i]
		m := Member{Name: h.Name, Mode: h.FileMode(), Size: h.Size, ModTime: h.ModTime(), Body: h, Direct: true}
		if h.Encrypted() {
			m.Body = locked{h, a.Password}
		}
		if err := each(m); err != nil {
			return err
		}
	}
	return nil
}

// locked is a member that is encrypted.
type locked struct {
	*zipdir.File
	password string
}

func (l locked) Open() (io.ReadCloser, error) { return zipdir.OpenEncrypted(l.File, l.password) }

// tryPassword reads the smallest encrypted member. The traditional check of a
// password is one byte; the sum over the contents tells for certain.
func tryPassword(files []zipdir.File, password string) error {
	var least *zipdir.File
	for i := range files {
		if h := &files[i]; h.Encrypted() && h.FileMode().IsRegular() && (least == nil || h.Size < least.Size) {
			least = h
		}
	}
	if least == nil {
		return nil
	}
	if password == "" {
		return ErrPassword
	}
	r, err := zipdir.OpenEncrypted(least, password)
	if err != nil {
		return err
	}
	defer r.Close()
	if _, err := io.Copy(io.Discard, exactly(r, min(least.Size, maxNested))); err != nil {
		return zipdir.ErrWrongPassword
	}
	return nil
}
