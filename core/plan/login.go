package plan

import (
	"errors"
	"fmt"
	"path"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/reading"
)

// keptBeside ends the name of the file that keeps a login screen's settings as
// they were.
const keptBeside = ".before"

// safeLogin looks at what the plan would do to login screens once more, as their
// programs will: what would not come up is not done, unless it is forced. The
// settings as they are now are kept beside the new ones, for the way back.
func (b *builder) safeLogin() error {
	for _, s := range b.d.Surfaces {
		i := slices.IndexFunc(b.plan.Ops, func(op Op) bool { return op.Kind == Write && op.Surface == s.ID })
		if s.Greeter == nil || i < 0 {
			continue
		}
		facet := b.plan.Ops[i].Facet
		problem, err := b.loginProblem(s)
		if err != nil {
			return err
		}
		if problem == nil || b.force {
			if err := b.keepBeside(i); err != nil {
				return err
			}
			continue
		}
		b.plan.Ops = slices.Delete(b.plan.Ops, i, i+1)
		left := slices.Clone(b.plan.Ops)
		b.plan.Ops = slices.DeleteFunc(b.plan.Ops, func(op Op) bool { // of folders that nothing is put into then
			return op.Kind == Folder && !slices.ContainsFunc(left, func(in Op) bool { return in.Kind != Folder && strings.HasPrefix(in.Path, op.Path+"/") })
		})
		b.plan.Blocked = append(b.plan.Blocked, Blocked{s.ID, facet, fmt.Sprintf("%s would not come up: %v.", s.Title, problem), "It is left as it is, so that you can sign in."})
	}
	return nil
}

// loginProblem tells why a login screen would not come up, or would not show what
// is wanted, once the plan is carried out.
func (b *builder) loginProblem(s desk.Surface) (error, error) {
	done, release, err := Done(b.seen, *b.plan, *b.plan)
	if err != nil {
		return nil, err
	}
	defer release()
	if p := reading.Fatal(done, s); p != nil {
		return errors.New(strings.TrimSuffix(p.Text, ".")), nil
	}
	for _, f := range s.Facets {
		want := b.outfit.WantOn(s.ID, f.Name)
		if want == "" || !b.told[s.ID+" "+f.Name] {
			continue
		}
		f.Loaded = nil
		if r := reading.Told(done, s, f); !reading.Same(f, r.Value, want) {
			return fmt.Errorf("it would read %s in its settings", reading.Quoted(r.Value)), nil
		}
	}
	return nil, nil
}

// keepBeside adds, before an operation on a file, one that writes the file as it
// is now beside it.
func (b *builder) keepBeside(i int) error {
	op := b.plan.Ops[i]
	if op.Before.Kind != "file" {
		return nil
	}
	old, err := b.d.Tree().ReadSettings(desk.Name(op.Path))
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
		hands := handsOf(s, op.Path, op.Before.Kind == "file")
		if out != nil {
			hands = hands[1:] // one is signed in already
		}
		out = append(out, hands...)
	}
	return out
}

// HandsOf is the way back for a login screen as it is now, if a plan has kept its
// settings beside those that it reads.
func HandsOf(d *desk.Desk, s desk.Surface) []Hand {
	for _, f := range s.Facets {
		for _, src := range f.Sources {
			if at := reading.PlaceOf(d, s, src, nil); src.Write && d.Exists(at+keptBeside) {
				return handsOf(s, at, true)
			}
		}
	}
	return nil
}

func handsOf(s desk.Surface, file string, kept bool) []Hand {
	out := []Hand{{Say: "Press Ctrl, Alt and F3 together, and sign in there with your name and password."}}
	if kept {
		out = append(out, Hand{"Put the settings of " + s.Title + " back:", "sudo cp " + quote(file+keptBeside) + " " + quote(file)})
	} else {
		out = append(out, Hand{"Take the new settings of " + s.Title + " away:", "sudo rm " + quote(file)})
	}
	if s.Greeter.Again != "" {
		return append(out, Hand{"Start " + s.Title + " again:", s.Greeter.Again})
	}
	return append(out, Hand{"Start the computer again:", "sudo reboot"})
}
