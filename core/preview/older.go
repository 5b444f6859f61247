package preview

import (
	"cmp"
	_ "embed"
	"path"
	"strings"

	_ "golang.org/x/image/webp"

	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/gtkrc"
	"ivelt/core/paint"
	"ivelt/core/reading"
	"ivelt/core/say"
	"ivelt/core/typeset"
)

// older draws a program of GTK 2 in the colours that its theme's resource file
// gives to each widget. Its frame is the shell's.
type older struct {
	*Stage
	theme *gtkrc.File
	face  *typeset.Face
	size  float64 // of text, px
}

// Older is what GTK 2 draws with.
func (c *Canvas) Older() *older {
	s := &Stage{Canvas: c, surface: "gtk2", painter: &paint.Painter{B: &c.Builder, ID: "gtk2-"}}
	font := c.look.Of(desk.FacetFont, "gtk2")
	s.family = c.familyOf(font)
	o := &older{Stage: s, theme: gtkrc.Parse(nil), size: 10 * 96.0 / 72}
	if _, pt := desk.SplitFont(font); pt >= 4 && pt <= 72 {
		o.size = pt * 96 / 72
	}
	o.face = s.Face(gtkcss.Font{Weight: 400})
	surface, _ := c.D.Surface("gtk2")
	f, _ := surface.Facet(desk.FacetWidgets)
	part, err := reading.FindTheme(c.D, f.Lookup, c.look.Of(desk.FacetWidgets, "gtk2"))
	if err != nil || part == "" {
		return o
	}
	file := desk.Name(path.Join(part, f.Lookup.File))
	if theme, err := gtkrc.Load(c.D.Tree(), file); err == nil {
		o.theme = theme
		for _, n := range theme.Notes {
			c.note(Note{c.D.Show(desk.Path(n.File)), n.Line, n.Text})
		}
	}
	return o
}

// Style is that of a widget in the window; of its engine it is told that it is
// not pictured.
func (o *older) Style(types ...string) gtkrc.Style {
	var path []gtkrc.Widget
	for _, t := range append([]string{"GtkWindow", "GtkVBox"}, types...) {
		path = append(path, gtkrc.Of(t, t))
	}
	st := o.theme.Style(path)
	if st.Engine != "" && len(o.theme.Files) > 0 {
		o.note(Note{o.D.Show(desk.Path(o.theme.Files[0])), 0, "the colours are pictured, what the engine " + st.Engine + " draws is not"})
	}
	return st
}

// OlderInk is what a widget of GTK 2 writes with, and on what.
type OlderInk struct{ Ink, Ground gtkrc.Colour }

// Older is what usual widgets of a surface of GTK 2 write with in a look, by what it
// is.
func Older(d *desk.Desk, look Look) map[string]OlderInk {
	o := NewCanvas(d, look, 1, 1).Older()
	window, button, entry, view := o.Style(), o.Style("GtkButton"), o.Style("GtkEntry"), o.Style("GtkTreeView")
	label, words := o.Style("GtkLabel"), o.Style("GtkButton", "GtkLabel")
	item, name := o.Style("GtkMenuBar", "GtkMenuItem"), o.Style("GtkMenuBar", "GtkMenuItem", "GtkLabel")
	return map[string]OlderInk{
		"text": {label.Fg[gtkrc.Normal], window.Bg[gtkrc.Normal]}, "disabled text": {label.Fg[gtkrc.Insensitive], window.Bg[gtkrc.Insensitive]},
		"buttons": {words.Fg[gtkrc.Normal], button.Bg[gtkrc.Normal]}, "a pressed button": {words.Fg[gtkrc.Active], button.Bg[gtkrc.Active]}, "disabled buttons": {words.Fg[gtkrc.Insensitive], button.Bg[gtkrc.Insensitive]},
		"typed text": {entry.Text[gtkrc.Normal], entry.Base[gtkrc.Normal]}, "selected text": {entry.Text[gtkrc.Selected], entry.Base[gtkrc.Selected]},
		"text in lists": {view.Text[gtkrc.Normal], view.Base[gtkrc.Normal]}, "the selected row": {view.Text[gtkrc.Selected], view.Base[gtkrc.Selected]},
		"a chosen entry of a menu": {name.Fg[gtkrc.Prelight], item.Bg[gtkrc.Prelight]},
	}
}

