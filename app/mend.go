package app

import (
	"context"
	"errors"
	"fmt"
	"time"

	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/palette"
	"ivelt/core/plan"
	"ivelt/store"
)

// Cell is one cell of the desk's match board.
func (a *App) Cell(d *Desk, surface, facet string) (match.Cell, error) {
	o, _, err := a.Wanted(d)
	if err != nil {
		return match.Cell{}, err
	}
	c, ok := match.Of(d.Desk, o).Cell(surface, facet)
	if !ok || c.State == match.NotHere {
		return c, errors.New("this desk has no such surface, or nothing is known of that for it")
	}
	return c, nil
}

// ReviewRemedy plans one of the remedies of a cell, by its number, see
// [match.Cell.Remedies].
func (a *App) ReviewRemedy(ctx context.Context, d *Desk, surface, facet string, n int) (plan.Plan, error) {
	c, err := a.Cell(d, surface, facet)
	if err != nil {
		return plan.Plan{}, err
	}
	all := c.Remedies()
	if n < 0 || n >= len(all) {
		return plan.Plan{}, errors.New("this is mended already: look again")
	}
	p, err := plan.Mend(ctx, d.Desk, c, all[n])
	if err != nil {
		return plan.Plan{}, err
	}
	return p, a.keepPlan(p)
}

// ReviewGrant plans to let one program of a runtime, or all, look into a folder of
// the home, or to take that back.
func (a *App) ReviewGrant(d *Desk, surface, program, folder string, back bool) (plan.Plan, error) {
	s, ok := d.Surface(surface)
	if !ok || s.Sandbox == nil {
		return plan.Plan{}, errors.New("this desk has no such runtime")
	}
	if !d.Mine(folder) {
		return plan.Plan{}, fmt.Errorf("%s is not in your home: programs see all that is outside of it", folder)
	}
	change := plan.Grant
	if back {
		change = plan.Revoke
	}
	p, err := change(d.Desk, s, program, folder)
	if err != nil {
		return p, err
	}
	return p, a.keepPlan(p)
}

// TakeAll puts on the draft what the match board would put there.
func (a *App) TakeAll(d *Desk) error {
	o, draft, err := a.Wanted(d)
	if err != nil {
		return err
	}
	d.Lock()
	defer d.Unlock()
	after := draft
	for _, step := range match.Of(d.Desk, o).Next() {
		if step.Kind != match.ByDraft || step.Facet == "" || step.SaidBy(after) {
			continue
		}
		if step.SaidBy(o) && o.Want(step.Facet) != step.Want { // an exception: what it is one of is taken with it
			after = taken(after, o, step.Facet, o.Want(step.Facet))
			continue
		}
		after = taken(after, o, step.Facet, step.Want)
	}
	if len(after.Choices) == len(draft.Choices) {
		return errors.New("everything that a draft can do is on it already")
	}
	_, err = a.redraft(d, "all that the board proposes", draft, after)
	return err
}

// taken is a draft with a choice on it that was made before, its exceptions with
// it.
func taken(draft, worn outfit.Outfit, facet, want string) outfit.Outfit {
	out := draft.With(facet, want)
	if worn.Want(facet) == want && draft.Want(facet) == "" {
		for surface, value := range worn.Choices[facet].Except {
			out = out.Except(surface, facet, value)
		}
	}
	return out
}

// Except leaves a surface out of a choice, with a value of its own or "" for
// whatever it shows; with rejoin it is left out no more. Of a choice that is worn
// and not on the draft, leaving it out is written down at once, for nothing on the
// desk changes; anything else goes on the draft.
func (a *App) Except(d *Desk, surface, facet, value string, rejoin bool) error {
	info, ok := desk.FacetOf(facet)
	s, has := d.Surface(surface)
	if ok && has {
		_, has = s.Facet(facet)
	}
	if !ok || !has {
		return errors.New("this desk has no such surface, or nothing is known of that for it")
	}
	if value != "" {
		if err := info.Accepts(value); err != nil {
			return err
		}
	}
	d.Lock()
	defer d.Unlock()
	draft, err := a.Draft(d)
	if err != nil {
		return err
	}
	worn, err := a.Worn(d)
	if err != nil {
		return err
	}
	change := func(o outfit.Outfit) outfit.Outfit {
		if rejoin {
			return o.Rejoin(surface, facet)
		}
		return o.Except(surface, facet, value)
	}
	switch {
	case draft.Want(facet) != "":
		_, err = a.redraft(d, info.Title+" but for "+s.Title, draft, change(draft))
		return err
	case worn.Want(facet) == "":
		return fmt.Errorf("nothing is asked of %s, so there is nothing to leave out", info.Title)
	case value == "" && !rejoin:
		return a.wornIs(d, change(worn))
	}
	_, err = a.redraft(d, info.Title+" but for "+s.Title, draft, change(taken(draft, worn, facet, worn.Want(facet))))
	return err
}

