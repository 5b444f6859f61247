package sharing

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/archive"
	"ivelt/core/market"
	"ivelt/core/parcel"
	"ivelt/core/regular"
	"ivelt/showcase"
)

func marketCommand(p *given.Program) *cobra.Command {
	c := &cobra.Command{Use: "market", Short: "For those who publish a market"}
	c.AddCommand(marketBuildCommand(p), marketKeyCommand(), marketCheckCommand(), marketDrawCommand(), &cobra.Command{
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
				p, err := parcel.Open(c.Context(), filepath.Join(args[0], filepath.FromSlash(v.File)), archive.Options{Password: v.Password})
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
				if err := given.PrintJSON(c.OutOrStdout(), found); err != nil {
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
				return given.ErrFindings
			}
			return nil
		},
	}
	given.Answers[[]market.Mistake](c, &asJSON, "market-check")
	return c
}

func marketDrawCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "draw DIR",
		Short: "Draw and measure a market's pieces from its parcels",
		Long: "Draw and measure the pieces in a market's parcels. Each entry gets a picture computed from its\n" +
			"newest parcel, in pictures/, and its looks; its index and pages are written anew.",
		Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			top, err := drawIndex(c, args[0], market.IndexFile)
			if err != nil {
				return err
			}
			for _, page := range top.Pages {
				if !market.Inside(page) {
					return fmt.Errorf("%s leads out of the market", page)
				}
				if _, err := drawIndex(c, args[0], page); err != nil {
					return err
				}
			}
			return nil
		},
	}
}

// drawIndex draws the entries of one file of an index. What it does not know of
// an entry stays as it is.
func drawIndex(c *cobra.Command, dir, name string) (market.Index, error) {
	var x market.Index
	file := filepath.Join(dir, filepath.FromSlash(name))
	b, err := regular.Read(file, market.MaxIndex)
	if err != nil {
		return x, err
	}
	var raw map[string]any
	if err := errors.Join(json.Unmarshal(b, &x), json.Unmarshal(b, &raw)); err != nil {
		return x, fmt.Errorf("%s: %w", file, err)
	}
	list, _ := raw["entries"].([]any)
	for i := range x.Entries {
		e := &x.Entries[i]
		entry, ok := list[i].(map[string]any)
		if !ok || len(e.Versions) == 0 || !market.Inside(e.Versions[0].File) || !fs.ValidPath(e.ID) {
			continue
		}
		p, err := parcel.Open(c.Context(), filepath.Join(dir, filepath.FromSlash(e.Versions[0].File)), archive.Options{Password: e.Versions[0].Password})
		if err != nil {
			fmt.Fprintf(c.OutOrStdout(), "%s: %v\n", e.ID, err)
			continue
		}
		pictures := showcase.Of(c.Context(), p, e, nil)
		_ = p.Close()
		if pictures == nil {
			fmt.Fprintf(c.OutOrStdout(), "%s: its parcel has no piece of the kind %s\n", e.ID, e.Kind)
			continue
		}
		if err := showcase.Hang(e, pictures, func(at string, svg []byte) error {
			to := filepath.Join(dir, filepath.FromSlash(at))
			return errors.Join(os.MkdirAll(filepath.Dir(to), 0o755), os.WriteFile(to, svg, 0o644))
		}); err != nil {
			return x, err
		}
		entry["pictures"] = e.Pictures
		for key, v := range map[string]any{"looks": e.Looks, "pieces": e.Pieces, "dresses": e.Dresses} {
			if s, _ := json.Marshal(v); string(s) != "null" && string(s) != "0" {
				entry[key] = v
			}
		}
		fmt.Fprintf(c.OutOrStdout(), "%s: drawn\n", e.ID)
	}
	out, err := json.MarshalIndent(raw, "", "  ")
	if err != nil {
		return x, err
	}
	temp := file + ".new"
	return x, errors.Join(os.WriteFile(temp, out, 0o644), os.Rename(temp, file))
}
