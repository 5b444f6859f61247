package apply

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path"
	"path/filepath"
	"slices"
	"syscall"

	"golang.org/x/sys/unix"

	"ivelt/core/plan"
	"ivelt/core/say"
)

// cannotWrite reports whether an error is that of a place, not of a plan.
func cannotWrite(err error) bool {
	return plan.NotFolder(err) || errors.Is(err, fs.ErrPermission) || slices.ContainsFunc([]error{syscall.EROFS, syscall.ENOSPC, syscall.EDQUOT, syscall.EIO, syscall.ENOTDIR}, func(e error) bool { return errors.Is(err, e) })
}

func (x *run) step() {
	x.done++
	x.Progress(x.done, x.total)
}

func (x *run) do(ctx context.Context, i int, op plan.Op) error {
	if op.Kind == plan.Set {
		defer x.step()
		return x.set(op.Path, op.Before, op.After)
	}
	if op.Kind == plan.Package {
		defer x.step()
		return x.packages(i)
	}
	k, name, err := x.open(op.Path)
	if err != nil {
		return err
	}
	defer k.close()
	temp := x.temp(name, i)
	switch op.Kind {
	case plan.Folder:
		defer x.step()
		if err := k.mkdir(name); err != nil && !errors.Is(err, fs.ErrExist) {
			return err
		}
		return k.syncFolder(path.Dir(name))
	case plan.Write:
		defer x.step()
		return x.write(k, name, temp, op)
	case plan.Link:
		defer x.step()
		if err := k.symlink(op.After.Hash, name); err != nil {
			return x.inTheWay(err, op)
		}
		return k.syncFolder(path.Dir(name))
	case plan.Copy:
		return x.copy(ctx, k, name, temp, op)
	case plan.Remove:
		defer x.step()
		return x.remove(k, name, temp, op)
	}
	return say.Errorf("unknown operation %q", op.Kind)
}

// inTheWay says what it means that something is where nothing should be.
func (x *run) inTheWay(err error, op plan.Op) error {
	if errors.Is(err, fs.ErrExist) {
		return say.Errorf("%w: %s is there now", plan.ErrChanged, x.d.Show(op.Path))
	}
	return err
}

// temp names what an operation works on before it is in its place. The name is
// known from the plan alone, so that a later start can clear it away.
func (x *run) temp(name string, i int) string {
	return path.Join(path.Dir(name), fmt.Sprintf(".ivelt-%s-%d", x.plan.ID, i))
}

// write puts a file in its place. What was there changes places with it in one
// step and is looked at only then, so that nothing is written over that came in
// at the last moment; it is cleared away when the plan has come through.
func (x *run) write(k disk, name, temp string, op plan.Op) error {
	as := op.After
	if op.Before.Kind != "" { // what the one has that is there, the other gets
		now, err := x.lookAt(k, name)
		if err != nil {
			return err
		}
		if as.Attributes = now.Attributes; as.Attributes == nil {
			as.Attributes = &plan.Plain
		}
	}
	if err := k.put(temp, op.Content, as, op.Loses); err != nil {
		return err
	}
	if op.Before.Kind == "" {
		if err := k.move(temp, name); err != nil {
			return x.inTheWay(err, op)
		}
		return k.syncFolder(path.Dir(name))
	}
	if err := k.swap(temp, name); err != nil {
		return err
	}
	was, err := x.lookAt(k, temp)
	if err == nil && !was.Is(op.Before) {
		err = say.Errorf("%w: %s", plan.ErrChanged, x.d.Show(op.Path))
	}
	if err != nil {
		return errors.Join(err, k.swap(temp, name))
	}
	return k.syncFolder(path.Dir(name))
}

func (x *run) lookAt(k disk, name string) (plan.State, error) { return plan.LookAt(k.host(name)) }

func (x *run) copy(ctx context.Context, k disk, name, temp string, op plan.Op) error {
	m, err := x.copied(ctx, k, temp, op)
	if err == nil && m.Hash() != op.After.Hash {
		err = say.Errorf("%w: look at it again", plan.ErrParcel)
	}
	if err == nil {
		err = k.syncAll()
	}
	if err != nil {
		return err
	}
	if err := k.move(temp, name); err != nil {
		return x.inTheWay(err, op)
	}
	return k.syncFolder(path.Dir(name))
}

