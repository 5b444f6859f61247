package changing

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"time"

	"github.com/spf13/cobra"
	"golang.org/x/sys/unix"

	"ivelt/app/changes"
	"ivelt/app/desks"
	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/session"
)

// turnFlags are how a turn is asked for.
type turnFlags struct {
	desk                                         given.DeskFlags
	dark, light, next, pause, goOn, keep, asJSON bool
	stay                                         bool
}

func turnCommand(p *given.Program) *cobra.Command {
	f := turnFlags{desk: p.Desk()}
	c := &cobra.Command{
		Use:   "turn",
		Short: "Turn what a desk wears if it is time: light or dark, or its next backdrop",
		Long: "Turn what a desk wears if it is time: between light and dark, or to the next picture of its\n" +
			"slide show, as the look that was applied says; and say when it is time again. ivelt session\n" +
			"does this by itself on your own desk. Undo the change that started it, and all\n" +
			"its turns are undone with it.",
		Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			if f.stay {
				return f.stayOn(c.Context(), c.OutOrStdout())
			}
			a, d, err := f.desk.OpenToWrite(c.Context())
			if err != nil {
				return err
			}
			defer a.Close() // what is to be told stays, for somebody who reads it
			due, err := f.do(c.Context(), a.Turner, d)
			if err != nil {
				return err
			}
			return f.say(c.OutOrStdout(), a.Turner, d, due)
		},
	}
	c.Flags().BoolVar(&f.dark, "dark", false, "of a look that is turned by hand: to dark")
	c.Flags().BoolVar(&f.light, "light", false, "of a look that is turned by hand: to light")
	c.Flags().BoolVar(&f.next, "next", false, "show the next picture of the slide show")
	c.Flags().BoolVar(&f.pause, "pause", false, "let it stand still")
	c.Flags().BoolVar(&f.goOn, "go-on", false, "let it go on, also after it has stopped")
	c.Flags().BoolVar(&f.keep, "keep", false, "keep what is worn now: nothing turns any more")
	given.Answers[turnsJSON](c, &f.asJSON, "turn")
	c.Flags().BoolVar(&f.stay, "stay", false, "stay, and turn this computer's own desk each time that it is time, as long as something turns")
	c.MarkFlagsMutuallyExclusive("dark", "light", "next", "pause", "go-on", "keep", "stay")
	f.desk.Add(c)
	return c
}

// do does what is asked for; due is when it is time again, if that is known by then.
func (f turnFlags) do(ctx context.Context, t *changes.Turner, d *desks.Managed) (due time.Time, err error) {
	switch {
	case f.pause || f.goOn:
		return due, t.Pause(d, f.pause)
	case f.keep:
		return due, t.End(d)
	}
	ask := changes.Ask{Next: f.next}
	if f.dark || f.light {
		ask.Dark = &f.dark
	}
	due, err = t.Turn(ctx, d, ask)
	if (errors.Is(err, changes.ErrStill) || errors.Is(err, changes.ErrStopped)) && (ask == changes.Ask{}) {
		return due, nil // which is said
	}
	return due, err
}

// turnsJSON is how far what turns has come.
type turnsJSON struct {
	Turns   []string  `json:"turns"` // facets
	Half    string    `json:"half,omitempty"`
	Shows   string    `json:"shows,omitempty"`
	Due     time.Time `json:"due,omitzero"`
	Paused  bool      `json:"paused"`
	Stopped string    `json:"stopped,omitempty"`
}

func (f turnFlags) say(out io.Writer, t *changes.Turner, d *desks.Managed, due time.Time) error {
	is, err := t.Of(d)
	if !due.IsZero() { // also of what waits for a trial to end
		is.Due = due
	}
	still := errors.Is(err, changes.ErrStill)
	if err != nil && !still {
		return err
	}
	if f.asJSON {
		v := turnsJSON{Turns: []string{}}
		if !still {
			v = turnsJSON{Turns: is.Worn.Turns(), Due: is.Due, Paused: is.Paused, Stopped: is.Stopped}
			if is.Worn.Turn != nil {
				v.Half = string(outfit.HalfOf(is.Worn.IsDark()))
			}
			if is.Worn.Show != nil {
				v.Shows = is.Worn.Want(desk.FacetBackdrop)
			}
		}
		return given.PrintJSON(out, v)
	}
	if still {
		fmt.Fprintf(out, "Nothing turns on %s.\n", d.Title)
		return nil
	}
	for _, says := range is.Says(time.Now()) {
		fmt.Fprintln(out, says)
	}
	return nil
}

// stayOn turns the person's own desk each time that it is time, as long as something turns.
// One process does that: another ends at once. Between two turns it does nothing.
func (f turnFlags) stayOn(ctx context.Context, out io.Writer) error {
	d, err := given.OwnDesk()
	if err != nil {
		return err
	}
	data, err := given.OwnData()
	if err != nil {
		return err
	}
	if err := os.MkdirAll(data, 0o700); err != nil {
		return err
	}
	lock, err := os.OpenFile(filepath.Join(data, "turning.lock"), os.O_CREATE|os.O_RDWR|unix.O_CLOEXEC, 0o600)
	if err != nil {
		return err
	}
	defer lock.Close()
	if err := unix.Flock(int(lock.Fd()), unix.LOCK_EX|unix.LOCK_NB); err != nil {
		fmt.Fprintln(out, "Another process turns this desk already.")
		return nil
	}
	changed, err := session.Watch(ctx, changes.MarkOf(data))
	if err != nil {
		return err
	}
	shades := session.Shades(ctx, d.Env["DBUS_SESSION_BUS_ADDRESS"])
	self, err := os.Executable()
	if err != nil {
		return err
	}
	for ctx.Err() == nil {
		due, ok, err := turnApart(ctx, self)
		switch {
		case err != nil:
			fmt.Fprintln(out, err)
			due = time.Now().Add(time.Minute)
		case !ok:
			fmt.Fprintln(out, "Nothing turns here.")
			return nil
		}
		_ = session.Slim()
		if soon := time.Now().Add(time.Second); !due.IsZero() && due.Before(soon) {
			due = soon // whatever it is that has not turned yet
		}
		if err := session.Until(ctx, due, changed, shades); err != nil {
			return err
		}
	}
	return nil
}

// turnApart turns the person's own desk in a process of its own, so that this one stays small.
func turnApart(ctx context.Context, self string) (due time.Time, ok bool, err error) {
	ctx, cancel := context.WithTimeout(ctx, 5*time.Minute)
	defer cancel()
	c := exec.CommandContext(ctx, self, "turn", "--own", "--json")
	var failed strings.Builder
	c.Stderr = &failed
	text, err := c.Output()
	if err != nil {
		return time.Time{}, false, fmt.Errorf("%w: %s", err, strings.TrimSpace(failed.String()))
	}
	var v turnsJSON
	if err := json.Unmarshal(text, &v); err != nil {
		return time.Time{}, false, err
	}
	if v.Paused || v.Stopped != "" {
		v.Due = time.Time{} // until somebody says something else
	}
	return v.Due, len(v.Turns) > 0, nil
}
