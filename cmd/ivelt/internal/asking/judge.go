package asking

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"ivelt/app/proof"
	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/judge"
	"ivelt/core/outfit"
	"ivelt/core/preview"
)

func judgeCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	var wanted given.OutfitFlag
	var asJSON bool
	var junit junitFlag
	c := &cobra.Command{
		Use:   "judge",
		Short: "Find what is unreadable or slow in a look, and how to fix it",
		Long: "Find what is unreadable, or slow on an old machine, in the look of a desk or an outfit on\n" +
			"it, and how to fix it. Exit status 1 if there is anything.",
		Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			d, err := flags.Open(c.Context())
			if err != nil {
				return err
			}
			o := outfit.Outfit{}
			if wanted.File != "" {
				if o, err = wanted.Open(); err != nil {
					return err
				}
			}
			found := judge.Of(d, preview.Draft(c.Context(), d, o))
			if err := c.Context().Err(); err != nil {
				return err
			}
			var told []proof.Finding
			for _, v := range found {
				told = append(told, proof.Finding{Code: string(v.Code), Text: v.Text, Grave: v.Grave})
			}
			if err := junit.of("judge", d.ID, "look", told); err != nil {
				return err
			}
			if asJSON {
				err = given.PrintJSON(c.OutOrStdout(), found)
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
				err = given.ErrFindings
			}
			return err
		},
	}
	given.Answers[[]judge.Verdict](c, &asJSON, "judge")
	junit.add(c)
	wanted.Add(c)
	flags.Add(c)
	return c
}
