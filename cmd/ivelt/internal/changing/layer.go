package changing

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"ivelt/app/library"
	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/desk"
	"ivelt/core/layer"
	"ivelt/core/licence"
	"ivelt/core/parcel"
	"ivelt/core/regular"
	"ivelt/core/tomlfile"
)

func layerCommand(p *given.Program) *cobra.Command {
	c := &cobra.Command{
		Use:   "layer",
		Short: "Change a theme or an icon pack and keep its updates: a recipe, built into a piece of your own",
	}
	c.AddCommand(layerNewCommand(p), layerBuildCommand(p), layerCheckCommand(p), layerRebaseCommand(p), &cobra.Command{
		Use: "schema", Short: "Print the JSON Schema of recipes", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			_, err := c.OutOrStdout().Write(layer.Schema())
			return err
		},
	})
	return c
}

// folderHues is how far from the main colour a hue may be to be dyed with some icons alone,
// degrees: what is set on folders in another colour stays.
const folderHues = 40

func layerNewCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	var r layer.Recipe
	var colours, rules, dyes, moves, elements []string
	var pointers, style bool
	c := &cobra.Command{
		Use:   "new PIECE RECIPE.toml",
		Short: "Begin a recipe over a theme, an icon pack, a pointer set or a picture style of a desk",
		Long: "Begin a recipe over a theme that is on a desk, named by its folder. --colour and --rule put\n" +
			"changes into it; --dye begins one over an icon pack, --element one over a picture style. The\n" +
			"file is made to be edited by hand too.",
		Example: "  ivelt layer new Saltpan large.toml --desk avocet --name 'White crust, large' \\\n" +
			"    --colour accent_color=#a0466b --rule 'quayside: panel { font-size: 11pt; }'",
		Args: cobra.ExactArgs(2),
		RunE: func(c *cobra.Command, args []string) error {
			d, err := flags.Open(c.Context())
			if err != nil {
				return err
			}
			r.Base.Kind, r.Base.Folder = parcel.Theme, args[0]
			switch {
			case style || len(elements) > 0:
				r.Base.Kind = parcel.Style
			case pointers:
				r.Base.Kind = parcel.Pointer
			case len(dyes) > 0:
				r.Base.Kind = parcel.Icons
			}
			for _, text := range dyes {
				names, to, _ := strings.Cut(text, "=")
				c := layer.Dye{To: to}
				if strings.Contains(to, ",") {
					c.To, c.Palette = "", strings.Split(to, ",")
				}
				if names != "" && names != "*" {
					c.Icons = strings.Split(names, ",")
				}
				if c.Icons != nil && c.Palette == nil && r.Base.Kind == parcel.Icons {
					c.Within = folderHues
				}
				r.Dyes = append(r.Dyes, c)
			}
			if r.Name == "" {
				r.Name = args[0] + ", mine"
			}
			if r.Folder == "" {
				r.Folder = args[0] + "-Mine"
			}
			for _, text := range colours {
				name, value, _ := strings.Cut(text, "=")
				r.Colours = append(r.Colours, layer.Colour{Name: name, Value: value})
			}
			for _, text := range moves {
				of, to, _ := strings.Cut(text, "=")
				r.Moves = append(r.Moves, layer.Move{Of: of, To: to})
			}
			for _, text := range elements {
				of, err := layer.ParseElement(text)
				if err != nil {
					return err
				}
				r.Elements = append(r.Elements, of...)
			}
			for _, text := range rules {
				rule, err := layer.ParseRule(text)
				if err != nil {
					return err
				}
				r.Rules = append(r.Rules, rule)
			}
			if err := r.Valid(); err != nil {
				return err
			}
			root, err := r.Base.Find(d)
			if err != nil {
				return err
			}
			pieces, err := flags.Pieces(c.Context(), d)
			if err != nil {
				return err
			}
			if r.Base, err = library.DescribeBase(c.Context(), d, r.Base.Kind, root, pieces); err != nil {
				return err
			}
			made, report, err := layer.Rebased(c.Context(), d.Tree(), root, r)
			if err != nil {
				return err
			}
			if err := given.WriteNew(args[1], made.Bytes()); err != nil {
				return err
			}
			return say(c.OutOrStdout(), made, report)
		},
	}
	c.Flags().StringVar(&r.Name, "name", "", "what people see (default: the theme's folder, mine)")
	c.Flags().StringVar(&r.Folder, "folder", "", "what programs ask for (default: the theme's folder with -Mine)")
	c.Flags().StringVar(&r.About, "about", "", "a few words on it")
	c.Flags().StringArrayVar(&colours, "colour", nil, "NAME=VALUE of a colour that the theme names; may be repeated")
	c.Flags().BoolVar(&pointers, "pointers", false, "over a pointer set: --dye gives the inside of its pointers another colour")
	c.Flags().BoolVar(&style, "style", false, "over a picture style: --dye gives all of it another colour")
	c.Flags().StringArrayVar(&elements, "element", nil, "'NAME: from OTHER; like OTHER; edges 4 6; 2 fill #a0466b' of a picture style: what the drawing calls it, what it is a copy of, px that do not stretch, an attribute of a shape; may be repeated")
	c.Flags().StringArrayVar(&dyes, "dye", nil, "ICONS=COLOUR of an icon pack: names or patterns with commas, * for all; several colours with commas are a palette to map to; may be repeated")
	c.Flags().StringArrayVar(&moves, "move", nil, "text, space, rounding or lines=120%, family=FONT, shade=light or dark, accent=COLOUR: wherever the theme says it; may be repeated")
	c.Flags().StringArrayVar(&rules, "rule", nil, "'PART: SELECTOR { PROPERTY: VALUE; }', several parts with commas; may be repeated")
	flags.Add(c)
	return c
}

