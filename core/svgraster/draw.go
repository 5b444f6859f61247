package svgraster

import (
	"context"
	"image"
	"image/color"
	"math"
	"strings"
)

const (
	maxNested = 24         // references, patterns and pictures in each other
	maxHeld   = 16_000_000 // pixels of layers, masks and what filters make, at once
)

// Options say how a drawing is drawn.
type Options struct {
	Work   int                                   // in pixels that are filled; 0 for no bound
	Decode func(raw []byte) (image.Image, error) // of pictures in it, of formats that package image knows; nil for none
}

type drawer struct {
	ended func() error
	doc   *document
	on    *image.RGBA
	w, h  float64 // that shares are of
	opts  Options
	spent *int   // of the work
	held  *int   // pixels that are in use at once
	adds  *[]sum // for what a path adds to each pixel
	deep  int
	using []*element // whose references are followed

	clip    image.Rectangle // of an element that is drawn alone
	measure *lines          // takes what would be painted, if it is not nil
}

// clip is where may be drawn.
type clip struct {
	box   image.Rectangle
	cover *mask // nil for all of it
}

// Draw draws a drawing over w × h pixels, as large as goes into them. Errors are
// [ErrDrawing], [ErrCostly], or the context's.
func Draw(ctx context.Context, raw []byte, w, h int, o Options) (*image.RGBA, error) {
	return draw(ctx.Err, raw, func(*document) (int, int) { return w, h }, o)
}

// Fit draws a drawing in its own proportions, so that its longer side has size px. Errors
// are those of [Draw].
func Fit(ctx context.Context, raw []byte, size int, o Options) (*image.RGBA, error) {
	return draw(ctx.Err, raw, func(doc *document) (int, int) {
		w, h := doc.size()
		if !(w > 0 && h > 0) || math.IsInf(w+h, 0) {
			w, h = 1, 1
		}
		k := float64(size) / max(w, h)
		return max(int(math.Round(w*k)), 1), max(int(math.Round(h*k)), 1)
	}, o)
}

// Trusted draws a drawing that comes from no stranger, without bounds.
func Trusted(raw []byte, w, h int) (*image.RGBA, error) {
	return draw(func() error { return nil }, raw, func(*document) (int, int) { return w, h }, Options{})
}

func draw(ended func() error, raw []byte, size func(*document) (w, h int), o Options) (out *image.RGBA, err error) {
	doc, err := parse(ended, raw)
	if err != nil {
		return nil, err
	}
	w, h := size(doc)
	defer func() {
		if r := recover(); r != nil {
			stop, ok := r.(stopped)
			if !ok {
				panic(r)
			}
			out, err = nil, stop.error
		}
	}()
	spent, held := 0, 0
	d := &drawer{ended: ended, doc: doc, on: image.NewRGBA(image.Rect(0, 0, w, h)), opts: o, spent: &spent, held: &held, adds: new([]sum)}
	d.spend(0)
	d.root(same, 0, 0, float64(w), float64(h))
	return d.on, nil
}

// stopped ends a drawing.
type stopped struct{ error }

func (d *drawer) spend(n int) {
	const look = 1 << 18
	was := *d.spent / look
	if *d.spent += n; d.opts.Work > 0 && *d.spent > d.opts.Work {
		panic(stopped{ErrCostly})
	}
	if n == 0 || *d.spent/look != was {
		if err := d.ended(); err != nil {
			panic(stopped{err})
		}
	}
}

// root draws the whole drawing into a box.
func (d *drawer) root(m matrix, x, y, w, h float64) {
	own, high := d.doc.size()
	root := d.doc.root
	to := m.then(matrix{1, 0, 0, 1, x, y})
	if vx, vy, vw, vh, ok := viewBox(root.attrs["viewBox"]); ok {
		to = m.then(fitted(root.attrs["preserveAspectRatio"], x, y, w, h, vx, vy, vw, vh))
		d.w, d.h = vw, vh
	} else if own > 0 && high > 0 {
		to = m.then(fitted(root.attrs["preserveAspectRatio"], x, y, w, h, 0, 0, own, high))
		d.w, d.h = own, high
	} else {
		d.w, d.h = w, h
	}
	d.group(root, to, usual(), &clip{box: d.on.Rect}, func(m matrix, st style, c *clip) {
		for _, k := range root.kids {
			d.element(k, m, st, c)
		}
	})
}

