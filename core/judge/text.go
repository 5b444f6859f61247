package judge

import (
	"cmp"
	"fmt"
	"image"
	"math"
	"slices"
	"strings"

	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/gtkrc"
	"ivelt/core/imagefile"
	"ivelt/core/palette"
	"ivelt/core/preview"
	"ivelt/core/say"
)

const (
	sign = 3.0 // what signs, and where the keyboard is, need
	off  = 2.0 // what is off needs (our own measure)
)

// pair is text, or a line, on a ground, as a path of nodes.
type pair struct {
	what  say.Word
	path  string
	needs float64
	line  bool   // what shows where the keyboard is
	mends string // the selector of a rule that sets its colour and no other's; "" if there is none
	on    string // the control of [preview.Sheet] that it stands in the middle of; "" for none
}

var toolkit = []pair{
	{"text", "window.background label", palette.Legible, false, "", ""},
	{"text in lists", "window.background list row label", palette.Legible, false, "row:not(:selected) label", ""},
	{"the selected row", "window.background list row:selected label", palette.Legible, false, "row:selected label", ""},
	{"selected text", "window.background entry:focus selection:focus", palette.Legible, false, "entry selection", ""},
	{"links", "window.background label link:link", palette.Legible, false, "label link:link", ""},
	{"link buttons", "window.background button.link.flat.text-button:link label", palette.Legible, false, "button.link label", ""},
	{"buttons", "window.background button.text-button label", palette.Legible, false, "button:not(:active):not(:checked):not(:disabled):not(.suggested-action):not(.destructive-action):not(.link) label", "button"},
	{"a pressed button", "window.background button.text-button:active label", palette.Legible, false, "button:active label", "button:active"},
	{"the default button", "window.background button.suggested-action.text-button label", palette.Legible, false, "button.suggested-action label", "button.suggested-action"},
	{"delete buttons", "window.background button.destructive-action.text-button label", palette.Legible, false, "button.destructive-action label", "button.destructive-action"},
	{"typed text", "window.background entry", palette.Legible, false, "entry:not(:disabled)", "entry"},
	{"titles", "window.background headerbar.titlebar label.title", palette.Legible, false, "headerbar label.title", "headerbar"},
	{"tooltips", "tooltip.background label", palette.Legible, false, "tooltip label", ""},
	{"disabled text", "window.background label:disabled", off, false, "label:disabled", ""},
	{"disabled buttons", "window.background button.text-button:disabled label:disabled", off, false, "button:disabled label", "button:disabled"},
	{"the keyboard focus", "window.background entry:focus", sign, true, "entry:focus", ""},
}

// toolkitPairs are the texts of a toolkit's windows. In GTK 4 the text of an entry is a node
// of its own and has the keyboard; the entry has it within (gtkentry.c, gtkwindow.c of 4.8).
func toolkitPairs(surface string) []pair {
	if surface != "gtk4" {
		return toolkit
	}
	out := slices.Clone(toolkit)
	for i, p := range out {
		out[i].path = inGTK4.Replace(p.path + " ")
		out[i].mends = strings.ReplaceAll(p.mends, "entry:focus", "entry:focus-within")
	}
	return out
}

var inGTK4 = strings.NewReplacer(
	"entry:focus selection:focus ", "entry:focus-within text:focus:focus-within selection:focus:focus-within ",
	"entry:focus ", "entry:focus-within ",
	"entry ", "entry text ",
)

var shell = []pair{
	{"notices", "notice label", palette.Legible, false, "", ""},
	{"the default button of notices", "notice button.default", palette.Legible, false, "", ""},
}

