package plan

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"
	"time"

	"golang.org/x/sys/unix"

	"ivelt/core/desk"
	"ivelt/core/parcel"
)

// Keeper keeps file contents by hash.
type Keeper interface {
	Put([]byte) (hash string, err error)
	Get(hash string) ([]byte, error)
}

// Config for [Apply] and [Recover].
type Config struct {
	Keep     Keeper
	Journal  string                // host path of the journal file of this desk
	Progress func(done, total int) // files written so far; may be nil
	// Commit is called once everything is in place. Until it returns nil the
	// change can still be rolled back; if it fails, it is.
	Commit func() error
}

// Apply carries the plan out, or leaves the desk as it was.
func Apply(ctx context.Context, d *desk.Desk, p Plan, c Config) error {
	if !d.Writable {
		return fmt.Errorf("%w: nothing was changed", ErrReadOnly)
	}
	if c.Progress == nil {
		c.Progress = func(int, int) {}
	}
	x := &run{d: d, plan: p, Config: c}
	for _, op := range p.Ops {
		x.total += max(1, op.Files)
	}
	if err := x.check(); err != nil {
		return err
	}
	if err := x.begin(); err != nil {
		return err
	}
	err := x.forward(ctx)
	if err == nil && c.Commit != nil {
		err = c.Commit()
	}
	if err != nil {
		if back := x.rollback(); back != nil {
			return errors.Join(err, fmt.Errorf("and rolling back failed, which is tried again at the next start: %w", back))
		}
		return err
	}
	return x.finish()
}

// Recover finishes what a crash interrupted: if the journal is there, the desk
// is put back as it was before the plan in it, unless committed says that the
// plan had come through. It returns that plan and whether it was undone.
func Recover(d *desk.Desk, c Config, committed func(Plan) bool) (p Plan, undone bool, err error) {
	b, err := os.ReadFile(c.Journal)
	if errors.Is(err, fs.ErrNotExist) {
		return Plan{}, false, nil
	}
	if err != nil {
		return Plan{}, false, err
	}
	if err := json.Unmarshal(b, &p); err != nil {
		// Written by temp-and-rename: a half-written journal cannot be; this
		// one is not ours to act on.
		return Plan{}, false, fmt.Errorf("journal %s: %w", c.Journal, err)
	}
	x := &run{d: d, plan: p, Config: c}
	if committed(p) {
		return p, false, x.finish()
	}
	return p, true, x.rollback()
}

type run struct {
	Config
	d           *desk.Desk
	plan        Plan
	done, total int
	opened      *parcel.Parcel // the parcel copied from last
}

func (x *run) parcel(ctx context.Context, src Source) (*parcel.Parcel, error) {
	if src.Kept != "" {
		b, err := x.Keep.Get(src.Kept)
		if err != nil {
			return nil, err
		}
		return parcel.OpenBytes(ctx, "what was kept", b, parcel.Options{})
	}
	if x.opened != nil && x.opened.Path == src.Parcel {
		return x.opened, nil
	}
	p, err := parcel.Open(ctx, src.Parcel, parcel.Options{Password: src.Secret})
	x.opened = p
	return p, err
}

// check looks at every precondition before anything is written.
func (x *run) check() error {
	after := map[string]State{} // of paths that an earlier operation has changed
	for _, op := range x.plan.Ops {
		now, changed := after[op.Path]
		if !changed {
			var err error
			if now, err = look(x.d, op.Path); err != nil {
				return fmt.Errorf("%s: %w", x.d.Show(op.Path), err)
			}
		}
		after[op.Path] = op.After
		if op.Kind == Remove && op.isFolder() && now.Kind == "tree" {
			continue // removed only if it is empty by then
		}
		if op.Kind == Folder && now.Kind == "tree" {
			continue
		}
		if !now.Is(op.Before) {
			return fmt.Errorf("%w: %s. Nothing was written; review again", ErrChanged, x.d.Show(op.Path))
		}
	}
	return nil
}

// begin keeps the originals and writes the journal; both are on disk before
// the first operation.
func (x *run) begin() error {
	for i, op := range x.plan.Ops {
		if op.Kind == Remove && op.Before.Kind == "tree" && op.Source != nil && op.Source.Kept != "" {
			if err := x.keepTree(i); err != nil {
				return err
			}
		}
		if op.Before.Kind != "file" {
			continue
		}
		b, err := os.ReadFile(x.d.HostPath(op.Path))
		if err != nil {
			return fmt.Errorf("keep the original of %s: %w", x.d.Show(op.Path), err)
		}
		if hash, err := x.Keep.Put(b); err != nil || hash != op.Before.Hash {
			return errors.Join(fmt.Errorf("keep the original of %s: %w", x.d.Show(op.Path), ErrChanged), err)
		}
	}
	b, err := json.Marshal(x.plan)
	if err != nil {
		return err
	}
	dir, err := os.OpenRoot(filepath.Dir(x.Journal))
	if err != nil {
		return err
	}
	defer dir.Close()
	return writeFile(dir, filepath.Base(x.Journal), ".journal-new", b, 0o600, time.Time{})
}