// say tells how a recipe fits, what cannot be copied, and what the licence allows. What fits
// no longer is an exit status of 1.
func say(out io.Writer, r layer.Recipe, report layer.Report) error {
	for _, f := range report.Fits {
		mark := " "
		if f.State == layer.Moved || f.State == layer.Gone {
			mark = "!"
		}
		fmt.Fprintf(out, "%s %s\n", mark, f.Says)
	}
	for _, name := range report.Left {
		fmt.Fprintf(out, "! %s: left out, no file is behind it\n", name)
	}
	fmt.Fprintln(out, " ", r.Terms())
	if len(report.Loose()) > 0 {
		return given.ErrFindings
	}
	return nil
}

// readRecipe reads a recipe's file.
func readRecipe(name string) (layer.Recipe, error) {
	b, err := regular.Read(name, tomlfile.MaxBytes)
	if err != nil {
		return layer.Recipe{}, err
	}
	r, err := layer.Parse(b)
	if err != nil {
		return layer.Recipe{}, fmt.Errorf("%s: %w", name, err)
	}
	return r, nil
}

// recipeOn is the recipe of a file, with the desk that was named and where the theme below
// lies in its tree.
func recipeOn(ctx context.Context, flags *given.DeskFlags, file string) (r layer.Recipe, d *desk.Desk, root string, err error) {
	if r, err = readRecipe(file); err != nil {
		return r, nil, "", err
	}
	if d, err = flags.Open(ctx); err != nil {
		return r, nil, "", err
	}
	root, err = r.Base.Find(d)
	return r, d, root, err
}

func layerBuildCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	var out string
	var lose, share bool
	c := &cobra.Command{
		Use:   "build RECIPE.toml",
		Short: "Build a recipe into a theme, and install it on a desk or write it as a parcel",
		Long: "Build a recipe over the installed theme. Without --out the result is installed in\n" +
			"the place of the one built before; a checkpoint is made first. Exit status 1 if the theme has\n" +
			"moved away from what the recipe was made for: it is built all the same.",
		Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			ctx := c.Context()
			r, err := readRecipe(args[0])
			if err != nil {
				return err
			}
			if terms := licence.TermsOf(r.Base.Licence); share && !terms.PassOn {
				return fmt.Errorf("%w: %s", layer.ErrLicence, r.Terms())
			}
			if out != "" {
				d, err := flags.Open(ctx)
				if err != nil {
					return err
				}
				report, err := writeParcel(ctx, d, r, out)
				if err != nil {
					return err
				}
				return say(c.OutOrStdout(), r, report)
			}
			a, d, err := flags.OpenToWrite(ctx)
			if err != nil {
				return err
			}
			defer a.Close()
			report, job, err := a.Pieces.Layer(ctx, d, r, lose, "")
			if err != nil {
				return err
			}
			if err := finish(ctx, a, job); err != nil {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "%s %s: %s\n", r.Base.Kind, r.Name, r.Folder)
			return say(c.OutOrStdout(), r, report)
		},
	}
	loseFlag(c, &lose)
	c.Flags().StringVar(&out, "out", "", "install nothing: write the theme into this .tar.gz")
	c.Flags().BoolVar(&share, "share", false, "refuse if the licence of the theme forbids to pass a changed copy on")
	flags.Add(c)
	return c
}

// writeParcel builds a recipe into an archive.
func writeParcel(ctx context.Context, d *desk.Desk, r layer.Recipe, out string) (layer.Report, error) {
	if !strings.HasSuffix(out, ".tar.gz") {
		return layer.Report{}, fmt.Errorf("%s: the parcel is a .tar.gz", out)
	}
	root, err := r.Base.Find(d)
	if err != nil {
		return layer.Report{}, err
	}
	piece, report, err := layer.Build(ctx, d.Tree(), root, r, nil)
	if err != nil {
		return report, err
	}
	f, err := os.OpenFile(out, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o644)
	if err != nil {
		return report, err
	}
	if err := errors.Join(layer.Archive(ctx, f, d.Tree(), r.Folder, piece), f.Close()); err != nil {
		return report, errors.Join(err, os.Remove(out))
	}
	return report, nil
}

func layerCheckCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	c := &cobra.Command{
		Use:   "check RECIPE.toml",
		Short: "Check a recipe against the installed theme; exit status 1 where it no longer fits",
		Args:  cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			r, d, root, err := recipeOn(c.Context(), &flags, args[0])
			if err != nil {
				return err
			}
			report, err := layer.Check(c.Context(), d.Tree(), root, r)
			if err != nil {
				return err
			}
			if report.Same {
				fmt.Fprintf(c.OutOrStdout(), "  %s is as it was\n", d.Show(desk.Path(root)))
			} else {
				fmt.Fprintf(c.OutOrStdout(), "  %s has changed\n", d.Show(desk.Path(root)))
			}
			return say(c.OutOrStdout(), r, report)
		},
	}
	flags.Add(c)
	return c
}

func layerRebaseCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	c := &cobra.Command{
		Use:   "rebase RECIPE.toml",
		Short: "Update a recipe to the installed theme: its checksum, and the values it had",
		Args:  cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			r, d, root, err := recipeOn(c.Context(), &flags, args[0])
			if err != nil {
				return err
			}
			was := r.Base
			pieces, err := flags.Pieces(c.Context(), d)
			if err != nil {
				return err
			}
			if r.Base, err = library.DescribeBase(c.Context(), d, r.Base.Kind, root, pieces); err != nil {
				return err
			}
			r.Base.Source = cmp.Or(r.Base.Source, was.Source)
			made, report, err := layer.Rebased(c.Context(), d.Tree(), root, r)
			if err != nil {
				return err
			}
			if err := replace(args[0], made.Bytes()); err != nil {
				return err
			}
			return say(c.OutOrStdout(), made, report)
		},
	}
	flags.Add(c)
	return c
}

// replace puts a file in the place of another at once.
func replace(name string, b []byte) error {
	real, err := filepath.EvalSymlinks(name)
	if err != nil {
		return err
	}
	f, err := os.CreateTemp(filepath.Dir(real), "."+path.Base(real)+"-*")
	if err != nil {
		return err
	}
	_, err = f.Write(b)
	if err = errors.Join(err, f.Chmod(0o644), f.Sync(), f.Close()); err == nil {
		err = os.Rename(f.Name(), real)
	}
	if err != nil {
		return errors.Join(err, os.Remove(f.Name()))
	}
	return nil
}
