// Package picturestyle reads picture-based styles: a drawing whose elements, told by their
// names, a drawing engine paints controls with, each stretched over its control. Which names
// there are is the engine's to say; how the drawing is read is as docs/standins.md has it.
package picturestyle

import (
	"context"
	"errors"
	"fmt"
	"image"
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/core/imagefile"
	"ivelt/core/keyfile"
	"ivelt/core/spelling"
	"ivelt/core/svgraster"
)

// MaxBytes is how large a drawing may be.
const MaxBytes = 8 << 20

// maxPainted is how large a control may be, px a side.
const maxPainted = 2048

// edgesAttribute is where an element states its edges.
const edgesAttribute = "data-edges"

// Edges are the widths at the sides of an element that are not stretched, px.
type Edges struct{ Top, Right, Bottom, Left int }

// ParseEdges reads edges as they are stated: one width for all sides, two for those above and
// below and those beside, or four, clockwise from above.
func ParseEdges(s string) (Edges, error) {
	var n []int
	for _, f := range strings.Fields(s) {
		var v int
		if _, err := fmt.Sscanf(f, "%d", &v); err != nil || fmt.Sprint(v) != f || v < 0 || v > 1000 {
			return Edges{}, fmt.Errorf("%q is no width, 0 to 1000", f)
		}
		n = append(n, v)
	}
	switch len(n) {
	case 1:
		return Edges{n[0], n[0], n[0], n[0]}, nil
	case 2:
		return Edges{n[0], n[1], n[0], n[1]}, nil
	case 4:
		return Edges{n[0], n[1], n[2], n[3]}, nil
	}
	return Edges{}, fmt.Errorf("%q is not one, two or four widths", s)
}

// String is the edges as they are stated, four widths.
func (e Edges) String() string { return fmt.Sprint(e.Top, e.Right, e.Bottom, e.Left) }

// Element is one of a drawing.
type Element struct {
	Name  string
	Box   svgraster.Box // of what it paints; empty if it paints nothing
	Edges Edges
	Wrong string // what is wrong with what it states, "" for nothing
}

// Style is a drawing that was read for an engine.
type Style struct {
	Ink, Ground string // of words and of windows, #rrggbb; "" where the style does not say
	drawing     *svgraster.Drawing
	elements    map[string]Element
	names       []string // all that are painted, in the order of the drawing
	asked       []string // by the engine
}

// Read reads a drawing for an engine that asks for elements by some names. Errors are those of
// svgraster, or the context's.
func Read(ctx context.Context, raw []byte, asked []string) (*Style, error) {
	if len(raw) > MaxBytes {
		return nil, fmt.Errorf("%w: larger than %d MiB", imagefile.ErrCostly, MaxBytes>>20)
	}
	g, err := imagefile.Elements(ctx, raw)
	if err != nil {
		return nil, err
	}
	s := &Style{drawing: g, elements: map[string]Element{}, names: g.Names(), asked: asked}
	for _, name := range asked {
		if !slices.Contains(s.names, name) {
			continue
		}
		e := Element{Name: name}
		box, ok, err := g.Box(ctx, name)
		if err != nil {
			return nil, err
		}
		if ok {
			e.Box = box
		}
		if stated := g.Attribute(name, edgesAttribute); stated != "" {
			if e.Edges, err = ParseEdges(stated); err != nil {
				e.Wrong = edgesAttribute + ": " + err.Error()
			} else if float64(e.Edges.Left+e.Edges.Right) >= box.W || float64(e.Edges.Top+e.Edges.Bottom) >= box.H {
				e.Edges, e.Wrong = Edges{}, fmt.Sprintf("%s: %s leaves nothing of %.0f × %.0f", edgesAttribute, stated, box.W, box.H)
			}
		}
		s.elements[name] = e
	}
	return s, nil
}

