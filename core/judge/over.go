package judge

import (
	"cmp"
	"fmt"
	"image"
	"maps"
	"math"
	"path"
	"slices"
	"strconv"
	"strings"

	"ivelt/core/backdrop"
	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/layout"
	"ivelt/core/palette"
	"ivelt/core/preview"
	"ivelt/core/say"
)

// Crop is a part of a picture, each of its numbers a share of the whole, 0–1.
type Crop struct {
	Picture string  `json:"picture"` // its full path
	X       float64 `json:"x"`
	Y       float64 `json:"y"`
	W       float64 `json:"width"`
	H       float64 `json:"height"`
}

// Of is the part of a picture of some size.
func (c Crop) Of(whole image.Rectangle) image.Rectangle {
	w, h := float64(whole.Dx()), float64(whole.Dy())
	return image.Rect(int(c.X*w+0.5), int(c.Y*h+0.5), int((c.X+c.W)*w+0.5), int((c.Y+c.H)*h+0.5)).Add(whole.Min).Intersect(whole)
}

// says tells in words which part it is.
func (c Crop) says() string {
	side := func(at, of float64, low, high string) string {
		switch free := 1 - of; {
		case free < 0.01 || math.Abs(at-free/2) < 0.05*free:
			return ""
		case at < free/2:
			return low
		default:
			return high
		}
	}
	return fmt.Sprintf("the %s %.0f %%", cmp.Or(strings.TrimSpace(side(c.Y, c.H, "upper", "lower")+" "+side(c.X, c.W, "left", "right")), "middle"), 100*c.W*c.H)
}

const step = 5 // of opacity and strength, percent, that are looked through at first

// apartAs is how far apart colours in OKLab set a picture off as much as a contrast of 3 to 1 does (our
// own measure).
const apartAs = 0.12

// worstTenth is the contrast that a tenth of the area does not reach: an ink's over
// a fill of some opacity over what is behind. Of a picture its colour counts too.
func worstTenth(ink, fill gtkcss.Colour, opacity float64, behind []colour.Colour, pictured bool) float64 {
	fill.A *= opacity
	all := make([]float64, len(behind))
	for i, b := range behind {
		ground := fill.Over(gtkcss.Colour{R: b.R, G: b.G, B: b.B, A: 1})
		a, b := luminance(ink.Over(ground)), luminance(ground)
		all[i] = (max(a, b) + 0.05) / (min(a, b) + 0.05)
		if pictured {
			apart := colour.Distance(colour.Colour{R: ink.R, G: ink.G, B: ink.B}, colour.Colour{R: ground.R, G: ground.G, B: ground.B})
			all[i] = max(all[i], sign*apart/apartAs)
		}
	}
	slices.Sort(all)
	return all[len(all)/10]
}

// luminance is that of a colour as a screen of 8 bits a part shows it.
func luminance(c gtkcss.Colour) float64 {
	part := func(v float64) float64 { return linear[int(min(max(v, 0), 1)*255+0.5)] }
	return 0.2126*part(c.R) + 0.7152*part(c.G) + 0.0722*part(c.B)
}

// linear are the 256 parts of sRGB as light (WCAG 2.2, "relative luminance").
var linear = func() (out [256]float64) {
	for i := range out {
		out[i] = colour.Of8(uint8(i), uint8(i), uint8(i)).Luminance()
	}
	return out
}()

// where is one place of one screen with one picture on it.
type where struct {
	monitor desk.Monitor
	picture string
	at      string // which of the places, see [thing]
	behind  []colour.Colour
}

// site is what lies over the backdrop, at some places of each monitor.
type site struct {
	things           []thing
	percent          int     // how opaque their fills are
	blur, saturation float64 // of what shows through, px and 1 for as it is
	places           func(m desk.Monitor) []place
	edge             string // along which the backdrop is softened
	named            string // what the backdrop is softened behind
}

// place is a part of a monitor, px.
type place struct {
	of string // which things are there
	at image.Rectangle
}

// well tells whether everything can be made out.
func (s site) well(all []where) bool { return seen(s.things, s.percent, all) }

