package changes

import (
	"ivelt/app/desks"
	"ivelt/core/plan"
	"ivelt/core/reading"
	"ivelt/store"
)

// History is what was changed on desks, with what is kept to go back.
type History struct {
	store historyStore
	kept  store.Blobs
	plans *Plans
}

type historyStore interface {
	Checkpoints(desk string) ([]store.CheckpointRow, error)
	Checkpoint(id uint) (store.CheckpointRow, error)
	PinCheckpoint(id uint, pinned bool) error
	NoteCheckpoint(id uint, note string) error
	PlansNeeded() ([]store.PlanRow, error)
	Journals() ([]string, error)
	Purge(ids []uint) error
	Day() (int, error)
	Trial(desk string) (store.TrialRow, error)
}

// NewHistory returns the history in a store.
func NewHistory(s historyStore, kept store.Blobs, plans *Plans) *History {
	return &History{s, kept, plans}
}

// Entries returns the desk's checkpoints with their plans, newest first.
func (h *History) Entries(d *desks.Managed) ([]Past, error) {
	out, _, err := h.Latest(d, 0)
	return out, err
}

// Latest are the last n of them, and how many older ones there are; all for 0.
func (h *History) Latest(d *desks.Managed, n int) (latest []Past, older int, err error) {
	rows, err := h.store.Checkpoints(d.ID)
	if err != nil {
		return nil, 0, err
	}
	rows = store.Started(rows)
	if n > 0 && len(rows) > n {
		rows, older = rows[:n], len(rows)-n
	}
	readings := reading.All(d.Desk)
	for _, c := range rows {
		p, err := h.plans.Get(d, c.PlanID)
		if err != nil {
			return nil, 0, err
		}
		past := Past{CheckpointRow: c, Plan: p}
		if c.GoneOn == nil {
			past.StillNamed = stillNamed(d, p, readings)
		}
		latest = append(latest, past)
	}
	return latest, older, nil
}

// Past is one entry of a desk's history.
type Past struct {
	store.CheckpointRow
	Plan       plan.Plan
	StillNamed []string // surfaces that would be left naming a piece this put in place
}

func stillNamed(d *desks.Managed, p plan.Plan, readings []reading.Reading) []string {
	var out []string
	for _, op := range p.Ops {
		if op.Kind != plan.Copy {
			continue
		}
		for _, r := range readings {
			if r.Resolved == op.Path {
				s, _ := d.Surface(r.Surface)
				out = append(out, s.Title)
			}
		}
	}
	return out
}
