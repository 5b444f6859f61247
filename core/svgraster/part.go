package svgraster

import (
	"context"
	"image"
	"math"
)

// Drawing is one that was read, to have its elements drawn alone.
type Drawing struct {
	doc *document
	o   Options
}

// Read reads a drawing. Errors are those of [Draw].
func Read(ctx context.Context, raw []byte, o Options) (*Drawing, error) {
	doc, err := parse(ctx.Err, raw)
	return &Drawing{doc, o}, err
}

// Names are the names, id, of the elements that are painted where they stand: those of the
// drawing and of its groups, not those of what is only referred to. Of two with one name the
// first counts.
func (g *Drawing) Names() (out []string) {
	var add func(e *element)
	add = func(e *element) {
		for _, k := range e.kids {
			switch k.name {
			case "g", "a", "svg", "use", "image", "path", "rect", "circle", "ellipse", "line", "polyline", "polygon", "switch":
			default:
				continue
			}
			if id := k.attrs["id"]; id != "" && g.doc.ids[id] == k {
				out = append(out, id)
			}
			if k.name == "g" || k.name == "a" {
				add(k)
			}
		}
	}
	add(g.doc.root)
	return out
}

// Attribute is one of an element's own, "" for none.
func (g *Drawing) Attribute(name, attribute string) string {
	if e := g.doc.ids[name]; e != nil {
		return e.attrs[attribute]
	}
	return ""
}

// Box is a rectangle in the places of a drawing.
type Box struct{ X, Y, W, H float64 }

// fine is by how much a box is measured finer than in units.
const fine = 16

// Box is the smallest box with all that an element fills and strokes (SVG 2, section 8.10, the
// stroke bounding box); false if it paints nothing. Clips, masks and filters do not count.
func (g *Drawing) Box(ctx context.Context, name string) (box Box, ok bool, err error) {
	all := newLines()
	err = g.alone(ctx, name, image.NewRGBA(image.Rect(0, 0, 1, 1)), matrix{fine, 0, 0, fine, 0, 0}, func(d *drawer) { d.measure = all })
	return Box{all.x0 / fine, all.y0 / fine, (all.x1 - all.x0) / fine, (all.y1 - all.y0) / fine}, all.x1 > all.x0 && all.y1 > all.y0, err
}

// Cell is a box of a drawing, and the rectangle of a picture that it comes to.
type Cell struct {
	From Box
	Into image.Rectangle
}

// Paint draws what an element paints in some boxes of the drawing over rectangles of a picture, with
// the places and styles of the groups that it lies in, and nothing else. The bound of the work is that
// of all of them together.
func (g *Drawing) Paint(ctx context.Context, on *image.RGBA, name string, cells ...Cell) error {
	spent := 0
	for _, c := range cells {
		if c.From.W <= 0 || c.From.H <= 0 || c.Into.Empty() {
			continue
		}
		kx, ky := float64(c.Into.Dx())/c.From.W, float64(c.Into.Dy())/c.From.H
		m := matrix{kx, 0, 0, ky, float64(c.Into.Min.X) - c.From.X*kx, float64(c.Into.Min.Y) - c.From.Y*ky}
		if err := g.alone(ctx, name, on, m, func(d *drawer) { d.clip, d.spent = c.Into, &spent }); err != nil {
			return err
		}
	}
	return nil
}

// alone draws an element, of which m says where on the picture.
func (g *Drawing) alone(ctx context.Context, name string, on *image.RGBA, m matrix, with func(d *drawer)) (err error) {
	defer func() {
		if r := recover(); r != nil {
			stop, ok := r.(stopped)
			if !ok {
				panic(r)
			}
			err = stop.error
		}
	}()
	e := g.doc.ids[name]
	if e == nil {
		return nil
	}
	spent, held := 0, 0
	d := &drawer{ended: ctx.Err, doc: g.doc, on: on, opts: g.o, spent: &spent, held: &held, adds: new([]sum), clip: on.Rect}
	with(d)
	d.spend(0)
	d.w, d.h = g.doc.size()
	if _, _, w, h, ok := viewBox(g.doc.root.attrs["viewBox"]); ok {
		d.w, d.h = w, h
	}
	var above func(e *element) matrix
	above = func(e *element) matrix {
		if e == nil || e == g.doc.root {
			return m
		}
		at := above(e.above)
		if t := g.doc.told(e, "transform"); t != "" {
			at = at.then(transforms(t))
		}
		return at
	}
	at := above(e.above)
	if math.IsNaN(at.a + at.b + at.c + at.d + at.e + at.f) {
		return nil
	}
	d.element(e, at, d.styleOf(e.above), &clip{box: d.clip})
	return nil
}
