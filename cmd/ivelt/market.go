package main

import (
	"fmt"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"ivelt/core/market"
	"ivelt/core/parcel"
)

func marketCommand() *cobra.Command {
	c := &cobra.Command{Use: "market", Short: "For those who publish a market"}
	c.AddCommand(marketCheckCommand(), &cobra.Command{
		Use: "schema", Short: "Print the format of a market's index as a JSON Schema", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			_, err := c.OutOrStdout().Write(market.Schema)
			return err
		},
	})
	return c
}

func marketCheckCommand() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use:   "check DIR",
		Short: "Name each mistake in a market's folder",
		Long:  "Name each mistake in a market's folder: in its index, and in the pictures and parcels it names.",
		Args:  cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			fi, err := os.Stat(args[0])
			if err != nil {
				return err
			}
			if !fi.IsDir() {
				return fmt.Errorf("%s is not a folder", args[0])
			}
			found, err := market.Check(c.Context(), os.DirFS(args[0]), func(v market.Version) error {
				p, err := parcel.Open(c.Context(), filepath.Join(args[0], filepath.FromSlash(v.File)), parcel.Options{Password: v.Password})
				if err != nil {
					return err
				}
				return p.Close()
			})
			if err != nil {
				return err
			}
			if asJSON {
				if found == nil {
					found = []market.Mistake{}
				}
				if err := printJSON(c.OutOrStdout(), found); err != nil {
					return err
				}
			} else {
				for _, m := range found {
					where := m.File
					if m.At != "" {
						where += " " + m.At
					}
					if m.Entry != "" {
						where += " (" + m.Entry + ")"
					}
					fmt.Fprintf(c.OutOrStdout(), "%s: %s\n", where, m.Text)
				}
				if len(found) == 0 {
					fmt.Fprintln(c.OutOrStdout(), "nothing is wrong with it")
				}
			}
			if len(found) > 0 {
				return errFindings
			}
			return nil
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "machine-readable")
	return c
}
