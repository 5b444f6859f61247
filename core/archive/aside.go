package archive

import (
	"errors"
	"io"
	"os"
	"sync"
)

// aside is a file without a name that what is too large for memory is unpacked into while an
// archive is gone through: then it is read once, whatever is asked for later. What finds no
// room there is read again from the archive.
type aside struct {
	mu   sync.Mutex
	file *os.File
	end  int64
	full bool
	part []byte // on its way into the file
}

// maxAside bounds the file, in bytes.
const maxAside = 1 << 30

// errAside: the file does not take more.
var errAside = errors.New("nothing more can be laid aside")

// lay unpacks a member and returns how to read it again, nil if there is no room for it.
func (a *aside) lay(m Member) (Opener, error) {
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.full || m.Size > maxAside-a.end {
		return nil, nil
	}
	if a.file == nil {
		f, err := os.CreateTemp("", "ivelt-parcel-*")
		if err != nil {
			a.full = true
			return nil, nil
		}
		_ = os.Remove(f.Name())
		a.file = f
	}
	r, err := m.Body.Open()
	if err != nil {
		return nil, err
	}
	defer r.Close()
	at := a.end
	if a.part == nil {
		a.part = make([]byte, 128<<10)
	}
	n, err := io.CopyBuffer(onto{a}, struct{ io.Reader }{exactly(r, m.Size)}, a.part)
	if errors.Is(err, errAside) {
		a.full, a.end = true, at
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	return laid{a.file, at, n}, nil
}

func (a *aside) close() error {
	a.mu.Lock()
	defer a.mu.Unlock()
	a.full, a.part = true, nil
	if a.file == nil {
		return nil
	}
	return a.file.Close()
}

// onto writes at the end.
type onto struct{ *aside }

func (o onto) Write(b []byte) (int, error) {
	n, err := o.file.WriteAt(b, o.end)
	o.end += int64(n)
	if err != nil {
		return n, errAside
	}
	return n, nil
}

// laid is a file that was laid aside.
type laid struct {
	in       io.ReaderAt
	at, size int64
}

func (l laid) Open() (io.ReadCloser, error) {
	return section{io.NewSectionReader(l.in, l.at, l.size)}, nil
}

// section can be read at any place, and stays open.
type section struct{ *io.SectionReader }

func (section) Close() error { return nil }
