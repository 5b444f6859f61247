package preview

import (
	"math"
	"slices"

	"ivelt/core/gtkcss"
	"ivelt/core/paint"
	"ivelt/core/say"
)

// A builder makes a part of the usual controls; what its node is called differs
// between the toolkits.

// sign is a part that shows what -gtk-icon-source says of it: a check, an arrow. GTK 3
// draws some of its own where the style says nothing; GTK 4 none.
func (s *Stage) sign(selector string, usual float64, own func(s *Stage, p *part, x, y, w, h float64)) *part {
	p := node(selector).small()
	p.usual = usual
	p.paint = func(s *Stage, x, y, w, h float64) {
		if at := rectOf(x, y, w, h); !s.painter.Source(at, p.st) && own != nil && s.surface != "gtk4" {
			s.painter.Turned(at, p.st, func() { own(s, p, x, y, w, h) })
		}
	}
	return p
}

// mark3 is the odd size of GTK 3's own marks in a box, and how far from its edge they are
// (gtkcssimagebuiltin.c).
func mark3(w, h, part float64) (x, y, pad, inner float64) {
	size := math.Floor(min(w, h))
	if math.Mod(size, 2) == 0 {
		size--
	}
	pad = 1 + max(1, math.Floor(part*(size-2)/9))
	inner = max(1, size-2*pad)
	if inner < 7 {
		pad = max(0, math.Floor((size-inner)/2))
	}
	return -math.Floor((1 + size - w) / 2), -math.Floor((1 + size - h) / 2), pad, inner
}

// check3 and option3 are the marks that GTK 3 has of its own.
func check3(s *Stage, p *part, x, y, w, h float64) {
	if !p.node.Is("checked") {
		return
	}
	dx, dy, pad, inner := mark3(w, h, 1)
	s.Printf(`<path transform="translate(%s %s) scale(%.5f)" d="M7 0L7.500 1C5.300 2 4.300 4 3.500 7C3 5.700 1.300 4.700 0 4.700L.2 3.500C1.100 3.500 2.300 4.300 3 5C1 3.900 2.400 4.100 3.200 4.900C3.500 3.100 5.200 2 7 0Z" fill="%s"/>`,
		paint.Number(x+dx+pad), paint.Number(y+dy+pad), inner/7, p.st.Colour("color").CSS())
}

func option3(s *Stage, p *part, x, y, w, h float64) {
	if !p.node.Is("checked") {
		return
	}
	dx, dy, pad, inner := mark3(w, h, 2)
	s.Printf(`<circle cx="%s" cy="%s" r="%s" fill="%s"/>`, paint.Number(x+dx+pad+inner/2), paint.Number(y+dy+pad+inner/2), paint.Number(inner/2), p.st.Colour("color").CSS())
}

// arrow3 is GTK 3's own arrow, turned by so many degrees from pointing up.
func arrow3(turn int) func(s *Stage, p *part, x, y, w, h float64) {
	return func(s *Stage, p *part, x, y, w, h float64) {
		size := min(w, h)
		if size <= 0 {
			return
		}
		wide := size / 3 / math.Sqrt2
		s.Printf(`<path transform="translate(%s %s) rotate(%d) scale(%.4f)" d="M%[5]s %[6]sl%[7]s-%[7]s %[7]s %[7]s" fill="none" stroke="%[8]s" stroke-width="%[9]s" stroke-linecap="round" stroke-linejoin="round"/>`,
			paint.Number(x+w/2), paint.Number(y+h/2), turn, size/(size+wide), paint.Number(-size/2), paint.Number(size/4), paint.Number(size/2), p.st.Colour("color").CSS(), paint.Number(wide))
	}
}

// combo is a choice that opens a list.
func (s *Stage) combo(label say.Word) *part {
	inside := node("box.horizontal", text("cellview", label).growing(), s.sign("arrow", 16, arrow3(180))).row(0).growing()
	return node("combobox", node("box.linked.horizontal", node("button.combo", inside).growing()).row(0).growing())
}

// scrollbar is one that shows a page of a whole, from a share of what is left on. side
// is a class for where it is, "" if it stands alone.
func (s *Stage) scrollbar(upright bool, side string, page, from float64) *part {
	way := "horizontal"
	if upright {
		way = "vertical"
	}
	slider := node("slider")
	trough := node("trough", slider).growing()
	trough.stack, trough.down = true, upright
	slider.page, slider.portion, slider.standing = page, from, true
	holder := "contents"
	if s.surface == "gtk4" {
		holder = "range." + way
	} else if upright { // gtkscrollbar.c: the least length of a slider
		slider.leastH = 21
	} else {
		slider.leastW = 21
	}
	inside := node(holder, trough).growing()
	inside.down = upright
	if s.surface != "gtk4" {
		inside.stepped, trough.aside = true, true
	}
	p := node("scrollbar."+way+side, inside)
	p.down = upright
	return p
}

