package preview

import (
	"fmt"
	"math"
	"strconv"
	"time"

	"ivelt/core/gtkcss"
	"ivelt/core/paint"
	"ivelt/core/say"
)

// shownDay is the day that pictures are of.
var shownDay = time.Date(2026, time.March, 21, 0, 0, 0, 0, time.UTC)

// week are the days as a calendar heads them; it begins as in the locale C.
var week = []string{"Sun", "Mon", "Tue", "Wed", "Thu", "Fri", "Sat"}

// cell is a day of a calendar.
type cell struct {
	number        string
	other, chosen bool // of another month; the day that is chosen
}

// month are the six weeks that a calendar shows.
func month() (out [6][7]cell) {
	first := shownDay.AddDate(0, 0, 1-shownDay.Day())
	before := int(first.Weekday())
	if before == 0 { // there is always some of the month before (calendar_compute_days)
		before = 7
	}
	day := first.AddDate(0, 0, -before)
	for i := range out {
		for j := range out[i] {
			out[i][j] = cell{strconv.Itoa(day.Day()), day.Month() != shownDay.Month(), day.Equal(shownDay)}
			day = day.AddDate(0, 0, 1)
		}
	}
	return out
}

// calendar is the month of a day that is chosen.
func (s *Stage) calendar() *part {
	if s.surface == "gtk4" {
		return s.calendar4()
	}
	return s.calendar3()
}

// calendar4 has a node for each of its parts (gtkcalendar.c of 4.8).
func (s *Stage) calendar4() *part {
	arrow := func(way string) *part {
		return node("button.image-button", picture("image", "pan-"+way+"-symbolic", 16))
	}
	year := text("label.year", say.Word(fmt.Sprint(shownDay.Year()))).middle()
	head := node("header", arrow("start"), node("stack.month.horizontal", text("label", say.Word(shownDay.Month().String())).middle().growing()), node("strut").growing(), arrow("end"), arrow("start"), year, arrow("end")).row(0)
	head.kids[2], head.kids[3] = head.kids[3], head.kids[2]
	head.node = gtkcss.New("header").Add(head.kids[0].node, head.kids[1].node, head.kids[2].node, head.kids[4].node, head.kids[5].node, head.kids[6].node)
	head.kids[3].bare = true
	// Months are as wide as the widest of them.
	for m := time.January; m <= time.December; m++ {
		w, _ := s.sizeIn("header", "label", m.String())
		head.kids[1].w = max(head.kids[1].w, w)
	}
	year.w, _ = s.sizeIn("header", "label.year", year.label)

	var rows []*part
	line := func(cells []*part) {
		rows = append(rows, node("strut", cells...).row(0).with(func(p *part) { p.evenly = true }))
	}
	var names []*part
	for _, day := range week {
		names = append(names, text("label.day-name", say.Word(day)).middle())
	}
	line(names)
	for _, w := range month() {
		var cells []*part
		for _, c := range w {
			p := text("label.day-number", say.Word(c.number)).middle()
			if c.other {
				p.node.Classes = append(p.node.Classes, "other-month")
			}
			if c.chosen {
				mark(p, "selected")
			}
			cells = append(cells, p)
		}
		line(cells)
	}
	// The rows are no nodes of their own: all labels stand in the grid.
	grid := node("grid", rows...).column(0).growing()
	grid.node = gtkcss.New("grid")
	tall, wide := 0.0, 0.0
	for _, r := range rows {
		r.bare, r.grow = true, true
		for _, k := range r.kids {
			grid.node.Add(k.node)
		}
	}
	p := node("calendar.view.horizontal", head, grid).column(0)
	p.node = gtkcss.New("calendar.view").Add(head.node, grid.node)
	for _, day := range week {
		w, h := s.sizeIn("grid", "label.day-name", day)
		tall, wide = max(tall, h), max(wide, w)
	}
	for day := range 31 {
		w, h := s.sizeIn("grid", "label.day-number", strconv.Itoa(day+1))
		tall, wide = max(tall, h), max(wide, w)
	}
	for _, r := range rows {
		r.h, r.w = tall, 7*wide
	}
	return p
}

