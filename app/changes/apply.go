package changes

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"io/fs"
	"log/slog"
	"os"
	"path/filepath"
	"slices"
	"sync"
	"time"

	"ivelt/app/desks"
	"ivelt/app/library"
	"ivelt/core/apply"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/core/regular"
	"ivelt/core/say"
	"ivelt/store"
)

// Applier carries plans out on desks, and finishes what was interrupted.
type Applier struct {
	store      applyStore
	dir        string
	kept       store.Blobs
	library    *library.Library
	history    *History
	notices    *desks.Notices
	log        *slog.Logger
	now        func() time.Time
	before     func(apply.Call) error
	stuck      map[string]*stuck                   // by desk
	background *sync.WaitGroup                     // what is cleared away after a change
	worn       func(d *desks.Managed, starts uint) // what turns, see [Turner.follow]
}

type applyStore interface {
	Checkpoints(desk string) ([]store.CheckpointRow, error)
	Trial(desk string) (store.TrialRow, error)
	Begin(r store.RunRow, p store.PlanRow) error
	Commit(a *store.Applied) error
	Committed(desk, run string) (bool, error)
	CommittedLast(desk, plan string) (bool, error)
	LastRun(desk string) (store.RunRow, store.PlanRow, error)
	CopyDaily(ctx context.Context, now time.Time) error
}

// Machine is what plans are carried out with, see [NewApplier].
type Machine struct {
	Dir        string // the data folder
	Desks      []*desks.Managed
	Kept       store.Blobs
	Log        *slog.Logger
	Now        func() time.Time
	Before     func(apply.Call) error // see [plan.Config]; may be nil
	Background *sync.WaitGroup        // to wait for before the store is closed
}

// NewApplier returns what carries plans out.
func NewApplier(s applyStore, m Machine, l *library.Library, h *History, n *desks.Notices) *Applier {
	ap := &Applier{store: s, dir: m.Dir, kept: m.Kept, library: l, history: h, notices: n, log: m.Log, now: m.Now, before: m.Before, stuck: map[string]*stuck{}, background: m.Background}
	for _, d := range m.Desks {
		ap.stuck[d.ID] = &stuck{}
	}
	return ap
}

// CopyDaily makes today's copy of the database, behind everything else.
func (ap *Applier) CopyDaily(ctx context.Context) {
	ap.background.Go(func() {
		if err := ap.store.CopyDaily(ctx, ap.now()); err != nil {
			ap.log.Warn("today's copy of the database", "error", err)
		}
	})
}

func (ap *Applier) journal(d *desks.Managed) string {
	return filepath.Join(ap.dir, "journal", d.ID+".json")
}

// Apply carries a plan out and writes down that it came through. The desk's
// lock must be held.
func (ap *Applier) Apply(ctx context.Context, d *desks.Managed, p plan.Plan, done store.Applied, progress func(done, total int)) error {
	return ap.applyAs(ctx, d, p, p, done, progress)
}

// applyAs is the same, and writes down another plan: the carried out one with an earlier one
// as one.
func (ap *Applier) applyAs(ctx context.Context, d *desks.Managed, p, as plan.Plan, done store.Applied, progress func(done, total int)) error {
	if t, err := ap.store.Trial(d.ID); err == nil && t.Checkpoint != done.TrialOf {
		return ErrTrying
	} else if err != nil && !errors.Is(err, store.ErrNone) {
		return err
	}
	row, err := rowOf(d, p)
	if err == nil {
		done.Plan, err = rowOf(d, as)
	}
	if err != nil {
		return err
	}
	c := ap.planConfig(d)
	c.Progress, c.Run = progress, rand.Text()
	done.Checkpoint = store.CheckpointRow{Desk: d.ID, PlanID: as.ID, Title: p.Title, IsBack: len(p.Undoes) > 0, Changes: changed(p), Run: c.Run, AskedBy: done.Checkpoint.AskedBy, TurnOf: done.Checkpoint.TurnOf}
	if seen := ap.notices.All(); len(seen) > 0 {
		done.Noticed = seen[len(seen)-1].ID
	}
	if err := ap.finishFirst(d, c.LockTimeout); err != nil {
		return err
	}
	release, err := ap.kept.Hold()
	if err != nil {
		return err
	}
	if err := ap.keepFound(d); err != nil {
		release()
		return err
	}
	if err := ap.store.Begin(store.RunRow{ID: c.Run, Desk: d.ID, PlanID: p.ID}, row); err != nil {
		release()
		return err
	}
	c.Commit = func() error {
		done.Checkpoint.At = ap.now()
		done.Checkpoint.Bytes = ap.kept.Size(as.Kept())
		return ap.store.Commit(&done)
	}
	err = apply.Plan(ctx, d.Desk, p, c)
	release()
	if err != nil {
		return err
	}
	if slices.ContainsFunc(p.Ops, func(op plan.Op) bool { return d.OfDescriptors(op.Path) }) {
		for _, err := range d.OwnSurfaces() {
			ap.log.Warn("a surface of the person's own", "desk", d.ID, "error", err)
		}
	}
	ap.CopyDaily(context.WithoutCancel(ctx))    // Close waits for it
	if err := ap.history.prune(d); err != nil { // the change is made all the same
		ap.log.Warn("could not delete what is kept for old entries", "desk", d.ID, "error", err)
	}
	if ap.worn != nil && (done.Worn != nil || len(done.GoneOn) > 0) {
		ap.worn(d, starting(p, done.Checkpoint))
	}
	return nil
}

