package asking

import (
	"fmt"
	"image"
	"io"
	"strings"

	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/backdrop"
	"ivelt/core/backdropbench"
	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/palette"
	"ivelt/core/preview"
)

func backdropCommand(p *given.Program) *cobra.Command {
	var asJSON, light bool
	var mode, cut, sixteen string
	var monitors []string
	flags := p.Desk()
	c := &cobra.Command{
		Use:   "backdrop FILE",
		Short: "Look at a picture as a backdrop: how it lies on the monitors, and its colours",
		Long: "Look at a picture (PNG, JPEG, WebP or SVG) as the backdrop of a desk: how large it is drawn on\n" +
			"each monitor, how much of it is cut off and what stays bare; the colours that lead in it and\n" +
			"where; accents of it that can be seen on the desk's themes, and a palette of a terminal that can\n" +
			"be read, dark and light.",
		Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			d, err := flags.Open(c.Context())
			if err != nil {
				return err
			}
			look := preview.Worn(c.Context(), d)
			o := backdropbench.Options{Monitors: d.Monitors(), Grounds: backdropbench.Grounds(d, look)}
			o.Mode, o.Cut, _ = preview.Lies(d, look)
			if mode != "" {
				if o.Mode = backdrop.ModeOf(mode); string(o.Mode) != mode {
					return fmt.Errorf("--mode is one of %s, not %q", strings.Trim(fmt.Sprint(backdrop.Modes), "[]"), mode)
				}
			}
			if cut != "" {
				if o.Cut, err = parseCut(cut); err != nil {
					return err
				}
			}
			if len(monitors) > 0 {
				if o.Monitors, err = parseMonitors(monitors); err != nil {
					return err
				}
			}
			raw, err := given.ReadUpTo(args[0], backdropbench.MaxBytes)
			if err != nil {
				return err
			}
			r, err := backdropbench.Look(c.Context(), raw, o)
			if err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			if sixteen != "" {
				made := r.Dark
				if light {
					made = r.Light
				}
				return given.WriteNew(sixteen, made.File("Out of "+args[0]))
			}
			if asJSON {
				return given.PrintJSON(c.OutOrStdout(), backdropJSON(args[0], r))
			}
			printBackdrop(c.OutOrStdout(), r)
			return nil
		},
	}
	c.Flags().StringVar(&mode, "mode", "", "how it lies: fill, fit, stretch, centre, tile, span or none; as the desk is told, if it is not given")
	c.Flags().StringVar(&cut, "cut", "", "which part is seen where it is cut off, percent from the left and the top: \"50 20\"")
	c.Flags().StringSliceVar(&monitors, "monitors", nil, "sizes of monitors, px, such as 2560x1440; the desk's, if none are given")
	c.Flags().StringVar(&sixteen, "palette", "", "write the palette of a terminal, an X resource file")
	c.Flags().BoolVar(&light, "light", false, "the palette of light ground")
	given.Answers[backdropReport](c, &asJSON, "backdrop")
	flags.Add(c)
	return c
}

// parseCut reads two percentages.
func parseCut(text string) (backdrop.Cut, error) {
	var x, y float64
	if n, err := fmt.Sscanf(text, "%g %g", &x, &y); n != 2 || err != nil || !(x >= 0 && x <= 100 && y >= 0 && y <= 100) {
		return backdrop.Cut{}, fmt.Errorf("--cut is two numbers from 0 to 100, such as \"50 20\", not %q", text)
	}
	return backdrop.Cut{X: x / 100, Y: y / 100}, nil
}

// maxMonitor bounds a monitor that is named, px.
const maxMonitor = 32768

// parseMonitors reads sizes of monitors that stand side by side from the left.
func parseMonitors(all []string) (out []desk.Monitor, err error) {
	right := 0
	for _, text := range all {
		m := desk.Monitor{Name: text, At: image.Pt(right, 0)}
		if n, err := fmt.Sscanf(text, "%dx%d", &m.Width, &m.Height); n != 2 || err != nil || m.Width < 1 || m.Height < 1 || m.Width > maxMonitor || m.Height > maxMonitor {
			return nil, fmt.Errorf("--monitors are sizes such as 2560x1440, not %q", text)
		}
		out, right = append(out, m), right+m.Width
	}
	return out, nil
}

type monitorJSON struct {
	Name     string     `json:"name"`
	Width    int        `json:"width"`
	Height   int        `json:"height"`
	Drawn    [4]float64 `json:"drawn"` // x, y, width and height of the picture on it, px
	Scale    [2]float64 `json:"scale"`
	Enlarged float64    `json:"enlarged"`
	Lost     float64    `json:"lost"`
	Bare     float64    `json:"bare"`
}

type leadingJSON struct {
	Colour string     `json:"colour"`
	Share  float64    `json:"share"`
	At     [2]float64 `json:"at"`
	Spread float64    `json:"spread"`
}

type accentJSON struct {
	Colour   string  `json:"colour"`
	From     string  `json:"from"`
	Moved    float64 `json:"moved"`
	Contrast float64 `json:"contrast"`
	On       string  `json:"on,omitempty"`
	Score    float64 `json:"score"`
}

