// Package archive opens an archive or a folder as it came and shows it as one read-only
// file tree, without unpacking anything to disk.
//
// It is not trusted: a name that would leave its own tree, or more than the [Limits] allow,
// refuses it as a whole, and links are resolved inside the tree or not at all.
package archive

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"unicode/utf8"
)

// The ways a parcel can be unusable. Errors of [Open] wrap one of them.
var (
	ErrNotArchive = errors.New("not an archive")
	ErrDamaged    = errors.New("the archive is damaged or was cut off")
	ErrUnsafe     = errors.New("the archive is not safe to open")
	ErrTooLarge   = errors.New("the archive is larger than allowed")
)

// Limits bound what opening a parcel may cost, together with the archives inside it. A
// zero field takes the default.
type Limits struct {
	Entries    int   // with the folders that names imply, default 200,000
	Depth      int   // of folders in each other, default 60
	EntryBytes int64 // of one file unpacked, default 512 MiB
	TotalBytes int64 // of all files unpacked, default 4 GiB
	Ratio      int64 // unpacked to packed, default 250; not applied below 16 MiB
}

// What else has limits.
const (
	usualRatio  = 250
	ratioFrom   = 16 << 20 // bytes
	maxName     = 4096     // bytes of a whole name, PATH_MAX of Linux
	maxNames    = 32 << 20 // bytes of all names
	maxAtOnce   = 96 << 20 // bytes of a file that is held in memory while it is read
	afterTheEnd = 16 << 20 // bytes behind the end of a tar that are still looked at
)

// budget is what is left for a parcel and all that is in it.
type budget struct {
	entries int
	kept    int64 // bytes of contents held in memory
	names   int64 // bytes of names and of what links lead to
	nested  int64 // bytes of archives inside it, which are held too
	laid    *aside
	shown   room // for what is made of files
}

func (l Limits) filled() Limits {
	for _, f := range []struct {
		at       *int64
		fallback int64
	}{{&l.EntryBytes, 512 << 20}, {&l.TotalBytes, 4 << 30}, {&l.Ratio, usualRatio}} {
		if *f.at == 0 {
			*f.at = f.fallback
		}
	}
	if l.Entries == 0 {
		l.Entries = 200_000
	}
	if l.Depth == 0 {
		l.Depth = 60
	}
	return l
}

// most is how many bytes may come out of an archive of a size in one walk: all files,
// and what the archive itself needs for them.
func (l Limits) most(size int64) int64 {
	return min(l.TotalBytes, max(ratioFrom, l.Ratio*size)) + int64(l.Entries)*1024 + afterTheEnd
}

// Options for [Open]. The zero value is useful.
type Options struct {
	Limits   Limits
	Password string                  // of an encrypted zip or 7z
	Progress func(done, total int64) // bytes of the archive read so far; may be nil
}

// Tree is an opened archive or folder: an [fs.FS] with its top as ".".
type Tree struct {
	Path   string // as given to Open, a host path
	Format string // "tar.xz", "zip", …, "folder", or "file": a font, a picture or a palette that came alone
	Bytes  int64  // of the archive file, or of all files of a folder
	// Problems are those with archives inside it, by their names.
	Problems []Problem

	options  Options
	entries  []string // as listed by the archive, in its order
	source   source
	format   Format
	archive  *Archive
	done     func() error
	inner    bool     // it is an archive inside another
	nested   []string // the archives inside it that were opened
	Top      *Node
	Folders  map[string]*Node
	spare    []Node
	last     *Node // the folder inserted into last
	inserted int32
	budget   *budget

	// Of one look into it:
	until context.Context
	steps *int // along links
}

// Problem is an archive inside another that could not be opened.
type Problem struct {
	Name string
	Err  error
}

// Open reads the list of entries of the archive or folder at a host path. The
// ending of the name does not matter; the contents are sniffed.
func Open(ctx context.Context, file string, o Options) (*Tree, error) {
	o.Limits = o.Limits.filled()
	t := newTree(ctx, file, o)
	t.source = fileSource(file)
	fi, err := os.Stat(file)
	if err != nil {
		return nil, fmt.Errorf("open parcel: %w", err)
	}
	if fi.IsDir() {
		t.Format = "folder"
		err = t.readFolder(ctx)
	} else {
		t.Bytes = fi.Size()
		if err = t.openArchive(); err == nil {
			err = t.readArchive(ctx)
		}
	}
	if err == nil {
		err = t.openNested(ctx)
	}
	if err != nil {
		_ = t.Close()
		return nil, fmt.Errorf("%s: %w", filepath.Base(file), err)
	}
	return t, nil
}

