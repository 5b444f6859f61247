package given

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"ivelt/app"
	"ivelt/app/desks"
	"ivelt/core/config"
	"ivelt/core/desk"
	"ivelt/core/market/debian"
	"ivelt/core/shown"
)

// Changing runs a command on a desk and may be written.
func Changing(c *cobra.Command, flags *DeskFlags, do func(a *app.App, d *desks.Managed, out io.Writer) error) {
	c.RunE = func(c *cobra.Command, _ []string) error {
		a, d, err := flags.OpenToWrite(c.Context())
		if err != nil {
			return err
		}
		defer a.Close()
		for _, n := range a.Notices.All() {
			fmt.Fprintln(c.ErrOrStderr(), "ivelt:", n.Text)
			if err := a.Notices.Seen(n.ID); err != nil {
				return err
			}
		}
		return do(a, d, c.OutOrStdout())
	}
	flags.Add(c)
}

// Watchdog starts a program that outlives this one and goes back on what is
// tried, should this one be gone when the time is up.
func Watchdog(dir string) error {
	return Apart("watchdog", dir)
}

// Apart starts Ivelt again with a command, so that it outlives this one.
func Apart(args ...string) error {
	self, err := os.Executable()
	if err != nil {
		return err
	}
	c := exec.Command(self, args...)
	c.SysProcAttr = &syscall.SysProcAttr{Setsid: true}
	if err := c.Start(); err != nil {
		return err
	}
	go func() { _ = c.Wait() }()
	return nil
}

// OwnData is Ivelt's own folder for this computer's desk.
func OwnData() (string, error) {
	base, err := DataDir()
	return filepath.Join(base, OwnID), err
}

// OwnManaged is this computer's desk, to be dressed.
func OwnManaged(d *desk.Desk) *desks.Managed {
	own := &desks.Managed{Desk: d, Downloads: downloads(), Refresh: desks.SystemCaches(d), Keep: KeepWriting, Session: func() error { return Apart("session") }, Tend: func() error { return Apart("turn", "--stay") }, Administer: byPolicy()}
	if (debian.System{}).Here(d.Tree()) {
		own.Offers, d.Manager = debian.System{}, debian.Manager{Root: d.System}
	}
	return own
}

// downloads is where the person of this computer has downloads, "" if that is not told.
func downloads() string {
	all, err := Settings()
	if err != nil {
		return ""
	}
	at, _ := all.Of(config.Downloads)
	return at
}

// byPolicy runs the command for administrators by pkexec(1), which asks for the password; nil
// where that is missing.
func byPolicy() func(ctx context.Context, args ...string) error {
	asks, err := exec.LookPath("pkexec")
	if err != nil {
		return nil
	}
	return func(ctx context.Context, args ...string) error {
		self, err := os.Executable()
		if err != nil {
			return err
		}
		c := exec.CommandContext(ctx, asks, append([]string{self, "administer"}, args...)...)
		c.Cancel = func() error { return c.Process.Signal(syscall.SIGTERM) }
		c.WaitDelay = 3 * time.Second
		said, err := c.CombinedOutput()
		var ended *exec.ExitError
		switch {
		case err == nil:
			return nil
		case errors.As(err, &ended) && (ended.ExitCode() == notAllowed || ended.ExitCode() == notAsked):
			return errors.New("no administrator's password was given, or nothing here can ask for one. Nothing was changed")
		default:
			return fmt.Errorf("%w: %s", err, strings.TrimPrefix(strings.TrimSpace(shown.Line(string(said))), "ivelt: "))
		}
	}
}

// How pkexec(1) ends where it does not run the command: it is not allowed, or nobody answered.
const (
	notAllowed = 127
	notAsked   = 126
)

// Data is Ivelt's own folder for a desk that was named, "" for this computer's own.
func (f *DeskFlags) Data(ctx context.Context, d *desk.Desk) (string, error) {
	switch {
	case f.Name != "":
		_, _, err := f.named(ctx)
		return f.folder, err
	case f.Own:
		return OwnData()
	case f.Home != "":
		base, err := DataDir()
		sum := sha256.Sum256([]byte(d.Home + "\x00" + d.System))
		return filepath.Join(base, "desks", hex.EncodeToString(sum[:8])), err
	}
	return "", nil
}

// OpenToWrite opens a desk that was named, to change it.
func (f *DeskFlags) OpenToWrite(ctx context.Context) (*app.App, *desks.Managed, error) {
	d, err := f.Open(ctx)
	if err != nil {
		return nil, nil, err
	}
	data, err := f.Data(ctx, d)
	if err != nil {
		return nil, nil, err
	}
	on := []*desks.Managed{}
	switch {
	case f.Name != "":
		if _, on, err = f.named(ctx); err != nil {
			return nil, nil, err
		}
	case f.Home != "":
		if err := os.MkdirAll(data, 0o755); err != nil {
			return nil, nil, err
		}
		d.SetWritable(true)
		own := &desks.Managed{Desk: d}
		if f.System == "" || f.System == "/" {
			own.Refresh = desks.SystemCaches(d)
		}
		on = append(on, own)
	case f.Own:
		on = append(on, OwnManaged(d))
		d.SetWritable(true)
	default:
		return nil, nil, errors.New("say which desk is to be changed: --own is this computer's, --home names another home, --desk one of the demo")
	}
	a, err := app.New(ctx, app.Config{Dir: data, Desks: on, Watchdog: Watchdog, Before: f.of.Before, Log: slog.Default()})
	if err != nil {
		return nil, nil, err
	}
	own, err := a.Desk(d.ID)
	if err != nil {
		return nil, nil, errors.Join(err, a.Close())
	}
	return a, own, nil
}
