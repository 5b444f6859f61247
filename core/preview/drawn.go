package preview

import (
	"cmp"
	"context"
	_ "embed"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"slices"
	"strings"

	"ivelt/core/cache"
	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/paint"
	"ivelt/core/parcel"
	"ivelt/core/picturestyle"
	"ivelt/core/reading"
)

// plainStyle is the style that the drawing engine has in itself.
//
//go:embed plain.svg
var plainStyle []byte

// drawn draws a program whose controls a drawing engine paints, with the elements of a
// picture-based style.
type drawn struct {
	words
	style       *picturestyle.Style
	key         string // of the drawing that it was read from
	ink, ground hex
}

// The colours of words and of windows where a style says none (docs/standins.md).
const plainInk, plainGround = "#2b2b2b", "#e6e6e4"

// hex is a colour as #rrggbb.
type hex string

func (h hex) String() string { return string(h) }

// styleFile is where the drawing of a picture-based style lies, "" for one that is built in or
// not found.
func (c *Canvas) styleFile(s desk.Surface) (name, at string) {
	f, ok := s.Facet(desk.FacetPictures)
	if !ok {
		return "", ""
	}
	name = c.look.Of(desk.FacetPictures, s.ID)
	if l := c.look.Layer; l != nil && l.Base.Kind == parcel.Style && name == l.Folder {
		name = l.Base.Folder // it is not built yet
	}
	at, err := reading.Find(c.D, f.Lookup, name)
	if err != nil {
		return name, ""
	}
	return name, at
}

// layered reports whether the look's layer lies over a picture-based style.
func (c *Canvas) layered(style string) bool {
	l := c.look.Layer
	return l != nil && l.Base.Kind == parcel.Style && l.Base.Folder == style
}

// drawnBy is the stage of a surface that is a drawing engine.
func (c *Canvas) drawnBy(s desk.Surface) *drawn {
	f, _ := s.Facet(desk.FacetPictures)
	p := &drawn{words: words{Stage: &Stage{Canvas: c, surface: s.ID, painter: &paint.Painter{B: &c.Builder, ID: s.ID + "-"}}, size: 10 * 96.0 / 72}}
	p.family = c.familyOf("")
	p.face = p.Face(gtkcss.Font{Weight: 400})
	p.up, p.low = p.face.Heights(p.size)
	name, at := c.styleFile(s)
	key := ofStyle{file: at}
	if at != "" {
		key.file = c.D.HostPath(at)
		if info, err := c.tree.Stat(desk.Name(at)); err == nil {
			key.stamp = fmt.Sprint(info.Size(), info.ModTime().UnixNano())
		}
		if c.layered(name) {
			key.recipe = string(c.look.Layer.Bytes())
		}
	}
	p.key = fmt.Sprintf("%q", key)
	p.style = cache.Of(c.D.Cache, key, func(*picturestyle.Style) bool { return true }, func() cache.Made[*picturestyle.Style] {
		style, err := c.readStyle(at, key.recipe != "", f.Lookup.Elements)
		if err != nil {
			style = nil
		}
		return cache.Made[*picturestyle.Style]{Value: style, Bytes: 1 << 16, Brief: err != nil}
	})
	if p.style == nil {
		c.note(Note{File: at, Text: "no drawing that can be read, so nothing is painted"})
		p.style, _ = picturestyle.Read(c.look.ctx, []byte(`<svg/>`), f.Lookup.Elements) // which is one
	}
	p.ink, p.ground = plainInk, plainGround
	if p.style.Ink != "" {
		p.ink = hex(p.style.Ink)
	}
	if p.style.Ground != "" {
		p.ground = hex(p.style.Ground)
	}
	return p
}

// ofStyle is the key of a drawing that was read.
type ofStyle struct{ file, stamp, recipe string }

func (c *Canvas) readStyle(at string, layered bool, asked []string) (*picturestyle.Style, error) {
	if at == "" {
		return picturestyle.Read(c.look.ctx, plainStyle, asked)
	}
	change := func(raw []byte) []byte { return raw }
	if layered {
		change = func(raw []byte) []byte { return c.look.Layer.Drawn(c.look.ctx, raw) }
	}
	return picturestyle.Load(c.look.ctx, c.tree, desk.Name(at), asked, change)
}

// ofElement is the key of an element as it is painted.
type ofElement struct {
	style, name string
	w, h        int
}

