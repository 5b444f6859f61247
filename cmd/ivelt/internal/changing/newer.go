package changing

import (
	"fmt"
	"io"

	"github.com/spf13/cobra"

	"ivelt/app"
	"ivelt/app/desks"
	"ivelt/cmd/ivelt/internal/given"
)

// newerRow is a newer version of a piece, as it is printed for programs.
type newerRow struct {
	Name      string `json:"name"`
	Kind      string `json:"kind"`
	Path      string `json:"path"`
	Installed string `json:"installed"`
	Newer     string `json:"newer"`
	Note      string `json:"note,omitempty"`
}

func newerCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	var asJSON bool
	c := &cobra.Command{
		Use:   "newer",
		Short: "List newer versions of what Ivelt installed on a desk",
		Long: "List newer versions of what Ivelt installed on a desk, as the markets have them:\n" +
			"of the same channel, so that a stable version is not replaced by a nightly one. Nothing is\n" +
			"fetched. Exit status 1 if there is any.",
		Args: cobra.NoArgs,
	}
	given.Answers[[]newerRow](c, &asJSON, "newer")
	given.Changing(c, &flags, func(a *app.App, d *desks.Managed, out io.Writer) error {
		if job := a.Markets.Look(); job != nil {
			if err := job.Wait(); err != nil {
				return err
			}
		}
		found, err := a.Markets.Newer(d)
		if err != nil {
			return err
		}
		if asJSON {
			rows := []newerRow{}
			for _, n := range found {
				rows = append(rows, newerRow{n.Piece.Name, n.Piece.Kind, n.Piece.Path, n.Piece.Version, n.Version, n.Note})
			}
			err = given.PrintJSON(out, rows)
		} else {
			for _, n := range found {
				fmt.Fprintf(out, "%s: %s → %s  %s\n", n.Piece.Name, n.Piece.Version, n.Version, n.Shown)
			}
		}
		if err == nil && len(found) > 0 {
			err = given.ErrFindings
		}
		return err
	})
	return c
}