// OpenFile takes a file that is no archive for a folder that it lies in alone.
func OpenFile(ctx context.Context, file string, o Options) (*Tree, error) {
	o.Limits = o.Limits.filled()
	t := newTree(ctx, file, o)
	t.Format = "file"
	fi, err := os.Stat(file)
	if err == nil && !fi.Mode().IsRegular() {
		err = errors.New("it is no file")
	}
	if err == nil {
		t.Bytes = fi.Size()
		err = t.add(Member{Name: filepath.Base(file), Mode: fi.Mode(), Size: fi.Size(), ModTime: fi.ModTime(), Body: hostFile(file), Direct: true})
	}
	if err != nil {
		return nil, fmt.Errorf("%s: %w", filepath.Base(file), err)
	}
	return t, t.sortFolders()
}

// OpenBytes opens an archive that is held in memory. name is only shown.
func OpenBytes(ctx context.Context, name string, b []byte, o Options) (*Tree, error) {
	o.Limits = o.Limits.filled()
	t := newTree(ctx, name, o)
	t.holds(b)
	err := t.openArchive()
	if err == nil {
		err = t.readArchive(ctx)
	}
	if err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	return t, nil
}

// newTree is an empty tree. It is looked into also after what it was opened for has ended.
func newTree(ctx context.Context, file string, o Options) *Tree {
	top := &Node{Name: ".", Mode: fs.ModeDir | 0o755}
	return &Tree{Path: file, until: context.WithoutCancel(ctx), options: o, Top: top, Folders: map[string]*Node{".": top}, budget: &budget{entries: o.Limits.Entries, kept: keepAll, names: maxNames, nested: maxNested, laid: &aside{}}}
}

// holds makes an archive in memory the source.
func (t *Tree) holds(b []byte) {
	t.Bytes = int64(len(b))
	t.source = func() (io.ReaderAt, int64, func() error, error) {
		return bytes.NewReader(b), int64(len(b)), func() error { return nil }, nil
	}
}

// Entries lists the members as the archive does: in its order and with its
// names, folders ending in a slash.
func (t *Tree) Entries() []string { return t.entries }

// keepFile and keepAll bound the contents held in memory, in bytes; others are laid
// aside in a file.
const (
	keepFile = 64 << 10
	keepAll  = 64 << 20
)

func (t *Tree) add(m Member) error {
	t.entries = append(t.entries, m.Name)
	if err := t.spend(); err != nil {
		return err
	}
	name, err := safeName(m.Name)
	if err != nil || name == "." {
		return err
	}
	if depth := t.options.Limits.Depth; strings.Count(name, "/") > depth || len(name) > maxName {
		return fmt.Errorf("%w: an entry lies more than %d folders deep, or its name is longer than %d bytes", ErrTooLarge, depth, maxName)
	}
	if t.budget.names -= int64(len(m.Name) + len(m.Link) + len(m.Hard)); t.budget.names < 0 {
		return fmt.Errorf("%w: its names have more than %d MB together", ErrTooLarge, maxNames>>20)
	}
	n := t.newNode()
	n.Name, n.Mode, n.Size, n.modTime, n.Link = name, m.Mode, m.Size, m.ModTime, m.Link
	switch {
	case m.Hard != "":
		target, err := safeName(m.Hard)
		if err != nil {
			return err
		}
		n.Hard, n.Mode, n.Size, n.Link = true, fs.ModeSymlink|0o777, int64(len(target))+1, "/"+target // within this tree: the parcel's top is its root
	case n.Mode&fs.ModeSymlink != 0:
		if n.Link == "" { // zip keeps the target as contents
			b, err := m.read(4096)
			if err != nil {
				return err
			}
			n.Link = string(b)
		}
		n.Size = int64(len(n.Link))
	case n.Mode.IsRegular():
		if m.Size > t.options.Limits.EntryBytes {
			return fmt.Errorf("%w: %s is %d bytes, the limit is %d", ErrTooLarge, m.Name, m.Size, t.options.Limits.EntryBytes)
		}
		if m.Direct {
			n.Body = m.Body
		} else if m.Size <= keepFile && m.Size <= t.budget.kept {
			if n.data, err = m.read(keepFile); err != nil {
				return err
			}
			n.Held = true
			t.budget.kept -= int64(len(n.data))
		} else if n.Body, err = t.budget.laid.lay(m); err != nil {
			return err
		}
	case n.Mode.IsDir():
		n.Size = 0 // whatever the archive says: readers make that much room
	default:
		return nil // devices, sockets and the like are never part of a piece
	}
	return t.insert(n)
}

