package apply

import (
	"errors"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"syscall"
	"time"

	"golang.org/x/sys/unix"

	"ivelt/core/desk"
	"ivelt/core/plan"
	"ivelt/core/say"
)

// Call is a system call by which carrying out a plan changes something.
type Call struct {
	Name string // mkdir create write chown chmod sync times rename swap link remove sync-folder sync-all change
	Path string // host path; of a change the setting's
	To   string // of a rename, of a swap, of a link
}

// disk is a folder of this machine below which a plan writes, and nowhere else.
// Every call that changes something is announced first; the answer may be that
// it fails.
type disk struct {
	root   *os.Root
	at     string
	before func(Call) error // may be nil
}

// openDisk opens the folder at, a host path.
func openDisk(at string, before func(Call) error) (disk, error) {
	root, err := os.OpenRoot(at)
	return disk{root, at, before}, err
}

func (k disk) close() { k.root.Close() }

func (k disk) host(name string) string { return filepath.Join(k.at, filepath.FromSlash(name)) }

func (k disk) call(call, name, to string) error {
	if k.before == nil {
		return nil
	}
	c := Call{Name: call, Path: k.host(name)}
	if to != "" {
		c.To = k.host(to)
	}
	return k.before(c)
}

// above looks at the folders above name: one that has become a link, or that is no
// folder, is [errGone].
func (k disk) above(name string) error {
	for dir := path.Dir(name); dir != "."; dir = path.Dir(dir) {
		fi, err := k.root.Lstat(dir)
		switch {
		case errors.Is(err, fs.ErrNotExist) || plan.NotFolder(err):
		case err != nil:
			return err
		case fi.Mode()&fs.ModeSymlink != 0:
			return say.Errorf("%w: %w", plan.ErrChanged, errGone)
		case !fi.IsDir():
			return say.Errorf("%w: %w", errGone, syscall.ENOTDIR)
		}
	}
	return nil
}

var errGone = errors.New("what was a folder above it is none")

func (k disk) mkdir(name string) error {
	if err := k.call("mkdir", name, ""); err != nil {
		return err
	}
	return k.root.Mkdir(name, 0o755)
}

func (k disk) symlink(to, name string) error {
	if err := k.call("link", name, ""); err != nil {
		return err
	}
	return k.root.Symlink(to, name)
}

func (k disk) times(name string, at time.Time) error {
	if err := k.call("times", name, ""); err != nil {
		return err
	}
	return k.root.Chtimes(name, time.Time{}, at)
}

// move gives what is at name another name in the same folder, where nothing may
// be: else it is [fs.ErrExist].
func (k disk) move(name, to string) error {
	if err := k.call("rename", name, to); err != nil {
		return err
	}
	err := k.renameat(name, to, unix.RENAME_NOREPLACE)
	if !unknownFlag(err) {
		return err
	}
	if _, err := k.root.Lstat(to); err == nil {
		return &fs.PathError{Op: "rename", Path: to, Err: fs.ErrExist}
	}
	return k.root.Rename(name, to)
}

// swap lets two files of one folder change their places, in one step.
func (k disk) swap(a, b string) error {
	if err := k.call("swap", a, b); err != nil {
		return err
	}
	err := k.renameat(a, b, unix.RENAME_EXCHANGE)
	if !unknownFlag(err) {
		return err
	}
	// A file system that cannot: b is never missing meanwhile, and what was
	// there has a second name.
	aside := a + besides
	if err := k.call("link", aside, ""); err != nil {
		return err
	}
	if err := k.root.Link(b, aside); err != nil {
		return err
	}
	if err := k.call("rename", a, b); err != nil {
		return err
	}
	if err := k.root.Rename(a, b); err != nil {
		return err
	}
	if err := k.call("rename", aside, a); err != nil {
		return err
	}
	return k.root.Rename(aside, a)
}

// besides is behind the name of what a swap in steps has put aside.
const besides = ".aside"

func (k disk) renameat(a, b string, flags uint) error {
	dir, err := k.root.Open(path.Dir(a))
	if err != nil {
		return err
	}
	defer dir.Close()
	if err := renameat2(int(dir.Fd()), path.Base(a), int(dir.Fd()), path.Base(b), flags); err != nil {
		return &fs.PathError{Op: "rename", Path: b, Err: err}
	}
	return nil
}

var renameat2 = unix.Renameat2

// but for a test, as on a file system that cannot

func unknownFlag(err error) bool {
	return errors.Is(err, unix.EINVAL) || errors.Is(err, unix.ENOSYS) || errors.Is(err, unix.ENOTSUP)
}

func (k disk) remove(name string) error {
	if err := k.call("remove", name, ""); err != nil {
		return err
	}
	return k.root.Remove(name)
}

