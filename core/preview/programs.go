package preview

import (
	"cmp"
	"fmt"
	"math"
	"path"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/say"
)

// toolkits of the scenes that show both.
var toolkits = []string{"gtk3", "gtk4"}

// drawLists shows what programs hold things in: a menu bar with an open menu, a list with
// headings and a scroll bar, a choice with its open list, and text with some of it chosen.
func drawLists(c *Canvas) {
	c.backdrop()
	top, bottom := c.room()
	half := math.Floor(float64(c.w-60) / 2)
	for i, surface := range toolkits {
		s := c.Stage(surface)
		tools := []*part{
			node("box.linked.horizontal", s.iconButton("", "go-previous-symbolic"), in("disabled", s.iconButton("", "go-next-symbolic"))).row(0).small(),
			node("box.linked.horizontal", s.button(".text-button", "Pier"), in("checked", s.button(".toggle", "Log"))).row(0).small(),
		}
		bar := s.menuBar([]say.Word{"File", "View", "Tide", "Help"}, 1)
		days := s.scrolled(s.treeView(tides(c)), 0.4, 0.2)
		days.grow = true
		choice := s.combo("Low water")
		below := node("box.horizontal", s.expander("More about the gauge").small(), node("box").growing(), s.levels(3, 5).sized(120, 0).small(), choice).row(16)
		note := s.scrolled(s.written([]string{"The glass fell in the night and stood at", "1003 by six. Wind west, four, with rain", "over the bar; the lamp was lit at dusk."}, 1, 4, 22), 0.6, 0)
		note.node.Classes = append(note.node.Classes, "frame")
		note.leastH = 92
		last := node("box.horizontal", s.calendar().small(), note.growing()).row(12)
		inside := node("box.vertical", padded(node("box.vertical", days, below, last).column(12), 12).growing()).column(0).growing()
		root := s.window("Tide Log", c.look.Of(desk.FacetWidgets, surface), tools, node("box.vertical", bar, inside).column(0))
		s.measure(root)
		x, y := 20+float64(i)*(half+20), float64(top+18)
		s.paintWindow(root, x, y, half, float64(bottom-top-36))

		open := bar.kids[1]
		m := s.viewMenu()
		s.over(m, open.x, open.y+open.bh)
		list := s.choices([]say.Word{"High water", "Low water", "Range", "Surge"}, 1)
		list.leastW = choice.bw
		s.over(list, choice.x, choice.y+choice.bh)
	}
	c.drawBars()
}

// over puts a part on top of what is drawn, as large as it has to be.
func (s *Stage) over(p *part, x, y float64) {
	s.measure(p)
	w := max(p.minW, p.leastW)
	s.put(p, x, y, w, 0)
	s.Canvas.mark(desk.FacetWidgets, s.surface, x, y, w, p.minH)
}

// tides are the lines of a list that is pictured.
func tides(*Canvas) listed {
	l := listed{columns: []say.Word{"Day", "High water", "Low water", "Wind"}, widths: []float64{110, 120, 120, 0}, chosen: 7}
	for i, day := range []string{"Saturday", "Sunday", "Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday", "Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday", "Monday", "Tuesday", "Wednesday", "Thursday", "Friday"} {
		at := 380 + 49*i // minutes; a tide comes some 50 minutes later each day
		l.lines = append(l.lines, []string{day, clock(at), clock(at + 372), []string{"west, 4", "west, 5", "south-west, 6", "south, 3", "calm"}[i%5]})
	}
	return l
}

func clock(minutes int) string {
	minutes %= 24 * 60
	return fmt.Sprintf("%02d:%02d", minutes/60, minutes%60)
}