// WearDraft writes down that the draft is worn, if the desk is told all of it
// already.
func (a *App) WearDraft(ctx context.Context, d *Desk) error {
	draft, err := a.Draft(d)
	if err != nil {
		return err
	}
	p, _, err := a.dressPlan(ctx, d, draft, plan.Options{})
	if err != nil {
		return err
	}
	if len(p.Ops) > 0 || len(draft.Choices) == 0 {
		return errors.New("there is something to change: review it")
	}
	d.Lock()
	defer d.Unlock()
	worn, err := a.Worn(d)
	if err != nil {
		return err
	}
	if err := a.wornIs(d, worn.Over(draft)); err != nil {
		return err
	}
	return a.draftIsWorn(d)
}

// wornIs makes what is worn another outfit, without a change to the desk; going
// back on what put it on takes it along.
func (a *App) wornIs(d *Desk, o outfit.Outfit) error {
	row := store.OutfitRow{Desk: d.ID, Name: o.Name, Text: o.Bytes(), Changed: time.Now()}
	if rows, err := a.Store.Worn(d.ID); err != nil {
		return err
	} else if len(rows) > 0 {
		row.PlanID, row.Checkpoint = rows[0].PlanID, rows[0].Checkpoint
	}
	return a.Store.SaveOutfit(&row)
}

// ReviewRemap plans to make those of a terminal's colours that cannot be read, or
// the one of that number, others of the same hue that can.
func (a *App) ReviewRemap(d *Desk, surface string, p palette.Palette, only int) (plan.Plan, error) {
	s, ok := d.Surface(surface)
	if !ok {
		return plan.Plan{}, errors.New("this desk has no such terminal")
	}
	to := map[int]colour.Colour{}
	for _, h := range p.Hold() {
		if (only < 0 && !h.Quiet || only == h.Index) && !h.Legible() {
			to[h.Index] = p.Nearest(h.Colour)
		}
	}
	if len(to) == 0 {
		return plan.Plan{}, errors.New("these colours can be read as they are")
	}
	pl, err := plan.Remap(d.Desk, s, to)
	if err != nil {
		return pl, err
	}
	return pl, a.keepPlan(pl)
}

// MendAll carries out what the match board proposes for an outfit, as far as there
// are plans for it: remedies that have one of their own, each with an entry in the
// history, then the outfit with what it left out. It returns the plans.
func (a *App) MendAll(ctx context.Context, d *Desk, o outfit.Outfit, lose bool) ([]plan.Plan, error) {
	var done []plan.Plan
	for range maxRemedies {
		p, err := firstRemedy(ctx, d, o)
		if err != nil || len(p.Ops) == 0 {
			break // what cannot be planned is left for the person
		}
		p.Lose = lose
		d.Lock()
		err = a.apply(ctx, d, p, store.Applied{}, nil)
		d.Unlock()
		if err != nil {
			return done, err
		}
		done = append(done, p)
	}
	for _, step := range match.Of(d.Desk, o).Next() {
		if step.Kind == match.ByDraft && step.Facet != "" {
			o = o.With(step.Facet, step.Want)
		}
	}
	p, job, err := a.Dress(ctx, d, o, 0, plan.Options{Lose: lose})
	if err != nil {
		return done, err
	}
	return append(done, p), job.Wait()
}

// maxRemedies bounds how many are carried out at a time.
const maxRemedies = 60

// firstRemedy plans the first remedy of the board that has a plan of its own.
func firstRemedy(ctx context.Context, d *Desk, o outfit.Outfit) (plan.Plan, error) {
	for _, t := range match.Of(d.Desk, o).Threads {
		for _, c := range t.Cells {
			remedies := []match.Remedy{c.Remedy}
			for _, aside := range c.Asides {
				remedies = append(remedies, aside.Remedy)
			}
			for _, r := range remedies {
				if !r.Planned() {
					continue
				}
				if p, err := plan.Mend(ctx, d.Desk, c, r); err == nil && len(p.Ops) > 0 {
					return p, nil
				}
			}
		}
	}
	return plan.Plan{}, nil
}
