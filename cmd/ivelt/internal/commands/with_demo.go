//go:build !nodemo

package commands

import (
	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/demoing"
	"ivelt/cmd/ivelt/internal/given"
	"ivelt/demo"
	"ivelt/standin"
)

// Build is what this build comes with: the demo world, and the stand-ins that live in it.
func Build() *given.Program {
	return &given.Program{Surfaces: append(standin.Surfaces(), standin.LockedSurfaces()...), Names: demo.Names(), World: demoing.World, Fresh: demoing.Fresh}
}

func demoCommands() []*cobra.Command { return demoing.Commands() }
