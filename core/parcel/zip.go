package parcel

import (
	"archive/zip"
	"bytes"
	"context"
	"io"
	"math"
)

var zipFormat = Format{
	Name: "zip",
	Match: func(head []byte) (string, bool) {
		return "zip", bytes.HasPrefix(head, []byte("PK\x03\x04")) || bytes.HasPrefix(head, []byte("PK\x05\x06"))
	},
	Walk: walkZip,
}

const zipEncrypted = 1 << 0 // general purpose bit 0 (APPNOTE 6.3, section 4.4.4)

func walkZip(_ context.Context, a *Archive, each func(Member) error) error {
	z, ok := a.Cache.(*zip.Reader)
	if !ok {
		var err error
		if z, err = zip.NewReader(a, a.Size); err != nil {
			return err
		}
		if err := tryPassword(z, a.Password); err != nil {
			return err
		}
		a.Cache = z
		if a.Expect != nil {
			a.Expect(len(z.File))
		}
	}
	for _, h := range z.File {
		m := Member{Name: h.Name, Mode: h.Mode(), Size: int64(min(h.UncompressedSize64, math.MaxInt64)), ModTime: h.Modified, Open: h.Open, Direct: true}
		if h.Flags&zipEncrypted != 0 {
			m.Open = func() (io.ReadCloser, error) { return openEncrypted(h, a.Password) }
		}
		if err := each(m); err != nil {
			return err
		}
	}
	return nil
}

// tryPassword reads the smallest encrypted member. The traditional check of a
// password is one byte; the sum over the contents tells for certain.
func tryPassword(z *zip.Reader, password string) error {
	var least *zip.File
	for _, h := range z.File {
		if h.Flags&zipEncrypted != 0 && h.Mode().IsRegular() && (least == nil || h.UncompressedSize64 < least.UncompressedSize64) {
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
	if _, err := io.Copy(io.Discard, exactly(r, int64(min(least.UncompressedSize64, mostNested)))); err != nil {
		return errWrongPassword
	}
	return nil
}
