// Package judge tells what of a look cannot be read well, or costs a slow machine
// much, where that is seen, and what would mend it. Contrast is WCAG 2.2's: text
// needs 4.5 to 1, large text 3 (1.4.3); what shows where the keyboard is needs 3
// (1.4.11); of what is off nothing is asked.
package judge

import (
	"fmt"
	"io/fs"
	"math"
	"slices"
	"strconv"
	"strings"

	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/palette"
	"ivelt/core/preview"
	"ivelt/core/reading"
	"ivelt/core/taste"
)

// Verdict is one thing that is not well.
type Verdict struct {
	Surface  string   `json:"surface"` // where it is seen
	Facet    string   `json:"facet"`
	Code     Code     `json:"code"`
	Text     string   `json:"text"`            // a sentence
	Ratio    float64  `json:"ratio,omitempty"` // of contrast; 0 of what is none
	Needs    float64  `json:"needs,omitempty"`
	Grave    bool     `json:"grave"` // it can hardly be made out
	Remedies []Remedy `json:"remedies"`
}

// Code names what is not well.
type Code string

const (
	LowContrast Code = "low-contrast"  // text on its ground
	LowFocus    Code = "low-focus"     // where the keyboard is
	BarOver     Code = "bar-over"      // what is on the bar, over the backdrop
	TermColour  Code = "terminal"      // a terminal's colour on its ground
	TermOver    Code = "terminal-over" // a terminal's ink over the backdrop
	Costly      Code = "costly"        // on a slow machine
)

// Remedy is what would mend it: a value for a facet, or words alone.
type Remedy struct {
	Facet string `json:"facet,omitempty"`
	Want  string `json:"want,omitempty"`
	Text  string `json:"text"`
}

// pair is text, or a line, on a ground, as a path of nodes.
type pair struct {
	what, path string
	needs      float64
	line       bool // the border is held against the ground
}

var toolkit = []pair{
	{"text", "window.background label", palette.Legible, false},
	{"text in lists", "window.background list row label", palette.Legible, false},
	{"a chosen line", "window.background list row:selected label", palette.Legible, false},
	{"buttons", "window.background button.text-button label", palette.Legible, false},
	{"a pressed button", "window.background button.text-button:active label", palette.Legible, false},
	{"the button that is proposed", "window.background button.suggested-action.text-button label", palette.Legible, false},
	{"what is typed", "window.background entry", palette.Legible, false},
	{"titles", "window.background headerbar.titlebar label.title", palette.Legible, false},
	{"tooltips", "tooltip.background label", palette.Legible, false},
	{"where the keyboard is", "window.background entry:focus", 3, true},
}

var shell = []pair{
	{"notices", "notice label", palette.Legible, false},
	{"the button that notices propose", "notice button.default", palette.Legible, false},
}

// Of judges a look of a desk.
func Of(d *desk.Desk, look preview.Look) []Verdict {
	d = d.Glance()
	out := []Verdict{}
	for _, s := range d.Surfaces {
		switch {
		case s.Kind == "shell":
			out = append(out, pairsOf(d, look, s, desk.FacetBar, shell)...)
			out = append(out, barOf(d, look, s)...)
		case s.Kind == "terminal":
			out = append(out, terminalOf(d, look, s)...)
		case s.ID == "gtk3" || s.ID == "gtk4":
			out = append(out, pairsOf(d, look, s, desk.FacetWidgets, toolkit)...)
		}
		out = append(out, costOf(look, s)...)
	}
	slices.SortStableFunc(out, func(a, b Verdict) int { return bit(b.Grave) - bit(a.Grave) })
	return out
}

func bit(b bool) int {
	if b {
		return 1
	}
	return 0
}

// pairsOf holds the texts of a surface against what they stand on.
func pairsOf(d *desk.Desk, look preview.Look, s desk.Surface, facet string, pairs []pair) []Verdict {
	var out []Verdict
	worn := preview.Styles(d, look, s.ID)
	other := flipped(look, s.ID)
	for _, p := range pairs {
		ratio, large := held(worn, p)
		needs := p.needs
		if large {
			needs = min(needs, 3)
		}
		if ratio >= needs {
			continue
		}
		v := Verdict{Surface: s.ID, Facet: facet, Code: LowContrast, Ratio: ratio, Needs: needs, Grave: ratio < 2}
		v.Text = fmt.Sprintf("%s of %s: %s to 1 on what is behind, less than the %s that text needs.", upper(p.what), s.Title, say(ratio), say(needs))
		if p.line {
			v.Code = LowFocus
			v.Text = fmt.Sprintf("What shows %s in %s has %s to 1 against what is beside it, less than the 3 that it needs.", p.what, s.Title, say(ratio))
		}
		if _, has := s.Facet(desk.FacetDark); has {
			if better, _ := held(preview.Styles(d, other, s.ID), p); better >= needs {
				shade := other.Of(desk.FacetDark, s.ID)
				v.Remedies = append(v.Remedies, Remedy{desk.FacetDark, shade, fmt.Sprintf("In the %s shade it has %s.", shade, say(better))})
			}
		}
		v.Remedies = append(v.Remedies, Remedy{Text: "Wear another theme, or tell its maker."})
		out = append(out, v)
	}
	return out
}

