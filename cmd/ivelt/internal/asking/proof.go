package asking

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"ivelt/app"
	"ivelt/app/desks"
	"ivelt/app/proof"
	"ivelt/cmd/ivelt/internal/given"
)

// proofFlags say how pieces are held against desks.
type proofFlags struct {
	on          []string
	own, strict bool
	password    string
	junit       junitFlag
	asJSON      bool
	program     *given.Program
}

func proofCommand(p *given.Program) *cobra.Command {
	f := proofFlags{program: p}
	c := &cobra.Command{
		Use:   "proof PATH…",
		Short: "Hold pieces against three desks before you publish them",
		Long: "Hold the pieces of folders and parcels against the three desks of the demo, which are made for\n" +
			"this and gone afterwards: what is recognised, where it goes and which programs see it there,\n" +
			"which lines of its sheets a toolkit refuses, how it looks worn, light and dark, and what the\n" +
			"benches for icons, pointers and fonts find. With --junit a report is written that runners of\n" +
			"tests read. Exit status 1 if something grave is found, 2 if something cannot be opened.",
		Args: cobra.MinimumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error { return f.run(c, args) },
	}
	c.Flags().StringSliceVar(&f.on, "on", nil, "desks to hold them against (default: all of the demo)")
	given.Completes(c, "on", p.Names...)
	c.Flags().BoolVar(&f.own, "own", false, "and this computer's own desk, which is only looked at")
	c.Flags().BoolVar(&f.strict, "strict", false, "what is not grave fails, too")
	f.junit.add(c)
	c.Flags().StringVar(&f.password, "password", "", "password of an encrypted parcel")
	given.Answers[[]proof.Report](c, &f.asJSON, "proof")
	return c
}

func (f *proofFlags) run(c *cobra.Command, args []string) (err error) {
	work, err := os.MkdirTemp("", "ivelt-proof-")
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, os.RemoveAll(work)) }()
	on, err := f.desks(c.Context(), filepath.Join(work, "world"))
	if err != nil {
		return err
	}
	a, err := app.New(c.Context(), app.Config{Dir: filepath.Join(work, "data"), Desks: on, Log: slog.Default()})
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, a.Close()) }()
	reports := []proof.Report{}
	failed := 0
	for _, at := range args {
		full, err := filepath.Abs(at)
		if err != nil {
			return err
		}
		r, err := proof.Of(c.Context(), a, on, full, f.password)
		if err != nil {
			return fmt.Errorf("%s: %w", at, err)
		}
		r.Path = at
		failed += r.Failed(f.strict)
		reports = append(reports, r)
	}
	all := proof.Report{Command: "proof"}
	for _, r := range reports {
		all.Path = strings.TrimSpace(all.Path + " " + r.Path)
		all.Cases = append(all.Cases, r.Cases...)
	}
	if err := f.junit.write(all, f.strict); err != nil {
		return err
	}
	if f.asJSON {
		err = given.PrintJSON(c.OutOrStdout(), reports)
	} else {
		printProofs(c.OutOrStdout(), reports, f.strict)
	}
	if err == nil && failed > 0 {
		err = given.ErrFindings
	}
	return err
}

// desks are those that pieces are held against.
func (f *proofFlags) desks(ctx context.Context, dir string) ([]*desks.Managed, error) {
	var on []*desks.Managed
	if f.program.Fresh != nil {
		all, err := f.program.Fresh(ctx, dir)
		if err != nil {
			return nil, err
		}
		var names []string
		for _, d := range all {
			names = append(names, d.ID)
			if len(f.on) == 0 || slices.Contains(f.on, d.ID) {
				on = append(on, d)
			}
		}
		for _, name := range f.on {
			if !slices.Contains(names, name) {
				return nil, fmt.Errorf("--on: there is no desk %q; there are %s", name, strings.Join(names, ", "))
			}
		}
	}
	if f.own || len(on) == 0 {
		d, err := given.OwnDesk()
		if err != nil {
			return nil, err
		}
		on = append(on, &desks.Managed{Desk: d})
	}
	return on, nil
}

// printProofs tells what was seen, piece by piece.
func printProofs(w io.Writer, reports []proof.Report, strict bool) {
	for _, r := range reports {
		fmt.Fprintln(w, r.Path)
		last := ""
		for _, c := range r.Cases {
			if c.Piece != last {
				fmt.Fprintf(w, "\n%s\n", c.Piece)
				last = c.Piece
			}
			sign := "✓"
			if c.Failed(strict) {
				sign = "✗"
			}
			what := c.Check
			if c.Desk != "" {
				what += " on " + c.Desk
			}
			fmt.Fprintf(w, "  %s %-24s %s\n", sign, what, c.Says)
			for _, f := range c.Findings {
				sign := "-"
				if f.Grave {
					sign = "!"
				}
				fmt.Fprintf(w, "      %s %s\n", sign, f)
			}
		}
		fmt.Fprintf(w, "\n%d of %d failed.\n", r.Failed(strict), len(r.Cases))
	}
}
