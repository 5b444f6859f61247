package serving

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"os"
	"os/exec"
	"strconv"
	"time"

	"github.com/spf13/cobra"

	"ivelt/app/changes"
	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/desk"
	"ivelt/session"
)

// checkAfter is how long after sign-in it is looked whether everything follows.
const checkAfter = time.Minute

// The side of the pair that a process is, in its command line.
const (
	guardFlag = "guard" // begun by the other
	holdFlag  = "hold"  // the side that tells the display
	wireFile  = 3       // in both, see [session.Pair]

	checksFlag = "check-at-sign-in"
)

// sessionRun is one process of the pair of `ivelt session`.
type sessionRun struct {
	desk        *desk.Desk
	self        string
	out         io.Writer
	checkAt     int64 // Unix time; 0 for never
	checks      bool
	asked       bool // the flag says whether it checks, whatever the file does
	guard, hold bool
}

func sessionCommand() *cobra.Command {
	var r sessionRun
	c := &cobra.Command{
		Use:   "session",
		Short: "Update open programs at once when a look changes; started at sign-in",
		Long: "Tell the display and its programs of changes at once, where nothing else does: as a provider of\n" +
			"XSETTINGS, in the X resources that are loaded, and by the pointer over the background, from\n" +
			"~/.config/ivelt/session.conf, which plans write. It never takes over from another provider, and\n" +
			"ends if another takes over from it. It is two processes, each of which starts the other again\n" +
			"if it is killed.\n\n" +
			"It has a look turn when it is time, light or dark or to the next backdrop: see ivelt turn.\n\n" +
			"A minute after sign-in it runs check --own --asked once. If a program does not show the look\n" +
			"that was last applied, a notification says so and opens Match. The line\n" +
			"check-at-sign-in = false in ~/.config/ivelt/config.toml turns that off.",
		Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) (err error) {
			r.out = c.OutOrStdout()
			if r.desk, err = given.OwnDesk(); err != nil {
				return err
			}
			if r.self, err = os.Executable(); err != nil {
				return err
			}
			r.asked = c.Flags().Changed(checksFlag)
			if !c.Flags().Changed("check-at") {
				r.checkAt = time.Now().Add(checkAfter).Unix()
			}
			if !r.checks {
				r.checkAt = 0
			}
			return r.run(c.Context())
		},
	}
	c.Flags().BoolVar(&r.guard, guardFlag, false, "")
	c.Flags().BoolVar(&r.hold, holdFlag, false, "")
	c.Flags().BoolVar(&r.checks, checksFlag, true, "look a minute after sign-in whether everything follows, and notify if not")
	c.Flags().Int64Var(&r.checkAt, "check-at", 0, "when to look whether everything follows, in seconds of Unix time; 0 for never")
	for _, name := range []string{guardFlag, holdFlag} {
		_ = c.Flags().MarkHidden(name)
	}
	return c
}

func (r *sessionRun) run(ctx context.Context) error {
	if !r.guard && !r.hold {
		r.turns()
	}
	if r.desk.Display() != "x11" {
		fmt.Fprintln(r.out, "This session has a compositor: programs ask GLib's settings, and follow them without this.")
		return r.check(ctx)
	}
	var wire *os.File
	if r.guard || r.hold {
		wire = os.NewFile(wireFile, "wire")
	}
	other, work := "--"+holdFlag, r.wait
	if r.hold {
		other, work = "--"+guardFlag, r.tell
	}
	pair, err := session.PairOf(wire, func() *exec.Cmd {
		args := []string{"session", other, "--check-at", strconv.FormatInt(r.checkAt, 10)}
		if r.asked {
			args = append(args, "--"+checksFlag+"="+strconv.FormatBool(r.checks))
		}
		c := exec.Command(r.self, args...)
		c.Stdout, c.Stderr = os.Stdout, os.Stderr
		return c
	})
	if err != nil {
		return err
	}
	return pair.Work(ctx, work)
}

// turns starts what turns the desk, if something does.
func (r *sessionRun) turns() {
	data, err := given.OwnData()
	if err == nil {
		if _, err = os.Stat(changes.MarkOf(data)); errors.Is(err, fs.ErrNotExist) {
			return
		}
	}
	if err == nil {
		err = given.Apart("turn", "--stay")
	}
	if err != nil {
		slog.Error("what turns the desk was not started", "error", err)
	}
}

// tell keeps the display as the file says.
func (r *sessionRun) tell(ctx context.Context) error {
	file := session.FileOf(r.desk)
	changed, err := session.Watch(ctx, session.FilesOf(r.desk)...)
	if err != nil {
		return err
	}
	trouble := func(err error) { slog.Error("the old stays", "error", err) }
	slim(ctx)
	err = session.Hold(ctx, r.desk, func() (desk.Held, error) { return session.ReadFile(file) }, changed, trouble)
	if errors.Is(err, session.ErrProvided) || errors.Is(err, session.ErrTaken) {
		fmt.Fprintf(r.out, "Nothing to do: %v.\n", err)
		return nil
	}
	return err
}

// wait checks when it is time to, and waits for the end.
func (r *sessionRun) wait(ctx context.Context) error {
	slim(ctx)
	if err := r.check(ctx); err != nil {
		slog.Error("whether everything follows is not known", "error", err)
	}
	<-ctx.Done()
	return nil
}

// slim makes the process small once it has begun.
func slim(ctx context.Context) {
	go func() {
		select {
		case <-time.After(time.Second):
			if err := session.Slim(); err != nil {
				slog.Debug("the session could not be made smaller", "error", err)
			}
		case <-ctx.Done():
		}
	}()
}
