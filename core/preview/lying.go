package preview

import (
	"cmp"
	"image"

	"github.com/ncruces/go-strftime"

	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/layout"
	"ivelt/core/say"
)

// onGround are the things that lie on the desk itself.
var onGround = []struct{ icon, name string }{{"user-home", "Home"}, {"folder-documents", "Documents"}, {"drive-removable-media", "Field stick"}, {"user-trash", "Rubbish"}}

// bareGround reports whether the desk is told to have no icons on it.
func (c *Canvas) bareGround() bool {
	of := c.having(desk.FacetLying)
	return of != "" && c.look.Of(desk.FacetLying, of) == "hidden"
}

// groundIcons is whose icons lie on the desk, and how large they are.
func (c *Canvas) groundIcons() (surface string, size float64) {
	surface = cmp.Or(c.having(desk.FacetIconSize), c.Shell)
	return surface, float64(min(max(c.look.number(desk.FacetIconSize, surface, 64), 16), 128))
}

// Lying is a thing that lies on the desk itself.
type Lying struct {
	Name        string
	Icon        string          // its file in the desk's tree, "" for none
	At, Caption image.Rectangle // where its icon and its name are on a monitor, px at 100 %
}

// Ground is what lies on a desk of some size, as [Monitor] draws it.
func Ground(d *desk.Desk, look Look, wide, high int) []Lying {
	return NewCanvas(d, look, wide, high).lying()
}

// lying is where things are on the desk itself.
func (c *Canvas) lying() (out []Lying) {
	if c.Shell == "" || c.bareGround() {
		return nil
	}
	told := func(facet, usual string) string { return cmp.Or(c.look.Of(facet, c.having(facet)), usual) }
	on, size := c.groundIcons()
	names := told(desk.FacetLyingNames, "below")
	s := c.Stage(c.Shell)
	places := layout.Lie(layout.Edge(told(desk.FacetLyingAt, "left")), len(onGround), int(size), c.look.number(desk.FacetLyingApart, c.having(desk.FacetLyingApart), 40), names, c.arranged().left)
	for i, at := range places {
		l := Lying{Name: onGround[i].name, At: at}
		if icon, _, ok := c.Icons(c.ofPlace(on, []string{onGround[i].icon})).LookupBest([]string{onGround[i].icon}, int(size), 1); ok {
			l.Icon = icon.Path
		}
		label := c.caption(l.Name)
		s.measure(label)
		w, h := int(label.minW), int(label.minH)
		switch names {
		case "below":
			x := (at.Min.X + at.Max.X - w) / 2
			l.Caption = image.Rect(x, at.Max.Y+2, x+w, at.Max.Y+2+h)
		case "beside":
			y := (at.Min.Y + at.Max.Y - h) / 2
			l.Caption = image.Rect(at.Max.X+4, y, at.Max.X+4+w, y+h)
		}
		out = append(out, l)
	}
	return out
}

// caption is what is written on the desk itself.
func (c *Canvas) caption(words string) *part {
	return node("ground", text("label", say.Word(words)).middle()).column(0)
}

// ground draws the icons that lie on the desk itself.
func (c *Canvas) ground() {
	if c.Shell == "" {
		return
	}
	on, size := c.groundIcons()
	s := c.Stage(c.Shell)
	for i, l := range c.lying() {
		c.Icon(on, l.At.Min.X, l.At.Min.Y, int(size), onGround[i].icon)
		if !l.Caption.Empty() {
			label := c.caption(l.Name)
			s.measure(label)
			s.put(label, float64(l.Caption.Min.X), float64(l.Caption.Min.Y), 0, 0)
		}
	}
}

// drawOnDesk draws a clock and a readout on the desk.
func (c *Canvas) drawOnDesk() {
	for _, o := range c.onDesk() {
		o.draw()
		c.mark(o.Facet, o.Surface, float64(o.At.Min.X), float64(o.At.Min.Y), float64(o.At.Dx()), float64(o.At.Dy()))
	}
}

