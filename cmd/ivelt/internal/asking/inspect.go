package asking

import (
	"fmt"
	"io"
	"runtime/debug"
	"strings"

	"github.com/spf13/cobra"

	"ivelt/app/proof"
	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/archive"
	"ivelt/core/desk"
	"ivelt/core/parcel"
	"ivelt/core/place"
)

// report is one object of `inspect --json`.
type report struct {
	Path    string        `json:"path"`
	Format  string        `json:"format"`
	Entries int           `json:"entries"`
	Bytes   int64         `json:"bytes"`
	Pieces  []pieceReport `json:"pieces"`
	Notes   []parcel.Note `json:"notes"`
}

type pieceReport struct {
	parcel.Piece
	Placements []place.Placement `json:"placements"`
}

func inspectCommand(p *given.Program) *cobra.Command {
	var asJSON bool
	var password string
	var junit junitFlag
	flags := p.Desk()
	c := &cobra.Command{
		Use:   "inspect PATH…",
		Short: "Say which pieces a parcel holds, and where each would go",
		Args:  cobra.MinimumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			d, err := flags.Open(c.Context())
			if err != nil {
				return err
			}
			reports := []report{}
			for _, path := range args {
				r, err := inspect(c, path, password, d)
				if err != nil {
					return err
				}
				reports = append(reports, r)
			}
			told := proof.Report{Command: "inspect"}
			for _, r := range reports {
				told.Cases = append(told.Cases, proof.Case{Piece: r.Path, Check: "contents", Findings: proof.Noted(r.Notes)})
				for _, p := range r.Pieces {
					told.Cases = append(told.Cases, proof.Case{Piece: r.Path, Check: string(p.Kind) + " " + p.Folder, Findings: proof.Noted(p.Notes)})
				}
			}
			if err := junit.write(told, false); err != nil {
				return err
			}
			if asJSON {
				err = given.PrintJSON(c.OutOrStdout(), reports)
			} else {
				for _, r := range reports {
					printReport(c.OutOrStdout(), r)
				}
			}
			if err != nil {
				return err
			}
			for _, r := range reports {
				for _, n := range r.Notes {
					if n.Level == parcel.Error {
						return given.ErrFindings
					}
				}
			}
			return nil
		},
	}
	c.Flags().StringVar(&password, "password", "", "password of an encrypted parcel")
	given.Answers[[]report](c, &asJSON, "inspect")
	junit.add(c)
	flags.Add(c)
	return c
}

// briefly lets garbage lie in a command that soon ends, as long as there is
// little of it.
func briefly() {
	debug.SetGCPercent(400)
	debug.SetMemoryLimit(150 << 20)
}

func inspect(c *cobra.Command, path, password string, d *desk.Desk) (report, error) {
	briefly()
	p, err := parcel.Open(c.Context(), path, archive.Options{Password: password})
	if err != nil {
		return report{}, err
	}
	defer p.Close()
	found := p.Recognise(c.Context(), d.Parts()...)
	r := report{Path: path, Format: p.Format, Entries: len(p.Entries()), Bytes: p.Bytes, Pieces: []pieceReport{}, Notes: found.Notes}
	for _, pc := range found.Pieces {
		r.Pieces = append(r.Pieces, pieceReport{pc, place.Placements(pc, d)})
	}
	return r, nil
}

// some is a list of a text, empty for none.
func some(text string) []string {
	if text == "" {
		return nil
	}
	return []string{text}
}

func printReport(w io.Writer, r report) {
	fmt.Fprintf(w, "%s  (%s, %d entries, %d bytes)\n", r.Path, r.Format, r.Entries, r.Bytes)
	for _, p := range r.Pieces {
		fmt.Fprintf(w, "  %s %s  (folder %s, in %s, %d files)\n", p.Kind, p.Name, p.Folder, p.Root, p.Files)
		for _, line := range []struct {
			title string
			what  []string
		}{{"variant", some(p.Variant)}, {"version", some(p.Version)}, {"licence", some(p.Licence)}, {"dresses", p.Parts}, {"inherits", p.Inherits}, {"needs", p.Needs}} {
			if len(line.what) > 0 {
				fmt.Fprintf(w, "    %-8s %s\n", line.title, strings.Join(line.what, ", "))
			}
		}
		if p.Reach != nil {
			for _, says := range p.Reach.Says(nil) {
				fmt.Fprintf(w, "    %s\n", says)
			}
		}
		for _, pl := range p.Placements {
			fmt.Fprintf(w, "    %-8s %s\n             %s\n", pl.Scope, pl.Path, pl.Reason)
		}
		for _, n := range p.Notes {
			fmt.Fprintf(w, "    %s: %s\n", n.Level, n.Text)
		}
	}
	for _, n := range r.Notes {
		fmt.Fprintf(w, "  %s: %s\n", n.Level, n.Text)
	}
}
