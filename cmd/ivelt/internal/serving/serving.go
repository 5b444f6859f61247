// Package serving are the commands that start Ivelt's pages and find them.
package serving

import (
	"github.com/spf13/cobra"
)

// Commands are those of the group.
func Commands() []*cobra.Command {
	return []*cobra.Command{openCommand(), serveCommand(), sessionCommand()}
}
