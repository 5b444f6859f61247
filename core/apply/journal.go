package apply

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path"

	"ivelt/core/desk"
	"ivelt/core/plan"
	"ivelt/core/say"
)

// journal is the file that tells of a change that is being made. The earliest
// versions wrote the plan alone.
type journal struct {
	Format int        `json:"journal"`
	Run    string     `json:"run"`
	Plan   *plan.Plan `json:"plan"`
}

const journalFormat = 2

// ReadJournal reads the journal of a desk. It is [fs.ErrNotExist] if no change was
// interrupted and none is being made, and [ErrJournal] if it is damaged.
func ReadJournal(file string) (Run, error) {
	b, err := os.ReadFile(file)
	if err != nil {
		return Run{}, err
	}
	var j journal
	if err := json.Unmarshal(b, &j); err != nil {
		return Run{}, say.Errorf("%w: %s: %w", ErrJournal, file, err)
	}
	if j.Format > journalFormat {
		return Run{}, say.Errorf("the journal %s is of a newer Ivelt: start that one", file)
	}
	if j.Plan == nil {
		j.Plan = &plan.Plan{}
		if err := json.Unmarshal(b, j.Plan); err != nil || j.Plan.ID == "" {
			return Run{}, errors.Join(say.Errorf("%w: %s names no plan", ErrJournal, file), err)
		}
	}
	return Run{j.Run, *j.Plan}, nil
}

// SetAside gives a journal another name, under which it is not acted on any more, and
// returns that.
func SetAside(d *desk.Desk, file string) (string, error) {
	release, err := lockDesk(d, 0)
	if err != nil {
		return "", err
	}
	defer release()
	for n := 1; ; n++ {
		to := fmt.Sprintf("%s.aside-%d", file, n)
		if _, err := os.Lstat(to); errors.Is(err, fs.ErrNotExist) {
			return to, os.Rename(file, to)
		}
	}
}

// Leftover is a file or folder that an interrupted change has left beside the place
// it is for.
type Leftover struct {
	At       string // path of the desk
	For      string // the place
	Original bool   // it is what stood there before; else what was to come there
}

// Leftovers lists what an interrupted plan has left.
func Leftovers(d *desk.Desk, p plan.Plan) []Leftover {
	x := &run{d: d, plan: p}
	var out []Leftover
	for i, op := range p.Ops {
		if op.Kind == plan.Set || op.Kind == plan.Package {
			continue
		}
		at := x.temp(op.Path, i)
		s, err := plan.LookAt(d.HostPath(at))
		if err != nil || s.Kind == "" {
			continue
		}
		out = append(out, Leftover{path.Clean(at), op.Path, op.Before.Kind != "" && s.Is(op.Before)})
	}
	return out
}

// AtWork reports whether a change is being made on the desk just now.
func AtWork(d *desk.Desk) bool {
	release, err := lockDesk(d, 0)
	if err != nil {
		return errors.Is(err, ErrBusy)
	}
	release()
	return false
}