// removeAll takes away what is at name with all that is in it; nothing there is
// fine.
func (k disk) removeAll(name string) error {
	fi, err := k.root.Lstat(name) // where nothing can be taken away, nothing has to be
	if errors.Is(err, fs.ErrNotExist) || plan.NotFolder(err) {
		return nil
	}
	if err != nil {
		return err
	}
	if k.before == nil {
		return k.root.RemoveAll(name)
	}
	if fi.IsDir() {
		list, err := fs.ReadDir(k.root.FS(), name)
		if err != nil {
			return err
		}
		for _, e := range list {
			if err := k.removeAll(path.Join(name, e.Name())); err != nil {
				return err
			}
		}
	}
	return k.remove(name)
}

// into opens a folder of k: working in it then takes no walk down to it.
func (k disk) into(name string) (disk, error) {
	root, err := k.root.OpenRoot(name)
	return disk{root, k.host(name), k.before}, err
}

// put writes a new file, which is on disk when put returns, with the attributes it
// should have; nil for those of a new file.
func (k disk) put(name string, content []byte, s plan.State, lose []plan.Loss) error {
	f, err := k.create(name, 0o600)
	if err != nil {
		return err
	}
	_, err = f.Write(content)
	if err == nil && s.Attributes != nil {
		err = f.having(*s.Attributes, lose)
	}
	if err == nil {
		err = f.chmod(s.Mode)
	}
	if err == nil {
		err = f.sync()
	}
	err = errors.Join(err, f.Close())
	if err == nil && !s.ModTime.IsZero() {
		err = k.times(name, s.ModTime)
	}
	return err
}

// newFile is a file that is being written.
type newFile struct {
	*os.File
	k    disk
	name string
}

// create makes a file that must not be there.
func (k disk) create(name string, mode fs.FileMode) (newFile, error) {
	if err := k.call("create", name, ""); err != nil {
		return newFile{}, err
	}
	f, err := k.root.OpenFile(name, os.O_WRONLY|os.O_CREATE|os.O_EXCL, mode)
	return newFile{f, k, name}, err
}

// Write writes in two halves what is more than a few bytes, as a system may.
func (f newFile) Write(b []byte) (n int, err error) {
	parts := [][]byte{b}
	if f.k.before != nil && len(b) > 8 {
		parts = [][]byte{b[:len(b)/2], b[len(b)/2:]}
	}
	for _, part := range parts {
		if err := f.k.call("write", f.name, ""); err != nil {
			return n, err
		}
		m, err := f.File.Write(part)
		if n += m; err != nil {
			return n, err
		}
	}
	return n, nil
}

func (f newFile) chmod(mode fs.FileMode) error {
	if err := f.k.call("chmod", f.name, ""); err != nil {
		return err
	}
	return f.Chmod(mode)
}

func (f newFile) sync() error {
	if err := f.k.call("sync", f.name, ""); err != nil {
		return err
	}
	return f.Sync()
}

// syncFolder puts what a folder lists on disk.
func (k disk) syncFolder(name string) error {
	if err := k.call("sync-folder", name, ""); err != nil {
		return err
	}
	f, err := k.root.Open(name)
	if err != nil {
		return err
	}
	defer f.Close()
	return f.Sync()
}

// syncAll puts everything written to the file system on disk: for a tree of
// thousands of files that is far quicker than a sync for each.
func (k disk) syncAll() error {
	if err := k.call("sync-all", ".", ""); err != nil {
		return err
	}
	f, err := k.root.Open(".")
	if err != nil {
		return err
	}
	defer f.Close()
	return unix.Syncfs(int(f.Fd()))
}

// ErrBusy: another Ivelt is at work on the desk.
var ErrBusy = errors.New("another Ivelt is changing this desk")

// Hold keeps every other Ivelt from changing a desk while it is looked at, until release is
// called, also before a plan of one's own is carried out. It is [ErrBusy] if another is at work
// for longer than patience lasts.
func Hold(d *desk.Desk, patience time.Duration) (release func(), err error) {
	return lockDesk(d, patience)
}

// lockDesk keeps every other Ivelt, with whatever data folder, from changing the
// desk until release is called. It waits for one that is at work as long as
// patience lasts.
func lockDesk(d *desk.Desk, patience time.Duration) (release func(), err error) {
	f, err := os.Open(d.Home)
	if err != nil {
		return nil, err
	}
	for until := time.Now().Add(patience); ; time.Sleep(20 * time.Millisecond) {
		err := unix.Flock(int(f.Fd()), unix.LOCK_EX|unix.LOCK_NB)
		switch {
		case err == nil:
			return func() {
				// A child that is being started shares the open folder until it is its own
				// program: closing alone would leave the lock with it.
				_ = unix.Flock(int(f.Fd()), unix.LOCK_UN)
				f.Close()
			}, nil
		case errors.Is(err, unix.EINTR):
		case !errors.Is(err, unix.EWOULDBLOCK):
			f.Close()
			return nil, &fs.PathError{Op: "lock", Path: d.Home, Err: err}
		case time.Now().After(until):
			f.Close()
			return nil, ErrBusy
		}
	}
}