// OnDesk is a clock or a readout on the desk itself, and where, px at 100 %.
type OnDesk struct {
	Facet, Surface string
	layout.Lying
	At   image.Rectangle
	draw func()
}

// Sizes of what is on the desk, px.
const (
	clockSize   = 48
	readoutWide = 240
)

// onDesk are the clock and the readout that are on the desk's monitor.
func (c *Canvas) onDesk() (out []OnDesk) {
	if c.Shell == "" {
		return nil
	}
	screens := c.layoutScreens()
	here := screens[min(c.screen, len(screens)-1)]
	for _, facet := range []string{desk.FacetDeskClock, desk.FacetReadout} {
		of := c.having(facet)
		l, err := layout.ParseLying(cmp.Or(c.look.Of(facet, of), "none"))
		if of == "" || err != nil || l == nil || l.Monitor == "" && c.screen > 0 || l.Monitor != "" && l.Monitor != layout.All && l.Monitor != here.Name {
			continue
		}
		o := OnDesk{Facet: facet, Surface: of, Lying: *l}
		if facet == desk.FacetDeskClock {
			c.deskClock(&o)
		} else {
			c.readout(&o)
		}
		out = append(out, o)
	}
	return out
}

// deskClock is a clock in the letters of what lies on the desk, at a size of its own.
func (c *Canvas) deskClock(o *OnDesk) {
	form := cmp.Or(o.Form, shortClock)
	label := c.caption(strftime.Format(form[:min(len(form), maxClock)], pictured))
	s := c.Stage(c.Shell)
	s.measure(label)
	k := float64(cmp.Or(o.Size, clockSize)) / max(label.kids[0].st.Font().Size, 1)
	o.At = o.Place(int(label.minW*k+0.5), int(label.minH*k+0.5), c.arranged().left)
	o.draw = func() {
		c.Printf(`<g transform="translate(%d %d) scale(%.4f)">`, o.At.Min.X, o.At.Min.Y, k)
		s.put(label, 0, 0, 0, 0)
		c.WriteString(`</g>`)
	}
}

// read is what the pictured readout tells, each of it with how far its bar goes.
var read = []struct {
	name, says string
	part       float64
}{{"processor", "12 %", 0.12}, {"memory", "3.1 of 8 GB", 0.39}, {"disk", "61 %", 0.61}}

// readout is a system readout in its own font, its bars in its own accent.
func (c *Canvas) readout(o *OnDesk) {
	s := c.Lettering(o.Surface, desk.FacetFontMono)
	_, pt := desk.SplitFont(c.look.Of(desk.FacetFontMono, o.Surface))
	size := float64(o.Size)
	if size == 0 {
		size = min(max(pt, 6), 40) * 96 / 72
	}
	face := s.Face(gtkcss.Font{Weight: 400})
	lead := size * 1.9
	wide := max(readoutWide, face.Set("processor   3.1 of 8 GB", size).Width)
	o.At = o.Place(int(wide), int(lead*float64(len(read))), c.arranged().left)
	o.draw = func() {
		x, y := float64(o.At.Min.X), float64(o.At.Min.Y)
		label := c.caption(" ")
		ground := c.Stage(c.Shell)
		ground.measure(label)
		st := label.kids[0].st
		accent, err := colour.Parse(c.look.Of(desk.FacetAccent, o.Surface))
		for i, r := range read {
			base := y + float64(i)*lead + size
			ground.line(face, face.Set(r.name, size), size, st, x, base)
			said := face.Set(r.says, size)
			ground.line(face, said, size, st, x+wide-said.Width, base)
			ink := st.Colour("color")
			ink.A *= 0.3
			c.rect(int(x), int(base+size*0.35), int(wide), 4, 2, ink.CSS())
			if err == nil {
				c.rect(int(x), int(base+size*0.35), int(wide*r.part), 4, 2, accent.Hex())
			}
		}
	}
}
