package serving

import (
	"fmt"
	"net"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/given"
)

// openCommand prints where servers that are up can be opened.
func openCommand() *cobra.Command {
	var dir string
	c := &cobra.Command{
		Use:   "open",
		Short: "Print the address of the running Ivelt, with its key",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
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
					found = true
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
