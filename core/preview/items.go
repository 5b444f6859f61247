package preview

import (
	"cmp"
	"strconv"
	"strings"
	"time"

	"github.com/ncruces/go-strftime"

	"ivelt/core/desk"
	"ivelt/core/layout"
	"ivelt/core/paint"
	"ivelt/core/say"
)

// The moment that clocks on pictures show.
var pictured = time.Date(2026, 3, 21, 6, 40, 0, 0, time.UTC)

// measured measures items in the style of a surface.
func (c *Canvas) measured(s *Stage) layout.Measure {
	return func(b layout.Bar, i layout.Item, small bool) layout.Size {
		kids := c.kidsOf(b, i, small)
		wants := 0.0
		if len(kids) > 0 {
			panel := panelOf(b, kids)
			s.measure(panel)
			for n, k := range kids {
				wants += along(b, k)
				if n > 0 {
					wants += barGap
				}
			}
		}
		size := layout.Size{Wants: wants, Least: wants}
		number := func(usual int) float64 {
			n, err := strconv.Atoi(layout.Get(i.Options, "size"))
			if err != nil {
				n = usual
			}
			return float64(min(max(n, 0), 4000))
		}
		switch {
		case i.Kind == "space":
			size = layout.Size{Wants: number(16), Least: 4}
		case i.Kind == "pinned" && len(kids) > 0:
			size.Least = along(b, kids[0])
		case i.Kind == "windows" && !small && !b.Edge.Upright():
			size.Least = min(wants, float64(len(kids)*(leastTitle+barGap)-barGap))
		case i.Kind == "title" && !b.Edge.Upright():
			size.Least = min(wants, 40)
		}
		return size
	}
}

// along is how long a part is along a bar.
func along(b layout.Bar, p *part) float64 {
	if b.Edge.Upright() {
		return p.minH
	}
	return p.minW
}

// panelOf is a bar with parts on it.
func panelOf(b layout.Bar, kids []*part) *part {
	p := node("panel."+string(b.Edge), kids...).row(barGap)
	p.down = b.Edge.Upright()
	return p
}

// openWindows are the windows that bars of pictures list, the first the one that is maximised where one is.
var openWindows = []struct{ icon, title string }{{"accessories-text-editor", "Station Log"}, {"system-file-manager", "Files"}, {"applications-other", "Programs"}}

// programMenu are the menus of the maximised one.
var programMenu = []say.Word{"File", "Edit", "View", "Help"}

