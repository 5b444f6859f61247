//go:build nodemo

package main

import (
	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/given"
)

// build is what this build comes with: nothing beside the toolkits.
func build() *given.Program { return &given.Program{} }

func demoCommands() []*cobra.Command { return nil }