// sizeIn is how large a text in a part of a calendar is, with its margins, px. (What has no
// place in a window yet must not be measured itself.)
func (s *Stage) sizeIn(part, selector, label string) (w, h float64) {
	p := text(selector, say.Word(label))
	gtkcss.New("calendar.view").Add(gtkcss.New(part).Add(p.node))
	s.measure(p)
	m := p.st.Margin()
	return p.minW + m[1] + m[3], p.minH + m[0] + m[2]
}

// calendar3 is one node, drawn in parts with more classes and states (gtkcalendar.c of 3.24).
func (s *Stage) calendar3() *part {
	p := node("calendar")
	p.padded = true
	kin := func(selector string, states ...string) *gtkcss.Style {
		n := gtkcss.New(selector)
		n.States, n.Hidden = append(states, p.node.States...), true
		if above := p.node.Parent(); above != nil {
			above.Add(n)
		}
		return s.Styles.Style(n)
	}
	const gap, arrow = 4.0, 10.0 // vertical-separation and inner-border; arrow_width
	font := kin("calendar").Font()
	face := s.Face(font)
	up, low := face.Heights(font.Size)
	up, low = math.Ceil(up), math.Ceil(low)
	wide := func(texts ...string) (most float64) {
		for _, t := range texts {
			most = max(most, face.Set(t, font.Size).Snap().Width)
		}
		return most
	}
	var months, digits []string
	for m := time.January; m <= time.December; m++ {
		months = append(months, m.String())
	}
	for i := range 9 {
		digits = append(digits, strconv.Itoa(11*i))
	}
	monthW, yearW := wide(months...)+8, wide("2000")+8
	dayPad, namePad := kin("calendar.day-number").Padding(), kin("calendar.day-name").Padding()
	headH := up + low + 2*gap
	nameH := up + low + namePad[0] + namePad[2]
	rowH := up + low + dayPad[0] + dayPad[2]
	p.w = max(monthW+yearW+4*arrow+9, 7*(wide(append(digits, week...)...)+dayPad[1]+dayPad[3])+2*gap)
	p.h = headH + nameH + gap + 6*rowH + 2*gap
	p.paint = func(s *Stage, x, y, w, h float64) { // in its padding
		solid := s.painter.Solid
		defer func() { s.painter.Solid = solid }()
		s.painter.Solid = true
		s.painter.Box(p.x, p.y, p.bw, p.bh, kin("calendar.view"))
		write := func(text string, st *gtkcss.Style, left, top, room float64) {
			line := face.Set(text, font.Size).Snap()
			s.line(face, line, st.Length("font-size"), st, math.Floor(left+(room-line.Width)/2), top+up)
		}
		dayW := math.Floor((w - 2*gap) / 7)
		for i, days := range month() {
			for j, c := range days {
				st := kin("calendar")
				at := x + gap + float64(j)*dayW
				top := y + headH + nameH + gap + float64(i)*rowH
				switch {
				case c.other:
					st = kin("calendar", "indeterminate")
				case c.chosen:
					st = kin("calendar", "selected")
					s.painter.Ground(at, top, dayW, rowH, st)
				}
				write(c.number, st, at, top, dayW)
			}
		}
		head := kin("calendar.header")
		s.painter.Box(x, y, w, headH, head)
		top := y + math.Floor((headH-up-low)/2)
		write(shownDay.Month().String(), head, x+3+arrow, top, monthW)
		write(fmt.Sprint(shownDay.Year()), head, x+w-3-arrow-yearW, top, yearW)
		for i, left := range []float64{3, arrow + monthW, w - 3 - 2*arrow - yearW, w - 3 - arrow} {
			st := kin("calendar.button")
			s.painter.Ground(x+left, y+3, arrow, headH-7, st)
			sign := &part{st: st}
			box := paint.Rect{X: x + left + math.Floor((arrow-8)/2), Y: y + 3 + math.Floor((headH-7-8)/2), W: 8, H: 8}
			if !s.painter.Source(box, st) {
				arrow3(270+180*(i%2))(s, sign, box.X, box.Y, box.W, box.H)
			}
		}
		names := kin("calendar.highlight")
		s.painter.Ground(x+gap, y+headH+gap, w-2*gap, nameH, names)
		for i, day := range week {
			write(day, names, x+gap+float64(i)*dayW, y+headH+gap+namePad[0], dayW)
		}
	}
	return p
}