// keepTree puts a tree that no parcel can give back into the Keeper, as a tar.
func (x *run) keepTree(i int) error {
	op := x.plan.Ops[i]
	b, err := tarOf(x.d.HostPath(op.Path))
	if err != nil {
		return fmt.Errorf("keep %s: %w", x.d.Show(op.Path), err)
	}
	hash, err := x.Keep.Put(b)
	if err == nil && hash != op.Source.Kept {
		err = ErrChanged
	}
	if err != nil {
		return fmt.Errorf("keep %s: %w", x.d.Show(op.Path), err)
	}
	return nil
}

func (x *run) forward(ctx context.Context) error {
	for i, op := range x.plan.Ops {
		if err := ctx.Err(); err != nil {
			return err
		}
		if err := x.do(ctx, i, op); err != nil {
			if errors.Is(err, fs.ErrPermission) || notFolder(err) || strings.Contains(err.Error(), "read-only file system") {
				return fmt.Errorf("%s %w: %w. Everything is as it was before", x.d.Show(op.Path), ErrWrite, err)
			}
			return err
		}
	}
	return nil
}

func (x *run) step() {
	x.done++
	x.Progress(x.done, x.total)
}

func (x *run) do(ctx context.Context, i int, op Op) error {
	root, name, err := x.open(op.Path)
	if err != nil {
		return err
	}
	defer root.Close()
	switch op.Kind {
	case Folder:
		defer x.step()
		if err := root.Mkdir(name, 0o755); !errors.Is(err, fs.ErrExist) {
			return err
		}
		return nil
	case Write:
		defer x.step()
		if now, err := look(x.d, op.Path); err != nil || !now.Is(op.Before) {
			return errors.Join(fmt.Errorf("%w: %s", ErrChanged, x.d.Show(op.Path)), err)
		}
		return writeFile(root, name, x.temp(name, i), op.Content, op.After.Mode, op.After.ModTime)
	case Link:
		defer x.step()
		if err := root.Symlink(op.After.Hash, name); err != nil {
			return err
		}
		return syncFolder(root, path.Dir(name))
	case Copy:
		return x.copy(ctx, root, name, x.temp(name, i), op)
	case Remove:
		defer x.step()
		return x.remove(root, name, x.temp(name, i), op)
	}
	return fmt.Errorf("unknown operation %q", op.Kind)
}

// temp names what an operation works on before it is in its place. The name is
// known from the plan alone, so that a later start can clear it away.
func (x *run) temp(name string, i int) string {
	return path.Join(path.Dir(name), fmt.Sprintf(".ivelt-%s-%d", x.plan.ID, i))
}

func (x *run) copy(ctx context.Context, root *os.Root, name, temp string, op Op) error {
	p, err := x.parcel(ctx, *op.Source)
	if err != nil {
		return err
	}
	c, err := readPiece(p, *op.Source)
	if err != nil {
		return err
	}
	m, err := c.write(ctx, root, temp, x.step)
	if err == nil && m.hash() != op.After.Hash {
		err = fmt.Errorf("%w: look at it again", ErrParcel)
	}
	if err == nil {
		err = syncAll(root)
	}
	if err == nil {
		err = root.Rename(temp, name)
	}
	if err != nil {
		return errors.Join(err, root.RemoveAll(temp))
	}
	return syncFolder(root, path.Dir(name))
}

func (x *run) remove(root *os.Root, name, temp string, op Op) error {
	if op.isFolder() {
		return nil // finish removes it, if nothing is in it by then
	}
	if op.Before.Kind == "file" || op.Before.Kind == "link" {
		if err := root.Remove(name); err != nil {
			return err
		}
		return syncFolder(root, path.Dir(name))
	}
	// Out of sight only, so that it can come back whole: finish deletes it.
	if err := root.Rename(name, temp); err != nil {
		return err
	}
	return syncFolder(root, path.Dir(name))
}

