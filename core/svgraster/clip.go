package svgraster

// within is a clip inside another: where a mask covers, nil for nowhere.
func (d *drawer) within(c *clip, by *mask) *clip {
	if by == nil {
		return &clip{}
	}
	box := by.box.Intersect(c.box)
	if box.Empty() {
		return &clip{}
	}
	full := c.cover == nil && box == by.box
	if full {
		for _, v := range by.cover {
			if v != 255 {
				full = false
				break
			}
		}
		if full {
			return &clip{box: box}
		}
		return &clip{box, by}
	}
	d.hold(box.Dx() * box.Dy())
	out := newMask(box)
	for y := box.Min.Y; y < box.Max.Y; y++ {
		to := out.row(y)
		from := by.row(y)[box.Min.X-by.box.Min.X:]
		copy(to, from[:box.Dx()])
		if c.cover != nil {
			also := c.cover.row(y)[box.Min.X-c.cover.box.Min.X:]
			for x := range to {
				to[x] = uint8((int(to[x])*int(also[x]) + 127) / 255)
			}
		}
	}
	return &clip{box, out}
}

// clipped is a clip inside of which a clip path is followed for an element.
func (d *drawer) clipped(of, e *element, m matrix, c *clip) *clip {
	if !d.follow(of) {
		return c
	}
	defer d.followed()
	if t := d.doc.told(of, "transform"); t != "" {
		m = m.then(transforms(t))
	}
	if of.attrs["clipPathUnits"] == "objectBoundingBox" {
		b, ok := d.box(e)
		if !ok {
			return &clip{}
		}
		m = m.then(matrix{b[2], 0, 0, b[3], b[0], b[1]})
	}
	if id := refers(d.doc.told(of, "clip-path")); id != "" {
		if further := d.doc.ids[id]; further != nil && further.name == "clipPath" {
			c = d.clipped(further, e, m, c)
		}
	}
	var all *mask
	for _, k := range of.kids {
		one := d.clipShape(k, m, d.styleOf(of), c)
		switch {
		case one == nil:
		case all == nil:
			all = one
		default:
			both := all.box.Union(one.box)
			d.hold(2 * both.Dx() * both.Dy())
			all = together(all, one)
		}
	}
	return d.within(c, all)
}

// clipShape is what a shape in a clip path covers.
func (d *drawer) clipShape(e *element, m matrix, st style, c *clip) *mask {
	if d.doc.told(e, "display") == "none" {
		return nil
	}
	st = d.doc.under(st, e, d.diagonal())
	if t := d.doc.told(e, "transform"); t != "" {
		m = m.then(transforms(t))
	}
	if e.name == "use" {
		of := d.doc.ids[refers(e.attrs["href"])]
		if of == nil || !d.follow(of) {
			return nil
		}
		defer d.followed()
		return d.clipShape(of, m.then(matrix{1, 0, 0, 1, length(e.attrs["x"], d.w, 0), length(e.attrs["y"], d.h, 0)}), st, c)
	}
	if st.hidden {
		return nil
	}
	cover := d.coverOf(d.doc.shapeOf(e, d.w, d.h), m, st.clipEvenOdd, c.box)
	if id := refers(d.doc.told(e, "clip-path")); id != "" && cover != nil {
		if of := d.doc.ids[id]; of != nil && of.name == "clipPath" {
			inner := d.clipped(of, e, m, &clip{cover.box, cover})
			if inner.box.Empty() {
				return nil
			}
			if inner.cover == nil {
				inner.cover = newMask(inner.box)
				for i := range inner.cover.cover {
					inner.cover.cover[i] = 255
				}
			}
			return inner.cover
		}
	}
	return cover
}

// together is what either of two masks covers.
func together(a, b *mask) *mask {
	out := newMask(a.box.Union(b.box))
	for _, m := range []*mask{a, b} {
		for y := m.box.Min.Y; y < m.box.Max.Y; y++ {
			to := out.row(y)[m.box.Min.X-out.box.Min.X:]
			for x, v := range m.row(y) {
				to[x] = uint8(255 - (255-int(to[x]))*(255-int(v))/255)
			}
		}
	}
	return out
}
