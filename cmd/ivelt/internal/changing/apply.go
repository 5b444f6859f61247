package changing

import (
	"context"
	"fmt"
	"io"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"ivelt/app"
	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/plan"
	"ivelt/core/planning"
)

// loseFlag lets a command give up what it could not keep, which it refuses by default.
func loseFlag(c *cobra.Command, lose *bool) {
	c.Flags().BoolVar(lose, "lose", false, "go on where something of a file cannot be restored: further names of it, an owner, an attribute")
}

// finish waits for a job, and cancels it if the command is asked to end.
func finish(ctx context.Context, a *app.App, job *jobs.Job) error {
	defer context.AfterFunc(ctx, func() { a.Jobs.Cancel(job) })()
	if err := job.Wait(); err != nil {
		return err
	}
	return ctx.Err()
}

func applyCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	var worn given.OutfitFlag
	var try int
	var asJSON, force, lose, check bool
	c := &cobra.Command{
		Use:   "apply",
		Short: "Apply an outfit to a desk; a checkpoint is made first",
		Long: "Apply an outfit to a desk. A checkpoint is made first. With --try it is gone back\n" +
			"on after that many seconds, unless Enter is pressed, or ivelt keep is run meanwhile.",
		Args: cobra.NoArgs,
	}
	given.Answers[answer](c, &asJSON, "apply")
	c.Flags().IntVar(&try, "try", 0, "go back by itself after this many seconds, unless it is kept")
	loseFlag(c, &lose)
	c.Flags().BoolVar(&force, "force", false, "set what would keep a login screen or a shell from coming up, too")
	worn.AddActs(c)
	c.Flags().BoolVar(&check, "check", false, "say what would change, and change nothing")
	given.Changing(c, &flags, func(a *app.App, d *desks.Managed, out io.Writer) error {
		if try != 0 && (try < 3 || try > 3600) {
			return fmt.Errorf("--try takes 3 to 3600 seconds, not %d", try)
		}
		o, err := worn.ForWearing(c.ErrOrStderr(), d.Desk)
		if err != nil {
			return err
		}
		p, job, err := a.Changes.Dress(c.Context(), d, o, time.Duration(try)*time.Second, planning.Options{Force: force, Lose: lose})
		var warned []string
		if err == nil {
			warned, err = a.Review.Warnings(d, p, o)
		}
		if err != nil {
			return err
		}
		for _, w := range warned {
			fmt.Fprintln(c.ErrOrStderr(), "Careful: "+w)
		}
		if err := finish(c.Context(), a, job); err != nil {
			return err
		}
		if asJSON {
			answer, e := answered(d.Desk, p, func(op plan.Op) ([]byte, error) { return a.Kept.Get(op.Before.Hash) })
			if e != nil {
				return e
			}
			err = given.PrintJSON(out, answer)
		} else {
			printDone(out, d, p)
		}
		if err == nil && try > 0 {
			err = waitForKeeping(c.Context(), a, d, c.InOrStdin(), out)
		}
		if err == nil && len(p.Blocked) > 0 {
			err = given.ErrFindings
		}
		return err
	})
	do := c.RunE
	c.RunE = func(c *cobra.Command, args []string) error {
		if !check {
			return do(c, args)
		}
		return checkApply(c, &flags, &worn, asJSON, planning.Options{Force: force, Lose: lose})
	}
	return c
}

// printDone says what was done, and what is left for others and for restarts.
func printDone(out io.Writer, d *desks.Managed, p plan.Plan) {
	for _, op := range p.Ops {
		at := d.HostPath(op.Path)
		if op.Kind == plan.Set || op.Kind == plan.Package {
			at = d.Show(op.Path)
		}
		fmt.Fprintf(out, "%s %s\n", op.Kind, at)
	}
	for _, b := range p.Blocked {
		fmt.Fprintf(out, "! %s %s\n", b.Why, b.Remedy)
	}
	for i, l := range p.Later(d.Desk) {
		var titles []string
		for _, id := range l.Surfaces {
			s, _ := d.Surface(id)
			titles = append(titles, s.Title)
		}
		fmt.Fprintf(out, "then %d: %s, for %s\n", i+1, l.Effect, strings.Join(titles, ", "))
	}
	for i, h := range p.WayBack(d.Desk) {
		if i == 0 {
			fmt.Fprintln(out, "Should the login screen not come up, write this down:")
		}
		fmt.Fprintf(out, "  %d. %s %s\n", i+1, h.Say, h.Type)
	}
}
