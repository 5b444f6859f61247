package paint

import (
	"math"
	"slices"

	"ivelt/core/gtkcss"
)

func (p *Painter) border(outer, inner Rect, st *gtkcss.Style) {
	if b, ok := st.BorderImage(outer.W, outer.H); ok {
		p.borderImage(outer, b, st)
		return
	}
	widths, colours := st.BorderWidth(), st.Borders()
	if widths == (gtkcss.Box{}) {
		return
	}
	for i, side := range [4]string{"top", "right", "bottom", "left"} { // gtkrenderborder.c
		style := st.Text("border-" + side + "-style")
		if style == "inset" && (i == 1 || i == 2) || style == "outset" && (i == 0 || i == 3) {
			colours[i] = colours[i].Shade(1.8)
		}
	}
	one := true
	for i := range widths {
		one = one && (widths[i] == 0 || colours[i] == colours[firstSide(widths)])
	}
	if one {
		if c := colours[firstSide(widths)]; c.A > 0 {
			p.printf(`<path fill-rule="evenodd" d="%s%s" fill="%s"/>`, outer.Path(), inner.Path(), c.CSS())
		}
		return
	}
	ring := p.name()
	p.printf(`<clipPath id="%s"><path clip-rule="evenodd" d="%s%s"/></clipPath><g clip-path="url(#%s)">`, ring, outer.Path(), inner.Path(), ring)
	x0, y0, x1, y1 := outer.X, outer.Y, outer.X+outer.W, outer.Y+outer.H
	a0, b0, a1, b1 := x0+widths[3], y0+widths[0], x1-widths[1], y1-widths[2]
	// Where two sides meet they are cut at the corner's slant, carried on inwards.
	mx, my := (x0+x1)/2, (y0+y1)/2
	reach := func(ox, oy, ix, iy float64) (float64, float64) {
		k := math.Inf(1)
		if ix != ox {
			k = math.Abs((mx - ox) / (ix - ox))
		}
		if iy != oy {
			k = min(k, math.Abs((my-oy)/(iy-oy)))
		}
		if math.IsInf(k, 1) {
			return mx, my
		}
		return ox + (ix-ox)*k, oy + (iy-oy)*k
	}
	tlx, tly := reach(x0, y0, a0, b0)
	trx, try := reach(x1, y0, a1, b0)
	brx, bry := reach(x1, y1, a1, b1)
	blx, bly := reach(x0, y1, a0, b1)
	for i, q := range [4][8]float64{{x0, y0, x1, y0, trx, try, tlx, tly}, {x1, y0, x1, y1, brx, bry, trx, try}, {x1, y1, x0, y1, blx, bly, brx, bry}, {x0, y1, x0, y0, tlx, tly, blx, bly}} {
		if widths[i] > 0 && colours[i].A > 0 {
			p.printf(`<path d="M%s %sL%s %sL%s %sL%s %sZ" fill="%s"/>`, Number(q[0]), Number(q[1]), Number(q[2]), Number(q[3]), Number(q[4]), Number(q[5]), Number(q[6]), Number(q[7]), colours[i].CSS())
		}
	}
	p.B.WriteString(`</g>`)
}

func firstSide(w gtkcss.Box) int {
	return max(slices.IndexFunc(w[:], func(f float64) bool { return f > 0 }), 0)
}

// borderImage draws a picture instead of a border: its corners as they are, its
// sides stretched or repeated, its middle if that is told (css-backgrounds-3,
// section 6; what GTK does otherwise, gtkrenderborder.c).
func (p *Painter) borderImage(outer Rect, b gtkcss.BorderImage, st *gtkcss.Style) {
	w, h, address := outer.W, outer.H, ""
	if b.Image.Kind == "url" || b.Image.Kind == "recolor" {
		var ok bool
		if address, w, h, ok = p.file(b.Image, st); !ok {
			return
		}
	}
	if w <= 0 || h <= 0 {
		return
	}
	draw := func() {
		if address != "" {
			p.embed(address, Rect{W: w, H: h})
		} else {
			p.Image(b.Image, Rect{W: w, H: h}, st)
		}
	}
	across := cuts(w, b.Slices[3].Of(w), b.Slices[1].Of(w), outer.X, outer.W, b.Widths[3], b.Widths[1])
	down := cuts(h, b.Slices[0].Of(h), b.Slices[2].Of(h), outer.Y, outer.H, b.Widths[0], b.Widths[2])
	for j, v := range down {
		for i, u := range across {
			if u.size <= 0 || v.size <= 0 || u.to <= 0 || v.to <= 0 || i == 1 && j == 1 && !b.Fill {
				continue
			}
			stepW, stepH := u.to, v.to
			if i == 1 && j != 1 {
				stepW = step(b.Repeat[0], u.size*v.to/v.size, u.to)
			}
			if j == 1 && i != 1 {
				stepH = step(b.Repeat[1], v.size*u.to/u.size, v.to)
			}
			p.slice(Rect{X: u.from, Y: v.from, W: u.size, H: v.size}, Rect{X: u.at, Y: v.at, W: u.to, H: v.to}, stepW, stepH, draw)
		}
	}
}

// cut is a part of a picture's side, and where it is drawn.
type cut struct{ from, size, at, to float64 }

func cuts(whole, first, last, at, room, before, after float64) [3]cut {
	return [3]cut{
		{0, first, at, before},
		{first, max(whole-first-last, 0), at + before, max(room-before-after, 0)},
		{whole - last, last, at + room - after, after},
	}
}

// step is how far a repeated part reaches.
func step(repeat string, natural, room float64) float64 {
	switch {
	case natural < 4 || room <= 0 || repeat == "stretch": // so little repeats as one colour
		return room
	case repeat == "round":
		return room / max(math.Round(room/natural), 1)
	}
	return max(natural, room/200)
}

// slice draws a part of a picture over a box, in steps from its middle.
func (p *Painter) slice(from, to Rect, stepW, stepH float64, draw func()) {
	clip := p.name()
	p.printf(`<clipPath id="%s"><path d="%s"/></clipPath><g clip-path="url(#%s)">`, clip, to.Path(), clip)
	start := func(at, room, step float64) float64 {
		if step >= room {
			return at
		}
		middle := at + room/2 - step/2
		return middle - math.Ceil((middle-at)/step)*step
	}
	for y := start(to.Y, to.H, stepH); y < to.Y+to.H-0.001; y += stepH {
		for x := start(to.X, to.W, stepW); x < to.X+to.W-0.001; x += stepW {
			p.printf(`<svg x="%s" y="%s" width="%s" height="%s" viewBox="%s %s %s %s" preserveAspectRatio="none">`, Number(x), Number(y), Number(stepW), Number(stepH), Number(from.X), Number(from.Y), Number(from.W), Number(from.H))
			draw()
			p.B.WriteString(`</svg>`)
		}
	}
	p.B.WriteString(`</g>`)
}
