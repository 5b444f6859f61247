package plan

import (
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"

	"ivelt/core/desk"
	"ivelt/core/reading"
)

// keptBeside ends the name of the file that keeps a login screen's settings as
// they were.
const keptBeside = ".before"

// safeLogin looks at what the plan would do to login screens once more, as their
// programs will: what would not come up is not done. The settings as they are now
// are kept beside the new ones, for the way back.
func (b *builder) safeLogin() error {
	for _, s := range b.d.Surfaces {
		f, ok := s.Facet(desk.FacetLogin)
		i := slices.IndexFunc(b.plan.Ops, func(op Op) bool { return op.Kind == Write && op.Surface == s.ID })
		want := b.outfit.Want(desk.FacetLogin)
		if !ok || s.Greeter == nil || i < 0 || want == "" {
			continue
		}
		done, release, err := Done(b.seen, *b.plan, *b.plan)
		if err != nil {
			return err
		}
		f.Loaded = nil
		r := reading.Of(done, s, f)
		problem := reading.Check(done, s, f, want)
		release()
		if problem == nil && r.Problem == nil && reading.Same(f, r.Value, want) {
			if err := b.keepBeside(i); err != nil {
				return err
			}
			continue
		}
		if problem == nil && r.Problem != nil {
			problem = errors.New(r.Problem.Text)
		}
		if problem == nil {
			problem = fmt.Errorf("it would read %s in its settings", reading.Quoted(r.Value))
		}
		b.plan.Ops = slices.Delete(b.plan.Ops, i, i+1)
		b.plan.Blocked = append(b.plan.Blocked, Blocked{s.ID, f.Name, fmt.Sprintf("%s would not come up: %v.", s.Title, problem), "It is left as it is, so that you can sign in."})
	}
	return nil
}

// keepBeside adds, before an operation on a file, one that writes the file as it
// is now beside it.
func (b *builder) keepBeside(i int) error {
	op := b.plan.Ops[i]
	if op.Before.Kind != "file" {
		return nil
	}
	old, err := fs.ReadFile(b.d.Tree(), desk.Name(op.Path))
	if err != nil {
		return err
	}
	at := op.Path + keptBeside
	before, err := look(b.d, at)
	if err != nil {
		return err
	}
	after := fileState(old, op.Before.Mode)
	if before.Is(after) {
		return nil
	}
	beside := Op{Kind: Write, Path: at, Before: before, After: after, Content: old, Surface: op.Surface, Facet: op.Facet, Admin: op.Admin, Effect: AtOnce, Why: "keep the settings as they are beside the new ones, for the way back"}
	b.plan.Ops = slices.Insert(b.plan.Ops, i, beside)
	return nil
}

// Hand is something to do by hand.
type Hand struct {
	Say  string `json:"say"`
	Type string `json:"type,omitempty"` // what to type
}

// WayBack is what to do on a text console, should a login screen not come up
// after the plan: steps that a person can write down. Without a login screen in
// the plan it is empty.
func (p Plan) WayBack(d *desk.Desk) []Hand {
	var out []Hand
	for _, op := range p.Ops {
		s, ok := d.Surface(op.Surface)
		if !ok || s.Greeter == nil || op.Kind != Write || path.Ext(op.Path) == keptBeside {
			continue
		}
		if out == nil {
			out = append(out, Hand{Say: "Press Ctrl, Alt and F3 together, and sign in there with your name and password."})
		}
		if op.Before.Kind == "file" {
			out = append(out, Hand{"Put the settings of " + s.Title + " back:", "sudo cp " + quote(op.Path+keptBeside) + " " + quote(op.Path)})
		} else {
			out = append(out, Hand{"Take the new settings of " + s.Title + " away:", "sudo rm " + quote(op.Path)})
		}
		if s.Greeter.Again != "" {
			out = append(out, Hand{"Start " + s.Title + " again:", s.Greeter.Again})
		} else {
			out = append(out, Hand{"Start the computer again:", "sudo reboot"})
		}
	}
	return out
}
