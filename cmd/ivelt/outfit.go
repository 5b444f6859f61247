package main

import (
	"fmt"
	"os"

	"github.com/spf13/cobra"

	"ivelt/app"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/worn"
)

func outfitCommand() *cobra.Command {
	c := &cobra.Command{
		Use:   "outfit",
		Short: "Outfit files: write what a desk wears, check one, tell how two differ",
	}
	c.AddCommand(outfitWornCommand(), outfitCheckCommand(), outfitDiffCommand(), &cobra.Command{
		Use: "schema", Short: "Print the JSON Schema of outfit files", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			_, err := c.OutOrStdout().Write(outfit.Schema())
			return err
		},
	})
	return c
}

func outfitWornCommand() *cobra.Command {
	var flags deskFlags
	c := &cobra.Command{
		Use:   "worn",
		Short: "Write what a desk wears now as an outfit file, also one that Ivelt never touched",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			d, err := flags.open()
			if err != nil {
				return err
			}
			pieces, err := flags.pieces(d)
			if err != nil {
				return err
			}
			_, err = c.OutOrStdout().Write(worn.Of(d, app.Known(pieces)).Bytes())
			return err
		},
	}
	flags.add(c)
	return c
}

func outfitCheckCommand() *cobra.Command {
	var flags deskFlags
	c := &cobra.Command{
		Use:   "check FILE",
		Short: "Say whether a file is an outfit, what in it is not known, and what a desk could not follow",
		Args:  cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			o, err := readOutfit(args[0])
			if err != nil {
				return err
			}
			d, err := flags.open()
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
				return errFindings
			}
			return nil
		},
	}
	flags.add(c)
	return c
}

func outfitDiffCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "diff A B",
		Short: "Tell in words how outfit B differs from A; exit status 1 if it does",
		Args:  cobra.ExactArgs(2),
		RunE: func(c *cobra.Command, args []string) error {
			a, err := readOutfit(args[0])
			if err != nil {
				return err
			}
			b, err := readOutfit(args[1])
			if err != nil {
				return err
			}
			says := a.Differences(b)
			for _, line := range says {
				fmt.Fprintln(c.OutOrStdout(), line)
			}
			if len(says) > 0 {
				return errFindings
			}
			return nil
		},
	}
}

func readOutfit(file string) (outfit.Outfit, error) {
	b, err := os.ReadFile(file)
	if err != nil {
		return outfit.Outfit{}, err
	}
	o, err := outfit.Parse(b)
	if err != nil {
		return o, fmt.Errorf("%s: %w", file, err)
	}
	return o, nil
}
