package preview

import (
	"cmp"
	"image"
	"io/fs"
	"math"
	"strconv"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/desktopentry"
	"ivelt/core/keyfile"
	"ivelt/core/layout"
	"ivelt/core/paint"
)

// Sizes on bars, px.
const (
	barGap     = 6
	signSize   = 16
	moreLong   = 22 // the button that shows the rest
	usualTitle = 160
	leastTitle = 28
)

// arrangement is where everything at the edges of one monitor is.
type arrangement struct {
	bars    []layout.Bar
	placed  []layout.Placed
	dock    *layout.Dock
	docked  layout.PlacedDock
	left    image.Rectangle // what they leave to windows
	trouble []layout.Trouble
}

// Arranged is where bars and the dock of a look are on a monitor of a size, px at 100 %, and what they
// leave to windows.
type Arranged struct {
	Bars    []layout.Bar
	Placed  []layout.Placed
	Dock    *layout.Dock
	Docked  layout.PlacedDock
	Work    image.Rectangle
	Trouble []layout.Trouble
	OnDesk  []OnDesk
}

// Arrange tells where things are on a monitor of a size, as they are drawn.
func Arrange(d *desk.Desk, look Look, w, h int) Arranged {
	return NewCanvas(d, look, w, h).arrangedOut()
}

// ArrangeOn tells where things are on one of several monitors.
func ArrangeOn(d *desk.Desk, look Look, monitors []desk.Monitor, screen int) Arranged {
	return onMonitor(d, look, monitors, screen).arrangedOut()
}

// AtEdge is a bar, or the dock, on a monitor: its edge, and where it is, px at 100 %.
type AtEdge struct {
	Edge layout.Edge
	At   image.Rectangle
}

// BarsOn are those on one of several monitors.
func BarsOn(d *desk.Desk, look Look, monitors []desk.Monitor, screen int) (out []AtEdge) {
	a := ArrangeOn(d, look, monitors, screen)
	for _, p := range a.Placed {
		out = append(out, AtEdge{a.Bars[p.Bar].Edge, p.At})
	}
	if a.Dock != nil {
		out = append(out, AtEdge{a.Dock.Edge, a.Docked.At})
	}
	return out
}

func (c *Canvas) arrangedOut() Arranged {
	a := c.arranged()
	return Arranged{a.bars, a.placed, a.dock, a.docked, a.left, a.trouble, c.onDesk()}
}

// bars are those that a desk's shell is told of; one that does not say gets a plain one on each monitor.
func (c *Canvas) bars() []layout.Bar {
	if text := c.look.Of(desk.FacetBars, c.Shell); text != "" {
		if bars, err := layout.ParseBars(text); err == nil {
			return bars
		}
	}
	edge, thick := layout.Top, 34
	shell, _ := c.D.Surface(c.Shell)
	if rule := shell.Bar; rule != nil {
		c.told(rule, func(kf *keyfile.File) {
			if e := layout.Edge(kf.Get(rule.Group, rule.Edge)); e == layout.Top || e == layout.Bottom {
				edge = e
			}
			if n, err := strconv.Atoi(kf.Get(rule.Group, rule.Thickness)); err == nil && n >= 20 && n <= 96 {
				thick = n
			}
		})
	}
	if e := c.look.Of(desk.FacetBarEdge, c.Shell); e != "" {
		edge = layout.Edge(e)
	}
	thick = min(max(c.look.number(desk.FacetBarHeight, c.Shell, thick), 20), 96)
	bars, err := layout.ParseBars(string(edge) + " " + strconv.Itoa(thick) + " on all: menu pinned / / tray battery clock")
	if err != nil {
		return nil
	}
	return bars
}

// told reads the files in which a shell describes its bar, the weakest first.
func (c *Canvas) told(rule *desk.Bar, with func(*keyfile.File)) {
	for _, file := range rule.Files {
		for _, p := range c.D.Expand(file) {
			raw, err := fs.ReadFile(c.tree, desk.Name(p))
			if err != nil {
				continue
			}
			if kf, err := keyfile.Parse(raw); err == nil {
				with(kf)
			}
		}
	}
}

