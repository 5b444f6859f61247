package asking

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"ivelt/app/proof"
	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/archive"
	"ivelt/core/desk"
	"ivelt/core/fontbook"
	"ivelt/core/fontconf"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/typebench"
)

// fontReport is what `bench font --json` prints of a desk.
type fontReport struct {
	Languages []string            `json:"languages"`
	Roles     []typebench.Role    `json:"roles"`
	Sizes     []typebench.Sizing  `json:"sizes"`
	Findings  []typebench.Finding `json:"findings"`
}

// familyReport is what it prints of a family.
type familyReport struct {
	*typebench.Measures
	Findings []typebench.Finding `json:"findings"`
}

func benchFontCommand(p *given.Program) *cobra.Command {
	var asJSON bool
	var role, mend string
	var languages []string
	var junit junitFlag
	flags := p.Desk()
	c := &cobra.Command{
		Use:   "font [NAME]",
		Short: "Look at fonts: letters, widths, styles, and how a desk's fonts sit beside each other",
		Long: "Measure the fonts that a desk shows in each role, and what its toolkits make of their sizes; or,\n" +
			"with a name, a family that is on the desk, or those of a folder or a parcel. Exit status 1 if there\n" +
			"is a finding.",
		Args: cobra.MaximumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			d, err := flags.Open(c.Context())
			if err != nil {
				return err
			}
			for i, name := range languages {
				if languages[i] = fontconf.LanguageOf(name); languages[i] == "" {
					return fmt.Errorf("the letters of the language %q are not known; write it as de, pt_BR or zh-tw", name)
				}
			}
			if info, ok := desk.FacetOf(role); role != "" && (!ok || info.Takes != desk.TakesFont) {
				return fmt.Errorf("there is no role %q; those of fonts are font, font-document, font-mono and font-title", role)
			}
			var found []typebench.Finding
			switch {
			case len(args) == 0:
				found, err = benchFonts(c.OutOrStdout(), d, languages, asJSON, mend)
			case mend != "":
				return errors.New("--mend is of a desk's fonts: leave the name out")
			default:
				found, err = benchFamilies(c, d, args[0], role, languages, asJSON)
			}
			var told []proof.Finding
			for _, f := range found {
				told = append(told, proof.Finding{Code: f.Code, Text: f.Text, Grave: f.Grave})
			}
			if err == nil {
				err = junit.of("bench font", strings.Join(append([]string{d.ID}, args...), " "), "letters", told)
			}
			if err == nil && len(found) > 0 && mend == "" {
				err = given.ErrFindings
			}
			return err
		},
	}
	c.Flags().StringVar(&role, "role", "", "what a family of a name is for: font, font-document, font-mono or font-title")
	c.Flags().StringSliceVar(&languages, "lang", nil, "languages whose letters are looked for; those of the person, if none are given")
	c.Flags().StringVar(&mend, "mend", "", "write an outfit with the choices that clear what can be cleared, for ivelt plan")
	given.Answers[fontReport](c, &asJSON, "bench-font")
	given.Answers[[]familyReport](c, &asJSON, "bench-font-family")
	junit.add(c)
	flags.Add(c)
	return c
}

// benchFonts looks at the fonts of a desk, and returns what it found.
func benchFonts(w io.Writer, d *desk.Desk, languages []string, asJSON bool, mend string) ([]typebench.Finding, error) {
	b := typebench.On(d, typebench.Read(d), languages)
	b.Find()
	if asJSON {
		if err := given.PrintJSON(w, fontReport{b.Languages, b.Roles, b.Sizings, append([]typebench.Finding{}, b.Findings...)}); err != nil {
			return nil, err
		}
	} else {
		printFonts(w, b)
	}
	if mend == "" {
		return b.Findings, nil
	}
	o := outfit.Outfit{Name: "Fonts that sit alike"}
	for _, choice := range b.Mend() {
		o = o.With(choice.Facet, choice.Value)
	}
	if len(o.Choices) == 0 {
		return nil, errors.New("there is nothing that fonts of the desk could mend")
	}
	return b.Findings, given.WriteNew(mend, o.Bytes())
}

