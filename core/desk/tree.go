package desk

import (
	"errors"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"syscall"

	"ivelt/core/regular"
	"ivelt/core/say"
)

// Tree is the file tree a desk's programs see: the system folder as its root,
// with the home folder laid in at its place. It is an [fs.FS]: names are
// slash-separated and have no leading slash ("home/mara/.icons").
//
// Links are resolved inside the tree, absolute ones too: a link to /usr/share
// leads to the desk's own usr/share, never to that of the machine Ivelt runs
// on. Only reading goes through a Tree.
type Tree struct {
	system, home string          // host folders
	homeAt       string          // where home is laid in, as a name of this tree
	layers       []string        // host folders under the home
	front        string          // a host folder laid over the whole tree, or ""
	gone         map[string]bool // names that are taken away with all below them
	plain        map[string]bool // folders known to be no links; nil: none is remembered
	read         map[string]content
	stats        map[string]described
	lists        map[string]listing
}

// content is what reading a file came to.
type content struct {
	bytes []byte
	err   error
}

// maxRemembered bounds what is remembered of a file, in bytes.
const maxRemembered = 128 << 10

// Briefly returns the same tree for one go through many files: it remembers
// which folders are no links, and so must not be kept, nor used from several
// goroutines.
func (t *Tree) Briefly() *Tree {
	brief := *t
	brief.plain = map[string]bool{}
	return &brief
}

var (
	_ fs.ReadDirFS  = (*Tree)(nil)
	_ fs.ReadFileFS = (*Tree)(nil)
	_ fs.StatFS     = (*Tree)(nil)
	_ fs.ReadLinkFS = (*Tree)(nil)
)

const maxLinks = 40 // as Linux allows in one path

var errLoop = errors.New("too many links")

// Open opens the file that name leads to.
func (t *Tree) Open(name string) (fs.File, error) {
	host, final, err := t.resolve("open", name, true)
	if err != nil {
		return nil, err
	}
	f, err := regular.Open(host)
	if err != nil {
		return nil, unhost("open", name, err)
	}
	return treeFile{f, path.Base(name), t, final}, nil
}

// ReadFile reads the file that name leads to. What a tree that remembers returns
// is not to be changed.
func (t *Tree) ReadFile(name string) ([]byte, error) {
	if c, ok := t.read[name]; ok {
		return c.bytes, c.err
	}
	b, err := t.readFile(name)
	if t.read != nil && len(b) <= maxRemembered {
		t.read[name] = content{b, err}
	}
	return b, err
}

func (t *Tree) readFile(name string) ([]byte, error) {
	host, _, err := t.resolve("read", name, true)
	if err != nil {
		return nil, err
	}
	b, err := regular.Read(host, maxRead)
	return b, unhost("read", name, err)
}

// What is read of one file, in bytes. Fonts and pictures are the largest; settings are
// written by hand, or might be.
const (
	maxRead     = 96 << 20
	maxSettings = 4 << 20
)

// ReadSettings reads a file of settings: one that is larger than such files are is
// [regular.ErrSize].
func (t *Tree) ReadSettings(name string) ([]byte, error) {
	if fi, err := t.Stat(name); err == nil && fi.Size() > maxSettings {
		return nil, &fs.PathError{Op: "read", Path: name, Err: say.Errorf("%w: more than %d MB", regular.ErrSize, maxSettings>>20)}
	}
	return t.ReadFile(name)
}

// ReadDir lists the folder that name leads to, sorted.
func (t *Tree) ReadDir(name string) ([]fs.DirEntry, error) {
	if l, ok := t.lists[name]; ok {
		return slices.Clone(l.list), l.err
	}
	l := t.readDir(name)
	if t.lists != nil {
		t.lists[name] = l
		return slices.Clone(l.list), l.err
	}
	return l.list, l.err
}

// listing is what listing a folder came to.
type listing struct {
	list []fs.DirEntry
	at   string // the folder without links
	err  error
}

