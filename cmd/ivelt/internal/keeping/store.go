package keeping

import (
	"errors"
	"fmt"

	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/given"
	"ivelt/store"
)

func storeCommand(p *given.Program) *cobra.Command {
	c := &cobra.Command{
		Use:   "store",
		Short: "Look after what Ivelt keeps: its database, the kept contents, the history",
	}
	c.AddCommand(storeCheckCommand(p), storeRestoreCommand(p))
	return c
}

func storeCheckCommand(p *given.Program) *cobra.Command {
	flags := given.DataFlags{DeskFlags: p.Desk()}
	var asJSON bool
	c := &cobra.Command{
		Use:   "check",
		Short: "Read all of a data folder and say what of it is damaged; nothing is changed",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			dir, err := flags.Folder(c.Context())
			if err != nil {
				return err
			}
			r, err := store.Check(dir)
			if err != nil {
				return err
			}
			out := c.OutOrStdout()
			if asJSON {
				if err := given.PrintJSON(out, r); err != nil {
					return err
				}
			} else {
				fmt.Fprintf(out, "%s\n", r.Dir)
				for _, w := range r.Database {
					fmt.Fprintf(out, "! the database: %s\n", w)
				}
				if len(r.Database) == 0 {
					fmt.Fprintf(out, "the database is whole, version %d\n", r.Version)
				}
				for _, w := range r.Damaged {
					fmt.Fprintf(out, "! damaged: %s\n", w)
				}
				fmt.Fprintf(out, "%d kept contents are whole\n", r.Whole)
				for _, w := range r.Broken {
					fmt.Fprintf(out, "! cannot be read: %s\n", w)
				}
				fmt.Fprintf(out, "%d entries of the history have a file\n", r.Entries)
				for _, j := range r.Journals {
					fmt.Fprintf(out, "! interrupted, or being made just now: %s\n", j)
				}
				for _, k := range r.Copies {
					fmt.Fprintf(out, "a copy of %s: %s\n", k.Made.Format("2006-01-02 15:04"), k.File)
				}
				if len(r.Database) > 0 {
					fmt.Fprintf(out, "“ivelt store restore --data %s” brings the newest copy back.\n", r.Dir)
				}
			}
			if !r.Fine() {
				return given.ErrFindings
			}
			return nil
		},
	}
	flags.Add(c)
	given.Answers[store.Checked](c, &asJSON, "store-check")
	return c
}

func storeRestoreCommand(p *given.Program) *cobra.Command {
	flags := given.DataFlags{DeskFlags: p.Desk()}
	var force bool
	c := &cobra.Command{
		Use:   "restore",
		Short: "Bring a damaged database back from its newest copy, and the history from its own files",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			dir, err := flags.Folder(c.Context())
			if err != nil {
				return err
			}
			r, err := store.Restore(c.Context(), dir, force)
			out := c.OutOrStdout()
			if errors.Is(err, store.ErrWhole) {
				fmt.Fprintf(out, "%v.\n", err)
				return nil
			}
			if r.Aside != "" {
				fmt.Fprintf(out, "The old database is in %s now.\n", r.Aside)
			}
			if err != nil {
				return err
			}
			if r.From != nil {
				fmt.Fprintf(out, "In its place is the copy of %s.\n", r.From.Made.Format("2006-01-02 15:04"))
			} else {
				fmt.Fprintln(out, "There is no copy that is whole: a new one was begun. Markets are read again; drafts, saved looks, and what is known of parcels are gone: bring these in again.")
			}
			fmt.Fprintf(out, "%d entries of the history came from their own files.\n", r.Added)
			for _, b := range r.Broken {
				fmt.Fprintf(out, "! cannot be read: %s\n", b)
			}
			if len(r.Broken) > 0 {
				return given.ErrFindings
			}
			return nil
		},
	}
	flags.Add(c)
	c.Flags().BoolVar(&force, "force", false, "also if the database is whole")
	return c
}
