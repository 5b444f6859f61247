package svgraster

import (
	"image"
	"math"
)

// hold makes sure that there is room for more pixels, until the element that is drawn is done.
func (d *drawer) hold(n int) {
	d.spend(n)
	if *d.held += n; d.opts.Work > 0 && *d.held > maxHeld {
		panic(stopped{ErrCostly})
	}
}

// layer draws on a picture of its own that covers a box.
func (d *drawer) layer(box image.Rectangle, draw func()) *image.RGBA {
	d.hold(box.Dx() * box.Dy())
	was := d.on
	d.on = image.NewRGBA(box)
	draw()
	out := d.on
	d.on = was
	return out
}

// compose lays a layer over what is there.
func (d *drawer) compose(layer *image.RGBA, c *clip, opacity float64, blend string) {
	box := layer.Rect.Intersect(c.box).Intersect(d.on.Rect)
	mode := blends[blend]
	if d.spend(2 * box.Dx() * box.Dy()); mode != nil {
		d.spend(24 * box.Dx() * box.Dy())
	}
	for y := box.Min.Y; y < box.Max.Y; y++ {
		from, to := layer.Pix[layer.PixOffset(box.Min.X, y):], d.on.Pix[d.on.PixOffset(box.Min.X, y):]
		var cover []uint8
		if c.cover != nil {
			cover = c.cover.row(y)[box.Min.X-c.cover.box.Min.X:]
		}
		for x := range box.Dx() {
			k := opacity
			if cover != nil {
				k *= float64(cover[x]) / 255
			}
			if k == 0 || from[4*x+3] == 0 {
				continue
			}
			if mode != nil {
				blended(to[4*x:4*x+4], from[4*x:4*x+4], k, mode)
				continue
			}
			p, q := from[4*x:4*x+4], to[4*x:4*x+4]
			part := uint32(k*(1<<16) + 0.5)
			rest := 1<<16 - (uint32(p[3])*part+127)/255
			for i := range q {
				q[i] = uint8(min((uint32(p[i])*part+uint32(q[i])*rest+1<<15)>>16, 255))
			}
		}
	}
}

// coverOf is how much of each pixel a path covers.
func (d *drawer) coverOf(p path, m matrix, evenOdd bool, box image.Rectangle) *mask {
	d.spend(24 * len(p))
	return outline(p, m).cover(box, evenOdd, d.spend, d.adds)
}

// box is the box of an element in its own places: x, y, width, height.
func (d *drawer) box(e *element) ([4]float64, bool) {
	x0, y0, x1, y1 := math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
	var add func(e *element, m matrix, deep int)
	add = func(e *element, m matrix, deep int) {
		if deep > maxNested || d.doc.told(e, "display") == "none" {
			return
		}
		d.spend(100)
		if t := d.doc.told(e, "transform"); t != "" && deep > 0 {
			m = m.then(transforms(t))
		}
		var p path
		switch e.name {
		case "use":
			if of := d.doc.ids[refers(e.attrs["href"])]; of != nil {
				add(of, m.then(matrix{1, 0, 0, 1, length(e.attrs["x"], d.w, 0), length(e.attrs["y"], d.h, 0)}), deep+1)
			}
			return
		case "image", "svg":
			x, y, w, h := length(e.attrs["x"], d.w, 0), length(e.attrs["y"], d.h, 0), length(e.attrs["width"], d.w, 0), length(e.attrs["height"], d.h, 0)
			p.move(point{x, y})
			p.line(point{x + w, y + h})
		case "g", "a", "switch":
			for _, k := range e.kids {
				add(k, m, deep+1)
			}
			return
		default:
			p = d.doc.shapeOf(e, d.w, d.h)
		}
		p.flat(m, 0.02, func(at point, _ bool) {
			x0, y0, x1, y1 = min(x0, at.x), min(y0, at.y), max(x1, at.x), max(y1, at.y)
		}, func() {})
	}
	add(e, same, 0)
	return [4]float64{x0, y0, x1 - x0, y1 - y0}, x1 >= x0
}

// mask keeps of a layer what a mask lets through.
func (d *drawer) mask(of, e *element, layer *image.RGBA, m matrix) {
	if !d.follow(of) {
		return
	}
	defer d.followed()
	b, ok := d.box(e)
	if !ok {
		b = [4]float64{0, 0, d.w, d.h}
	}
	p := d.area(of, "maskUnits", b)
	inside := m
	if of.attrs["maskContentUnits"] == "objectBoundingBox" {
		inside = m.then(matrix{b[2], 0, 0, b[3], b[0], b[1]})
	}
	c := d.within(&clip{box: layer.Rect}, d.coverOf(p, m, false, layer.Rect))
	through := d.layer(layer.Rect, func() {
		st := d.styleOf(of)
		for _, k := range of.kids {
			d.element(k, inside, st, c)
		}
	})
	d.spend(8 * len(layer.Pix) / 4)
	alpha := d.doc.told(of, "mask-type") == "alpha"
	for i := 0; i < len(layer.Pix); i += 4 {
		k := int(through.Pix[i+3])
		if !alpha { // its luminance, times its alpha: the colours are multiplied by that
			k = (int(through.Pix[i])*2125 + int(through.Pix[i+1])*7154 + int(through.Pix[i+2])*721 + 5000) / 10000
		}
		for j := range 4 {
			layer.Pix[i+j] = uint8((int(layer.Pix[i+j])*k + 127) / 255)
		}
	}
}

// area is the outline of what a mask or a filter is for: of an element with a box, or in
// its places.
func (d *drawer) area(of *element, units string, b [4]float64) path {
	x, y, w, h := -0.1, -0.1, 1.2, 1.2
	own := func(whole [2]float64) {
		x, y = length(of.attrs["x"], whole[0], x), length(of.attrs["y"], whole[1], y)
		w, h = length(of.attrs["width"], whole[0], w), length(of.attrs["height"], whole[1], h)
	}
	if of.attrs[units] == "userSpaceOnUse" {
		x, y, w, h = b[0]-0.1*b[2], b[1]-0.1*b[3], 1.2*b[2], 1.2*b[3]
		own([2]float64{d.w, d.h})
	} else {
		own([2]float64{1, 1})
		x, y, w, h = b[0]+x*b[2], b[1]+y*b[3], w*b[2], h*b[3]
	}
	return rectangle(x, y, w, h)
}

func rectangle(x, y, w, h float64) (p path) {
	p.move(point{x, y})
	p.line(point{x + w, y})
	p.line(point{x + w, y + h})
	p.line(point{x, y + h})
	p.close()
	return p
}

// region is where a filter shows.
func (d *drawer) region(f, e *element, m matrix) image.Rectangle {
	b, ok := d.box(e)
	if !ok {
		b = [4]float64{0, 0, d.w, d.h}
	}
	l := outline(d.area(f, "filterUnits", b), m)
	const far = 1 << 20
	clamp := func(v float64) int { return int(min(max(v, -far), far)) }
	return image.Rect(clamp(math.Floor(l.x0)), clamp(math.Floor(l.y0)), clamp(math.Ceil(l.x1)), clamp(math.Ceil(l.y1)))
}
