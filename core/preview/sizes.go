package preview

import (
	_ "embed"
	"slices"
	"strings"

	_ "golang.org/x/image/webp"

	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/say"
)

// Sizes returns the least width and height of controls of a toolkit in a look,
// in px, so that they can be held against the toolkit itself. A width of 0 is
// one that the toolkit sets by other means than the style.
func Sizes(d *desk.Desk, look Look, surface string) map[string][2]float64 {
	s := NewCanvas(d, look, 0, 0).Stage(surface)
	out := map[string][2]float64{}
	for _, name := range []string{"label", "button", "icon-button", "entry", "switch", "progress", "scale", "check", "radio", "row", "separator", "spin"} {
		p := s.sample(name)
		s.measure(node("window.background", node("box.vertical", p)))
		m := p.st.Margin()
		out[name] = [2]float64{p.minW + m[1] + m[3], p.minH + m[0] + m[2]}
		switch name {
		case "entry", "spin", "progress", "scale", "separator":
			out[name] = [2]float64{0, out[name][1]}
		}
	}
	return out
}

// sample is one control by a name, "button.flat" or "button:hover".
func (s *Stage) sample(name string) *part {
	kind, state, _ := strings.Cut(name, ":")
	kind, class, _ := strings.Cut(kind, ".")
	if class != "" {
		class = "." + class
	}
	var p *part
	switch kind {
	case "label":
		return text("label", "Low water 06:40")
	case "button":
		p = s.button(class, "Plain")
	case "icon-button":
		p = s.iconButton("", "go-up-symbolic")
	case "entry":
		p = s.entry("", " ")
	case "switch":
		return s.toggle(state)
	case "progress":
		return s.progress(0.6)
	case "scale":
		return s.scale(0.4)
	case "check", "radio":
		p = s.tick(kind, "", "")
		if state == "disabled" {
			mark(p, "checked")
		}
	case "combo":
		return s.combo(" ")
	case "text":
		return s.textView()
	case "expander":
		return s.expander("    ")
	case "level":
		return s.levels(2, 4)
	case "scrollbar":
		return s.scrollbar(class == ".vertical", "", 0.4, 0.5)
	case "tree":
		return s.scrolled(s.treeView(listed{columns: []say.Word{"   ", "   "}, widths: []float64{70, 70}, lines: [][]string{{}, {}, {}}, chosen: 1}), 1, 0)
	case "menubar":
		return s.menuBar([]say.Word{"    ", "    "}, 1)
	case "headerbar":
		return s.headerBar(s.button("", "   ").with(func(p *part) { p.aside = s.surface == "gtk4" }))
	case "infobar":
		return s.infobar(class[1:], "    ", "   ")
	case "notebook":
		return s.tabs([]string{"     ", "     "}, text("label", " "))
	case "menu":
		return s.menuWith()
	case "tooltip", "popover":
		if s.surface == "gtk4" {
			return node("popover.background", node("contents").growing()).with(func(p *part) { p.bare = true })
		}
		return node(kind + ".background")
	case "calendar":
		return s.calendar()
	case "link":
		return in("link", s.button(".flat.link", "    "))
	case "row":
		return node("list", s.row("A line", ""))
	case "list":
		return node("list", s.row(" ", ""), s.row(" ", "selected")).column(0)
	case "separator":
		return node("separator.horizontal")
	case "spin":
		return s.spin("0").with(func(p *part) { p.kids[0].w = 0 })
	case "frame":
		if s.surface == "gtk4" {
			return node("frame")
		}
		return node("frame", node("border").growing())
	}
	switch state {
	case "":
	case "focus":
		focused(p)
	default:
		mark(p, state)
	}
	return p
}

// Placed is a control and the box it has, px.
type Placed struct {
	Name       string
	X, Y, W, H float64
}

// Sheet draws controls without words where they stand in a window of w × h, so
// that they can be held against what the toolkit draws.
func Sheet(d *desk.Desk, look Look, surface string, w, h int, controls []Placed) []byte {
	c := NewCanvas(d, look, w, h)
	s := c.Stage(surface)
	c.Printf(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" width="%d" height="%d">`, w, h, w, h)
	holder := node("fixed")
	window := node("window.background", holder)
	var parts []*part
	for _, at := range controls {
		p := s.sample(at.Name)
		wordless(p)
		parts = append(parts, p)
		holder.node.Add(p.node)
	}
	s.measure(window)
	s.painter.Box(0, 0, float64(w), float64(h), window.st)
	for i, p := range parts {
		s.measure(p)
		at, m := controls[i], p.st.Margin()
		if surface == "gtk4" || slices.Contains([]string{"menu", "tooltip", "popover"}, at.Name) { // what counts no margin to a box
			m = gtkcss.Box{}
		}
		s.place(p, at.X+m[3], at.Y+m[0], at.W-m[1]-m[3], at.H-m[0]-m[2])
		s.show(p)
	}
	c.WriteString("<defs>" + c.Defs.String() + "</defs></svg>")
	return []byte(c.String())
}

func wordless(p *part) {
	if strings.TrimSpace(p.label) != "" {
		p.label = " "
	}
	for _, k := range p.kids {
		wordless(k)
	}
}
