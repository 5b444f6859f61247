// Package paint draws boxes in a computed style as SVG.
package paint

import (
	_ "embed"
	"fmt"
	"math"
	"slices"
	"strings"

	_ "golang.org/x/image/webp"

	"ivelt/core/gtkcss"
)

// Painter draws boxes in a computed style as SVG. Everything it writes comes
// from numbers and colours; no text of a piece is passed on.
type Painter struct {
	B       *strings.Builder
	ID      string // of what it defines, unique in the picture
	defs    int
	Solid   bool                       // opacity does not count
	Blurred func(blur float64) float64 // nil for CSS's own rule
	// Picture returns a file of the piece as a data address and its size in px, in a
	// form.
	Picture func(file string, form Form) (address string, width, height float64, ok bool)
	// Fading is whether pictures of pixels that are drawn larger or smaller fade at
	// their edges, as those of GTK 3 do: it takes what is beyond for nothing.
	Fading bool
	// Icon draws an icon by its name, and reports whether there is one.
	Icon func(name string, x, y, size float64, tint Tint) bool
}

// Form is how a picture is asked for.
type Form struct {
	Tint  Tint // what a symbolic one is drawn in
	Tints bool // whether it is
	Edged bool // with a row of nothing around its pixels
}

func (p *Painter) name() string {
	p.defs++
	return fmt.Sprint(p.ID, p.defs)
}

func (p *Painter) printf(format string, args ...any) { fmt.Fprintf(p.B, format, args...) }

// Rect is a box with corners, from the top left clockwise, each across and down.
type Rect struct {
	X, Y, W, H float64
	Radii      [4][2]float64
}

// in makes a rect smaller by the four sides, its corners too (css-backgrounds-3,
// section 5.2).
func (a Rect) in(by gtkcss.Box) Rect {
	out := Rect{a.X + by[3], a.Y + by[0], max(a.W-by[1]-by[3], 0), max(a.H-by[0]-by[2], 0), a.Radii}
	for i, sides := range [4][2]int{{3, 0}, {1, 0}, {1, 2}, {3, 2}} {
		if a.Radii[i][0] == 0 || a.Radii[i][1] == 0 {
			out.Radii[i] = [2]float64{}
			continue
		}
		out.Radii[i] = [2]float64{max(a.Radii[i][0]-by[sides[0]], 0), max(a.Radii[i][1]-by[sides[1]], 0)}
	}
	return out
}

// Around is a rect larger by so much on each side; what is round gets rounder.
func (a Rect) Around(by float64) Rect {
	out := a.in(Sides(-by))
	for i, c := range a.Radii {
		if c[0] > 0 && c[1] > 0 {
			out.Radii[i] = [2]float64{max(c[0]+by, 0), max(c[1]+by, 0)}
		}
	}
	return out
}

// Sides is the same length for all four sides.
func Sides(f float64) gtkcss.Box { return gtkcss.Box{f, f, f, f} }

// Number writes a length.
func Number(f float64) string {
	s := fmt.Sprintf("%.2f", f)
	s = strings.TrimRight(strings.TrimRight(s, "0"), ".")
	if s == "-0" {
		return "0"
	}
	return s
}

// Path is the outline of a rect.
func (a Rect) Path() string {
	r := a.Radii
	if r == ([4][2]float64{}) {
		return fmt.Sprintf("M%s %sh%sv%sh-%sZ", Number(a.X), Number(a.Y), Number(a.W), Number(a.H), Number(a.W))
	}
	var b strings.Builder
	arc := func(c [2]float64, dx, dy float64) {
		if c[0] > 0 && c[1] > 0 {
			fmt.Fprintf(&b, "a%s %s 0 0 1 %s %s", Number(c[0]), Number(c[1]), Number(dx*c[0]), Number(dy*c[1]))
		}
	}
	fmt.Fprintf(&b, "M%s %sH%s", Number(a.X+r[0][0]), Number(a.Y), Number(a.X+a.W-r[1][0]))
	arc(r[1], 1, 1)
	fmt.Fprintf(&b, "V%s", Number(a.Y+a.H-r[2][1]))
	arc(r[2], -1, 1)
	fmt.Fprintf(&b, "H%s", Number(a.X+r[3][0]))
	arc(r[3], -1, -1)
	fmt.Fprintf(&b, "V%s", Number(a.Y+r[0][1]))
	arc(r[0], 1, -1)
	return b.String() + "Z"
}

// Box draws a node's box: shadows, background, border.
func (p *Painter) Box(x, y, w, h float64, st *gtkcss.Style) { p.box(x, y, w, h, st, true) }

