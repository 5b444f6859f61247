package preview

import (
	_ "embed"
	"strings"

	_ "golang.org/x/image/webp"

	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/say"
)

// window makes the tree of a window of a toolkit: its frame, its header bar,
// and what is in it.
func (s *Stage) window(title, note string, tools []*part, content *part) *part {
	heading := text("label.title", say.Word(title))
	sub := text("label.subtitle", say.Word(note))
	name := node("box.vertical", heading, sub).column(0).growing().with(func(p *part) { p.align = 0.5 })
	heading.align, sub.align = 0.5, 0.5
	left, right := s.frameButtons(len(tools) == 0)
	if s.surface == "gtk4" {
		bar := barOf4(".titlebar", append(left, tools...), name, right)
		return s.inState(node("window.background.csd", bar, content.growing()).column(0))
	}
	for _, tool := range tools { // they fill the bar
		tool.aside = false
	}
	kids := append(append(left, tools...), name)
	bar := s.barOf3(".titlebar", append(kids, right...)...)
	return s.inState(node("window.background.csd", bar, content.growing()).column(0))
}

// barOf3 is a header bar of GTK 3, which has room for a title and what is under it even if
// neither is shown: as high as those are in no bar (gtkheaderbar.c of 3.24, label_sizing_box).
func (s *Stage) barOf3(class string, kids ...*part) *part {
	room := node("box.vertical", text("label.title", "M"), text("label.subtitle", "M")).column(0)
	s.measure(room)
	return node("headerbar"+class, kids...).row(6).sized(0, room.minH)
}

// barOf4 is a header bar of GTK 4.
func barOf4(class string, start []*part, title *part, end []*part) *part {
	return node("headerbar"+class, node("windowhandle", node("box", node("box.start.horizontal", start...).row(0), title, node("box.end.horizontal", end...).row(0)).row(0).growing()).growing())
}

// inState puts a window, or the controls in it, in the state that is looked for.
func (s *Stage) inState(w *part) *part {
	switch state := s.look.State; state {
	case "":
		return w
	case "backdrop":
		mark(w, state)
	default:
		markControls(w.kids[len(w.kids)-1], state)
	}
	s.Styles.Forget() // what was computed of parts before they had it
	return w
}

// frameButtons are the buttons of a window, on its left and right, as its
// program is told to put them; a dialog has the one that closes it only.
// GTK 4 puts each side's into windowcontrols.
func (s *Stage) frameButtons(dialog bool) (left, right []*part) {
	of := s.surface
	if t, ok := s.D.Surface(of); ok && t.Kind == "sandbox" { // told what those outside are
		of = outside(s.D, t).ID
	}
	before, after, _ := strings.Cut(s.look.Of(desk.FacetButtons, of), ":")
	side := func(names, where string) []*part {
		var out []*part
		for name := range strings.SplitSeq(names, ",") {
			if name != "close" && (dialog || name != "minimize" && name != "maximize") {
				continue
			}
			class := "button.titlebutton." + name
			if s.surface == "gtk4" {
				class = "button." + name
			}
			b := node(class, picture("image", "window-"+name+"-symbolic", 16)).small()
			b.marked = desk.FacetButtons
			out = append(out, b)
		}
		if s.surface == "gtk4" && len(out) > 0 {
			return []*part{node("windowcontrols."+where, out...).row(3).small()}
		}
		return out
	}
	return side(before, "start"), side(after, "end")
}

// paintWindow places a window and paints it with its frame.
func (s *Stage) paintWindow(w *part, x, y, width, height float64) {
	if s.surface != "gtk4" { // GTK 4's windows cast their shadow themselves
		frame := gtkcss.New("decoration")
		w.node.Add(frame)
		s.painter.Box(x, y, width, height, s.Styles.Style(frame))
	}
	s.put(w, x, y, width, height)
	s.Canvas.mark(desk.FacetWidgets, s.surface, x, y, width, height)
}

