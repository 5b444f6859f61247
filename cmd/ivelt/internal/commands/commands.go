// Package commands is the tree of Ivelt's commands.
package commands

import (
	"fmt"
	"log/slog"

	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/asking"
	"ivelt/cmd/ivelt/internal/changing"
	"ivelt/cmd/ivelt/internal/given"
	"ivelt/cmd/ivelt/internal/keeping"
	"ivelt/cmd/ivelt/internal/serving"
	"ivelt/cmd/ivelt/internal/sharing"
)

// Tree is the root of the commands of a build.
func Tree(p *given.Program) *cobra.Command {
	root := &cobra.Command{
		Use:           "ivelt",
		Version:       version(),
		Short:         "Ivelt dresses a desktop: find a look, see it before anything changes, apply it everywhere, go back.",
		SilenceErrors: true,
		SilenceUsage:  true,
	}
	root.CompletionOptions.HiddenDefaultCmd = true
	level := root.PersistentFlags().String("log-level", "", "what is logged to standard error: debug, info, warn or error (default: warn of a server, else error)")
	given.Completes(root, "log-level", "debug", "info", "warn", "error")
	root.PersistentPreRunE = func(c *cobra.Command, _ []string) error {
		if err := given.FromSettings(c); err != nil && c.Annotations[given.MendsSettings] == "" {
			return err
		}
		return logTo(c, *level)
	}
	for _, group := range [][]*cobra.Command{asking.Commands(p), changing.Commands(p), sharing.Commands(p), keeping.Commands(p), serving.Commands(), demoCommands()} {
		root.AddCommand(group...)
	}
	return root
}

// logTo logs to a command's standard error, from a level on.
func logTo(c *cobra.Command, level string) error {
	words := level
	if words == "" {
		words = "error"
		if c.Name() == "demo" || c.Name() == "serve" {
			words = "warn"
		}
	}
	l := slog.LevelError
	if err := l.UnmarshalText([]byte(words)); err != nil {
		return fmt.Errorf("--log-level is debug, info, warn or error, not %q", level)
	}
	slog.SetDefault(slog.New(slog.NewTextHandler(c.ErrOrStderr(), &slog.HandlerOptions{Level: l})))
	return nil
}