// Ground draws a node's box without its border (gtk_render_background).
func (p *Painter) Ground(x, y, w, h float64, st *gtkcss.Style) { p.box(x, y, w, h, st, false) }

func (p *Painter) box(x, y, w, h float64, st *gtkcss.Style, bordered bool) {
	if w <= 0 || h <= 0 {
		return
	}
	faded := st.Opacity() < 1 && !p.Solid
	if faded {
		p.printf(`<g opacity="%s">`, Number(st.Opacity()))
	}
	outer := Rect{x, y, w, h, st.Radii(w, h)}
	shadows := st.Shadows("box-shadow")
	for _, s := range slices.Backward(shadows) {
		if !s.Inset {
			p.outerShadow(outer, s)
		}
	}
	p.background(outer, st)
	inner := outer.in(st.BorderWidth())
	for _, s := range slices.Backward(shadows) {
		if s.Inset {
			p.insetShadow(inner, s)
		}
	}
	if bordered {
		p.border(outer, inner, st)
	}
	if faded {
		p.B.WriteString(`</g>`)
	}
}

// blurred is the standard deviation that a blur of CSS stands for: half of it
// (css-backgrounds-3, section 7.2).
func blurred(blur float64) float64 { return blur / 2 }

// BlurredBy3 is that of GTK 3, which takes the whole blur for it and draws it as
// three boxes of a whole width (gtkcairoblur.c of GTK 3.24).
func BlurredBy3(blur float64) float64 {
	box := math.Floor(3 * math.Sqrt(2*math.Pi) / 4 * blur)
	if box < 2 {
		return 0
	}
	return math.Sqrt((box*box - 1) / 4)
}

// Deviation is the standard deviation of what blurs a shadow by a length.
func (p *Painter) Deviation(blur float64) float64 {
	if p.Blurred != nil {
		return p.Blurred(blur)
	}
	return blurred(blur)
}

// Blur defines a blur of what is drawn in a box and returns the attribute that
// uses it.
func (p *Painter) Blur(a Rect, deviation float64) string {
	if deviation <= 0 {
		return ""
	}
	id, room := p.name(), 3*deviation+1
	p.printf(`<filter id="%s" filterUnits="userSpaceOnUse" color-interpolation-filters="sRGB" x="%s" y="%s" width="%s" height="%s"><feGaussianBlur stdDeviation="%s"/></filter>`,
		id, Number(a.X-room), Number(a.Y-room), Number(a.W+2*room), Number(a.H+2*room), Number(deviation))
	return ` filter="url(#` + id + `)"`
}

const far = 4000

func (p *Painter) outerShadow(box Rect, s gtkcss.Shadow) {
	if s.Colour.A == 0 {
		return
	}
	cast := box.Around(s.Spread)
	cast.X, cast.Y = cast.X+s.X, cast.Y+s.Y
	clip := p.name()
	p.printf(`<clipPath id="%s"><path clip-rule="evenodd" d="M%s %sh%dv%dh-%dZ%s"/></clipPath>`, clip, Number(box.X-far/2), Number(box.Y-far/2), far, far, far, box.Path())
	blur := p.Blur(cast, p.Deviation(s.Blur))
	p.printf(`<g clip-path="url(#%s)"><path d="%s" fill="%s"%s/></g>`, clip, cast.Path(), s.Colour.CSS(), blur)
}

func (p *Painter) insetShadow(box Rect, s gtkcss.Shadow) {
	if s.Colour.A == 0 || box.W <= 0 || box.H <= 0 {
		return
	}
	hole := box.in(Sides(s.Spread))
	hole.X, hole.Y = hole.X+s.X, hole.Y+s.Y
	clip := p.name()
	p.printf(`<clipPath id="%s"><path d="%s"/></clipPath>`, clip, box.Path())
	deviation := p.Deviation(s.Blur)
	room := 3*deviation + math.Abs(s.X) + math.Abs(s.Y) + max(s.Spread, 0) + 2
	blur := p.Blur(box, deviation)
	p.printf(`<g clip-path="url(#%s)"><path fill-rule="evenodd" d="M%s %sh%sv%sh-%sZ%s" fill="%s"%s/></g>`, clip,
		Number(box.X-room), Number(box.Y-room), Number(box.W+2*room), Number(box.H+2*room), Number(box.W+2*room), hole.Path(), s.Colour.CSS(), blur)
}

// Escape makes a text harmless in SVG.
func Escape(s string) string {
	return strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;", `"`, "&#34;", "'", "&#39;").Replace(strings.ToValidUTF8(s, "?"))
}