// fitted leads from a view into a box (SVG 1.1, section 7.8).
func fitted(aspect string, x, y, w, h, vx, vy, vw, vh float64) matrix {
	kx, ky := w/vw, h/vh
	f := strings.Fields(aspect)
	if len(f) > 0 && f[0] == "none" {
		return matrix{kx, 0, 0, ky, x - vx*kx, y - vy*ky}
	}
	k := min(kx, ky)
	if len(f) > 1 && f[1] == "slice" {
		k = max(kx, ky)
	}
	sx, sy := 0.5, 0.5
	if len(f) > 0 {
		share := func(low string) float64 {
			switch {
			case strings.Contains(f[0], low+"Min"):
				return 0
			case strings.Contains(f[0], low+"Max"):
				return 1
			}
			return 0.5
		}
		sx, sy = share("x"), share("Y")
	}
	return matrix{k, 0, 0, k, x + (w-vw*k)*sx - vx*k, y + (h-vh*k)*sy - vy*k}
}

// styleOf is the style that goes down to what is in an element, from the root on.
func (d *drawer) styleOf(e *element) style {
	if e == nil {
		return usual()
	}
	return d.doc.under(d.styleOf(e.above), e, d.diagonal())
}

func (d *drawer) diagonal() float64 { return math.Sqrt((d.w*d.w + d.h*d.h) / 2) }

// element draws one and all under it.
func (d *drawer) element(e *element, m matrix, st style, c *clip) {
	if c.box.Empty() || d.deep > maxDepth {
		return
	}
	d.spend(400)
	was := *d.held
	defer func() { *d.held = was }()
	switch e.name {
	case "g", "a", "svg", "use", "image", "path", "rect", "circle", "ellipse", "line", "polyline", "polygon":
	case "switch":
		for _, k := range e.kids {
			if k.attrs["requiredExtensions"] == "" && k.attrs["requiredFeatures"] == "" {
				d.group(e, m, st, c, func(m matrix, st style, c *clip) { d.element(k, m, st, c) })
				return
			}
		}
		return
	default:
		return
	}
	d.group(e, m, st, c, func(m matrix, st style, c *clip) { d.inside(e, m, st, c) })
}

// inside draws what an element is, without what is done to the whole of it.
func (d *drawer) inside(e *element, m matrix, st style, c *clip) {
	switch e.name {
	case "g", "a":
		for _, k := range e.kids {
			d.element(k, m, st, c)
		}
	case "svg":
		x, y := length(e.attrs["x"], d.w, 0), length(e.attrs["y"], d.h, 0)
		d.view(e, x, y, length(e.attrs["width"], d.w, d.w), length(e.attrs["height"], d.h, d.h), m, st, c)
	case "use":
		d.use(e, m, st, c)
	case "image":
		if !st.hidden {
			d.image(e, m, c)
		}
	default:
		if !st.hidden {
			d.shape(e, m, st, c)
		}
	}
}

// view draws what is in a box of its own: a drawing in a drawing, a symbol.
func (d *drawer) view(e *element, x, y, w, h float64, m matrix, st style, c *clip) {
	if w <= 0 || h <= 0 {
		return
	}
	if d.measure == nil && d.doc.told(e, "overflow") != "visible" {
		c = d.within(c, d.coverOf(rectangle(x, y, w, h), m, false, c.box))
	}
	ow, oh := d.w, d.h
	if vx, vy, vw, vh, ok := viewBox(e.attrs["viewBox"]); ok {
		m = m.then(fitted(e.attrs["preserveAspectRatio"], x, y, w, h, vx, vy, vw, vh))
		d.w, d.h = vw, vh
	} else {
		m = m.then(matrix{1, 0, 0, 1, x, y})
		d.w, d.h = w, h
	}
	for _, k := range e.kids {
		d.element(k, m, st, c)
	}
	d.w, d.h = ow, oh
}