// pairs holds the texts of a surface against what they stand on.
func (j *judging) pairs(s desk.Surface, facet string, pairs []pair) []Verdict {
	measure := func(j *judging) (low, lines []Part) {
		if s.ID == "gtk2" {
			return older(j.d, j.look), nil
		}
		return j.short(s.ID, pairs)
	}
	low, lines := measure(j)
	var out []Verdict
	for _, of := range []struct {
		code  Code
		parts []Part
	}{{LowContrast, low}, {LowFocus, lines}} {
		if of.parts == nil {
			continue
		}
		worst := of.parts[0]
		v := Verdict{Surface: s.ID, Facet: facet, Code: of.code, Ratio: worst.Ratio, Needs: worst.Needs, Grave: grave(worst), Parts: of.parts}
		v.Says = say.Of("judge/contrast-too-low", say.Upper(say.Word(worst.What)), s.Named(), decimal(worst.Ratio), decimal(worst.Needs), needing(worst))
		switch {
		case of.code == LowFocus && worst.Ratio <= 1:
			v.Says = say.Of("judge/nothing-shows", say.Word(worst.What), s.Named())
		case of.code == LowFocus:
			v.Says = say.Of("judge/what-shows-has-against-what", say.Word(worst.What), s.Named(), decimal(worst.Ratio))
		}
		well := func(other *judging) bool {
			low, lines := measure(other)
			return of.code == LowContrast && low == nil || of.code == LowFocus && lines == nil
		}
		if shade := j.otherShade(s); shade != "" && well(j.with(desk.FacetDark, s.ID, shade)) {
			v.Remedies = append(v.Remedies, Fix{Facet: desk.FacetDark, Want: shade, Says: say.Of("judge/shade-well", shade)})
		}
		if accent := j.nearerAccent(s, well); accent != "" {
			v.Remedies = append(v.Remedies, Fix{Facet: desk.FacetAccent, Want: accent, Says: say.Of("judge/nearest-accent-same-hue-well", accent)})
		}
		if name := j.nearest(s, facet, well); name != "" {
			v.Remedies = append(v.Remedies, Fix{Facet: facet, Want: name, Says: say.Of("judge/themes-place-nearest-well", name)})
		}
		if sheet := fixing(of.parts); sheet != "" && ownSheet(s, facet) != "" {
			v.Remedies = append(v.Remedies, Fix{Sheet: sheet, Says: say.Of("judge/or-keep-theme-set-nearest")})
		}
		if v.Remedies == nil {
			v.Remedies = []Fix{{Says: say.Of("judge/wear-another-theme-or-tell")}}
		}
		out = append(out, v)
	}
	return out
}

// grave tells what can hardly be made out.
func grave(p Part) bool {
	return p.Ratio < 2 && p.Needs >= palette.Legible || p.Ratio < 1.5 && p.Needs >= sign
}

// nearerAccent is the accent of the same hue, lighter or darker by the least, with
// which something is well on a surface; "" if the accent does not matter.
func (j *judging) nearerAccent(s desk.Surface, well func(*judging) bool) string {
	now, err := colour.Parse(j.look.Of(desk.FacetAccent, s.ID))
	if _, has := s.Facet(desk.FacetAccent); !has || err != nil {
		return ""
	}
	l, chroma, hue := now.LCH()
	for step := 0.02; step < 0.7; step += 0.02 {
		for _, to := range []float64{l - step, l + step} {
			if to < 0.02 || to > 0.98 {
				continue
			}
			if accent := colour.OfLCH(to, chroma, hue).Hex(); well(j.with(desk.FacetAccent, s.ID, accent)) {
				return accent
			}
		}
	}
	return ""
}

func needing(p Part) say.Word {
	if p.Needs == off {
		return "to be visible"
	}
	return "for text"
}

// ownSheet is where the person's own sheet over a facet's theme is, "" if there is
// no such thing.
func ownSheet(s desk.Surface, facet string) string {
	f, _ := s.Facet(facet)
	return f.Lookup.Own
}

// fixing is the sheet that sets the nearest colours that do, "" if not all of
// them can be set.
func fixing(parts []Part) string {
	var b strings.Builder
	for _, p := range parts {
		if p.Mends == "" || p.Nearest == "" {
			return ""
		}
		property := "color"
		if p.Line {
			property = "border-color"
		}
		if p.Faded {
			property = "opacity: 1; " + property
		}
		fmt.Fprintf(&b, "%s { %s: %s; }\n", p.Mends, property, p.Nearest)
	}
	return b.String()
}

func ofOlder(c gtkrc.Colour) colour.Colour { return colour.Colour{R: c[0], G: c[1], B: c[2]} }

