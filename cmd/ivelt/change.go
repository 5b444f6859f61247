package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"ivelt/app"
	"ivelt/app/changes"
	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/app/library"
	"ivelt/core/desk"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/store"
)

// changing runs a command on a desk that is named and may be written.
func changing(c *cobra.Command, flags *deskFlags, do func(a *app.App, d *desks.Managed, out io.Writer) error) {
	c.RunE = func(c *cobra.Command, _ []string) error {
		a, d, err := flags.openToWrite(c.Context())
		if err != nil {
			return err
		}
		defer a.Close()
		for _, n := range a.Notices.All() {
			fmt.Fprintln(c.ErrOrStderr(), "ivelt:", n.Text)
			if err := a.Notices.Seen(n.ID); err != nil {
				return err
			}
		}
		return do(a, d, c.OutOrStdout())
	}
	flags.add(c)
}

// loseFlag lets a command give up what it could not keep, which it refuses by default.
func loseFlag(c *cobra.Command, lose *bool) {
	c.Flags().BoolVar(lose, "lose", false, "go on where something of a file cannot be kept: further names of it, an owner, an attribute")
}

// finish waits for a job, and cancels it if the command is asked to end.
func finish(ctx context.Context, a *app.App, job *jobs.Job) error {
	defer context.AfterFunc(ctx, func() { a.Jobs.Cancel(job) })()
	if err := job.Wait(); err != nil {
		return err
	}
	return ctx.Err()
}

func applyCommand(p *Program) *cobra.Command {
	flags := p.desk()
	var worn outfitFlag
	var try int
	var asJSON, force, lose bool
	c := &cobra.Command{
		Use:   "apply [PLAN]",
		Short: "Put an outfit on a desk that is named, or carry out a plan that was handed over; a checkpoint is made first",
		Long: "Put an outfit on a desk that is named, or carry out a plan that was handed over as a file:\n" +
			"it has to be for this computer and home, whole, and about nothing but what a plan may touch.\n" +
			"A checkpoint is made first. With --try it is gone back on after that many seconds, unless\n" +
			"Enter is pressed, or ivelt keep is run meanwhile.",
		Args: cobra.MaximumNArgs(1),
	}
	c.Flags().BoolVar(&asJSON, "json", false, "machine-readable")
	c.Flags().IntVar(&try, "try", 0, "go back by itself after this many seconds, unless it is kept")
	loseFlag(c, &lose)
	c.Flags().BoolVar(&force, "force", false, "set what would keep a login screen or a shell from coming up, too")
	worn.addActs(c)
	changing(c, &flags, func(a *app.App, d *desks.Managed, out io.Writer) error {
		var p plan.Plan
		var job *jobs.Job
		var warned []string
		var err error
		switch given := c.Flags().Args(); {
		case len(given) == 1 && (worn.file != "" || try != 0):
			return errors.New("a plan is applied as it is, without --outfit and --try")
		case len(given) == 1:
			file, e := readGiven(given[0])
			if e != nil {
				return e
			}
			p, job, err = a.Changes.ApplyHandedOver(d, file, lose)
		case try != 0 && (try < 3 || try > 3600):
			return fmt.Errorf("--try takes 3 to 3600 seconds, not %d", try)
		default:
			o, e := worn.forWearing(c.ErrOrStderr(), d.Desk)
			if e != nil {
				return e
			}
			p, job, err = a.Changes.Dress(c.Context(), d, o, time.Duration(try)*time.Second, planning.Options{Force: force, Lose: lose})
			if err == nil {
				warned, err = a.Review.Warnings(d, p, o)
			}
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
			err = printJSON(out, p)
		} else {
			printDone(out, d, p)
		}
		if err == nil && try > 0 {
			err = waitForKeeping(c.Context(), a, d, c.InOrStdin(), out)
		}
		if err == nil && len(p.Blocked) > 0 {
			err = errFindings
		}
		return err
	})
	return c
}

// printDone says what was done, and what is left for others and for restarts.
func printDone(out io.Writer, d *desks.Managed, p plan.Plan) {
	for _, op := range p.Ops {
		fmt.Fprintf(out, "%s %s\n", op.Kind, d.HostPath(op.Path))
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
		return errFindings
	}
	fmt.Fprintln(out, "\nKept.")
	return nil
}

func keepCommand(p *Program) *cobra.Command {
	flags := p.desk()
	c := &cobra.Command{
		Use:   "keep",
		Short: "Keep what is being tried on a desk that is named",
		Args:  cobra.NoArgs,
	}
	changing(c, &flags, func(a *app.App, d *desks.Managed, out io.Writer) error {
		t, _ := a.Trials.Of(d)
		if err := a.Trials.Keep(d, 0); err != nil {
			return err
		}
		fmt.Fprintf(out, "Kept: %s\n", t.Title)
		return nil
	})
	return c
}