// Load reads a style at a name of a tree, NAME.svg, as it is once its drawing is changed, with
// the settings beside it, NAME.conf.
func Load(ctx context.Context, tree fs.FS, name string, asked []string, change func([]byte) []byte) (*Style, error) {
	raw, err := fs.ReadFile(tree, name)
	if err != nil {
		return nil, err
	}
	s, err := Read(ctx, change(raw), asked)
	if err != nil {
		return nil, err
	}
	text, err := fs.ReadFile(tree, strings.TrimSuffix(name, path.Ext(name))+".conf")
	if errors.Is(err, fs.ErrNotExist) {
		return s, nil
	}
	if err != nil {
		return nil, err
	}
	if conf, err := keyfile.Parse(text); err == nil {
		s.Ink, s.Ground = plainColour(conf.Get("Style", "Ink")), plainColour(conf.Get("Style", "Ground"))
	}
	return s, nil
}

// plainColour is a colour as #rrggbb, "" for what is none.
func plainColour(s string) string {
	var r, g, b uint8
	if _, err := fmt.Sscanf(s, "#%02x%02x%02x", &r, &g, &b); err != nil || len(s) != 7 {
		return ""
	}
	return s
}

// Element is one that the engine asks for; false if it is not there or paints nothing.
func (s *Style) Element(name string) (Element, bool) {
	e, ok := s.elements[name]
	return e, ok && e.Box.W > 0 && e.Box.H > 0
}

// Lacks are the elements that the engine asks for and finds nothing under.
func (s *Style) Lacks() (out []string) {
	for _, name := range s.asked {
		if _, ok := s.Element(name); !ok {
			out = append(out, name)
		}
	}
	return out
}

// Meant is the element that was probably to have a name which the engine finds nothing under: of
// those that it does not ask for the one that is written most like it; "" for none.
func (s *Style) Meant(name string) string {
	plain := func(name string) string {
		return strings.ToLower(strings.NewReplacer("-", "", "_", "", ".", "").Replace(name))
	}
	others := s.Others()
	for _, other := range others {
		if plain(other) == plain(name) {
			return other
		}
	}
	if near := spelling.Nearest(name, slices.Values(others)); spelling.Distance(name, near, len(name)) <= 2 {
		return near
	}
	return ""
}

// Names are those of all elements that are painted where they stand.
func (s *Style) Names() []string { return s.names }

// Others are the named elements that the engine does not ask for.
func (s *Style) Others() []string {
	return slices.DeleteFunc(slices.Clone(s.names), func(name string) bool { return slices.Contains(s.asked, name) })
}

// Paint draws an element over a control of w × h px, each drawn k times as large: its edges as
// wide as they are, the rest stretched. Nothing is drawn of an element that is not there.
func (s *Style) Paint(ctx context.Context, name string, w, h, k int) (*image.RGBA, error) {
	if w <= 0 || h <= 0 || w > maxPainted || h > maxPainted || k < 1 || k > 4 {
		return nil, fmt.Errorf("%w: %d × %d px", imagefile.ErrCostly, w, h)
	}
	on := image.NewRGBA(image.Rect(0, 0, w*k, h*k))
	e, ok := s.Element(name)
	if !ok {
		return on, nil
	}
	across := sides(e.Box.X, e.Box.W, e.Edges.Left, e.Edges.Right, w)
	down := sides(e.Box.Y, e.Box.H, e.Edges.Top, e.Edges.Bottom, h)
	var cells []svgraster.Cell
	for _, x := range across {
		for _, y := range down {
			cells = append(cells, svgraster.Cell{From: svgraster.Box{X: x.from, Y: y.from, W: x.of, H: y.of}, Into: image.Rect(x.to*k, y.to*k, (x.to+x.wide)*k, (y.to+y.wide)*k)})
		}
	}
	return on, s.drawing.Paint(ctx, on, name, cells...)
}

// side is a stretch of an element and where it comes to, px.
type side struct {
	from, of float64
	to, wide int
}

// sides are the two edges and the middle of an element along one way. Where there is no room for
// the edges they share it.
func sides(from, of float64, first, last, room int) []side {
	a, b := first, last
	if a+b > room {
		a = room * first / (first + last)
		b = room - a
	}
	return []side{
		{from, float64(first), 0, a},
		{from + float64(first), of - float64(first) - float64(last), a, room - a - b},
		{from + of - float64(last), float64(last), room - b, b},
	}
}
