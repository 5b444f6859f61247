package app

import (
	"context"
	"errors"
	"log/slog"
	"time"

	"ivelt/app/desks"
	"ivelt/core/desk"
	"ivelt/store"
)

// grace is how long a program that minds a trial waits for the one that began it.
const grace = 2 * time.Second

// Watchdog waits until the trials of a data folder are over, and goes back on those
// that nobody has kept or gone back on by then. open opens a desk that is named in it.
func Watchdog(ctx context.Context, dir string, open func(store.DeskRow) (*desk.Desk, error)) error {
	for {
		on, until, err := triedIn(ctx, dir, open)
		if err != nil || len(on) == 0 {
			return err
		}
		if left := time.Until(until); left > 0 {
			select {
			case <-ctx.Done():
				return nil
			case <-time.After(left):
			}
			continue
		}
		a, err := New(ctx, Config{Dir: dir, Desks: on})
		if err != nil {
			return err
		}
		if err := a.Close(); err != nil {
			return err
		}
		select { // another Ivelt may be at it
		case <-ctx.Done():
			return nil
		case <-time.After(grace):
		}
	}
}

// triedIn are the desks of a data folder on which something is tried, and when the
// last of that should be over.
func triedIn(ctx context.Context, dir string, open func(store.DeskRow) (*desk.Desk, error)) (on []*desks.Managed, until time.Time, err error) {
	s, err := store.Open(ctx, dir)
	if err != nil {
		return nil, until, err
	}
	defer s.Close()
	rows, err := s.Desks()
	if err != nil {
		return nil, until, err
	}
	for _, row := range rows {
		t, err := s.Trial(row.ID)
		if errors.Is(err, store.ErrNone) {
			continue
		}
		if err != nil {
			return nil, until, err
		}
		d, err := open(row)
		if err != nil {
			slog.Warn("what is tried on a desk that is not there", "desk", row.ID, "error", err)
			continue // it goes back when the desk is there again
		}
		d.Title = row.Title
		d.SetWritable(true)
		on = append(on, &desks.Managed{Desk: d})
		if t.Until.Add(grace).After(until) {
			until = t.Until.Add(grace)
		}
	}
	return on, until, nil
}