// flipped is the look in the other shade.
func flipped(look preview.Look, surface string) preview.Look {
	shade := "dark"
	if look.Of(desk.FacetDark, surface) == "dark" {
		shade = "light"
	}
	return look.With(desk.FacetDark, surface, shade)
}

// held is the contrast of a pair, and whether its text is large: 24 px, or 18.66
// px and bold (WCAG 2.2, "large scale").
func held(c *gtkcss.Cascade, p pair) (ratio float64, large bool) {
	nodes := strings.Fields(p.path)
	ground := gtkcss.Colour{R: 1, G: 1, B: 1, A: 1}
	var beside gtkcss.Colour
	var st *gtkcss.Style
	for i := range nodes {
		st = c.Compute(strings.Join(nodes[:i+1], " "))
		beside = ground
		ground = st.Fill().Over(ground)
	}
	if p.line {
		best := 0.0
		widths := st.BorderWidth()
		for i, side := range st.Borders() {
			if widths[i] > 0 {
				best = max(best, contrast(side.Over(beside), beside))
			}
		}
		if best == 0 { // drawn otherwise: nothing is known of it
			best = 21
		}
		return best, false
	}
	font := st.Font()
	return contrast(st.Colour("color").Over(ground), ground), font.Size >= 24 || font.Size >= 18.66 && font.Weight >= 700
}

func contrast(a, b gtkcss.Colour) float64 {
	return colour.Contrast(colour.Colour{R: a.R, G: a.G, B: a.B}, colour.Colour{R: b.R, G: b.G, B: b.B})
}

// barOf holds what is on the bar against what shows through it: the worse of the
// darkest and the lightest of the backdrop, but for a twentieth of it.
func barOf(d *desk.Desk, look preview.Look, s desk.Surface) []Verdict {
	opacity, err := strconv.Atoi(look.Of(desk.FacetOpacity, s.ID))
	if err != nil || opacity >= 100 {
		return nil
	}
	dark, light, ok := backdrop(d, look)
	if !ok {
		return nil
	}
	st := preview.Styles(d, look, s.ID)
	panel := st.Compute("panel.top")
	ink := st.Compute("panel.top label.clock").Colour("color")
	fill := panel.Fill()
	worst := func(percent int) float64 {
		least := 21.0
		for _, behind := range []colour.Colour{dark, light} {
			ground := gtkcss.Colour{R: behind.R, G: behind.G, B: behind.B, A: 1}
			over := fill
			over.A *= float64(percent) / 100
			ground = over.Over(ground)
			least = min(least, contrast(ink.Over(ground), ground))
		}
		return least
	}
	now := worst(max(opacity, 0))
	if now >= palette.Legible {
		return nil
	}
	v := Verdict{
		Surface: s.ID, Facet: desk.FacetOpacity, Code: BarOver, Ratio: now, Needs: palette.Legible, Grave: now < 2,
		Text: fmt.Sprintf("What stands on the bar of %s has %s to 1 over the worst of the backdrop, less than the %s that text needs.", s.Title, say(now), say(palette.Legible)),
	}
	for percent := opacity + 1; percent <= 100; percent++ {
		if worst(percent) >= palette.Legible {
			v.Remedies = append(v.Remedies, Remedy{desk.FacetOpacity, strconv.Itoa(percent), fmt.Sprintf("%d %% opaque would do.", percent)})
			break
		}
	}
	if v.Remedies == nil {
		v.Remedies = []Remedy{{Text: "No opacity would do: wear another bar, or another backdrop."}}
	}
	return []Verdict{v}
}