type paletteJSON struct {
	Ground  string     `json:"ground"`
	Ink     string     `json:"ink"`
	Colours [16]string `json:"colours"`
	From    [16]string `json:"from"` // the leading colour that one is drawn to, "" for none
}

// backdropReport is the answer of `backdrop --json`.
type backdropReport struct {
	File     string        `json:"file"`
	Type     string        `json:"type"`
	Width    float64       `json:"width"`
	Height   float64       `json:"height"`
	Turned   bool          `json:"turned"`
	Mode     backdrop.Mode `json:"mode"`
	Cut      [2]float64    `json:"cut"` // percent
	Guessed  bool          `json:"guessed"`
	Monitors []monitorJSON `json:"monitors"`
	Leading  []leadingJSON `json:"leading"`
	Accents  []accentJSON  `json:"accents"`
	Dark     paletteJSON   `json:"dark"`
	Light    paletteJSON   `json:"light"`
}

func backdropJSON(file string, r *backdropbench.Report) backdropReport {
	out := backdropReport{File: file, Type: r.Type, Width: r.Width, Height: r.Height, Turned: r.Turned, Mode: r.Mode, Cut: [2]float64{100 * r.Cut.X, 100 * r.Cut.Y}, Guessed: r.Guessed,
		Monitors: []monitorJSON{}, Leading: []leadingJSON{}, Accents: []accentJSON{}, Dark: sixteenJSON(r.Dark), Light: sixteenJSON(r.Light)}
	for _, on := range r.On {
		out.Monitors = append(out.Monitors, monitorJSON{on.Monitor.Name, on.Monitor.Width, on.Monitor.Height,
			[4]float64{on.Drawn.X, on.Drawn.Y, on.Drawn.W, on.Drawn.H}, [2]float64{on.ScaleX, on.ScaleY}, on.Enlarged(), on.Lost, on.Bare})
	}
	for _, l := range r.Leading {
		out.Leading = append(out.Leading, leadingJSON{l.Colour.Hex(), l.Share, [2]float64{l.X, l.Y}, l.Spread})
	}
	for _, a := range r.Accents {
		out.Accents = append(out.Accents, accentJSON{a.Colour.Hex(), a.From.Colour.Hex(), a.Moved, a.Contrast, a.On, a.Score})
	}
	return out
}

func sixteenJSON(p backdropbench.Proposed) (out paletteJSON) {
	out.Ground, out.Ink = p.Ground.Hex(), p.Ink.Hex()
	for i, t := range p.Tones {
		out.Colours[i] = t.Colour.Hex()
		if t.From != nil {
			out.From[i] = t.From.Colour.Hex()
		}
	}
	return out
}

func printBackdrop(w io.Writer, r *backdropbench.Report) {
	what := ""
	if r.Turned {
		what = ", turned as it says"
	}
	if r.Drawing {
		what = ", a drawing, sharp in any size"
	}
	fmt.Fprintf(w, "%s, %.0f × %.0f px%s\n", r.Type, r.Width, r.Height, what)
	for _, on := range r.On {
		fmt.Fprintf(w, "on %s, %d × %d: %s", on.Monitor.Name, on.Monitor.Width, on.Monitor.Height, on.Mode)
		if on.Mode == backdrop.None {
			fmt.Fprintln(w, ", the ground alone")
			continue
		}
		if on.Enlarged() > 1 && !r.Drawing {
			fmt.Fprintf(w, ", %.2f times as large as it is", on.Enlarged())
		}
		fmt.Fprintf(w, ", %.0f %% cut off, %.0f %% bare\n", 100*on.Lost, 100*on.Bare)
	}
	for _, l := range r.Leading {
		_, chroma, hue := l.Colour.LCH()
		fmt.Fprintf(w, "  %s %4.1f %%  %s, around %.0f %% from the left and %.0f %% from the top\n", l.Colour.Hex(), 100*l.Share, colour.HueName(chroma, hue), 100*l.X, 100*l.Y)
	}
	for _, a := range r.Accents {
		fmt.Fprintf(w, "accent %s", a.Colour.Hex())
		if a.Moved > 0.005 {
			fmt.Fprintf(w, ", from %s", a.From.Colour.Hex())
		}
		if a.On != "" {
			fmt.Fprintf(w, ", %.1f:1 on %s", a.Contrast, a.On)
		}
		fmt.Fprintln(w)
	}
	for _, of := range []struct {
		name string
		p    backdropbench.Proposed
	}{{"dark", r.Dark}, {"light", r.Light}} {
		fmt.Fprintf(w, "palette, %s: %s on %s;", of.name, of.p.Ink.Hex(), of.p.Ground.Hex())
		for i, c := range of.p.Colours {
			fmt.Fprintf(w, " %s %s", palette.Names[i], c.Hex())
			if i < 15 {
				fmt.Fprint(w, ",")
			}
		}
		fmt.Fprintln(w)
	}
}