// viewMenu is an open menu with marks, icons and another menu behind a line.
func (s *Stage) viewMenu() *part {
	type line struct {
		mark, icon, label, key, state string
		more                          bool
	}
	lines := []line{
		{mark: "check", label: "Tool bar", state: "checked"}, {mark: "check", label: "Side bar", key: "F9"}, {},
		{mark: "radio", label: "By day", state: "checked"}, {mark: "radio", label: "By height"}, {},
		{icon: "view-refresh view-refresh-symbolic", label: "Read again", key: "F5", state: "hover"}, {icon: "document-print document-print-symbolic", label: "Print", key: "Ctrl+P"}, {icon: "edit-delete edit-delete-symbolic", label: "Throw away", state: "disabled"}, {},
		{label: "Units", more: true},
	}
	item := "menuitem"
	if s.surface == "gtk4" {
		item = "modelbutton.flat"
	}
	// Words begin where the widest of what stands before them ends.
	probe := s.sign("check", 16, nil)
	s.measure(node(item, probe))
	m := probe.st.Margin()
	before := max(probe.minW+m[1]+m[3], 16)
	var kids []*part
	for _, l := range lines {
		if l.label == "" {
			kids = append(kids, node("separator.horizontal"))
			continue
		}
		var in []*part
		switch {
		case l.mark != "":
			own := check3
			if l.mark == "radio" {
				own = option3
			}
			in = append(in, s.sign(l.mark, 16, own))
		case l.icon != "":
			in = append(in, picture("image", l.icon, 16).small(), node("box").sized(max(before-16-6, 0), 0))
		default:
			in = append(in, node("box").sized(before, 16))
		}
		in = append(in, text("label", say.Word(l.label)).growing())
		if l.key != "" {
			in = append(in, text("accelerator.dim-label", say.Word(l.key)))
		}
		if l.more {
			in = append(in, s.sign("arrow.right", 16, arrow3(90)))
		}
		p := node(item, in...).row(6)
		if l.state != "" {
			mark(p, l.state)
		}
		kids = append(kids, p)
	}
	if s.surface == "gtk4" {
		return node("popover.background.menu", node("contents", node("box.vertical", kids...).column(0).sized(190, 0)).column(0)).column(0).with(func(p *part) { p.bare = true })
	}
	return menuOf(kids...).sized(190, 0)
}

// choices is the open list of a choice.
func (s *Stage) choices(names []say.Word, over int) *part {
	item := "menuitem"
	if s.surface == "gtk4" {
		item = "modelbutton.flat"
	}
	var kids []*part
	for i, name := range names {
		p := node(item, text("label", say.Word(name)).growing())
		if i == over {
			mark(p, "hover")
			p.pointedAt("default", "left_ptr")
		}
		kids = append(kids, p)
	}
	if s.surface == "gtk4" {
		return node("popover.background.menu", node("contents", node("box.vertical", kids...).column(0)).column(0)).column(0).with(func(p *part) { p.bare = true })
	}
	return menuOf(kids...)
}

// written is a page of text, of one line some of which is chosen: from a letter to another.
func (s *Stage) written(lines []string, chosen, from, to int) *part {
	selection := node("selection")
	inside := node("text", selection).growing()
	selection.bare, selection.aside = true, true
	view := node("textview.view", inside)
	inside.paint = func(s *Stage, x, y, w, h float64) {
		st := inside.st
		font, told := s.document(st.Font())
		face := s.Face(font)
		up, below := face.Heights(font.Size)
		tall := math.Ceil(up + below)
		if told != "" {
			s.Canvas.mark(desk.FacetFontDocument, told, x, y, w, h)
		}
		for i, line := range lines {
			at, top := x+6, y+4+float64(i)*tall
			if top+tall > y+h {
				return
			}
			draw := func(words string, of *gtkcss.Style) {
				set := face.Set(words, font.Size).Snap()
				if of != st {
					s.painter.Box(at, top, set.Width, tall, of)
				}
				s.line(face, set, font.Size, of, at, top+math.Ceil(up))
				at += set.Width
			}
			if i != chosen {
				draw(line, st)
				continue
			}
			letters := []rune(line)
			from, to := min(from, len(letters)), min(to, len(letters))
			draw(string(letters[:from]), st)
			draw(string(letters[from:to]), selection.st)
			draw(string(letters[to:]), st)
		}
	}
	return view
}

