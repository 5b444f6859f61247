package plan

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"hash"
	"io"
	"io/fs"
	"maps"
	"os"
	"path"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"
	"syscall"
	"time"

	"golang.org/x/sync/errgroup"

	"ivelt/core/desk"
	"ivelt/core/parcel"
	"ivelt/core/regular"
	"ivelt/core/say"
)

// Manifest lists what a copied tree holds, relative to its root, so that two
// trees can be told apart by one hash.
type Manifest []string

// Folder adds a folder.
func (m *Manifest) Folder(rel string) { *m = append(*m, "d "+rel) }

// Link adds a link and what it leads to.
func (m *Manifest) Link(rel, to string) {
	*m = append(*m, "l "+rel+" "+to)
}

// File adds a file with the digest of what is read.
func (m *Manifest) File(rel string, r io.Reader) error {
	line, err := fileLine(rel, r)
	if err == nil {
		*m = append(*m, line)
	}
	return err
}

// buffers are for reading files with: a piece has thousands.
var buffers = sync.Pool{New: func() any { return new([64 << 10]byte) }}

func fileLine(rel string, r io.Reader) (string, error) {
	h := sha256.New()
	buffer := buffers.Get().(*[64 << 10]byte)
	defer buffers.Put(buffer)
	// Nothing but Read, which uses the buffer.
	if _, err := io.CopyBuffer(h, struct{ io.Reader }{r}, buffer[:]); err != nil {
		return "", err
	}
	return "f " + rel + " " + hex.EncodeToString(h.Sum(nil)), nil
}

// Again adds a second name of a file that is in the manifest.
func (m *Manifest) Again(first, rel string) error {
	for _, line := range *m {
		if rest, ok := strings.CutPrefix(line, "f "+first+" "); ok {
			*m = append(*m, "f "+rel+" "+rest)
			return nil
		}
	}
	return say.Errorf("what was kept has no file %q", first)
}

// Hash is that of the whole, in whatever order it was filled.
func (m Manifest) Hash() string {
	slices.Sort(m)
	return Digest([]byte(strings.Join(m, "\n")))
}

// Tree is what of a parcel is copied: the folder at root, links that stay
// inside it as links, hard links as files, links that leave it not at all.
type Tree struct {
	p       *parcel.Parcel
	root    string
	Folders []string          // relative, parents first
	Links   map[string]string // relative → target as written
	Files   map[string]bool   // names from the parcel's top
	Copies  map[string]string // hard links: relative → name from the top
	exact   bool              // modes are kept as they are, not just whether a file can be run
	flat    bool              // only single files are copied, without their folders
	Bytes   int64
}

// ReadTree looks at what a source names in a parcel.
func ReadTree(p *parcel.Parcel, src Source) (*Tree, error) {
	root := src.Root
	c := &Tree{p: p, root: root, flat: len(src.Only) > 0, exact: src.Kept != "", Links: map[string]string{}, Files: map[string]bool{}, Copies: map[string]string{}}
	if c.flat {
		return c, c.pick(src.Only)
	}
	err := fs.WalkDir(p, root, func(name string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		rel := c.Rel(name)
		switch {
		case d.IsDir():
			if rel != "." {
				c.Folders = append(c.Folders, rel)
			}
		case d.Type()&fs.ModeSymlink != 0:
			target, err := p.ReadLink(name)
			if err != nil {
				return err
			}
			if hard, ok := strings.CutPrefix(target, "/"); ok {
				fi, err := p.Lstat(hard)
				if err == nil && fi.Mode().IsRegular() {
					c.Copies[rel] = hard
					c.Bytes += fi.Size()
				}
				return nil
			}
			if inside(path.Join(path.Dir(rel), target)) {
				c.Links[rel] = target
			}
		default:
			fi, err := d.Info()
			if err != nil {
				return err
			}
			c.Files[name] = true
			c.Bytes += fi.Size()
		}
		return nil
	})
	if errors.Is(err, fs.ErrNotExist) {
		return nil, say.Errorf("%w: it has no folder %q", ErrParcel, root)
	}
	return c, err
}

