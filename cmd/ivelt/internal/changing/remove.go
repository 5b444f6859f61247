package changing

import (
	"fmt"
	"io"
	"slices"

	"github.com/spf13/cobra"

	"ivelt/app"
	"ivelt/app/desks"
	"ivelt/app/library"
	"ivelt/cmd/ivelt/internal/given"
	"ivelt/store"
)

func removeCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	var lose bool
	c := &cobra.Command{
		Use:   "remove NAME",
		Short: "Remove a piece that Ivelt installed, by its name, its folder or its path; it is kept",
		Args:  cobra.ExactArgs(1),
	}
	loseFlag(c, &lose)
	given.Changing(c, &flags, func(a *app.App, d *desks.Managed, out io.Writer) error {
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
