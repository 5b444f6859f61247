package app

import (
	"encoding/json"
	"fmt"
	"time"

	"ivelt/core/plan"
	"ivelt/store"
)

// How long, and how much, is kept of a desk's history so that it can be gone back
// on. What is pinned is kept besides.
const (
	keepFor  = 180 * 24 * time.Hour
	keepSize = 1 << 30 // bytes
)

// prune lets go what is too old, and of the rest the oldest that is too much. The
// last change is never let go.
func (a *App) prune(d *Desk) error {
	rows, err := a.Store.Checkpoints(d.ID)
	if err != nil {
		return err
	}
	return a.letGo(overdue(rows, a.now()))
}

// overdue are the entries of a history, the newest first, that are to be let go.
func overdue(rows []store.Checkpoint, now time.Time) []uint {
	var out []uint
	var size int64
	for i, c := range rows {
		if c.LetGo != nil {
			continue
		}
		size += c.Bytes
		if i > 0 && !c.Pinned && (now.Sub(c.At) > keepFor || size > keepSize) {
			out = append(out, c.ID)
			size -= c.Bytes
		}
	}
	return out
}

// Pin keeps an entry of the history for good, or no longer.
func (a *App) Pin(d *Desk, checkpoint uint, pinned bool) error {
	if err := a.has(d, checkpoint); err != nil {
		return err
	}
	return a.Store.PinCheckpoint(checkpoint, pinned)
}

func (a *App) has(d *Desk, checkpoint uint) error {
	c, err := a.Store.Checkpoint(checkpoint)
	if err != nil || c.Desk != d.ID {
		return fmt.Errorf("there is no such checkpoint (%w)", store.ErrNone)
	}
	return nil
}

// Loss is what can no longer be undone once an entry of the history is let go.
type Loss struct {
	store.Checkpoint
	Plan  plan.Plan
	Bytes int64              // that are freed
	Reach []store.Checkpoint // older entries, to before which nobody could go back
}

// LossOf tells what letting go of a checkpoint would mean.
func (a *App) LossOf(d *Desk, checkpoint uint) (Loss, error) {
	if err := a.has(d, checkpoint); err != nil {
		return Loss{}, err
	}
	rows, err := a.Store.Checkpoints(d.ID)
	if err != nil {
		return Loss{}, err
	}
	var out Loss
	for _, c := range rows {
		switch {
		case c.ID == checkpoint:
			out.Checkpoint = c
			if out.Plan, err = a.Plan(d, c.PlanID); err != nil {
				return Loss{}, err
			}
		case c.ID < checkpoint && c.LetGo == nil:
			out.Reach = append(out.Reach, c)
		}
	}
	out.Bytes = out.Checkpoint.Bytes
	return out, nil
}

// LetGo deletes what is kept for an entry of the history. What it changed stays
// as it is, and can no longer be gone back on.
func (a *App) LetGo(d *Desk, checkpoint uint) error {
	d.mu.Lock()
	defer d.mu.Unlock()
	if err := a.has(d, checkpoint); err != nil {
		return err
	}
	if t, ok := a.Trial(d); ok && t.Checkpoint == checkpoint {
		return ErrTrying
	}
	return a.letGo([]uint{checkpoint})
}

func (a *App) letGo(ids []uint) error {
	if len(ids) == 0 {
		return nil
	}
	if err := a.Store.LetGo(ids); err != nil {
		return err
	}
	return a.sweep()
}

// sweep deletes kept contents that no plan in the histories needs any more.
func (a *App) sweep() error {
	needed := map[string]bool{}
	for _, d := range a.desks {
		rows, err := a.Store.Checkpoints(d.ID)
		if err != nil {
			return err
		}
		for _, c := range rows {
			if c.LetGo != nil {
				continue
			}
			p, err := a.Plan(d, c.PlanID)
			if err != nil {
				return err
			}
			for _, hash := range p.Kept() {
				needed[hash] = true
			}
		}
	}
	plans, err := a.Store.Plans() // those that are reviewed just now may copy what was kept
	if err != nil {
		return err
	}
	for _, row := range plans {
		var p plan.Plan
		if err := json.Unmarshal(row.JSON, &p); err != nil {
			return err
		}
		if time.Since(row.Made) < time.Hour {
			for _, hash := range p.Kept() {
				needed[hash] = true
			}
		}
	}
	return a.Store.Blobs.Sweep(func(hash string) bool { return needed[hash] })
}
