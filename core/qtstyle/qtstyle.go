// Package qtstyle draws the controls of Qt as SVG, as its style Fusion does, which is what
// Qt's programs have unless something names another style (Qt 5.15, qfusionstyle.cpp and
// qcommonstyle.cpp; held against Qt's own pixels in truth).
package qtstyle

import (
	"fmt"
	"strconv"
	"strings"
)

// State is what a control is in, as a set.
type State int

// The states.
const (
	Off State = 1 << iota
	On
	Over
	Down
	Focus
	Default
	Chosen
)

// Painter draws into a builder. ID begins the names of what it defines.
type Painter struct {
	B   *strings.Builder
	ID  string
	ids int
}

// Kinds are the controls that [Painter.Draw] knows.
var Kinds = []string{"button", "check", "radio", "entry", "frame", "combo", "spin", "slider", "scroll", "progress", "tab", "page", "header", "menubar", "line"}

// Values that are pictured, out of 100.
const (
	SliderAt   = 40
	ProgressAt = 60
	ShownPart  = 50 // of what a scroll bar moves, beside 100 more
)

// Draw draws a control of a kind in a box, px; one of another kind is nothing.
func (p *Painter) Draw(kind string, is State, x, y, w, h int) {
	if w <= 0 || h <= 0 {
		return
	}
	fmt.Fprintf(p.B, `<g transform="translate(%d %d)">`, x, y)
	d := drawing{p, Of(is&Off != 0), is, w, h}
	switch kind {
	case "button":
		d.button()
	case "check":
		d.check()
	case "radio":
		d.radio()
	case "entry":
		d.entry()
	case "frame":
		d.fill(0, 0, w, h, d.Base)
		d.edge(0, 0, w-1, h-1, 0, d.outline().lighter(108))
	case "combo":
		d.button()
		d.arrow(w-21, 0, 19, h, true, d.ButtonText.seen(160))
	case "spin":
		d.spin()
	case "slider":
		d.slider()
	case "scroll":
		d.clipped(0, 0, w, h, d.scroll)
	case "progress":
		d.progress()
	case "tab":
		d.tab()
	case "page":
		d.fill(0, 0, w-1, h-1, d.page())
		d.fill(0, h-1, w, 1, Colour{}.seen(15))
		d.edge(0, 0, w-1, h-2, 0, d.outline())
		d.edge(1, 1, w-3, h-4, 0, contrast)
	case "header":
		d.header()
	case "menubar":
		d.fill(0, 0, w, h, d.Window)
		if is&Chosen != 0 {
			d.fill(0, 0, w, h, d.Highlight)
			d.edge(0, 0, w-1, h-1, 0, d.Highlight.darker(125))
		} else {
			d.fill(0, h-1, w, 1, merged(d.Window.darker(120), d.outline().lighter(140), 60))
		}
	case "line":
		if is&Chosen != 0 {
			d.fill(0, 0, w, h, d.Highlight)
		}
	}
	p.B.WriteString(`</g>`)
}

// Size is how large Qt makes a control around words of a width and height, px; 0, 0 for
// one that is as large as there is room.
func Size(kind string, w, h int) (int, int) {
	switch kind {
	case "button":
		return max(w+8, 80), h + 8
	case "check", "radio":
		return w + 14 + 10, max(h, 14) + 5
	case "entry":
		return w + 2, h + 6
	case "combo":
		return w + 30, h + 6
	case "menubar":
		return w + 8, h + 5
	}
	return 0, 0
}

// drawing is of one control, from 0, 0.
type drawing struct {
	*Painter
	Palette
	is   State
	w, h int
}

var (
	contrast = grey(255, 255, 255, 30)
	shadow   = grey(0, 0, 0, 18)
)

// stop is a colour at a place of a gradient, 0 to 1.
type stop struct {
	at float64
	Colour
}

func num(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }

// paint is an attribute of a shape with a colour.
func paint(name string, c Colour) string {
	s := fmt.Sprintf(` %s="%s"`, name, c)
	if c.A < 1 {
		s += fmt.Sprintf(` %s-opacity="%.3f"`, name, c.A)
	}
	return s
}

// gradient defines one from a place to another, px, and is the attribute that fills with it.
func (d drawing) gradient(x0, y0, x1, y1 float64, stops ...stop) string {
	d.ids++
	id := d.ID + strconv.Itoa(d.ids)
	fmt.Fprintf(d.B, `<linearGradient id="%s" gradientUnits="userSpaceOnUse" x1="%s" y1="%s" x2="%s" y2="%s">`, id, num(x0), num(y0), num(x1), num(y1))
	for _, s := range stops {
		fmt.Fprintf(d.B, `<stop offset="%s"%s/>`, num(s.at), paint("stop-color", s.Colour))
	}
	d.B.WriteString(`</linearGradient>`)
	return fmt.Sprintf(` fill="url(#%s)"`, id)
}

