package svgraster

import (
	"bytes"
	"encoding/base64"
	"image"
	"net/url"
	"strings"

	xdraw "golang.org/x/image/draw"

	"golang.org/x/image/math/f64"
)

// image draws a picture that is written in the drawing.
func (d *drawer) image(e *element, m matrix, c *clip) {
	raw := Written(e.attrs["href"])
	if raw == nil || d.deep > 4*maxNested {
		return
	}
	x, y := length(e.attrs["x"], d.w, 0), length(e.attrs["y"], d.h, 0)
	w, h := length(e.attrs["width"], d.w, -1), length(e.attrs["height"], d.h, -1)
	aspect := e.attrs["preserveAspectRatio"]
	if d.measure != nil {
		d.measure.around(outline(rectangle(x, y, max(w, 0), max(h, 0)), m))
		return
	}
	if head := bytes.TrimSpace(raw[:min(len(raw), 512)]); bytes.HasPrefix(head, []byte("<")) {
		d.inner(raw, x, y, w, h, aspect, m, c)
		return
	}
	if d.opts.Decode == nil {
		return
	}
	is, _, err := image.DecodeConfig(bytes.NewReader(raw))
	if err != nil {
		return
	}
	d.hold(is.Width * is.Height)
	d.spend(4 * is.Width * is.Height)
	im, err := d.opts.Decode(raw)
	if err != nil {
		return
	}
	iw, ih := float64(im.Bounds().Dx()), float64(im.Bounds().Dy())
	if iw <= 0 || ih <= 0 {
		return
	}
	w, h = sizes(w, h, iw, ih)
	if w <= 0 || h <= 0 {
		return
	}
	to := m.then(fitted(aspect, x, y, w, h, 0, 0, iw, ih))
	cover := d.coverOf(rectangle(x, y, w, h), m, false, c.box)
	if cover == nil {
		return
	}
	d.spend(8 * cover.box.Dx() * cover.box.Dy())
	layer := d.layer(cover.box, func() {
		b := im.Bounds()
		s2d := f64.Aff3{to.a, to.c, to.e - to.a*float64(b.Min.X) - to.c*float64(b.Min.Y), to.b, to.d, to.f - to.b*float64(b.Min.X) - to.d*float64(b.Min.Y)}
		xdraw.BiLinear.Transform(d.on, s2d, im, b, xdraw.Over, nil)
	})
	in := d.within(c, cover)
	if in.box.Empty() {
		return
	}
	d.compose(layer, in, 1, "")
}

func sizes(w, h, iw, ih float64) (float64, float64) {
	switch {
	case w < 0 && h < 0:
		return iw, ih
	case w < 0:
		return h * iw / ih, h
	case h < 0:
		return w, w * ih / iw
	}
	return w, h
}

// inner draws a drawing that is written in this one.
func (d *drawer) inner(raw []byte, x, y, w, h float64, aspect string, m matrix, c *clip) {
	d.spend(16 * len(raw))
	doc, err := parse(d.ended, raw)
	if err != nil || len(d.using) >= maxNested {
		return
	}
	iw, ih := doc.size()
	if iw <= 0 || ih <= 0 {
		iw, ih = w, h
	}
	if w, h = sizes(w, h, iw, ih); w <= 0 || h <= 0 {
		return
	}
	inside := &drawer{ended: d.ended, doc: doc, on: d.on, opts: d.opts, spent: d.spent, held: d.held, adds: d.adds, deep: d.deep + 1, using: append(d.using[:len(d.using):len(d.using)], &element{})}
	to := fitted(aspect, x, y, w, h, 0, 0, iw, ih)
	in := d.within(c, d.coverOf(rectangle(x, y, w, h), m, false, c.box))
	if in.box.Empty() {
		return
	}
	layer := d.layer(in.box, func() {
		inside.on = d.on
		inside.root(m.then(to), 0, 0, iw, ih)
	})
	d.compose(layer, in, 1, "")
}

// Written is what stands in an address of the form data:…, nil for what is none (RFC 2397).
func Written(address string) []byte {
	rest, ok := strings.CutPrefix(strings.TrimSpace(address), "data:")
	if !ok {
		return nil
	}
	head, body, ok := strings.Cut(rest, ",")
	if !ok {
		return nil
	}
	if strings.HasSuffix(head, ";base64") {
		b, err := base64.StdEncoding.DecodeString(strings.Join(strings.Fields(body), ""))
		if err != nil {
			return nil
		}
		return b
	}
	plain, err := url.PathUnescape(body)
	if err != nil {
		return nil
	}
	return []byte(plain)
}