// copied writes a piece under a name, and returns the manifest of what was written.
func (x *run) copied(ctx context.Context, k disk, temp string, op plan.Op) (plan.Manifest, error) {
	if op.Source.Kept != "" {
		kept, err := x.Keep.Get(op.Source.Kept)
		if err != nil {
			return nil, err
		}
		return writeKept(ctx, k, temp, kept, op.Loses, x.step)
	}
	p, err := x.parcel(ctx, *op.Source)
	if err != nil {
		return nil, err
	}
	c, err := plan.ReadTree(p, *op.Source)
	if err != nil {
		return nil, err
	}
	return writePiece(ctx, c, k, temp, x.step)
}

// remove puts what is to go out of sight only, so that it can come back whole:
// finish deletes it.
func (x *run) remove(k disk, name, temp string, op plan.Op) error {
	if op.IsFolder() {
		return nil // finish removes it, if nothing is in it by then
	}
	if err := k.move(name, temp); err != nil {
		return err
	}
	changed := false
	if op.Before.Kind == "tree" {
		s, err := plan.StampOf(k.host(temp))
		changed = err != nil || s != x.stamps[op.Path]
	} else {
		now, err := x.lookAt(k, temp)
		changed = err != nil || !now.Is(op.Before)
	}
	if changed {
		return errors.Join(say.Errorf("%w: %s", plan.ErrChanged, x.d.Show(op.Path)), k.move(temp, name))
	}
	return k.syncFolder(path.Dir(name))
}

// movable looks whether what an operation makes could be taken away again: in a folder
// that is for adding to only, it could not.
func (x *run) movable(op plan.Op) error {
	if op.Kind == plan.Set || op.Kind == plan.Package {
		return nil
	}
	for _, at := range []string{x.d.HostPath(op.Path), filepath.Dir(x.d.HostPath(op.Path))} {
		var st unix.Statx_t
		if err := unix.Statx(unix.AT_FDCWD, at, unix.AT_SYMLINK_NOFOLLOW, 0, &st); err != nil {
			continue // it is not there, or the file system does not tell
		}
		for attribute, words := range map[uint64]string{unix.STATX_ATTR_APPEND: "is for adding to only (chattr -a takes that off)", unix.STATX_ATTR_IMMUTABLE: "is not to be changed (chattr -i takes that off)"} {
			if st.Attributes&attribute != 0 {
				return say.Errorf("%s %w: %s", x.d.Show(op.Path), plan.ErrWrite, at+" "+words)
			}
		}
	}
	return nil
}

// open returns the folder a path may be written in, the home or the system,
// and the path's name below it. Nothing outside can be reached through it, and
// nothing by way of a link.
func (x *run) open(p string) (disk, string, error) {
	top, at := x.d.System, "/"
	if x.d.Mine(p) {
		top, at = x.d.Home, x.d.HomePath
	}
	k, err := openDisk(top, x.Before)
	if err != nil {
		return k, "", err
	}
	rel, err := filepath.Rel(at, p)
	name := filepath.ToSlash(rel)
	if err == nil {
		if err = k.above(name); errors.Is(err, plan.ErrChanged) {
			err = say.Errorf("%w, above %s", err, x.d.Show(p))
		}
	}
	if err != nil {
		k.close()
	}
	return k, name, err
}

// writePiece copies a piece into the folder dir of k, which must not exist,
// and returns the manifest of what was written.
func writePiece(ctx context.Context, c *plan.Tree, k disk, dir string, step func()) (plan.Manifest, error) {
	if err := k.mkdir(dir); err != nil {
		return nil, err
	}
	for _, rel := range c.Folders {
		if err := k.mkdir(path.Join(dir, rel)); err != nil {
			return nil, err
		}
	}
	var m plan.Manifest
	var at disk // the folder written in last
	in := ""
	defer func() {
		if in != "" {
			at.close()
		}
	}()
	err := c.Each(ctx, func(rel string, fi fs.FileInfo, r io.Reader) error {
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
		f, err := at.create(name, c.Mode(fi))
		if err != nil {
			return err
		}
		defer f.Close()
		step()
		if err := m.File(rel, io.TeeReader(r, f)); err != nil {
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
	for rel, to := range c.Links {
		if err := k.symlink(to, path.Join(dir, rel)); err != nil {
			return nil, err
		}
		step()
	}
	c.Skeleton(&m)
	return m, nil
}