// down is a gradient over a height.
func (d drawing) down(y0, y1 float64, stops ...stop) string {
	return d.gradient(0, y0, 0, y1, stops...)
}

// raised is the gradient of what stands out.
func raised(base Colour) []stop { return []stop{{0, base.lighter(124)}, {1, base.lighter(102)}} }

// clipped limits what is drawn inside to a box.
func (d drawing) clipped(x, y, w, h int, draw func()) {
	d.ids++
	fmt.Fprintf(d.B, `<clipPath id="%s%d"><rect x="%d" y="%d" width="%d" height="%d"/></clipPath><g clip-path="url(#%s%d)">`, d.ID, d.ids, x, y, max(w, 0), max(h, 0), d.ID, d.ids)
	draw()
	d.B.WriteString(`</g>`)
}

// fill fills whole pixels.
func (d drawing) fill(x, y, w, h int, c Colour) { d.fillAs(x, y, w, h, paint("fill", c)) }

func (d drawing) fillAs(x, y, w, h int, fill string) {
	if w > 0 && h > 0 {
		fmt.Fprintf(d.B, `<rect x="%d" y="%d" width="%d" height="%d"%s/>`, x, y, w, h, fill)
	}
}

// edge draws a line of a pixel around the middles of the pixels at x, y and x+w, y+h.
func (d drawing) edge(x, y, w, h int, round float64, c Colour) {
	d.round(x, y, w, h, round, ` fill="none"`+paint("stroke", c))
}

// round is a box from the middle of a pixel to that of another.
func (d drawing) round(x, y, w, h int, round float64, as string) {
	if round > 0 {
		round += 0.45 // as Qt's lines of a pixel cut their corners
	}
	if w > 0 && h > 0 {
		fmt.Fprintf(d.B, `<rect x="%s" y="%s" width="%d" height="%d" rx="%s"%s/>`, num(float64(x)+0.5), num(float64(y)+0.5), w, h, num(round), as)
	}
}

// arrow points up or down in the middle of a box.
func (d drawing) arrow(x, y, w, h int, down bool, c Colour) {
	size := min(8, w, h)
	tall := 8 * size / 14
	left, top := float64(x)+float64(w-size)/2, float64(y)+float64(h-tall)/2
	from, to := top, top+float64(tall)
	if !down {
		from, to = to, from
	}
	fmt.Fprintf(d.B, `<path d="M%s %sh%dL%s %sz"%s/>`, num(left), num(from), size, num(left+float64(size)/2), num(to), paint("fill", c))
}

func (d drawing) button() {
	colour, line := d.Palette.button(), d.outline()
	if d.is&(Focus|Default) != 0 && d.is&Off == 0 {
		line = d.chosenOutline()
	}
	if d.is&Default != 0 && d.is&Off == 0 {
		colour = merged(colour, d.chosenOutline().lighter(130), 90)
	}
	fill := paint("fill", colour.darker(110))
	if d.is&(Down|On) == 0 {
		ground := colour
		if d.is&Over == 0 || d.is&Off != 0 {
			ground = colour.darker(104)
		}
		fill = d.down(-0.5, float64(d.h)-1.5, raised(ground)...)
	}
	if d.is&Off != 0 {
		line = line.lighter(115)
	}
	// The picture of a button lies half a pixel up: its box is that of its pixels.
	d.round(0, 0, d.w-1, d.h-1, 2, fill)
	d.edge(0, 0, d.w-1, d.h-1, 2, line)
	d.edge(1, 1, d.w-3, d.h-3, 2, contrast)
}

func (d drawing) check() {
	w, h := d.w-1, d.h-1
	pressed := merged(d.Base, d.WindowText, 85)
	fill := paint("fill", pressed)
	if d.is&Down == 0 {
		fill = d.down(0.5, float64(h)-0.5, stop{0, d.Base.darker(115)}, stop{0.15, d.Base}, stop{1, d.Base})
	}
	line := d.outline().lighter(110)
	if d.is&Focus != 0 {
		line = d.chosenOutline()
	}
	d.round(0, 0, w, h, 0, fill)
	d.edge(0, 0, w, h, 0, line)
	if d.is&On != 0 {
		tall := float64(h)
		pad := 1 + float64(w)*0.13
		pen := min(max(1.5, 0.13*tall), 0.20*tall)
		fmt.Fprintf(d.B, `<path transform="translate(-0.3 1)" d="M%s %sL%s %sL%s %s" fill="none" stroke-linecap="square" stroke-linejoin="bevel" stroke-width="%s"%s/>`,
			num(pad+tall*0.11), num(tall*0.47), num(tall*0.5), num(tall-pad), num(tall-pad), num(pad), num(pen), paint("stroke", d.Text.darker(120)))
	}
}

