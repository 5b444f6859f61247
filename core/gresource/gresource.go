// Package gresource reads GLib's resource bundles, the files that themes
// compile their style sheets and pictures into (GLib reference, "GResource";
// the container is GVDB, gvdb-format.h and gvdb-reader.c of GLib 2; the values
// are GVariants of type (uuay): size, flags, bytes).
package gresource

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"io/fs"

	"ivelt/core/gvdb"
)

// ErrBundle: the bytes are no resource bundle, or a damaged one.
var ErrBundle = errors.New("this is no resource bundle, or it is damaged")

// MaxBytes bounds one unpacked file.
const MaxBytes = 64 << 20

const compressed = 1

// Bundle is an opened bundle.
type Bundle struct{ files *gvdb.Table }

// Open reads the directory of a bundle; its files are unpacked when asked for.
func Open(data []byte) (*Bundle, error) {
	t, err := gvdb.Open(data)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrBundle, err)
	}
	return &Bundle{t}, nil
}

// Names are the paths of the files, sorted.
func (b *Bundle) Names() []string { return b.files.Keys() }

// Read returns a file by its path in the bundle, "/org/example/gtk.css".
// fs.ErrNotExist if there is none.
func (b *Bundle) Read(name string) ([]byte, error) {
	if !b.files.Has(name) {
		return nil, fmt.Errorf("%s: %w", name, fs.ErrNotExist)
	}
	kind, v, ok := b.files.Raw(name)
	if !ok || len(v) < 8 || kind != "(uuay)" {
		return nil, fmt.Errorf("%w: %s is of another type", ErrBundle, name)
	}
	size, flags := binary.LittleEndian.Uint32(v), binary.LittleEndian.Uint32(v[4:])
	body := v[8:]
	if size > MaxBytes {
		return nil, fmt.Errorf("%w: %s is larger than %d MiB", ErrBundle, name, MaxBytes>>20)
	}
	if flags&compressed == 0 {
		if int(size) > len(body) {
			return nil, fmt.Errorf("%w: %s is cut off", ErrBundle, name)
		}
		return bytes.Clone(body[:size]), nil
	}
	z, err := zlib.NewReader(bytes.NewReader(body))
	if err != nil {
		return nil, fmt.Errorf("%w: %s: %w", ErrBundle, name, err)
	}
	defer z.Close()
	out, err := io.ReadAll(io.LimitReader(z, int64(size)+1))
	if err != nil || len(out) != int(size) {
		return nil, fmt.Errorf("%w: %s does not unpack to what it says", ErrBundle, name)
	}
	return out, nil
}
