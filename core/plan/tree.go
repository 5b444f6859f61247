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
)

// manifest lists what a copied tree holds, relative to its root, so that two
// trees can be told apart by one hash.
type manifest []string

func (m *manifest) folder(rel string) { *m = append(*m, "d "+rel) }
func (m *manifest) link(rel, to string) {
	*m = append(*m, "l "+rel+" "+to)
}
func (m *manifest) file(rel string, r io.Reader) error {
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

func (m manifest) hash() string {
	slices.Sort(m)
	return Digest([]byte(strings.Join(m, "\n")))
}

// piece is what of a parcel is copied: the folder at root, links that stay
// inside it as links, hard links as files, links that leave it not at all.
type piece struct {
	p       *parcel.Parcel
	root    string
	folders []string          // relative, parents first
	links   map[string]string // relative → target as written
	files   map[string]bool   // names from the parcel's top
	copies  map[string]string // hard links: relative → name from the top
	exact   bool              // modes are kept as they are, not just whether a file can be run
	flat    bool              // only single files are copied, without their folders
	bytes   int64
}

func readPiece(p *parcel.Parcel, src Source) (*piece, error) {
	root := src.Root
	c := &piece{p: p, root: root, flat: len(src.Only) > 0, exact: src.Kept != "", links: map[string]string{}, files: map[string]bool{}, copies: map[string]string{}}
	if c.flat {
		return c, c.pick(src.Only)
	}
	err := fs.WalkDir(p, root, func(name string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		rel := c.rel(name)
		switch {
		case d.IsDir():
			if rel != "." {
				c.folders = append(c.folders, rel)
			}
		case d.Type()&fs.ModeSymlink != 0:
			target, err := p.ReadLink(name)
			if err != nil {
				return err
			}
			if hard, ok := strings.CutPrefix(target, "/"); ok {
				fi, err := p.Lstat(hard)
				if err == nil && fi.Mode().IsRegular() {
					c.copies[rel] = hard
					c.bytes += fi.Size()
				}
				return nil
			}
			if inside(path.Join(path.Dir(rel), target)) {
				c.links[rel] = target
			}
		default:
			fi, err := d.Info()
			if err != nil {
				return err
			}
			c.files[name] = true
			c.bytes += fi.Size()
		}
		return nil
	})
	if errors.Is(err, fs.ErrNotExist) {
		return nil, fmt.Errorf("%w: it has no folder %q", ErrParcel, root)
	}
	return c, err
}

// pick takes single files, each under its own name; two of the same name are
// told apart by a number.
func (c *piece) pick(names []string) error {
	taken := map[string]bool{}
	for _, name := range names {
		fi, err := fs.Stat(c.p, name)
		if err != nil {
			return fmt.Errorf("%w: it has no file %q", ErrParcel, name)
		}
		base := path.Base(name)
		for n := 2; taken[base]; n++ {
			ext := path.Ext(name)
			base = fmt.Sprintf("%s-%d%s", strings.TrimSuffix(path.Base(name), ext), n, ext)
		}
		taken[base] = true
		c.copies[base] = name
		c.bytes += fi.Size()
	}
	return nil
}

func (c *piece) rel(name string) string {
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

func (c *piece) count() int { return len(c.files) + len(c.links) + len(c.copies) }

// manifest reads every file once.
func (c *piece) manifest(ctx context.Context) (manifest, error) {
	var m manifest
	err := c.each(ctx, func(rel string, _ fs.FileInfo, r io.Reader) error { return m.file(rel, r) })
	if err != nil {
		return nil, err
	}
	c.skeleton(&m)
	return m, nil
}

func (c *piece) skeleton(m *manifest) {
	for _, rel := range c.folders {
		m.folder(rel)
	}
	for rel, to := range c.links {
		m.link(rel, to)
	}
}

// each visits the contents of every file and hard link, in the parcel's order.
func (c *piece) each(ctx context.Context, visit func(rel string, fi fs.FileInfo, r io.Reader) error) error {
	seen := 0
	err := c.whole(ctx, func(name string, fi fs.FileInfo, r io.Reader) error {
		if !c.files[name] {
			return nil
		}
		seen++
		return visit(c.rel(name), fi, r)
	})
	if err != nil {
		return err
	}
	if seen < len(c.files) {
		return fmt.Errorf("%w: files are missing from it", ErrParcel)
	}
	for _, rel := range slices.Sorted(maps.Keys(c.copies)) {
		name := c.copies[rel]
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
func (c *piece) whole(ctx context.Context, visit func(name string, fi fs.FileInfo, r io.Reader) error) error {
	if len(c.files) == 0 {
		return nil
	}
	return c.p.Files(ctx, c.root, visit)
}

// mode is that with which a file is written.
func (c *piece) mode(fi fs.FileInfo) fs.FileMode {
	switch {
	case c.exact:
		return fi.Mode().Perm()
	case fi.Mode()&0o111 != 0:
		return 0o755
	}
	return 0o644
}

// write copies the piece into the folder dir of k, which must not exist,
// and returns the manifest of what was written.
func (c *piece) write(ctx context.Context, k disk, dir string, step func()) (manifest, error) {
	if err := k.mkdir(dir); err != nil {
		return nil, err
	}
	for _, rel := range c.folders {
		if err := k.mkdir(path.Join(dir, rel)); err != nil {
			return nil, err
		}
	}
	var m manifest
	var at disk // the folder written in last
	in := ""
	defer func() {
		if in != "" {
			at.close()
		}
	}()
	err := c.each(ctx, func(rel string, fi fs.FileInfo, r io.Reader) error {
		if err := ctx.Err(); err != nil {
			return err
		}
		if folder := path.Join(dir, path.Dir(rel)); folder != in {
			next, err := k.into(folder)
			if err != nil {
				return err
			}
			if in != "" {
				at.close()
			}
			at, in = next, folder
		}
		name := path.Base(rel)
		f, err := at.create(name, c.mode(fi))
		if err != nil {
			return err
		}
		defer f.Close()
		step()
		if err := m.file(rel, io.TeeReader(r, f)); err != nil {
			return err
		}
		if err := f.Close(); err != nil || fi.ModTime().Unix() <= 0 {
			return err
		}
		return at.times(name, fi.ModTime())
	})
	if err != nil {
		return nil, err
	}
	for rel, to := range c.links {
		if err := k.symlink(to, path.Join(dir, rel)); err != nil {
			return nil, err
		}
		step()
	}
	c.skeleton(&m)
	return m, nil
}

// look returns what stands at a path of the desk. Links are not followed: plan
// paths are resolved already.
func look(d *desk.Desk, p string) (State, error) { return lookAt(d.HostPath(p)) }

// lookFolder returns the same of a folder without looking into it: whether
// nothing is in it is all that is asked of it.
func lookFolder(d *desk.Desk, p string) (State, error) {
	list, err := os.ReadDir(d.HostPath(p))
	switch {
	case err != nil: // none, or something else
		return look(d, p)
	case len(list) == 0:
		return emptyTree, nil
	}
	return State{Kind: "tree"}, nil
}

// maxOriginal bounds a file that a plan replaces or a folder has, in bytes: it is held
// in memory while it is kept.
const maxOriginal = 512 << 20

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

// lookAt returns what stands at a host path.
func lookAt(host string) (State, error) {
	fi, err := os.Lstat(host)
	switch {
	case errors.Is(err, fs.ErrNotExist) || notFolder(err):
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
		return State{Kind: "tree", Hash: m.hash(), Stamp: stamp}, err
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

func stampOf(top string) (string, error) {
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
func hostManifest(top string) (manifest, string, error) {
	var m manifest
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
			m.folder(rel)
		case d.Type()&fs.ModeSymlink != 0:
			to, err := os.Readlink(file)
			m.link(rel, to)
			return err
		default:
			m = append(m, "o "+rel)
		}
		return nil
	})
	return m, s.stamp(), errors.Join(err, g.Wait())
}

var emptyTree = State{Kind: "tree", Hash: manifest{}.hash()}

func notFolder(err error) bool {
	var pe *fs.PathError
	return errors.As(err, &pe) && pe.Err.Error() == "not a directory"
}

func fileState(content []byte, mode fs.FileMode) State {
	return State{Kind: "file", Hash: Digest(content), Mode: mode, ModTime: time.Time{}}
}
