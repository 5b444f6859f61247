package changes

import (
	"context"
	"encoding/json"
	"fmt"
	"io"

	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/core/script"
	"ivelt/store"
)

// HandOver writes a reviewed plan in a form that can be handed over: json, which
// another Ivelt can apply; sh, a script that can be read and run without one; tar,
// both with what they copy.
func (ch *Changes) HandOver(ctx context.Context, d *desks.Managed, planID, form string, to io.Writer) error {
	p, err := ch.plans.Get(d, planID)
	if err != nil {
		return err
	}
	switch form {
	case "json":
		file, err := json.MarshalIndent(p, "", "  ")
		if err != nil {
			return err
		}
		_, err = to.Write(file)
		return err
	case "sh":
		script, err := script.Of(d.Desk, p)
		if err != nil {
			return err
		}
		_, err = io.WriteString(to, script)
		return err
	case "tar":
		return script.Bundle(ctx, d.Desk, p, ch.kept, to)
	}
	return fmt.Errorf("a plan is handed over as .json, .sh or .tar, not as .%s", form)
}

// ApplyHandedOver starts carrying out a plan that came as a file.
func (ch *Changes) ApplyHandedOver(d *desks.Managed, file []byte, lose bool) (plan.Plan, *jobs.Job, error) {
	var p plan.Plan
	if err := json.Unmarshal(file, &p); err != nil {
		return p, nil, fmt.Errorf("it is no plan: %w", err)
	}
	if err := planning.HandedOver(d.Desk, p); err != nil {
		return p, nil, err
	}
	p.Desk, p.Lose = d.ID, lose
	return p, ch.jobs.Start(p.Title, func(ctx context.Context, j *jobs.Job) error {
		d.Lock()
		defer d.Unlock()
		j.Step("Applying", "files")
		worn, err := ch.puttingOn(d, p)
		if err != nil {
			return err
		}
		if err := ch.applier.Apply(ctx, d, p, store.Applied{Worn: worn}, func(n, total int) { j.At(int64(n), int64(total)) }); err != nil {
			return err
		}
		return desks.RefreshCaches(ctx, d, j, p)
	}), nil
}
