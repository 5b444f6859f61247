// Package keeping are the commands that look after what Ivelt keeps.
package keeping

import (
	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/given"
)

// Commands are those of the group.
func Commands(p *given.Program) []*cobra.Command {
	return []*cobra.Command{configCommand(), storeCommand(p)}
}