// box fills a widget's box, with a light and a dark edge that make it stand out,
// or lie in if in is set (gtkstyle.c, gtk_default_draw_shadow).
func (o *older) box(x, y, w, h float64, fill, edge gtkrc.Colour, in bool) {
	light, dark := edge.Shade(1.3).CSS(), edge.Shade(0.7).CSS()
	if in {
		light, dark = dark, light
	}
	o.Printf(`<rect x="%s" y="%s" width="%s" height="%s" fill="%s"/><path d="M%s %sv-%sh%s" fill="none" stroke="%s"/><path d="M%s %sv%sh-%s" fill="none" stroke="%s"/>`,
		paint.Number(x), paint.Number(y), paint.Number(w), paint.Number(h), fill.CSS(), paint.Number(x+0.5), paint.Number(y+h-1), paint.Number(h-1.5), paint.Number(w-1.5), light, paint.Number(x+w-0.5), paint.Number(y+1), paint.Number(h-1.5), paint.Number(w-1.5), dark)
}

// say writes a line of text, its middle at y, and returns its width.
func (o *older) say(x, y float64, text string, c gtkrc.Colour) float64 {
	line := o.Set(o.face, o.said(o.face, text), o.size).Snap()
	up, down := o.face.Heights(o.size)
	o.Glyphs(o.face, line, o.size, x, y+(up-down)/2, c.CSS())
	o.mark(desk.FacetFont, o.surface, x, y-(up+down)/2, line.Width, up+down)
	return line.Width
}

func (o *older) width(text string) float64 {
	return o.Set(o.face, o.said(o.face, text), o.size).Snap().Width
}

// drawOlder is a program of GTK 2 alone.
func drawOlder(c *Canvas) {
	c.backdrop()
	top, _ := c.room()
	if _, known := c.D.Surface("gtk2"); known {
		o := c.Older()
		o.program(20, float64(top+18), float64(c.w-40))
	}
	c.drawBars()
}

