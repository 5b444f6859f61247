package serving

import (
	"errors"
	"fmt"
	"log/slog"

	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/xsettings"
	"ivelt/session"
)

func sessionCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "session",
		Short: "Tell the programs of an X session of changes at once; started at sign-in",
		Long: "Tell the programs of an X session of changes at once, where nothing else does: as a provider\n" +
			"of XSETTINGS, from ~/.config/ivelt/session.conf, which plans write. It never takes over from\n" +
			"another provider, and ends if another takes over from it.",
		Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			d, err := given.OwnDesk()
			if err != nil {
				return err
			}
			if d.Display() != "x11" {
				fmt.Fprintln(c.OutOrStdout(), "This session has a compositor: programs ask GLib's settings, and follow them without this.")
				return nil
			}
			file := session.FileOf(d)
			changed, err := session.Watch(c.Context(), file)
			if err != nil {
				return err
			}
			read := func() (xsettings.Settings, error) { return session.ReadFile(file) }
			err = session.Provide(c.Context(), d.Env["DISPLAY"], read, changed, func(err error) { slog.Warn("the old settings stay", "error", err) })
			if errors.Is(err, session.ErrProvided) || errors.Is(err, session.ErrTaken) {
				fmt.Fprintf(c.OutOrStdout(), "Nothing to do: %v.\n", err)
				return nil
			}
			return err
		},
	}
}
