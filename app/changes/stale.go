package changes

import (
	"errors"
	"os"
	"path/filepath"

	"ivelt/app/desks"
	"ivelt/core/desk"
	"ivelt/core/plan"
	"ivelt/core/reading"
)

// Stale is a running program that still shows what its surface was told before a change.
type Stale struct {
	desk.Program
	Title  string   // of its surface
	Facets []string // that it shows otherwise
}

// Stale are the programs that were started before changes which they do not follow until
// they are started again: what they read then is not what they would read now. Of a desk
// whose programs are not known it is none.
func (h *History) Stale(d *desks.Managed) ([]Stale, error) {
	if d.Programs == nil {
		return nil, nil
	}
	programs := d.Programs()
	if len(programs) == 0 {
		return nil, nil
	}
	rows, err := h.store.Checkpoints(d.ID)
	if err != nil {
		return nil, err
	}
	var out []Stale
	seen, was := d.Snapshot(), map[int]*desk.Desk{} // by how many changes came since
	for _, p := range programs {
		s, ok := seen.Surface(p.Surface)
		if !ok {
			continue
		}
		since := 0 // the newest first
		for since < len(rows) && rows[since].At.After(p.Since) {
			since++
		}
		if since == 0 {
			continue
		}
		if was[since] == nil {
			var plans []plan.Plan
			for _, c := range rows[:since] {
				of, err := h.plans.Get(d, c.PlanID)
				if err != nil {
					return nil, err
				}
				plans = append(plans, of)
			}
			before, release, err := h.before(seen, plans)
			if err != nil {
				return nil, err
			}
			defer release() // a few at most: the programs share them
			was[since] = before
		}
		one := Stale{Program: p, Title: s.Title}
		for _, f := range s.Facets {
			if !reading.Live(seen, s, f) && reading.Told(was[since], s, f).Value != reading.Told(seen, s, f).Value {
				one.Facets = append(one.Facets, f.Name)
			}
		}
		if len(one.Facets) > 0 {
			out = append(out, one)
		}
	}
	return out, nil
}

// before is the desk as it was before some changes, the newest first, as far as settings
// go. It can be read until release is called. What was let go is as it is now.
func (h *History) before(d *desk.Desk, changes []plan.Plan) (before *desk.Desk, release func(), err error) {
	front, err := os.MkdirTemp("", "ivelt-before-")
	if err != nil {
		return nil, nil, err
	}
	release = func() { _ = os.RemoveAll(front) }
	first := map[string]plan.State{} // of a path: before the oldest of them
	for _, p := range changes {
		for _, op := range p.Ops {
			first[op.Path] = op.Before
		}
	}
	var gone []string
	told := map[string]desk.Value{}
	for at, state := range first {
		var err error
		if setting, is := desk.Setting(at); is {
			told[setting], err = state.Value()
		} else if state.Kind == "" {
			gone = append(gone, at)
		} else {
			err = h.lay(filepath.Join(front, filepath.FromSlash(at)), state)
		}
		if err != nil {
			release()
			return nil, nil, err
		}
	}
	return d.Laid(front, gone).Told(told), release, nil
}

// lay puts a file or link that was kept somewhere.
func (h *History) lay(at string, state plan.State) error {
	var b []byte
	var err error
	switch state.Kind {
	case "file":
		if b, err = h.kept.Get(state.Hash); err != nil {
			return nil // it was let go: nothing can be told of it any more
		}
	case "link":
	default:
		return nil
	}
	if err := os.MkdirAll(filepath.Dir(at), 0o700); err != nil {
		return err
	}
	if state.Kind == "link" {
		return os.Symlink(state.Hash, at)
	}
	return errors.Join(err, os.WriteFile(at, b, 0o600))
}
