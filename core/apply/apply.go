// Package apply carries plans out. It is the only place that writes to a desk.
//
// [Plan] checks every precondition before the first byte is written, keeps the originals,
// and rolls back by itself if an operation fails; [Recover] does the same after a crash.
package apply

import (
	"cmp"
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"time"

	"ivelt/core/archive"
	"ivelt/core/desk"
	"ivelt/core/parcel"
	"ivelt/core/plan"
	"ivelt/core/regular"
	"ivelt/core/say"
)

// Config for [Apply] and [Recover].
type Config struct {
	Keep     plan.Keeper
	Journal  string                // host path of the journal file of this desk
	Progress func(done, total int) // files written so far; may be nil
	// Run names this carrying out of the plan: the same plan may be carried out more
	// than once. Without it one is drawn by chance.
	Run string
	// Commit is called once everything is in place. Until it returns nil the
	// change can still be rolled back; if it fails, it is.
	Commit func() error
	// Committed answers whether a run came through. It is asked if Commit fails, for
	// it may have failed after that, and about a run that was interrupted. An error is
	// no answer: everything is left as it is then, until there is one. Nil is for
	// runs that never do.
	Committed func(Run) (bool, error)
	// Spare is the run that was begun last on the desk, as it is known from
	// elsewhere. It is asked if the journal is damaged; may be nil.
	Spare func() (Run, error)
	// Open opens the parcel that is copied from, and keeps it open; without it a
	// parcel is opened for the plan alone. A parcel whose contents are not those
	// of the plan is refused in either case.
	Open func(context.Context, plan.Source) (*parcel.Parcel, error)
	// Background runs what may take long and need not be waited for, once the plan has
	// come through: large trees are deleted then. Until it is done nothing else
	// changes the desk. Without it all is done when Apply returns.
	Background func(func())
	// LockTimeout is how long to wait for another Ivelt that is at work on the desk.
	LockTimeout time.Duration
	// Before is told of each system call that changes something, before it is
	// made; the call fails with the error it returns. May be nil.
	Before func(Call) error
}

// ErrUnfinished: a change was interrupted; [Recover] has to come first.
var ErrUnfinished = errors.New("an interrupted change has to be finished first")

// The ways in which a change is left as it is, because it is not known which way it
// has to go.
var (
	ErrJournal   = errors.New("the journal of an interrupted change is damaged")
	ErrUndecided = errors.New("it is not known whether the change came through")
)

// Run is one carrying out of a plan. ID is "" in journals of earlier versions.
type Run struct {
	ID   string
	Plan plan.Plan
}