// drawDialogs shows what programs ask with: a file chooser, a question, and what a button
// opens over a window.
func drawDialogs(c *Canvas) {
	c.backdrop()
	top, bottom := c.room()
	half := math.Floor(float64(c.w-60) / 2)
	for i, surface := range toolkits {
		s := c.Stage(surface)
		x, y := 20+float64(i)*(half+20), float64(top+16)
		tall := math.Floor(float64(bottom-top) * 0.56)
		chooser, search := s.chooser(c)
		s.measure(chooser)
		s.paintWindow(chooser, x, y, half, max(tall, chooser.minH))

		q := s.question()
		s.measure(q)
		wide := math.Round(max(q.minW, half*0.66))
		s.paintWindow(q, x+math.Round((half-wide)/2), y+max(tall, chooser.minH)+26, wide, q.minH)

		pop := s.popover()
		s.measure(pop)
		s.over(pop, search.x+search.bw-pop.minW+8, search.y+search.bh+6)
	}
	c.drawBars()
}

// chooser is a program's question which file to open, in the desk's own home; and the button
// in it that opens something.
func (s *Stage) chooser(c *Canvas) (window, opener *part) {
	cancel, open := s.button("", "Cancel"), s.button(".suggested-action.default", "Open")
	search := in("checked", s.iconButton(".toggle.popup", "edit-find-symbolic"))
	title := text("label.title", "Open a chart").growing().middle()
	var bar *part
	if s.surface == "gtk4" {
		bar = barOf4(".titlebar", []*part{cancel}, title, []*part{search, open})
	} else {
		bar = s.barOf3(".titlebar", cancel, title, search, open)
	}
	var places []*part
	for i, place := range []struct{ icon, name string }{{"document-open-recent document-open-recent-symbolic", "Recent"}, {"user-home user-home-symbolic", "Home"}, {"folder-documents folder-documents-symbolic", "Documents"}, {"folder-pictures folder-pictures-symbolic", "Pictures"}, {"drive-harddisk drive-harddisk-symbolic", "Station"}} {
		row := sidebarRow(place.icon, place.name)
		if i == 1 {
			mark(row, "selected")
		}
		places = append(places, row)
	}
	side := node("placessidebar.sidebar", node("list", places...).column(0).growing()).column(0).sized(118, 0)
	home := path.Base(c.D.HomePath)
	trail := node("box.linked.path-bar.horizontal", s.button(".toggle", "home"), in("checked", s.button(".toggle", say.Word(home)))).row(0).small()
	view := listed{columns: []say.Word{"Name", "Size", "Changed"}, widths: []float64{210, 90, 0}, chosen: 1}
	for i, e := range c.homeEntries() {
		size := ""
		if info, err := e.Info(); err == nil && !e.IsDir() {
			size = fmt.Sprintf("%d bytes", info.Size())
		}
		view.icons = append(view.icons, strings.Join(iconsFor(e), " "))
		view.lines = append(view.lines, []string{Shorten(e.Name(), 28), size, fmt.Sprintf("%d March", 21-i%20)})
	}
	list := s.scrolled(s.treeView(view), 0.7, 0)
	list.grow = true
	kind := s.combo("All files")
	right := node("box.vertical", padded(node("box.horizontal", trail, node("box").growing()).row(6), 6), list, padded(node("box.horizontal", s.tick("check", "Open it to read only", ""), node("box").growing(), kind.sized(120, 0)).row(6), 6)).column(0).growing()
	return s.inState(node(s.dialogNode("dialog"), bar, node("box.horizontal", side, right).row(0).growing()).column(0)), search
}

// dialogNode is the node of a dialog's window: GTK 3 has names of its own for them, GTK 4
// classes (gtkdialog.c and gtkmessagedialog.c of both).
func (s *Stage) dialogNode(kind string) string {
	switch {
	case s.surface != "gtk4":
		return kind + ".background.csd"
	case kind == "messagedialog":
		return "window.background.csd.dialog.message"
	}
	return "window.background.csd.dialog"
}

