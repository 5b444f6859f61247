package changing

import (
	"errors"
	"fmt"
	"path/filepath"
	"slices"

	"github.com/spf13/cobra"

	"ivelt/app/desks"
	"ivelt/app/library"
	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/parcel"
	"ivelt/core/place"
	"ivelt/core/planning"
)

func installCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	var scope, password, exists, second, bundle string
	var wanted []string
	var lose bool
	c := &cobra.Command{
		Use:   "install PATH",
		Short: "Install the pieces of a parcel",
		Long:  "Install the pieces of a parcel on a desk: all of them, or those named with --piece\nby their name or folder. A checkpoint is made first.",
		Args:  cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			a, d, err := flags.OpenToWrite(c.Context())
			if err != nil {
				return err
			}
			defer a.Close()
			file, err := filepath.Abs(args[0])
			if err != nil {
				return err
			}
			row, err := a.Library.Keep(c.Context(), file, password)
			if err != nil {
				return err
			}
			contents, err := library.Contents(row)
			if err != nil {
				return err
			}
			keys, chosen, err := choose(contents.Pieces, wanted, d, place.Scope(scope))
			if err != nil {
				return err
			}
			if bundle != "" {
				p, err := a.Pieces.InstallPlan(c.Context(), d, row.SHA256, keys, library.How{Scope: place.Scope(scope), Exists: planning.Exists(exists), Second: planning.Second(second), Lose: lose})
				if err != nil {
					return err
				}
				return writeBundle(c.Context(), d.Desk, p, a.Kept, bundle)
			}
			if place.Scope(scope) == place.Everyone && !d.AdminHere() {
				return errors.New("what is for everyone is an administrator's to put in place: --bundle FILE writes it down, and sudo ivelt administer FILE does it")
			}
			for _, p := range chosen {
				if p.Kind == parcel.Pointer && slices.Contains(p.Parts, "cur") {
					for _, n := range p.Notes { // what is lost by converting it
						fmt.Fprintf(c.OutOrStdout(), "%s: %s\n", p.Name, n.Text)
					}
				}
			}
			job, err := a.Pieces.Install(d, row.SHA256, keys, library.How{Scope: place.Scope(scope), Exists: planning.Exists(exists), Second: planning.Second(second), Lose: lose}, "")
			if err != nil {
				return err
			}
			if err := finish(c.Context(), a, job); err != nil {
				return err
			}
			for _, p := range chosen {
				target, err := place.Target(p, d.Desk, place.Scope(scope))
				if err != nil {
					return err
				}
				fmt.Fprintf(c.OutOrStdout(), "%s %s: %s\n", p.Kind, p.Name, d.HostPath(target))
			}
			return nil
		},
	}
	loseFlag(c, &lose)
	c.Flags().StringVar(&scope, "scope", string(place.Mine), "who it is for: mine or everyone")
	given.Completes(c, "scope", string(place.Mine), string(place.Everyone))
	c.Flags().StringArrayVar(&wanted, "piece", nil, "name or folder of a piece; may be repeated")
	c.Flags().StringVar(&exists, "exists", "", "if something else is in its place: leave, replace or both (default: refuse)")
	c.Flags().StringVar(&second, "second", "", "where one folder cannot serve every program, the second gets a link, or with copy a copy, or with none nothing")
	c.Flags().StringVar(&bundle, "bundle", "", "install nothing: write the plan, a script and the pieces into this tar, to hand over")
	c.Flags().StringVar(&password, "password", "", "password of an encrypted parcel")
	flags.Add(c)
	return c
}

// choose returns the pieces named, or all that have a place.
func choose(all []parcel.Piece, wanted []string, d *desks.Managed, scope place.Scope) (keys []string, chosen []parcel.Piece, err error) {
	if scope != place.Mine && scope != place.Everyone {
		return nil, nil, fmt.Errorf("--scope is mine or everyone, not %q", scope)
	}
	left := slices.Clone(wanted)
	for _, p := range all {
		named := slices.Contains(wanted, p.Name) || slices.Contains(wanted, p.Folder)
		left = slices.DeleteFunc(left, func(w string) bool { return w == p.Name || w == p.Folder })
		if len(wanted) > 0 && !named {
			continue
		}
		if _, err := place.Target(p, d.Desk, scope); err != nil {
			if named {
				return nil, nil, err
			}
			continue
		}
		keys, chosen = append(keys, library.PieceKey(p)), append(chosen, p)
	}
	switch {
	case len(left) > 0:
		return nil, nil, fmt.Errorf("there is no piece %q in it; ivelt inspect lists them", left[0])
	case len(keys) == 0:
		return nil, nil, errors.New("there is no piece in it that has a place on this desk")
	}
	return keys, chosen, nil
}
