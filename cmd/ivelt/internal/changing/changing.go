// Package changing are the commands that plan and change what is on a desk, or go back.
package changing

import (
	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/given"
)

// Commands are those of the group.
func Commands(p *given.Program) []*cobra.Command {
	return []*cobra.Command{applyCommand(p), historyCommand(p), checkpointCommand(p), backCommand(p), installCommand(p), layerCommand(p), fixCommand(p), checkCommand(p), planCommand(p), recoverCommand(p), administerCommand(p), removeCommand(p), newerCommand(p), keepCommand(p), turnCommand(p), watchdogCommand(p)}
}