// question is a program's question with two answers.
func (s *Stage) question() *part {
	say := node("box.vertical", text("label.title", "Leave without keeping the chart?").middle(), text("label", "What was drawn since 06:12 is lost then.").middle()).column(8)
	no, yes := s.button("", "Stay").growing(), s.button(".destructive-action", "Leave").growing()
	for _, b := range []*part{no, yes} {
		b.kids[0].align = 0.5
	}
	acts := node("box.dialog-action-area.linked.horizontal", no, yes).row(0)
	return s.inState(node(s.dialogNode("messagedialog"), padded(node("box.dialog-vbox.vertical", say, acts).column(18), 18).growing()).column(0))
}

// popover is what a button opens over its window.
func (s *Stage) popover() *part {
	where := node("box.vertical", text("label", "Look for charts"), s.entry("", "north pier").with(func(p *part) { p.aside = false }), s.tick("check", "In what is in them too", "checked").with(func(p *part) { p.aside = false })).column(8)
	if s.surface == "gtk4" {
		return node("popover.background", node("contents", padded(where, 4)).column(0)).column(0).with(func(p *part) { p.bare = true })
	}
	return node("popover.background", padded(where, 8)).column(0)
}

// surfaceOf is the first surface of a kind that a desk has, its ID "" if it has none.
func surfaceOf(d *desk.Desk, kind string) desk.Surface {
	i := slices.IndexFunc(d.Surfaces(), func(s desk.Surface) bool { return s.Kind == kind })
	if i < 0 {
		return desk.Surface{}
	}
	return d.Surfaces()[i]
}

// drawTerminal shows the desk's terminal over its backdrop.
func drawTerminal(c *Canvas) { c.terminal(surfaceOf(c.D, "terminal").ID) }

// drawLogin shows the desk's login screen.
func drawLogin(c *Canvas) { c.Login(c.look, surfaceOf(c.D, "login")) }

// drawSandboxed shows a program that runs in a sandbox, in what it gets at of the desk, beside
// the same program outside of it.
func drawSandboxed(c *Canvas) {
	c.backdrop()
	top, bottom := c.room()
	half := math.Floor(float64(c.w-60) / 2)
	in := surfaceOf(c.D, "sandbox")
	for i, of := range []desk.Surface{in, outside(c.D, in)} {
		s := c.Stage(of.ID)
		var cells []*part
		for _, p := range c.programs() {
			cells = append(cells, node("flowboxchild", node("box.vertical", picture("image", p.Icon, 48), text("label", say.Word(p.Name)).within(88).middle()).column(4).growing()))
		}
		cells = cells[:min(len(cells), 12)]
		view := node("flowbox.view", cells...).growing().with(func(p *part) { p.cell = [2]float64{96, 84} })
		body := node("box.vertical", s.sampler(), view).column(0)
		tools := []*part{s.iconButton("", "go-previous-symbolic"), s.button(".suggested-action", "Do it")}
		root := s.window(of.Title, cmp.Or(c.look.Of(desk.FacetWidgets, of.ID), "its own style"), tools, body)
		s.measure(root)
		s.paintWindow(root, 20+float64(i)*(half+20), float64(top+18), half, float64(bottom-top-36))
	}
	c.drawBars()
}

// outside is the surface of the toolkit that programs in a sandbox are made with: the one they
// follow.
func outside(d *desk.Desk, in desk.Surface) desk.Surface {
	f, _ := in.Facet(desk.FacetWidgets)
	for _, src := range f.Sources {
		if s, ok := d.Surface(src.Path); ok && src.Format == "follows" {
			return s
		}
	}
	s, _ := d.Surface("gtk3")
	return s
}

// has reports whether a scene can be drawn on a desk.
func (s Scene) has(d *desk.Desk) bool {
	_, known := d.Surface(s.shows)
	return known || s.shows == "" || surfaceOf(d, s.shows).ID != ""
}

// ScenesOf are the scenes of a desk, the usual one first: those whose programs it has.
func ScenesOf(d *desk.Desk) []Scene {
	return slices.DeleteFunc(slices.Clone(Scenes), func(s Scene) bool { return !s.has(d) })
}

// SceneNames are the names of all scenes, in their order.
func SceneNames() string {
	var names []string
	for _, s := range Scenes {
		names = append(names, s.Name)
	}
	return strings.Join(names, ", ")
}
