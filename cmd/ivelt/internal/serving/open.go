package serving

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/config"
)

// openCommand prints where servers that are up can be opened.
func openCommand() *cobra.Command {
	var dir string
	var show bool
	c := &cobra.Command{
		Use:   "open",
		Short: "Print the address of the running Ivelt, with its key, or open it in the browser",
		Long: "Print the address of the running Ivelt, with its key. With --in-browser it is opened in the\n" +
			"browser of your desktop; if none is up, one is started on this computer's own desk, and stays.",
		Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			if show && dir == "" {
				return showInBrowser(c.Context(), "/")
			}
			folders := []string{dir, filepath.Join(dir, "data")}
			if dir == "" {
				base, err := given.DataDir()
				if err != nil {
					return err
				}
				folders = []string{filepath.Join(base, "own"), filepath.Join(base, "demo", "data")}
			}
			found := false
			for _, folder := range folders {
				for _, at := range addressesIn(folder) {
					if found = true; show {
						return browse(c.Context(), at)
					}
					fmt.Fprintln(c.OutOrStdout(), at)
				}
			}
			if !found {
				fmt.Fprintln(c.ErrOrStderr(), "ivelt: none is up. “ivelt serve” or “ivelt demo” starts one.")
				return given.ErrFindings
			}
			return nil
		},
	}
	c.Flags().BoolVar(&show, "in-browser", false, "open it in the browser; start it if it is not up")
	c.Flags().StringVar(&dir, "dir", "", "the folder that it was started with, if it was named there")
	return c
}

// addressesIn are where the servers can be opened that are up with a data folder.
func addressesIn(folder string) (out []string) {
	b, err := os.ReadFile(filepath.Join(folder, addressName))
	if err != nil {
		return nil
	}
	for line := range strings.Lines(string(b)) {
		if line = strings.TrimSpace(line); up(line) {
			out = append(out, line)
		}
	}
	return out
}

// up reports whether something listens at an address.
func up(address string) bool {
	u, err := url.Parse(address)
	if err != nil {
		return false
	}
	c, err := net.DialTimeout("tcp", u.Host, time.Second)
	if err != nil {
		return false
	}
	c.Close()
	return true
}

// upWithin is how long a server that was started may take until it is up.
const upWithin = 20 * time.Second

// showInBrowser opens a page in the person's browser, of the server that is up, else of one that is
// started for it and stays.
func showInBrowser(ctx context.Context, page string) error {
	folder, err := given.OwnData()
	if err != nil {
		return err
	}
	at := addressesIn(folder)
	if len(at) == 0 {
		command, err := toServe()
		if err != nil {
			return err
		}
		if err := given.Apart(command...); err != nil {
			return err
		}
		for end := time.Now().Add(upWithin); len(at) == 0; at = addressesIn(folder) {
			if time.Now().After(end) {
				return errors.New("the pages did not come up; “ivelt serve” says why")
			}
			select {
			case <-time.After(100 * time.Millisecond):
			case <-ctx.Done():
				return nil
			}
		}
	}
	u, err := url.Parse(at[0])
	if err != nil {
		return err
	}
	u.Path = page
	return browse(ctx, u.String())
}

// toServe is the command that starts a server: at its usual address, or if something else has that,
// a demo for instance, at any.
func toServe() ([]string, error) {
	all, err := given.Settings()
	if err != nil {
		return nil, err
	}
	at, err := all.Of(config.Addr)
	if err != nil {
		return nil, err
	}
	l, err := net.Listen("tcp", at)
	if errors.Is(err, syscall.EADDRINUSE) {
		return []string{"serve", "--addr", "127.0.0.1:0"}, nil
	}
	if err != nil {
		return nil, err
	}
	return []string{"serve"}, l.Close()
}

// browse shows an address in the browser that the person's desktop has.
func browse(ctx context.Context, address string) error {
	opens, err := exec.LookPath("xdg-open") // xdg-utils', on every desktop
	if err != nil {
		return fmt.Errorf("nothing here opens a browser (xdg-open is missing). Open %s yourself", address)
	}
	return exec.CommandContext(ctx, opens, address).Run()
}
