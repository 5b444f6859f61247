// Package paint draws boxes in a computed style as SVG.
package paint

import (
	_ "embed"
	"fmt"
	"math"
	"slices"
	"strconv"
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
	Blurred func(blur float64) float64 // nil for CSS's own rule
	// picture returns a file of the piece as a data address and its size in px.
	Picture func(file string) (address string, width, height float64, ok bool)
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

// Box draws a node's box: shadows, background, border, outline.
func (p *Painter) Box(x, y, w, h float64, st *gtkcss.Style) {
	if w <= 0 || h <= 0 {
		return
	}
	faded := st.Opacity() < 1
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
	p.border(outer, inner, st)
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

func (p *Painter) background(outer Rect, st *gtkcss.Style) {
	area := func(name string) Rect {
		switch name {
		case "padding-box":
			return outer.in(st.BorderWidth())
		case "content-box":
			return outer.in(st.BorderWidth()).in(st.Padding())
		}
		return outer
	}
	layers := st.Layers()
	clip := st.Text("background-clip")
	if at := strings.LastIndex(clip, ", "); at >= 0 {
		clip = clip[at+2:]
	}
	if c := st.Colour("background-color"); c.A > 0 {
		p.printf(`<path d="%s" fill="%s"/>`, area(clip).Path(), c.CSS())
	}
	for _, l := range slices.Backward(layers) {
		p.layer(area(l.Clip), outer.in(st.BorderWidth()), l)
	}
}

// layer draws one picture of a background. on is what it covers, in what it is
// placed in.
func (p *Painter) layer(on, in Rect, l gtkcss.Layer) {
	w, h := in.W, in.H
	address := ""
	if l.Image.Kind == "url" {
		if p.Picture == nil {
			return
		}
		var ok bool
		if address, w, h, ok = p.Picture(l.Image.File); !ok {
			return
		}
	}
	w, h = sized(l.Size, w, h, in)
	x, y := placedAt(l.Position, w, h, in)
	if w <= 0 || h <= 0 {
		return
	}
	tile := Rect{X: x, Y: y, W: w, H: h}
	whole := l.Image.Kind != "url" && w >= in.W && h >= in.H
	if whole { // it fills the box: what is beyond the padding is its edge
		if fill := p.fill(l.Image, tile); fill != "" {
			p.printf(`<path d="%s" fill="%s"/>`, on.Path(), fill)
		}
		return
	}
	clip := p.name()
	p.printf(`<clipPath id="%s"><path d="%s"/></clipPath><g clip-path="url(#%s)">`, clip, on.Path(), clip)
	for i, at := range tiles(l.Repeat, tile, on) {
		if i > 400 {
			break
		}
		if address != "" {
			p.printf(`<image href="%s" x="%s" y="%s" width="%s" height="%s" preserveAspectRatio="none"/>`, address, Number(at.X), Number(at.Y), Number(w), Number(h))
		} else if fill := p.fill(l.Image, at); fill != "" {
			p.printf(`<path d="%s" fill="%s"/>`, at.Path(), fill)
		}
	}
	p.B.WriteString(`</g>`)
}

// measure reads a length in px or a share of a whole.
func measure(word string, whole float64) (float64, bool) {
	if share, ok := strings.CutSuffix(word, "%"); ok {
		f, err := strconv.ParseFloat(share, 64)
		return f / 100 * whole, err == nil
	}
	f, err := strconv.ParseFloat(strings.TrimSuffix(word, "px"), 64)
	return f, err == nil
}

func sized(size string, w, h float64, in Rect) (float64, float64) {
	f := strings.Fields(size)
	switch {
	case len(f) == 0 || w <= 0 || h <= 0:
		return w, h
	case f[0] == "cover":
		k := max(in.W/w, in.H/h)
		return w * k, h * k
	case f[0] == "contain":
		k := min(in.W/w, in.H/h)
		return w * k, h * k
	}
	nw, ok1 := measure(f[0], in.W)
	nh, ok2 := 0.0, false
	if len(f) > 1 {
		nh, ok2 = measure(f[1], in.H)
	}
	switch {
	case ok1 && ok2:
		return nw, nh
	case ok1:
		return nw, nw * h / w
	case ok2:
		return nh * w / h, nh
	}
	return w, h
}

func placedAt(position string, w, h float64, in Rect) (x, y float64) {
	f := strings.Fields(position)
	if len(f) == 1 {
		f = append(f, "center")
	}
	if len(f) < 2 {
		return in.X, in.Y
	}
	one := func(word string, room float64) float64 {
		switch word {
		case "left", "top":
			return 0
		case "center":
			return room / 2
		case "right", "bottom":
			return room
		}
		v, _ := measure(word, room)
		return v
	}
	return in.X + one(f[0], in.W-w), in.Y + one(f[1], in.H-h)
}

// tiles are where a picture is repeated to.
func tiles(repeat string, tile, on Rect) []Rect {
	across, down := repeat == "repeat" || repeat == "repeat-x" || repeat == "round" || repeat == "space", repeat == "repeat" || repeat == "repeat-y" || repeat == "round" || repeat == "space"
	from := func(at, size, edge float64) float64 { return at - math.Ceil(max(at-edge, 0)/size)*size }
	x0, y0, x1, y1 := tile.X, tile.Y, tile.X+1e-3, tile.Y+1e-3
	if across {
		x0, x1 = from(tile.X, tile.W, on.X), on.X+on.W
	}
	if down {
		y0, y1 = from(tile.Y, tile.H, on.Y), on.Y+on.H
	}
	var out []Rect
	for y := y0; y < y1; y += tile.H {
		for x := x0; x < x1; x += tile.W {
			out = append(out, Rect{X: x, Y: y, W: tile.W, H: tile.H})
			if len(out) > 400 {
				return out
			}
		}
	}
	return out
}

// fill defines what an image fills a box with.
func (p *Painter) fill(i gtkcss.Image, in Rect) string {
	if i.Kind == "colour" {
		return i.Colour.CSS()
	}
	if len(i.Stops) == 0 {
		return ""
	}
	id := p.name()
	spread := ""
	if i.Repeating {
		spread = ` spreadMethod="repeat"`
	}
	var stops []gtkcss.Stop
	switch i.Kind {
	case "linear":
		dx, dy := direction(i, in)
		stops = i.Along(2 * math.Hypot(dx, dy))
		x, y := in.X+in.W/2-dx, in.Y+in.H/2-dy
		first, last := 0.0, 1.0
		if i.Repeating {
			first, last = span(stops)
		}
		p.printf(`<linearGradient id="%s" gradientUnits="userSpaceOnUse" x1="%s" y1="%s" x2="%s" y2="%s"%s>`, id, Number(x+2*dx*first), Number(y+2*dy*first), Number(x+2*dx*last), Number(y+2*dy*last), spread)
		defer p.B.WriteString(`</linearGradient>`)
	default:
		x, y := in.X+in.W*i.At[0], in.Y+in.H*i.At[1]
		rx, ry := reach(i, in)
		stops = i.Along(rx)
		last := 1.0
		if i.Repeating {
			_, last = span(stops)
		}
		p.printf(`<radialGradient id="%s" gradientUnits="userSpaceOnUse" cx="0" cy="0" r="1" gradientTransform="translate(%s %s) scale(%s %s)"%s>`, id, Number(x), Number(y), Number(max(rx*last, 0.01)), Number(max(ry*last, 0.01)), spread)
		defer p.B.WriteString(`</radialGradient>`)
	}
	for _, s := range stops {
		p.printf(`<stop offset="%s" stop-color="%s"/>`, Number(s.At), s.Colour.CSS())
	}
	return "url(#" + id + ")"
}

// span makes stops shares of what is between the first and the last, which is what repeats,
// and returns where that was.
func span(stops []gtkcss.Stop) (first, last float64) {
	first, last = stops[0].At, stops[len(stops)-1].At
	if last <= first {
		return 0, 1
	}
	for i := range stops {
		stops[i].At = (stops[i].At - first) / (last - first)
	}
	return first, last
}

// direction is half the line of a linear gradient (css-images-3, section 3.1).
func direction(i gtkcss.Image, in Rect) (dx, dy float64) {
	angle := i.Angle * math.Pi / 180
	if i.Side != "" {
		right, left := strings.Contains(i.Side, "right"), strings.Contains(i.Side, "left")
		top, bottom := strings.Contains(i.Side, "top"), strings.Contains(i.Side, "bottom")
		x, y := 0.0, 0.0
		if right {
			x = 1
		} else if left {
			x = -1
		}
		if bottom {
			y = 1
		} else if top {
			y = -1
		}
		if x != 0 && y != 0 { // towards a corner: the middle line goes through the other two
			x, y = x*in.H, y*in.W
		}
		angle = math.Atan2(x, -y)
	}
	sin, cos := math.Sin(angle), math.Cos(angle)
	half := (math.Abs(in.W*sin) + math.Abs(in.H*cos)) / 2
	return sin * half, -cos * half
}

// reach is how far a radial gradient goes, across and down (section 3.2).
func reach(i gtkcss.Image, in Rect) (rx, ry float64) {
	left, right, top, bottom := in.W*i.At[0], in.W*(1-i.At[0]), in.H*i.At[1], in.H*(1-i.At[1])
	if f := strings.Fields(i.Size); len(f) > 0 {
		if a, ok := measure(f[0], in.W); ok && !strings.Contains(f[0], "-") {
			if len(f) > 1 {
				b, _ := measure(f[1], in.H)
				return a, b
			}
			return a, a
		}
	}
	near := strings.HasPrefix(i.Size, "closest")
	if near {
		rx, ry = min(left, right), min(top, bottom)
	} else {
		rx, ry = max(left, right), max(top, bottom)
	}
	if strings.HasSuffix(i.Size, "corner") {
		if i.Circle {
			r := math.Hypot(rx, ry)
			return r, r
		}
		return rx * math.Sqrt2, ry * math.Sqrt2
	}
	if i.Circle {
		r := max(rx, ry)
		if near {
			r = min(rx, ry)
		}
		return r, r
	}
	return rx, ry
}

func (p *Painter) border(outer, inner Rect, st *gtkcss.Style) {
	widths, colours := st.BorderWidth(), st.Borders()
	if widths == (gtkcss.Box{}) {
		return
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
		if ix == ox && iy == oy {
			return mx, my
		}
		k := max(math.Abs(mx-ox), math.Abs(my-oy))
		d := math.Hypot(ix-ox, iy-oy)
		return ox + (ix-ox)/d*k, oy + (iy-oy)/d*k
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

// Escape makes a text harmless in SVG.
func Escape(s string) string {
	return strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;", `"`, "&#34;", "'", "&#39;").Replace(strings.ToValidUTF8(s, "?"))
}