func historyCommand(p *Program) *cobra.Command {
	flags := p.desk()
	var asJSON bool
	var pin, unpin, letGo uint
	c := &cobra.Command{
		Use:   "history",
		Short: "List what was changed on a desk that is named, the last first; pin an entry, or let one go",
		Args:  cobra.NoArgs,
	}
	c.Flags().BoolVar(&asJSON, "json", false, "machine-readable")
	c.Flags().UintVar(&pin, "pin", 0, "keep the entry with this number for good")
	c.Flags().UintVar(&unpin, "unpin", 0, "no longer keep it for good")
	c.Flags().UintVar(&letGo, "let-go", 0, "delete what is kept for this entry: it can no longer be gone back on")
	changing(c, &flags, func(a *app.App, d *desks.Managed, out io.Writer) error {
		var err error
		switch {
		case pin != 0:
			err = a.History.Pin(d, pin, true)
		case unpin != 0:
			err = a.History.Pin(d, unpin, false)
		case letGo != 0:
			loss, e := a.History.LossOf(d, letGo)
			if e != nil {
				return e
			}
			if err = a.History.Purge(d, letGo); err == nil {
				for _, op := range loss.Plan.Ops {
					fmt.Fprintf(out, "can no longer be undone: %s %s\n", op.Kind, d.Show(op.Path))
				}
			}
		}
		if err != nil {
			return err
		}
		rows, err := a.Record.Entries(d.ID)
		if err != nil {
			return err
		}
		if asJSON {
			return printJSON(out, rows)
		}
		for _, r := range rows {
			fmt.Fprintf(out, "%d  %s  %s (%s)\n", r.ID, r.At.Local().Format("2006-01-02 15:04"), r.Title, strings.Join(about(r), ", "))
		}
		return nil
	})
	return c
}

func about(r store.CheckpointRow) []string {
	out := []string{fmt.Sprintf("%d changes", r.Changes)}
	if r.GoneOn != nil {
		out = append(out, "gone back on "+r.GoneOn.Local().Format("2006-01-02 15:04"))
	}
	if r.Pinned {
		out = append(out, "pinned")
	}
	if r.LetGo != nil {
		out = append(out, "let go")
	}
	return out
}

func backCommand(p *Program) *cobra.Command {
	flags := p.desk()
	var way changes.Way
	var takes, older []string
	var dry, asJSON bool
	c := &cobra.Command{
		Use:   "back [CHECKPOINT]",
		Short: "Go back on the last change of a desk that is named, or on the one with that number in ivelt history",
		Long: "Go back on the last change of a desk that is named, or on the one with that number in ivelt\n" +
			"history: whole, for one surface, or for one facet. Where somebody has edited a file since, their\n" +
			"edits stay, unless --take says otherwise.",
		Args: cobra.MaximumNArgs(1),
	}
	loseFlag(c, &way.Lose)
	c.Flags().BoolVar(&way.Since, "since", false, "to before it: on all that came after it too")
	c.Flags().StringVar(&way.Surface, "surface", "", "only what this surface is told")
	c.Flags().StringVar(&way.Facet, "facet", "", "only what is told of this facet")
	c.Flags().StringArrayVar(&takes, "take", nil, "of a file that was edited since: both=PATH, now=PATH or before=PATH; may be repeated")
	c.Flags().StringArrayVar(&older, "older", nil, "of a line that was edited since: take the older one, as N=PATH with the number that is told; may be repeated")
	c.Flags().BoolVar(&dry, "plan", false, "say what would be done, and do nothing")
	c.Flags().BoolVar(&asJSON, "json", false, "machine-readable")
	changing(c, &flags, func(a *app.App, d *desks.Managed, out io.Writer) error {
		if err := aim(&way, c.Flags().Args(), takes, a, d); err != nil {
			return err
		}
		if err := aimAtLines(&way, older, d); err != nil {
			return err
		}
		rv, err := a.Back.Review(d, way, nil)
		if err != nil {
			return err
		}
		lost := false
		for _, f := range rv.Conflicts {
			lost = lost || f.Lost != ""
			tellConflict(c.ErrOrStderr(), d, f)
		}
		if !dry {
			job, err := a.Back.Start(d, way, "", "")
			if err == nil {
				err = finish(c.Context(), a, job)
			}
			if err != nil {
				return err
			}
		}
		switch {
		case asJSON:
			return printJSON(out, rv.Whole)
		case dry:
			printPlan(out, d.Desk, rv.Whole)
		default:
			row, err := a.Record.Entry(way.Checkpoint)
			if err != nil {
				return err
			}
			words := "Went back on: "
			if way.Since {
				words = "Went back to before: "
			}
			if lost {
				words = "Went back, but for what is told above: "
			}
			fmt.Fprintln(out, words+row.Title)
		}
		if lost {
			return errFindings
		}
		return nil
	})
	return c
}

