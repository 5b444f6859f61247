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
	"slices"
	"syscall"
	"time"

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
	// Open opens the parcel that is copied from, and keeps it open; without it a
	// parcel is opened for the plan alone. A parcel whose contents are not those
	// of the plan is refused in either case.
	Open func(context.Context, Source) (*parcel.Parcel, error)
	// Behind runs what may take long and need not be waited for, once the plan has
	// come through: large trees are deleted then. Until it is done nothing else
	// changes the desk. Without it all is done when Apply returns.
	Behind func(func())
	// Patience is how long to wait for another Ivelt that is at work on the desk.
	Patience time.Duration
	// Before is told of each system call that changes something, before it is
	// made; the call fails with the error it returns. May be nil.
	Before func(Call) error
}

// ErrUnfinished: a change was interrupted; [Recover] has to come first.
var ErrUnfinished = errors.New("an interrupted change has to be finished first")

// Apply carries the plan out, or leaves the desk as it was.
func Apply(ctx context.Context, d *desk.Desk, p Plan, c Config) error {
	if !d.Writable {
		return fmt.Errorf("%w: nothing was changed", ErrReadOnly)
	}
	if c.Progress == nil {
		c.Progress = func(int, int) {}
	}
	release, err := hold(d, c.Patience)
	if err != nil {
		return fmt.Errorf("%w. Nothing was changed", err)
	}
	behind := false
	defer func() {
		if !behind {
			release()
		}
	}()
	if _, err := os.Lstat(c.Journal); err == nil {
		return ErrUnfinished
	}
	x := &run{d: d, plan: p, Config: c}
	for _, op := range p.Ops {
		x.total += max(1, op.Files)
	}
	if err := x.check(); err != nil {
		return err
	}
	err = x.begin()
	if err == nil {
		err = x.forward(ctx)
	}
	if err == nil && c.Commit != nil {
		err = c.Commit()
	}
	if err != nil {
		if back := x.rollback(); back != nil {
			return errors.Join(err, fmt.Errorf("and rolling back failed, which is tried again at the next start: %w", back))
		}
		return err
	}
	if c.Behind != nil && x.removes() >= manyFiles {
		behind = true
		c.Behind(func() {
			defer release()
			_ = x.finish() // what is left of it the next start clears away
		})
		return nil
	}
	if err := x.finish(); err != nil {
		return fmt.Errorf("the change is made; what was there before could not be cleared away, which is tried again at the next start: %w", err)
	}
	return nil
}

// manyFiles take long to delete: a disk does some thousands in a second.
const manyFiles = 5000

// removes is how many files the plan takes away.
func (x *run) removes() int {
	n := 0
	for _, op := range x.plan.Ops {
		if op.Kind == Remove {
			n += op.Files
		}
	}
	return n
}

// Recovered is what [Recover] found and did.
type Recovered struct {
	Plan   Plan     // that was interrupted; its ID is "" if none was
	Undone bool     // else it had come through
	Left   []string // files that somebody else wrote meanwhile: they stay as they are
}

// Recover finishes what a crash interrupted: if the journal is there, the desk
// is put back as it was before the plan in it, unless committed says that the
// plan had come through.
func Recover(d *desk.Desk, c Config, committed func(Plan) bool) (Recovered, error) {
	if _, err := os.Lstat(c.Journal); errors.Is(err, fs.ErrNotExist) {
		return Recovered{}, nil
	}
	release, err := hold(d, c.Patience)
	if err != nil {
		return Recovered{}, err
	}
	defer release()
	var p Plan
	b, err := os.ReadFile(c.Journal)
	if errors.Is(err, fs.ErrNotExist) { // the other Ivelt has come through
		return Recovered{}, nil
	}
	if err != nil {
		return Recovered{}, err
	}
	if err := json.Unmarshal(b, &p); err != nil {
		// It gets its name when it is whole: this one is not ours to act on.
		return Recovered{}, fmt.Errorf("journal %s: %w", c.Journal, err)
	}
	x := &run{d: d, plan: p, Config: c}
	if committed(p) {
		return Recovered{Plan: p}, x.finish()
	}
	err = x.rollback()
	return Recovered{p, true, x.left}, err
}