// older are the texts of GTK 2 that have less contrast than they need.
func older(d *desk.Desk, look preview.Look) []Part {
	var low []Part
	for what, of := range preview.Older(d, look) {
		needs := palette.Legible
		if strings.HasPrefix(what, "disabled ") {
			needs = off
		}
		ink, ground := ofOlder(of.Ink), ofOlder(of.Ground)
		ratio := colour.Contrast(ink, ground)
		if ratio >= needs {
			continue
		}
		part := Part{What: what, Ratio: ratio, Needs: needs, Ink: ink.Hex(), Ground: ground.Hex()}
		if near, ok := colour.Nearest(ink, ground, needs); ok {
			part.Nearest = near.Hex()
		}
		low = append(low, part)
	}
	slices.SortFunc(low, func(a, b Part) int {
		return cmp.Or(cmp.Compare(a.Ratio/a.Needs, b.Ratio/b.Needs), cmp.Compare(a.What, b.What))
	})
	return low
}

// short are the pairs of a surface that have less contrast than they need: text, and what
// shows where the keyboard is; the worst first, by what they need.
func (j *judging) short(surface string, pairs []pair) (low, lines []Part) {
	c := j.of(surface)
	for _, p := range pairs {
		h := j.held(surface, p)
		needs := p.needs
		if h.large {
			needs = min(needs, sign)
		}
		if h.ratio >= needs {
			continue
		}
		part := Part{What: string(p.what), Ratio: h.ratio, Needs: needs, Ink: h.ink.Hex(), Ground: h.ground.Hex(), Mends: p.mends, Line: p.line, Faded: h.faded}
		from := h.ink
		if h.ratio <= 1 { // nothing shows it: the colour of what is chosen does elsewhere
			from = held(c, pair{path: "window.background list row:selected"}).ground
		}
		if near, ok := colour.Nearest(from, h.ground, needs); ok {
			part.Nearest = near.Hex()
		}
		if p.line {
			lines = append(lines, part)
		} else {
			low = append(low, part)
		}
	}
	slices.SortStableFunc(low, func(a, b Part) int { return cmp.Compare(a.Ratio/a.Needs, b.Ratio/b.Needs) })
	return low, lines
}

// holding is a pair as a theme paints it.
type holding struct {
	ratio       float64
	large       bool // its text is: 24 px, or 18.66 px and bold (WCAG 2.2, "large scale")
	ink, ground colour.Colour
	faded       bool
	writes      gtkcss.Colour // the ink, before it lies on anything
	pictured    bool          // pictures fill what it stands on
}

func held(c *gtkcss.Cascade, p pair) holding {
	nodes := strings.Fields(p.path)
	ground := gtkcss.Colour{R: 1, G: 1, B: 1, A: 1}
	var beside gtkcss.Colour
	var st *gtkcss.Style
	faded, pictured := 1.0, false
	for i := range nodes {
		st = c.Compute(strings.Join(nodes[:i+1], " "))
		beside = ground
		faded *= st.Opacity()
		fill := st.Fill()
		pictured = pictured && fill.A < 1 || st.Pictured()
		fill.A *= faded
		ground = fill.Over(ground)
	}
	if p.line {
		return focusOf(c, p, st, beside)
	}
	font, ink := st.Font(), st.Colour("color")
	ink.A *= faded
	writes := ink
	ink = ink.Over(ground)
	return holding{contrast(ink, ground), font.Size >= 24 || font.Size >= 18.66 && font.Weight >= 700, opaque(ink), opaque(ground), faded < 1, writes, pictured}
}

// focusOf holds what changes when the keyboard comes to a control against what is
// beside it: its border, the line around it, a shadow without blur, its ground.
func focusOf(c *gtkcss.Cascade, p pair, st *gtkcss.Style, beside gtkcss.Colour) holding {
	was := c.Compute(unfocused.Replace(p.path))
	best := holding{ratio: 1, ink: opaque(st.Borders()[0].Over(beside)), ground: opaque(beside)}
	take := func(of gtkcss.Colour) {
		of = of.Over(beside)
		if r := contrast(of, beside); r > best.ratio {
			best.ratio, best.ink = r, opaque(of)
		}
	}
	widths, before := st.BorderWidth(), was.BorderWidth()
	for i, side := range st.Borders() {
		if widths[i] > 0 && (side != was.Borders()[i] || widths[i] != before[i]) {
			take(side)
		}
	}
	if st.Length("outline-width") > 0 {
		take(st.Colour("outline-color"))
	}
	for i, sh := range st.Shadows("box-shadow") {
		if old := was.Shadows("box-shadow"); i >= len(old) || old[i] != sh {
			take(sh.Colour)
		}
	}
	if fill := st.Fill(); fill != was.Fill() {
		take(fill)
	}
	return best
}

