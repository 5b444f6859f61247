package preview

import (
	"fmt"
	"image"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/effect"
	"ivelt/core/layout"
	"ivelt/core/paint"
)

// effectFacets are the facets of effects, by what they are of.
var effectFacets = map[effect.Action]string{effect.Open: desk.FacetOpening, effect.Close: desk.FacetClosing, effect.Hide: desk.FacetHiding, effect.Switch: desk.FacetSwitching}

// Moves reports whether a surface moves windows.
func Moves(s desk.Surface) bool {
	_, ok := s.Facet(desk.FacetOpening)
	return ok
}

// EffectOf is how a surface moves windows in a look: as it is told, as far as all its effects,
// and the wish for less motion, let it.
func EffectOf(l Look, s desk.Surface, a effect.Action) effect.Effect {
	e, err := effect.Parse(a, l.Of(effectFacets[a], s.ID))
	all := l.Of(desk.FacetEffects, s.ID)
	if err != nil || all == "none" || all == "few" && (a == effect.Hide || a == effect.Switch) {
		e, _ = effect.Parse(a, "none")
	}
	if l.Of(desk.FacetMotion, s.ID) == "less" {
		e = e.Less()
	}
	return e
}

// EffectScene is where effects cost the most on a desk: a large window on the largest of its
// monitors.
func EffectScene(d *desk.Desk) effect.Scene {
	w, h := 1920.0, 1080.0
	most := 0
	for _, m := range d.Monitors() {
		if area := m.Width * m.Height; area > most {
			most, w, h = area, float64(m.Width), float64(m.Height)
		}
	}
	return effect.Scene{Screen: effect.Box{W: w, H: h}, Window: effect.Box{X: w * 0.18, Y: h * 0.14, W: w * 0.64, H: h * 0.72}, Button: effect.Box{X: 40, W: 34, H: 34}}
}

// The picture that effects are played on, px.
const playedWide, playedHigh = 640, 400

// played is a picture of a desk in the parts that an effect moves.
type played struct {
	scene                 effect.Scene
	behind, moving, other string // what stays, what moves, and the workspace that comes
	over                  string // the bar
	defs                  string
}

// playedOn draws the parts.
func playedOn(d *desk.Desk, l Look, a effect.Action) played {
	c := NewCanvas(d, l, 2*playedWide, 2*playedHigh)
	part := func(draw func()) string {
		before := c.Len()
		draw()
		return c.String()[before:]
	}
	top, bottom := c.room()
	window := effect.Box{X: 320, Y: float64(top + 90), W: 640, H: 408}
	p := played{scene: effect.Scene{Screen: effect.Box{W: 2 * playedWide, H: 2 * playedHigh}, Window: window, Button: c.windowButton()}}
	files := func() { c.files(int(window.X), int(window.Y), int(window.W), int(window.H)) }
	p.behind = part(func() {
		c.backdrop()
		c.ground()
		c.drawOnDesk()
	})
	if a == effect.Switch {
		p.moving = part(files)
		p.other = part(func() { c.grid(280, top+120, 720, bottom-top-230) })
	} else {
		p.moving = part(files)
	}
	p.over = part(func() { c.drawBars() })
	p.defs = c.Defs.String()
	return p
}

// Played is a surface's effect as a picture that moves, once: what a look's windows do. With
// still it is a row of moments instead, for those who wish for less motion.
func Played(d *desk.Desk, l Look, e effect.Effect, still bool) []byte {
	p := playedOn(d, l, e.Action)
	if still {
		return p.moments(e)
	}
	var b strings.Builder
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" width="%d" height="%d"><defs>%s</defs>%s`, 2*playedWide, 2*playedHigh, playedWide, playedHigh, p.defs, p.behind)
	box := p.box(e)
	if p.other != "" {
		b.WriteString(moving(comes(e), p.scene, p.scene.Screen, p.other))
	}
	b.WriteString(moving(e, p.scene, box, p.moving))
	b.WriteString(p.over + "</svg>")
	return []byte(b.String())
}

// box is what moves.
func (p played) box(e effect.Effect) effect.Box {
	if e.Action == effect.Switch {
		return p.scene.Screen
	}
	return p.scene.Window
}

// comes is the effect of the workspace that takes the place of one that goes: it slides in
// from the right, or fades in.
func comes(e effect.Effect) effect.Effect {
	e.Action = effect.Open
	if e.Kind == "zoom" {
		e.Kind = "fade"
	}
	return e
}

// begins is how long a picture waits before it moves, in seconds.
const begins = 0.5