// markControls puts every control of a tree in a state, and what is in it.
func markControls(p *part, state string) {
	switch p.node.Name {
	case "button", "entry", "checkbutton", "radiobutton", "check", "radio", "switch", "scale", "spinbutton", "tab", "row", "menuitem", "modelbutton", "flowboxchild", "progressbar":
		if state == "focus" {
			focused(p)
			return
		}
		mark(p, state)
		return
	}
	for _, k := range p.kids {
		markControls(k, state)
	}
}

// mark puts a control in a state. What is in it is off, or in a window that is not
// active, with it; marks go with it in every state, and nothing else does
// (gtkwidget.c, GTK_STATE_FLAGS_DO_PROPAGATE).
func mark(p *part, state string) {
	p.node.States = append(p.node.States, state)
	goesDown := state == "disabled" || state == "backdrop"
	for _, k := range p.kids {
		if goesDown || k.node.Name == "check" || k.node.Name == "radio" {
			mark(k, state)
		}
	}
}

func (s *Stage) button(classes string, label say.Word) *part {
	b := node("button.text-button"+classes, text("label", label).middle().growing())
	return b.small()
}

func (s *Stage) iconButton(classes, icon string) *part {
	return node("button.image-button"+classes, picture("image", icon, 16)).small()
}

// whose says which surface a window belongs to.
func (c *Canvas) whose(surface string) string {
	return toolkitOf(c.D, surface).Title
}

// sidebarRow is a place in the list beside files (gtksidebarrow.ui of GTK 3.24 and 4.8).
func sidebarRow(icon, name string) *part {
	line := node("box.horizontal", picture("image.sidebar-icon", icon, 16).small(), text("label.sidebar-label", say.Word(name))).row(8).growing()
	return node("row.sidebar-row.activatable", node("revealer", line).growing())
}

// files is a file manager of GTK 3 that shows the desk's own home.
func (c *Canvas) files(x, y, w, h int) {
	s := c.Stage("gtk3")
	for places := len(homePlaces); ; places-- { // as many as there is room for; the others could be scrolled to
		root := c.filesWith(s, homePlaces[:places])
		if s.measure(root); root.minH <= float64(h) || places == 1 {
			s.paintWindow(root, float64(x), float64(y), float64(w), float64(h))
			return
		}
	}
}

type homePlace struct{ icon, name string }

var homePlaces = []homePlace{
	{"user-home", "Home"}, {"user-desktop", "Desktop"}, {"folder-documents", "Documents"}, {"folder-download folder-downloads", "Downloads"}, {"folder-music", "Music"},
	{"folder-pictures", "Pictures"}, {"folder-videos", "Videos"}, {"network-workgroup", "Station"}, {"user-trash", "Rubbish"},
}

func (c *Canvas) filesWith(s *Stage, list []homePlace) *part {
	tools := []*part{
		node("box.linked", s.iconButton("", "go-previous-symbolic"), s.iconButton("", "go-next-symbolic").with(func(p *part) { mark(p, "disabled") })).row(0).small(),
		s.iconButton("", "go-up-symbolic"),
	}
	var places []*part
	for i, place := range list {
		row := sidebarRow(place.icon, place.name)
		if i == 0 {
			mark(row, "selected")
		}
		places = append(places, row)
	}
	side := node("placessidebar.sidebar", node("list", places...).column(0).growing()).column(0).sized(112, 0)
	var cells []*part
	for i, e := range c.homeEntries() {
		cell := node("flowboxchild", node("box.vertical", picture("image", strings.Join(iconsFor(e), " "), 48), text("label", say.Word(e.Name())).within(88).middle()).column(4).growing())
		if i == 2 {
			mark(cell, "selected")
		}
		cells = append(cells, cell)
	}
	view := node("flowbox.view", cells...).growing().with(func(p *part) { p.cell = [2]float64{96, 84} })
	return s.window("Files", c.whose("gtk3"), tools, node("box.horizontal", side, view).row(0))
}

// grid is a program of GTK 4, or of GTK 3 where there is no other, that shows every
// installed program.
func (c *Canvas) grid(x, y, w, h int) { c.gridIn(x, y, w, h, false) }

