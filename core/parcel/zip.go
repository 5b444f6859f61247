package parcel

import (
	"bytes"
	"context"
	"io"
)

var zipFormat = Format{
	Name: "zip",
	Match: func(head []byte) (string, bool) {
		return "zip", bytes.HasPrefix(head, []byte("PK\x03\x04")) || bytes.HasPrefix(head, []byte("PK\x05\x06"))
	},
	Walk: walkZip,
}

const (
	zipEncrypted = 1 << 0 // general purpose bit 0 (APPNOTE 6.3, section 4.4.4)
	zipSumLater  = 1 << 3 // the sum comes after the data
	zipUTF8      = 1 << 11
)

func walkZip(_ context.Context, a *Archive, each func(Member) error) error {
	files, ok := a.Cache.([]zipFile)
	if !ok {
		var err error
		if files, err = readZip(a, a.Size, a.Members); err != nil {
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
		m := Member{Name: h.name, Mode: h.fileMode(), Size: h.size, ModTime: h.modTime(), Body: h, Direct: true}
		if h.flags&zipEncrypted != 0 {
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
	*zipFile
	password string
}

func (l locked) Open() (io.ReadCloser, error) { return openEncrypted(l.zipFile, l.password) }

// tryPassword reads the smallest encrypted member. The traditional check of a
// password is one byte; the sum over the contents tells for certain.
func tryPassword(files []zipFile, password string) error {
	var least *zipFile
	for i := range files {
		if h := &files[i]; h.flags&zipEncrypted != 0 && h.fileMode().IsRegular() && (least == nil || h.size < least.size) {
			least = h
		}
	}
	if least == nil {
		return nil
	}
	if password == "" {
		return ErrPassword
	}
	r, err := openEncrypted(least, password)
	if err != nil {
		return err
	}
	defer r.Close()
	if _, err := io.Copy(io.Discard, exactly(r, min(least.size, maxNested))); err != nil {
		return errWrongPassword
	}
	return nil
}
