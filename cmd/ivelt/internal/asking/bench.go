package asking

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path"
	"strings"

	"github.com/spf13/cobra"

	"ivelt/app/proof"
	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/layer"
	"ivelt/core/parcel"
	"ivelt/core/pointerbench"
)

func benchCommand(p *given.Program) *cobra.Command {
	c := &cobra.Command{Use: "bench", Short: "Look at a piece closely: what is wrong in it"}
	c.AddCommand(benchFontCommand(p), benchIconsCommand(p), benchLeftCommand(p), benchPointerCommand(p))
	return c
}

func benchPointerCommand(p *given.Program) *cobra.Command {
	var asJSON bool
	var mend string
	var sizes []int
	var junit junitFlag
	flags := p.Desk()
	c := &cobra.Command{
		Use:   "pointer NAME",
		Short: "Measure a pointer set: what is missing, where its hot spots are, how sharp it is",
		Long: "Measure a pointer set that is on a desk, by its folder, or one of a folder or a parcel: which\n" +
			"pointers programs find, whether hot spots are where the hand expects them, how it moves, how\n" +
			"sharp it is at the sizes in use, and whether it can be found on any ground. Exit status 1 if\n" +
			"there is a finding.",
		Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			d, err := flags.Open(c.Context())
			if err != nil {
				return err
			}
			o := pointerbench.Options{Asked: sizes}
			if len(sizes) == 0 {
				o.Asked = pointerbench.SizesIn(d)
			}
			var tree fs.FS = d.Tree()
			root, elsewhere := "", false
			opened, piece, done, err := benchPiece(c.Context(), args[0], parcel.Pointer)
			if err != nil {
				return err
			}
			defer done()
			if opened != nil {
				tree, root, elsewhere = opened, piece.Root, true
				o.Inherited = pointerbench.Chain(opened, root, []string{path.Dir(root)})
			} else if root, err = (layer.Base{Kind: parcel.Pointer, Folder: args[0]}).Find(d); err != nil {
				return err
			}
			if mend != "" && elsewhere {
				return errors.New("--mend is of a set that is on a desk: install it first")
			}
			if o.Inherited == nil {
				o.Inherited = pointerbench.Chain(tree, root, pointerbench.Bases(d))
			}
			r, err := pointerbench.Measure(c.Context(), tree, root, o)
			if err != nil {
				return err
			}
			var told []proof.Finding
			for _, f := range r.Findings {
				told = append(told, proof.Finding{Code: f.Code, Text: f.Text, Grave: f.Grave, File: f.File})
			}
			if err := junit.of("bench pointer", args[0], "pointers", told); err != nil {
				return err
			}
			if asJSON {
				err = given.PrintJSON(c.OutOrStdout(), r)
			} else {
				printPointers(c.OutOrStdout(), r)
			}
			if err == nil && mend != "" {
				recipe, some := r.Mend(args[0], args[0])
				if !some {
					return errors.New("there is nothing in it that a layer could mend")
				}
				recipe, base, _, err := layer.Extended(d, root, recipe)
				if err != nil {
					return err
				}
				if recipe, _, err = layer.Rebased(c.Context(), d.Tree(), base, recipe); err == nil {
					err = given.WriteNew(mend, recipe.Bytes())
				}
				return err
			}
			if err == nil && len(r.Findings) > 0 {
				err = given.ErrFindings
			}
			return err
		},
	}
	c.Flags().IntSliceVar(&sizes, "sizes", nil, "sizes in px that it is measured for; those that the desk uses, if none are given")
	c.Flags().StringVar(&mend, "mend", "", "write the recipe of a layer that clears what can be cleared, for ivelt layer build")
	given.Answers[pointerbench.Report](c, &asJSON, "bench-pointer")
	junit.add(c)
	flags.Add(c)
	return c
}

func printPointers(w io.Writer, r *pointerbench.Report) {
	for _, of := range r.Roles {
		what := of.File
		if of.State == pointerbench.Lent {
			what += ", as " + of.From
		}
		fmt.Fprintf(w, "  %-14s %-8s %s\n", of.Name, of.State, what)
	}
	fmt.Fprintf(w, "%d pictures under %d names; of X's own cursor font %d of %d names\n", len(r.Shapes), r.Names(), r.FontHas, r.FontAll)
	fmt.Fprintf(w, "sizes %s px", strings.Trim(fmt.Sprint(r.Sizes), "[]"))
	for _, s := range r.Scaled {
		fmt.Fprintf(w, "; %d px shows %d, edges %.1f px", s.Asked, s.Nearest, s.Edge)
	}
	if r.Contrast > 0 {
		fmt.Fprintf(w, "; inside %s, outline %s, %.1f:1 at worst", r.Inside.Hex(), r.Outline.Hex(), r.Worst())
	}
	fmt.Fprintln(w)
	for _, f := range r.Findings {
		sign := "-"
		if f.Grave {
			sign = "!"
		}
		fmt.Fprintf(w, "%s %s\n", sign, f.Text)
	}
}
