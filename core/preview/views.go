package preview

import (
	"math"

	"ivelt/core/gtkcss"
)

// A builder makes a part of the usual controls; what its node is called differs
// between the toolkits.

// sign is a part that shows what -gtk-icon-source says of it: a check, an arrow. The
// toolkit draws one of its own where the style says nothing.
func (s *Stage) sign(selector string, usual float64, own func(s *Stage, p *part, x, y, w, h float64)) *part {
	p := node(selector).small()
	p.usual = usual
	p.paint = func(s *Stage, x, y, w, h float64) {
		if !s.painter.Source(rectOf(x, y, w, h), p.st) && own != nil {
			own(s, p, x, y, w, h)
		}
	}
	return p
}

// arrow is one that points down, or to the end of a line.
func (s *Stage) arrow(selector, name string, usual float64) *part {
	return s.sign(selector, usual, func(s *Stage, p *part, x, y, w, h float64) {
		size := math.Floor(min(w, h))
		ownSign(s.Canvas, name, x+(w-size)/2, y+(h-size)/2, size, p.st.Colour("color").CSS())
	})
}

// combo is a choice that opens a list.
func (s *Stage) combo(label string) *part {
	inside := node("box.horizontal", text("cellview", label).growing(), s.arrow("arrow", "pan-down", 16)).row(0).growing()
	return node("combobox", node("box.linked.horizontal", node("button.combo", inside).growing()).row(0).growing())
}

// scrollbar is one that shows a page of a whole, from a share of what is left on.
func (s *Stage) scrollbar(upright bool, page, from float64) *part {
	way, side := "horizontal", "bottom"
	if upright {
		way, side = "vertical", "right"
	}
	slider := node("slider")
	trough := node("trough", slider).growing()
	trough.stack, trough.down = true, upright
	slider.page, slider.portion, slider.standing = page, from, true
	holder := "contents"
	if s.surface == "gtk4" {
		holder = "range." + way
	}
	inside := node(holder, trough).growing()
	inside.down = upright
	p := node("scrollbar."+way+"."+side, inside)
	p.down = upright
	return p
}

// listed is what a tree view shows: the headings of its columns, and its lines.
type listed struct {
	columns []string
	widths  []float64 // of the columns; the last one takes what is left
	lines   [][]string
	chosen  int // a line, -1 for none
}

// treeView is a list with headings above its columns (gtktreeview.c: each cell is a
// box of its own, in the style of the view with the line's state).
func (s *Stage) treeView(l listed) *part {
	var heads []*part
	for i, name := range l.columns {
		head := node("button", node("box.horizontal", text("label", name)).row(0).growing())
		if i < len(l.widths) && i < len(l.columns)-1 {
			head.fixed = l.widths[i]
		} else {
			head.growing()
		}
		heads = append(heads, head)
	}
	header := node("header", heads...).row(0)
	view := node("treeview.view", header).column(0)
	cells := map[bool]*gtkcss.Node{}
	view.paint = func(s *Stage, x, y, w, h float64) {
		y += header.bh
		end := y + h - header.bh
		for i, line := range l.lines {
			cell := cells[i == l.chosen]
			if cell == nil {
				cell = gtkcss.New("treeview.view.cell")
				if i == l.chosen {
					cell.States = append(cell.States, "selected")
				}
				cell.States = append(cell.States, view.node.States...)
				cell.Hidden = true
				if above := view.node.Parent(); above != nil {
					above.Add(cell)
				}
				cells[i == l.chosen] = cell
			}
			st := s.Styles.Style(cell)
			face := s.Face(st.Font())
			up, below := face.Heights(st.Font().Size)
			tall := math.Ceil(up) + math.Ceil(below) + 4 + 2 // ypad of the text, twice, and the space between lines
			if y+tall > end {
				return
			}
			at := x
			for j, head := range heads {
				s.painter.Box(at, y, head.bw, tall, st)
				if j < len(line) && line[j] != "" {
					set := face.Set(line[j], st.Font().Size).Snap()
					s.line(face, set, st, at+4, y+3+math.Ceil(up))
				}
				at += head.bw
			}
			y += tall
		}
	}
	return view
}

// scrolled puts a view into a frame with a scroll bar.
func (s *Stage) scrolled(inside *part, page, from float64) *part {
	return node("scrolledwindow.frame", inside.growing(), s.scrollbar(true, page, from)).row(0)
}

// textView is a page of text that can be written in.
func (s *Stage) textView() *part {
	return node("textview.view", node("text").growing()).growing()
}

// expander is a heading that opens what is under it.
func (s *Stage) expander(label string) *part {
	if s.surface == "gtk4" {
		title := node("title.horizontal", s.arrow("expander.horizontal", "pan-end", 16), text("label", label).growing()).row(0)
		return node("expander-widget", node("box.vertical", title).column(0).growing())
	}
	return node("expander", node("title", s.arrow("arrow.horizontal", "pan-end", 10), text("label", label).growing()).row(2).growing())
}

// levels shows a level in steps, so many of them reached.
func (s *Stage) levels(reached, of int) *part {
	var blocks []*part
	for i := range of {
		class := ".empty"
		if i < reached {
			class = ".filled.high"
		}
		blocks = append(blocks, node("block"+class).growing())
	}
	return node("levelbar.horizontal.discrete", node("trough", blocks...).row(0).growing())
}

// menuBar is a bar of menus, the pointer on one of them.
func (s *Stage) menuBar(names []string, over int) *part {
	var items []*part
	for i, name := range names {
		item := node("menuitem", text("label", name))
		if i == over {
			mark(item, "hover")
		}
		items = append(items, item)
	}
	return node("menubar", items...).row(0)
}

// headerBar is a header bar that is no title bar.
func (s *Stage) headerBar(kids ...*part) *part {
	if s.surface == "gtk4" {
		start := node("box.start.horizontal", kids...).row(6)
		return node("headerbar", node("windowhandle", node("box", start, text("label", " ").growing(), node("box.end.horizontal")).row(6).growing()).growing())
	}
	return node("headerbar", kids...).row(6)
}