// finish does what cannot be taken back, once the plan has come through: it
// deletes the trees that were moved out of sight, then the folders that were
// made for them, if nothing else is in them.
func (x *run) finish() error {
	for _, folders := range []bool{false, true} {
		for i, op := range x.plan.Ops {
			if op.Kind != Remove || op.Before.Kind != "tree" || op.isFolder() != folders {
				continue
			}
			root, name, err := x.open(op.Path)
			if err != nil {
				return err
			}
			if !folders {
				err = root.RemoveAll(x.temp(name, i))
			} else if left, e := fs.ReadDir(root.FS(), name); e == nil && len(left) == 0 {
				err = root.Remove(name)
			}
			root.Close()
			if err != nil {
				return err
			}
		}
	}
	return os.Remove(x.Journal)
}

// rollback undoes what has been done of the plan, in reverse. It can be
// repeated: what is as before is left alone.
func (x *run) rollback() error {
	var errs []error
	for i := len(x.plan.Ops) - 1; i >= 0; i-- {
		if err := x.undo(i, x.plan.Ops[i]); err != nil {
			errs = append(errs, fmt.Errorf("%s: %w", x.d.Show(x.plan.Ops[i].Path), err))
		}
	}
	if len(errs) > 0 {
		return errors.Join(errs...)
	}
	if err := os.Remove(x.Journal); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	return nil
}

func (x *run) undo(i int, op Op) error {
	root, name, err := x.open(op.Path)
	if err != nil {
		return err
	}
	defer root.Close()
	temp := x.temp(name, i)
	now, err := look(x.d, op.Path)
	if err != nil {
		return err
	}
	switch op.Kind {
	case Folder:
		if op.Before.Kind == "" && now.Is(emptyTree) {
			return root.Remove(name)
		}
		return nil
	case Link:
		if now.Is(op.After) {
			return root.Remove(name)
		}
		return nil
	case Copy:
		if now.Is(op.After) && !op.Before.Is(op.After) {
			if err := root.Rename(name, temp); err != nil {
				return err
			}
		}
		return root.RemoveAll(temp)
	case Write:
		if err := root.RemoveAll(temp); err != nil || now.Is(op.Before) {
			return err
		}
		if !now.Is(op.After) {
			return fmt.Errorf("%w while the plan ran; it is left as it is", ErrChanged)
		}
		if op.Before.Kind == "" {
			return root.Remove(name)
		}
		b, err := x.Keep.Get(op.Before.Hash)
		if err != nil {
			return err
		}
		return writeFile(root, name, temp, b, op.Before.Mode, op.Before.ModTime)
	case Remove:
		return x.unremove(root, name, temp, now, op)
	}
	return nil
}

func (x *run) unremove(root *os.Root, name, temp string, now State, op Op) error {
	switch {
	case now.Kind != "":
		return nil
	case op.Before.Kind == "file":
		b, err := x.Keep.Get(op.Before.Hash)
		if err != nil {
			return err
		}
		if err := root.RemoveAll(temp); err != nil {
			return err
		}
		return writeFile(root, name, temp, b, op.Before.Mode, op.Before.ModTime)
	case op.Before.Kind == "link":
		return root.Symlink(op.Before.Hash, name)
	case op.isFolder():
		return nil
	}
	return root.Rename(temp, name)
}

// open returns the folder a path may be written in, the home or the system,
// and the path's name below it. Nothing outside can be reached through it.
func (x *run) open(p string) (*os.Root, string, error) {
	top, at := x.d.System, "/"
	if x.d.Mine(p) {
		top, at = x.d.Home, x.d.HomePath
	}
	root, err := os.OpenRoot(top)
	if err != nil {
		return nil, "", err
	}
	rel, err := filepath.Rel(at, p)
	return root, filepath.ToSlash(rel), err
}

// writeFile puts content at name by way of temp in the same folder.
func writeFile(root *os.Root, name, temp string, content []byte, mode fs.FileMode, modTime time.Time) error {
	f, err := root.OpenFile(temp, os.O_WRONLY|os.O_CREATE|os.O_TRUNC, 0o600)
	if err != nil {
		return err
	}
	_, err = bytes.NewReader(content).WriteTo(f)
	err = errors.Join(err, f.Chmod(mode), f.Sync(), f.Close())
	if err == nil && !modTime.IsZero() {
		err = root.Chtimes(temp, modTime, modTime)
	}
	if err == nil {
		err = root.Rename(temp, name)
	}
	if err != nil {
		return errors.Join(err, root.RemoveAll(temp))
	}
	return syncFolder(root, path.Dir(name))
}

// syncAll puts everything written to the file system of root on disk: for a
// tree of thousands of files that is far quicker than a sync for each.
func syncAll(root *os.Root) error {
	f, err := root.Open(".")
	if err != nil {
		return err
	}
	defer f.Close()
	return unix.Syncfs(int(f.Fd()))
}

func syncFolder(root *os.Root, name string) error {
	f, err := root.Open(name)
	if err != nil {
		return err
	}
	defer f.Close()
	return f.Sync()
}