// tellConflict says what happens to a file that was edited since.
func tellConflict(out io.Writer, d *desks.Managed, f planning.Conflict) {
	when := "since"
	if f.Between {
		when = "between the changes"
	}
	if f.Lost != "" {
		fmt.Fprintf(out, "ivelt: %s stays as it is: what was kept of it cannot be put back: %s\n", d.Show(f.Path), f.Lost)
		return
	}
	fmt.Fprintf(out, "ivelt: %s was edited %s: %s\n", d.Show(f.Path), when, taken[f.Taken])
	if f.Taken != planning.TakeBoth {
		return
	}
	for _, c := range f.Clashes {
		stays, other := c.Now, c.Older
		if c.Taken {
			stays, other = other, stays
		}
		fmt.Fprintf(out, "ivelt:   %d: line %d stays %q, not %q\n", c.Number, c.Line, strings.TrimSpace(stays), strings.TrimSpace(other))
	}
}

// aimAtLines says in which lines the older version is taken.
func aimAtLines(way *changes.Way, older []string, d *desks.Managed) error {
	way.Lines = map[string][]int{}
	for _, o := range older {
		number, p, ok := strings.Cut(o, "=")
		n, err := strconv.Atoi(number)
		if !ok || err != nil {
			return fmt.Errorf("--older is N=PATH, not %q", o)
		}
		at := path.Clean(d.First(p))
		way.Lines[at] = append(way.Lines[at], n)
	}
	return nil
}

var taken = map[planning.Take]string{
	planning.TakeBoth:   "the change is undone, the edits stay",
	planning.TakeNow:    "it stays as it is",
	planning.TakeBefore: "it is put back as it was",
}

// aim completes a way back from what was written on the command line.
func aim(way *changes.Way, args, takes []string, a *app.App, d *desks.Managed) error {
	if _, ok := d.Surface(way.Surface); way.Surface != "" && !ok {
		return fmt.Errorf("there is no surface %q; ivelt read lists them", way.Surface)
	}
	if _, ok := desk.FacetOf(way.Facet); way.Facet != "" && !ok {
		return fmt.Errorf("there is no facet %q; ivelt read lists them", way.Facet)
	}
	way.Takes = map[string]planning.Take{}
	for _, t := range takes {
		take, p, ok := strings.Cut(t, "=")
		if _, known := taken[planning.Take(take)]; !ok || !known {
			return fmt.Errorf("--take is both=PATH, now=PATH or before=PATH, not %q", t)
		}
		way.Takes[path.Clean(d.First(p))] = planning.Take(take)
	}
	rows, err := a.Record.Entries(d.ID)
	if err != nil {
		return err
	}
	if len(args) == 1 {
		id, err := strconv.ParseUint(args[0], 10, 32)
		if err != nil {
			return fmt.Errorf("%q is no number of a checkpoint; ivelt history lists them", args[0])
		}
		way.Checkpoint = uint(id)
		return nil
	}
	for _, r := range rows {
		if r.GoneOn == nil && !r.IsBack && r.LetGo == nil {
			way.Checkpoint = r.ID
			return nil
		}
	}
	return errors.New("there is nothing to go back on")
}

func removeCommand(p *Program) *cobra.Command {
	flags := p.desk()
	var lose bool
	c := &cobra.Command{
		Use:   "remove NAME",
		Short: "Take away a piece that Ivelt put in place, by its name, its folder or its path; it is kept",
		Args:  cobra.ExactArgs(1),
	}
	loseFlag(c, &lose)
	changing(c, &flags, func(a *app.App, d *desks.Managed, out io.Writer) error {
		name := c.Flags().Arg(0)
		rows, err := a.Record.Pieces(d.ID)
		if err != nil {
			return err
		}
		rows = slices.DeleteFunc(rows, func(r store.PieceRow) bool {
			return r.Name != name && r.Folder != name && r.Path != d.First(name)
		})
		if len(rows) == 0 {
			return fmt.Errorf("no piece %q was put in place on this desk by Ivelt", name)
		}
		for _, r := range rows {
			if !d.Exists(r.Path) {
				continue // it went with another of its places
			}
			job, err := a.Pieces.Remove(d, r.Path, library.How{Lose: lose}, "")
			if err == nil {
				err = finish(c.Context(), a, job)
			}
			if err != nil {
				return err
			}
			fmt.Fprintf(out, "removed %s\n", d.HostPath(r.Path))
		}
		return nil
	})
	return c
}

// mindTrial starts a program that outlives this one and goes back on what is
// tried, should this one be gone when the time is up.
func mindTrial(dir string) error {
	self, err := os.Executable()
	if err != nil {
		return err
	}
	c := exec.Command(self, "mind", dir)
	c.SysProcAttr = &syscall.SysProcAttr{Setsid: true}
	if err := c.Start(); err != nil {
		return err
	}
	go func() { _ = c.Wait() }()
	return nil
}

func mindCommand(p *Program) *cobra.Command {
	return &cobra.Command{
		Use:    "mind DATA",
		Short:  "Go back on what is tried when its time is up; started by Ivelt itself",
		Args:   cobra.ExactArgs(1),
		Hidden: true,
		RunE: func(c *cobra.Command, args []string) error {
			return app.Watchdog(c.Context(), args[0], p.AllSurfaces())
		},
	}
}