// pinned are the programs that an item of a bar has: its own, or those that the shell is told of.
func (c *Canvas) pinned(i layout.Item) (ids []string) {
	if own := layout.Get(i.Options, "programs"); own != "" {
		ids = strings.Split(own, ",")
	} else if shell, _ := c.D.Surface(c.Shell); shell.Bar != nil {
		c.told(shell.Bar, func(kf *keyfile.File) {
			if all := kf.List(shell.Bar.Group, shell.Bar.Pinned, ';'); all != nil {
				ids = all
			}
		})
	}
	out := []string{}
	for _, id := range ids {
		if p, ok := c.program(id); ok {
			out = append(out, p.ID)
		}
	}
	return out
}

// program is the desk's program of an ID, which may be told with the ending of its desktop entry.
func (c *Canvas) program(id string) (desktopentry.Program, bool) {
	p, ok := c.known()[strings.TrimSuffix(id, ".desktop")]
	return p, ok
}

// known are the desk's programs by their IDs.
func (c *Canvas) known() map[string]desktopentry.Program {
	if c.byID == nil {
		c.byID = map[string]desktopentry.Program{}
		for _, p := range c.programs() {
			c.byID[p.ID] = p
		}
	}
	return c.byID
}

// arranged places what is at the edges, once.
func (c *Canvas) arranged() *arrangement {
	if c.edges != nil {
		return c.edges
	}
	a := &arrangement{left: image.Rect(0, 0, c.w, c.h)}
	c.edges = a
	if c.Shell == "" {
		return a
	}
	screens := c.layoutScreens()
	here := screens[min(c.screen, len(screens)-1)]
	a.bars = c.bars()
	s := c.Stage(c.Shell)
	probe := node("panel.top")
	s.measure(probe)
	e := probe.edges()
	all, work, bad := layout.Places(a.bars, screens, layout.Room{Padding: e[3], Gap: barGap, More: moreLong}, c.measured(s))
	a.trouble = bad
	for _, p := range all {
		if p.Monitor == here.Name {
			a.placed = append(a.placed, p)
		}
	}
	a.left = work[here.Name]
	a.dock, _ = layout.ParseDock(cmp.Or(c.look.Of(desk.FacetDock, c.Shell), "none"))
	if a.dock != nil && (a.dock.Monitor == here.Name || a.dock.Monitor == layout.All || a.dock.Monitor == "" && c.screen == 0) {
		var wrong []layout.Trouble
		a.docked, a.left, wrong = layout.PlaceDock(*a.dock, here, a.left)
		a.trouble = append(a.trouble, wrong...)
	} else {
		a.dock = nil
	}
	return a
}

// layoutScreens are the monitors that bars may be on; the canvas is one of them.
func (c *Canvas) layoutScreens() (out []layout.Screen) {
	for i, m := range c.monitors {
		s := layout.Screen{Name: m.Name, Wide: int(math.Round(float64(m.Width) / m.Times())), High: int(math.Round(float64(m.Height) / m.Times()))}
		if i == c.screen {
			s.Wide, s.High = c.w, c.h
		}
		out = append(out, s)
	}
	if out == nil {
		out = []layout.Screen{{Wide: c.w, High: c.h}}
		if all := c.D.Monitors(); len(all) > 0 {
			out[0].Name = all[0].Name
		}
	}
	return out
}

// drawBars paints the bars and the dock over what is behind them.
func (c *Canvas) drawBars() {
	if c.Shell == "" {
		return
	}
	a := c.arranged()
	for _, p := range a.placed {
		c.drawBar(a.bars[p.Bar], p)
	}
	if a.dock != nil {
		c.drawDock(*a.dock, a.docked)
	}
}

