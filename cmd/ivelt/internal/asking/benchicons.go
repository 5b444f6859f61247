package asking

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"ivelt/app/proof"
	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/archive"
	"ivelt/core/desk"
	"ivelt/core/iconbench"
	"ivelt/core/parcel"
)

// benchPiece opens a folder or a parcel if a name is that of one, and returns the only piece of a
// kind in it; done is to be called afterwards. It is nil if the name is none: then it is that of a
// piece on the desk.
func benchPiece(ctx context.Context, name string, kind parcel.Kind) (p *parcel.Parcel, of parcel.Piece, done func(), err error) {
	if _, err := os.Stat(name); err != nil {
		return nil, of, func() {}, nil
	}
	if p, err = parcel.Open(ctx, name, archive.Options{}); err != nil {
		return nil, of, func() {}, err
	}
	var found []parcel.Piece
	for _, pc := range p.Recognise(ctx).Pieces {
		if pc.Kind == kind {
			found = append(found, pc)
		}
	}
	if len(found) != 1 {
		p.Close()
		return nil, of, func() {}, fmt.Errorf("there are %d pieces of the kind %s in %s; name a folder with one", len(found), kind.Title(), name)
	}
	return p, found[0], func() { p.Close() }, nil
}

func benchIconsCommand(p *given.Program) *cobra.Command {
	var asJSON, all, odd bool
	var group, nearest string
	var junit junitFlag
	flags := p.Desk()
	c := &cobra.Command{
		Use:   "icons NAME",
		Short: "Look at an icon pack: what of the desk it has icons for, and what would serve for the rest",
		Long: "Look at an icon pack that is on a desk, by its folder, or at one of a folder or a parcel as if\n" +
			"it were in place there: which programs, places, devices, signs and kinds of file of the desk it\n" +
			"has icons for, at the sizes that are in use, and what is shown for the rest. Exit status 1 if\n" +
			"there is a finding.",
		Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			d, err := flags.Open(c.Context())
			if err != nil {
				return err
			}
			b, done, err := iconsUnder(c.Context(), d, args[0])
			if err != nil {
				return err
			}
			defer done()
			r := b.Look()
			if nearest != "" {
				it, ok := r.Of(nearest)
				if !ok {
					return fmt.Errorf("nothing on the desk is %q; --all lists what is", nearest)
				}
				found := b.Nearest(c.Context(), it, iconbench.Proposals)
				if asJSON {
					return given.PrintJSON(c.OutOrStdout(), found)
				}
				for _, of := range found {
					fmt.Fprintf(c.OutOrStdout(), "%-40s %5.1f  %s\n", of.Name, of.Score, strings.Join(of.Why, "; "))
				}
				return nil
			}
			if group != "" && !hasGroup(r, group) {
				return fmt.Errorf("there is no group %q; those with icons are %s", group, strings.Join(groupNames(r), ", "))
			}
			if odd {
				if err := b.FindOdd(c.Context(), r, nil); err != nil {
					return err
				}
			}
			var told []proof.Finding
			for _, f := range r.Findings {
				told = append(told, proof.Finding{Code: f.Code, Text: f.Text, Grave: f.Grave})
			}
			if err := junit.of("bench icons", args[0], "icons", told); err != nil {
				return err
			}
			if asJSON {
				err = given.PrintJSON(c.OutOrStdout(), r)
			} else {
				printIcons(c.OutOrStdout(), r, iconbench.Group(group), all)
			}
			if err == nil && len(r.Findings) > 0 {
				err = given.ErrFindings
			}
			return err
		},
	}
	c.Flags().BoolVar(&odd, "odd", false, "compare all pictures, and tell which do not look like the others")
	c.Flags().BoolVar(&all, "all", false, "list everything that is asked for")
	c.Flags().StringVar(&group, "group", "", "list a group alone, such as programs or places")
	c.Flags().StringVar(&nearest, "nearest", "", "propose icons of the pack for one thing, such as programs/shore-web")
	given.Answers[iconbench.Report](c, &asJSON, "bench-icons")
	given.Answers[[]iconbench.Proposal](c, &asJSON, "bench-icons-nearest")
	junit.add(c)
	flags.Add(c)
	return c
}

// iconsUnder is the pack of a name, on the desk or in what is named.
func iconsUnder(ctx context.Context, d *desk.Desk, name string) (*iconbench.Bench, func(), error) {
	p, piece, done, err := benchPiece(ctx, name, parcel.Icons)
	if err != nil {
		return nil, done, err
	}
	if p != nil {
		b, err := iconbench.OnTrial(d, p, "", piece.Root)
		if err != nil {
			done()
		}
		return b, done, err
	}
	if strings.Contains(name, "/") {
		return nil, done, errors.New("there is no " + name)
	}
	b, err := iconbench.On(d, name)
	return b, done, err
}

func hasGroup(r *iconbench.Report, group string) bool {
	for _, name := range groupNames(r) {
		if name == group {
			return true
		}
	}
	return false
}

func groupNames(r *iconbench.Report) (out []string) {
	for _, g := range r.Groups {
		out = append(out, string(g.Group))
	}
	return out
}

func printIcons(w io.Writer, r *iconbench.Report, group iconbench.Group, all bool) {
	fmt.Fprintf(w, "%s, looked for in %s\n", r.Pack, strings.Join(r.Chain, ", "))
	for _, g := range r.Groups {
		fmt.Fprintf(w, "  %-16s %4d of %4d its own", g.Title, g.Has(), g.All)
		for _, s := range iconbench.States[1:] {
			if n := g.States[s.State]; n > 0 {
				fmt.Fprintf(w, "; %d %s", n, s.Title)
			}
		}
		fmt.Fprintln(w)
	}
	for _, it := range r.Items {
		if !all && it.Group != group {
			continue
		}
		a := it.Main()
		where := a.Path
		if a.Theme != "" && a.Theme != r.Pack {
			where += ", of " + a.Theme
		}
		fmt.Fprintf(w, "%-40s %-22s %s\n", it.KeyOf(), it.State.Title(), where)
	}
	for _, o := range r.Odd {
		fmt.Fprintf(w, "%5.1f %s, %s: %s\n", o.Score, o.Title, o.Path, strings.Join(o.Why, "; "))
	}
	for _, f := range r.Findings {
		sign := "-"
		if f.Grave {
			sign = "!"
		}
		fmt.Fprintf(w, "%s %s\n", sign, f.Text)
	}
}

func benchLeftCommand(p *given.Program) *cobra.Command {
	var asJSON bool
	flags := p.Desk()
	c := &cobra.Command{
		Use:   "left",
		Short: "Find what is left over of earlier looks, and keeps an icon pack from being seen everywhere",
		Long: "Find what is left over of earlier looks in a home: copies of programs' entries with another\n" +
			"icon than the system's, folders with icons of their own, caches of packs that were made before\n" +
			"their last change, and links of packs that lead to nothing. Exit status 1 if there is some.",
		Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			d, err := flags.Open(c.Context())
			if err != nil {
				return err
			}
			left, err := iconbench.LeftOver(c.Context(), d)
			if err != nil {
				return err
			}
			if asJSON {
				err = given.PrintJSON(c.OutOrStdout(), append([]iconbench.Left{}, left...))
			}
			for _, l := range left {
				if !asJSON {
					fmt.Fprintln(c.OutOrStdout(), "-", l.Text)
				}
			}
			if err == nil && len(left) > 0 {
				err = given.ErrFindings
			}
			return err
		},
	}
	given.Answers[[]iconbench.Left](c, &asJSON, "bench-left")
	flags.Add(c)
	return c
}
