package asking

import (
	"fmt"
	"io"

	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/desk"
	"ivelt/core/reading"
)

func readCommand(p *given.Program) *cobra.Command {
	var asJSON bool
	flags := p.Desk()
	c := &cobra.Command{
		Use:   "read",
		Short: "Show what each program of a desk shows, and which file says so",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			d, err := flags.Open(c.Context())
			if err != nil {
				return err
			}
			readings := reading.All(d)
			amiss := false
			for i := range readings {
				amiss = amiss || readings[i].Problem != nil
				toHost(d, &readings[i])
			}
			if asJSON {
				err = given.PrintJSON(c.OutOrStdout(), readings)
			} else {
				for _, r := range readings {
					printReading(c.OutOrStdout(), d, r)
				}
			}
			if err == nil && amiss {
				err = given.ErrFindings
			}
			return err
		},
	}
	given.Answers[[]reading.Reading](c, &asJSON, "read")
	flags.Add(c)
	return c
}

// toHost turns the desk's paths into those of this machine, which a script can
// open.
func toHost(d *desk.Desk, r *reading.Reading) {
	r.Resolved = d.HostPath(r.Resolved)
	r.Source.Path = d.HostPath(r.Source.Path)
	for i := range r.Chain {
		r.Chain[i].Path = d.HostPath(r.Chain[i].Path)
	}
}

func printReading(w io.Writer, d *desk.Desk, r reading.Reading) {
	s, _ := d.Surface(r.Surface)
	fmt.Fprintf(w, "%s, %s: %s\n", s.Title, r.Facet, r.Value)
	switch at := r.Source.Path; {
	case r.Source.Kind == "default":
		fmt.Fprintf(w, "  from the program's default\n")
	case at == "" && r.Source.Kind == "env":
		fmt.Fprintf(w, "  from the session's variable %s\n", r.Source.Key)
	case at == "":
		fmt.Fprintf(w, "  from the setting %s on the display\n", r.Source.Key)
	case r.Source.Line == 0:
		fmt.Fprintf(w, "  from %s, %s\n", at, r.Source.Key)
	default:
		fmt.Fprintf(w, "  from %s:%d\n", at, r.Source.Line)
	}
	if r.Resolved != "" {
		fmt.Fprintf(w, "  found in %s\n", r.Resolved)
	}
	if r.Pending != "" {
		fmt.Fprintf(w, "  still shows %s until the %s is restarted\n", r.Loaded, r.Pending)
	}
	if r.Problem != nil {
		fmt.Fprintf(w, "  ! %s\n", r.Problem.Text)
	}
}
