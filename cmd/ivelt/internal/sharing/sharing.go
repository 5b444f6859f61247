// Package sharing are the commands for what goes from one person, or one family of systems, to another.
package sharing

import (
	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/given"
)

// Commands are those of the group.
func Commands(p *given.Program) []*cobra.Command {
	return []*cobra.Command{convertCommand(), marketCommand(p), outfitCommand(p), schemaCommand(), sheetCommand(p)}
}