// backdrop is the darkest and the lightest of what is behind everything.
func backdrop(d *desk.Desk, look preview.Look) (dark, light colour.Colour, ok bool) {
	for _, s := range d.Surfaces {
		file := look.Of(desk.FacetBackdrop, s.ID)
		if file == "" {
			continue
		}
		if raw, err := fs.ReadFile(d.Tree(), desk.Name(file)); err == nil {
			if dark, light, ok = taste.Shades(raw); ok {
				return dark, light, true
			}
		}
	}
	return dark, light, false
}

func terminalOf(d *desk.Desk, look preview.Look, s desk.Surface) []Verdict {
	f, _ := s.Facet(desk.FacetPalette)
	name := look.Of(desk.FacetPalette, s.ID)
	file, err := reading.Find(d, f.Lookup, name)
	if err != nil || file == "" {
		return nil
	}
	raw, err := fs.ReadFile(d.Tree(), desk.Name(file))
	if err != nil {
		return nil
	}
	p, err := palette.Parse(raw)
	if err != nil {
		return nil
	}
	var out []Verdict
	var bad []string
	v := Verdict{Surface: s.ID, Facet: desk.FacetPalette, Code: TermColour, Ratio: 21, Needs: palette.Legible}
	for _, h := range p.Hold() {
		if h.Legible() || h.Quiet {
			continue
		}
		bad = append(bad, fmt.Sprintf("%s %s", h.Name, say(h.Contrast)))
		v.Ratio, v.Grave = min(v.Ratio, h.Contrast), v.Grave || h.Contrast < 2
	}
	if bad != nil {
		v.Text = fmt.Sprintf("Colours of the palette %s that cannot be read as text on its ground: %s to 1.", name, strings.Join(bad, ", "))
		v.Remedies = []Remedy{{Text: "The terminal's page has the nearest of the same hue that can, for each or for all."}}
		out = append(out, v)
	}
	opacity, err := strconv.Atoi(look.Of(desk.FacetGround, s.ID))
	dark, light, ok := backdrop(d, look)
	if err != nil || opacity >= 100 || !ok {
		return out
	}
	worst := func(percent int) float64 {
		o := float64(percent) / 100
		return min(colour.Contrast(p.Ink, p.Through(dark, o)), colour.Contrast(p.Ink, p.Through(light, o)))
	}
	if now := worst(opacity); now < palette.Legible {
		v := Verdict{
			Surface: s.ID, Facet: desk.FacetGround, Code: TermOver, Ratio: now, Needs: palette.Legible, Grave: now < 2,
			Text: fmt.Sprintf("%s lets so much of the backdrop through that its ink has %s to 1.", s.Title, say(now)),
		}
		for percent := opacity; percent <= 100; percent++ {
			if worst(percent) >= palette.Legible {
				v.Remedies = append(v.Remedies, Remedy{desk.FacetGround, strconv.Itoa(percent), fmt.Sprintf("%d %% opaque would do.", percent)})
				break
			}
		}
		out = append(out, v)
	}
	return out
}

// costOf tells what a slow machine would feel: blur is worked out anew whenever
// something behind it moves (common practice, no source).
func costOf(look preview.Look, s desk.Surface) []Verdict {
	var out []Verdict
	for _, of := range [][2]string{{desk.FacetBlur, desk.FacetOpacity}, {desk.FacetGroundBlur, desk.FacetGround}} {
		blur, err := strconv.Atoi(look.Of(of[0], s.ID))
		opacity, err2 := strconv.Atoi(look.Of(of[1], s.ID))
		if err != nil || err2 != nil || blur == 0 || opacity >= 100 {
			continue
		}
		out = append(out, Verdict{
			Surface: s.ID, Facet: of[0], Code: Costly,
			Text:     fmt.Sprintf("%s blurs what is behind it, %d px, which a slow machine works out anew whenever something moves there.", s.Title, blur),
			Remedies: []Remedy{{of[0], "0", "Without blur it costs next to nothing."}, {of[1], "100", "With all of it opaque nothing is blurred."}},
		})
	}
	if look.Of(desk.FacetEffects, s.ID) == "all" {
		out = append(out, Verdict{
			Surface: s.ID, Facet: desk.FacetEffects, Code: Costly, Text: s.Title + " moves everything that opens and closes, which a slow machine feels at each window.",
			Remedies: []Remedy{{desk.FacetEffects, "few", "A few effects cost little."}, {desk.FacetEffects, "none", "None cost nothing."}},
		})
	}
	return out
}

func upper(s string) string { return strings.ToUpper(s[:1]) + s[1:] }

// say writes a contrast, never larger than it is.
func say(ratio float64) string { return strconv.FormatFloat(math.Floor(ratio*10)/10, 'f', 1, 64) }