// gridIn is the same, as high as its room if that is asked for.
func (c *Canvas) gridIn(x, y, w, h int, whole bool) {
	const cellW, cellH = 96, 84
	of := "gtk4"
	if _, there := c.D.Surface(of); !there {
		of = "gtk3"
	}
	s := c.Stage(of)
	var cells []*part
	for i, p := range c.programs() {
		cell := node("flowboxchild", node("box.vertical", picture("image", p.Icon, 48), text("label", say.Word(p.Name)).within(88).middle()).column(4).growing())
		if i == 5 {
			mark(cell.pointedAt("default", "left_ptr"), "hover")
		}
		cells = append(cells, cell)
	}
	view := node("flowbox", cells...).growing().with(func(p *part) { p.cell = [2]float64{cellW, cellH} })
	tools := []*part{s.iconButton("", "edit-find-symbolic")}
	rows := (len(cells) + w/cellW - 1) / max(w/cellW, 1)
	root := s.window("Programs", c.whose(of), tools, node("box.vertical", view).column(0))
	mark(root, "backdrop") // another window is the active one
	s.measure(root)
	if !whole {
		h = min(h, int(root.minH)+(rows-1)*cellH+6)
	}
	s.paintWindow(root, float64(x), float64(y), float64(w), float64(h))
}

// dialog is a question of a GTK 3 program.
func (c *Canvas) dialog(x, y, w, h int) {
	s := c.Stage("gtk3")
	words := node("box.vertical", text("label.title", "The harbour lamp is still dark."), text("label.dim-label", "Sunset was 12 minutes ago."),
		s.tick("check", "Tell the keeper too", "checked").with(func(p *part) { p.aside = false })).column(6).growing()
	body := node("box.horizontal.dialog-vbox", picture("image", "dialog-warning", 48).small(), words).row(16).growing()
	body = node("box.vertical", body, node("box.horizontal.dialog-action-area", node("box").growing(), s.button("", "Leave it"), s.button(".suggested-action", "Light it")).row(8)).column(14)
	inside := node("box.vertical", body.growing()).column(0)
	root := s.window("Lamp Watch", "", nil, padded(inside, 16))
	s.measure(root)
	s.paintWindow(root, float64(x), float64(y), max(float64(w), root.minW), max(float64(h), root.minH))
}

// openMenu is a menu that is open over a window of GTK 3, the pointer on a line.
func (c *Canvas) openMenu(x, y float64) {
	s := c.Stage("gtk3")
	m := s.menu()
	m.kids[1].pointedAt("default", "left_ptr")
	s.measure(m)
	s.put(m, x, y, max(m.minW, 150), 0)
	c.mark(desk.FacetWidgets, "gtk3", x, y, max(m.minW, 150), m.minH)
}

// padded keeps a part away from the edges of its parent, as a program does that
// sets a border of its own.
func padded(p *part, by float64) *part {
	gap := func() *part { return node("box").sized(by, by) }
	return node("box.horizontal", gap(), node("box.vertical", gap(), p.growing(), gap()).column(0).growing(), gap()).row(0)
}

// drawControls shows every usual control of GTK 3 and GTK 4 in its states.
func drawControls(c *Canvas) {
	c.backdrop()
	top, bottom := c.room()
	half := float64(c.w-60) / 2
	for i, surface := range []string{"gtk3", "gtk4"} {
		s := c.Stage(surface)
		t, _ := c.D.Surface(surface)
		root := s.window(t.Title, c.look.Of(desk.FacetWidgets, surface), []*part{s.iconButton("", "go-previous-symbolic"), s.button(".suggested-action", "Do it")}, s.sampler())
		s.measure(root)
		s.paintWindow(root, 20+float64(i)*(half+20), float64(top+18), half, min(float64(bottom-top-36), root.minH))
	}
	c.drawBars()
}

// focused has the keyboard; what is inside it has not, but for the text of a GTK 4 entry:
// that has it, and the entry only has it within (gtkwindow.c of 4.8).
func focused(p *part) *part {
	for _, k := range p.kids {
		if k.node.Name == "text" {
			mark(p, "focus-within")
			focused(k)
			return p
		}
	}
	p.node.States = append(p.node.States, "focus", "focus-visible", "focus-within")
	return p
}

func in(state string, p *part) *part { mark(p, state); return p }