func (d *drawer) use(e *element, m matrix, st style, c *clip) {
	of := d.doc.ids[refers(e.attrs["href"])]
	if of == nil || !d.follow(of) {
		return
	}
	defer d.followed()
	m = m.then(matrix{1, 0, 0, 1, length(e.attrs["x"], d.w, 0), length(e.attrs["y"], d.h, 0)})
	if of.name == "symbol" || of.name == "svg" {
		w := length(e.attrs["width"], d.w, length(of.attrs["width"], d.w, d.w))
		h := length(e.attrs["height"], d.h, length(of.attrs["height"], d.h, d.h))
		d.group(of, m, st, c, func(m matrix, st style, c *clip) { d.view(of, 0, 0, w, h, m, st, c) })
		return
	}
	d.element(of, m, st, c)
}

// follow goes to what is referred to, unless that goes in a circle.
func (d *drawer) follow(e *element) bool {
	if len(d.using) >= maxNested {
		return false
	}
	for _, u := range d.using {
		if u == e {
			return false
		}
	}
	d.using = append(d.using, e)
	return true
}

func (d *drawer) followed() { d.using = d.using[:len(d.using)-1] }

// group does what an element says of the whole of it: place, clip, mask, filter, how
// opaque it is, how it is blended.
func (d *drawer) group(e *element, m matrix, st style, c *clip, draw func(m matrix, st style, c *clip)) {
	if d.doc.told(e, "display") == "none" {
		return
	}
	d.deep++
	defer func() { d.deep-- }()
	if t := d.doc.told(e, "transform"); t != "" && e != d.doc.root {
		m = m.then(transforms(t))
	}
	st = d.doc.under(st, e, d.diagonal())
	if d.measure != nil {
		draw(m, st, c)
		return
	}
	if id := refers(d.doc.told(e, "clip-path")); id != "" {
		if of := d.doc.ids[id]; of != nil && of.name == "clipPath" {
			c = d.clipped(of, e, m, c)
		}
	}
	if c.box.Empty() {
		return
	}
	opacity := 1.0
	if v := d.doc.told(e, "opacity"); v != "" {
		share, is := strings.CutSuffix(strings.TrimSpace(v), "%")
		if f, err := number(share); err == nil {
			if opacity = f; is {
				opacity /= 100
			}
			opacity = min(max(opacity, 0), 1)
		}
	}
	blend := d.doc.told(e, "mix-blend-mode")
	masked := d.doc.ids[refers(d.doc.told(e, "mask"))]
	filter := d.doc.ids[refers(d.doc.told(e, "filter"))]
	if filter != nil && filter.name != "filter" {
		filter = nil
	}
	if masked != nil && masked.name != "mask" {
		masked = nil
	}
	isolated := d.doc.told(e, "isolation") == "isolate"
	if opacity == 1 && masked == nil && filter == nil && (blend == "" || blend == "normal") && !isolated {
		draw(m, st, c)
		return
	}
	if opacity == 0 {
		return
	}
	box := c.box
	free := &clip{box: box}
	if filter != nil { // what is beside the box may get into it
		free.box = box.Inset(-min(d.room(filter, m), 512)).Intersect(d.region(filter, e, m))
		if free.box.Empty() {
			return
		}
	}
	layer := d.layer(free.box, func() { draw(m, st, free) })
	if filter != nil {
		layer = d.filtered(filter, layer, e, m)
	}
	if masked != nil {
		d.mask(masked, e, layer, m)
	}
	d.compose(layer, c, opacity, blend)
}

// shape fills and strokes one.
func (d *drawer) shape(e *element, m matrix, st style, c *clip) {
	p := d.doc.shapeOf(e, d.w, d.h)
	if len(p) == 0 {
		return
	}
	if d.measure != nil {
		d.extent(p, m, st, e.name != "line")
		return
	}
	var box [4]float64
	if st.fill.server != "" || st.stroke.server != "" {
		x0, y0, x1, y1, _ := p.bounds()
		box = [4]float64{x0, y0, x1 - x0, y1 - y0}
	}
	if !st.fill.none && e.name != "line" && st.fillOpacity > 0 {
		d.paint(d.coverOf(p, m, st.evenOdd, c.box), c, st.fill, st.fillOpacity, m, box)
	}
	if !st.stroke.none && st.strokeOpacity > 0 {
		d.spend(32 * len(p))
		l := stroked(p, m, st)
		d.spend(16 * len(l.ends))
		d.paint(l.cover(c.box, false, d.spend, d.adds), c, st.stroke, st.strokeOpacity, m, box)
	}
}

