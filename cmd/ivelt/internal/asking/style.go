package asking

import (
	"errors"
	"fmt"
	"io"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/gtkcss"
	"ivelt/core/gtkrc"
)

// styleReport is one object of `style --json`.
type styleReport struct {
	Node       string         `json:"node"`
	Properties map[string]any `json:"properties"`
}

func styleCommand() *cobra.Command {
	var dark, asJSON, refused bool
	var generation int
	c := &cobra.Command{
		Use:   "style FILE.css NODE…",
		Short: "Print the computed style of nodes under a style sheet",
		Long: `Print the computed style of nodes under a GTK style sheet.

A node is its path from the window down: 'window.background box button:hover'.
A "+" puts a node beside the one before: 'list row + row:selected'. Paths are
read from standard input, one a line, if none is given.

A file that is called gtkrc, or --gtk 2, is a resource file of GTK 2; its nodes
are types of widgets, with a name if they have one:
'GtkWindow GtkVBox GtkButton#keeper:prelight'.

With --refused nothing is computed: every line that the toolkit refuses, in the
sheet and in all that it imports, is printed as FILE:LINE: WHAT.`,
		Args: cobra.MinimumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			file := args[0]
			if dark {
				file = darkOf(file)
			}
			if generation != 0 && (generation < 2 || generation > 4) {
				return errors.New("--gtk is 2, 3 or 4")
			}
			if refused {
				return printRefused(c, file, generation)
			}
			nodes := args[1:]
			if len(nodes) == 0 {
				var err error
				if nodes, err = given.Lines(c.InOrStdin()); err != nil {
					return err
				}
			}
			if generation == 2 || generation == 0 && filepath.Base(file) == "gtkrc" {
				return resourceStyles(c, args[0], nodes, asJSON)
			}
			s, err := gtkcss.LoadFile(c.Context(), file, generation)
			if err != nil {
				return err
			}
			styles := gtkcss.NewCascade(s)
			reports := []styleReport{}
			for _, path := range nodes {
				n := gtkcss.Path(path)
				if n == nil {
					return fmt.Errorf("%q names no node", path)
				}
				st := styles.Style(n)
				if asJSON {
					reports = append(reports, styleReport{path, properties(st, s.Generation)})
				} else {
					printStyle(c.OutOrStdout(), path, st, s.Generation)
				}
			}
			notes := append(s.Notes, styles.Undefined()...)
			for i, n := range notes {
				if i == 20 {
					fmt.Fprintf(c.ErrOrStderr(), "and %d more\n", len(notes)-i)
					break
				}
				fmt.Fprintln(c.ErrOrStderr(), n)
			}
			if asJSON {
				return given.PrintJSON(c.OutOrStdout(), reports)
			}
			return nil
		},
	}
	c.Flags().BoolVar(&dark, "dark", false, "the dark form beside the sheet, if there is one")
	c.Flags().BoolVar(&refused, "refused", false, "print the lines that the toolkit refuses, and nothing else")
	given.Answers[[]styleReport](c, &asJSON, "style")
	c.Flags().IntVar(&generation, "gtk", 0, "generation whose rules count, 2, 3 or 4 (default: by the folder's name)")
	return c
}

// printRefused prints the lines of a sheet that the toolkit refuses.
func printRefused(c *cobra.Command, file string, generation int) error {
	if generation == 2 || generation == 0 && filepath.Base(file) == "gtkrc" {
		f, err := resourceFile(file)
		if err != nil {
			return err
		}
		for _, n := range f.Notes {
			fmt.Fprintf(c.OutOrStdout(), "/%s:%d: %s\n", n.File, n.Line, n.Text)
		}
		return nil
	}
	s, err := gtkcss.LoadFile(c.Context(), file, generation)
	if err != nil {
		return err
	}
	for _, n := range s.Refused() {
		fmt.Fprintln(c.OutOrStdout(), n)
	}
	return nil
}

// resourceFile reads a resource file of GTK 2, and those that it includes.
func resourceFile(file string) (*gtkrc.File, error) {
	abs, err := filepath.Abs(file)
	if err != nil {
		return nil, err
	}
	return gtkrc.Load(os.DirFS("/"), strings.TrimPrefix(filepath.ToSlash(abs), "/"))
}

// resourceStyles prints what a resource file of GTK 2 gives to widgets.
func resourceStyles(c *cobra.Command, file string, nodes []string, asJSON bool) error {
	f, err := resourceFile(file)
	if err != nil {
		return err
	}
	reports := []styleReport{}
	for _, path := range nodes {
		widgets, state, err := gtkrc.Path(path)
		if err != nil {
			return err
		}
		st, told := f.Style(widgets), map[string]any{}
		for name, of := range map[string][5]gtkrc.Colour{"color": st.Fg, "background-color": st.Bg, "text-color": st.Text, "base-color": st.Base} {
			b := of[state].Bytes()
			told[name] = fmt.Sprintf("%d,%d,%d,1.000", b[0], b[1], b[2])
		}
		told["xthickness"], told["ythickness"], told["font"], told["engine"] = st.XThickness, st.YThickness, st.Font, st.Engine
		reports = append(reports, styleReport{path, told})
	}
	for _, n := range f.Notes {
		fmt.Fprintf(c.ErrOrStderr(), "/%s:%d: %s\n", n.File, n.Line, n.Text)
	}
	if asJSON {
		return given.PrintJSON(c.OutOrStdout(), reports)
	}
	for _, r := range reports {
		fmt.Fprintln(c.OutOrStdout(), r.Node)
		for _, name := range slices.Sorted(maps.Keys(r.Properties)) {
			fmt.Fprintf(c.OutOrStdout(), "  %s: %v\n", name, r.Properties[name])
		}
	}
	return nil
}

// darkOf is the dark form of a sheet, or the sheet itself if it has none, as the
// toolkits take it.
func darkOf(file string) string {
	dark := strings.TrimSuffix(file, ".css") + "-dark.css"
	if _, err := os.Stat(dark); err == nil {
		return dark
	}
	return file
}

// Those that are told as numbers, in px where they are lengths.
var (
	colourProperties = []string{"color", "background-color", "border-top-color", "border-right-color", "border-bottom-color", "border-left-color", "outline-color", "caret-color"}
	numberProperties = []string{"border-top-width", "border-right-width", "border-bottom-width", "border-left-width", "padding-top", "padding-right", "padding-bottom", "padding-left",
		"margin-top", "margin-right", "margin-bottom", "margin-left", "min-width", "min-height", "border-top-left-radius", "border-top-right-radius", "border-bottom-right-radius",
		"border-bottom-left-radius", "outline-width", "outline-offset", "font-size", "letter-spacing", "font-weight", "opacity"}
)

func properties(st *gtkcss.Style, generation int) map[string]any {
	out := map[string]any{"border-radius": st.Length("border-top-left-radius")}
	for _, name := range gtkcss.Properties(generation) {
		switch {
		case slices.Contains(colourProperties, name):
			out[name] = st.Colour(name).String()
		case slices.Contains(numberProperties, name):
			out[name] = st.Length(name)
		default:
			out[name] = st.Text(name)
		}
	}
	return out
}

func printStyle(w io.Writer, path string, st *gtkcss.Style, generation int) {
	fmt.Fprintln(w, path)
	for _, name := range gtkcss.Properties(generation) {
		if file, line, told := st.Told(name); told {
			fmt.Fprintf(w, "  %s: %s;  (%s:%d)\n", name, st.Text(name), filepath.Base(file), line)
		}
	}
}