var unfocused = strings.NewReplacer(":focus-within", "", ":focus", "")

// Focus tells how far what shows that an entry has the keyboard stands out from what is
// beside it, under a look's theme: a ratio by WCAG 2.2, 1 if nothing shows it.
func Focus(d *desk.Desk, look preview.Look, surface string) float64 {
	j := judging{d: d.Snapshot(), look: look, styles: map[string]*gtkcss.Cascade{}}
	for _, p := range toolkitPairs(surface) {
		if p.line {
			return j.held(surface, p).ratio
		}
	}
	return 1
}

// On is what text is written with, and on what.
type On struct{ Ink, Ground colour.Colour }

// Texts tells what each text of a toolkit's windows is written with under a look's theme, and
// on what, by what it is.
func Texts(d *desk.Desk, look preview.Look, surface string) map[string]On {
	j := judging{d: d.Snapshot(), look: look, styles: map[string]*gtkcss.Cascade{}}
	out := map[string]On{}
	for _, p := range toolkitPairs(surface) {
		if !p.line {
			h := j.held(surface, p)
			out[string(p.what)] = On{h.ink, h.ground}
		}
	}
	return out
}

func (j *judging) held(surface string, p pair) holding {
	h := held(j.of(surface), p)
	switch { // what its colours do not tell, its pixels do
	case p.line && h.ratio < p.needs:
		return j.focusSeen(surface, h)
	case h.pictured && p.on != "":
		if im := j.control(surface, p.on); im != nil {
			h.ground = Middle(im, image.Rect(20, 12, focusW-20, focusH-12))
			h.ink = opaque(h.writes.Over(gtkcss.Colour{R: h.ground.R, G: h.ground.G, B: h.ground.B, A: 1}))
			h.ratio = colour.Contrast(h.ink, h.ground)
		}
	}
	return h
}

// control is the picture of one control and of what is around it, nil if there is none.
func (j *judging) control(surface, name string) *image.RGBA {
	svg := preview.Sheet(j.d, j.look, surface, focusW, focusH, []preview.Placed{{Name: name, X: 20, Y: 12, W: focusW - 40, H: focusH - 24}})
	im, _ := imagefile.Raster(j.look.Context(), svg, focusW).(*image.RGBA)
	return im
}

// Middle is the mean colour of what is in the middle of a box, where its text would stand.
func Middle(im image.Image, box image.Rectangle) colour.Colour {
	at := box.Min.Add(box.Max).Div(2)
	var sum colour.Colour
	n := 0.0
	for y := at.Y - 2; y <= at.Y+2; y++ {
		for x := at.X - box.Dx()/4; x <= at.X+box.Dx()/4; x++ {
			r, g, b, _ := im.At(x, y).RGBA()
			sum.R, sum.G, sum.B = sum.R+float64(r)/0xffff, sum.G+float64(g)/0xffff, sum.B+float64(b)/0xffff
			n++
		}
	}
	return colour.Colour{R: sum.R / n, G: sum.G / n, B: sum.B / n}
}

// focusSeen is what of the focus is seen in the pixels of an entry that has it, where that is
// more than its colours tell: borders and grounds may be pictures and gradients.
func (j *judging) focusSeen(surface string, by holding) holding {
	before, after := j.control(surface, "entry"), j.control(surface, "entry:focus")
	if before == nil || after == nil {
		return by
	}
	if r, ink, ground := Changed(before, after); r > by.ratio {
		by.ratio, by.ink, by.ground = r, ink, ground
	}
	return by
}

const focusW, focusH = 160, 60 // px of the picture of an entry and what is around it

// Changed tells how far what is new in a picture stands out from its ground, the first of its
// pixels: as a ratio by WCAG 2.2, with the colour that does most and that of the ground. The
// ratio is 1 if nothing changes by more than what the eye misses (4/255).
func Changed(before, after *image.RGBA) (ratio float64, ink, ground colour.Colour) {
	of := func(im *image.RGBA, x, y int) colour.Colour {
		p := im.RGBAAt(x, y)
		return colour.Colour{R: float64(p.R) / 255, G: float64(p.G) / 255, B: float64(p.B) / 255}
	}
	box := after.Bounds().Intersect(before.Bounds())
	ground = of(before, box.Min.X, box.Min.Y)
	ratio, ink = 1, ground
	for y := box.Min.Y; y < box.Max.Y; y++ {
		for x := box.Min.X; x < box.Max.X; x++ {
			was, is := of(before, x, y), of(after, x, y)
			if max(math.Abs(was.R-is.R), math.Abs(was.G-is.G), math.Abs(was.B-is.B)) <= 4.0/255 {
				continue
			}
			if r := colour.Contrast(is, ground); r > ratio {
				ratio, ink = r, is
			}
		}
	}
	return ratio, ink, ground
}