// moving is what moves, in groups that are each animated (SVG 1.1, 19.2.12: a spline of two
// points for each easing).
func moving(e effect.Effect, s effect.Scene, box effect.Box, what string) string {
	from, to := e.At(0, s), e.At(1, s)
	if e.Kind == "slide" && e.Action == effect.Open { // from the other side
		from.X = s.Screen.W
	}
	x, y := box.X+box.W/2, box.Y+box.H/2
	if from.Top || to.Top {
		y = box.Y
	}
	n := paint.Number
	timing := fmt.Sprintf(`begin="%gs" dur="%gs" fill="freeze" calcMode="spline" keyTimes="0;1" keySplines="%g %g %g %g"`, begins, max(e.For.Seconds(), 0.001), e.Easing.Curve[0], e.Easing.Curve[1], e.Easing.Curve[2], e.Easing.Curve[3])
	return fmt.Sprintf(`<g opacity="%[1]s"><animate attributeName="opacity" values="%[1]s;%[2]s" %[3]s/><g transform="translate(%[4]s %[5]s)"><animateTransform attributeName="transform" type="translate" values="%[4]s %[5]s;%[6]s %[7]s" %[3]s/><g transform="scale(%[8]s %[9]s)"><animateTransform attributeName="transform" type="scale" values="%[8]s %[9]s;%[10]s %[11]s" %[3]s/><g transform="translate(%[12]s %[13]s)">%[14]s</g></g></g></g>`,
		n(from.Opacity), n(to.Opacity), timing, n(x+from.X), n(y+from.Y), n(x+to.X), n(y+to.Y), n(from.ScaleX), n(from.ScaleY), n(to.ScaleX), n(to.ScaleY), n(-x), n(-y), what)
}

// moments are how many are shown of an effect that is not played.
const moments = 4

// moments draws them beside each other.
func (p played) moments(e effect.Effect) []byte {
	var b strings.Builder
	const wide, high, gap = (playedWide - 8) / 2, (playedHigh - 8) / 2, 8
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %[1]d %[2]d" width="%[1]d" height="%[2]d"><defs>%[3]s<clipPath id="moment"><path d="M0 0H%[4]dV%[5]dH0Z"/></clipPath><g id="behind">%[6]s</g><g id="moves">%[7]s</g><g id="other">%[8]s</g><g id="over">%[9]s</g></defs>`,
		playedWide, playedHigh, p.defs, 2*playedWide, 2*playedHigh, p.behind, p.moving, p.other, p.over)
	for i := range moments {
		t := float64(i) / (moments - 1)
		fmt.Fprintf(&b, `<g transform="translate(%d %d) scale(%s %s)" clip-path="url(#moment)"><use href="#behind"/>`, i%2*(wide+gap), i/2*(high+gap), paint.Number(wide/(2.0*playedWide)), paint.Number(high/(2.0*playedHigh)))
		if p.other != "" {
			b.WriteString(posed(comes(e), t, p.scene, p.scene.Screen, "other"))
		}
		b.WriteString(posed(e, t, p.scene, p.box(e), "moves"))
		b.WriteString(`<use href="#over"/></g>`)
	}
	b.WriteString("</svg>")
	return []byte(b.String())
}

// posed is what moves at a moment.
func posed(e effect.Effect, t float64, s effect.Scene, box effect.Box, what string) string {
	p := e.At(t, s)
	if e.Kind == "slide" && e.Action == effect.Open {
		p.X = -p.X
	}
	x, y := box.X+box.W/2, box.Y+box.H/2
	if p.Top {
		y = box.Y
	}
	n := paint.Number
	return fmt.Sprintf(`<use href="#%s" opacity="%s" transform="translate(%s %s) scale(%s %s) translate(%s %s)"/>`, what, n(p.Opacity), n(x+p.X), n(y+p.Y), n(p.ScaleX), n(p.ScaleY), n(-x), n(-y))
}

// windowButton is where a window goes that is minimised: its place on a bar that lists windows, that of
// its program, or the first there is at an edge.
func (c *Canvas) windowButton() effect.Box {
	of := func(at image.Rectangle) effect.Box {
		long := min(at.Dx(), at.Dy())
		return effect.Box{X: float64(at.Min.X), Y: float64(at.Min.Y), W: float64(long), H: float64(long)}
	}
	a := c.arranged()
	for _, kind := range []string{"windows", "pinned"} {
		for _, p := range a.placed {
			for _, i := range p.Items {
				if i.How != layout.Behind && a.bars[p.Bar].Items[i.Item].Kind == kind {
					return of(i.At)
				}
			}
		}
	}
	if a.dock != nil && len(a.docked.Icons) > 0 {
		return of(a.docked.Icons[0])
	}
	if len(a.placed) > 0 {
		return of(a.placed[0].At)
	}
	return effect.Box{X: float64(c.w)/2 - 17, Y: float64(c.h), W: 34, H: 34}
}