// pick takes single files, each under its own name; two of the same name are
// told apart by a number.
func (c *Tree) pick(names []string) error {
	taken := map[string]bool{}
	for _, name := range names {
		fi, err := fs.Stat(c.p, name)
		if err != nil {
			return say.Errorf("%w: it has no file %q", ErrParcel, name)
		}
		base := path.Base(name)
		for n := 2; taken[base]; n++ {
			ext := path.Ext(name)
			base = fmt.Sprintf("%s-%d%s", strings.TrimSuffix(path.Base(name), ext), n, ext)
		}
		taken[base] = true
		c.Copies[base] = name
		c.Bytes += fi.Size()
	}
	return nil
}

// Rel is the name that a file of the parcel has in the copy.
func (c *Tree) Rel(name string) string {
	if c.root == "." {
		return name
	}
	if name == c.root {
		return "."
	}
	return strings.TrimPrefix(name, c.root+"/")
}

func inside(rel string) bool {
	return rel != ".." && !strings.HasPrefix(rel, "../") && !path.IsAbs(rel)
}

// Count is how many files and links are copied.
func (c *Tree) Count() int { return len(c.Files) + len(c.Links) + len(c.Copies) }

// Manifest reads every file once.
func (c *Tree) Manifest(ctx context.Context) (Manifest, error) {
	var m Manifest
	err := c.Each(ctx, func(rel string, _ fs.FileInfo, r io.Reader) error { return m.File(rel, r) })
	if err != nil {
		return nil, err
	}
	c.Skeleton(&m)
	return m, nil
}

// Skeleton adds the folders and links to a manifest.
func (c *Tree) Skeleton(m *Manifest) {
	for _, rel := range c.Folders {
		m.Folder(rel)
	}
	for rel, to := range c.Links {
		m.Link(rel, to)
	}
}

// Each visits the contents of every file and hard link, in the parcel's order.
func (c *Tree) Each(ctx context.Context, visit func(rel string, fi fs.FileInfo, r io.Reader) error) error {
	seen := 0
	err := c.whole(ctx, func(name string, fi fs.FileInfo, r io.Reader) error {
		if !c.Files[name] {
			return nil
		}
		seen++
		return visit(c.Rel(name), fi, r)
	})
	if err != nil {
		return err
	}
	if seen < len(c.Files) {
		return say.Errorf("%w: files are missing from it", ErrParcel)
	}
	for _, rel := range slices.Sorted(maps.Keys(c.Copies)) {
		name := c.Copies[rel]
		f, err := c.p.Open(name)
		if err != nil {
			return err
		}
		fi, err := f.Stat()
		if err == nil {
			err = visit(rel, fi, f)
		}
		f.Close()
		if err != nil {
			return err
		}
	}
	return nil
}

// whole visits the files of a piece that is all of its root.
func (c *Tree) whole(ctx context.Context, visit func(name string, fi fs.FileInfo, r io.Reader) error) error {
	if len(c.Files) == 0 {
		return nil
	}
	return c.p.Files(ctx, c.root, visit)
}

// Mode is that with which a file is written.
func (c *Tree) Mode(fi fs.FileInfo) fs.FileMode {
	switch {
	case c.exact:
		return fi.Mode().Perm()
	case fi.Mode()&0o111 != 0:
		return 0o755
	}
	return 0o644
}

// Look returns what stands at a path of the desk, or what a setting has that is named in
// its stead. Links are not followed: plan paths are resolved already.
func Look(d *desk.Desk, p string) (State, error) {
	if setting, ok := desk.Setting(p); ok {
		return lookSetting(d, setting)
	}
	if name, ok := desk.PackageOf(p); ok {
		return lookPackage(d, name)
	}
	return LookAt(d.HostPath(p))
}

// LookFolder returns the same of a folder without looking into it: whether
// nothing is in it is all that is asked of it.
func LookFolder(d *desk.Desk, p string) (State, error) {
	list, err := os.ReadDir(d.HostPath(p))
	switch {
	case err != nil: // none, or something else
		return Look(d, p)
	case len(list) == 0:
		return EmptyTree, nil
	}
	return State{Kind: "tree"}, nil
}

// maxOriginal bounds a file that a plan replaces or a folder has, in bytes: it is held
// in memory while it is kept.
const MaxOriginal = 512 << 20

