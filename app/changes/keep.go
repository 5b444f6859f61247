package changes

import (
	"encoding/json"
	"errors"
	"io/fs"
	"strings"
	"unicode/utf8"

	"ivelt/app/desks"
	"ivelt/core/apply"
	"ivelt/core/plan"
	"ivelt/core/say"
	"ivelt/store"
)

// How long, and how much, is kept of a desk's history so that it can be gone back
// on. What is pinned is kept besides. Only days count on which Ivelt was in use: a
// clock that is set wrong deletes nothing.
const (
	keepFor  = 180     // days
	keepSize = 1 << 30 // bytes
)

// prune lets go what is too old, and of the rest the oldest that is too much. The
// last change is never let go.
func (h *History) prune(d *desks.Managed) error {
	rows, err := h.store.Checkpoints(d.ID)
	if err != nil {
		return err
	}
	today, err := h.store.Day()
	if err != nil {
		return err
	}
	return h.purge(overdue(rows, today))
}

// overdue are the entries of a history, the newest first, that are to be let go.
func overdue(rows []store.CheckpointRow, today int) []uint {
	var out []uint
	var size int64
	for i, c := range rows {
		if c.Purged != nil {
			continue
		}
		size += c.Bytes
		if i > 0 && !c.Pinned && (today-c.Day > keepFor || size > keepSize) {
			out = append(out, c.ID)
			size -= c.Bytes
		}
	}
	return out
}

// Pin keeps an entry of the history for good, or no longer.
func (h *History) Pin(d *desks.Managed, checkpoint uint, pinned bool) error {
	if err := h.has(d, checkpoint); err != nil {
		return err
	}
	return h.store.PinCheckpoint(checkpoint, pinned)
}

// maxNote bounds a sentence beside an entry of the history, in letters.
const maxNote = 200

// noteOf is a sentence as it is kept: in one line. One that is too long is an error.
func noteOf(said string) (string, error) {
	note := strings.Join(strings.Fields(strings.ToValidUTF8(said, "")), " ")
	if n := utf8.RuneCountInString(note); n > maxNote {
		return "", say.Errorf("the note has %d letters, and a note may have %d", n, maxNote)
	}
	return note, nil
}

// Note writes a sentence beside an entry of the history; an empty one takes it away.
func (h *History) Note(d *desks.Managed, checkpoint uint, said string) error {
	note, err := noteOf(said)
	if err == nil {
		err = h.has(d, checkpoint)
	}
	if err != nil {
		return err
	}
	return h.store.NoteCheckpoint(checkpoint, note)
}

func (h *History) has(d *desks.Managed, checkpoint uint) error {
	c, err := h.store.Checkpoint(checkpoint)
	if err != nil || c.Desk != d.ID {
		return say.Errorf("there is no such checkpoint (%w)", store.ErrNone)
	}
	return nil
}

// Loss is what can no longer be undone once an entry of the history is let go.
type Loss struct {
	store.CheckpointRow
	Plan  plan.Plan
	Bytes int64                 // that are freed
	Reach []store.CheckpointRow // older entries, to before which nobody could go back
}

// LossOf tells what letting go of a checkpoint would mean.
func (h *History) LossOf(d *desks.Managed, checkpoint uint) (Loss, error) {
	if err := h.has(d, checkpoint); err != nil {
		return Loss{}, err
	}
	rows, err := h.store.Checkpoints(d.ID)
	if err != nil {
		return Loss{}, err
	}
	var out Loss
	for _, c := range rows {
		switch {
		case c.ID == checkpoint:
			out.CheckpointRow = c
			if out.Plan, err = h.plans.Get(d, c.PlanID); err != nil {
				return Loss{}, err
			}
		case c.ID < checkpoint && c.Purged == nil && c.TurnOf == 0:
			out.Reach = append(out.Reach, c)
		}
	}
	out.Bytes = out.CheckpointRow.Bytes
	return out, nil
}

// Purge deletes what is kept for an entry of the history. What it changed stays
// as it is, and can no longer be gone back on.
func (h *History) Purge(d *desks.Managed, checkpoint uint) error {
	d.Lock()
	defer d.Unlock()
	if err := h.has(d, checkpoint); err != nil {
		return err
	}
	switch t, err := h.store.Trial(d.ID); {
	case err == nil && t.Checkpoint == checkpoint:
		return ErrTrying
	case err != nil && !errors.Is(err, store.ErrNone):
		return err
	}
	rows, err := h.store.Checkpoints(d.ID)
	if err != nil {
		return err
	}
	gone := []uint{checkpoint}
	for _, c := range rows { // its turns go back with it, or not at all
		if c.TurnOf == checkpoint && c.Purged == nil {
			gone = append(gone, c.ID)
		}
	}
	return h.purge(gone)
}

func (h *History) purge(ids []uint) error {
	if len(ids) == 0 {
		return nil
	}
	if err := h.store.Purge(ids); err != nil {
		return err
	}
	return h.sweep()
}

// sweep deletes kept contents that nothing needs any more: no history of any desk
// that the store knows, no plan that is reviewed just now, and no change that was
// interrupted. Where that cannot be told for sure nothing is deleted.
func (h *History) sweep() error { return h.kept.Sweep(h.needed) }

func (h *History) needed() (map[string]bool, error) {
	out := map[string]bool{}
	rows, err := h.store.PlansNeeded()
	if err != nil {
		return nil, err
	}
	for _, row := range rows {
		var p plan.Plan
		if err := json.Unmarshal(row.JSON, &p); err != nil {
			return nil, say.Errorf("the plan %s in the store: %w", row.ID, err)
		}
		for _, hash := range p.Kept() {
			out[hash] = true
		}
	}
	journals, err := h.store.Journals()
	if err != nil {
		return nil, err
	}
	for _, file := range journals {
		r, err := apply.ReadJournal(file)
		if errors.Is(err, fs.ErrNotExist) {
			continue
		}
		if err != nil {
			return nil, err
		}
		for _, hash := range r.Plan.Kept() {
			out[hash] = true
		}
	}
	return out, nil
}
