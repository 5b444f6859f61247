package asking

import (
	"fmt"
	"io"
	"io/fs"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"ivelt/app/changes"
	"ivelt/app/proof"
	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/desk"
	"ivelt/core/example"
	"ivelt/core/learn"
	"ivelt/core/say"
)

func surfaceCommand(p *given.Program) *cobra.Command {
	c := &cobra.Command{
		Use:   "surface",
		Short: "Descriptors of surfaces: a shell, a login screen, a program of your own",
	}
	c.AddCommand(surfaceCheckCommand(), surfaceTestCommand(), surfaceShareCommand(p), surfaceAllowCommand(p), learnCommand(p))
	return c
}

func surfaceCheckCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "check FILE…",
		Short: "Say whether descriptors can be used, and what they tell",
		Long: `Say whether descriptors can be used, and what they tell: what Ivelt would read and
write by them, in words, and what of that is refused where a descriptor comes from
somebody else. One of your own belongs in ~/.config/ivelt/surfaces; docs/surfaces.md
shows how to write one.`,
		Args: cobra.MinimumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			out := c.OutOrStdout()
			for _, file := range args {
				b, err := given.ReadFile(file)
				if err != nil {
					return err
				}
				s, err := desk.ParseSurface(b)
				if err != nil {
					return fmt.Errorf("%s: %w", file, err)
				}
				fmt.Fprintf(out, "%s: %s can be used\n", file, s.Title)
				for _, f := range s.Facets {
					set := "read only"
					for _, src := range f.Sources {
						if src.Write {
							set = "set in " + src.Path
							break
						}
					}
					fmt.Fprintf(out, "  %-14s %s, %s\n", f.Name, sourcesOf(f), set)
				}
				for _, says := range s.Reach().Says(nil) {
					fmt.Fprintf(out, "  %s\n", says)
				}
				for _, err := range s.Overreach(&desk.Desk{HomePath: "/home/me"}) {
					fmt.Fprintf(out, "  not from others: %s\n", err)
				}
			}
			return nil
		},
	}
}

func sourcesOf(f desk.Facet) string {
	if len(f.Sources) == 1 {
		return "one source"
	}
	return fmt.Sprintf("%d sources", len(f.Sources))
}

func surfaceTestCommand() *cobra.Command {
	var asJSON, own bool
	var junit junitFlag
	c := &cobra.Command{
		Use:   "test DIR…",
		Short: "Hold descriptors against the examples beside them",
		Long: `Hold descriptors against the examples beside them: each folder examples/NAME has files
of a small desk in home and system, and readings.toml says what the program shows there.
What a plan would write is read again, too. DIR may hold many descriptors. Exit status 1
if one is not as its examples say.`,
		Args: cobra.MinimumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			results := []example.Result{}
			told := proof.Report{Command: "surface test", Path: args[0]}
			failed := false
			for _, dir := range args {
				found, err := example.Find(c.Context(), dir)
				if err != nil {
					return err
				}
				for _, at := range found {
					r, err := example.Run(c.Context(), at, !own)
					if err != nil {
						if c.Context().Err() != nil {
							return err
						}
						r.Failures = append(r.Failures, example.Failure{Text: err.Error()})
					}
					results = append(results, r)
					told.Cases = append(told.Cases, casesOf(r)...)
					failed = failed || len(r.Failures) > 0
				}
			}
			err := junit.write(told, false)
			if err == nil && asJSON {
				err = given.PrintJSON(c.OutOrStdout(), results)
			}
			if err != nil {
				return err
			}
			if !asJSON {
				for _, r := range results {
					printResult(c.OutOrStdout(), r)
				}
			}
			if failed {
				return given.ErrFindings
			}
			return nil
		},
	}
	c.Flags().BoolVar(&own, "own", false, "for descriptors of your own: do not hold them to the rules for other people's")
	given.Answers[[]example.Result](c, &asJSON, "surface-test")
	junit.add(c)
	return c
}