// digestOf is the [Digest] of a file, however large it is.
func digestOf(host string) (string, error) {
	f, err := regular.Open(host)
	if err != nil {
		return "", err
	}
	defer f.Close()
	h := sha256.New()
	if _, err := io.Copy(h, f); err != nil {
		return "", err
	}
	return hex.EncodeToString(h.Sum(nil)), nil
}

// LookAt returns what stands at a host path.
func LookAt(host string) (State, error) {
	fi, err := os.Lstat(host)
	switch {
	case errors.Is(err, fs.ErrNotExist) || NotFolder(err):
		return State{}, nil
	case err != nil:
		return State{}, err
	case fi.Mode().IsRegular():
		hash, err := digestOf(host)
		if err != nil {
			return State{}, err
		}
		a, err := attributesOf(host, fi)
		return State{Kind: "file", Hash: hash, Mode: fi.Mode().Perm(), ModTime: fi.ModTime(), Attributes: a}, err
	case fi.IsDir():
		m, stamp, err := hostManifest(host)
		return State{Kind: "tree", Hash: m.Hash(), Stamp: stamp}, err
	}
	if fi.Mode()&fs.ModeSymlink != 0 {
		to, err := os.Readlink(host)
		return State{Kind: "link", Hash: to}, err
	}
	return State{Kind: "other", Mode: fi.Mode()}, nil
}

// stamper tells, without reading what is in them, whether something was done to
// the files of a tree: by a hash of their names, sizes, times and numbers, among
// them the time of change, which no program can set.
type stamper struct{ hash.Hash }

func newStamper() stamper { return stamper{sha256.New()} }

func (s stamper) add(rel string, fi fs.FileInfo) {
	st, _ := fi.Sys().(*syscall.Stat_t)
	fmt.Fprintln(s, rel, fi.Mode(), fi.Size(), fi.ModTime().UnixNano(), st.Ctim.Nano(), st.Ino)
}

func (s stamper) stamp() string { return hex.EncodeToString(s.Sum(nil))[:24] }

// StampOf tells whether a tree of the host has changed: names, sizes, times and modes.
func StampOf(top string) (string, error) {
	s := newStamper()
	err := filepath.WalkDir(top, func(file string, d fs.DirEntry, err error) error {
		if err != nil || file == top {
			return err
		}
		fi, err := d.Info()
		if err == nil {
			s.add(filepath.ToSlash(file[len(top)+1:]), fi)
		}
		return err
	})
	return s.stamp(), err
}

// hostManifest lists a tree on this machine, and stamps it as it was before it
// was read.
func hostManifest(top string) (Manifest, string, error) {
	var m Manifest
	var mu sync.Mutex
	s := newStamper()
	var g errgroup.Group // reading many small files is mostly waiting
	g.SetLimit(2 * runtime.NumCPU())
	err := filepath.WalkDir(top, func(file string, d fs.DirEntry, err error) error {
		if err != nil || file == top {
			return err
		}
		rel, err := filepath.Rel(top, file)
		if err != nil {
			return err
		}
		rel = filepath.ToSlash(rel)
		fi, err := d.Info()
		if err != nil {
			return err
		}
		s.add(rel, fi)
		if d.Type().IsRegular() {
			g.Go(func() error {
				f, err := regular.Open(file)
				if err != nil {
					return err
				}
				defer f.Close()
				line, err := fileLine(rel, f)
				mu.Lock()
				defer mu.Unlock()
				m = append(m, line)
				return err
			})
			return nil
		}
		mu.Lock()
		defer mu.Unlock()
		switch {
		case d.IsDir():
			m.Folder(rel)
		case d.Type()&fs.ModeSymlink != 0:
			to, err := os.Readlink(file)
			m.Link(rel, to)
			return err
		default:
			m = append(m, "o "+rel)
		}
		return nil
	})
	return m, s.stamp(), errors.Join(err, g.Wait())
}

var EmptyTree = State{Kind: "tree", Hash: Manifest{}.Hash()}

// NotFolder reports whether something cannot be gone through because it is no folder.
func NotFolder(err error) bool {
	var pe *fs.PathError
	return errors.As(err, &pe) && pe.Err.Error() == "not a directory"
}

// FileState is the state of a file with a content.
func FileState(content []byte, mode fs.FileMode) State {
	return State{Kind: "file", Hash: Digest(content), Mode: mode, ModTime: time.Time{}}
}