// Plan carries the plan out, or leaves the desk as it was.
func Plan(ctx context.Context, d *desk.Desk, p plan.Plan, c Config) error {
	if !d.Writable() {
		return say.Errorf("%w: nothing was changed", plan.ErrReadOnly)
	}
	if c.Progress == nil {
		c.Progress = func(int, int) {}
	}
	release, err := lockDesk(d, c.LockTimeout)
	if err != nil {
		return say.Errorf("%w. Nothing was changed", err)
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
	x.Run = cmp.Or(x.Run, rand.Text())
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
	if err == nil {
		err = x.commit()
	}
	if errors.Is(err, ErrUndecided) {
		return err
	}
	if err != nil {
		if back := x.rollback(); back != nil {
			return errors.Join(err, say.Errorf("and rolling back failed, which is tried again at the next start: %w", back))
		}
		return err
	}
	if c.Background != nil && x.removes() >= manyFiles {
		behind = true
		c.Background(func() {
			defer release()
			_ = x.finish() // what is left of it the next start clears away
		})
		return nil
	}
	if err := x.finish(); err != nil {
		return say.Errorf("the change is made; what was there before could not be cleared away, which is tried again at the next start: %w", err)
	}
	return nil
}

// commit makes the change one that came through. If that fails it is asked whether it
// did so before or after.
func (x *run) commit() error {
	if x.Commit == nil {
		return nil
	}
	err := x.Commit()
	if err == nil || x.Committed == nil {
		return err
	}
	done, unknown := x.Committed(Run{x.Run, x.plan})
	switch {
	case unknown != nil:
		return errors.Join(err, say.Errorf("%w (%w). Everything is in place, and what stood there before is kept beside it until that is known", ErrUndecided, unknown))
	case done:
		return nil
	}
	return err
}

// manyFiles take long to delete: a disk does some thousands in a second.
const manyFiles = 5000

// Recovered is what [Recover] found and did.
type Recovered struct {
	Plan   plan.Plan // that was interrupted; its ID is "" if none was
	Undone bool      // else it had come through
	Left   []string  // files that somebody else wrote meanwhile: they stay as they are
}

// Recover finishes what a crash interrupted: if the journal is there, the desk
// is put back as it was before the plan in it, unless that had come through, see
// [Config.Committed].
func Recover(d *desk.Desk, c Config) (Recovered, error) {
	if _, err := os.Lstat(c.Journal); errors.Is(err, fs.ErrNotExist) {
		return Recovered{}, nil
	}
	release, err := lockDesk(d, c.LockTimeout)
	if err != nil {
		return Recovered{}, err
	}
	defer release()
	r, err := c.interrupted()
	if errors.Is(err, fs.ErrNotExist) { // the other Ivelt has come through
		return Recovered{}, nil
	}
	if err != nil {
		return Recovered{}, err
	}
	done := false
	if c.Committed != nil {
		if done, err = c.Committed(r); err != nil {
			return Recovered{Plan: r.Plan}, say.Errorf("%w: %w", ErrUndecided, err)
		}
	}
	x := &run{d: d, plan: r.Plan, Config: c}
	if done {
		return Recovered{Plan: r.Plan}, x.finish()
	}
	err = x.rollback()
	return Recovered{r.Plan, true, x.left}, err
}

// interrupted is the run in the journal; of one that is damaged the run that was
// begun last, if that is known.
func (c Config) interrupted() (Run, error) {
	r, err := ReadJournal(c.Journal)
	if errors.Is(err, ErrJournal) && c.Spare != nil {
		if spare, e := c.Spare(); e == nil {
			return spare, nil
		}
	}
	return r, err
}

type run struct {
	Config
	d           *desk.Desk
	plan        plan.Plan
	done, total int
	opened      *parcel.Parcel    // the parcel copied from last
	stamps      map[string]string // of the trees that are taken away, when they were checked
	left        []string
}

func (x *run) parcel(ctx context.Context, src plan.Source) (*parcel.Parcel, error) {
	if src.Kept != "" {
		b, err := x.Keep.Get(src.Kept)
		if err != nil {
			return nil, err
		}
		return parcel.OpenBytes(ctx, "what was kept", b, archive.Options{})
	}
	if x.Open != nil {
		return x.Open(ctx, src)
	}
	if x.opened != nil && x.opened.Path == src.Parcel {
		return x.opened, nil
	}
	p, err := parcel.Open(ctx, src.Parcel, archive.Options{Password: src.Secret})
	x.opened = p
	return p, err
}

// check looks at every precondition before anything is written.
func (x *run) check() error {
	for _, op := range x.plan.Ops {
		if err := x.movable(op); err != nil {
			return say.Errorf("%w. Nothing was written", err)
		}
		if s, ok := x.d.Surface(op.Surface); ok && len(x.plan.Undoes) == 0 && !x.d.MayWrite(s, op.Path) {
			return say.Errorf("%w: %s came with a descriptor of somebody else, which may not write %s. Nothing was written", desk.ErrOverreach, s.Title, x.d.Show(op.Path))
		}
	}
	after := map[string]plan.State{} // of paths that an earlier operation has changed
	for _, op := range x.plan.Ops {
		now, changed := after[op.Path]
		if !changed {
			var err error
			if now, err = x.now(op); err != nil {
				return say.Errorf("%s: %w", x.d.Show(op.Path), err)
			}
		}
		after[op.Path] = op.After
		if op.Kind == plan.Remove && op.IsFolder() && now.Kind == "tree" {
			continue // removed only if it is empty by then
		}
		if op.Kind == plan.Folder && now.Kind == "tree" {
			continue
		}
		if err := x.mayLose(op, now); err != nil {
			return err
		}
		if !now.Is(op.Before) {
			return say.Errorf("%w: %s. Nothing was written; review again", plan.ErrChanged, x.d.Show(op.Path))
		}
		if op.Kind == plan.Remove && now.Kind == "tree" {
			if x.stamps == nil {
				x.stamps = map[string]string{}
			}
			x.stamps[op.Path] = now.Stamp
		}
	}
	return nil
}

// mayLose refuses what would lose something that was not told, or not given up.
func (x *run) mayLose(op plan.Op, now plan.State) error {
	for _, l := range plan.Losing(op, now) {
		if !slices.Contains(op.Loses, l) {
			return say.Errorf("%w: %s: %s. Nothing was written; review again", plan.ErrChanged, x.d.Show(op.Path), l.Says())
		}
	}
	if len(op.Loses) > 0 && !x.plan.Lose {
		return say.Errorf("%s: %w: %s. Nothing was written. It is done only if you say that it may be lost", x.d.Show(op.Path), plan.ErrLoses, op.Loses[0].Says())
	}
	return nil
}

// now is what stands at the path of an operation. A tree is read anew only if
// something was done to it since the plan was made.
func (x *run) now(op plan.Op) (plan.State, error) {
	if op.Kind == plan.Folder || op.IsFolder() {
		return plan.LookFolder(x.d, op.Path)
	}
	if op.Before.Stamp != "" {
		if s, err := plan.StampOf(x.d.HostPath(op.Path)); err == nil && s == op.Before.Stamp {
			return op.Before, nil
		}
	}
	return plan.Look(x.d, op.Path)
}

// begin keeps the originals and writes the journal; both are on disk before
// the first operation.
func (x *run) begin() error {
	for i, op := range x.plan.Ops {
		if op.Kind == plan.Remove && op.Before.Kind == "tree" && op.Source != nil && op.Source.Kept != "" {
			if err := x.keepTree(i); err != nil {
				return err
			}
		}
		if op.Before.Kind != "file" {
			continue
		}
		b, err := regular.Read(x.d.HostPath(op.Path), plan.MaxOriginal)
		if err != nil {
			return say.Errorf("keep the original of %s: %w", x.d.Show(op.Path), err)
		}
		if hash, err := x.Keep.Put(b); err != nil || hash != op.Before.Hash {
			return errors.Join(say.Errorf("keep the original of %s: %w", x.d.Show(op.Path), plan.ErrChanged), err)
		}
	}
	b, err := json.Marshal(journal{journalFormat, x.Run, &x.plan})
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
	err = k.put(temp, b, plan.State{Mode: 0o600}, nil)
	if err == nil {
		err = k.move(temp, name)
	}
	if err != nil {
		return errors.Join(say.Errorf("the journal in %s: %w", filepath.Dir(x.Journal), err), k.removeAll(temp))
	}
	return k.syncFolder(".")
}

// keepTree puts a tree that no parcel can give back into the Keeper, as a tar, unless what it
// was copied from is there already.
func (x *run) keepTree(i int) error {
	op := x.plan.Ops[i]
	if _, err := x.Keep.Get(op.Source.Kept); err == nil {
		return nil
	}
	b, err := plan.TarOf(x.d.HostPath(op.Path))
	if err != nil {
		return say.Errorf("keep %s: %w", x.d.Show(op.Path), err)
	}
	hash, err := x.Keep.Put(b)
	if err == nil && hash != op.Source.Kept {
		err = plan.ErrChanged
	}
	if err != nil {
		return say.Errorf("keep %s: %w", x.d.Show(op.Path), err)
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
				return say.Errorf("%s %w: %w. Everything is as it was before", x.d.Show(op.Path), plan.ErrWrite, err)
			}
			return err
		}
	}
	return nil
}