// casesOf are what came of a descriptor, as a report has it.
func casesOf(r example.Result) []proof.Case {
	name := r.Surface
	if name == "" {
		name = filepath.Base(r.Path)
	}
	out := []proof.Case{{Piece: name, Check: "examples", Says: counted(r), Findings: []proof.Finding{}}}
	for _, facet := range r.Untold {
		out[0].Findings = append(out[0].Findings, proof.Finding{Code: "untold", Text: "No example shows " + say.Lower(desk.FacetTitle(facet)).String() + ".", File: r.Path})
	}
	for _, f := range r.Failures {
		check := strings.TrimSpace(f.Example + " " + f.Facet)
		at := slices.IndexFunc(out, func(c proof.Case) bool { return c.Check == check })
		if at < 0 {
			at = len(out)
			out = append(out, proof.Case{Piece: name, Check: check})
		}
		out[at].Findings = append(out[at].Findings, proof.Finding{Code: "example", Text: f.Text, Grave: true, File: r.Path})
	}
	return out
}

func counted(r example.Result) string {
	return fmt.Sprintf("examples %d, readings %d, written and read again %d", r.Examples, r.Readings, r.Written)
}

func printResult(w io.Writer, r example.Result) {
	fmt.Fprintf(w, "%s: %s\n", r.Path, counted(r))
	for _, f := range r.Failures {
		fmt.Fprintf(w, "  %s\n", strings.TrimPrefix(strings.Join([]string{f.Example, f.Facet, f.Text}, ": "), ": : "))
	}
	if len(r.Untold) > 0 {
		fmt.Fprintf(w, "  no example shows %s\n", strings.Join(r.Untold, ", "))
	}
}

func surfaceShareCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	var name string
	c := &cobra.Command{
		Use:   "share ID DIR",
		Short: "Write a descriptor of your own into a folder, with an example, for others",
		Long: `Write a descriptor of your own into the new folder DIR, with an example of what the
program shows on this desk. Of your settings files only the values that are read go along,
and no path. What is refused where a descriptor comes from somebody else is said, and
nothing is written then. "ivelt surface test DIR" holds it against its examples.`,
		Args: cobra.ExactArgs(2),
		RunE: func(c *cobra.Command, args []string) error {
			d, err := flags.Open(c.Context())
			if err != nil {
				return err
			}
			s, ok := d.Surface(args[0])
			if !ok {
				return fmt.Errorf("there is no surface %q", args[0])
			}
			text, err := fs.ReadFile(d.Tree(), desk.Name(learn.FileOf(d, s.ID)))
			if err != nil {
				return fmt.Errorf("%s is none of your own: %w", s.Title, err)
			}
			left, err := example.Write(c.Context(), d, s, text, args[1], name)
			for _, f := range s.Facets {
				if why := left[f.Name]; why != "" {
					fmt.Fprintf(c.ErrOrStderr(), "%s is not in the example: %s\n", f.Name, why)
				}
			}
			if err != nil {
				return err
			}
			r, err := example.Run(c.Context(), filepath.Join(args[1], s.ID+".toml"), true)
			if err != nil {
				return err
			}
			printResult(c.OutOrStdout(), r)
			if len(r.Failures) > 0 {
				return given.ErrFindings
			}
			return nil
		},
	}
	c.Flags().StringVar(&name, "name", "first", "what the example is called")
	flags.Add(c)
	return c
}

func surfaceAllowCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	var no bool
	c := &cobra.Command{
		Use:   "allow ID",
		Short: "Let a descriptor that came from somebody else start programs, or no longer",
		Long: `Let a descriptor that came from somebody else start programs, and set what programs
start; with --no, no longer. What that is "ivelt inspect" says of its parcel, and "ivelt
surface check" of its file.`,
		Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			a, d, err := flags.OpenToWrite(c.Context())
			if err != nil {
				return err
			}
			defer a.Close()
			pl, err := a.Review.Allow(d, args[0], !no)
			if err != nil {
				return err
			}
			if len(pl.Ops) > 0 {
				job, err := a.Changes.ApplyStep(d, pl.ID, changes.How{})
				if err == nil {
					err = job.Wait()
				}
				if err != nil {
					return err
				}
			}
			s, _ := d.Surface(args[0])
			fmt.Fprintf(c.OutOrStdout(), "%s: may start programs: %v\n", s.Title, s.Came != nil && s.Came.May)
			return nil
		},
	}
	c.Flags().BoolVar(&no, "no", false, "take that back")
	flags.Add(c)
	return c
}