// locate finds where a verdict is seen in the picture: its parts, as far as they
// are painted in a scene, else the surface's.
func (j *judging) locate(v *Verdict) {
	switch v.Code {
	case LowContrast, LowFocus:
		if v.Surface == "gtk2" {
			j.marked(v, desk.FacetWidgets)
			return
		}
		for _, scene := range []string{"desk", "controls"} {
			for _, part := range v.Parts {
				for _, p := range slices.Concat(toolkitPairs(v.Surface), shell) {
					if string(p.what) == part.What {
						v.Marks = append(v.Marks, j.painted(scene, v.Surface, p.path)...)
					}
				}
			}
			if v.Marks != nil {
				v.Scene, v.Marks = scene, v.Marks[:min(len(v.Marks), maxMarks)]
				return
			}
		}
	case Alike, BrokenSheet, TallTitle, Costly:
		facet := v.Facet
		switch facet {
		case desk.FacetOpacity, desk.FacetBlur, desk.FacetSaturation:
			facet = desk.FacetBar
		case desk.FacetFontTitle:
			facet = desk.FacetFrame
		}
		j.marked(v, facet)
	case GroundOver:
		v.Scene, v.Marks = "desk", j.painted("desk", v.Surface, "ground label")
	case BarOver:
		v.Scene = "desk"
		v.Marks = append(j.painted("desk", v.Surface, "panel label.clock"), j.painted("desk", v.Surface, "panel image.status")...)
	}
}

// marked is where a facet of a verdict's surface is seen.
func (j *judging) marked(v *Verdict, facet string) {
	for _, scene := range []string{"desk", "older"} {
		for _, m := range j.marks(scene) {
			if m.Facet == facet && m.Surface == v.Surface {
				v.Scene, v.Marks = scene, []preview.Mark{m}
				return
			}
		}
	}
}

const maxMarks = 12

// marks are the facets that are seen in a scene.
func (j *judging) marks(scene string) []preview.Mark {
	if j.seen[scene] == nil {
		_, j.seen[scene] = preview.DrawMarked(j.d, j.look, scene)
	}
	return j.seen[scene]
}

// painted are the places where a path of nodes is painted in a scene.
func (j *judging) painted(scene, surface, path string) []preview.Mark {
	if j.spots[scene] == nil {
		j.spots[scene] = preview.Spots(j.d, j.look, scene)
	}
	nodes := strings.Fields(path)
	var out []preview.Mark
	for _, spot := range j.spots[scene] {
		if spot.Surface == surface && stands(spot.Node, nodes) {
			out = append(out, preview.Mark{Surface: surface, X: spot.X, Y: spot.Y, W: spot.W, H: spot.H})
		}
	}
	return out
}

// stands tells whether a node is the last of a path, with the others above it in
// their order, each in the states that the path says and no other that matters.
func stands(n *gtkcss.Node, path []string) bool {
	for i, last := len(path)-1, true; i >= 0; last = false {
		if n == nil {
			return false
		}
		want := gtkcss.New(path[i])
		if n.Name == want.Name && within(want.Classes, n.Classes) && alike(n, want) {
			i--
		} else if last {
			return false
		}
		n = n.Parent()
	}
	return true
}

func within(some, all []string) bool {
	return !slices.ContainsFunc(some, func(s string) bool { return !slices.Contains(all, s) })
}

func alike(a, b *gtkcss.Node) bool {
	for _, state := range []string{"selected", "active", "disabled", "focus", "checked"} {
		if a.Is(state) != b.Is(state) {
			return false
		}
	}
	if only := func(n *gtkcss.Node) bool { return n.Is("focus-within") && !n.Is("focus") }; only(a) != only(b) {
		return false
	}
	for _, class := range []string{"suggested-action", "destructive-action", "link", "title", "flat"} {
		if slices.Contains(a.Classes, class) != slices.Contains(b.Classes, class) {
			return false
		}
	}
	return true
}
