package changes

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"strings"
	"sync"
	"syscall"
	"time"

	"ivelt/app/desks"
	"ivelt/core/apply"
)

// Stuck is a desk on which a change was interrupted and can be neither undone nor
// finished. Nothing else changes the desk until that is mended; it can be looked at.
type Stuck struct {
	Title   string           // of the change; "" if that is not known
	Why     error            // it could not be undone or finished
	Do      string           // what to do about that
	Journal string           // host path of the file that tells of it
	Damaged bool             // that file cannot be read
	Lies    []apply.Leftover // what lies on the desk of it
}

type stuck struct {
	mu     sync.Mutex
	now    *Stuck
	as     string // the journal that was tried: its size and time
	looked time.Time
}

// stuckOn is what is known of a desk's being stuck.
func (ap *Applier) stuckOn(d *desks.Managed) *stuck { return ap.stuck[d.ID] }

// again is how long Ivelt waits before it tries to settle a stuck desk again by
// itself.
const again = 10 * time.Second

// Settle finishes what was interrupted on a desk, here or in another program, as far
// as it can, and tells whether the desk is stuck. It is quick where there is nothing
// to do. Another Ivelt that is at work on the desk is left to its work.
func (ap *Applier) Settle(d *desks.Managed) (Stuck, bool) {
	fi, err := os.Stat(ap.journal(d))
	st := ap.stuckOn(d)
	st.mu.Lock()
	defer st.mu.Unlock()
	if errors.Is(err, fs.ErrNotExist) {
		st.now = nil
		return Stuck{}, false
	}
	as := ""
	if err == nil {
		as = fmt.Sprint(fi.Size(), fi.ModTime().UnixNano())
	}
	if st.now != nil && st.as == as && time.Since(st.looked) < again {
		return *st.now, true
	}
	if !d.TryLock() {
		return Stuck{}, false // this Ivelt is at work on it
	}
	defer d.Unlock()
	err = ap.recover(d, 0)
	st.as, st.looked = as, time.Now()
	return ap.isStuck(d, err)
}

// isStuck remembers why a desk could not be settled. The lock of what is known of
// that must be held.
func (ap *Applier) isStuck(d *desks.Managed, why error) (Stuck, bool) {
	st := ap.stuckOn(d)
	if why == nil || errors.Is(why, apply.ErrBusy) {
		st.now = nil
		return Stuck{}, false
	}
	if st.now == nil || st.now.Why.Error() != why.Error() {
		ap.log.Error("a desk is stuck", "desk", d.ID, "error", why)
	}
	s := &Stuck{Why: why, Do: advice(why), Journal: ap.journal(d), Damaged: errors.Is(why, apply.ErrJournal)}
	r, err := apply.ReadJournal(s.Journal)
	if err != nil {
		r, err = ap.spare(d)
	}
	if err == nil {
		s.Title, s.Lies = r.Plan.Title, apply.Leftovers(d.Desk, r.Plan)
	}
	st.now = s
	return *s, true
}

// advice says what to do about what keeps a change from being undone.
func advice(why error) string {
	switch {
	case errors.Is(why, apply.ErrJournal):
		return "If anything is listed here, put it back by hand. Then put the journal aside: Ivelt goes on as if nothing had been begun."
	case errors.Is(why, apply.ErrUndecided):
		return "See to Ivelt's database first: “ivelt store check” says what is wrong with it."
	case errors.Is(why, syscall.EROFS):
		return "That file system is mounted for reading only. Mount it for writing, then try again."
	case errors.Is(why, syscall.ENOSPC), errors.Is(why, syscall.EDQUOT):
		return "Make room on that disk, then try again."
	case errors.Is(why, syscall.EPERM):
		return "Its folder may be append-only or immutable: check with lsattr, and remove that with chattr -a or chattr -i. Then try again."
	case errors.Is(why, fs.ErrPermission):
		return "Look at who owns the file and its folder, and who may write there; then try again."
	}
	return "Fix what keeps it from being written, then try again."
}

// Unstick tries once more to settle a desk. With aside a journal that cannot be read
// is put aside, and what lies on the desk stays where it is; where the journal lies
// then is returned.
func (ap *Applier) Unstick(d *desks.Managed, aside bool) (journal string, err error) {
	d.Lock()
	defer d.Unlock()
	st := ap.stuckOn(d)
	st.mu.Lock()
	defer st.mu.Unlock()
	err = ap.recover(d, 5*time.Second)
	if errors.Is(err, apply.ErrJournal) && aside {
		journal, err = apply.SetAside(d.Desk, ap.journal(d))
	}
	if err != nil {
		ap.isStuck(d, err)
		return "", err
	}
	st.now = nil
	return journal, nil
}

// recover finishes what was interrupted on a desk. It is [plan.ErrBusy] while another
// Ivelt is at work on it. The desk's lock must be held.
func (ap *Applier) recover(d *desks.Managed, patience time.Duration) error {
	c := ap.planConfig(d)
	c.LockTimeout = patience
	found, err := apply.Recover(d.Desk, c)
	if errors.Is(err, apply.ErrBusy) {
		return err
	}
	if err != nil {
		return err
	}
	switch {
	case found.Undone && len(found.Left) > 0:
		ap.notices.Add(d, "%s was interrupted in the middle of “%s”. It is undone, but for %s, which somebody else has written since: that stays.", d.Title, found.Plan.Title, strings.Join(found.Left, ", "))
	case found.Undone:
		ap.notices.Add(d, "%s was interrupted in the middle of “%s”. Everything is as it was before it.", d.Title, found.Plan.Title)
	case found.Plan.ID != "":
		ap.notices.Add(d, "%s was interrupted when “%s” had just come through. It is in place.", d.Title, found.Plan.Title)
	}
	return nil
}

// came answers whether a run came through on a desk.
func (ap *Applier) came(d *desks.Managed, r apply.Run) (bool, error) {
	if r.ID == "" { // of an earlier version
		return ap.store.CommittedLast(d.ID, r.Plan.ID)
	}
	return ap.store.Committed(d.ID, r.ID)
}

// spare is the run that was begun last on a desk, as the store knows it.
func (ap *Applier) spare(d *desks.Managed) (apply.Run, error) {
	row, of, err := ap.store.LastRun(d.ID)
	if err != nil {
		return apply.Run{}, err
	}
	r := apply.Run{ID: row.ID}
	return r, json.Unmarshal(of.JSON, &r.Plan)
}

// planConfig is how plans are carried out on a desk.
func (ap *Applier) planConfig(d *desks.Managed) apply.Config {
	return apply.Config{
		Keep: ap.kept, Journal: ap.journal(d), LockTimeout: 5 * time.Second, Before: ap.before, Open: ap.library.OpenFor, Background: ap.background.Go,
		Committed: func(r apply.Run) (bool, error) { return ap.came(d, r) },
		Spare:     func() (apply.Run, error) { return ap.spare(d) },
	}
}