// starting is the entry of a plan that puts on what turns; 0 if it does not, or is a turn.
func starting(p plan.Plan, c store.CheckpointRow) uint {
	o, err := outfit.Parse([]byte(p.Outfit))
	if err != nil || c.TurnOf != 0 || len(o.Turns()) == 0 {
		return 0
	}
	return c.ID
}

func rowOf(d *desks.Managed, p plan.Plan) (store.PlanRow, error) {
	b, err := json.Marshal(p)
	return store.PlanRow{ID: p.ID, Desk: d.ID, JSON: b, Made: time.Now()}, err
}

// changed is how many changes the history counts for a plan.
func changed(p plan.Plan) int {
	pieces, changes := p.Tally()
	return pieces + changes
}

// keepFound keeps what plans may touch of a person's own desk, as it is before the first of
// them, as an entry of the history that is not let go by itself.
func (ap *Applier) keepFound(d *desks.Managed) error {
	if d.Keep == nil || !d.Writable() {
		return nil
	}
	rows, err := ap.store.Checkpoints(d.ID)
	if err != nil || len(rows) > 0 {
		return err
	}
	return ap.keepAsIs(d, planning.Found(d.Desk), "")
}

// Checkpoint keeps what plans may touch of a desk as it is now, with a sentence that may be
// empty, as an entry of the history that one can go back to. Nothing is changed.
func (ap *Applier) Checkpoint(d *desks.Managed, said string) error {
	note, err := noteOf(said)
	if err != nil {
		return err
	}
	d.Lock()
	defer d.Unlock()
	if err := ap.finishFirst(d, 5*time.Second); err != nil {
		return err
	}
	release, err := ap.kept.Hold()
	if err != nil {
		return err
	}
	defer release()
	p := planning.Found(d.Desk)
	if len(p.Ops) == 0 {
		return errors.New("nothing on this desk can be changed by Ivelt, so there is nothing to keep")
	}
	rows, err := ap.store.Checkpoints(d.ID)
	if err != nil {
		return err
	}
	if len(rows) > 0 || d.Keep == nil {
		p.Title = "Checkpoint"
	}
	p.Seal(d.Desk)
	return ap.keepAsIs(d, p, note)
}

// keepAsIs keeps what a plan of [plan.AsIs] names, pinned.
func (ap *Applier) keepAsIs(d *desks.Managed, p plan.Plan, note string) error {
	for _, op := range p.Ops {
		if op.Before.Kind != "file" {
			continue
		}
		b, err := regular.Read(d.HostPath(op.Path), plan.MaxOriginal)
		if err != nil {
			return say.Errorf("cannot keep a copy of %s: %w", d.Show(op.Path), err)
		}
		if hash, err := ap.kept.Put(b); err != nil || hash != op.Before.Hash {
			return errors.Join(say.Errorf("cannot keep a copy of %s: %w", d.Show(op.Path), plan.ErrChanged), err)
		}
	}
	b, err := json.Marshal(p)
	if err != nil {
		return err
	}
	return ap.store.Commit(&store.Applied{
		Plan: store.PlanRow{ID: p.ID, Desk: d.ID, JSON: b, Made: ap.now()},
		Checkpoint: store.CheckpointRow{Desk: d.ID, PlanID: p.ID, Title: p.Title, Note: note,
			Changes: len(p.Ops), Run: rand.Text(), At: ap.now(), Bytes: ap.kept.Size(p.Kept()), Pinned: true, AsIs: true},
	})
}

// finishFirst finishes a change that was interrupted, before another is begun.
func (ap *Applier) finishFirst(d *desks.Managed, patience time.Duration) error {
	if _, err := os.Lstat(ap.journal(d)); errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	err := ap.recover(d, patience)
	if err != nil && !errors.Is(err, apply.ErrBusy) {
		st := ap.stuckOn(d)
		st.mu.Lock()
		ap.isStuck(d, err)
		st.mu.Unlock()
		return say.Errorf("%s: a change was interrupted, and could be neither undone nor finished: %w. Nothing else is changed on this desk until then; “ivelt recover” says more, and tries again", d.Title, err)
	}
	return err
}
