package changing

import (
	"bufio"
	"context"
	"fmt"
	"io"
	"time"

	"github.com/spf13/cobra"

	"ivelt/app"
	"ivelt/app/desks"
	"ivelt/cmd/ivelt/internal/given"
)

// waitForKeeping counts down until what is tried is kept, by Enter or from
// elsewhere, or is gone back on.
func waitForKeeping(ctx context.Context, a *app.App, d *desks.Managed, in io.Reader, out io.Writer) error {
	enter := make(chan struct{}, 1)
	go func() {
		if _, err := bufio.NewReader(in).ReadString('\n'); err == nil {
			enter <- struct{}{}
		}
	}()
	tick := time.NewTicker(time.Second)
	defer tick.Stop()
	for {
		t, ok := a.Trials.Of(d)
		if !ok {
			return tried(a, d, out)
		}
		fmt.Fprintf(out, "\rTrying it: Enter keeps it, else it goes back in %d s. ", int(t.Left.Round(time.Second)/time.Second))
		select {
		case <-enter:
			if err := a.Trials.Keep(d, 0); err != nil {
				return err
			}
			fmt.Fprintln(out, "\nKept.")
			return nil
		case <-ctx.Done():
			job, err := a.Trials.End(d, 0, "")
			if err != nil {
				return err
			}
			if err := job.Wait(); err != nil {
				return err
			}
			return tried(a, d, out)
		case <-tick.C:
		}
	}
}

// tried says how a trial ended that this program did not end itself.
func tried(a *app.App, d *desks.Managed, out io.Writer) error {
	rows, err := a.Record.Entries(d.ID)
	if err != nil {
		return err
	}
	if len(rows) > 0 && rows[0].IsBack {
		fmt.Fprintln(out, "\nGone back.")
		return given.ErrFindings
	}
	fmt.Fprintln(out, "\nKept.")
	return nil
}

func keepCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	c := &cobra.Command{
		Use:   "keep",
		Short: "Keep what is being tried on a desk",
		Args:  cobra.NoArgs,
	}
	given.Changing(c, &flags, func(a *app.App, d *desks.Managed, out io.Writer) error {
		t, _ := a.Trials.Of(d)
		if err := a.Trials.Keep(d, 0); err != nil {
			return err
		}
		fmt.Fprintf(out, "Kept: %s\n", t.Title)
		return nil
	})
	return c
}

func watchdogCommand(p *given.Program) *cobra.Command {
	return &cobra.Command{
		Use:    "watchdog DATA",
		Short:  "Undo what is tried when its time is up; started by Ivelt itself",
		Args:   cobra.ExactArgs(1),
		Hidden: true,
		RunE: func(c *cobra.Command, args []string) error {
			return app.Watchdog(c.Context(), args[0], p.DeskOf)
		},
	}
}
