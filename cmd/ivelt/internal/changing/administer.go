package changing

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"os"
	"os/user"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"ivelt/app"
	"ivelt/app/changes"
	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/desk"
	"ivelt/core/market/debian"
	"ivelt/core/plan"
	"ivelt/core/shown"
)

func administerCommand(p *given.Program) *cobra.Command {
	var system string
	var back uint
	var show, asJSON, lose bool
	c := &cobra.Command{
		Use:   "administer [PLAN]",
		Short: "As administrator: apply the part of a plan that was handed over, list what was done, or undo it",
		Long: "As administrator, by sudo or pkexec: carry out the part of a plan that needs one, from the file that\n" +
			"Ivelt wrote for it. It has to be for this computer and whole, and about nothing but folders in which\n" +
			"programs look for pieces and files in which they are told of a look. Originals are kept in\n" +
			changes.AdministersIn + "; what was interrupted is finished or undone first. Without a file it lists\n" +
			"what was done.",
		Args: cobra.MaximumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			d, err := systemDesk(p, system)
			if err != nil {
				return err
			}
			if show {
				if len(args) == 0 || back != 0 {
					return errors.New("--show needs the file of a plan, and nothing else")
				}
				return showHanded(c.Context(), c.OutOrStdout(), d, args[0], asJSON)
			}
			if len(args) == 1 && back != 0 {
				return errors.New("name a plan to apply, or use --back to undo one, not both")
			}
			a, on, err := openSystem(c.Context(), p, d)
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
			var done plan.Plan
			var job *jobs.Job
			switch {
			case len(args) == 1:
				done, job, err = a.Administrator.CarryOut(c.Context(), on, args[0], becameBy(), lose)
			case back != 0:
				var r changes.ReviewedBack
				r, job, err = a.Administrator.GoBack(on, back, lose)
				done = r.Whole
				for _, f := range r.Conflicts {
					tellConflict(c.ErrOrStderr(), on, f)
				}
			default:
				return listAdministered(c.OutOrStdout(), a, on, asJSON)
			}
			if err != nil {
				return err
			}
			if err := finish(c.Context(), a, job); err != nil {
				return err
			}
			if asJSON {
				return given.PrintJSON(c.OutOrStdout(), done)
			}
			printDone(c.OutOrStdout(), on, done)
			return nil
		},
	}
	c.Flags().StringVar(&system, "system", "/", "the folder that is the root of the system")
	c.Flags().UintVar(&back, "back", 0, "undo the change with this number in the list")
	c.Flags().BoolVar(&show, "show", false, "check the plan, say what it would do, and do nothing")
	given.Answers[plan.Plan](c, &asJSON, "plan")
	given.Answers[[]changes.Administered](c, &asJSON, "administer")
	loseFlag(c, &lose)
	return c
}

// systemDesk is a system without anybody's home. Nobody's own descriptors count there, for
// anybody could write them.
func systemDesk(p *given.Program, system string) (*desk.Desk, error) {
	d, err := changes.SystemDesk(system)
	if err != nil {
		return nil, err
	}
	if (debian.System{}).Here(d.Tree()) {
		d.Manager = debian.Manager{Root: d.System}
	}
	d.SetSurfaces(append(p.AllSurfaces(), desk.Runtimes()...))
	return d, nil
}

// openSystem opens what an administrator's Ivelt keeps, and finishes what was interrupted.
func openSystem(ctx context.Context, p *given.Program, d *desk.Desk) (*app.App, *desks.Managed, error) {
	at := d.HostPath(changes.AdministersIn)
	data := filepath.Join(at, "data")
	for dir, mode := range map[string]fs.FileMode{at: 0o755, data: 0o700, d.Home: 0o755} {
		err := os.MkdirAll(dir, mode)
		if errors.Is(err, fs.ErrPermission) {
			return nil, nil, fmt.Errorf("this needs an administrator: run it with sudo or pkexec (%w)", err)
		}
		if err != nil {
			return nil, nil, err
		}
	}
	d.SetWritable(true)
	on := &desks.Managed{Desk: d}
	if d.System == "/" {
		on.Refresh = desks.SystemCaches(d)
	}
	a, err := app.New(ctx, app.Config{Dir: data, Desks: []*desks.Managed{on}, Before: p.Before, Log: slog.Default()})
	if err != nil {
		return nil, nil, err
	}
	if err := a.Administrator.Publish(on); err != nil {
		return nil, nil, errors.Join(err, a.Close())
	}
	return a, on, nil
}

// becameBy is who became administrator to run this, as sudo(8) and pkexec(1) tell it.
func becameBy() string {
	if id := os.Getenv("PKEXEC_UID"); id != "" {
		if u, err := user.LookupId(id); err == nil {
			return u.Username
		}
		return id
	}
	return cmp.Or(os.Getenv("SUDO_USER"), "")
}

func showHanded(ctx context.Context, out io.Writer, d *desk.Desk, file string, asJSON bool) error {
	room, err := os.MkdirTemp("", "ivelt-handed-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(room)
	h, err := changes.Look(ctx, d, file, room)
	if err != nil {
		return err
	}
	if asJSON {
		return given.PrintJSON(out, h.Plan)
	}
	fmt.Fprintln(out, h.Plan.Title)
	printPlan(out, d, h.Plan)
	return nil
}

func listAdministered(out io.Writer, a *app.App, d *desks.Managed, asJSON bool) error {
	all, err := a.Administrator.List(d)
	if err != nil {
		return err
	}
	if asJSON {
		return given.PrintJSON(out, all)
	}
	for _, done := range all {
		printAdministered(out, done)
	}
	return nil
}

func printAdministered(out io.Writer, done changes.Administered) {
	about := []string{fmt.Sprintf("%d changes for %s", len(done.Changes), done.Home)}
	if done.By != "" {
		about = append(about, "by "+shown.Line(done.By))
	}
	if done.GoneOn != nil {
		about = append(about, "undone "+done.GoneOn.Local().Format("2006-01-02 15:04"))
	}
	if done.LetGo {
		about = append(about, "checkpoint deleted")
	}
	fmt.Fprintf(out, "%d  %s  %s (%s)\n", done.Number, done.At.Local().Format("2006-01-02 15:04"), done.Title, strings.Join(about, ", "))
}
