package preview

import (
	"image"
	"math"
	"slices"

	"ivelt/core/desk"
	"ivelt/core/layout"
	"ivelt/core/say"
)

// pointed is the program of a dock that the pointer of pictures is at, from 0 on.
const pointed = 1

// drawDock paints a dock with its programs: the pointer is at one of them, if something comes of that.
func (c *Canvas) drawDock(d layout.Dock, p layout.PlacedDock) {
	icons := grownIcons(d, p)
	if len(icons) > 0 { // it is as long as they are now
		first, last := icons[0], icons[len(icons)-1]
		if before := p.Icons[0]; d.Edge.Upright() {
			p.At.Min.Y, p.At.Max.Y = p.At.Min.Y+first.Min.Y-before.Min.Y, p.At.Max.Y+last.Max.Y-p.Icons[len(icons)-1].Max.Y
		} else {
			p.At.Min.X, p.At.Max.X = p.At.Min.X+first.Min.X-before.Min.X, p.At.Max.X+last.Max.X-p.Icons[len(icons)-1].Max.X
		}
	}
	c.behind(p.At, d.Round)
	s := c.Stage(c.Shell)
	panel := node("panel.dock." + string(d.Edge))
	panel.fade = max(float64(c.opacity())/100, 0.001)
	c.rounded(p.At, d.Round, func() {
		s.put(panel, float64(p.At.Min.X), float64(p.At.Min.Y), float64(p.At.Dx()), float64(p.At.Dy()))
	})
	ink := s.Styles.Style(panel.node).Colour("color")
	for n, at := range icons {
		program, ok := c.program(d.Programs[n])
		if !ok {
			c.without(d.Programs[n], "no program of that name, so that its place in the dock is empty")
			continue
		}
		c.Icon(c.Shell, at.Min.X, at.Min.Y, at.Dx(), program.Icon)
		if d.Running && (n == 0 || n == 3) { // a sign between the icon and the edge of the dock
			x, y := at.Min.X+at.Dx()/2-4, at.Max.Y+2
			switch d.Edge {
			case layout.Top:
				y = at.Min.Y - 4
			case layout.Left:
				x, y = at.Min.X-4, at.Min.Y+at.Dy()/2-4
			case layout.Right:
				x, y = at.Max.X+2, at.Min.Y+at.Dy()/2-4
			}
			w, h := 8, 2
			if d.Edge.Upright() {
				w, h = h, w
			}
			c.rect(x, y, w, h, 1, ink.CSS())
		}
	}
	c.mark(desk.FacetDock, c.Shell, float64(p.At.Min.X), float64(p.At.Min.Y), float64(p.At.Dx()), float64(p.At.Dy()))
	if len(icons) > pointed && (d.Grow > 100 || d.Previews) {
		at := icons[pointed]
		if d.Previews {
			program, _ := c.program(d.Programs[pointed])
			c.dockPreview(d, at, program.Name)
		}
		c.pointerAt(c.having(desk.FacetPointer), float64(at.Min.X+at.Dx()/2), float64(at.Min.Y+at.Dy()/2), "default", "left_ptr")
	}
}

// grownIcons are where the icons of a dock are while the pointer is at one of them: those near it grow away
// from the edge, the others go aside.
func grownIcons(d layout.Dock, p layout.PlacedDock) []image.Rectangle {
	if d.Grow <= 100 || len(p.Icons) <= pointed {
		return p.Icons
	}
	var middles []float64
	for _, at := range p.Icons {
		if d.Edge.Upright() {
			middles = append(middles, float64(at.Min.Y+at.Max.Y)/2)
		} else {
			middles = append(middles, float64(at.Min.X+at.Max.X)/2)
		}
	}
	d.Icon = p.Icon
	at, size := d.Grown(middles[pointed], middles)
	out := slices.Clone(p.Icons)
	for i := range out {
		long := int(math.Round(size[i]))
		from := int(math.Round(at[i] - size[i]/2))
		was := out[i]
		switch d.Edge {
		case layout.Top:
			out[i] = image.Rect(from, was.Min.Y, from+long, was.Min.Y+long)
		case layout.Left:
			out[i] = image.Rect(was.Min.X, from, was.Min.X+long, from+long)
		case layout.Right:
			out[i] = image.Rect(was.Max.X-long, from, was.Max.X, from+long)
		default:
			out[i] = image.Rect(from, was.Max.Y-long, from+long, was.Max.Y)
		}
	}
	return out
}

// dockPreview is a small picture of a program's window, beside its icon in the dock, as the shell draws it:
// its name and the window's outline.
func (c *Canvas) dockPreview(d layout.Dock, at image.Rectangle, name string) {
	const wide, high, away = 168, 120, 14
	x, y := at.Min.X+at.Dx()/2-wide/2, at.Min.Y-away-high
	switch d.Edge {
	case layout.Top:
		y = at.Max.Y + away
	case layout.Left:
		x, y = at.Max.X+away, at.Min.Y+at.Dy()/2-high/2
	case layout.Right:
		x, y = at.Min.X-away-wide, at.Min.Y+at.Dy()/2-high/2
	}
	x, y = min(max(x, 4), c.w-wide-4), min(max(y, 4), c.h-high-4)
	s := c.Stage(c.Shell)
	title := text("label", say.Word(name)).within(wide - 24)
	panel := node("panel.preview", title).column(0)
	panel.spots = []box{{float64(x + 14), float64(y + 10), wide - 28, 18}}
	c.rounded(image.Rect(x, y, x+wide, y+high), 8, func() { s.put(panel, float64(x), float64(y), wide, high) })
	ink := s.Styles.Style(panel.node).Colour("color")
	ink.A *= 0.4
	c.rect(x+14, y+36, wide-28, high-50, 3, "none", `stroke="`+ink.CSS()+`"`)
	c.rect(x+14, y+36, wide-28, 12, 3, ink.CSS())
}
