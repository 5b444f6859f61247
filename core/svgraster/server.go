package svgraster

import (
	"image"
	"image/color"
	"math"
	"strings"
)

// shader gives the colour of a pixel, not multiplied by its alpha.
type shader func(x, y int) color.NRGBA

// gradient makes the shader of a gradient for a shape with a box, nil for nothing to
// draw. m leads from the shape's places to pixels.
func (d *drawer) gradient(e *element, m matrix, box [4]float64) shader {
	var stops []stop
	attr := map[string]string{}
	units, turn := "", ""
	for at, n := e, 0; at != nil && n < 16; n++ {
		if len(stops) == 0 {
			stops = d.stops(at)
		}
		for _, name := range []string{"x1", "y1", "x2", "y2", "cx", "cy", "r", "fx", "fy", "spreadMethod"} {
			if v, ok := at.attrs[name]; ok && attr[name] == "" && (at.name == e.name || name == "spreadMethod") {
				attr[name] = v
			}
		}
		if units == "" {
			units = at.attrs["gradientUnits"]
		}
		if turn == "" {
			turn = at.attrs["gradientTransform"]
		}
		at = d.doc.ids[refers(at.attrs["href"])]
		if at != nil && !strings.HasSuffix(at.name, "Gradient") {
			at = nil
		}
	}
	if len(stops) == 0 {
		return nil
	}
	w, h := 1.0, 1.0
	if units == "userSpaceOnUse" {
		w, h = d.w, d.h
	} else {
		if box[2] <= 0 || box[3] <= 0 {
			return nil
		}
		m = m.then(matrix{box[2], 0, 0, box[3], box[0], box[1]})
	}
	back, ok := m.then(transforms(turn)).back()
	if !ok {
		c := stops[len(stops)-1].colour
		return func(int, int) color.NRGBA { return c }
	}
	get := func(name string, whole float64, usual string) float64 {
		v := attr[name]
		if v == "" {
			v = usual
		}
		return length(v, whole, 0)
	}
	ramp := rampOf(stops)
	spread := attr["spreadMethod"]
	pick := func(t float64) color.NRGBA {
		switch {
		case math.IsNaN(t):
			t = 0
		case spread == "repeat":
			t -= math.Floor(t)
		case spread == "reflect":
			t = math.Abs(math.Mod(t, 2))
			if t > 1 {
				t = 2 - t
			}
		}
		return ramp[int(min(max(t, 0), 1)*(rampSize-1)+0.5)]
	}
	if e.name == "linearGradient" {
		from := point{get("x1", w, "0%"), get("y1", h, "0%")}
		to := point{get("x2", w, "100%"), get("y2", h, "0%")}
		dx, dy := to.x-from.x, to.y-from.y
		long := dx*dx + dy*dy
		if long == 0 {
			c := stops[len(stops)-1].colour
			return func(int, int) color.NRGBA { return c }
		}
		return func(x, y int) color.NRGBA {
			p := back.at(point{float64(x) + 0.5, float64(y) + 0.5})
			return pick(((p.x-from.x)*dx + (p.y-from.y)*dy) / long)
		}
	}
	c := point{get("cx", w, "50%"), get("cy", h, "50%")}
	r := get("r", math.Sqrt((w*w+h*h)/2), "50%")
	f := c
	if attr["fx"] != "" {
		f.x = get("fx", w, "")
	}
	if attr["fy"] != "" {
		f.y = get("fy", h, "")
	}
	if r <= 0 {
		last := stops[len(stops)-1].colour
		return func(int, int) color.NRGBA { return last }
	}
	if far := math.Hypot(f.x-c.x, f.y-c.y); far > r*0.999 { // the focus stays inside
		k := r * 0.999 / far
		f = point{c.x + (f.x-c.x)*k, c.y + (f.y-c.y)*k}
	}
	cd := point{c.x - f.x, c.y - f.y}
	den := r*r - cd.x*cd.x - cd.y*cd.y
	return func(x, y int) color.NRGBA {
		p := back.at(point{float64(x) + 0.5, float64(y) + 0.5})
		px, py := p.x-f.x, p.y-f.y
		// The share t of the way from the focus to the circle: |p - t·cd| = t·r.
		b := px*cd.x + py*cd.y
		root := math.Sqrt(max(b*b+den*(px*px+py*py), 0))
		return pick((root - b) / den)
	}
}

type stop struct {
	at     float64
	colour color.NRGBA
}

