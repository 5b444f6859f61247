package sharing

import (
	"fmt"
	"text/tabwriter"

	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/given"
	"ivelt/docs/schemas"
)

func schemaCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "schema [NAME]",
		Short: "The JSON Schemas of what commands answer with --json",
		Long: "The JSON Schemas (draft 2020-12) of what commands answer with --json: a list of them, or one by\n" +
			"its name. Those of a version only ever get more fields.",
		Args:      cobra.MaximumNArgs(1),
		ValidArgs: schemas.Names(),
		RunE: func(c *cobra.Command, args []string) error {
			if len(args) == 1 {
				b, err := schemas.Of(args[0])
				if err == nil {
					_, err = c.OutOrStdout().Write(b)
				}
				return err
			}
			by := map[string][]string{}
			answering(c.Root(), by)
			t := tabwriter.NewWriter(c.OutOrStdout(), 0, 0, 2, ' ', 0)
			for _, name := range schemas.Names() {
				for _, command := range by[name] {
					fmt.Fprintf(t, "%s\t%s --json\n", name, command)
				}
			}
			return t.Flush()
		},
	}
}

// answering collects the commands below one by the schemas of their answers.
func answering(c *cobra.Command, by map[string][]string) {
	for _, name := range given.AnswersOf(c) {
		by[name] = append(by[name], c.CommandPath())
	}
	for _, of := range c.Commands() {
		answering(of, by)
	}
}