// over is what is behind a site, on each monitor and of each picture. crop is the part of a picture
// that stands for it, empty for all; k is how much smaller everything may be taken, for what is only
// tried.
func (j *judging) over(s site, of []*scenery, crop image.Rectangle, k int) []where {
	var out []where
	for _, m := range j.monitors() {
		own := slices.ContainsFunc(of, func(p *scenery) bool { return p.on == m.Name })
		for _, p := range of {
			if p.on != "" && p.on != m.Name || p.on == "" && own {
				continue // it is not seen there
			}
			out = append(out, j.overOne(s, m, p, crop, k)...)
		}
	}
	return out
}

// overOne is that of one monitor and one picture.
func (j *judging) overOne(s site, m desk.Monitor, p *scenery, crop image.Rectangle, k int) (out []where) {
	screen := image.Rect(0, 0, max(m.Width/k, 1), max(m.Height/k, 1))
	for _, place := range s.places(m) {
		at := image.Rect(place.at.Min.X/k, place.at.Min.Y/k, max(place.at.Max.X/k, place.at.Min.X/k+1), max(place.at.Max.Y/k, place.at.Min.Y/k+1)).Intersect(screen)
		if !at.Empty() {
			out = append(out, where{m, p.path, place.of, sampled(j.screen(p, m, crop, float64(k), at, s.blur/float64(k), s.saturation))})
		}
	}
	return out
}

func number(look preview.Look, facet, surface string, least, most, usual int) int {
	n, err := strconv.Atoi(look.Of(facet, surface))
	if err != nil {
		return usual
	}
	return min(max(n, least), most)
}

// thing is something that lies over the backdrop: words, signs, an icon in colour.
type thing struct {
	what     say.Word
	at       string // the place it is at, see [place]
	inks     []gtkcss.Colour
	fill     gtkcss.Colour // what it has under it, over the backdrop
	needs    float64
	pictured bool // it is a picture, which its colour sets off too
}

// barSite is the site of a surface's bar; false if there is none.
func (j *judging) barSite(s desk.Surface) (out site, ok bool) {
	known := map[string][]preview.AtEdge{}
	bars := func(m desk.Monitor) []preview.AtEdge {
		if _, ok := known[m.Name]; !ok {
			known[m.Name] = preview.BarsOn(j.d, j.look, j.monitors(), slices.Index(j.monitors(), m))
		}
		return known[m.Name]
	}
	for _, m := range j.monitors() {
		if all := bars(m); len(all) > 0 && out.edge == "" {
			out.edge = map[layout.Edge]string{layout.Top: "upper", layout.Bottom: "lower", layout.Left: "left", layout.Right: "right"}[all[0].Edge]
		}
	}
	if out.edge == "" {
		return out, false
	}
	st := j.of(s.ID)
	fill := st.Compute("panel.top").Fill()
	ink := func(node string) []gtkcss.Colour { return []gtkcss.Colour{st.Compute(node).Colour("color")} }
	out.things = []thing{{"words", "", ink("panel.top label.clock"), fill, palette.Legible, false}, {"signs", "", ink("panel.top image.status"), fill, sign, false}}
	icons := preview.OnBar(j.d, j.look)
	for _, name := range slices.Sorted(maps.Keys(icons)) {
		if inks := iconInks(pictureOf(j.look.Context(), j.d, icons[name], 24), 4); inks != nil {
			out.things = append(out.things, thing{say.Word("the icon of " + name), "", inks, fill, sign, false})
		}
	}
	out.percent = number(j.look, desk.FacetOpacity, s.ID, 0, 100, 100)
	out.blur = float64(number(j.look, desk.FacetBlur, s.ID, 0, 64, 0))
	out.saturation = float64(number(j.look, desk.FacetSaturation, s.ID, 0, 300, 100)) / 100
	out.named = "the bar"
	out.places = func(m desk.Monitor) (all []place) {
		for _, b := range bars(m) {
			all = append(all, place{"", image.Rect(m.Scaled(b.At.Min.X), m.Scaled(b.At.Min.Y), m.Scaled(b.At.Max.X), m.Scaled(b.At.Max.Y))})
		}
		return all
	}
	return out, true
}

