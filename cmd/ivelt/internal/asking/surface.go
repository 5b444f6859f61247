package asking

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/desk"
)

func surfaceCommand(p *given.Program) *cobra.Command {
	c := &cobra.Command{
		Use:   "surface",
		Short: "Descriptors of surfaces: a shell, a login screen, a program of your own",
	}
	c.AddCommand(&cobra.Command{
		Use:   "check FILE…",
		Short: "Say whether descriptors can be used, and what they tell",
		Long: `Say whether descriptors can be used, and what they tell. One that can belongs in
~/.config/ivelt/surfaces; docs/surfaces.md shows how to write one.`,
		Args: cobra.MinimumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			for _, file := range args {
				b, err := given.ReadFile(file)
				if err != nil {
					return err
				}
				s, err := desk.ParseSurface(b)
				if err != nil {
					return fmt.Errorf("%s: %w", file, err)
				}
				fmt.Fprintf(c.OutOrStdout(), "%s: %s can be used\n", file, s.Title)
				for _, f := range s.Facets {
					set := "read only"
					for _, src := range f.Sources {
						if src.Write {
							set = "set in " + src.Path
							break
						}
					}
					fmt.Fprintf(c.OutOrStdout(), "  %-14s %s, %s\n", f.Name, sourcesOf(f), set)
				}
				for _, l := range s.Looks {
					fmt.Fprintf(c.OutOrStdout(), "  looks for pieces of kind %s in %s\n", l.Kind, strings.Join(l.Folders, ", "))
				}
			}
			return nil
		},
	})
	c.AddCommand(learnCommand(p))
	return c
}

func sourcesOf(f desk.Facet) string {
	if len(f.Sources) == 1 {
		return "one source"
	}
	return fmt.Sprintf("%d sources", len(f.Sources))
}
