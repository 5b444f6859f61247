package judge

import (
	"cmp"
	"context"
	"fmt"
	"image"
	"io/fs"
	"math"
	"path"
	"slices"
	"strconv"
	"strings"
	"time"

	"golang.org/x/image/draw"

	"ivelt/core/backdrop"
	"ivelt/core/cache"
	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/imagefile"
	"ivelt/core/palette"
	"ivelt/core/preview"
	"ivelt/core/reading"
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

// scenery is one picture that may be behind everything, as it lies on the desk.
type scenery struct {
	path string
	im   image.Image
	w, h float64 // of the picture itself, px
	on   string  // the monitor that it is on, "" for all that have none of their own
}

// drawnAt is how large a picture without a size of its own is drawn, px; triedAt
// if it is only tried.
const (
	drawnAt, triedAt = 640, 320
	step             = 5     // of opacity, percent, that are looked through at first
	tried, heldAt    = 16, 2 // times smaller are screens for what is only tried, and for what is held
)

// scenery are the pictures of the backdrop of a look: one, or all of a folder that
// is shown in turn.
func (j *judging) scenery() []*scenery {
	if j.looked {
		return j.behind
	}
	j.looked = true
	for _, s := range j.d.Surfaces() {
		if s.Kind == "login" {
			continue
		}
		if file := j.look.Of(desk.FacetBackdrop, s.ID); file != "" {
			j.behind = sceneryOf(j.look.Context(), j.d, file, drawnAt)
			for i, m := range j.d.Monitors() {
				if own := j.look.OnMonitor(j.d, s.ID, i); own != file {
					for _, p := range sceneryOf(j.look.Context(), j.d, own, drawnAt) {
						p.on = m.Name
						j.behind = append(j.behind, p)
					}
				}
			}
			break
		}
	}
	return j.behind
}

func sceneryOf(ctx context.Context, d *desk.Desk, file string, size int) []*scenery {
	files := reading.Slides(d.Tree(), desk.Name(file))
	if files == nil {
		files = []string{desk.Name(file)}
	}
	var out []*scenery
	for _, name := range files {
		if p := knownOf(ctx, d, name, size); p.im != nil {
			out = append(out, &scenery{desk.Path(name), p.im, p.w, p.h, ""})
		}
	}
	return out
}

// ofPicture is the key of a picture that was looked at.
type ofPicture struct {
	file string
	size int // it was drawn at, if it has none of its own
}

type knownPicture struct {
	size  int64
	stamp time.Time
	im    image.Image
	w, h  float64 // px, of the picture itself
}

const maxWide = 1600 // px of a picture that is kept: more tells nothing

// pictureOf reads a picture of a desk, anew only if it changed; nil if it is none.
func pictureOf(ctx context.Context, d *desk.Desk, name string, size int) image.Image {
	return knownOf(ctx, d, name, size).im
}

func knownOf(ctx context.Context, d *desk.Desk, name string, size int) knownPicture {
	info, err := fs.Stat(d.Tree(), name)
	if err != nil {
		return knownPicture{}
	}
	holds := func(was knownPicture) bool { return was.size == info.Size() && was.stamp.Equal(info.ModTime()) }
	return cache.Of(d.Cache, ofPicture{d.HostPath(desk.Path(name)), size}, holds, func() cache.Made[knownPicture] {
		known := knownPicture{size: info.Size(), stamp: info.ModTime()}
		known.im, known.w, known.h = look(ctx, d, name, size)
		bytes := 0
		if known.im != nil {
			bytes = 4 * known.im.Bounds().Dx() * known.im.Bounds().Dy()
		}
		return cache.Made[knownPicture]{Value: known, Bytes: bytes, Brief: ctx.Err() != nil}
	})
}

// look reads a picture, no larger than there is something to see, and tells its own size.
func look(ctx context.Context, d *desk.Desk, name string, size int) (im image.Image, w, h float64) {
	raw, err := fs.ReadFile(d.Tree(), name)
	if err != nil {
		return nil, 0, 0
	}
	im = imagefile.Scene(ctx, raw, size)
	if w, h = imagefile.Size(raw); (w < 1 || h < 1) && im != nil {
		w, h = float64(im.Bounds().Dx()), float64(im.Bounds().Dy())
	}
	most := 2 * size
	if size == drawnAt {
		most = maxWide
	}
	if im != nil && im.Bounds().Dx() > most {
		less := image.NewRGBA(image.Rect(0, 0, most, max(im.Bounds().Dy()*most/im.Bounds().Dx(), 1)))
		draw.ApproxBiLinear.Scale(less, less.Rect, im, im.Bounds(), draw.Src, nil)
		im = less
	}
	return im, w, h
}

// screen is a part of a monitor with a picture on it as it is told to lie there, k times smaller; crop
// is the part of the picture that stands for it, empty for all.
func (j *judging) screen(p *scenery, m desk.Monitor, crop image.Rectangle, k float64, at image.Rectangle, blur, saturation float64) *image.RGBA {
	w, h := max(int(float64(m.Width)/k), 1), max(int(float64(m.Height)/k), 1)
	mode, cut, ground := preview.Lies(j.d, j.look)
	if mode == backdrop.Fill && cut == backdrop.Middle || !crop.Empty() {
		part := p.im.Bounds()
		if !crop.Empty() {
			part = crop
		}
		return Strip(p.im, filling(part, m.Width, m.Height), w, h, at, blur, saturation)
	}
	var sizes []image.Point
	for _, other := range j.monitors() {
		sizes = append(sizes, image.Pt(other.Width, other.Height))
	}
	laid := backdrop.Across(mode, p.w, p.h, backdrop.Row(sizes), cut)[slices.Index(j.monitors(), m)]
	sharp := image.NewRGBA(reachOf(at, w, h, blur))
	backdrop.Paint(sharp, p.im, laid.Smaller(1/k), ground)
	return through(sharp, at, blur, saturation)
}

// monitors are those of the desk, or one as it is pictured if none is known.
func (j *judging) monitors() []desk.Monitor {
	if all := j.d.Monitors(); len(all) > 0 {
		return all
	}
	return []desk.Monitor{{Name: "the screen", Width: preview.Scenes[0].Width, Height: preview.Scenes[0].Height}}
}

// filling is the part of a picture that fills a screen: as much of it as has the
// screen's shape, its middle.
func filling(of image.Rectangle, w, h int) image.Rectangle {
	k := min(float64(of.Dx())/float64(w), float64(of.Dy())/float64(h))
	cw, ch := float64(w)*k, float64(h)*k
	x, y := float64(of.Min.X)+(float64(of.Dx())-cw)/2, float64(of.Min.Y)+(float64(of.Dy())-ch)/2
	return image.Rect(int(math.Round(x)), int(math.Round(y)), int(math.Round(x+cw)), int(math.Round(y+ch)))
}

// sampled are colours of a strip, evenly spread, maxSampled of them at most.
func sampled(im *image.RGBA) []colour.Colour {
	step := max(int(math.Sqrt(float64(im.Rect.Dx()*im.Rect.Dy())/maxSampled)), 1)
	var out []colour.Colour
	for y := im.Rect.Min.Y + step/2; y < im.Rect.Max.Y; y += step {
		for x := im.Rect.Min.X + step/2; x < im.Rect.Max.X; x += step {
			o := im.PixOffset(x, y)
			out = append(out, colour.Of8(im.Pix[o], im.Pix[o+1], im.Pix[o+2]))
		}
	}
	return out
}

const maxSampled = 1000

// worstTenth is the contrast that a tenth of the area does not reach: an ink's over
// a fill of some opacity over what is behind.
func worstTenth(ink, fill gtkcss.Colour, opacity float64, behind []colour.Colour) float64 {
	fill.A *= opacity
	all := make([]float64, len(behind))
	for i, b := range behind {
		ground := fill.Over(gtkcss.Colour{R: b.R, G: b.G, B: b.B, A: 1})
		a, b := luminance(ink.Over(ground)), luminance(ground)
		all[i] = (max(a, b) + 0.05) / (min(a, b) + 0.05)
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

// where is one screen with one picture on it.
type where struct {
	monitor desk.Monitor
	picture string
	behind  []colour.Colour
}

// strips is what is behind the bar, on each monitor and of each picture. crop is
// the part of a picture that stands for it, empty for all; k is how much smaller
// everything may be taken, for what is only tried.
func (j *judging) strips(s desk.Surface, of []*scenery, crop image.Rectangle, k int) []where {
	var out []where
	for _, m := range j.monitors() {
		own := slices.ContainsFunc(of, func(p *scenery) bool { return p.on == m.Name })
		for _, p := range of {
			if p.on != "" && p.on != m.Name || p.on == "" && own {
				continue // it is not seen there
			}
			if w, ok := j.strip(s, m, p, crop, k); ok {
				out = append(out, w)
			}
		}
	}
	return out
}

// strip is one of them.
func (j *judging) strip(s desk.Surface, m desk.Monitor, p *scenery, crop image.Rectangle, k int) (where, bool) {
	edge, thickness, ok := j.barOf()
	if !ok {
		return where{}, false
	}
	blur := float64(number(j.look, desk.FacetBlur, s.ID, 0, 64, 0))
	w, h, high := max(m.Width/k, 1), max(m.Height/k, 1), max(thickness/k, 1)
	at := image.Rect(0, 0, w, high)
	if edge == "bottom" {
		at = at.Add(image.Pt(0, h-high))
	}
	saturation := float64(number(j.look, desk.FacetSaturation, s.ID, 0, 300, 100)) / 100
	return where{m, p.path, sampled(j.screen(p, m, crop, float64(k), at, blur/float64(k), saturation))}, true
}

// barOf is how the bar lies, looked up once.
func (j *judging) barOf() (edge string, thickness int, ok bool) {
	if !j.barKnown {
		j.barKnown = true
		j.edge, j.thickness, j.hasBar = preview.BarOf(j.d, j.look)
	}
	return j.edge, j.thickness, j.hasBar
}

func number(look preview.Look, facet, surface string, least, most, usual int) int {
	n, err := strconv.Atoi(look.Of(facet, surface))
	if err != nil {
		return usual
	}
	return min(max(n, least), most)
}

// thing is something on the bar: the words on it, the signs, an icon in colour.
type thing struct {
	what  string
	inks  []gtkcss.Colour
	needs float64
}

// onBar are the things on a surface's bar, and the bar's own fill.
func (j *judging) onBar(s desk.Surface) (fill gtkcss.Colour, things []thing) {
	st := j.of(s.ID)
	ink := func(node string) []gtkcss.Colour { return []gtkcss.Colour{st.Compute(node).Colour("color")} }
	things = []thing{{"words", ink("panel.top label.clock"), palette.Legible}, {"signs", ink("panel.top image.status"), sign}}
	icons := preview.OnBar(j.d, j.look)
	var names []string
	for name := range icons {
		names = append(names, name)
	}
	slices.Sort(names)
	for _, name := range names {
		if inks := iconInks(pictureOf(j.look.Context(), j.d, icons[name], 24)); inks != nil {
			things = append(things, thing{"the icon of " + name, inks, sign})
		}
	}
	return st.Compute("panel.top").Fill(), things
}

// iconInks are the darkest and the lightest of an icon's colours that make a
// quarter of it: either of them may set it off from its ground.
func iconInks(im image.Image) []gtkcss.Colour {
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
	return []gtkcss.Colour{of(all[len(all)/4]), of(all[len(all)-1-len(all)/4])}
}

// worstOf is the worst contrast of a thing over what is behind, and where that is.
// Of several inks the one that is seen best counts, everywhere anew.
func worstOf(t thing, fill gtkcss.Colour, opacity float64, all []where) (ratio float64, at where) {
	ratio = 21
	for _, w := range all {
		best := 0.0
		for _, ink := range t.inks {
			best = max(best, worstTenth(ink, fill, opacity, w.behind))
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
	opacity := number(j.look, desk.FacetOpacity, s.ID, 0, 100, 100)
	if opacity >= 100 || len(j.scenery()) == 0 {
		return nil
	}
	all := j.strips(s, j.scenery(), image.Rectangle{}, heldAt)
	fill, things := j.onBar(s)
	parts, at := lost(fill, things, opacity, all)
	if parts == nil {
		return nil
	}
	worst := parts[0]
	v := Verdict{Surface: s.ID, Facet: desk.FacetOpacity, Code: BarOver, Ratio: worst.Ratio, Needs: worst.Needs, Grave: grave(worst), Parts: parts}
	v.Says = say.Of("judge/bar-over-worst-tenth-backdrop", s.Title, worst.What, has(worst.What), decimal(worst.Ratio), decimal(worst.Needs), on(at, all))
	well := func(other *judging) bool {
		fill, things := other.onBar(s)
		return seen(fill, things, opacity, all)
	}
	for percent := opacity + 1; percent <= 100; percent += step {
		if percent = min(percent, 100); seen(fill, things, percent, all) || percent < 100 && seen(fill, things, min(percent+step-1, 100), all) {
			for !seen(fill, things, percent, all) {
				percent++
			}
			v.Remedies = append(v.Remedies, Fix{Facet: desk.FacetOpacity, Want: strconv.Itoa(percent), Says: say.Of("judge/opaque-would-do", percent)})
			break
		}
	}
	if shade := j.otherShade(s); shade != "" && well(j.with(desk.FacetDark, s.ID, shade)) {
		v.Remedies = append(v.Remedies, Fix{Facet: desk.FacetDark, Want: shade, Says: say.Of("judge/shade-well", shade)})
	}
	if crop, ok := j.crop(s, func(all []where) bool { return seen(fill, things, opacity, all) }); ok {
		v.Remedies = append(v.Remedies, Fix{Crop: &crop, Says: say.Of("judge/another-part-backdrop-would-do", crop.says())})
	}
	if soft, ok := j.soften(s, func(all []where) bool { return seen(fill, things, opacity, all) }); ok {
		says := say.Of("judge/backdrop-lighter-would-do", int(100*soft.Strength+0.5))
		if soft.Dark {
			says = say.Of("judge/backdrop-darker-would-do", int(100*soft.Strength+0.5))
		}
		v.Remedies = append(v.Remedies, Fix{Soft: &soft, Says: says})
	}
	if other, ok := j.otherBackdrop(s, func(all []where) bool { return seen(fill, things, opacity, all) }); ok {
		v.Remedies = append(v.Remedies, Fix{Facet: desk.FacetBackdrop, Want: other, Says: say.Of("judge/backdrops-place-nearest-over-well", strings.TrimSuffix(path.Base(other), path.Ext(other)))})
	}
	if v.Remedies == nil {
		v.Remedies = []Fix{{Says: say.Of("judge/no-opacity-would-do-wear")}}
	}
	return []Verdict{v}
}

func has(what string) string {
	if strings.HasPrefix(what, "the icon") {
		return "has"
	}
	return "have"
}

// on says on which monitor and over which picture, where there are several.
func on(at where, all []where) string {
	out := ""
	if slices.ContainsFunc(all, func(w where) bool { return w.picture != at.picture }) {
		out += " with " + path.Base(at.picture)
	}
	if slices.ContainsFunc(all, func(w where) bool { return w.monitor != at.monitor }) {
		out += " on " + at.monitor.Name
	}
	return out
}

// lost are the things on a bar that cannot be made out at an opacity, the worst
// first, and where that one is. What cannot be made out on the bar itself either is
// no matter of its opacity.
func lost(fill gtkcss.Colour, things []thing, percent int, all []where) (parts []Part, at where) {
	least := 21.0
	for _, t := range things {
		ratio, w := worstOf(t, fill, float64(percent)/100, all)
		if ratio >= t.needs {
			continue
		}
		if solid, _ := worstOf(t, fill, 1, all); solid < t.needs && strings.HasPrefix(t.what, "the icon") {
			continue
		}
		parts = append(parts, Part{What: t.what, Ratio: ratio, Needs: t.needs})
		if ratio/t.needs < least {
			least, at = ratio/t.needs, w
		}
	}
	slices.SortStableFunc(parts, func(a, b Part) int { return cmp.Compare(a.Ratio/a.Needs, b.Ratio/b.Needs) })
	return parts, at
}

// seen tells whether nothing is lost.
func seen(fill gtkcss.Colour, things []thing, percent int, all []where) bool {
	for i := range things {
		if parts, _ := lost(fill, things[i:i+1], percent, all); parts != nil {
			return false
		}
	}
	return true
}

// crop finds the largest part of the backdrop, and of those the nearest to its
// middle, over which something is well on all monitors.
func (j *judging) crop(s desk.Surface, well func([]where) bool) (Crop, bool) {
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
				w, ok := j.strip(s, m, of[0], t.r, tried)
				return ok && well([]where{w})
			}
			if !slices.ContainsFunc(j.monitors(), func(m desk.Monitor) bool { return !on(m) }) && well(j.strips(s, of, t.r, heldAt)) {
				at := t.r.Sub(whole.Min)
				w, h := float64(whole.Dx()), float64(whole.Dy())
				return Crop{of[0].path, float64(at.Min.X) / w, float64(at.Min.Y) / h, float64(at.Dx()) / w, float64(at.Dy()) / h}, true
			}
		}
	}
	return Crop{}, false
}

// otherBackdrop is the backdrop in place over which something is well and whose
// colours are nearest to those of the one shown.
func (j *judging) otherBackdrop(s desk.Surface, well func([]where) bool) (string, bool) {
	best, least := "", 9.0
	was := middle(j.scenery()[0].im)
	for _, has := range j.d.Surfaces() {
		if has.Kind == "login" {
			continue
		}
		for _, file := range j.others(has, desk.FacetBackdrop) {
			of := sceneryOf(j.look.Context(), j.d, file, triedAt)
			if len(of) != 1 || !well(j.strips(s, of, image.Rectangle{}, tried)) {
				continue
			}
			if apart := colour.Distance(was, middle(of[0].im)); apart < least {
				best, least = file, apart
			}
		}
	}
	return best, best != ""
}

// middle is the mean colour of a picture.
func middle(im image.Image) colour.Colour {
	one := image.NewRGBA(image.Rect(0, 0, 1, 1))
	draw.ApproxBiLinear.Scale(one, one.Rect, small(im), image.Rect(0, 0, 16, 16), draw.Src, nil)
	return colour.Of8(one.Pix[0], one.Pix[1], one.Pix[2])
}

func small(im image.Image) *image.RGBA {
	out := image.NewRGBA(image.Rect(0, 0, 16, 16))
	draw.ApproxBiLinear.Scale(out, out.Rect, im, im.Bounds(), draw.Src, nil)
	return out
}