// groundSite is the site of what lies on the desk itself, whose names and icons a shell draws; false if
// there is nothing.
func (j *judging) groundSite(s desk.Surface) (out site, ok bool) {
	st := j.of(s.ID).Compute("ground label")
	names := thing{"the names of icons", "names", []gtkcss.Colour{st.Colour("color")}, st.Fill(), palette.Legible, false}
	for _, shadow := range slices.Backward(st.Shadows("text-shadow")) {
		// Beside a letter its shadow is half as strong as within: a Gaussian at the edge of what it blurs.
		shadow.Colour.A /= 2
		names.fill = shadow.Colour.Over(names.fill)
	}
	out = site{things: []thing{names}, percent: 100, saturation: 1, edge: "left", named: "the icons"}
	for _, lying := range preview.Ground(j.d, j.look, 1280, 800) {
		ok = true
		if lying.Icon == "" {
			continue
		}
		if inks := iconInks(pictureOf(j.look.Context(), j.d, lying.Icon, 64), 10); inks != nil {
			out.things = append(out.things, thing{say.Word("the icon of " + lying.Name), lying.Name, inks, gtkcss.Colour{}, sign, true})
		}
	}
	known := map[string][]place{}
	out.places = func(m desk.Monitor) []place {
		if all, ok := known[m.Name]; ok {
			return all
		}
		on := func(r image.Rectangle) image.Rectangle {
			return image.Rect(m.Scaled(r.Min.X), m.Scaled(r.Min.Y), m.Scaled(r.Max.X), m.Scaled(r.Max.Y))
		}
		var all []place
		for _, lying := range preview.Ground(j.d, j.look, int(float64(m.Width)/m.Times()), int(float64(m.Height)/m.Times())) {
			all = append(all, place{lying.Name, on(lying.At)})
			if !lying.Caption.Empty() {
				all = append(all, place{"names", on(lying.Caption)})
			}
		}
		known[m.Name] = all
		return all
	}
	return out, ok
}

// iconInks are the darkest and the lightest of an icon's colours that make a part
// of it, one of so many: either of them may set it off from its ground.
func iconInks(im image.Image, part int) []gtkcss.Colour {
	if im == nil {
		return nil
	}
	var all []colour.Colour
	for y := im.Bounds().Min.Y; y < im.Bounds().Max.Y; y++ {
		for x := im.Bounds().Min.X; x < im.Bounds().Max.X; x++ {
			if r, g, b, a := im.At(x, y).RGBA(); a > 0xc000 {
				k := 65535 / float64(a)
				all = append(all, colour.Colour{R: float64(r) / 65535 * k, G: float64(g) / 65535 * k, B: float64(b) / 65535 * k})
			}
		}
	}
	if len(all) == 0 {
		return nil
	}
	slices.SortFunc(all, func(a, b colour.Colour) int { return cmp.Compare(a.Luminance(), b.Luminance()) })
	of := func(c colour.Colour) gtkcss.Colour { return gtkcss.Colour{R: c.R, G: c.G, B: c.B, A: 1} }
	return []gtkcss.Colour{of(all[len(all)/part]), of(all[len(all)-1-len(all)/part])}
}

// worstOf is the worst contrast of a thing over what is behind it, and where that is.
// Of several inks the one that is seen best counts, everywhere anew.
func worstOf(t thing, opacity float64, all []where) (ratio float64, at where) {
	ratio = 21
	for _, w := range all {
		if w.at != t.at {
			continue
		}
		best := 0.0
		for _, ink := range t.inks {
			best = max(best, worstTenth(ink, t.fill, opacity, w.behind, t.pictured))
		}
		if best < ratio {
			ratio, at = best, w
		}
	}
	return ratio, at
}

