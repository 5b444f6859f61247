package preview

import (
	"fmt"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/paint"
	"ivelt/core/qtstyle"
	"ivelt/core/typeset"
)

// qt draws a program of Qt with Qt's own style, in the palette that it has.
type qt struct {
	words
	draws *qtstyle.Painter
}

// words writes the text of programs whose controls something else than a style sheet draws.
type words struct {
	*Stage
	face    *typeset.Face
	size    float64 // of text, px
	up, low float64 // of text around its line, px
}

// drawQt is a program of Qt alone.
func drawQt(c *Canvas) {
	c.backdrop()
	top, bottom := c.room()
	s := &Stage{Canvas: c, surface: "qt", painter: &paint.Painter{B: &c.Builder, ID: "qt-"}}
	font := c.look.Of(desk.FacetFont, s.surface)
	s.family = c.familyOf(font)
	q := &qt{words{Stage: s, size: 9 * 96.0 / 72}, &qtstyle.Painter{B: &c.Builder, ID: "qt"}}
	if _, pt := desk.SplitFont(font); pt >= 4 && pt <= 72 {
		q.size = pt * 96 / 72
	}
	q.face = s.Face(gtkcss.Font{Weight: 400})
	q.up, q.low = q.face.Heights(q.size)
	if style := c.look.Of(desk.FacetStyle, s.surface); style != "" && style != "Fusion" {
		c.note(Note{File: style, Text: "the colours of this style are pictured, its edges are those of Fusion"})
	}
	q.program(20, top+16, c.w-40, bottom-top-32)
	c.drawBars()
}

// line is how tall a line of text is, px.
func (q *words) line() int { return int(q.up+0.999) + int(q.low+0.999) }

func (q *words) wide(text string) int {
	return int(q.Set(q.face, q.said(q.face, text), q.size).Snap().Width + 0.999)
}

// say writes a line of text in the middle of a height, and returns where it ends.
func (q *words) say(x, y, h int, text string, c fmt.Stringer) int {
	line := q.Set(q.face, q.said(q.face, text), q.size).Snap()
	q.Glyphs(q.face, line, q.size, float64(x), float64(y)+float64(h)/2+(q.up-q.low)/2, c.String())
	q.mark(desk.FacetFont, q.surface, float64(x), float64(y), line.Width, float64(h))
	return x + int(line.Width+0.999)
}

// inMiddle writes a line of text in the middle of a box.
func (q *words) inMiddle(x, y, w, h int, text string, c fmt.Stringer) {
	q.say(x+(w-q.wide(text))/2, y, h, text, c)
}

// button draws one with its words, and returns where it ends.
func (q *qt) button(x, y int, text string, is qtstyle.State) int {
	w, h := qtstyle.Size("button", q.wide(text)+12, q.line())
	q.draws.Draw("button", is, x, y, w, h)
	q.inMiddle(x, y+shift(is&qtstyle.Down != 0), w, h, text, qtstyle.Of(is&qtstyle.Off != 0).ButtonText)
	return x + w
}

// shift is how far words move by something, px.
func shift(b bool) int {
	if b {
		return 1
	}
	return 0
}

// marked draws a check or a radio button with its words, and returns where it ends.
func (q *qt) marked(kind string, x, y int, text string, is qtstyle.State) int {
	_, h := qtstyle.Size(kind, 0, q.line())
	q.draws.Draw(kind, is, x, y+(h-14)/2, 14, 14)
	return q.say(x+14+6, y, h, text, qtstyle.Of(is&qtstyle.Off != 0).WindowText)
}

// entry draws one with a text, of which the first part is chosen.
func (q *qt) entry(x, y, w int, chosen, text string, is qtstyle.State) {
	_, h := qtstyle.Size("entry", 0, q.line())
	p := qtstyle.Of(is&qtstyle.Off != 0)
	q.draws.Draw("entry", is, x, y, w, h)
	at := x + 5
	if chosen != "" {
		q.Printf(`<rect x="%d" y="%d" width="%d" height="%d" fill="%s"/>`, at, y+3, q.wide(chosen), h-6, p.Highlight)
		at = q.say(at, y, h, chosen, p.HighlightedText)
	}
	q.say(at, y, h, text, p.Text)
}