// drawBar paints one.
func (c *Canvas) drawBar(b layout.Bar, p layout.Placed) {
	c.behind(p.At, b.Round)
	s := c.Stage(c.Shell)
	var kids []*part
	var spots []box
	at := func(x, y, w, h float64) { spots = append(spots, box{x, y, w, h}) }
	for _, i := range p.Items {
		if i.How == layout.Behind {
			continue
		}
		item := b.Items[i.Item]
		of := c.kidsOf(b, item, i.How == layout.Small)
		if len(of) == 0 {
			continue
		}
		s.measure(panelOf(b, of))
		room, from := float64(i.At.Dx()), float64(i.At.Min.X)
		if b.Edge.Upright() {
			room, from = float64(i.At.Dy()), float64(i.At.Min.Y)
		}
		each := -1.0 // of those that share the room
		switch {
		case i.How != layout.Short:
		case item.Kind == "pinned":
			fit := int((room + barGap + 0.5) / (along(b, of[0]) + barGap))
			of = of[:min(max(fit, 0), len(of))]
		case item.Kind == "windows":
			each = (room - float64(len(of)-1)*barGap) / float64(len(of))
		}
		for _, k := range of {
			long := along(b, k)
			if each >= 0 {
				long = each
				c.shorten(k, each)
			} else if i.How == layout.Short {
				long = min(long, room)
				c.shorten(k, long)
			}
			if b.Edge.Upright() {
				at(float64(p.At.Min.X), from, float64(p.At.Dx()), long)
			} else {
				at(from, float64(p.At.Min.Y), long, float64(p.At.Dy()))
			}
			from += long + barGap
			kids = append(kids, k)
		}
	}
	if !p.More.Empty() {
		kids = append(kids, node("button.more.flat", picture("image", "view-more-symbolic", signSize)).small())
		at(float64(p.More.Min.X), float64(p.More.Min.Y), float64(p.More.Dx()), float64(p.More.Dy()))
	}
	panel := panelOf(b, kids)
	panel.spots = spots
	panel.fade = max(float64(c.opacity())/100, 0.001)
	c.rounded(p.At, b.Round, func() {
		s.put(panel, float64(p.At.Min.X), float64(p.At.Min.Y), float64(p.At.Dx()), float64(p.At.Dy()))
	})
	c.mark(desk.FacetBar, c.Shell, float64(p.At.Min.X), float64(p.At.Min.Y), float64(p.At.Dx()), float64(p.At.Dy()))
}

// shorten makes a part no longer than there is room, its text cut off with dots.
func (c *Canvas) shorten(p *part, long float64) {
	p.fixed = long
	if p.label != "" {
		p.most = max(long, 1)
	}
	for _, k := range p.kids {
		if k.label != "" {
			k.most = max(long-signSize-24, 1)
		}
	}
}

func (c *Canvas) opacity() int {
	return min(max(c.look.number(desk.FacetOpacity, c.Shell, 100), 0), 100)
}

// behind paints what shows through a bar: the backdrop, blurred and saturated as the shell is told.
func (c *Canvas) behind(at image.Rectangle, round int) {
	blur := min(max(c.look.number(desk.FacetBlur, c.Shell, 0), 0), 64)
	saturation := min(max(c.look.number(desk.FacetSaturation, c.Shell, 100), 0), 300)
	if blur <= 0 && saturation == 100 || c.opacity() >= 100 || c.bare {
		return
	}
	effects := ""
	if blur > 0 {
		effects = `<feGaussianBlur stdDeviation="` + paint.Number(float64(blur)/2) + `"/>`
	}
	if saturation != 100 {
		effects += `<feColorMatrix type="saturate" values="` + paint.Number(float64(saturation)/100) + `"/>`
	}
	c.rounded(at, round, func() {
		c.ids++
		c.Printf(`<clipPath id="c%d"><path d="M%d %dH%dV%dH%dZ"/></clipPath><filter id="f%d" filterUnits="userSpaceOnUse" color-interpolation-filters="sRGB" x="%d" y="%d" width="%d" height="%d">%s</filter><g clip-path="url(#c%d)"><g filter="url(#f%d)">`,
			c.ids, at.Min.X, at.Min.Y, at.Max.X, at.Max.Y, at.Min.X, c.ids, at.Min.X-64, at.Min.Y-64, at.Dx()+128, at.Dy()+128, effects, c.ids, c.ids)
		c.backdrop()
		c.WriteString(`</g></g>`)
	})
}

// rounded paints with what is outside of a rectangle with round corners cut off.
func (c *Canvas) rounded(at image.Rectangle, round int, paints func()) {
	if round = min(round, at.Dx()/2, at.Dy()/2); round <= 0 {
		paints()
		return
	}
	c.ids++
	c.Printf(`<clipPath id="r%d"><rect x="%d" y="%d" width="%d" height="%d" rx="%d"/></clipPath><g clip-path="url(#r%d)">`, c.ids, at.Min.X, at.Min.Y, at.Dx(), at.Dy(), round, c.ids)
	paints()
	c.WriteString(`</g>`)
}

// Programs are those of a desk that bars and docks may have.
func Programs(d *desk.Desk) []desktopentry.Program { return NewCanvas(d, Look{}, 1, 1).programs() }

// Pinned are the programs that a desk's shell is told to pin, by their IDs.
func Pinned(d *desk.Desk, look Look) []string {
	return NewCanvas(d, look, 1, 1).pinned(layout.Item{Kind: "pinned"})
}
