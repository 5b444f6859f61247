package paint

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"ivelt/core/gtkcss"
)

// file is the address and the size of an image that is a file.
func (p *Painter) file(i gtkcss.Image, st *gtkcss.Style) (address string, w, h float64, ok bool) {
	if p.Picture == nil {
		return "", 0, 0, false
	}
	return p.Picture(i.File, formOf(i, st))
}

func formOf(i gtkcss.Image, st *gtkcss.Style) Form {
	if i.Kind == "recolor" {
		return Form{Tint: TintOf(st, i.Palette), Tints: true}
	}
	return Form{}
}

// embedScaled draws a file's picture over a box.
func (p *Painter) embedScaled(i gtkcss.Image, st *gtkcss.Style, address string, at Rect) {
	if p.Fading && strings.HasPrefix(address, "data:image/png") {
		form := formOf(i, st)
		form.Edged = true
		if edged, w, h, ok := p.Picture(i.File, form); ok && w > 2 && h > 2 && (w-2 != at.W || h-2 != at.H) {
			clip, across, down := p.name(), at.W/(w-2), at.H/(h-2)
			p.printf(`<clipPath id="%s"><path d="%s"/></clipPath><g clip-path="url(#%s)">`, clip, at.Path(), clip)
			p.embed(edged, Rect{X: at.X - across, Y: at.Y - down, W: at.W + 2*across, H: at.H + 2*down})
			p.B.WriteString(`</g>`)
			return
		}
	}
	p.embed(address, at)
}

func (p *Painter) embed(address string, at Rect) {
	p.printf(`<image href="%s" x="%s" y="%s" width="%s" height="%s" preserveAspectRatio="none"/>`, address, Number(at.X), Number(at.Y), Number(at.W), Number(at.H))
}

// Image draws an image over a box, as large as that; an icon in the middle of it, as
// large as goes into it.
func (p *Painter) Image(i gtkcss.Image, at Rect, st *gtkcss.Style) {
	switch i.Kind {
	case "none", "builtin":
	case "url", "recolor":
		if address, _, _, ok := p.file(i, st); ok {
			p.embedScaled(i, st, address, at)
		}
	case "icon":
		if size := math.Floor(min(at.W, at.H)); size > 0 && p.Icon != nil {
			p.Icon(i.File, at.X+(at.W-size)/2, at.Y+(at.H-size)/2, size, TintOf(st, i.Palette))
		}
	default:
		if fill := p.fill(i, at); fill != "" {
			p.printf(`<path d="%s" fill="%s"/>`, at.Path(), fill)
		}
	}
}

// Source draws what -gtk-icon-source says of a box, turned and moved as the style
// tells, its shadow under it. It reports whether the style names an image: where it
// does not, the toolkit has one of its own.
func (p *Painter) Source(at Rect, st *gtkcss.Style) bool {
	i := st.Image("-gtk-icon-source")
	if i.Kind == "builtin" {
		return false
	}
	if i.Kind != "none" {
		p.Turned(at, st, func() { p.Image(i, at, st) })
	}
	return true
}

// Turned draws something that stands in a box as -gtk-icon-transform tells, with the
// icon's shadows.
func (p *Painter) Turned(at Rect, st *gtkcss.Style, draw func()) {
	turn := Turn(st.Transforms("-gtk-icon-transform"), at.X+at.W/2, at.Y+at.H/2)
	shadow := p.iconShadows(at, st)
	if turn == "" && shadow == "" {
		draw()
		return
	}
	p.printf(`<g%s><g%s>`, shadow, turn)
	draw()
	p.B.WriteString(`</g></g>`)
}

// iconShadows defines the shadows of an icon in a box, and returns the attribute that
// uses them.
func (p *Painter) iconShadows(at Rect, st *gtkcss.Style) string {
	shadows := st.Shadows("-gtk-icon-shadow")
	shadows = slices.DeleteFunc(shadows, func(s gtkcss.Shadow) bool { return s.Colour.A == 0 })
	if len(shadows) == 0 {
		return ""
	}
	id, room := p.name(), 0.0
	for _, s := range shadows {
		room = max(room, math.Abs(s.X)+3*p.Deviation(s.Blur)+1, math.Abs(s.Y)+3*p.Deviation(s.Blur)+1)
	}
	p.printf(`<filter id="%s" filterUnits="userSpaceOnUse" color-interpolation-filters="sRGB" x="%s" y="%s" width="%s" height="%s">`, id, Number(at.X-room), Number(at.Y-room), Number(at.W+2*room), Number(at.H+2*room))
	for i, s := range shadows {
		p.printf(`<feGaussianBlur in="SourceAlpha" stdDeviation="%s"/><feOffset dx="%s" dy="%s" result="o"/><feFlood flood-color="%s"/><feComposite in2="o" operator="in" result="s%d"/>`, Number(p.Deviation(s.Blur)), Number(s.X), Number(s.Y), s.Colour.CSS(), i)
	}
	p.B.WriteString(`<feMerge>`)
	for i := range slices.Backward(shadows) {
		p.printf(`<feMergeNode in="s%d"/>`, i)
	}
	p.B.WriteString(`<feMergeNode in="SourceGraphic"/></feMerge></filter>`)
	return ` filter="url(#` + id + `)"`
}

// Turn is the attribute of a transformation around a place, "" for none.
func Turn(transforms []gtkcss.Transform, x, y float64) string {
	if len(transforms) == 0 {
		return ""
	}
	var b strings.Builder
	fmt.Fprintf(&b, "translate(%s %s)", Number(x), Number(y))
	for _, t := range transforms {
		arg := func(i int, usual float64) float64 {
			if i < len(t.Args) {
				return t.Args[i]
			}
			return usual
		}
		switch strings.ToLower(t.Name) {
		case "rotate":
			fmt.Fprintf(&b, "rotate(%.4g)", arg(0, 0))
		case "rotate3d":
			fmt.Fprintf(&b, "rotate(%.4g)", arg(3, 0))
		case "scale":
			fmt.Fprintf(&b, "scale(%.4g %.4g)", arg(0, 1), arg(1, arg(0, 1)))
		case "translate":
			fmt.Fprintf(&b, "translate(%.4g %.4g)", arg(0, 0), arg(1, 0))
		case "translatex":
			fmt.Fprintf(&b, "translate(%.4g 0)", arg(0, 0))
		case "translatey":
			fmt.Fprintf(&b, "translate(0 %.4g)", arg(0, 0))
		case "skewx":
			fmt.Fprintf(&b, "skewX(%.4g)", arg(0, 0))
		case "skewy":
			fmt.Fprintf(&b, "skewY(%.4g)", arg(0, 0))
		case "matrix":
			fmt.Fprintf(&b, "matrix(%.4g %.4g %.4g %.4g %.4g %.4g)", arg(0, 1), arg(1, 0), arg(2, 0), arg(3, 1), arg(4, 0), arg(5, 0))
		}
	}
	fmt.Fprintf(&b, "translate(%s %s)", Number(-x), Number(-y))
	return ` transform="` + b.String() + `"`
}