// bar holds what is on the bar against what shows through it: the worst tenth of
// what is under it, on every monitor and of every picture.
func (j *judging) bar(s desk.Surface) []Verdict {
	site, ok := j.barSite(s)
	if !ok || site.percent >= 100 || len(j.scenery()) == 0 {
		return nil
	}
	all := j.over(site, j.scenery(), image.Rectangle{}, heldAt)
	parts, at := lost(site.things, site.percent, all)
	if parts == nil {
		return nil
	}
	worst := parts[0]
	v := Verdict{Surface: s.ID, Facet: desk.FacetOpacity, Code: BarOver, Ratio: worst.Ratio, Needs: worst.Needs, Grave: grave(worst), Parts: parts}
	v.Says = say.Of("judge/bar-over-worst-tenth-backdrop", s.Named(), say.Word(worst.What), has(worst.What), decimal(worst.Ratio), decimal(worst.Needs), on(at, all))
	for percent := site.percent + 1; percent <= 100; percent += step {
		if percent = min(percent, 100); seen(site.things, percent, all) || percent < 100 && seen(site.things, min(percent+step-1, 100), all) {
			for !seen(site.things, percent, all) {
				percent++
			}
			v.Remedies = append(v.Remedies, Fix{Facet: desk.FacetOpacity, Want: strconv.Itoa(percent), Says: say.Of("judge/opaque-would-do", percent)})
			break
		}
	}
	v.Remedies = append(v.Remedies, j.remedies(s, site, all, (*judging).barSite)...)
	if v.Remedies == nil {
		v.Remedies = []Fix{{Says: say.Of("judge/no-opacity-would-do-wear")}}
	}
	return []Verdict{v}
}

// ground holds what lies on the desk itself against the backdrop, as [judging.bar].
func (j *judging) ground(s desk.Surface) []Verdict {
	if len(j.scenery()) == 0 {
		return nil
	}
	site, ok := j.groundSite(s)
	if !ok {
		return nil
	}
	all := j.over(site, j.scenery(), image.Rectangle{}, heldAt)
	parts, at := lost(site.things, site.percent, all)
	if parts == nil {
		return nil
	}
	worst := parts[0]
	v := Verdict{Surface: s.ID, Facet: desk.FacetBackdrop, Code: GroundOver, Ratio: worst.Ratio, Needs: worst.Needs, Grave: grave(worst), Parts: parts}
	v.Says = say.Of("judge/ground-over-worst-tenth-backdrop", s.Named(), say.Word(worst.What), has(worst.What), decimal(worst.Ratio), decimal(worst.Needs), on(at, all))
	v.Remedies = j.remedies(s, site, all, (*judging).groundSite)
	if v.Remedies == nil {
		v.Remedies = []Fix{{Says: say.Of("judge/no-backdrop-would-do-wear")}}
	}
	return []Verdict{v}
}

// remedies are what would do for a site besides the opacity of its fill: the other shade, and other
// backdrops.
func (j *judging) remedies(s desk.Surface, of site, all []where, again func(*judging, desk.Surface) (site, bool)) (out []Fix) {
	if shade := j.otherShade(s); shade != "" {
		if other, ok := again(j.with(desk.FacetDark, s.ID, shade), s); ok && seen(other.things, of.percent, all) {
			out = append(out, Fix{Facet: desk.FacetDark, Want: shade, Says: say.Of("judge/shade-well", shade)})
		}
	}
	if crop, ok := j.crop(of); ok {
		out = append(out, Fix{Crop: &crop, Says: say.Of("judge/another-part-backdrop-would-do", crop.says())})
	}
	for _, soft := range j.soften(of) {
		says := say.Of("judge/backdrop-lighter-would-do", of.named, int(100*soft.Strength+0.5))
		if soft.Blur > 0 {
			says = say.Of("judge/backdrop-blurred-would-do", of.named)
		} else if soft.Dark {
			says = say.Of("judge/backdrop-darker-would-do", of.named, int(100*soft.Strength+0.5))
		}
		out = append(out, Fix{Soft: &soft, Says: says})
	}
	if other, ok := j.otherBackdrop(of); ok {
		out = append(out, Fix{Facet: desk.FacetBackdrop, Want: other, Says: say.Of("judge/backdrops-place-nearest-over-well", strings.TrimSuffix(path.Base(other), path.Ext(other)))})
	}
	return out
}

func has(what string) say.Word {
	if strings.HasPrefix(what, "the icon") {
		return "has"
	}
	return "have"
}

// on says on which monitor and over which picture, where there are several.
func on(at where, all []where) say.Message {
	var out []say.Message
	if slices.ContainsFunc(all, func(w where) bool { return w.picture != at.picture }) {
		out = append(out, say.Line(" with %s", path.Base(at.picture)))
	}
	if slices.ContainsFunc(all, func(w where) bool { return w.monitor != at.monitor }) {
		out = append(out, say.Line(" on %s", at.monitor.Name))
	}
	return say.Join("", out...)
}

