package changing

import (
	"fmt"
	"io"

	"github.com/spf13/cobra"

	"ivelt/app"
	"ivelt/app/desks"
	"ivelt/cmd/ivelt/internal/given"
)

func recoverCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	var aside bool
	c := &cobra.Command{
		Use:   "recover",
		Short: "Finish or undo what was interrupted on a desk, or say why it cannot be",
		Long: "Finish or undo what was interrupted on a desk. If that cannot be done, it says\n" +
			"why and what lies where, and ends with 1. With --set-aside a journal that cannot be read is\n" +
			"put aside; what it left on the desk stays where it is.",
		Args: cobra.NoArgs,
	}
	c.Flags().BoolVar(&aside, "set-aside", false, "put aside a journal that cannot be read")
	given.Changing(c, &flags, func(a *app.App, d *desks.Managed, out io.Writer) error {
		if _, ok := a.Applier.Settle(d); !ok {
			fmt.Fprintf(out, "Nothing on %s is unfinished.\n", d.Title)
			return nil
		}
		journal, err := a.Applier.Unstick(d, aside)
		if journal != "" {
			fmt.Fprintf(out, "The journal is in %s now.\n", journal)
		}
		s, ok := a.Applier.Settle(d)
		if err == nil && !ok {
			for _, n := range a.Notices.All() {
				fmt.Fprintln(out, n.Text)
			}
			return nil
		}
		if s.Title != "" {
			fmt.Fprintf(out, "“%s” was interrupted on %s, and could be neither undone nor finished: %v.\n", s.Title, d.Title, s.Why)
		} else {
			fmt.Fprintf(out, "A change of %s was interrupted, and could be neither undone nor finished: %v.\n", d.Title, s.Why)
		}
		for _, l := range s.Lies {
			words := "was to go to"
			if l.Original {
				words = "is what stood at"
			}
			fmt.Fprintf(out, "  %s %s %s\n", d.HostPath(l.At), words, d.Show(l.For))
		}
		fmt.Fprintf(out, "Its journal is %s.\n", s.Journal)
		fmt.Fprintln(out, s.Do)
		if s.Damaged {
			fmt.Fprintln(out, "“ivelt recover --set-aside” puts the journal aside.")
		}
		fmt.Fprintln(out, "Until then nothing else is changed on this desk.")
		return given.ErrFindings
	})
	return c
}