func (t *Tree) readDir(name string) listing {
	host, final, err := t.resolve("readdir", name, true)
	if err != nil {
		return listing{at: final, err: err}
	}
	list, err := os.ReadDir(host)
	if err != nil {
		return listing{at: final, err: unhost("readdir", name, err)}
	}
	return listing{t.withHome(final, t.withLayers(final, t.withFront(final, list))), final, nil}
}

// withFront adds to the entries of a folder those of the front, and takes out
// those that are gone.
func (t *Tree) withFront(folder string, list []fs.DirEntry) []fs.DirEntry {
	if t.front == "" {
		return list
	}
	list = slices.DeleteFunc(list, func(e fs.DirEntry) bool { return t.gone[join(strings.TrimPrefix(folder, "."), e.Name())] })
	more, _ := os.ReadDir(filepath.Join(t.front, filepath.FromSlash(folder)))
	for _, e := range more {
		list = slices.DeleteFunc(list, func(old fs.DirEntry) bool { return old.Name() == e.Name() && !e.IsDir() })
		if !slices.ContainsFunc(list, func(old fs.DirEntry) bool { return old.Name() == e.Name() }) {
			list = append(list, e)
		}
	}
	slices.SortFunc(list, func(a, b fs.DirEntry) int { return strings.Compare(a.Name(), b.Name()) })
	return list
}

// withLayers adds to the entries of a folder of the home those that only its
// layers have.
func (t *Tree) withLayers(folder string, list []fs.DirEntry) []fs.DirEntry {
	rest, ok := below(folder, t.homeAt)
	if !ok || len(t.layers) == 0 {
		return list
	}
	known := map[string]bool{}
	for _, e := range list {
		known[e.Name()] = true
	}
	for _, layer := range t.layers {
		more, err := os.ReadDir(filepath.Join(layer, filepath.FromSlash(rest)))
		if err != nil {
			continue
		}
		for _, e := range more {
			if !known[e.Name()] {
				known[e.Name()] = true
				list = append(list, e)
			}
		}
	}
	slices.SortFunc(list, func(a, b fs.DirEntry) int { return strings.Compare(a.Name(), b.Name()) })
	return list
}

// withHome puts the home in the stead of the folder it is laid over.
func (t *Tree) withHome(folder string, list []fs.DirEntry) []fs.DirEntry {
	if path.Dir(t.homeAt) != folder {
		return list
	}
	for i, e := range list {
		if e.Name() != path.Base(t.homeAt) {
			continue
		}
		if fi, err := t.Lstat(t.homeAt); err == nil {
			list[i] = fs.FileInfoToDirEntry(fi)
		}
	}
	return list
}

// Stat describes what name leads to.
func (t *Tree) Stat(name string) (fs.FileInfo, error) {
	if s, ok := t.stats[name]; ok {
		return s.info, s.err
	}
	info, err := t.stat(name)
	if t.stats != nil {
		t.stats[name] = described{info, err}
	}
	return info, err
}

type described struct {
	info fs.FileInfo
	err  error
}

func (t *Tree) stat(name string) (fs.FileInfo, error) {
	host, _, fi, err := t.walk("stat", name, true)
	if err == nil && fi == nil {
		fi, err = os.Lstat(host)
	}
	if err != nil {
		return nil, unhost("stat", name, err)
	}
	return named{fi, path.Base(name)}, nil
}

// Lstat describes name itself, a link as a link.
func (t *Tree) Lstat(name string) (fs.FileInfo, error) {
	host, _, err := t.resolve("lstat", name, false)
	if err != nil {
		return nil, err
	}
	fi, err := os.Lstat(host)
	if err != nil {
		return nil, unhost("lstat", name, err)
	}
	return named{fi, path.Base(name)}, nil
}

// ReadLink returns where the link name points, as written in it.
func (t *Tree) ReadLink(name string) (string, error) {
	host, _, err := t.resolve("readlink", name, false)
	if err != nil {
		return "", err
	}
	target, err := os.Readlink(host)
	return filepath.ToSlash(target), unhost("readlink", name, err)
}

