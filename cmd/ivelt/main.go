// Command ivelt dresses a desktop. See `ivelt help`.
package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"os/signal"
	"syscall"

	"github.com/spf13/cobra"

	_ "ivelt/sevenzip" // 7z parcels
)

// Exit codes of the command line contract.
const (
	exitFine     = 0
	exitFindings = 1
	exitBad      = 2
)

// errFindings ends a command that did its work and found something amiss.
var errFindings = errors.New("findings")

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	code := run(ctx, os.Args[1:])
	stop()
	os.Exit(code)
}

func run(ctx context.Context, args []string) int {
	root := &cobra.Command{
		Use:           "ivelt",
		Short:         "Ivelt dresses a desktop: find, look inside, put in place, try on, apply, look again, go back.",
		SilenceErrors: true,
		SilenceUsage:  true,
	}
	root.CompletionOptions.HiddenDefaultCmd = true
	level := root.PersistentFlags().String("log-level", "", "what is logged to standard error: debug, info, warn or error (default: warn of a server, else error)")
	root.PersistentPreRunE = func(c *cobra.Command, _ []string) error {
		l, words := slog.LevelError, *level
		if words == "" {
			words = "error"
			if c.Name() == "demo" || c.Name() == "serve" {
				words = "warn"
			}
		}
		if err := l.UnmarshalText([]byte(words)); err != nil {
			return fmt.Errorf("--log-level is debug, info, warn or error, not %q", *level)
		}
		slog.SetDefault(slog.New(slog.NewTextHandler(c.ErrOrStderr(), &slog.HandlerOptions{Level: l})))
		return nil
	}
	root.AddCommand(demoCommand(), serveCommand(), inspectCommand(), installCommand(), marketCommand(), readCommand(), checkCommand(), planCommand(), applyCommand(), backCommand(), historyCommand(), keepCommand(), recoverCommand(), storeCommand(), mendCommand(), outfitCommand(), judgeCommand(), removeCommand(), mindCommand(), iconCommand(), styleCommand(), surfaceCommand())
	root.SetArgs(args)
	switch err := root.ExecuteContext(ctx); {
	case err == nil:
		return exitFine
	case errors.Is(err, errFindings):
		return exitFindings
	default:
		fmt.Fprintln(os.Stderr, "ivelt:", err)
		return exitBad
	}
}
