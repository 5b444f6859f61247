package preview

import "ivelt/core/desk"

// Sizes returns the least width and height of controls of a toolkit in a look,
// in px, so that they can be held against the toolkit itself. A width of 0 is
// one that the toolkit sets by other means than the style.
func Sizes(d *desk.Desk, look Look, surface string) map[string][2]float64 {
	s := newCanvas(d, look, 0, 0).stage(surface)
	window := func(p *part) *part { return node("window.background", node("box.vertical", p)) }
	out := map[string][2]float64{}
	for name, p := range map[string]*part{
		"label": text("label", "Low water 06:40"), "button": s.button("", "Plain"), "icon-button": s.iconButton("", "go-up-symbolic"),
		"entry": s.entry("", " "), "switch": s.toggle(""), "progress": s.progress(0), "scale": s.scale(0), "check": node("checkbutton", node("check").small()),
		"radio": node("radiobutton", node("radio").small()), "row": node("list", s.row("A line", "")), "separator": node("separator.horizontal"), "spin": s.spin("0"),
	} {
		if surface == "gtk4" && name == "radio" {
			p = node("checkbutton", node("radio").small())
		}
		s.measure(window(p))
		m := p.st.Margin()
		out[name] = [2]float64{p.minW + m[1] + m[3], p.minH + m[0] + m[2]}
		switch name {
		case "entry", "spin", "progress", "scale", "separator":
			out[name] = [2]float64{0, out[name][1]}
		}
	}
	return out
}