func (d drawing) radio() {
	fill := d.Base
	if d.is&Down != 0 {
		fill = merged(d.Base, d.WindowText, 85)
	}
	line := d.Window.darker(150)
	if d.is&Focus != 0 {
		line = d.chosenOutline()
	}
	cx, cy := (d.w-1)/2+1, (d.h-1)/2+1
	r := float64(d.w+(d.w+1)%2)/2 - 1
	fmt.Fprintf(d.B, `<circle cx="%d" cy="%d" r="%s"%s%s/>`, cx, cy, num(r), paint("fill", fill), paint("stroke", line))
	if d.is&On != 0 {
		mark := d.Text.darker(120)
		fmt.Fprintf(d.B, `<circle cx="%d" cy="%d" r="%s"%s%s/>`, cx, cy, num(r/2.32), paint("fill", mark.seen(180)), paint("stroke", mark.seen(200)))
	}
}

func (d drawing) entry() {
	d.fill(1, 1, d.w-2, d.h-2, d.Base)
	line := d.outline()
	if d.is&Focus != 0 {
		line = d.chosenOutline()
	}
	d.edge(0, 0, d.w-1, d.h-1, 2, line)
	if d.is&Focus != 0 {
		d.edge(1, 1, d.w-3, d.h-3, 1.7, line.seen(40))
	}
	d.fill(2, 1, d.w-4, 1, shadow)
}

func (d drawing) spin() {
	h := d.h - 2 // its box, from 1
	const frame, wide = 3, 14
	x, middle := d.w-frame-wide+2, d.h/2
	up, below := [4]int{x, frame, wide, middle - frame}, [4]int{x, middle, wide, d.h - middle - frame}
	d.round(0, 1, d.w-1, h-1, 2, paint("fill", d.Base))
	d.fill(2, 2, d.w-4, 1, shadow)
	ground := d.Palette.button()
	if d.is&Over == 0 || d.is&Off != 0 {
		ground = ground.darker(104)
	}
	top, tall := up[1]-2, up[3]+below[3]+4
	fill := d.down(float64(top)+0.5, float64(top+tall)-0.5, raised(ground)...)
	d.clipped(x, top, wide, tall, func() {
		d.round(0, 1, d.w-1, h-1, 2, fill)
		d.edge(1, 2, d.w-3, h-3, 2, contrast)
	})
	line := d.outline()
	if d.is&Focus != 0 {
		line = d.chosenOutline()
	}
	d.edge(0, 1, d.w-1, h-1, 2, line)
	if d.is&Focus != 0 {
		d.edge(1, 2, d.w-3, h-3, 1.7, d.Highlight.seen(40))
	}
	d.fill(x, up[1]-1, 1, below[1]+below[3]-up[1]+2, d.outline())
	mark := d.WindowText.seen(160)
	d.arrow(up[0], up[1], up[2], up[3]+1, false, mark)
	d.arrow(below[0], below[1], below[2], below[3], true, mark)
}

// at is a place for a share of 100 in a span, as qstyle.cpp rounds it.
func at(share, span int) int { return (2*share*span + 100) / 200 }

func (d drawing) slider() {
	const grip, groove = 15, 7
	cy := (d.h - 1) / 2
	x, y := at(SliderAt, d.w-grip), cy-grip/2
	gy := cy - groove/2
	_, s, v := d.Palette.button().hsv()
	ground := ofHSV(0, s, min(1, v*0.9), 1)
	fill := d.down(float64(gy)+0.5, float64(gy+groove)-0.5, stop{0, ground.darker(110)}, stop{1, ground.lighter(110)})
	line := d.outline()
	if d.is&Focus != 0 {
		line = d.chosenOutline()
	}
	d.round(1, gy+1, d.w-3, groove-3, 1, fill)
	d.edge(1, gy+1, d.w-3, groove-3, 1, line)
	if chosen := d.Highlight.darker(140); line.light() > chosen.light() {
		line = chosen
	}
	fill = d.down(float64(gy)+0.5, float64(gy+groove)-0.5, stop{0, d.Highlight}, stop{1, d.Highlight.lighter(130)})
	d.clipped(0, gy, x+1, groove+1, func() {
		d.round(1, gy+1, d.w-3, groove-3, 1, fill)
		d.edge(1, gy+1, d.w-3, groove-3, 1, line)
		d.edge(2, gy+2, d.w-5, groove-5, 1, contrast)
	})
	fmt.Fprintf(d.B, `<g transform="translate(%d %d)">`, x, y)
	fill = d.down(2.5, grip-2.5, raised(d.Palette.button())...)
	d.round(0, 3, grip-1, grip-7, 0, paint("fill", grey(0, 0, 0, 40)))
	d.round(1, 1, grip-3, grip-3, 2, fill)
	line = d.outline()
	if d.is&Focus != 0 {
		line = d.chosenOutline()
	}
	d.edge(1, 1, grip-3, grip-3, 2, line)
	d.edge(2, 2, grip-5, grip-5, 2, contrast)
	d.fill(3, grip-2, grip-6, 1, grey(0, 0, 0, 10))
	d.B.WriteString(`</g>`)
}