// spend takes one entry, or a folder that a name implies, from the budget.
func (t *Tree) spend() error {
	if t.budget.entries--; t.budget.entries < 0 {
		return fmt.Errorf("%w: more than %d entries and folders", ErrTooLarge, t.options.Limits.Entries)
	}
	return nil
}

// expect makes room for n entries.
func (t *Tree) expect(n int) {
	if n <= t.options.Limits.Entries {
		t.spare, t.entries = make([]Node, n), slices.Grow(t.entries, n)
	}
}

// newNode hands out nodes many at a time.
func (t *Tree) newNode() *Node {
	if len(t.spare) == 0 {
		t.spare = make([]Node, 256)
	}
	n := &t.spare[0]
	t.spare = t.spare[1:]
	return n
}

func (m Member) read(most int64) ([]byte, error) {
	r, err := m.Body.Open()
	if err != nil {
		return nil, err
	}
	defer r.Close()
	if m.Mode.IsRegular() {
		return readAll(exactly(r, min(m.Size, most)), min(m.Size, most))
	}
	return io.ReadAll(io.LimitReader(r, most))
}

// readAll is [io.ReadAll] of what is said to have so many bytes. It makes room for them at
// once as far as that is no more than pieces' files have.
func readAll(r io.Reader, size int64) ([]byte, error) {
	b := make([]byte, 0, min(size, 4<<20)+1) // the end has to be met too
	for {
		n, err := r.Read(b[len(b):cap(b)])
		b = b[:len(b)+n]
		switch {
		case errors.Is(err, io.EOF):
			return b, nil
		case err != nil:
			return b, err
		}
		if len(b) == cap(b) {
			b = slices.Grow(b, len(b))
		}
	}
}

// safeName cleans the name of an entry, or says why it is refused.
func safeName(raw string) (string, error) {
	refuse := func(why string) (string, error) {
		return "", fmt.Errorf("%w: the entry %q %s; nothing was unpacked", ErrUnsafe, raw, why)
	}
	switch {
	case strings.IndexByte(raw, '\\') >= 0 || strings.IndexByte(raw, 0) >= 0:
		return refuse("has a backslash or a null in its name")
	case strings.HasPrefix(raw, "/"):
		return refuse("has an absolute path")
	case len(raw) > 1 && raw[1] == ':':
		return refuse("names a drive")
	case !utf8.ValidString(raw):
		// Of an older alphabet that nothing names: readable, if not right.
		raw = strings.ToValidUTF8(raw, "\uFFFD")
	}
	clean := strings.TrimSuffix(raw, "/")
	if clean != "" && clean[0] != '.' && !strings.Contains(clean, "//") && !strings.Contains(clean, "/.") && !strings.HasSuffix(clean, "/") {
		return clean, nil
	}
	if slices.Contains(strings.Split(raw, "/"), "..") {
		return refuse("climbs out of its folder")
	}
	return path.Clean(raw), nil
}

// insert adds an entry to its folder. That a name is there twice shows when
// the folders are sorted.
func (t *Tree) insert(n *Node) error {
	t.inserted++
	n.order = t.inserted
	if n.Mode.IsDir() {
		if old, ok := t.Folders[n.Name]; ok {
			n.Children = old.Children
			*old = *n
			return nil
		}
		t.Folders[n.Name] = n
	}
	dir := "."
	if i := strings.LastIndexByte(n.Name, '/'); i >= 0 {
		dir = n.Name[:i]
	}
	up, ok := t.last, t.last != nil && t.last.Name == dir // members of a folder come together
	if !ok {
		up, ok = t.Folders[dir]
	}
	if !ok {
		if err := t.spend(); err != nil {
			return err
		}
		up = &Node{Name: dir, Mode: fs.ModeDir | 0o755, modTime: n.modTime}
		if err := t.insert(up); err != nil {
			return err
		}
	}
	t.last = up
	up.Children = append(up.Children, n)
	return nil
}