// benchFamilies looks at the families that a name stands for.
func benchFamilies(c *cobra.Command, d *desk.Desk, name, role string, languages []string, asJSON bool) (found []typebench.Finding, err error) {
	families, wrong, done, err := familiesIn(c.Context(), d, name)
	if err != nil {
		return nil, err
	}
	defer done()
	if languages == nil {
		languages = typebench.LanguagesOf(d)
	}
	var reports []familyReport
	for i := range families {
		m, err := typebench.Measure(&families[i], languages)
		if err != nil {
			wrong = append(wrong, err)
			continue
		}
		in := role
		if in == "" && m.Fixed {
			in = desk.FacetFontMono
		}
		r := familyReport{m, append([]typebench.Finding{}, typebench.Faults(m, in)...)}
		found = append(found, r.Findings...)
		reports = append(reports, r)
	}
	if len(reports) == 0 {
		return nil, errors.Join(append([]error{fmt.Errorf("%s: %w", name, typebench.ErrNone)}, wrong...)...)
	}
	for _, err := range wrong {
		fmt.Fprintln(c.ErrOrStderr(), err)
	}
	if asJSON {
		return found, given.PrintJSON(c.OutOrStdout(), reports)
	}
	for _, r := range reports {
		printFamily(c.OutOrStdout(), r)
	}
	return found, nil
}

// familiesIn are the families of a folder or a parcel, or the one of a name on the desk; done is to
// be called afterwards.
func familiesIn(ctx context.Context, d *desk.Desk, name string) (out []typebench.Family, wrong []error, done func(), err error) {
	if _, err := os.Stat(name); err != nil {
		f, ok := typebench.Of(d, fontbook.Of(d, fontbook.Folders(d)), name)
		if !ok {
			return nil, nil, nil, fmt.Errorf("there is no font %q on the desk, and no file of that name", name)
		}
		return []typebench.Family{f}, nil, func() {}, nil
	}
	p, err := parcel.Open(ctx, name, archive.Options{})
	if err != nil {
		return nil, nil, nil, err
	}
	var files []string
	for _, pc := range p.Recognise(ctx).Pieces {
		if pc.Kind == parcel.Font {
			files = append(files, pc.Only...)
		}
	}
	slices.Sort(files)
	out, wrong = typebench.In(p, slices.Compact(files))
	return out, wrong, func() { p.Close() }, nil
}

func printFonts(w io.Writer, b *typebench.Bench) {
	for _, r := range b.Roles {
		fmt.Fprintf(w, "%-14s %-28s %5.1f px, an x %4.1f px", r.Title, r.Setting, r.Size.Px, r.Height)
		if r.StandsFor() {
			fmt.Fprintf(w, ", shown in %s", r.Family)
		}
		fmt.Fprintln(w)
	}
	for _, z := range b.Sizings {
		fmt.Fprintf(w, "  %-38s %-14s %-24s %5.1f px at %g dpi", z.Title, z.Facet, z.Setting, z.Px, z.DPI)
		if z.Display != 1 {
			fmt.Fprintf(w, " ×%g", z.Display)
		}
		if len(z.Reasons) > 0 {
			fmt.Fprintf(w, ": %s", strings.Join(z.Reasons, "; "))
		}
		fmt.Fprintln(w)
	}
	printTypeFindings(w, b.Findings)
}

func printFamily(w io.Writer, r familyReport) {
	fmt.Fprintf(w, "%s %s: an x is %.3f of the size tall, a capital %.3f; letters %.3f wide", r.Family, r.Style, r.XHeight, r.Capital, r.Wide)
	if r.Fixed {
		fmt.Fprint(w, ", of fixed width")
	}
	fmt.Fprintf(w, "; all letters of %d languages; %d styles\n", r.Languages, r.Faces)
	printTypeFindings(w, r.Findings)
}

func printTypeFindings(w io.Writer, of []typebench.Finding) {
	for _, f := range of {
		sign := "-"
		if f.Grave {
			sign = "!"
		}
		fmt.Fprintf(w, "%s %s", sign, f.Text)
		for i, c := range f.Remedy {
			fmt.Fprintf(w, "%s%s = %q", map[bool]string{true: " → ", false: ", "}[i == 0], c.Facet, c.Value)
		}
		fmt.Fprintln(w)
	}
}
