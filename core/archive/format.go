package archive

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"math"
	"os"
	"path/filepath"
	"time"

	"ivelt/core/regular"
	"ivelt/core/zipdir"
)

// Format reads one kind of archive. Those of this package are zip, tar in its
// wrappings, and deb; others come in by [Register].
type Format struct {
	Name  string                                                               // as in [Parcel.Format]
	Match func(head []byte) (name string, ok bool)                             // head is up to 1 KiB; name may be more exact than Name
	Walk  func(ctx context.Context, a *Archive, each func(Member) error) error // each member in the archive's order, stopping at an error
}

// Archive is what a [Format] reads from.
type Archive struct {
	io.ReaderAt
	Size     int64
	Password string
	Cache    any         // for the format's own use between walks
	Expect   func(n int) // says how many members will come, if that is known; may be nil
	Members  int         // no more than these are looked at; 0 for no limit
	Most     int64       // bytes that may come out of it in one walk; 0 for no limit
}

// Measured is what comes out of an archive in one walk: an error once it is more than
// may come, or the context has ended.
func (a *Archive) Measured(ctx context.Context, r io.Reader) io.Reader {
	left := a.Most
	if left == 0 {
		left = math.MaxInt64
	}
	return &measured{ctx, r, left}
}

type measured struct {
	ctx  context.Context
	r    io.Reader
	left int64
}

func (m *measured) Read(b []byte) (int, error) {
	if err := m.ctx.Err(); err != nil {
		return 0, err
	}
	n, err := m.r.Read(b[:min(len(b), 1<<18)])
	if m.left -= int64(n); m.left < 0 {
		return 0, fmt.Errorf("%w: it unpacks to far more than its size", ErrTooLarge)
	}
	return n, err
}

// Member is an entry of an archive.
type Member struct {
	Name    string // as written; folders end in a slash
	Mode    fs.FileMode
	Size    int64 // unpacked, in bytes
	ModTime time.Time
	Link    string // target of a symbolic link; "" if it is the contents
	Hard    string // name of the entry a hard link stands for
	// Body is what a regular file holds, or a link that has no Link.
	Body Opener
	// Direct says that Body can be opened at any time, at no more cost than
	// reading the one member.
	Direct bool
}

// Opener opens bytes to be read.
type Opener interface {
	Open() (io.ReadCloser, error)
}

// hostFile is a file outside an archive.
type hostFile string

func (f hostFile) Open() (io.ReadCloser, error) { return regular.Open(string(f)) }

// ErrPassword: the archive is encrypted, and no password or a wrong one was given.
var ErrPassword = zipdir.ErrPassword

var formats = []Format{zipFormat, debFormat, tarFormat}

// Register adds a format; the package of the format calls it from init.
func Register(f Format) { formats = append([]Format{f}, formats...) }

// source opens the bytes of an archive.
type source func() (at io.ReaderAt, size int64, done func() error, err error)

func fileSource(name string) source {
	return func() (io.ReaderAt, int64, func() error, error) {
		f, err := regular.Open(name)
		if err != nil {
			return nil, 0, nil, err
		}
		fi, err := f.Stat()
		if err != nil {
			f.Close()
			return nil, 0, nil, err
		}
		return f, fi.Size(), f.Close, nil
	}
}

// openArchive finds out what kind of archive the bytes are; their name has no
// say in it.
func (t *Tree) openArchive() error {
	at, size, done, err := t.source()
	if err != nil {
		return err
	}
	// The file stays open for as long as the parcel is in use.
	t.done = done
	t.archive = &Archive{ReaderAt: &counting{at, t.options.Progress, size}, Size: size, Password: t.options.Password, Expect: t.expect, Members: t.options.Limits.Entries, Most: t.options.Limits.most(size)}
	head := make([]byte, min(1024, size))
	if _, err := at.ReadAt(head, 0); err != nil && !errors.Is(err, io.EOF) {
		return err
	}
	for _, f := range formats {
		if name, ok := f.Match(head); ok {
			t.Format, t.format = name, f
			return nil
		}
	}
	return fmt.Errorf("%w: its first bytes are those of no kind of archive Ivelt reads (zip, 7z, deb, tar, and tar packed with gzip, xz, bzip2 or zstd)", ErrNotArchive)
}

