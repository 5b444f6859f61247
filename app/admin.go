package app

import (
	"context"
	"encoding/json"
	"fmt"

	"golang.org/x/sys/unix"

	"ivelt/core/plan"
	"ivelt/store"
)

// AdminHere reports whether this Ivelt may write to the desk's system.
func (d *Desk) AdminHere() bool { return unix.Access(d.System, unix.W_OK) == nil }

// HandOver is a reviewed plan as a file that another Ivelt can apply, and as a
// script that can be read and run without one.
func (a *App) HandOver(d *Desk, planID string) (file []byte, script string, err error) {
	p, err := a.Plan(d, planID)
	if err != nil {
		return nil, "", err
	}
	if file, err = json.MarshalIndent(p, "", "  "); err != nil {
		return nil, "", err
	}
	script, err = plan.Script(d.Desk, p)
	return file, script, err
}

// ApplyHandedOver starts carrying out a plan that came as a file.
func (a *App) ApplyHandedOver(d *Desk, file []byte) (plan.Plan, *Job, error) {
	var p plan.Plan
	if err := json.Unmarshal(file, &p); err != nil {
		return p, nil, fmt.Errorf("it is no plan: %w", err)
	}
	if err := plan.HandedOver(d.Desk, p); err != nil {
		return p, nil, err
	}
	p.Desk = d.ID
	return p, a.Jobs.Start(p.Title, func(ctx context.Context, j *Job) error {
		d.mu.Lock()
		defer d.mu.Unlock()
		j.Step("Applying", "files")
		if err := a.apply(ctx, d, p, store.Applied{}, func(n, total int) { j.At(int64(n), int64(total)) }); err != nil {
			return err
		}
		return a.refresh(ctx, d, j, p)
	}), nil
}