// element paints one over a control, px.
func (p *drawn) element(name string, x, y, w, h int) {
	p.mark(desk.FacetPictures, p.surface, float64(x), float64(y), float64(w), float64(h))
	p.marks[len(p.marks)-1].element = name
	if _, ok := p.style.Element(name); !ok {
		return
	}
	address := cache.Of(p.D.Cache, ofElement{p.key, name, w, h}, func(string) bool { return true }, func() cache.Made[string] {
		im, err := p.style.Paint(p.look.ctx, name, w, h, 2)
		if err != nil {
			return cache.Made[string]{Brief: true}
		}
		address := paint.PNG(im)
		return cache.Made[string]{Value: address, Bytes: len(address)}
	})
	if address != "" {
		p.Printf(`<image x="%d" y="%d" width="%d" height="%d" href="%s"/>`, x, y, w, h, address)
	}
}

// inState is the element of a control in the state that all controls are looked at in.
func (p *drawn) inState(kind, usual string) string {
	of := map[string]map[string]string{
		"button": {"hover": "button-over", "active": "button-pressed", "disabled": "button-off"},
		"field":  {"focus": "field-focus"},
		"tick":   {"checked": "tick-on"},
	}
	if name := of[kind][p.look.State]; name != "" {
		return name
	}
	return usual
}

// Sizes of what the engine paints, px (docs/standins.md).
const (
	drawnHigh  = 30
	drawnTick  = 18
	drawnKnob  = 20
	drawnThin  = 8
	drawnThick = 12
)

func (p *drawn) button(x, y int, element, text string) int {
	w := p.wide(text) + 32
	element = p.inState("button", element)
	p.element(element, x, y, w, drawnHigh)
	ink := p.ink
	if element == "button-off" {
		ink = p.faint()
	}
	p.inMiddle(x, y, w, drawnHigh, text, ink)
	return x + w
}

// faint is half of the words' colour and half of what is behind them.
func (p *drawn) faint() hex {
	a, err := colour.Parse(string(p.ink))
	b, wrong := colour.Parse(string(p.ground))
	if err != nil || wrong != nil {
		return p.ink
	}
	return hex(colour.Colour{R: (a.R + b.R) / 2, G: (a.G + b.G) / 2, B: (a.B + b.B) / 2}.Hex())
}

func (p *drawn) field(x, y, w int, element, text string) {
	p.element(p.inState("field", element), x, y, w, drawnHigh)
	p.say(x+10, y, drawnHigh, text, p.ink)
}

func (p *drawn) tick(x, y int, element, text string) int {
	p.element(p.inState("tick", element), x, y+(drawnHigh-drawnTick)/2, drawnTick, drawnTick)
	return p.say(x+drawnTick+8, y, drawnHigh, text, p.ink)
}

func (p *drawn) slider(x, y, w, percent int) {
	p.element("groove", x, y+(drawnHigh-drawnThin)/2, w, drawnThin)
	p.element("knob", x+(w-drawnKnob)*percent/100, y+(drawnHigh-drawnKnob)/2, drawnKnob, drawnKnob)
}

func (p *drawn) progress(x, y, w, percent int) {
	p.element("groove", x, y+(drawnHigh-drawnThin)/2, w, drawnThin)
	p.element("bar", x, y+(drawnHigh-drawnThick)/2, w*percent/100, drawnThick)
}

// sheet draws the frame and the ground of a window, and returns where its inside begins.
func (p *drawn) sheet(title string, x, y, w, h int) int {
	frame := int(p.shellFrame(title, float64(x), float64(y), float64(w)))
	p.Printf(`<rect x="%d" y="%d" width="%d" height="%d" fill="%s"/>`, x, y+frame, w, h-frame, p.ground)
	p.mark(desk.FacetPictures, p.surface, float64(x), float64(y+frame), float64(w), float64(h-frame))
	return y + frame
}

// engine is the drawing engine of a desk, if it has one.
func engine(d *desk.Desk) (desk.Surface, bool) {
	all := d.Surfaces()
	i := slices.IndexFunc(all, func(s desk.Surface) bool { _, ok := s.Facet(desk.FacetPictures); return ok })
	if i < 0 {
		return desk.Surface{}, false
	}
	return all[i], true
}

