//go:build !nodemo

package main

import (
	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/demoing"
	"ivelt/cmd/ivelt/internal/given"
	"ivelt/standin"
)

// build is what this build comes with: the demo world, and the stand-ins that live in it.
func build() *given.Program {
	return &given.Program{Surfaces: append(standin.Surfaces(), standin.LockedSurfaces()...), World: demoing.World}
}

func demoCommands() []*cobra.Command { return demoing.Commands() }