func (o *older) program(x, y, w float64) {
	line := max(o.size*1.35, 16)
	tall := max(line+6, 22)
	h := 3*line + 122 + 6*tall
	frame := o.shellFrame("Soundings", x, y, w)
	o.mark(desk.FacetWidgets, o.surface, x, y+frame, w, h)
	top := y + frame
	ground := o.theme.Style([]gtkrc.Widget{gtkrc.Of("GtkWindow", "GtkWindow")})
	o.Printf(`<rect x="%s" y="%s" width="%s" height="%s" fill="%s" stroke="%s"/>`, paint.Number(x+0.5), paint.Number(top+0.5), paint.Number(w-1), paint.Number(h-1), ground.Bg[gtkrc.Normal].CSS(), ground.Bg[gtkrc.Normal].Shade(0.6).CSS())

	// A menu bar, the pointer on its second entry.
	bar, item := o.Style("GtkMenuBar"), o.Style("GtkMenuBar", "GtkMenuItem")
	label := o.Style("GtkMenuBar", "GtkMenuItem", "GtkLabel")
	o.box(x+1, top+1, w-2, line+10, bar.Bg[gtkrc.Normal], bar.Bg[gtkrc.Normal], false)
	at := x + 6
	for i, name := range []string{"File", "View", "Depths", "Help"} {
		wide := o.width(name) + 14
		st := gtkrc.Normal
		if i == 1 {
			st = gtkrc.Prelight
			o.box(at, top+4, wide, line+4, item.Bg[st], item.Bg[st], false)
		}
		o.say(at+7, top+6+line/2, name, label.Fg[st])
		at += wide
	}

	// Buttons in each state.
	row := top + line + 24
	at = x + 14
	for _, b := range []struct {
		name  string
		state gtkrc.State
	}{{"Plain", gtkrc.Normal}, {"Over", gtkrc.Prelight}, {"Pressed", gtkrc.Active}, {"Off", gtkrc.Insensitive}} {
		st, words := o.Style("GtkButton"), o.Style("GtkButton", "GtkLabel")
		wide := o.width(b.name) + 24
		o.box(at, row, wide, line+12, st.Bg[b.state], st.Bg[b.state], b.state == gtkrc.Active)
		if b.state == gtkrc.Insensitive { // the words are set into it
			o.say(at+13, row+7+line/2, b.name, words.Base[b.state])
		}
		o.say(at+12, row+6+line/2, b.name, words.Fg[b.state])
		if b.state == gtkrc.Prelight {
			o.pointerAt(o.surface, at+wide*0.7, row+line, "default", "left_ptr")
		}
		at += wide + 10
	}
	check, checked := o.Style("GtkCheckButton"), o.Style("GtkCheckButton", "GtkLabel")
	o.box(at+6, row+(line+12)/2-6.5, 13, 13, check.Base[gtkrc.Normal], check.Bg[gtkrc.Normal], true)
	o.Printf(`<path d="M%s %sl3 3l5-6" fill="none" stroke="%s" stroke-width="1.800"/>`, paint.Number(at+8.5), paint.Number(row+(line+12)/2), check.Text[gtkrc.Normal].CSS())
	o.say(at+26, row+6+line/2, "Tell me", checked.Fg[gtkrc.Normal])

	// Entries, a bar of progress.
	row += line + 26
	half := (w - 42) / 2
	entry := o.Style("GtkEntry")
	for i, e := range []struct {
		text  string
		state gtkrc.State
	}{{"Low water 06:40", gtkrc.Normal}, {"not now", gtkrc.Insensitive}} {
		ex := x + 14 + float64(i)*(half+14)
		o.box(ex, row, half, line+10, entry.Base[e.state], entry.Bg[gtkrc.Normal], true)
		if i == 0 { // part of it is chosen
			chosen := o.width("Low water")
			o.Printf(`<rect x="%s" y="%s" width="%s" height="%s" fill="%s"/>`, paint.Number(ex+6), paint.Number(row+3), paint.Number(chosen), paint.Number(line+4), entry.Base[gtkrc.Selected].CSS())
			o.say(ex+6, row+5+line/2, "Low water", entry.Text[gtkrc.Selected])
			o.say(ex+6+chosen, row+5+line/2, " 06:40", entry.Text[gtkrc.Normal])
			continue
		}
		o.say(ex+6, row+5+line/2, e.text, entry.Text[e.state])
	}
	row += line + 22
	bars := o.Style("GtkProgressBar")
	o.box(x+14, row, w-28, 18, bars.Bg[gtkrc.Normal], bars.Bg[gtkrc.Normal], true)
	o.box(x+16, row+2, (w-32)*0.6, 14, bars.Bg[gtkrc.Prelight], bars.Bg[gtkrc.Prelight], false)

	// A list with icons, one line chosen.
	row += 30
	view := o.Style("GtkTreeView")
	lines := []struct{ icon, text string }{{"folder", "Harbour"}, {"text-x-generic", "Channel, north"}, {"text-x-generic", "Channel, south"}, {"image-x-generic", "Bar at low water"}, {"folder", "Old charts"}}
	o.box(x+14, row, w-28, tall*float64(len(lines)+1)+4, view.Base[gtkrc.Normal], view.Bg[gtkrc.Normal], true)
	head := o.Style("GtkTreeView", "GtkButton")
	o.box(x+16, row+2, w-32, tall, head.Bg[gtkrc.Normal], head.Bg[gtkrc.Normal], false)
	o.say(x+24, row+2+tall/2, "Soundings of March", head.Fg[gtkrc.Normal])
	for i, l := range lines {
		ly := row + 2 + tall*float64(i+1)
		state := gtkrc.Normal
		if i == 2 {
			state = gtkrc.Selected
			o.Printf(`<rect x="%s" y="%s" width="%s" height="%s" fill="%s"/>`, paint.Number(x+16), paint.Number(ly), paint.Number(w-32), paint.Number(tall), view.Base[state].CSS())
		}
		o.Icon(o.surface, int(x+22), int(ly+tall/2-8), 16, strings.Fields(l.icon)...)
		o.say(x+44, ly+tall/2, l.text, view.Text[state])
	}
}

// usualButtons are those of windows whose frames say nothing of them.
const usualButtons = ":minimize,maximize,close"

// shellFrame draws the frame that the shell gives to a window of a program that draws none
// itself, and returns how tall it is, px.
func (s *Stage) shellFrame(title string, x, y, w float64) float64 {
	if s.Shell == "" {
		return 0
	}
	f := s.apart(desk.FacetFrame)
	facet, of := desk.FacetFrame, s.having(desk.FacetFrame)
	if of == "" {
		facet, of = desk.FacetBar, s.Shell
	}
	before, after, _ := strings.Cut(cmp.Or(s.look.Of(desk.FacetButtons, of), usualButtons), ":")
	side := func(names string) (out []*part) {
		for name := range strings.SplitSeq(names, ",") {
			if name == "minimize" || name == "maximize" || name == "close" {
				out = append(out, node("button."+name, picture("image", "window-"+name+"-symbolic", 16)).small())
			}
		}
		return out
	}
	kids := append(append(side(before), text("label.title", say.Word(title)).growing().middle()), side(after)...)
	bar := node("frame", kids...).row(4)
	f.measure(bar)
	frame := max(bar.minH, 28)
	f.put(bar, x, y, w, frame)
	if s.look.Of(desk.FacetButtons, of) != "" { // which moves its title too
		s.mark(desk.FacetButtons, of, x, y, w, frame)
	}
	s.mark(facet, of, x, y, w, frame)
	return frame
}
