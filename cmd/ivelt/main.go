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
	"time"

	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/asking"
	"ivelt/cmd/ivelt/internal/changing"
	"ivelt/cmd/ivelt/internal/given"
	"ivelt/cmd/ivelt/internal/keeping"
	"ivelt/cmd/ivelt/internal/serving"
	"ivelt/cmd/ivelt/internal/sharing"
	"ivelt/core/shown"
	_ "ivelt/sevenzip" // 7z parcels
)

// Exit codes of the command line contract.
const (
	exitFine     = 0
	exitFindings = given.CodeFindings
	exitBad      = 2
)

func main() { begin(build()) }

// begin runs the command that the program was started with, and ends with its code.
func begin(p *given.Program) {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	go endSoon(ctx)
	code := run(ctx, p, os.Args[1:])
	stop()
	os.Exit(code)
}

// endsWithin is how long a command may take to end once it is asked to.
const endsWithin = 2800 * time.Millisecond

// endSoon ends a command that does not hear that it should. What it had begun on a desk
// is undone at the next start.
func endSoon(ctx context.Context) {
	<-ctx.Done()
	time.Sleep(endsWithin)
	fmt.Fprintln(os.Stderr, "ivelt: ended in the middle; what was begun on a desk is undone at the next start")
	os.Exit(exitBad)
}

func run(ctx context.Context, p *given.Program, args []string) int {
	root := &cobra.Command{
		Use:           "ivelt",
		Version:       version(),
		Short:         "Ivelt dresses a desktop: find a look, see it before anything changes, apply it everywhere, go back.",
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
	for _, group := range [][]*cobra.Command{asking.Commands(p), changing.Commands(p), sharing.Commands(p), keeping.Commands(p), serving.Commands(), demoCommands()} {
		root.AddCommand(group...)
	}
	root.SetArgs(args)
	root.SetOut(shown.Writer(os.Stdout))
	root.SetErr(shown.Writer(os.Stderr))
	switch err := root.ExecuteContext(ctx); {
	case err == nil:
		return exitFine
	case errors.Is(err, given.ErrFindings):
		return exitFindings
	default:
		fmt.Fprintln(root.ErrOrStderr(), "ivelt:", err)
		return exitBad
	}
}