// steppers are the buttons at the ends of a scroll bar of GTK 3, as its style asks for
// them.
func (s *Stage) steppers(bar, inside *part) {
	if inside.stepped = false; len(inside.kids) != 1 {
		return
	}
	trough := inside.kids[0]
	inside.kids = nil
	turn := map[string]int{"up": 0, "down": 180}
	if slices.Contains(bar.node.Classes, "horizontal") {
		turn = map[string]int{"up": 270, "down": 90}
	}
	add := func(setting, class string) {
		if bar.st.Text("-GtkScrollbar-has-"+setting+"-stepper") == "true" {
			inside.kids = append(inside.kids, s.sign("button."+class, 0, arrow3(turn[class])).with(func(p *part) { p.aside = false }))
		}
	}
	add("backward", "up")
	add("secondary-forward", "down")
	inside.kids = append(inside.kids, trough)
	add("secondary-backward", "up")
	add("forward", "down")
	inside.node = gtkcss.New("contents")
	for _, k := range inside.kids {
		inside.node.Add(k.node)
	}
	bar.node.Replace(inside.node)
}

// listed is what a tree view shows: the headings of its columns, and its lines.
type listed struct {
	columns []say.Word
	widths  []float64 // of the columns; the last one takes what is left
	lines   [][]string
	chosen  int      // a line, -1 for none
	icons   []string // of the lines, before what is in their first column; none without
}

// treeView is a list with headings above its columns (gtktreeview.c: each cell is a
// box of its own, in the style of the view with the line's state).
func (s *Stage) treeView(l listed) *part {
	var heads []*part
	for i, name := range l.columns {
		head := node("button", node("box.horizontal", text("label", say.Word(name))).row(0).growing())
		if i < len(l.widths) && i < len(l.columns)-1 {
			head.fixed = l.widths[i]
		} else {
			head.growing()
		}
		heads = append(heads, head)
	}
	header := node("header", heads...).row(0)
	header.bare = true
	view := node("treeview.view", header).column(0)
	view.boxUnder = func() float64 { return header.bh } // the headings stand on what is under the view
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
			if s.surface == "gtk4" {
				tall = math.Ceil(up+below) + 4
			}
			if y+tall > end {
				return
			}
			at := x
			for j, head := range heads {
				s.painter.Box(at, y, head.bw, tall, st)
				words := at + 4
				if j == 0 && i < len(l.icons) {
					s.themed(l.icons[i], math.Round(words), math.Round(y+(tall-16)/2), 16, st)
					words += 16 + 6
				}
				if j < len(line) && line[j] != "" {
					set := face.Set(line[j], st.Font().Size).Snap()
					s.line(face, set, st.Length("font-size"), st, words, y+3+math.Ceil(up))
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
	bar := s.scrollbar(true, ".right", page, from)
	if s.surface != "gtk4" { // it begins under the headings (gtkscrolledwindow.c)
		bar.beneath = func() float64 { return inside.kids[0].minH }
	}
	return node("scrolledwindow.frame", inside.growing(), bar).row(0)
}

// textView is a page of text that can be written in.
func (s *Stage) textView() *part {
	return node("textview.view", node("text").growing()).growing()
}

// expander is a heading that opens what is under it.
func (s *Stage) expander(label say.Word) *part {
	if s.surface == "gtk4" {
		title := node("title.horizontal", s.sign("expander.horizontal", 16, nil), text("label", label).growing()).row(0)
		return node("expander-widget", node("box.vertical", title).column(0).growing())
	}
	return node("expander", node("title", s.sign("arrow.horizontal", 10, nil), text("label", label).growing()).row(2).growing())
}

// levels shows a level in steps, so many of them reached.
func (s *Stage) levels(reached, of int) *part {
	var blocks []*part
	for i := range of {
		class := ".empty"
		if i < reached {
			class = ".filled"
		}
		blocks = append(blocks, node("block"+class).growing())
	}
	trough := node("trough", blocks...).row(0).growing()
	trough.evenly = true
	return node("levelbar.horizontal.discrete", trough)
}

// menuBar is a bar of menus, the pointer on one of them.
func (s *Stage) menuBar(names []say.Word, over int) *part {
	var items []*part
	for i, name := range names {
		item := node("menuitem", text("label", say.Word(name)))
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
		return barOf4("", kids, text("label", " ").growing(), nil)
	}
	return s.barOf3("", kids...)
}
