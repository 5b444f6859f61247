package changes

import (
	"context"

	"ivelt/app/desks"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/store"
)

// FixAll carries out what the match board proposes for an outfit, as far as there
// are plans for it: remedies that have one of their own, each with an entry in the
// history, then the outfit with what it left out. It returns the plans.
func (ch *Changes) FixAll(ctx context.Context, d *desks.Managed, o outfit.Outfit, lose bool) ([]plan.Plan, error) {
	var done []plan.Plan
	for range maxFixes {
		p, err := firstFix(ctx, d, o)
		if err != nil || len(p.Ops) == 0 {
			break // what cannot be planned is left for the person
		}
		p.Lose = lose
		d.Lock()
		err = ch.applier.Apply(ctx, d, p, store.Applied{}, nil)
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
	p, job, err := ch.Dress(ctx, d, o, 0, planning.Options{Lose: lose})
	if err != nil {
		return done, err
	}
	return append(done, p), job.Wait()
}

// maxFixes bounds how many are carried out at a time.
const maxFixes = 60

// firstFix plans the first remedy of the board that has a plan of its own.
func firstFix(ctx context.Context, d *desks.Managed, o outfit.Outfit) (plan.Plan, error) {
	for _, t := range match.Of(d.Desk, o).Threads {
		for _, c := range t.Cells {
			remedies := []match.Fix{c.Remedy}
			for _, aside := range c.Asides {
				remedies = append(remedies, aside.Remedy)
			}
			for _, r := range remedies {
				if !r.Planned() {
					continue
				}
				if p, err := planning.Fix(ctx, d.Desk, c, r); err == nil && len(p.Ops) > 0 {
					return p, nil
				}
			}
		}
	}
	return plan.Plan{}, nil
}
