package changes

import (
	"context"
	"errors"
	"slices"

	"ivelt/app/desks"
	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/iconbench"
	"ivelt/core/judge"
	"ivelt/core/match"
	"ivelt/core/palette"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/core/say"
)

// Sheet plans to put the lines that a verdict proposes into the person's own
// style sheets.
func (rv *Review) Sheet(ctx context.Context, d *desks.Managed, code, surface string) (plan.Plan, error) {
	v, r, err := rv.judge.Fix(ctx, d, code, surface, func(r judge.Fix) bool { return r.Sheet != "" })
	if err != nil {
		return plan.Plan{}, err
	}
	pl, err := planning.OwnSheet(d.Desk, append([]string{v.Surface}, v.Also...), v.Facet, r.Sheet)
	if err != nil {
		return pl, err
	}
	return pl, rv.plans.Keep(pl)
}

// Colours plans to give the terminal's palette the colours that a verdict
// proposes.
func (rv *Review) Colours(ctx context.Context, d *desks.Managed, code, surface string) (plan.Plan, error) {
	v, r, err := rv.judge.Fix(ctx, d, code, surface, func(r judge.Fix) bool { return r.Colours != nil })
	if err != nil {
		return plan.Plan{}, err
	}
	to := map[int]colour.Colour{}
	for i, hex := range r.Colours {
		if to[i], err = colour.Parse(hex); err != nil {
			return plan.Plan{}, err
		}
	}
	s, _ := d.Surface(v.Surface)
	pl, err := planning.Remap(d.Desk, s, to)
	if err != nil {
		return pl, err
	}
	return pl, rv.plans.Keep(pl)
}

// Cell is one cell of the desk's match board.
func (rv *Review) Cell(d *desks.Managed, surface, facet string) (match.Cell, error) {
	o, _, err := rv.drafts.Wanted(d)
	if err != nil {
		return match.Cell{}, err
	}
	c, ok := match.Of(d.Desk, o).Cell(surface, facet)
	if !ok || c.State == match.NotHere {
		return c, errors.New("this desk has no such surface, or nothing is known of that for it")
	}
	return c, nil
}

// Fix plans one of the remedies of a cell, by its name, see
// [match.Fix.ID].
func (rv *Review) Fix(ctx context.Context, d *desks.Managed, surface, facet, fix string) (plan.Plan, error) {
	c, err := rv.Cell(d, surface, facet)
	if err != nil {
		return plan.Plan{}, err
	}
	all := c.Fixes()
	n := slices.IndexFunc(all, func(r match.Fix) bool { return r.ID() == fix })
	if n < 0 {
		return plan.Plan{}, errors.New("this is fixed already: look again")
	}
	p, err := planning.Fix(ctx, d.Desk, c, all[n])
	if err != nil {
		return plan.Plan{}, err
	}
	return p, rv.plans.Keep(p)
}

// LetGo plans to take away what is left over of earlier looks at some paths of the desk.
func (rv *Review) LetGo(ctx context.Context, d *desks.Managed, paths []string) (plan.Plan, error) {
	left, err := iconbench.LeftOver(ctx, d.Desk)
	if err != nil {
		return plan.Plan{}, err
	}
	left = slices.DeleteFunc(left, func(l iconbench.Left) bool { return !slices.Contains(paths, l.Path) })
	if len(left) == 0 {
		return plan.Plan{}, errors.New("nothing of what is left over was chosen, or it is gone already: look again")
	}
	p, err := planning.LetGo(d.Desk, left)
	if err != nil {
		return plan.Plan{}, err
	}
	return p, rv.plans.Keep(p)
}

// Packages plans to have the package manager install packages, and what they need.
func (rv *Review) Packages(d *desks.Managed, of []desk.PackageAt) (plan.Plan, error) {
	p, err := planning.Packages(d.Desk, of)
	if err != nil {
		return p, err
	}
	return p, rv.plans.Keep(p)
}

// Session plans to start Ivelt's own provider at sign-in, or no longer.
func (rv *Review) Session(d *desks.Managed, on bool) (plan.Plan, error) {
	if !on {
		p, err := planning.WithdrawSession(d.Desk)
		if err != nil {
			return plan.Plan{}, err
		}
		return p, rv.plans.Keep(p)
	}
	self, err := desks.Self()
	if err != nil {
		return plan.Plan{}, err
	}
	p, err := planning.OfferSession(d.Desk, self)
	if err != nil {
		return plan.Plan{}, err
	}
	return p, rv.plans.Keep(p)
}

// Allow plans to let a descriptor that came from others start programs, or no longer.
func (rv *Review) Allow(d *desks.Managed, surface string, may bool) (plan.Plan, error) {
	p, err := planning.Allow(d.Desk, surface, may)
	if err != nil {
		return p, err
	}
	return p, rv.plans.Keep(p)
}

// Grant plans to let one program of a runtime, or all, look into a folder of
// the home, or to take that back.
func (rv *Review) Grant(d *desks.Managed, surface, program, folder string, back bool) (plan.Plan, error) {
	s, ok := d.Surface(surface)
	if !ok || s.Sandbox == nil {
		return plan.Plan{}, errors.New("this desk has no such runtime")
	}
	if !d.Mine(folder) {
		return plan.Plan{}, say.Errorf("%s is not in your home: programs see all that is outside of it", folder)
	}
	change := planning.Grant
	if back {
		change = planning.Revoke
	}
	p, err := change(d.Desk, s, program, folder)
	if err != nil {
		return p, err
	}
	return p, rv.plans.Keep(p)
}

// NewProfile plans a new profile of a terminal's, and makes it the default.
func (rv *Review) NewProfile(d *desks.Managed, surface, name string) (plan.Plan, error) {
	s, ok := d.Surface(surface)
	if !ok {
		return plan.Plan{}, errors.New("this desk has no such terminal")
	}
	p, err := planning.NewProfile(d.Desk, s, name)
	if err != nil {
		return p, err
	}
	return p, rv.plans.Keep(p)
}

// Remap plans to make those of a terminal's colours that cannot be read, or
// the one of that number, others of the same hue that can.
func (rv *Review) Remap(d *desks.Managed, surface string, p palette.Palette, only int) (plan.Plan, error) {
	s, ok := d.Surface(surface)
	if !ok {
		return plan.Plan{}, errors.New("this desk has no such terminal")
	}
	to := map[int]colour.Colour{}
	for _, h := range p.Contrasts() {
		if (only < 0 && !h.Quiet || only == h.Index) && !h.Legible() {
			to[h.Index] = p.Nearest(h.Colour)
		}
	}
	if len(to) == 0 {
		return plan.Plan{}, errors.New("these colours can be read as they are")
	}
	pl, err := planning.Remap(d.Desk, s, to)
	if err != nil {
		return pl, err
	}
	return pl, rv.plans.Keep(pl)
}
