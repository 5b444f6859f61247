//go:build nodemo

package commands

import (
	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/given"
)

// Build is what this build comes with: nothing beside the toolkits.
func Build() *given.Program { return &given.Program{} }

func demoCommands() []*cobra.Command { return nil }
