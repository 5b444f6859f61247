package changes

import (
	"context"
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"time"

	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/core/turning"
)

// mark tells the process that turns the desk that something else turns, or nothing; and
// starts it, if something does.
func (t *Turner) mark(d *desks.Managed) {
	if d.Turns || d.Tend == nil {
		return
	}
	at := MarkOf(t.dir)
	_, err := t.Of(d)
	switch {
	case errors.Is(err, ErrStill):
		if err = os.Remove(at); errors.Is(err, fs.ErrNotExist) {
			return
		}
	case err == nil:
		err = errors.Join(os.MkdirAll(filepath.Dir(at), 0o700), os.WriteFile(at, []byte(t.now().Format(time.RFC3339Nano)+"\n"), 0o600), d.Tend())
	}
	if err != nil {
		t.log.Error("tell what turns the desk", "error", err)
	}
}

// MarkOf is the file in a data folder that changes when something else turns; without it
// nothing does.
func MarkOf(dir string) string { return filepath.Join(dir, "turning") }

// wait sees to it that a desk turns in time, if this program does that.
func (t *Turner) wait(d *desks.Managed, is Turning) {
	due := is.Due
	if trial, err := t.store.Trial(d.ID); err == nil {
		due = trial.Until.Add(time.Second)
	} else if is.Worn.Turn != nil && is.Worn.Turn.By == turning.ByDesk {
		due = t.now() // its shade may be another one now
	}
	if d.Turns && !due.IsZero() && !is.Paused && is.Stopped == "" {
		t.due.after(d.ID, max(0, due.Sub(t.now())), func() { t.timeIsUp(d) })
	}
}

// afterFailure is how long after a failure it is tried again.
const afterFailure = 30 * time.Second

// timeIsUp turns a desk, and sees to the next time.
func (t *Turner) timeIsUp(d *desks.Managed) {
	var due time.Time
	err := t.jobs.Start("Turn", func(ctx context.Context, _ *jobs.Job) (err error) {
		due, err = t.Turn(ctx, d, Ask{})
		return err
	}).Wait()
	switch {
	case errors.Is(err, jobs.ErrStopping) || errors.Is(err, context.Canceled) || errors.Is(err, ErrStill):
	case errors.Is(err, ErrStopped): // until somebody says that it is to go on
	case err != nil:
		t.log.Error("a desk could not be turned", "desk", d.ID, "error", err)
		t.due.after(d.ID, afterFailure, func() { t.timeIsUp(d) })
	case !due.IsZero():
		t.due.after(d.ID, max(0, due.Sub(t.now())), func() { t.timeIsUp(d) })
	}
}

// Resume sees to it that a desk turns in time, once this program has begun.
func (t *Turner) Resume(d *desks.Managed) {
	if _, err := t.Of(d); err == nil && d.Turns {
		t.due.after(d.ID, 0, func() { t.timeIsUp(d) })
	}
}

// Stop stops waiting.
func (t *Turner) Stop(d *desks.Managed) { t.due.stop(d.ID) }