// drawDrawn is a program of the drawing engine alone, with its controls in all their states.
func drawDrawn(c *Canvas) {
	c.backdrop()
	top, bottom := c.room()
	if s, ok := engine(c.D); ok {
		p := c.drawnBy(s)
		x, y, w := 20, top+16, c.w-40
		inside := p.sheet("Paint Store", x, y, w, bottom-top-32)
		left, at := x+20, x+20
		row := inside + 18
		for _, of := range []struct{ element, text string }{{"button", "Mix"}, {"button-over", "Under the pointer"}, {"button-pressed", "Pressed"}, {"button-off", "Off"}} {
			end := p.button(at, row, of.element, of.text)
			if of.element == "button-over" {
				defer p.pointerAt("display", float64(end-22), float64(row+18), "default", "left_ptr")
			}
			at = end + 10
		}
		half := (w - 40 - 12) / 2
		row += drawnHigh + 16
		p.field(left, row, half, "field-focus", "Red lead, 4 kg")
		p.field(left+half+12, row, half, "field", "White, 12 kg")
		row += drawnHigh + 12
		at = left
		for _, of := range []struct{ element, text string }{{"tick-on", "For the buoys"}, {"tick", "For the gate"}, {"tick-on", "Dry by Friday"}} {
			at = p.tick(at, row, of.element, of.text) + 24
		}
		row += drawnHigh + 8
		p.say(left, row, drawnHigh, "Coats", p.ink)
		p.slider(left+90, row, w-40-90, 40)
		row += drawnHigh + 4
		p.say(left, row, drawnHigh, "Stirred", p.ink)
		p.progress(left+90, row, w-40-90, 65)
		p.Printf(`<rect x="%d.5" y="%d.5" width="%d" height="%d" fill="none" stroke="#000000" stroke-opacity="0.35"/>`, x, y, w-1, bottom-top-33)
	}
	c.drawBars()
}

// paintStore is a small window of the drawing engine, for the whole desk.
func (c *Canvas) paintStore(x, y, w, h int) {
	s, ok := engine(c.D)
	if !ok {
		return
	}
	p := c.drawnBy(s)
	inside := p.sheet("Paint Store", x, y, w, h)
	left, row := x+16, inside+14
	p.field(left, row, w-32, "field-focus", "Red lead, 4 kg")
	row += drawnHigh + 10
	at := p.tick(left, row, "tick-on", "For the buoys") + 20
	p.tick(at, row, "tick", "For the gate")
	row += drawnHigh + 6
	p.progress(left, row, w-32, 65)
	row += drawnHigh + 8
	end := p.button(left, row, "button-over", "Mix")
	p.button(end+10, row, "button", "Another")
	p.Printf(`<rect x="%d.5" y="%d.5" width="%d" height="%d" fill="none" stroke="#000000" stroke-opacity="0.35"/>`, x, y, w-1, h-1)
}

// Drawing is a picture-based style of a desk, with what the look's layer changes of it.
type Drawing struct {
	Name, At string // what the engine asks for, and where its drawing lies, as a path of the desk
	Asked    []string
	Text     []byte
	Style    *picturestyle.Style
	Wrong    error // why it cannot be read
}

// StyleOf is the picture-based style of a name on a desk, or the one that its drawing engine shows;
// false if that is none with a drawing.
func StyleOf(d *desk.Desk, look Look, name string) (out Drawing, ok bool) {
	s, ok := engine(d)
	if !ok {
		return out, false
	}
	if name != "" {
		look = look.With(desk.FacetPictures, s.ID, name)
	}
	c := NewCanvas(d, look, 1, 1)
	f, _ := s.Facet(desk.FacetPictures)
	out.Asked = f.Lookup.Elements
	if out.Name, out.At = c.styleFile(s); out.At == "" {
		return out, false
	}
	if out.Text, out.Wrong = c.tree.ReadFile(desk.Name(out.At)); out.Wrong != nil {
		return out, true
	}
	if c.layered(out.Name) {
		out.Text = look.Layer.Drawn(look.ctx, out.Text)
	}
	out.Style, out.Wrong = c.readStyle(out.At, c.layered(out.Name), out.Asked)
	return out, true
}

// around is what is left around a sample, px.
const around = 8

// Sample is an element as it is painted over a control of a usual size, on the colour of windows:
// w × h px, as a picture's address; "" if there is nothing of it to be painted.
func (g Drawing) Sample(ctx context.Context, element string) (address string, w, h int) {
	w, h = 92, drawnHigh
	switch kind, _, _ := strings.Cut(element, "-"); kind {
	case "tick":
		w, h = drawnTick, drawnTick
	case "knob":
		w, h = drawnKnob, drawnKnob
	case "groove":
		h = drawnThin
	case "bar":
		h = drawnThick
	}
	if _, ok := g.Style.Element(element); !ok {
		return "", w, h
	}
	im, err := g.Style.Paint(ctx, element, w, h, 2)
	if err != nil {
		return "", w, h
	}
	w, h = w+2*around, h+2*around
	on := image.NewRGBA(image.Rect(0, 0, 2*w, 2*h))
	ground, err := colour.Parse(cmp.Or(g.Style.Ground, plainGround))
	if err != nil {
		return "", w, h
	}
	draw.Draw(on, on.Rect, image.NewUniform(color.RGBA{uint8(ground.R*255 + 0.5), uint8(ground.G*255 + 0.5), uint8(ground.B*255 + 0.5), 255}), image.Point{}, draw.Src)
	draw.Draw(on, im.Rect.Add(image.Pt(2*around, 2*around)), im, image.Point{}, draw.Over)
	return paint.PNG(on), w, h
}
