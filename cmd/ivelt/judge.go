package main

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"ivelt/core/judge"
	"ivelt/core/outfit"
	"ivelt/core/preview"
)

func judgeCommand(p *Program) *cobra.Command {
	flags := p.desk()
	var wanted outfitFlag
	var asJSON bool
	c := &cobra.Command{
		Use:   "judge",
		Short: "Tell what of a look cannot be read or costs a slow machine much, and what would mend it",
		Long: "Tell what of a look, what a desk wears or an outfit on it, cannot be read or costs a slow\n" +
			"machine much, and what would mend it. Exit status 1 if there is anything.",
		Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			d, err := flags.open(c.Context())
			if err != nil {
				return err
			}
			o := outfit.Outfit{}
			if wanted.file != "" {
				if o, err = wanted.open(); err != nil {
					return err
				}
			}
			found := judge.Of(d, preview.Draft(c.Context(), d, o))
			if err := c.Context().Err(); err != nil {
				return err
			}
			if asJSON {
				err = printJSON(c.OutOrStdout(), found)
			} else {
				for _, v := range found {
					fmt.Fprintln(c.OutOrStdout(), v.Text)
					for _, p := range v.Parts[min(1, len(v.Parts)):] {
						fmt.Fprintln(c.OutOrStdout(), "  too: "+strings.TrimSpace(p.What+" "+p.Says()))
					}
					for _, r := range v.Remedies {
						fmt.Fprintln(c.OutOrStdout(), "  "+r.Text)
					}
				}
			}
			if err == nil && len(found) > 0 {
				err = errFindings
			}
			return err
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "machine-readable")
	wanted.add(c)
	flags.add(c)
	return c
}