// sampler is a page with the usual controls.
func (s *Stage) sampler() *part {
	line := func(kids ...*part) *part { return node("box.horizontal", kids...).row(10) }
	buttons := line(s.button("", "Plain"), in("hover", s.button("", "Over")).pointedAt("default", "left_ptr"), in("active", s.button("", "Pressed")), in("checked", s.button(".toggle", "Chosen")), in("disabled", s.button("", "Off")))
	acts := line(s.button(".suggested-action", "Suggested"), s.button(".destructive-action", "Destructive"), s.button(".flat", "Flat"), focused(s.button("", "In focus")), in("link", in("hover", s.button(".link.flat", "A link"))).pointedAt("pointer", "hand2", "hand1"))
	entries := line(s.entry("", "Low water 06:40"), s.spin("12"), focused(s.entry("", "being typed")).pointedAt("text", "xterm"), in("disabled", s.entry("", "not now")))
	marks := line(s.tick("check", "Off", ""), s.tick("check", "On", "checked"), s.tick("radio", "One", ""), s.tick("radio", "Other", "checked"), in("disabled", s.tick("check", "Not now", "checked")), node("box").growing(), s.toggle(""), s.toggle("checked"))
	sliders := line(s.scale(0.4).growing(), s.progress(0.6).growing())
	tabs := s.notebook()
	rows := node("list.frame", s.row("A line", ""), s.row("The pointer is over it", "hover"), s.row("A chosen line", "selected"), s.row("A line that is off", "disabled")).column(0).growing()
	menu := s.menu()
	info := s.infobar("warning", "The tide turns in ten minutes.", "Show")
	fail := s.infobar("error", "The tide gauge does not answer.", "Again")
	tip := s.tooltip("A tip beside the pointer")
	return padded(node("box.vertical", buttons, acts, entries, marks, sliders, node("box.horizontal", tabs.growing(), menu).row(14), node("box.horizontal", rows, tip).row(14), info, fail).column(13), 16)
}

func (s *Stage) entry(classes string, label say.Word) *part {
	inner := text("text", label)
	if s.surface != "gtk4" {
		e := text("entry"+classes, label)
		return e.growing().sized(90, 0).small()
	}
	return node("entry"+classes, inner.growing()).growing().sized(90, 0).small()
}

func (s *Stage) spin(value string) *part {
	down, up := node("button.image-button.down", picture("image", "list-remove-symbolic", 16)), node("button.image-button.up", picture("image", "list-add-symbolic", 16))
	inner := text("entry", say.Word(value))
	if s.surface == "gtk4" {
		down.kids[0].icon, up.kids[0].icon = "value-decrease-symbolic list-remove-symbolic", "value-increase-symbolic list-add-symbolic"
		inner = text("text", say.Word(value))
	}
	p := node("spinbutton.horizontal", inner.growing().sized(34, 0), down, up).row(0).small()
	if s.inGTK3 { // gtkentry.c of 3.24 writes in the style of the widget, which this is
		inner.writes = p
	}
	return p
}

func (s *Stage) tick(kind string, label say.Word, state string) *part {
	own := check3
	if kind == "radio" {
		own = option3
	}
	box := s.sign(kind, 16, own)
	if state != "" {
		box.node.States = append(box.node.States, state)
	}
	holder := kind + "button"
	if s.surface == "gtk4" {
		holder = "checkbutton"
	}
	p := node(holder, box).row(0)
	if label != "" {
		p = node(holder+".text-button", box, text("label", label)).row(0)
	}
	if state != "" {
		p.node.States = append(p.node.States, state)
	}
	return p.small()
}

func (s *Stage) toggle(state string) *part {
	slider := node("slider")
	slider.usual, slider.flat = 36, 22 // gtkswitch.c of GTK 3.24
	on, off := picture("image", "switch-on-symbolic", 16), picture("image", "switch-off-symbolic", 16)
	sw := node("switch", on, off, slider).small()
	if state != "" {
		mark(sw, state)
	}
	sw.stack = true
	on.half, off.half, slider.half = 1, 2, 1
	if state == "checked" {
		slider.half = 2
	}
	return sw
}

