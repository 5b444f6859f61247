package sharing

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"

	"github.com/spf13/cobra"

	"ivelt/app"
	"ivelt/app/desks"
	"ivelt/app/library"
	appmarkets "ivelt/app/markets"
	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/worn"
)

func outfitCommand(p *given.Program) *cobra.Command {
	c := &cobra.Command{
		Use:   "outfit",
		Short: "Outfit files: save the look of a desk, check one, compare two",
	}
	c.AddCommand(outfitWornCommand(p), outfitPackCommand(p), outfitGetCommand(p), outfitCheckCommand(p), outfitDiffCommand(), &cobra.Command{
		Use: "schema", Short: "Print the JSON Schema of outfit files", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			_, err := c.OutOrStdout().Write(outfit.Schema())
			return err
		},
	})
	return c
}

func outfitWornCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	c := &cobra.Command{
		Use:   "worn",
		Short: "Save the look of a desk as an outfit file, also one that Ivelt never changed",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			d, err := flags.Open(c.Context())
			if err != nil {
				return err
			}
			pieces, err := flags.Pieces(c.Context(), d)
			if err != nil {
				return err
			}
			_, err = c.OutOrStdout().Write(worn.Of(d, library.Known(pieces)).Bytes())
			return err
		},
	}
	flags.Add(c)
	return c
}

func outfitPackCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	var wanted given.OutfitFlag
	c := &cobra.Command{
		Use:   "pack FILE.zip",
		Short: "Save an outfit, or the look of a named desk, with its pieces; says what is left out",
		Args:  cobra.ExactArgs(1),
	}
	wanted.Add(c)
	given.Changing(c, &flags, func(a *app.App, d *desks.Managed, out io.Writer) error {
		o, err := a.Drafts.AsWorn(d)
		if wanted.File != "" {
			o, err = wanted.Open()
		}
		if err != nil {
			return err
		}
		f, err := os.OpenFile(c.Flags().Arg(0), os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o644)
		if err != nil {
			return err
		}
		left, err := a.Bundles.Export(c.Context(), d, o, f)
		if err = errors.Join(err, f.Close()); err != nil {
			return errors.Join(err, os.Remove(f.Name()))
		}
		for _, l := range left {
			fmt.Fprintf(out, "left out: %s %s: %s\n", desk.FacetTitle(l.Facet), l.Piece, l.Why)
		}
		return nil
	})
	return c
}

func outfitGetCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	var markets []string
	var copies, check bool
	var bundle string
	c := &cobra.Command{
		Use:   "get FILE",
		Short: "Fetch from markets what an outfit needs and a desk lacks, and install it",
		Long: "Fetch from markets what an outfit needs and a desk lacks, and install it. What packages of this\n" +
			"system have is listed: with --bundle it is written down for an administrator, with --copies\n" +
			"you get copies of your own. Exit status 1 if something of it could not be had, or is left to\n" +
			"others.",
		Args: cobra.ExactArgs(1),
	}
	given.Changing(c, &flags, func(a *app.App, d *desks.Managed, out io.Writer) error {
		o, err := given.ReadOutfit(c.Flags().Arg(0))
		if err != nil {
			return err
		}
		for _, where := range markets {
			if err := a.Markets.Add(c.Context(), where); err != nil && !errors.Is(err, appmarkets.ErrKnown) {
				return err
			}
		}
		packages, err := packagesOf(a, d, o)
		if err != nil {
			return err
		}
		get, verb := a.Bundles.Get, "got"
		if check {
			get, verb = a.Bundles.WouldGet, "would get"
		}
		got, left, err := get(c.Context(), d, o, copies)
		if err != nil {
			return err
		}
		for _, m := range got {
			fmt.Fprintf(out, "%s: %s %s\n", verb, desk.FacetTitle(m.Facet), m.Piece)
		}
		for _, l := range left {
			fmt.Fprintf(out, "not to be had: %s %s: %s\n", desk.FacetTitle(l.Facet), l.Piece, l.Why)
		}
		if len(packages) > 0 && !copies {
			if err := handOver(c.Context(), a, d, packages, bundle, out); err != nil {
				return err
			}
		}
		if len(left) > 0 {
			return given.ErrFindings
		}
		return nil
	})
	c.Flags().BoolVar(&check, "check", false, "say what would be fetched and put in place, and do nothing")
	c.Flags().BoolVar(&copies, "copies", false, "of what packages of this system have, take copies of one's own")
	c.Flags().StringVar(&bundle, "bundle", "", "write the installing of those packages into this tar, to hand over to an administrator")
	c.Flags().StringArrayVar(&markets, "market", nil, "address or full path of a market that is to be kept among the known; may be repeated")
	return c
}

// packagesOf are the packages of the system that have what an outfit asks for and the desk has
// not.
func packagesOf(a *app.App, d *desks.Managed, o outfit.Outfit) ([]desk.PackageAt, error) {
	all, err := a.Bundles.MissingOf(d, o)
	if err != nil {
		return nil, err
	}
	var out []desk.PackageAt
	for _, m := range all {
		if p := (desk.PackageAt{Name: m.Package}); m.Package != "" && !slices.Contains(out, p) {
			out = append(out, p)
		}
	}
	return out, nil
}

// handOver writes down for an administrator that packages are to be installed, or says how it
// is done.
func handOver(ctx context.Context, a *app.App, d *desks.Managed, packages []desk.PackageAt, bundle string, out io.Writer) error {
	if bundle == "" {
		fmt.Fprintf(out, "for an administrator, once it is written down with --bundle FILE: %s\n", d.Manager.Command(packages, false))
		return nil
	}
	p, err := a.Review.Packages(d, packages)
	if err != nil {
		return err
	}
	f, err := os.OpenFile(bundle, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o644)
	if err != nil {
		return err
	}
	if err := errors.Join(a.Changes.HandOver(ctx, d, p.ID, "tar", f), f.Close()); err != nil {
		return errors.Join(err, os.Remove(bundle))
	}
	fmt.Fprintf(out, "for an administrator: sudo ivelt administer %s\n", bundle)
	return nil
}

func outfitCheckCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	c := &cobra.Command{
		Use:   "check FILE",
		Short: "Say whether a file is an outfit, what in it is not known, and what a desk could not follow",
		Args:  cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			o, err := given.ReadOutfit(args[0])
			if err != nil {
				return err
			}
			d, err := flags.Open(c.Context())
			if err != nil {
				return err
			}
			out := c.OutOrStdout()
			fmt.Fprintf(out, "%s: %q, %d choices\n", args[0], o.Name, len(o.Choices))
			unknown, short := o.Unknown(), match.Shortfalls(d, o)
			for _, key := range unknown {
				fmt.Fprintf(out, "  not known, and kept: %s\n", key)
			}
			for _, s := range short {
				fmt.Fprintf(out, "  %s\n", s.Why)
			}
			if len(unknown)+len(short) > 0 {
				return given.ErrFindings
			}
			return nil
		},
	}
	flags.Add(c)
	return c
}

func outfitDiffCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "diff A B",
		Short: "Tell in words how outfit B differs from A; exit status 1 if it does",
		Args:  cobra.ExactArgs(2),
		RunE: func(c *cobra.Command, args []string) error {
			a, err := given.ReadOutfit(args[0])
			if err != nil {
				return err
			}
			b, err := given.ReadOutfit(args[1])
			if err != nil {
				return err
			}
			says := a.Differences(b)
			for _, line := range says {
				fmt.Fprintln(c.OutOrStdout(), line)
			}
			if len(says) > 0 {
				return given.ErrFindings
			}
			return nil
		},
	}
}