// Resolve returns the name that name ends at once all links are followed. The
// last part, or all that is missing from some point on, need not exist.
func (t *Tree) Resolve(name string) (string, error) {
	_, final, err := t.resolve("resolve", name, true)
	if errors.Is(err, fs.ErrNotExist) {
		return final, nil
	}
	return final, err
}

// Host returns the path on this machine that name ends at; it need not exist.
func (t *Tree) Host(name string) (string, error) {
	final, err := t.Resolve(name)
	if err != nil {
		return "", err
	}
	return t.host(final), nil
}

func (t *Tree) host(name string) string {
	if t.front != "" {
		at := filepath.Join(t.front, filepath.FromSlash(name))
		if fi, err := os.Lstat(at); err == nil && (!fi.IsDir() || !exists(t.behind(name))) {
			return at
		}
		for above := name; above != ""; above = parent(above) {
			if t.gone[above] {
				return at // nothing is there
			}
		}
	}
	return t.behind(name)
}

// behind is the host path of a name where no front is laid over it.
func (t *Tree) behind(name string) string {
	if rest, ok := below(name, t.homeAt); ok {
		rest = filepath.FromSlash(rest)
		at := filepath.Join(t.home, rest)
		if len(t.layers) == 0 {
			return at
		}
		if _, err := os.Lstat(at); err == nil {
			return at
		}
		for _, layer := range t.layers {
			if under := filepath.Join(layer, rest); exists(under) {
				return under
			}
		}
		return at
	}
	return filepath.Join(t.system, filepath.FromSlash(name))
}

func exists(host string) bool {
	_, err := os.Lstat(host)
	return err == nil
}

// resolve walks name part by part. It returns the host path and the final name
// also when the error is fs.ErrNotExist.
func (t *Tree) resolve(op, name string, last bool) (host, final string, err error) {
	host, final, _, err = t.walk(op, name, last)
	return host, final, err
}

// walk is resolve with what is known of the file at the end, nil if it was not looked at.
func (t *Tree) walk(op, name string, last bool) (host, final string, at fs.FileInfo, err error) {
	if !fs.ValidPath(name) {
		return "", "", nil, &fs.PathError{Op: op, Path: name, Err: fs.ErrInvalid}
	}
	ahead := split(name)
	done := ""
	for links := 0; len(ahead) > 0; {
		part := ahead[0]
		ahead, at = ahead[1:], nil
		switch part {
		case "", ".":
			continue
		case "..":
			done = parent(done)
			continue
		}
		next := join(done, part)
		if t.plain[next] {
			done = next
			continue
		}
		switch t.listed(done, part) {
		case entryNone:
			rest := join(next, path.Join(ahead...))
			return t.host(rest), rest, nil, &fs.PathError{Op: op, Path: name, Err: fs.ErrNotExist}
		case entryFolder:
			t.plain[next] = true
			done = next
			continue
		case entryFile:
			if len(ahead) == 0 {
				done = next
				continue
			}
		}
		host := t.host(next)
		fi, err := os.Lstat(host)
		if next == t.homeAt && err != nil {
			fi, err = os.Lstat(t.home)
		}
		if errors.Is(err, fs.ErrNotExist) && strings.HasPrefix(t.homeAt, next+"/") {
			done = next // above the home, in a system tree that has no such folder
			continue
		}
		if err != nil {
			rest := join(next, path.Join(ahead...))
			return t.host(rest), rest, nil, unhost(op, name, err)
		}
		if fi.Mode()&fs.ModeSymlink == 0 || (len(ahead) == 0 && !last) || next == t.homeAt {
			if done = next; next != t.homeAt {
				at = fi
			}
			if t.plain != nil && fi.IsDir() {
				t.plain[next] = true
			}
			continue
		}
		if links++; links > maxLinks {
			return "", "", nil, &fs.PathError{Op: op, Path: name, Err: errLoop}
		}
		target, err := os.Readlink(host)
		if err != nil {
			return "", "", nil, unhost(op, name, err)
		}
		target = filepath.ToSlash(target)
		if strings.HasPrefix(target, "/") {
			done = ""
		}
		ahead = slices.Concat(split(target), ahead)
	}
	if done == "" {
		done = "."
	}
	return t.host(done), done, at, nil
}

