// Package sharing are the commands for outfits and for markets, which go from one person to another.
package sharing

import (
	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/given"
)

// Commands are those of the group.
func Commands(p *given.Program) []*cobra.Command {
	return []*cobra.Command{marketCommand(), outfitCommand(p), sheetCommand(p)}
}
