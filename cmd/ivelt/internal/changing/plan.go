package changing

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"

	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/core/script"
)

func checkCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	var worn given.OutfitFlag
	var asJSON, asked bool
	c := &cobra.Command{
		Use:   "check",
		Short: "List what does not match an outfit, and settings that cannot work",
		Long: "List what does not match an outfit, or without one the look that was last applied, and\n" +
			"settings that cannot work. Exit status 1 if there is anything, as a\n" +
			"scheduled job can use it.",
		Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			d, err := flags.Open(c.Context())
			if err != nil {
				return err
			}
			o, err := flags.Worn(c.Context(), d)
			if worn.File != "" {
				o, err = worn.Open()
			}
			if err != nil {
				return err
			}
			board := match.Of(d, o)
			findings := board.Findings()
			if asked {
				findings = board.Strays(o)
			}
			if asJSON {
				err = given.PrintJSON(c.OutOrStdout(), findings)
			} else {
				for _, f := range findings {
					s, _ := d.Surface(f.Surface)
					fmt.Fprintf(c.OutOrStdout(), "%s, %s: %s\n  %s\n", s.Title, desk.FacetTitle(f.Facet), f.Cause, f.Remedy)
				}
			}
			if err == nil && len(findings) > 0 {
				err = given.ErrFindings
			}
			return err
		},
	}
	given.Answers[[]match.Finding](c, &asJSON, "check")
	c.Flags().BoolVar(&asked, "asked", false, "only what the outfit chooses, and nothing else")
	worn.Add(c)
	flags.Add(c)
	return c
}

func planCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	var worn given.OutfitFlag
	var asJSON, asScript, theirs bool
	var bundle string
	c := &cobra.Command{
		Use:   "plan",
		Short: "Show what applying an outfit would change; nothing is written",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			d, err := flags.Open(c.Context())
			if err != nil {
				return err
			}
			o, err := worn.ForWearing(c.ErrOrStderr(), d)
			if err != nil {
				return err
			}
			p, err := planning.Dress(c.Context(), d, o)
			if err != nil {
				return err
			}
			if theirs {
				p = p.Theirs(d)
			}
			switch {
			case bundle != "":
				err = writeBundle(c.Context(), d, p, nil, bundle)
			case asScript:
				var text string
				if text, err = script.Of(d, p); err == nil {
					_, err = io.WriteString(c.OutOrStdout(), text)
				}
			case asJSON:
				err = given.PrintJSON(c.OutOrStdout(), p)
			default:
				printPlan(c.OutOrStdout(), d, p)
			}
			if err == nil && len(p.Blocked) > 0 {
				err = given.ErrFindings
			}
			return err
		},
	}
	given.Answers[plan.Plan](c, &asJSON, "plan")
	c.Flags().BoolVar(&asScript, "script", false, "a shell script that does the same by hand")
	c.Flags().BoolVar(&theirs, "administrator", false, "only the part that needs an administrator")
	c.Flags().StringVar(&bundle, "bundle", "", "write the plan, the script and what they copy into this tar, to hand over")
	worn.AddActs(c)
	flags.Add(c)
	return c
}

// writeBundle writes a plan into a file that is new.
func writeBundle(ctx context.Context, d *desk.Desk, p plan.Plan, keep plan.Keeper, file string) error {
	f, err := os.OpenFile(file, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o644)
	if err != nil {
		return err
	}
	if err := errors.Join(script.Bundle(ctx, d, p, keep, f), f.Close()); err != nil {
		return errors.Join(err, os.Remove(file))
	}
	return nil
}

func printPlan(w io.Writer, d *desk.Desk, p plan.Plan) {
	if len(p.Ops) == 0 && len(p.Blocked) == 0 {
		fmt.Fprintln(w, "Nothing to change.")
	}
	for _, op := range p.Ops {
		admin := ""
		if op.Admin {
			admin = "; needs an administrator"
		}
		fmt.Fprintf(w, "%s %s\n  to %s (seen: %s%s)\n", op.Kind, d.Show(op.Path), op.Why, op.Effect, admin)
		for _, l := range op.Loses {
			fmt.Fprintf(w, "  ! cannot be kept: %s\n", l.Says())
		}
		var lines []plan.DiffLine
		switch op.Kind {
		case plan.Write:
			old, _ := d.Tree().ReadFile(desk.Name(op.Path))
			lines = plan.Diff(old, op.Content)
		case plan.Set:
			lines = plan.Diff(op.Before.Line(), op.After.Line())
		}
		for _, line := range lines {
			if line.Sign == "+" || line.Sign == "-" {
				fmt.Fprintf(w, "    %s %s\n", line.Sign, line.Text)
			}
		}
	}
	for _, b := range p.Blocked {
		fmt.Fprintf(w, "! %s %s\n", b.Why, b.Remedy)
	}
}