func (d *drawer) stops(e *element) (out []stop) {
	for _, k := range e.kids {
		if k.name != "stop" || len(out) > 1000 {
			continue
		}
		at := strings.TrimSpace(k.attrs["offset"])
		share, is := strings.CutSuffix(at, "%")
		f, _ := number(share)
		if is {
			f /= 100
		}
		f = min(max(f, 0), 1)
		if len(out) > 0 {
			f = max(f, out[len(out)-1].at)
		}
		current := color.NRGBA{A: 255}
		for at := k; at != nil; at = at.above {
			if c, ok := readColour(d.doc.told(at, "color"), current); ok {
				current = c
				break
			}
		}
		c, ok := readColour(d.doc.told(k, "stop-color"), current)
		if !ok {
			c = color.NRGBA{A: 255}
		}
		if v := d.doc.told(k, "stop-opacity"); v != "" {
			if o, err := number(strings.TrimSuffix(v, "%")); err == nil {
				if strings.HasSuffix(v, "%") {
					o /= 100
				}
				c.A = uint8(float64(c.A)*min(max(o, 0), 1) + 0.5)
			}
		}
		out = append(out, stop{f, c})
	}
	return out
}

const rampSize = 1024

// rampOf is the colours along a gradient.
func rampOf(stops []stop) *[rampSize]color.NRGBA {
	var out [rampSize]color.NRGBA
	i := 0
	for n := range out {
		t := float64(n) / (rampSize - 1)
		for i < len(stops) && stops[i].at <= t {
			i++
		}
		switch {
		case i == 0:
			out[n] = stops[0].colour
		case i == len(stops):
			out[n] = stops[i-1].colour
		default:
			a, b := stops[i-1], stops[i]
			k := (t - a.at) / (b.at - a.at)
			mix := func(x, y uint8) uint8 { return uint8(float64(x) + (float64(y)-float64(x))*k + 0.5) }
			out[n] = color.NRGBA{mix(a.colour.R, b.colour.R), mix(a.colour.G, b.colour.G), mix(a.colour.B, b.colour.B), mix(a.colour.A, b.colour.A)}
		}
	}
	return &out
}

// pattern makes the shader of a pattern for a shape with a box.
func (d *drawer) pattern(e *element, m matrix, box [4]float64) shader {
	attr := map[string]string{}
	var content *element
	for at, n := e, 0; at != nil && n < 16; n++ {
		for _, name := range []string{"x", "y", "width", "height", "patternUnits", "patternContentUnits", "patternTransform", "viewBox", "preserveAspectRatio"} {
			if v, ok := at.attrs[name]; ok && attr[name] == "" {
				attr[name] = v
			}
		}
		if content == nil && len(at.kids) > 0 {
			content = at
		}
		at = d.doc.ids[refers(at.attrs["href"])]
		if at != nil && at.name != "pattern" {
			at = nil
		}
	}
	if content == nil || d.deep > maxNested {
		return nil
	}
	var x, y, w, h float64
	if attr["patternUnits"] == "userSpaceOnUse" {
		x, y, w, h = length(attr["x"], d.w, 0), length(attr["y"], d.h, 0), length(attr["width"], d.w, 0), length(attr["height"], d.h, 0)
	} else {
		x, y = box[0]+length(attr["x"], 1, 0)*box[2], box[1]+length(attr["y"], 1, 0)*box[3]
		w, h = length(attr["width"], 1, 0)*box[2], length(attr["height"], 1, 0)*box[3]
	}
	m = m.then(transforms(attr["patternTransform"]))
	back, ok := m.back()
	if w <= 0 || h <= 0 || !ok {
		return nil
	}
	tw, th := int(math.Ceil(w*math.Hypot(m.a, m.b)-1e-6)), int(math.Ceil(h*math.Hypot(m.c, m.d)-1e-6))
	tw, th = min(max(tw, 1), 2048), min(max(th, 1), 2048)
	d.hold(tw * th)
	d.spend(2000)
	inside := matrix{float64(tw) / w, 0, 0, float64(th) / h, -x * float64(tw) / w, -y * float64(th) / h}
	if vx, vy, vw, vh, ok := viewBox(attr["viewBox"]); ok {
		inside = fitted(attr["preserveAspectRatio"], 0, 0, float64(tw), float64(th), vx, vy, vw, vh)
	} else if attr["patternContentUnits"] == "objectBoundingBox" {
		inside = inside.then(matrix{box[2], 0, 0, box[3], box[0], box[1]})
	}
	tile := image.NewRGBA(image.Rect(0, 0, tw, th))
	was := d.on
	d.on = tile
	d.deep++
	for _, k := range content.kids {
		d.element(k, inside, d.styleOf(content), &clip{box: tile.Rect})
	}
	d.deep--
	d.on = was
	return func(px, py int) color.NRGBA {
		p := back.at(point{float64(px) + 0.5, float64(py) + 0.5})
		u, v := (p.x-x)/w, (p.y-y)/h
		u, v = u-math.Floor(u), v-math.Floor(v)
		at := tile.PixOffset(min(int(u*float64(tw)), tw-1), min(int(v*float64(th)), th-1))
		return colourOf(tile.Pix[at : at+4])
	}
}
