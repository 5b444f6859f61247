package planning

import (
	"errors"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/plan"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// safeLogin looks at what the plan would do to login screens once more, as their
// programs will: what would not come up is not done, unless it is forced. The
// settings as they are now are kept beside the new ones, for the way back.
func (b *builder) safeLogin() error {
	for _, s := range b.d.Surfaces() {
		i := slices.IndexFunc(b.plan.Ops, func(op plan.Op) bool { return op.Kind == plan.Write && op.Surface == s.ID })
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
		b.plan.Ops = slices.DeleteFunc(b.plan.Ops, func(op plan.Op) bool { // of folders that nothing is put into then
			return op.Kind == plan.Folder && !slices.ContainsFunc(left, func(in plan.Op) bool { return in.Kind != plan.Folder && strings.HasPrefix(in.Path, op.Path+"/") })
		})
		b.block(blocked(s, facet, say.Of("plan/would-not-come-up", s.Named(), problem), say.Of("plan/left-as-so-you-can")))
	}
	return nil
}

// loginProblem tells why a login screen would not come up, or would not show what
// is wanted, once the plan is carried out.
func (b *builder) loginProblem(s desk.Surface) (error, error) {
	done, release, err := plan.Done(b.seen, *b.plan, *b.plan)
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
			return say.Errorf("it would read %s in its settings", reading.Quoted(r.Value)), nil
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
	at := op.Path + plan.KeptBeside
	before, err := plan.Look(b.d, at)
	if err != nil {
		return err
	}
	after := plan.FileState(old, op.Before.Mode)
	if before.Is(after) {
		return nil
	}
	beside := plan.Op{Kind: plan.Write, Path: at, Before: before, After: after, Content: old, Surface: op.Surface, Facet: op.Facet, Admin: op.Admin, Effect: plan.AtOnce, Says: say.Of("plan/keep-settings-as-are-beside")}
	b.plan.Ops = slices.Insert(b.plan.Ops, i, beside)
	return nil
}