// extent adds what a path would paint to what is measured.
func (d *drawer) extent(p path, m matrix, st style, filled bool) {
	d.spend(64 * len(p))
	if filled && !st.fill.none {
		d.measure.around(outline(p, m))
	}
	if !st.stroke.none {
		l := stroked(p, m, st)
		d.spend(16 * len(l.ends))
		d.measure.around(l)
	}
}

// paint lays paint where a mask covers.
func (d *drawer) paint(cover *mask, c *clip, with paint, opacity float64, m matrix, box [4]float64) {
	if cover == nil {
		return
	}
	var shade shader
	if with.server != "" {
		of := d.doc.ids[with.server]
		switch {
		case of == nil:
		case of.name == "linearGradient" || of.name == "radialGradient":
			shade = d.gradient(of, m, box)
		case of.name == "pattern" && d.follow(of):
			shade = d.pattern(of, m, box)
			d.followed()
		}
		if shade == nil {
			return
		}
	}
	opacity = min(max(opacity, 0), 1)
	part := opacity * (1 << 16) / (255 * 255)
	plain := with.colour
	to := cover.box.Intersect(d.on.Rect)
	for y := to.Min.Y; y < to.Max.Y; y++ {
		pix := d.on.Pix[d.on.PixOffset(to.Min.X, y):]
		row := cover.row(y)[to.Min.X-cover.box.Min.X:]
		var also []uint8
		if c.cover != nil {
			also = c.cover.row(y)[to.Min.X-c.cover.box.Min.X:]
		}
		solid := shade == nil && also == nil && plain.A == 255 && opacity == 1
		d.spend(to.Dx() / 4)
		slow := 0 // pixels that are worked out each by itself
		for x := 0; x < to.Dx(); x++ {
			k := int(row[x])
			if k == 0 {
				continue
			}
			if k == 255 && solid {
				end := x + 1
				for end+len(many) <= to.Dx() && [len(many)]uint8(row[end:]) == many {
					end += len(many)
				}
				for end < to.Dx() && row[end] == 255 {
					end++
				}
				fill(pix[4*x:4*end], plain)
				x = end - 1
				continue
			}
			slow++
			if also != nil {
				k = (k*int(also[x]) + 127) / 255
			}
			col := plain
			if shade != nil {
				col = shade(to.Min.X+x, y)
			}
			q := pix[4*x : 4*x+4]
			if k == 255 && col.A == 255 && opacity == 1 {
				q[0], q[1], q[2], q[3] = col.R, col.G, col.B, 255
				continue
			}
			a := uint32(float64(col.A)*float64(k)*part + 0.5)
			q[0] = over(col.R, q[0], a)
			q[1] = over(col.G, q[1], a)
			q[2] = over(col.B, q[2], a)
			q[3] = over(255, q[3], a)
		}
		if d.spend(2 * slow); shade != nil {
			d.spend(8 * slow)
		}
	}
}

// over is a channel laid over another, with an alpha of 0 to 1<<16.
func over(top, below uint8, alpha uint32) uint8 {
	return uint8((uint32(top)*alpha + uint32(below)*(1<<16-alpha) + 1<<15) >> 16)
}

// fill gives pixels a colour that nothing shows through.
func fill(pix []uint8, c color.NRGBA) {
	pix[0], pix[1], pix[2], pix[3] = c.R, c.G, c.B, 255
	for done := 4; done < len(pix); done *= 2 {
		copy(pix[done:], pix[:done])
	}
}

// colourOf is a pixel, not multiplied by its alpha.
func colourOf(p []uint8) color.NRGBA {
	a := uint32(p[3])
	if a == 0 || a == 255 {
		return color.NRGBA{p[0], p[1], p[2], p[3]}
	}
	one := func(c uint8) uint8 { return uint8(uint32(c) * 0xffff / a >> 8) } // as color.NRGBAModel
	return color.NRGBA{one(p[0]), one(p[1]), one(p[2]), p[3]}
}
