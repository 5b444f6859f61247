// Package regular reads files that are files: what turns out to be a pipe, a device or
// a socket is refused without waiting for anybody at its other end, and nothing is read
// beyond a stated size. What lies on a person's desk, or in a parcel's folder, may have
// been put there by a stranger.
package regular

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"syscall"
)

// The ways a file is refused.
var (
	ErrKind = errors.New("it is neither a file nor a folder")
	ErrSize = errors.New("it is larger than such files are")
)

// Open opens a file, or a folder, for reading; links are followed. Anything else is
// [ErrKind].
func Open(name string) (*os.File, error) {
	fi, err := os.Stat(name)
	if err != nil {
		return nil, err
	}
	if err := kind(name, fi); err != nil {
		return nil, err
	}
	// It may have become another meanwhile: then opening must not wait, and the look at
	// what was opened decides.
	f, err := os.OpenFile(name, os.O_RDONLY|syscall.O_NONBLOCK|syscall.O_NOCTTY, 0)
	if err != nil {
		return nil, err
	}
	if fi, err = f.Stat(); err == nil {
		err = kind(name, fi)
	}
	if err != nil {
		f.Close()
		return nil, err
	}
	return f, nil
}

func kind(name string, fi fs.FileInfo) error {
	if fi.Mode().IsRegular() || fi.IsDir() {
		return nil
	}
	return &fs.PathError{Op: "open", Path: name, Err: fmt.Errorf("%w (%s)", ErrKind, fi.Mode().Type())}
}

// Read reads a file of no more than most bytes; a larger one is [ErrSize].
func Read(name string, most int64) ([]byte, error) {
	f, err := Open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	fi, err := f.Stat()
	if err != nil {
		return nil, err
	}
	if fi.IsDir() {
		return nil, &fs.PathError{Op: "read", Path: name, Err: syscall.EISDIR}
	}
	large := func() error {
		return &fs.PathError{Op: "read", Path: name, Err: fmt.Errorf("%w: more than %d bytes", ErrSize, most)}
	}
	if fi.Size() > most {
		return nil, large()
	}
	b := make([]byte, 0, fi.Size()+512)
	for { // a file of the system's own may be longer than it says
		n, err := f.Read(b[len(b):cap(b)])
		b = b[:len(b)+n]
		switch {
		case int64(len(b)) > most:
			return nil, large()
		case errors.Is(err, io.EOF):
			return b, nil
		case err != nil:
			return nil, err
		}
		if len(b) == cap(b) {
			b = append(b, 0)[:len(b)]
		}
	}
}
