// Package asking are the commands that tell what is there and change nothing.
package asking

import (
	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/given"
)

// Commands are those of the group.
func Commands(p *given.Program) []*cobra.Command {
	return []*cobra.Command{backdropCommand(p), benchCommand(p), iconCommand(p), inspectCommand(p), judgeCommand(p), pictureCommand(p), proofCommand(p), readCommand(p), styleCommand(), surfaceCommand(p)}
}