// kidsOf are the parts that an item is made of.
func (c *Canvas) kidsOf(b layout.Bar, i layout.Item, small bool) []*part {
	size := float64(max(b.Thick-10, 8))
	button := func(class, icon string, size float64) *part {
		return node("button."+class+".flat", picture("image", icon, size)).small()
	}
	sign := func(names ...string) (out []*part) {
		for _, name := range names {
			out = append(out, picture("image.status", name+"-symbolic", signSize).small())
		}
		return out
	}
	words := func(texts ...say.Word) (out []*part) {
		for _, t := range texts {
			out = append(out, text("label", say.Word(t)).small())
		}
		return out
	}
	switch i.Kind {
	case "menu":
		if own := c.look.Of(desk.FacetMenuIcon, c.Shell); own != "" && c.D.Exists(own) {
			return []*part{button("menu", own, size)}
		}
		return []*part{button("menu", "start-here-symbolic", 18)}
	case "pinned":
		var out []*part
		for n, id := range c.pinned(i) {
			p := button("program", c.known()[id].Icon, size)
			if n == 0 || n == 3 {
				p.node.States = append(p.node.States, "checked") // it runs
			}
			out = append(out, p)
		}
		return out
	case "windows":
		var out []*part
		wide := float64(usualTitle)
		if n, err := strconv.Atoi(layout.Get(i.Options, "width")); err == nil {
			wide = float64(min(max(n, leastTitle), 600))
		}
		for n, w := range openWindows {
			kids := []*part{picture("image", w.icon, signSize).small()}
			if !small && !b.Edge.Upright() && layout.Get(i.Options, "titles") != "no" {
				kids = append(kids, text("label", say.Word(w.title)).within(max(wide-signSize-24, 1)).small())
			}
			p := node("button.program.flat", kids...).row(barGap).small()
			if len(kids) > 1 {
				p.fixed = wide
			}
			if n == 0 {
				p.node.States = append(p.node.States, "checked")
			}
			out = append(out, p)
		}
		return out
	case "title":
		return words(say.Word(openWindows[0].title))
	case "buttons":
		return []*part{button("window", "window-minimize-symbolic", signSize), button("window", "window-restore-symbolic", signSize), button("window", "window-close-symbolic", signSize)}
	case "program-menu":
		if small {
			return []*part{button("menu", "open-menu-symbolic", signSize)}
		}
		return words(programMenu...)
	case "workspaces":
		names := c.workspaces()
		if small {
			names = names[c.workspace : c.workspace+1]
		}
		var out []*part
		for w, name := range names {
			if layout.Get(i.Options, "names") == "no" {
				name = strconv.Itoa(w + 1)
			}
			p := node("button.workspace.flat", text("label", say.Word(name))).small()
			if w == c.workspace || small {
				p.node.States = append(p.node.States, "checked")
			}
			out = append(out, p)
		}
		return out
	case "tray":
		switch {
		case layout.Get(i.Options, "show") == "hover": // it opens under the pointer
			return sign("pan-up")
		case small:
			return sign("network-wireless")
		}
		return sign("mail-unread", "network-wireless", "audio-volume-high")
	case "battery":
		if layout.Get(i.Options, "percent") == "yes" && !small {
			return append(sign("battery-full"), words("84 %")...)
		}
		return sign("battery-full")
	case "clock":
		return []*part{text("label.clock", say.Word(clockText(i, small || b.Edge.Upright()))).small()}
	case "processor":
		if layout.Get(i.Options, "of") == "frequency" {
			return words("1.8 GHz")
		}
		return words("12 %")
	case "keyboard":
		return words("en")
	case "show-desktop":
		return []*part{button("desktop", "user-desktop-symbolic", signSize)}
	case "power":
		return []*part{button("power", "system-shutdown-symbolic", signSize)}
	case "line":
		return []*part{node("separator").sized(1, float64(max(b.Thick-16, 2))).small().with(func(p *part) {
			if b.Edge.Upright() {
				p.w, p.h = p.h, p.w
			}
			p.paint = func(s *Stage, x, y, w, h float64) {
				ink := s.Styles.Style(p.node).Colour("color")
				ink.A *= 0.35
				s.Printf(`<rect x="%s" y="%s" width="%s" height="%s" fill="%s"/>`, paint.Number(x), paint.Number(y), paint.Number(w), paint.Number(h), ink.CSS())
			}
		})}
	case "space", "stretch":
		return nil
	}
	return words(say.Word(i.Kind)) // of a newer version
}

// mostWorkspaces is how many a shell has at most.
const mostWorkspaces = 12

// workspaces are what they are called: by their names, or by their numbers. As many as are needed are
// those with a window, one in the picture, and one more, up to that which is pictured.
func (c *Canvas) workspaces() (out []string) {
	n := min(max(c.look.number(desk.FacetWorkspaces, c.having(desk.FacetWorkspaces), 4), 1), mostWorkspaces)
	if c.look.Of(desk.FacetNeeded, c.having(desk.FacetNeeded)) == "needed" {
		n = min(n, 2)
	}
	n = max(n, c.workspace+1)
	names, _ := layout.ParseNames(cmp.Or(c.look.Of(desk.FacetNames, c.having(desk.FacetNames)), "none"))
	for i := range n {
		name := strconv.Itoa(i + 1)
		if i < len(names) {
			name = names[i]
		}
		out = append(out, name)
	}
	return out
}

// Workspaces are what the workspaces of a look are called.
func Workspaces(d *desk.Desk, look Look) []string { return NewCanvas(d, look, 1, 1).workspaces() }

// The form of a clock that does not say, and the longest that is taken.
const (
	usualClock = "%a %d %b  %H:%M"
	shortClock = "%H:%M"
	maxClock   = 64
)

// clockText is what a clock shows at the moment of pictures: in its form, that of strftime (ISO C,
// 7.29.3.5), and at further places, whose names are shown.
func clockText(i layout.Item, short bool) string {
	form := cmp.Or(layout.Get(i.Options, "form"), usualClock)
	if short {
		form = shortClock
	}
	text := strftime.Format(form[:min(len(form), maxClock)], pictured)
	if short {
		return text
	}
	for place := range strings.SplitSeq(layout.Get(i.Options, "places"), ",") {
		if at, err := time.LoadLocation(place); err == nil && place != "" {
			name := place[strings.LastIndexByte(place, '/')+1:]
			text += "  " + strings.ReplaceAll(name, "_", " ") + " " + strftime.Format(shortClock, pictured.In(at))
		}
	}
	return text
}