func (s *Stage) scale(at float64) *part {
	highlight, slider := node("highlight.top"), node("slider")
	trough := node("trough", highlight, slider).growing().small()
	holder := node("scale.horizontal", trough).sized(120, 0).small()
	if s.surface != "gtk4" {
		holder = node("scale.horizontal", node("contents", trough).growing().small()).sized(120, 0).small()
	}
	trough.stack = true
	highlight.share(at)
	slider.at(at)
	return holder
}

func (s *Stage) progress(at float64) *part {
	done := node("progress.left")
	trough := node("trough", done).growing()
	trough.stack = true
	done.meter, done.portion = true, at
	return node("progressbar.horizontal", trough).sized(120, 0).small()
}

// share makes a part fill the first part of its parent; at stands it there.
func (p *part) share(of float64) { p.shared, p.portion = true, of }

func (p *part) at(of float64) { p.standing, p.portion = true, of }

func (s *Stage) notebook() *part {
	page := node("box.vertical", text("label", "High water 00:20 and 12:48"), text("label.dim-label", "Height 4.2 m over the datum")).column(4)
	n := s.tabs([]string{"Tides", "Winds", "Lamps"}, padded(page, 10))
	mark(n.kids[0].kids[0].kids[1], "hover")
	return n
}

// tabs is a notebook with its first page open.
func (s *Stage) tabs(names []string, page *part) *part {
	var tabs []*part
	for i, name := range names {
		t := node("tab", text("label", say.Word(name)).middle().growing())
		if i == 0 {
			mark(t, "checked")
		}
		tabs = append(tabs, t)
	}
	return node("notebook.frame", node("header.top", node("tabs", tabs...).row(0).growing()), node("stack", page).column(0).growing()).column(0)
}

func (s *Stage) row(label say.Word, state string) *part {
	r := node("row.activatable", text("label", label).growing())
	if state != "" {
		mark(r, state)
	}
	return r
}

func (s *Stage) menu() *part {
	item := "menuitem"
	if s.surface == "gtk4" {
		item = "modelbutton.flat"
	}
	open, over := node(item, text("label", "Open").growing()), node(item, text("label", "Open with…").growing())
	mark(over, "hover")
	off := in("disabled", node(item, text("label", "Move").growing()))
	kids := []*part{open, over, node("separator.horizontal"), off}
	if s.surface == "gtk4" {
		return node("popover.background.menu", node("contents", node("box.vertical", kids...).column(0).sized(110, 0)).column(0)).column(0)
	}
	return menuOf(kids...).sized(110, 0)
}

// menuOf is a menu of GTK 3: what is in it goes by its padding, whatever its border
// (gtkmenu.c, get_menu_padding).
func menuOf(kids ...*part) *part {
	m := node("menu", kids...).column(0)
	m.padded = true
	return m
}

// menuWith is a menu of GTK 3 with all that there may be in it.
func (s *Stage) menuWith() *part {
	item := func(state string) *part {
		p := node("menuitem", text("label", "       ").growing())
		if state != "" {
			mark(p, state)
		}
		return p
	}
	ticked := node("menuitem", in("checked", s.sign("check", 16, nil)), text("label", "       ").growing()).row(0)
	return menuOf(item(""), item("hover"), node("separator.horizontal"), ticked, item("disabled"))
}

func (s *Stage) infobar(kind string, label, act say.Word) *part {
	press := s.button("", say.Word(act))
	words := node("box.horizontal", text("label", say.Word(label)).growing()).growing()
	if s.surface == "gtk4" { // its room is the style's
		content := node("box.horizontal", words, node("box.horizontal", press).row(0)).row(0).growing()
		return node("infobar."+kind, node("revealer", content).growing())
	}
	press.leastW, press.leastH = 85, 27 // gtkbbox.c
	content := node("box.horizontal", padded(words, 8).growing(), padded(node("buttonbox.horizontal", press), 6)).row(0).growing()
	return node("infobar.horizontal."+kind, node("revealer", content).growing())
}

func (s *Stage) tooltip(label say.Word) *part {
	return node("tooltip.background", node("box.horizontal", text("label", say.Word(label)))).small()
}