type run struct {
	Config
	d           *desk.Desk
	plan        Plan
	done, total int
	opened      *parcel.Parcel    // the parcel copied from last
	stamps      map[string]string // of the trees that are taken away, when they were checked
	left        []string
}

func (x *run) parcel(ctx context.Context, src Source) (*parcel.Parcel, error) {
	if src.Kept != "" {
		b, err := x.Keep.Get(src.Kept)
		if err != nil {
			return nil, err
		}
		return parcel.OpenBytes(ctx, "what was kept", b, parcel.Options{})
	}
	if x.Open != nil {
		return x.Open(ctx, src)
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
			if now, err = x.now(op); err != nil {
				return fmt.Errorf("%s: %w", x.d.Show(op.Path), err)
			}
		}
		after[op.Path] = op.After
		if op.Kind == Remove && op.IsFolder() && now.Kind == "tree" {
			continue // removed only if it is empty by then
		}
		if op.Kind == Folder && now.Kind == "tree" {
			continue
		}
		if !now.Is(op.Before) {
			return fmt.Errorf("%w: %s. Nothing was written; review again", ErrChanged, x.d.Show(op.Path))
		}
		if op.Kind == Remove && now.Kind == "tree" {
			if x.stamps == nil {
				x.stamps = map[string]string{}
			}
			x.stamps[op.Path] = now.Stamp
		}
	}
	return nil
}

// now is what stands at the path of an operation. A tree is read anew only if
// something was done to it since the plan was made.
func (x *run) now(op Op) (State, error) {
	if op.Kind == Folder || op.IsFolder() {
		return lookFolder(x.d, op.Path)
	}
	if op.Before.Stamp != "" {
		if s, err := stampOf(x.d.HostPath(op.Path)); err == nil && s == op.Before.Stamp {
			return op.Before, nil
		}
	}
	return look(x.d, op.Path)
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
	k, err := openDisk(filepath.Dir(x.Journal), x.Before)
	if err != nil {
		return err
	}
	defer k.close()
	name := filepath.Base(x.Journal)
	temp := ".new-" + name
	if err := k.removeAll(temp); err != nil {
		return err
	}
	err = k.put(temp, b, 0o600, time.Time{}, "")
	if err == nil {
		err = k.move(temp, name)
	}
	if err != nil {
		return errors.Join(err, k.removeAll(temp))
	}
	return k.syncFolder(".")
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
			if cannotWrite(err) {
				return fmt.Errorf("%s %w: %w. Everything is as it was before", x.d.Show(op.Path), ErrWrite, err)
			}
			return err
		}
	}
	return nil
}

// cannotWrite reports whether an error is that of a place, not of a plan.
func cannotWrite(err error) bool {
	return notFolder(err) || errors.Is(err, fs.ErrPermission) || slices.ContainsFunc([]error{syscall.EROFS, syscall.ENOSPC, syscall.EDQUOT, syscall.EIO, syscall.ENOTDIR}, func(e error) bool { return errors.Is(err, e) })
}

func (x *run) step() {
	x.done++
	x.Progress(x.done, x.total)
}

func (x *run) do(ctx context.Context, i int, op Op) error {
	k, name, err := x.open(op.Path)
	if err != nil {
		return err
	}
	defer k.close()
	temp := x.temp(name, i)
	switch op.Kind {
	case Folder:
		defer x.step()
		if err := k.mkdir(name); err != nil && !errors.Is(err, fs.ErrExist) {
			return err
		}
		return k.syncFolder(path.Dir(name))
	case Write:
		defer x.step()
		return x.write(k, name, temp, op)
	case Link:
		defer x.step()
		if err := k.symlink(op.After.Hash, name); err != nil {
			return x.inTheWay(err, op)
		}
		return k.syncFolder(path.Dir(name))
	case Copy:
		return x.copy(ctx, k, name, temp, op)
	case Remove:
		defer x.step()
		return x.remove(k, name, temp, op)
	}
	return fmt.Errorf("unknown operation %q", op.Kind)
}