// Close closes the archive file. A parcel that is not closed keeps it open
// until the runtime finds that nobody uses it.
func (t *Tree) Close() error {
	if t.done == nil {
		return nil
	}
	done := t.done
	t.done = nil
	return errors.Join(done(), t.budget.laid.close())
}

// Password returns the password the parcel was opened with.
func (t *Tree) Password() string { return t.options.Password }

var errStop = errors.New("stop")

// walk goes through the archive once, in its order.
func (t *Tree) walk(ctx context.Context, visit func(Member) error) error {
	var stopped bool
	err := t.format.Walk(ctx, t.archive, func(m Member) error {
		if err := ctx.Err(); err != nil {
			return err
		}
		err := visit(m)
		stopped = errors.Is(err, errStop)
		return err
	})
	switch {
	case stopped:
		return nil
	case ctx.Err() != nil:
		return ctx.Err()
	case err == nil, errors.Is(err, ErrNotArchive), errors.Is(err, ErrUnsafe), errors.Is(err, ErrTooLarge), errors.Is(err, ErrPassword):
		return err
	}
	return fmt.Errorf("%w (%w). Fetch it again, or take an older version", ErrDamaged, err)
}

// readArchive fills the tree.
func (t *Tree) readArchive(ctx context.Context) error {
	var total int64
	err := t.walk(ctx, func(m Member) error {
		if m.Mode.IsRegular() {
			total += m.Size
		}
		limits := t.options.Limits
		switch {
		case total > limits.TotalBytes:
			return fmt.Errorf("%w: more than %d bytes unpacked", ErrTooLarge, limits.TotalBytes)
		case total > ratioFrom && total > limits.Ratio*t.Bytes:
			return fmt.Errorf("%w: it would unpack to more than %d times its size", ErrTooLarge, limits.Ratio)
		}
		return t.add(m)
	})
	if err != nil {
		return err
	}
	return t.sortFolders()
}

func (t *Tree) readFolder(ctx context.Context) error {
	err := filepath.WalkDir(t.Path, func(file string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if err := ctx.Err(); err != nil {
			return err
		}
		rel, err := filepath.Rel(t.Path, file)
		if err != nil || rel == "." {
			return err
		}
		fi, err := d.Info()
		if err != nil {
			return err
		}
		m := Member{Name: filepath.ToSlash(rel), Mode: fi.Mode(), Size: fi.Size(), ModTime: fi.ModTime(), Body: hostFile(file), Direct: true}
		if m.Mode&fs.ModeSymlink != 0 {
			if m.Link, err = os.Readlink(file); err != nil {
				return err
			}
		}
		if m.Mode.IsDir() {
			m.Name += "/"
		}
		if m.Mode.IsRegular() {
			t.Bytes += m.Size
		}
		return t.add(m)
	})
	if err != nil {
		return err
	}
	return t.sortFolders()
}

// counting reports how far an archive has been read.
type counting struct {
	io.ReaderAt
	progress func(done, total int64)
	total    int64
}

func (c *counting) ReadAt(b []byte, off int64) (int, error) {
	n, err := c.ReaderAt.ReadAt(b, off)
	if c.progress != nil {
		c.progress(min(off+int64(n), c.total), c.total)
	}
	return n, err
}

// exactly fails once more than size bytes come: an entry that is longer than
// its header says is one that lies.
func exactly(r io.Reader, size int64) io.Reader { return &bounded{r, size} }

type bounded struct {
	r    io.Reader
	left int64
}

func (b *bounded) Read(p []byte) (int, error) {
	n, err := b.r.Read(p[:min(int64(len(p)), b.left+1)])
	if b.left -= int64(n); b.left < 0 {
		return 0, fmt.Errorf("%w: an entry is longer than it says", ErrUnsafe)
	}
	return n, err
}