func (q *qt) program(x, y, w, h int) {
	frame := int(q.shellFrame("Station Log", float64(x), float64(y), float64(w)))
	q.mark(desk.FacetStyle, q.surface, float64(x), float64(y+frame), float64(w), float64(h-frame))
	y, h = y+frame, h-frame
	on, line := qtstyle.Of(false), q.line()
	q.Printf(`<rect x="%d" y="%d" width="%d" height="%d" fill="%s"/>`, x, y, w, h, on.Window)

	// A menu bar, one menu of it chosen.
	_, tall := qtstyle.Size("menubar", 0, line)
	at := x
	for i, name := range []string{"File", "View", "Gauge", "Help"} {
		wide := q.wide(name) + 16
		is, ink := qtstyle.State(0), on.WindowText
		if i == 1 {
			is, ink = qtstyle.Chosen|qtstyle.Down, on.HighlightedText
		}
		q.draws.Draw("menubar", is, at, y, wide, tall)
		q.inMiddle(at, y, wide, tall, name, ink)
		at += wide
	}
	q.draws.Draw("menubar", 0, at, y, x+w-at, tall)

	// Tabs and their page.
	top := y + tall + 8
	tall = line + 12
	page := top + tall - 2
	q.draws.Draw("page", 0, x+8, page, w-16, y+h-8-page)
	at = x + 8
	for i, name := range []string{"Today", "Week", "Places"} {
		wide, is := q.wide(name)+24, qtstyle.State(0)
		if i == 0 {
			is = qtstyle.Chosen
		}
		q.draws.Draw("tab", is, at, top, wide, tall)
		q.inMiddle(at, top+shift(i > 0), wide, tall, name, on.WindowText)
		at += wide
	}
	left, right := x+20, x+w-20
	row := page + 12

	// Buttons in their states.
	at = left
	for _, b := range []struct {
		text string
		is   qtstyle.State
	}{{"Keep", qtstyle.Default | qtstyle.Focus}, {"Plain", 0}, {"Over", qtstyle.Over}, {"Pressed", qtstyle.Down}, {"Off", qtstyle.Off}} {
		end := q.button(at, row, b.text, b.is)
		if b.is == qtstyle.Over {
			defer q.pointerAt("display", float64(end-24), float64(row+line), "default", "left_ptr")
		}
		at = end + 8
	}
	row += line + 8 + 12

	// Marks.
	at = left
	for _, m := range []struct {
		kind, text string
		is         qtstyle.State
	}{{"check", "Lamp lit", qtstyle.On}, {"check", "Fog", 0}, {"check", "Locked", qtstyle.On | qtstyle.Off}, {"radio", "By day", qtstyle.On}, {"radio", "By height", 0}} {
		at = q.marked(m.kind, at, row, m.text, m.is) + 16
	}
	row += line + 5 + 10

	// What is typed and chosen.
	third := (right - left - 16) / 3
	q.entry(left, row, third, "Low", " water 06:40", qtstyle.Focus)
	_, tall = qtstyle.Size("combo", 0, line)
	q.draws.Draw("combo", 0, left+third+8, row, third, tall)
	q.say(left+third+8+6, row, tall, "High water", on.ButtonText)
	q.draws.Draw("spin", 0, right-third, row, third, tall)
	q.say(right-third+6, row, tall, "1003", on.Text)
	row += tall + 12
	half := (right - left - 12) / 2
	q.draws.Draw("slider", 0, left, row, half, 22)
	q.draws.Draw("progress", 0, right-half, row, half, 22)
	q.inMiddle(right-half, row, half, 22, "60%", on.HighlightedText)
	row += 22 + 12

	// A list with a heading, icons, and more than there is room for.
	end := y + h - 20
	q.draws.Draw("frame", 0, left, row, right-left, end-row)
	inner, scroll := right-left-2-14, right-1-14
	tall = line + 6
	share := []int{inner * 5 / 9, inner * 2 / 9, inner - inner*5/9 - inner*2/9}
	at = left + 1
	for i, name := range []string{"Entry", "Hour", "Wind"} {
		q.draws.Draw("header", 0, at, row+1, share[i], tall)
		q.say(at+6, row+1, tall, name, on.ButtonText)
		at += share[i]
	}
	q.draws.Draw("scroll", 0, scroll, row+1, 14, end-row-2)
	each := max(line, 16) + 4
	entries := []struct{ icon, text, hour, wind string }{
		{"folder", "Charts", "06:10", "west, 4"}, {"text-plain text-x-generic", "Morning watch", "06:40", "west, 4"}, {"image-png image-x-generic", "Pier at low water", "07:15", "west, 5"},
		{"text-plain text-x-generic", "Lamp oil", "08:00", "west, 5"}, {"application-pdf x-office-document", "Station rules", "08:30", "south-west, 5"}, {"audio-mpeg audio-x-generic", "Fog signal", "09:05", "south-west, 6"},
		{"text-plain text-x-generic", "Noon readings", "12:00", "south, 3"}, {"package-x-generic", "Old charts", "12:40", "calm"}, {"text-plain text-x-generic", "Glass and wind", "13:10", "calm"},
		{"image-png image-x-generic", "Swell at the bar", "14:25", "west, 3"}, {"text-plain text-x-generic", "Evening watch", "18:40", "west, 4"}, {"folder", "Letters", "19:05", "west, 4"},
	}
	for i, e := range entries {
		ly := row + 1 + tall + each*i
		if ly+each > end-1 {
			break
		}
		ink := on.Text
		if i == 2 {
			q.draws.Draw("line", qtstyle.Chosen, left+1, ly, inner, each)
			ink = on.HighlightedText
		}
		q.Icon(q.surface, left+5, ly+(each-16)/2, 16, strings.Fields(e.icon)...)
		q.say(left+26, ly, each, e.text, ink)
		q.say(left+1+share[0]+4, ly, each, e.hour, ink)
		q.say(left+1+share[0]+share[1]+4, ly, each, e.wind, ink)
	}
	q.Printf(`<rect x="%d.5" y="%d.5" width="%d" height="%d" fill="none" stroke="#000000" stroke-opacity="0.35"/>`, x, y, w-1, h-1)
}
