package paint

import (
	"math"
	"slices"
	"strconv"
	"strings"

	"ivelt/core/gtkcss"
)

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
	blends := slices.ContainsFunc(layers, func(l gtkcss.Layer) bool { return l.Blend != "" && l.Blend != "normal" })
	if blends {
		p.B.WriteString(`<g style="isolation:isolate">`)
	}
	if c := st.Colour("background-color"); c.A > 0 {
		p.printf(`<path d="%s" fill="%s"/>`, area(clip).Path(), c.CSS())
	}
	for _, l := range slices.Backward(layers) {
		blend := blends && l.Blend != "normal" && slices.Contains(blendModes, l.Blend)
		if blend {
			p.printf(`<g style="mix-blend-mode:%s">`, l.Blend)
		}
		p.layer(area(l.Clip), area(l.Origin), l, st)
		if blend {
			p.B.WriteString(`</g>`)
		}
	}
	if blends {
		p.B.WriteString(`</g>`)
	}
}

// blendModes are those of Compositing and Blending 1, section 10.
var blendModes = []string{"multiply", "screen", "overlay", "darken", "lighten", "color-dodge", "color-burn", "hard-light", "soft-light", "difference", "exclusion", "hue", "saturation", "color", "luminosity"}

// layer draws one picture of a background. on is what it covers, in what it is
// placed in.
func (p *Painter) layer(on, in Rect, l gtkcss.Layer, st *gtkcss.Style) {
	w, h := in.W, in.H
	address, filed := "", l.Image.Kind == "url" || l.Image.Kind == "recolor"
	if filed {
		var ok bool
		if address, w, h, ok = p.file(l.Image, st); !ok {
			return
		}
	}
	w, h = sized(l.Size, w, h, in)
	x, y := placedAt(l.Position, w, h, in)
	if w <= 0 || h <= 0 {
		return
	}
	tile := Rect{X: x, Y: y, W: w, H: h}
	whole := !filed && l.Image.Kind != "icon" && w >= in.W && h >= in.H
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
			p.embedScaled(l.Image, st, address, at)
		} else {
			p.Image(l.Image, at, st)
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