func (d drawing) scroll() {
	const wide, least = 14, 26
	room := d.h - 2*wide
	long := max(room*ShownPart/(100+ShownPart), least)
	y := wide + at(SliderAt, room-long)
	button, line := d.Palette.button(), d.outline().seen(180)
	right := float64(d.w) - 0.5
	d.fillAs(0, 0, d.w, d.h, d.gradient(0.5, 0, right, 0, stop{0, button.darker(107)}, stop{0.1, button.darker(105)}, stop{0.9, button.darker(105)}, stop{1, button.darker(107)}))
	d.fill(0, 0, 1, d.h, line)
	d.clipped(1, wide, d.w-2, room-3, func() { d.edge(1, wide, d.w-2, room-1, 0, line.seen(40)) })
	fill := d.gradient(0.5, 0, right, 0, stop{0, button.lighter(108)}, stop{1, button})
	d.fillAs(0, y, d.w, long, fill)
	d.edge(0, y-1, d.w+1, long+1, 0, line)
	d.edge(1, y, d.w-2, long-1, 0, contrast)
	for _, end := range []struct {
		top, line int
		down      bool
	}{{0, wide - 1, false}, {d.h - wide, d.h - wide, true}} {
		d.fillAs(1, end.top, d.w-1, wide, fill)
		d.fill(0, end.line, d.w, 1, line)
		x, y, w, h := 1, end.top, d.w-2, wide-2
		if end.down {
			y++
		}
		d.edge(x, y, w, h, 0, contrast)
		d.arrow(x, y, w, h, end.down, d.WindowText.seen(160))
	}
}

func (d drawing) progress() {
	d.fill(0, -1, d.w, 1, grey(0, 0, 0, 16))
	d.round(0, 0, d.w-1, d.h-1, 2, paint("fill", d.Base))
	d.edge(0, 0, d.w-1, d.h-1, 2, d.outline())
	d.fill(1, 1, d.w-1, 1, shadow)
	w := d.w*ProgressAt/100 - 1
	d.fill(w+1, 1, 1, d.h-2, grey(0, 0, 0, 35))
	d.fill(w, 1, 1, d.h-2, d.Highlight.darker(140))
	line := d.outline()
	if chosen := d.Highlight.darker(140); line.light() > chosen.light() {
		line = chosen
	}
	fill := d.down(0.5, float64(d.h)-0.5, stop{0, d.Highlight.lighter(120)}, stop{1, d.Highlight})
	d.clipped(-1, -1, w+1, d.h+2, func() {
		d.round(0, 0, w+2, d.h-1, 2, fill)
		d.edge(0, 0, w+2, d.h-1, 2, line)
	})
	d.edge(1, 1, w-2, d.h-3, 1, grey(255, 255, 255, 50))
}

func (d drawing) tab() {
	page := d.page()
	chosen := d.is&Chosen != 0
	top, end := 2, d.h-3
	stops := []stop{{0, page.darker(108)}, {0.85, page.darker(108)}, {1, page.darker(116)}}
	if chosen {
		top, end = 0, d.h-2
		stops = []stop{{0, page.lighter(104)}, {1, page}}
	}
	fill := d.down(0.5, float64(d.h)-0.5, stops...)
	line := d.outline().lighter(110)
	if chosen {
		line = d.outline()
	}
	// It lies over the one after it by a pixel.
	d.clipped(0, 0, d.w, end+1, func() {
		d.round(0, top, d.w, d.h+2-top, 2, fill)
		d.edge(0, top, d.w, d.h+2-top, 2, line)
		d.edge(1, top+1, d.w-2, d.h+2-top, 2, contrast)
	})
	if chosen {
		d.fill(1, d.h-2, d.w-1, 2, page)
	}
}

func (d drawing) header() {
	button := d.Palette.button()
	from, to := button.lighter(104), button.darker(102)
	d.fillAs(0, 0, d.w, d.h, d.down(0, float64(d.h)-1, stop{0, from}, stop{0.5, merged(from, to, 60)}, stop{0.501, merged(from, to, 40)}, stop{0.92, to}, stop{1, to.darker(104)}))
	d.fill(0, 0, d.w, 1, contrast)
	d.fill(0, d.h-1, d.w, 1, d.outline())
	d.fill(d.w-1, 0, 1, d.h-1, grey(0, 0, 0, 40))
	d.fill(d.w-2, 0, 1, d.h-1, contrast)
}
