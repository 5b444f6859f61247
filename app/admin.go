package app

import (
	"context"
	"encoding/json"
	"fmt"
	"io"

	"golang.org/x/sys/unix"

	"ivelt/app/jobs"
	"ivelt/core/plan"
	"ivelt/store"
)

// AdminHere reports whether this Ivelt may write to the desk's system.
func (d *Desk) AdminHere() bool { return unix.Access(d.System, unix.W_OK) == nil }

// HandOver writes a reviewed plan in a form that can be handed over: json, which
// another Ivelt can apply; sh, a script that can be read and run without one; tar,
// both with what they copy.
func (a *App) HandOver(ctx context.Context, d *Desk, planID, form string, to io.Writer) error {
	p, err := a.Plan(d, planID)
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
		script, err := plan.Script(d.Desk, p)
		if err != nil {
			return err
		}
		_, err = io.WriteString(to, script)
		return err
	case "tar":
		return plan.Bundle(ctx, d.Desk, p, a.Store.Blobs, to)
	}
	return fmt.Errorf("a plan is handed over as .json, .sh or .tar, not as .%s", form)
}

// ApplyHandedOver starts carrying out a plan that came as a file.
func (a *App) ApplyHandedOver(d *Desk, file []byte, lose bool) (plan.Plan, *jobs.Job, error) {
	var p plan.Plan
	if err := json.Unmarshal(file, &p); err != nil {
		return p, nil, fmt.Errorf("it is no plan: %w", err)
	}
	if err := plan.HandedOver(d.Desk, p); err != nil {
		return p, nil, err
	}
	p.Desk, p.Lose = d.ID, lose
	return p, a.Jobs.Start(p.Title, func(ctx context.Context, j *jobs.Job) error {
		d.Lock()
		defer d.Unlock()
		j.Step("Applying", "files")
		worn, err := a.puttingOn(d, p)
		if err != nil {
			return err
		}
		if err := a.apply(ctx, d, p, store.Applied{Worn: worn}, func(n, total int) { j.At(int64(n), int64(total)) }); err != nil {
			return err
		}
		return refreshCaches(ctx, d, j, p)
	}), nil
}
