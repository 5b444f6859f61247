package planning

import (
	"strings"

	"ivelt/core/desk"
	"ivelt/core/gvariant"
	"ivelt/core/plan"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// putSetting adds the operation that gives a setting of the desktop's a value.
func (b *builder) putSetting(s desk.Surface, f desk.Facet, target desk.Source, want string) error {
	said := gsettingsText(target.Type, reading.Written(f, target, want))
	v, err := gvariant.ParseText(target.Type, said)
	if err != nil {
		return say.Errorf("%s: %w", b.d.Show(target.Path), err)
	}
	data, err := gvariant.Bytes(target.Type, v)
	if err != nil {
		return say.Errorf("%s: %w", b.d.Show(target.Path), err)
	}
	after, why := plan.SettingState(desk.Value{Type: target.Type, Data: string(data)}), setsTo(b.d, s, f, want)
	for i := range b.plan.Ops { // it is set already, for another who asks for it
		if op := &b.plan.Ops[i]; op.Kind == plan.Set && op.Path == target.Path {
			op.After = after
			if !strings.Contains(op.Says.String(), why.String()) {
				op.Says = say.Of("plan/and", op.Says, why)
			}
			return nil
		}
	}
	before, err := plan.Look(b.d, target.Path)
	if err != nil || before.Is(after) {
		return err // it says so already, and was overruled
	}
	b.add(plan.Op{Kind: plan.Set, Path: target.Path, Before: before, After: after, Surface: s.ID, Facet: f.Name, Says: why, Effect: plan.AtOnce}) // who asks is told of changes
	return nil
}

// setting goes back on what was done to a setting. What somebody else set since stays,
// unless the aim says otherwise.
func (r *returning) setting(t touch, now plan.State) error {
	aimed := (r.aim.Surface == "" || r.aim.Surface == t.surface) && (r.aim.Facet == "" || r.aim.Facet == t.facet)
	if !aimed {
		return nil
	}
	if !now.Is(t.left()) || t.between() {
		c := Conflict{
			Path: t.path, Before: t.before().Line(), Left: t.left().Line(), Now: now.Line(), Between: t.between(),
			WasNone: t.before().Kind == "", IsNone: now.Kind == "", Takes: []Take{TakeNow, TakeBefore}, Taken: TakeNow,
		}
		if r.aim.Takes[t.path] == TakeBefore {
			c.Taken = TakeBefore
		}
		r.out.Conflicts = append(r.out.Conflicts, c)
		if c.Taken == TakeNow {
			return nil
		}
	}
	why := say.Of("plan/was-there-before")
	if t.before().Kind == "" {
		why = say.Of("plan/was-not-set-before")
	}
	r.add(r.op(t, plan.Set, now, t.before(), why))
	return nil
}