// lost are the things that cannot be made out at an opacity, the worst first, and where that one is.
// An icon that cannot be made out on its fill itself either is no matter of its opacity.
func lost(things []thing, percent int, all []where) (parts []Part, at where) {
	least := 21.0
	for _, t := range things {
		ratio, w := worstOf(t, float64(percent)/100, all)
		if ratio >= t.needs {
			continue
		}
		if t.fill.A > 0 && strings.HasPrefix(string(t.what), "the icon") {
			if solid, _ := worstOf(t, 1, all); solid < t.needs {
				continue
			}
		}
		parts = append(parts, Part{What: string(t.what), Ratio: ratio, Needs: t.needs})
		if ratio/t.needs < least {
			least, at = ratio/t.needs, w
		}
	}
	slices.SortStableFunc(parts, func(a, b Part) int { return cmp.Compare(a.Ratio/a.Needs, b.Ratio/b.Needs) })
	return parts, at
}

// seen tells whether nothing is lost.
func seen(things []thing, percent int, all []where) bool {
	for i := range things {
		if parts, _ := lost(things[i:i+1], percent, all); parts != nil {
			return false
		}
	}
	return true
}

// crop finds the largest part of the backdrop, and of those the nearest to its
// middle, over which a site is well on all monitors.
func (j *judging) crop(s site) (Crop, bool) {
	of := j.scenery()
	if mode, _, _ := preview.Lies(j.d, j.look); len(of) != 1 || mode != backdrop.Fill { // a part of it would fill no screen
		return Crop{}, false
	}
	whole := of[0].im.Bounds()
	m := j.monitors()[0]
	type try struct {
		r    image.Rectangle
		away float64
	}
	for _, zoom := range []float64{1, 0.85, 0.7} {
		shape := filling(whole, m.Width, m.Height)
		w, h := int(float64(shape.Dx())*zoom), int(float64(shape.Dy())*zoom)
		var tries []try
		for _, fx := range []float64{0.5, 0, 1, 0.25, 0.75} {
			for _, fy := range []float64{0.5, 0.75, 0.25, 1, 0} {
				x, y := whole.Min.X+int(fx*float64(whole.Dx()-w)), whole.Min.Y+int(fy*float64(whole.Dy()-h))
				t := try{image.Rect(x, y, x+w, y+h), math.Hypot(fx-0.5, fy-0.5)}
				if t.r != shape && !slices.ContainsFunc(tries, func(o try) bool { return o.r == t.r }) {
					tries = append(tries, t)
				}
			}
		}
		slices.SortStableFunc(tries, func(a, b try) int { return cmp.Compare(a.away, b.away) })
		for _, t := range tries {
			on := func(m desk.Monitor) bool {
				return s.well(j.overOne(s, m, of[0], t.r, tried))
			}
			if !slices.ContainsFunc(j.monitors(), func(m desk.Monitor) bool { return !on(m) }) && s.well(j.over(s, of, t.r, heldAt)) {
				at := t.r.Sub(whole.Min)
				w, h := float64(whole.Dx()), float64(whole.Dy())
				return Crop{of[0].path, float64(at.Min.X) / w, float64(at.Min.Y) / h, float64(at.Dx()) / w, float64(at.Dy()) / h}, true
			}
		}
	}
	return Crop{}, false
}

// otherBackdrop is the backdrop in place over which a site is well and whose
// colours are nearest to those of the one shown.
func (j *judging) otherBackdrop(s site) (string, bool) {
	best, least := "", 9.0
	was := middle(j.scenery()[0].im)
	for _, has := range j.d.Surfaces() {
		if has.Kind == "login" {
			continue
		}
		for _, file := range j.others(has, desk.FacetBackdrop) {
			of := sceneryOf(j.look.Context(), j.d, file, triedAt)
			if len(of) != 1 || !s.well(j.over(s, of, image.Rectangle{}, tried)) {
				continue
			}
			if apart := colour.Distance(was, middle(of[0].im)); apart < least {
				best, least = file, apart
			}
		}
	}
	return best, best != ""
}
