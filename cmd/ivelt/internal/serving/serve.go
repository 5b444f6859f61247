package serving

import (
	"log/slog"
	"path/filepath"

	"github.com/spf13/cobra"

	"ivelt/app"
	"ivelt/app/desks"
	"ivelt/cmd/ivelt/internal/given"
)

func serveCommand() *cobra.Command {
	var at ListenFlags
	var dir string
	c := &cobra.Command{
		Use:   "serve",
		Short: "Start on this computer's own desk, read-only",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			l, err := at.Listen()
			if err != nil {
				return err
			}
			defer l.Close()
			d, err := given.OwnDesk()
			if err != nil {
				return err
			}
			if dir == "" {
				base, err := given.DataDir()
				if err != nil {
					return err
				}
				dir = filepath.Join(base, "own")
			}
			a, err := app.New(c.Context(), app.Config{Dir: dir, Desks: []*desks.Managed{{Desk: d}}, Log: slog.Default()})
			if err != nil {
				return err
			}
			defer a.Close()
			return at.Serve(c, l, a, "Ctrl-C stops it. Nothing on this computer is changed.")
		},
	}
	at.Add(c)
	c.Flags().StringVar(&dir, "dir", "", "folder for Ivelt's own data (default: in your data folder)")
	return c
}