// inTheWay says what it means that something is where nothing should be.
func (x *run) inTheWay(err error, op Op) error {
	if errors.Is(err, fs.ErrExist) {
		return fmt.Errorf("%w: %s is there now", ErrChanged, x.d.Show(op.Path))
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
func (x *run) write(k disk, name, temp string, op Op) error {
	as := ""
	if op.Before.Kind != "" {
		as = name
	}
	if err := k.put(temp, op.Content, op.After.Mode, op.After.ModTime, as); err != nil {
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
		err = fmt.Errorf("%w: %s", ErrChanged, x.d.Show(op.Path))
	}
	if err != nil {
		return errors.Join(err, k.swap(temp, name))
	}
	return k.syncFolder(path.Dir(name))
}

func (x *run) lookAt(k disk, name string) (State, error) { return lookAt(k.host(name)) }

func (x *run) copy(ctx context.Context, k disk, name, temp string, op Op) error {
	p, err := x.parcel(ctx, *op.Source)
	if err != nil {
		return err
	}
	c, err := readPiece(p, *op.Source)
	if err != nil {
		return err
	}
	m, err := c.write(ctx, k, temp, x.step)
	if err == nil && m.hash() != op.After.Hash {
		err = fmt.Errorf("%w: look at it again", ErrParcel)
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

// remove puts what is to go out of sight only, so that it can come back whole:
// finish deletes it.
func (x *run) remove(k disk, name, temp string, op Op) error {
	if op.IsFolder() {
		return nil // finish removes it, if nothing is in it by then
	}
	if err := k.move(name, temp); err != nil {
		return err
	}
	changed := false
	if op.Before.Kind == "tree" {
		s, err := stampOf(k.host(temp))
		changed = err != nil || s != x.stamps[op.Path]
	} else {
		now, err := x.lookAt(k, temp)
		changed = err != nil || !now.Is(op.Before)
	}
	if changed {
		return errors.Join(fmt.Errorf("%w: %s", ErrChanged, x.d.Show(op.Path)), k.move(temp, name))
	}
	return k.syncFolder(path.Dir(name))
}

// finish does what cannot be taken back, once the plan has come through: it
// deletes what was moved out of sight, then the folders that were made for
// pieces that went, if nothing else is in them.
func (x *run) finish() error {
	for _, folders := range []bool{false, true} {
		for i, op := range x.plan.Ops {
			if op.Kind != Remove && op.Kind != Write || op.Before.Kind == "" || (op.Kind == Remove && op.IsFolder()) != folders {
				continue
			}
			if err := x.clear(i, op, folders); err != nil {
				return err
			}
		}
	}
	return x.end()
}

func (x *run) clear(i int, op Op, folder bool) error {
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
	if errors.Is(err, fs.ErrNotExist) || notFolder(err) {
		return nil // the folder above it went too
	}
	if err != nil {
		return err
	}
	return x.settle(k, path.Dir(name))
}

// settle puts on disk what a folder lists, if it is still there.
func (x *run) settle(k disk, folder string) error {
	if err := k.syncFolder(folder); !errors.Is(err, fs.ErrNotExist) && !notFolder(err) {
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
			errs = append(errs, fmt.Errorf("%s: %w", x.d.Show(x.plan.Ops[i].Path), err))
		}
	}
	if len(errs) > 0 {
		return errors.Join(errs...)
	}
	return x.end()
}

func (x *run) undo(i int, op Op) error {
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
	if op.Kind == Folder {
		if now, err := lookFolder(x.d, op.Path); err != nil || op.Before.Kind != "" || !now.Is(emptyTree) {
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
	case Link:
		if !now.Is(op.After) {
			return nil
		}
		err = k.remove(name)
	case Copy:
		if now.Is(op.After) && !op.Before.Is(op.After) {
			if err := k.removeAll(temp); err != nil {
				return err
			}
			if err := k.move(name, temp); err != nil {
				return err
			}
		}
		err = k.removeAll(temp)
	case Write:
		err = x.unwrite(k, name, temp, now, op)
	case Remove:
		err = x.unremove(k, name, temp, now, op)
	}
	if err != nil {
		return err
	}
	return x.settle(k, path.Dir(name))
}

func (x *run) unwrite(k disk, name, temp string, now State, op Op) error {
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
		if err := k.put(temp, b, op.Before.Mode, op.Before.ModTime, name); err != nil {
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

func (x *run) unremove(k disk, name, temp string, now State, op Op) error {
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
		if err = k.above(name); errors.Is(err, ErrChanged) {
			err = fmt.Errorf("%w, above %s", err, x.d.Show(p))
		}
	}
	if err != nil {
		k.close()
	}
	return k, name, err
}
