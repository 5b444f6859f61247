// Command ivelt dresses a desktop. See `ivelt help`.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"syscall"
	"time"

	"ivelt/cmd/ivelt/internal/commands"
	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/shown"
	_ "ivelt/sevenzip" // 7z parcels
)

// Exit codes of the command line contract.
const (
	exitFine     = 0
	exitFindings = given.CodeFindings
	exitBad      = 2
)

func main() { begin(commands.Build()) }

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
	root := commands.Tree(p)
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
