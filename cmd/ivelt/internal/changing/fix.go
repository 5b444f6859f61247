package changing

import (
	"fmt"
	"io"

	"github.com/spf13/cobra"

	"ivelt/app"
	"ivelt/app/desks"
	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/match"
	"ivelt/core/reading"
)

func fixCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	var wanted given.OutfitFlag
	c := &cobra.Command{
		Use:   "mend",
		Short: "Fix what ivelt check finds on a desk, where there is a plan for it",
		Long: "Fix what ivelt check finds on a desk, where there is a plan for it: the\n" +
			"remedies that have one of their own, then the outfit, with the settings that it left out. Each\n" +
			"change has its own entry in the history. Exit status 1 if something is left.",
		Args: cobra.NoArgs,
	}
	var lose bool
	loseFlag(c, &lose)
	wanted.AddActs(c)
	given.Changing(c, &flags, func(a *app.App, d *desks.Managed, out io.Writer) error {
		o, err := a.Drafts.Worn(d)
		if wanted.File != "" {
			o, err = wanted.ForWearing(c.ErrOrStderr(), d.Desk)
		}
		if err != nil {
			return err
		}
		done, err := a.Changes.FixAll(c.Context(), d, o, lose)
		for _, p := range done {
			if len(p.Ops) > 0 {
				fmt.Fprintf(out, "%s\n", p.Title)
				printDone(out, d, p)
			}
		}
		if err != nil {
			return err
		}
		for _, s := range d.Surfaces() {
			if pending(d, s.ID) {
				if err := a.Changes.Restart(d, s.ID, false); err != nil {
					return err
				}
				fmt.Fprintf(out, "started %s again\n", s.Title)
			}
		}
		if o, err = a.Drafts.Worn(d); err != nil {
			return err
		}
		left := match.Of(d.Desk, o).Findings()
		for _, f := range left {
			s, _ := d.Surface(f.Surface)
			fmt.Fprintf(out, "! %s: %s %s\n", s.Title, f.Cause, f.Remedy)
		}
		if len(left) > 0 {
			return given.ErrFindings
		}
		return nil
	})
	return c
}

// pending reports whether a surface shows what it loaded before, and can be
// started again from here.
func pending(d *desks.Managed, surface string) bool {
	if !d.CanRestart(surface) {
		return false
	}
	s, _ := d.Surface(surface)
	for _, f := range s.Facets {
		if reading.Told(d.Desk, s, f).Pending != "" {
			return true
		}
	}
	return false
}
