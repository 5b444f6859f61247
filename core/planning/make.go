package planning

import (
	"context"
	"errors"
	"path"
	"slices"

	"ivelt/core/desk"
	"ivelt/core/keyfile"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// Rename plans to give a piece another display name: the Name in its
// index.theme. Its folder, which settings, outfits and Inherits refer to, stays.
func Rename(d *desk.Desk, dir, group, name string) (plan.Plan, error) {
	out := plan.Plan{Title: "Call it " + name}
	b := builder{d: d, plan: &out, made: map[string]bool{}}
	p, err := b.resolve(path.Join(dir, "index.theme"))
	if err != nil {
		return plan.Plan{}, err
	}
	old, err := d.Tree().ReadSettings(desk.Name(p))
	if err != nil {
		return plan.Plan{}, say.Errorf("%s: %w", d.Show(p), err)
	}
	kf, err := keyfile.Parse(old)
	if err != nil {
		return plan.Plan{}, say.Errorf("%s: %w", d.Show(p), err)
	}
	if kf.Get(group, "Name") == name {
		return out.Seal(d), nil
	}
	kf.Set(group, "Name", name)
	before, err := plan.Look(d, p)
	if err != nil {
		return plan.Plan{}, err
	}
	content := kf.Bytes()
	b.add(plan.Op{Kind: plan.Write, Path: p, Before: before, After: plan.FileState(content, before.Mode), Content: content, Says: say.Of("plan/name-people-see-programs-go", path.Base(dir)), Effect: plan.AtOnce})
	return out.Seal(d), nil
}

type builder struct {
	ctx  context.Context // of whoever waits for a plan that makes something; nil elsewhere
	d    *desk.Desk
	seen *desk.Desk // as it is once the pieces are in place
	plan *plan.Plan
	made map[string]bool
	// Variables that are taken out, and what surfaces are told by the plan, by
	// surface and facet.
	unsetting, told map[string]bool
	granted         []string // folders, by surface
	outfit          outfit.Outfit
	force           bool             // see [Options]
	looks           map[string]*look // that are made, by name
}

// resolve follows the links of a path, so that a linked settings file is
// edited where it really lies and stays linked.
func (b *builder) resolve(p string) (string, error) {
	name, err := b.d.Tree().Resolve(desk.Name(p))
	if err != nil {
		return "", say.Errorf("%s: %w", b.d.Show(p), err)
	}
	return desk.Path(name), nil
}

// parents adds an operation for each folder above p that is missing.
func (b *builder) parents(p, facet string) {
	dir := path.Dir(p)
	if dir == "/" || dir == b.d.HomePath || b.made[dir] || b.d.Exists(dir) {
		return
	}
	b.parents(dir, facet)
	b.made[dir] = true
	b.add(plan.Op{Kind: plan.Folder, Path: dir, After: plan.EmptyTree, Facet: facet, Says: say.Of("plan/have-folder"), Effect: plan.AtOnce})
}

func (b *builder) add(op plan.Op) {
	op.Admin = !b.d.Mine(op.Path)
	op.Loses = append(op.Loses, plan.Losing(op, op.Before)...)
	b.plan.Ops = append(b.plan.Ops, op)
}

// blocked is a facet of a surface that a plan does not change, why, and what to do about it.
func blocked(s desk.Surface, facet string, why, remedy say.Message) plan.Blocked {
	return plan.Blocked{Surface: s.ID, Facet: facet, Why: why.String(), Remedy: remedy.String(), Says: why, Fix: remedy}
}

// block tells that a plan leaves a facet of a surface alone: once, also if others that follow
// the surface ask for it again.
func (b *builder) block(left plan.Blocked) {
	if !slices.ContainsFunc(b.plan.Blocked, func(told plan.Blocked) bool {
		return told.Surface == left.Surface && told.Facet == left.Facet && told.Why == left.Why
	}) {
		b.plan.Blocked = append(b.plan.Blocked, left)
	}
}

// Shortfalls are the choices of an outfit that some surface cannot follow, and those of which
// its plan says that no file lets a surface be told of them.
func Shortfalls(d *desk.Desk, o outfit.Outfit, p plan.Plan) []match.Shortfall {
	out := match.Shortfalls(d, o)
	for _, b := range p.Blocked {
		said := func(s match.Shortfall) bool { return s.Facet == b.Facet && s.Surface.ID == b.Surface }
		if !slices.ContainsFunc(out, said) {
			s, _ := d.Surface(b.Surface)
			out = append(out, match.Shortfall{Surface: s, Facet: b.Facet, Why: b.Why + " " + b.Remedy, Says: say.Of("plan/blocked-with-remedy", b.Says, b.Fix)})
		}
	}
	return out
}

// Forceable reports whether some of what a plan leaves alone could be done all the same: what
// was made for another version, or keeps a login screen from coming up.
func Forceable(d *desk.Desk, o outfit.Outfit, p plan.Plan) bool {
	return slices.ContainsFunc(p.Blocked, func(b plan.Blocked) bool {
		s, _ := d.Surface(b.Surface)
		f, _ := s.Facet(b.Facet)
		return s.Greeter != nil && desk.Vital(f.Name) || errors.Is(reading.Check(d, s, f, o.WantOn(s.ID, f.Name)), reading.ErrVersion)
	})
}
