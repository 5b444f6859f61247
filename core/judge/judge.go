// Package judge tells what of a look cannot be read well, is broken, or costs a
// slow machine much, where that is seen, and what would mend it. Contrast is WCAG
// 2.2's: text needs 4.5 to 1, large text 3 (1.4.3); what shows where the keyboard
// is, and signs, need 3 (1.4.11). Of what is off WCAG asks nothing; here it needs 2
// (our own measure).
package judge

import (
	"math"
	"slices"
	"strconv"

	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/preview"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// Verdict is one thing that is not well.
type Verdict struct {
	Surface string   `json:"surface"`        // where it is seen
	Also    []string `json:"also,omitempty"` // the same is true of these surfaces
	Facet   string   `json:"facet"`
	Code    Code     `json:"code"`
	Text    string   `json:"text"` // a sentence

	Says     say.Message `json:"says"`            // what the text says
	Parts    []Part      `json:"parts,omitempty"` // of what exactly, the worst first
	Ratio    float64     `json:"ratio,omitempty"` // of contrast, of the worst; 0 of what is none
	Needs    float64     `json:"needs,omitempty"`
	Grave    bool        `json:"grave"` // it can hardly be made out, or is not there
	Remedies []Fix       `json:"remedies"`
	// Marks are where it is seen in a scene of the picture.
	Scene string         `json:"scene,omitempty"`
	Marks []preview.Mark `json:"marks,omitempty"`
}

// Part is one pair of colours, or one thing, of a verdict.
type Part struct {
	What    string  `json:"what"`
	Ratio   float64 `json:"ratio,omitempty"`
	Needs   float64 `json:"needs,omitempty"`
	Ink     string  `json:"ink,omitempty"` // #rrggbb
	Ground  string  `json:"ground,omitempty"`
	Nearest string  `json:"nearest,omitempty"` // the colour nearest to the ink that would do
	Mends   string  `json:"-"`                 // the selector of a rule that would set it
	Line    bool    `json:"-"`                 // it is the border's colour that would
	Faded   bool    `json:"-"`                 // it is seen through
}

// Says is the contrast of a part, "" if it is none.
func (p Part) Says() string {
	if p.Ratio == 0 {
		return ""
	}
	return decimal(p.Ratio)
}

// Code names what is not well.
type Code string

const (
	LowContrast Code = "low-contrast"  // text on its ground
	LowFocus    Code = "low-focus"     // where the keyboard is
	BarOver     Code = "bar-over"      // what is on the bar, over the backdrop
	GroundOver  Code = "desk-over"     // what lies on the desk itself, over the backdrop
	TermColour  Code = "terminal"      // a terminal's colour on its ground
	TermOver    Code = "terminal-over" // a terminal's ink over the backdrop
	Alike       Code = "alike"         // colours that some cannot tell apart
	BrokenSheet Code = "broken-sheet"  // a style sheet names what is not there
	BrokenStyle Code = "broken-style"  // a picture-based style lacks elements
	TallTitle   Code = "tall-title"    // a title font larger than its frame
	Costly      Code = "costly"        // on a slow machine
	OpenToAll   Code = "open-to-all"   // nobody is asked who they are
	NoIcons     Code = "missing-icons" // programs show a placeholder
	NoShapes    Code = "missing-shapes"
	OtherShade  Code = "other-shade" // a dark theme that is set to be light, or the other way round
	Moving      Code = "moving"      // for a person who wishes for less motion
	Arranged    Code = "arranged"    // where things are on bars and in the dock
	MadeOfOther Code = "made-of"     // a backdrop made of a picture that has changed since
)

// Codes are all of them.
var Codes = []Code{LowContrast, LowFocus, BarOver, GroundOver, TermColour, TermOver, Alike, BrokenSheet, BrokenStyle, TallTitle, Costly, OpenToAll, NoIcons, NoShapes, OtherShade, Moving, MadeOfOther, Arranged}

// Fix is what would mend it: a value for a facet; lines for the person's own
// style sheet; a part of the backdrop, or the backdrop softened or made again, in its stead; other colours of the palette; or
// words alone.
type Fix struct {
	Facet string `json:"facet,omitempty"`
	Want  string `json:"want,omitempty"`
	Sheet string `json:"sheet,omitempty"`
	Crop  *Crop  `json:"crop,omitempty"`
	Soft  *Soft  `json:"soft,omitempty"`
	Again string `json:"again,omitempty"` // the backdrop that is to be made again, its full path
	// Colours are what some of the terminal palette that is worn would be, #rrggbb
	// by their numbers.
	Colours map[int]string `json:"colours,omitempty"`
	Text    string         `json:"text"`

	Says say.Message `json:"says"` // what the text says
}

// judging is one look that is judged.
type judging struct {
	d      *desk.Desk
	look   preview.Look
	styles map[string]*gtkcss.Cascade
	behind []*scenery // what may be behind everything, see [judging.scenery]
	looked bool
	spots  map[string][]preview.Spot
	seen   map[string][]preview.Mark
}

func judgingOf(d *desk.Desk, look preview.Look) judging {
	return judging{d: d.Snapshot(), look: look, styles: map[string]*gtkcss.Cascade{}, spots: map[string][]preview.Spot{}, seen: map[string][]preview.Mark{}}
}

// Layout judges where things are on a desk in a look, and nothing else of it.
func Layout(d *desk.Desk, look preview.Look) []Verdict {
	j := judgingOf(d, look)
	out := j.overlaps()
	for _, s := range d.Surfaces() {
		if s.Kind == "shell" {
			out = append(out, j.arranged(s)...)
		}
	}
	for i := range out {
		out[i].say()
	}
	slices.SortStableFunc(out, func(a, b Verdict) int { return rank(a) - rank(b) })
	return out
}

// Of judges a look of a desk.
func Of(d *desk.Desk, look preview.Look) []Verdict {
	j := judgingOf(d, look)
	out := []Verdict{}
	for _, s := range d.Surfaces() {
		switch {
		case s.Kind == "shell":
			out = append(out, j.pairs(s, desk.FacetBar, shell)...)
			out = append(out, j.bar(s)...)
			out = append(out, j.ground(s)...)
			out = append(out, j.arranged(s)...)
			out = append(out, j.broken(s, desk.FacetBar)...)
		case s.Kind == "terminal":
			out = append(out, j.terminal(s)...)
		case s.ID == "gtk2":
			out = append(out, j.pairs(s, desk.FacetWidgets, nil)...)
		case s.ID == "gtk3" || s.ID == "gtk4":
			out = append(out, j.pairs(s, desk.FacetWidgets, toolkitPairs(s.ID))...)
			out = append(out, j.alike(s)...)
			out = append(out, j.broken(s, desk.FacetWidgets)...)
			out = append(out, j.shade(s)...)
		}
		out = append(out, j.pictured(s)...)
		out = append(out, j.titles(s)...)
		out = append(out, j.madeOf(s)...)
		out = append(out, j.cost(s)...)
		out = append(out, j.open(s)...)
		out = append(out, j.icons(s)...)
		out = append(out, j.shapes(s)...)
	}
	out = together(append(out, j.overlaps()...))
	for i := range out {
		out[i].say()
		j.locate(&out[i])
	}
	slices.SortStableFunc(out, func(a, b Verdict) int { return rank(a) - rank(b) })
	return out
}

// say puts a verdict into words.
func (v *Verdict) say() {
	v.Text = v.Says.String()
	for i := range v.Remedies {
		v.Remedies[i].Text = v.Remedies[i].Says.String()
	}
}

// rank puts what is broken and what is grave first, and what only costs last.
func rank(v Verdict) int {
	switch {
	case v.Code == BrokenSheet && v.Grave:
		return -1 // others may come of it
	case v.Grave:
		return 0
	case v.Code == Costly:
		return 2
	}
	return 1
}

// together makes one of the verdicts that are the same of several surfaces.
func together(all []Verdict) []Verdict {
	var out []Verdict
	for _, v := range all {
		i := slices.IndexFunc(out, func(o Verdict) bool {
			return o.Code == v.Code && o.Facet == v.Facet && v.Parts != nil && o.Surface != v.Surface && slices.Equal(o.Parts, v.Parts)
		})
		if i < 0 {
			out = append(out, v)
			continue
		}
		out[i].Also = append(out[i].Also, v.Surface)
	}
	return out
}

func (j *judging) of(surface string) *gtkcss.Cascade {
	if j.styles[surface] == nil {
		j.styles[surface] = preview.Styles(j.d, j.look, surface)
	}
	return j.styles[surface]
}

// with is the judging of the same with something else for a facet of a surface.
func (j *judging) with(facet, surface, value string) *judging {
	return &judging{d: j.d, look: j.look.With(facet, surface, value), styles: map[string]*gtkcss.Cascade{}, spots: map[string][]preview.Spot{}}
}

// otherShade is the shade that a surface does not wear, "" if it has none.
func (j *judging) otherShade(s desk.Surface) string {
	if _, has := s.Facet(desk.FacetDark); !has {
		return ""
	}
	if j.look.Of(desk.FacetDark, s.ID) == "dark" {
		return "light"
	}
	return "dark"
}

// maxTried bounds how many other pieces are tried for a remedy.
const maxTried = 24

// others are the pieces that a surface could wear in a facet's stead.
func (j *judging) others(s desk.Surface, facet string) []string {
	f, ok := s.Facet(facet)
	if !ok {
		return nil
	}
	now := j.look.Of(facet, s.ID)
	all := slices.DeleteFunc(reading.Choices(j.d, s, f), func(name string) bool { return name == now || name == "" })
	return all[:min(len(all), maxTried)]
}

// nearest is the piece, of those a surface could wear, in which something is well
// and whose ground and ink are nearest to those worn.
func (j *judging) nearest(s desk.Surface, facet string, well func(*judging) bool) string {
	type ground struct{ fill, ink colour.Colour }
	at := func(j *judging) ground {
		if s.ID == "gtk2" {
			text := preview.Older(j.d, j.look)["text"]
			return ground{ofOlder(text.Ground), ofOlder(text.Ink)}
		}
		node := "window.background"
		if facet != desk.FacetWidgets {
			node = "panel.top"
		}
		st := j.of(s.ID).Compute(node)
		return ground{opaque(st.Fill()), opaque(st.Colour("color"))}
	}
	was := at(j)
	best, least := "", 9.0
	for _, name := range j.others(s, facet) {
		other := j.with(facet, s.ID, name)
		if !well(other) {
			continue
		}
		g := at(other)
		if apart := colour.Distance(was.fill, g.fill) + colour.Distance(was.ink, g.ink); apart < least {
			best, least = name, apart
		}
	}
	return best
}

func opaque(c gtkcss.Colour) colour.Colour { return colour.Colour{R: c.R, G: c.G, B: c.B} }

func contrast(a, b gtkcss.Colour) float64 { return colour.Contrast(opaque(a), opaque(b)) }

// decimal writes a contrast, never larger than it is.
func decimal(ratio float64) string { return strconv.FormatFloat(math.Floor(ratio*10)/10, 'f', 1, 64) }
