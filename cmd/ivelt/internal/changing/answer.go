package changing

import (
	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/desk"
	"ivelt/core/plan"
	"ivelt/core/planning"
)

// answer is what apply tells a program: the plan, whether it changes anything, and how
// (docs/fleet.md).
type answer struct {
	Changed bool     `json:"changed"`
	Check   bool     `json:"check,omitempty"` // nothing was done
	Diff    []differ `json:"diff"`
	plan.Plan
}

// differ is what is at one place before and after.
type differ struct {
	Path   string `json:"path"`
	Before string `json:"before"`
	After  string `json:"after"`
}

// answered is the answer about a plan; original returns what stands, or stood, at its paths.
func answered(d *desk.Desk, p plan.Plan, original func(plan.Op) ([]byte, error)) (answer, error) {
	out := answer{Changed: len(p.Ops) > 0, Diff: []differ{}, Plan: p}
	for _, op := range p.Ops {
		x := differ{Path: d.Show(op.Path)}
		switch {
		case op.Kind == plan.Write:
			if op.Before.Kind == "file" {
				old, err := original(op)
				if err != nil {
					return out, err
				}
				x.Before = string(old)
			}
			x.After = string(op.Content)
		case op.Kind == plan.Set:
			x.Before, x.After = string(op.Before.Line()), string(op.After.Line())
		default:
			x.Before, x.After = stands(op.Before), stands(op.After)
		}
		out.Diff = append(out.Diff, x)
	}
	return out, nil
}

// stands is what a state is, in a line.
func stands(s plan.State) string {
	switch s.Kind {
	case "":
		return ""
	case "link":
		return "a link to " + s.Hash + "\n"
	}
	return s.Kind + " " + s.Hash + "\n"
}

// checkApply says what apply would do.
func checkApply(c *cobra.Command, flags *given.DeskFlags, worn *given.OutfitFlag, asJSON bool, opt planning.Options) error {
	d, err := flags.Open(c.Context())
	if err != nil {
		return err
	}
	o, err := worn.ForWearing(c.ErrOrStderr(), d)
	if err != nil {
		return err
	}
	p, err := planning.DressWith(c.Context(), d, d, o, nil, opt)
	if err != nil {
		return err
	}
	if asJSON {
		a, e := answered(d, p, func(op plan.Op) ([]byte, error) { return d.Tree().ReadFile(desk.Name(op.Path)) })
		if a.Check = true; e != nil {
			return e
		}
		err = given.PrintJSON(c.OutOrStdout(), a)
	} else {
		printPlan(c.OutOrStdout(), d, p)
	}
	if err == nil && len(p.Blocked) > 0 {
		err = given.ErrFindings
	}
	return err
}