// Lacks reports whether the list of a folder, read once and remembered, has no such name;
// false in a tree that remembers nothing, and if the folder cannot be listed. It is for going
// through many names without looking up each.
func (t *Tree) Lacks(folder, name string) bool {
	if t.lists == nil || name == "" {
		return false
	}
	if _, ok := t.lists[folder]; !ok {
		t.lists[folder] = t.readDir(folder)
	}
	first, _, _ := strings.Cut(name, "/")
	return first != "." && first != ".." && t.listed(folder, first) == entryNone
}

// IsDir reports whether name leads to a folder.
func (t *Tree) IsDir(name string) bool {
	if t.listed(path.Dir(name), path.Base(name)) == entryFolder {
		return true
	}
	fi, err := t.Stat(name)
	return err == nil && fi.IsDir()
}

// What a list of a folder says of a name in it.
type entry int

const (
	entryUnknown entry = iota // not listed yet, or a link
	entryNone
	entryFolder
	entryFile
)

// listed is what the list of a folder, if it is remembered, says of a name in it. Of the
// home and what is above it nothing is said: it is laid over what is listed there.
func (t *Tree) listed(folder, part string) entry {
	l, ok := t.lists[folder]
	next := join(l.at, part)
	switch {
	case !ok, next == t.homeAt, strings.HasPrefix(t.homeAt, next+"/"):
		return entryUnknown
	case errors.Is(l.err, fs.ErrNotExist):
		return entryNone
	case l.err != nil:
		return entryUnknown
	}
	i, found := slices.BinarySearchFunc(l.list, part, func(e fs.DirEntry, name string) int { return strings.Compare(e.Name(), name) })
	switch {
	case !found:
		return entryNone
	case l.list[i].IsDir():
		return entryFolder
	case l.list[i].Type().IsRegular():
		return entryFile
	}
	return entryUnknown
}

func split(name string) []string { return strings.Split(name, "/") }

func join(dir, part string) string {
	switch {
	case dir == "":
		return part
	case part == "":
		return dir
	}
	return dir + "/" + part
}

func parent(name string) string {
	if i := strings.LastIndexByte(name, '/'); i >= 0 {
		return name[:i]
	}
	return ""
}

// below returns the part of name under dir, "." for dir itself.
func below(name, dir string) (string, bool) {
	if name == dir {
		return ".", true
	}
	rest, ok := strings.CutPrefix(name, dir+"/")
	return rest, ok && dir != ""
}

// unhost puts the tree's own name into an error about a host path.
func unhost(op, name string, err error) error {
	if err == nil {
		return nil
	}
	var pe *fs.PathError
	if errors.As(err, &pe) {
		err = pe.Err
	}
	if errors.Is(err, syscall.ENOTDIR) {
		err = fs.ErrNotExist
	}
	return &fs.PathError{Op: op, Path: name, Err: err}
}

type named struct {
	fs.FileInfo
	name string
}

func (n named) Name() string { return n.name }

type treeFile struct {
	*os.File
	name string
	tree *Tree
	at   string // where it is, links followed
}

func (f treeFile) ReadDir(n int) ([]fs.DirEntry, error) {
	list, err := f.File.ReadDir(n)
	if n <= 0 { // in one go: what comes in parts is the home's alone
		list = f.tree.withLayers(f.at, f.tree.withFront(f.at, list))
	}
	return f.tree.withHome(f.at, list), err
}

func (f treeFile) Stat() (fs.FileInfo, error) {
	fi, err := f.File.Stat()
	if err != nil {
		return nil, err
	}
	return named{fi, f.name}, nil
}
