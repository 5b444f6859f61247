package serving

import (
	"log/slog"

	"github.com/spf13/cobra"

	"ivelt/app"
	"ivelt/app/desks"
	"ivelt/cmd/ivelt/internal/given"
)

func serveCommand() *cobra.Command {
	var at ListenFlags
	var dir string
	var write bool
	c := &cobra.Command{
		Use:   "serve",
		Short: "Start on this computer's own desk",
		Long: "Start on this computer's own desk. It is only looked at until its owner lets Ivelt change it:\n" +
			"with --write for this run, or, for good, on the first page or by the line write = true in\n" +
			"~/.config/ivelt/config.toml.",
		Args: cobra.NoArgs,
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
				if dir, err = given.OwnData(); err != nil {
					return err
				}
			}
			d.SetWritable(write)
			a, err := app.New(c.Context(), app.Config{Dir: dir, Desks: []*desks.Managed{given.OwnManaged(d)}, Watchdog: given.Watchdog, Log: slog.Default()})
			if err != nil {
				return err
			}
			defer a.Close()
			words := "Ctrl-C stops it. Nothing on this computer is changed until you let it, on the first page."
			if d.Writable() {
				words = "Ctrl-C stops it. This computer's desk may be changed."
			}
			return at.Serve(c, l, a, words)
		},
	}
	at.Add(c)
	c.Flags().BoolVar(&write, "write", false, "let it change this computer's desk, or not, in this run")
	c.Flags().StringVar(&dir, "dir", "", "folder for Ivelt's own data (default: in your data folder)")
	return c
}
