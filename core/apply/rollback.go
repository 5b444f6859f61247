package apply

import (
	"bytes"
	"errors"
	"io/fs"
	"path"
	"path/filepath"

	"ivelt/core/plan"
	"ivelt/core/say"
)

// removes is how many files the plan takes away.
func (x *run) removes() int {
	n := 0
	for _, op := range x.plan.Ops {
		if op.Kind == plan.Remove {
			n += op.Files
		}
	}
	return n
}

// finish does what cannot be taken back, once the plan has come through: it
// deletes what was moved out of sight, then the folders that were made for
// pieces that went, if nothing else is in them.
func (x *run) finish() error {
	for _, folders := range []bool{false, true} {
		for i, op := range x.plan.Ops {
			if op.Kind != plan.Remove && op.Kind != plan.Write || op.Before.Kind == "" || (op.Kind == plan.Remove && op.IsFolder()) != folders {
				continue
			}
			if err := x.clear(i, op, folders); err != nil {
				return err
			}
		}
	}
	return x.end()
}

func (x *run) clear(i int, op plan.Op, folder bool) error {
	k, name, err := x.open(op.Path)
	if errors.Is(err, errGone) {
		return nil // and what was to be cleared away is gone with it
	}
	if err != nil {
		return err
	}
	defer k.close()
	if !folder {
		err = k.removeAll(x.temp(name, i))
	} else if left, e := fs.ReadDir(k.root.FS(), name); e == nil && len(left) == 0 {
		err = k.remove(name)
	}
	if errors.Is(err, fs.ErrNotExist) || plan.NotFolder(err) {
		return nil // the folder above it went too
	}
	if err != nil {
		return err
	}
	return x.settle(k, path.Dir(name))
}

// settle puts on disk what a folder lists, if it is still there.
func (x *run) settle(k disk, folder string) error {
	if err := k.syncFolder(folder); !errors.Is(err, fs.ErrNotExist) && !plan.NotFolder(err) {
		return err
	}
	return nil
}

// end takes the journal away: everything is as it should be, and on disk.
func (x *run) end() error {
	k, err := openDisk(filepath.Dir(x.Journal), x.Before)
	if err != nil {
		return err
	}
	defer k.close()
	if err := k.remove(filepath.Base(x.Journal)); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	return k.syncFolder(".")
}

// rollback undoes what has been done of the plan, in reverse. It can be
// repeated: what is as before is left alone.
func (x *run) rollback() error {
	var errs []error
	for i := len(x.plan.Ops) - 1; i >= 0; i-- {
		if err := x.undo(i, x.plan.Ops[i]); err != nil {
			errs = append(errs, say.Errorf("%s: %w", x.d.Show(x.plan.Ops[i].Path), err))
		}
	}
	if len(errs) > 0 {
		return errors.Join(errs...)
	}
	return x.end()
}

func (x *run) undo(i int, op plan.Op) error {
	switch op.Kind {
	case plan.Set:
		return x.unset(op)
	case plan.Package:
		return x.unpackage(i)
	}
	k, name, err := x.open(op.Path)
	if errors.Is(err, errGone) { // somebody has made something else of it since
		x.left = append(x.left, x.d.Show(op.Path))
		return nil
	}
	if err != nil {
		return err
	}
	defer k.close()
	temp := x.temp(name, i)
	if op.Kind == plan.Folder {
		if now, err := plan.LookFolder(x.d, op.Path); err != nil || op.Before.Kind != "" || !now.Is(plan.EmptyTree) {
			return err
		}
		if err := k.remove(name); err != nil {
			return err
		}
		return x.settle(k, path.Dir(name))
	}
	now, err := x.lookAt(k, name)
	if err != nil {
		return err
	}
	switch op.Kind {
	case plan.Link:
		if !now.Is(op.After) {
			return nil
		}
		err = k.remove(name)
	case plan.Copy:
		if now.Is(op.After) && !op.Before.Is(op.After) {
			if err := k.removeAll(temp); err != nil {
				return err
			}
			if err := k.move(name, temp); err != nil {
				return err
			}
		}
		err = k.removeAll(temp)
	case plan.Write:
		err = x.unwrite(k, name, temp, now, op)
	case plan.Remove:
		err = x.unremove(k, name, temp, now, op)
	}
	if err != nil {
		return err
	}
	return x.settle(k, path.Dir(name))
}

func (x *run) unwrite(k disk, name, temp string, now plan.State, op plan.Op) error {
	if err := x.joinSwap(k, temp); err != nil {
		return err
	}
	aside, err := x.lookAt(k, temp)
	if err != nil {
		return err
	}
	// What is aside is what we are writing, whole or in part, unless it has
	// changed places with what was there.
	if now.Is(op.After) && aside.Kind != "" && !aside.Is(op.After) && !x.partOf(k, temp, op.Content) {
		if err := k.swap(temp, name); err != nil {
			return err
		}
		return k.removeAll(temp)
	}
	switch {
	case now.Is(op.Before):
	case now.Is(op.After) && op.Before.Kind == "":
		if err := k.remove(name); err != nil {
			return err
		}
	case now.Is(op.After): // the original was cleared away by somebody
		b, err := x.Keep.Get(op.Before.Hash)
		if err != nil {
			return err
		}
		if err := k.removeAll(temp); err != nil {
			return err
		}
		if err := k.put(temp, b, op.Before, op.Loses); err != nil {
			return err
		}
		if err := k.swap(temp, name); err != nil {
			return err
		}
	default: // somebody else has written it since: that is newer, and stays
		x.left = append(x.left, x.d.Show(op.Path))
	}
	return k.removeAll(temp)
}

// joinSwap finishes a swap that was made in steps and interrupted.
func (x *run) joinSwap(k disk, temp string) error {
	if _, err := k.root.Lstat(temp + besides); errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if _, err := k.root.Lstat(temp); err == nil {
		return k.remove(temp + besides)
	}
	return k.move(temp+besides, temp)
}

// partOf reports whether a file is the start of some content.
func (x *run) partOf(k disk, name string, content []byte) bool {
	b, err := fs.ReadFile(k.root.FS(), name)
	return err == nil && bytes.HasPrefix(content, b)
}

func (x *run) unremove(k disk, name, temp string, now plan.State, op plan.Op) error {
	aside, err := x.lookAt(k, temp)
	switch {
	case err != nil:
		return err
	case aside.Kind == "":
		return nil // it was not taken away yet, or is a folder
	case now.Kind != "": // somebody else has put something there since; the old one is in the Keeper
		x.left = append(x.left, x.d.Show(op.Path))
		return k.removeAll(temp)
	}
	return k.move(temp, name)
}
