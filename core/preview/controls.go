package preview

import (
	"cmp"
	_ "embed"
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"

	_ "golang.org/x/image/webp"

	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/layer"
	"ivelt/core/paint"
	"ivelt/core/say"
	"ivelt/core/typeset"
)

// part is a control, or a piece of one, to be laid out and painted in the style
// that a theme computes for its node.
type part struct {
	node   *gtkcss.Node
	label  string
	icon   string  // of the icon pack, at size; the first of several names that is found
	size   float64 // of the icon, px
	kids   []*part
	down   bool       // kids stand under each other, not beside
	gap    float64    // between kids, where no sheet says more
	grow   bool       // takes the room that is left, along its parent
	stack  bool       // kids lie over each other
	spots  []box      // where kids stand in the picture, whatever is beside them
	cell   [2]float64 // kids stand in rows of such cells; those that find no room are left out
	w, h   float64    // at least, of the content
	align  float64    // where content stands that is smaller than its room, 0–1
	fade   float64    // how opaque its own box is, 0 for fully
	aside  bool       // it keeps its own size across its parent, in the middle
	paint  func(s *Stage, x, y, w, h float64)
	most   float64  // px of the label, which is cut off with dots beyond; 0 for any
	marked string   // the facet that it is there for
	under  []string // the pointer's shape that lies over it, by the names it goes by
	// Over the others of its parent: it fills the first portion of it, or stands
	// at it.
	shared, standing bool
	meter            bool // it is the part of a progress bar that is done
	evenly           bool // its kids are equally wide
	half             int  // 1 for the left half of its parent, 2 for the right
	portion          float64
	page             float64        // of a slider in a trough: the share of it that it is long
	usual            float64        // of a sign: how large it is where the style does not say, px
	flat             float64        // how high it is then, if not as high as wide
	leastW, leastH   float64        // how large it is at least, px
	bare             bool           // it is a node without a box
	padded           bool           // its border takes no room
	stepped          bool           // it may have buttons at its ends
	boxUnder         func() float64 // how far under its top its own box begins
	beneath          func() float64 // how far under the top of its parent it begins
	fixed            float64        // how wide it is whatever is in it, px
	writes           *part          // in whose style its text is written, if not in its own

	st             *gtkcss.Style
	minW, minH     float64 // of the border box
	x, y, bw, bh   float64 // border box, once placed
	line           typeset.Line
	face           *typeset.Face
	ascent, height float64
}

// node makes a part of a node; kids are put under it in the order given.
func node(selector string, kids ...*part) *part {
	p := &part{node: gtkcss.New(selector), kids: kids}
	for _, k := range kids {
		p.node.Add(k.node)
	}
	return p
}

func text(selector string, label say.Word) *part {
	p := node(selector)
	p.label = string(label)
	return p
}

func picture(selector, icon string, size float64) *part {
	p := node(selector)
	p.icon, p.size = icon, size
	return p
}

func (p *part) within(px float64) *part { p.most = px; return p }

func (p *part) with(change func(*part)) *part { change(p); return p }

func (p *part) column(gap float64) *part { p.down, p.gap = true, gap; return p }

func (p *part) row(gap float64) *part { p.gap = gap; return p }

func (p *part) growing() *part { p.grow = true; return p }

func (p *part) sized(w, h float64) *part { p.w, p.h = w, h; return p }

func (p *part) middle() *part { p.align = 0.5; return p }

func (p *part) small() *part { p.aside = true; return p }

// Stage paints parts under one surface's theme.
type Stage struct {
	*Canvas
	surface string
	inGTK3  bool   // its parts are GTK 3 widgets
	family  string // that its programs are told to use
	sheets  []*gtkcss.Sheet
	Styles  *gtkcss.Cascade
	painter *paint.Painter

	file     string                            // the theme's sheet, "" for the toolkit's own style
	files    func(name string) ([]byte, error) // those that the theme's sheet names
	made     layer.Made                        // what is read in their stead, nil for they themselves
	pictures map[ofForm]pictureFile            // of them
}

func edges(st *gtkcss.Style) gtkcss.Box {
	b, p := st.BorderWidth(), st.Padding()
	return gtkcss.Box{b[0] + p[0], b[1] + p[1], b[2] + p[2], b[3] + p[3]}
}

// edges are how wide a part's border and padding are.
func (p *part) edges() gtkcss.Box {
	switch {
	case p.bare:
		return gtkcss.Box{}
	case p.padded:
		return p.st.Padding()
	}
	return edges(p.st)
}

// measure computes the least size of a part and of all under it.
func (s *Stage) measure(p *part) {
	p.st = s.Styles.Style(p.node)
	for _, k := range p.kids {
		if s.inGTK3 && slices.Contains(following, k.node.Name) {
			for _, state := range p.node.States {
				if !k.node.Is(state) {
					k.node.States = append(k.node.States, state)
				}
			}
		}
		if k.stepped {
			s.steppers(p, k)
		}
	}
	if s.surface == "gtk4" && !p.stack { // gtkboxlayout.c, get_spacing
		across, down := p.st.Spacing()
		if p.down {
			across = down
		}
		p.gap = max(p.gap, across)
	}
	w, h := p.w, p.h
	if p.label != "" {
		f := p.st.Font()
		p.face = s.Face(f)
		label := s.said(p.face, p.label)
		p.line = s.Set(p.face, label, f.Size).Snap()
		if p.most > 0 && p.line.Width > p.most {
			p.line = s.fitting(p.face, label, f.Size, p.most)
		}
		up, below := p.face.Heights(f.Size)
		if s.surface == "gtk4" { // it rounds the line, GTK 3 what is over and under its base
			p.ascent, p.height = up, math.Ceil(up+below)
		} else {
			p.ascent, p.height = math.Ceil(up), math.Ceil(up)+math.Ceil(below)
		}
		w, h = max(w, p.line.Width), max(h, p.height)
	}
	if p.icon != "" {
		if s.inGTK3 && p.size == usualIcon {
			p.size = s.shown(p.icon, p.st)
		}
		w, h = max(w, p.size), max(h, p.size)
	}
	switch {
	case p.usual == 0:
	case s.surface == "gtk4": // an icon of its own, whatever is drawn
		if p.flat == 0 {
			icon := p.st.Length("-gtk-icon-size")
			w, h = max(w, icon), max(h, icon)
		}
	default: // gtkbuiltinicon.c of GTK 3.24
		if p.st.Length("min-width") == 0 {
			w = max(w, p.usual)
		}
		if p.st.Length("min-height") == 0 {
			h = max(h, cmp.Or(p.flat, p.usual))
		}
	}
	along, across := 0.0, 0.0
	for i, k := range p.kids {
		s.measure(k)
		m := k.st.Margin()
		kw, kh := k.minW+m[1]+m[3], k.minH+m[0]+m[2]
		if k.half > 0 { // the other half is as wide
			kw *= 2
		}
		if k.meter { // it is drawn as high as it is, and the trough is no higher for it
			kw, kh = 0, 0
		}
		switch {
		case p.stack:
			along, across = max(along, kw), max(across, kh)
		case p.down:
			along, across = along+kh, max(across, kw)
		default:
			along, across = along+kw, max(across, kh)
		}
		if i > 0 && !p.stack {
			along += p.gap
		}
	}
	if p.cell[0] > 0 {
		along, across = p.cell[0], p.cell[1]
	}
	if p.down && !p.stack {
		w, h = max(w, across), max(h, along)
	} else {
		w, h = max(w, along), max(h, across)
	}
	e := p.edges()
	p.minW = max(w, p.st.Length("min-width")) + e[1] + e[3]
	p.minH = max(h, p.st.Length("min-height")) + e[0] + e[2]
	// With its margins no box is less than nothing (gtkcssgadget.c, gtk_css_gadget_get_preferred_size).
	m := p.st.Margin()
	p.minW, p.minH = max(p.minW, -m[1]-m[3]), max(p.minH, -m[0]-m[2])
	p.minH = max(p.minH, p.leastH)
	if p.minW = max(p.minW, p.leastW); p.fixed > 0 {
		p.minW = p.fixed
	}
}

// fitting is as much of a text as goes into a width, with dots for the rest.
func (c *Canvas) fitting(face *typeset.Face, label string, size, most float64) typeset.Line {
	letters := []rune(label)
	fits := sort.Search(len(letters), func(n int) bool { return c.Set(face, string(letters[:n+1])+"…", size).Snap().Width > most })
	return c.Set(face, strings.TrimRight(string(letters[:fits]), " ")+"…", size).Snap()
}

// place gives a part its border box and lays out what is under it.
func (s *Stage) place(p *part, x, y, w, h float64) {
	p.x, p.y, p.bw, p.bh = x, y, w, h
	e := p.edges()
	x, y, w, h = x+e[3], y+e[0], max(w-e[1]-e[3], 0), max(h-e[0]-e[2], 0)
	if p.cell[0] > 0 {
		s.placeInCells(p, x, y, w, h)
		return
	}
	if p.spots != nil {
		for i, k := range p.kids {
			at := p.spots[i]
			if k.aside { // in the middle across
				if p.down {
					at.x, at.w = at.x+(at.w-k.minW)/2, k.minW
				} else {
					at.y, at.h = at.y+(at.h-k.minH)/2, k.minH
				}
			}
			s.place(k, at.x, at.y, max(at.w, 0), max(at.h, 0))
		}
		return
	}
	left, growing := p.left(w, h)
	at := 0.0
	if growing == 0 {
		at = max(left, 0) * p.align
	}
	for _, k := range p.kids {
		more := 0.0
		if k.grow && growing > 0 {
			more = max(left, 0) / float64(growing)
		}
		m := k.st.Margin()
		if p.evenly {
			more = math.Floor(w/float64(len(p.kids))) - m[1] - m[3] - k.minW
		}
		room := box{x + m[3], y + m[0], w - m[1] - m[3], h - m[0] - m[2]}
		switch {
		case p.stack:
			room = k.over(room, box{x, y, w, h}, m, p.down)
		case p.down:
			room.y, room.h = y+at+m[0], k.minH+more
			if k.aside {
				room.x, room.w = room.x+(room.w-k.minW)/2, k.minW
			}
			at += room.h + m[0] + m[2] + p.gap
		default:
			room.x, room.w = x+at+m[3], k.minW+more
			if k.aside {
				room.y, room.h = room.y+(room.h-k.minH)/2, k.minH
			}
			at += room.w + m[1] + m[3] + p.gap
		}
		if k.beneath != nil {
			under := k.beneath()
			room.y, room.h = room.y+under, room.h-under
		}
		s.place(k, room.x, room.y, max(room.w, 0), max(room.h, 0))
	}
}

func rectOf(x, y, w, h float64) paint.Rect { return paint.Rect{X: x, Y: y, W: w, H: h} }

// box is a place in the picture.
type box struct{ x, y, w, h float64 }

// left is the room along a part that its kids leave, and how many of them grow into it.
func (p *part) left(w, h float64) (left float64, growing int) {
	left = w
	if p.down {
		left = h
	}
	for i, k := range p.kids {
		m := k.st.Margin()
		if p.down {
			left -= k.minH + m[0] + m[2]
		} else {
			left -= k.minW + m[1] + m[3]
		}
		if i > 0 {
			left -= p.gap
		}
		if k.grow {
			growing++
		}
	}
	return left, growing
}

// placeInCells puts the kids of a part in rows of cells; those that find no room are left
// out.
func (s *Stage) placeInCells(p *part, x, y, w, h float64) {
	columns := max(int(w/p.cell[0]), 1)
	spare := (w - float64(columns)*p.cell[0]) / 2
	for i, k := range p.kids {
		kx, ky := x+spare+float64(i%columns)*p.cell[0], y+float64(i/columns)*p.cell[1]
		if ky+p.cell[1] > y+h+1 {
			p.kids = p.kids[:i]
			return
		}
		m := k.st.Margin()
		s.place(k, kx+m[3], ky+m[0], p.cell[0]-m[1]-m[3], p.cell[1]-m[0]-m[2])
	}
}

// over is the room of a part that lies over the others of its parent.
func (p *part) over(room, parent box, margin gtkcss.Box, down bool) box {
	switch {
	case p.meter: // gtkprogressbar.c: as high as it must be, in the middle
		wide, high := p.minW+margin[1]+margin[3], p.minH+margin[0]+margin[2]
		long := math.Floor(wide + (parent.w-wide)*p.portion)
		room = box{parent.x + margin[3], parent.y + math.Trunc((parent.h-high)/2) + margin[0], long - margin[1] - margin[3], p.minH}
	case p.shared:
		room.w *= p.portion
	}
	if p.half > 0 {
		room.x, room.w = parent.x+float64(p.half-1)*parent.w/2+margin[3], parent.w/2-margin[1]-margin[3]
	}
	if p.standing && down {
		long := min(max(p.minH, math.Floor(parent.h*p.page)), max(room.h, 0))
		room.y, room.h = math.Floor(room.y+(room.h-long)*p.portion), long
		if p.page > 0 {
			room.x, room.w = room.x+math.Floor((room.w-p.minW)/2), p.minW
		}
	} else if p.standing {
		long := p.minW
		if p.page > 0 {
			long = min(max(long, math.Floor(parent.w*p.page)), max(room.w, 0))
			room.y, room.h = room.y+math.Floor((room.h-p.minH)/2), p.minH
		}
		room.x, room.w = room.x+(room.w-long)*p.portion, long
	}
	return room
}

// show paints a part that was placed and what is under it.
func (s *Stage) show(p *part) {
	if s.seen != nil {
		s.seen(Spot{s.surface, p.node, p.x, p.y, p.bw, p.bh, s, len(s.marks)})
	}
	if p.fade > 0 && p.fade < 1 {
		s.Printf(`<g opacity="%s">`, paint.Number(p.fade))
	}
	s.painter.Solid = s.inGTK3 && slices.Contains(gadgets, p.node.Name)
	boxTop := 0.0
	if p.boxUnder != nil && s.inGTK3 {
		boxTop = p.boxUnder()
	}
	if !p.bare && (s.surface != "gtk3" || !slices.Contains(undrawn, p.node.Name)) {
		s.painter.Box(p.x, p.y+boxTop, p.bw, p.bh-boxTop, p.st)
	}
	s.painter.Solid = false
	if p.fade > 0 && p.fade < 1 {
		s.WriteString(`</g>`)
	}
	e := p.edges()
	x, y, w, h := p.x+e[3], p.y+e[0], p.bw-e[1]-e[3], p.bh-e[0]-e[2]
	opacity := p.st.Opacity()
	if s.inGTK3 && slices.Contains(gadgets, p.node.Name) {
		opacity = 1
	}
	if opacity < 1 {
		s.Printf(`<g opacity="%s">`, paint.Number(opacity))
	}
	if p.marked != "" {
		s.mark(p.marked, s.surface, p.x, p.y, p.bw, p.bh)
	}
	if p.icon != "" {
		ix, iy := x+(w-p.size)/2, y+(h-p.size)/2
		if p.align == 0 && p.label != "" {
			ix = x
		}
		s.themed(p.icon, ix, iy, p.size, p.st)
	}
	if p.label != "" {
		tx, ty := x+(w-p.line.Width)*p.align, y+(h-p.height)/2
		st := p.st
		if p.writes != nil {
			st = p.writes.st
		}
		s.line(p.face, p.line, st.Length("font-size"), st, tx, ty+p.ascent)
		s.mark(desk.FacetFont, s.surface, tx, ty, p.line.Width, p.height)
	}
	if p.paint != nil {
		p.paint(s, x, y, w, h)
	}
	for _, k := range p.kids {
		s.show(k)
	}
	if opacity < 1 {
		s.WriteString(`</g>`)
	}
	s.outline(p)
}

// outline draws the line around a part: GTK 3 around what has the focus, GTK 4
// wherever the style has one.
func (s *Stage) outline(p *part) {
	wide, c := p.st.Length("outline-width"), p.st.Colour("outline-color")
	if wide <= 0 || c.A == 0 || s.surface != "gtk4" && (!p.node.Is("focus") || slices.Contains(withoutFocus, p.node.Name)) {
		return
	}
	box := paint.Rect{X: p.x, Y: p.y, W: p.bw, H: p.bh, Radii: p.st.Radii(p.bw, p.bh)}.Around(p.st.Length("outline-offset") + wide/2)
	dash := ""
	if p.st.Text("outline-style") == "dashed" || p.st.Text("outline-style") == "dotted" {
		dash = fmt.Sprintf(` stroke-dasharray="%s"`, paint.Number(max(wide, 1)))
	}
	s.Printf(`<path d="%s" fill="none" stroke="%s" stroke-width="%s"%s/>`, box.Path(), c.CSS(), paint.Number(wide), dash)
}

// following are the nodes of GTK 3 without a widget of their own that have its states.
var following = []string{"check", "radio", "trough", "slider", "highlight", "fill", "progress", "block", "contents", "border", "title", "header", "tabs"}

// undrawn are the widgets of GTK 3 that paint no box of their own.
var undrawn = []string{"calendar", "revealer", "cellview"}

// gadgets are the nodes that GTK 3 draws without a widget, whatever opacity they are
// told (gtkwidget.c applies it to widgets alone).
var gadgets = []string{"check", "radio", "arrow", "trough", "slider", "highlight", "fill", "progress", "block", "contents", "border", "title", "tab", "tabs", "header", "mark", "marks", "value", "indicator", "decoration", "selection", "undershoot", "overshoot"}

// withoutFocus are the controls that GTK 3 draws no line of focus around.
var withoutFocus = []string{"entry", "spinbutton", "textview", "text", "menuitem"}

// put lays a tree of parts out in a box and paints it.
func (s *Stage) put(p *part, x, y, w, h float64) {
	s.measure(p)
	if w <= 0 {
		w = p.minW
	}
	if h <= 0 {
		h = p.minH
	}
	s.place(p, x, y, w, h)
	s.show(p)
	s.point(p)
}

// point draws the pointers that lie over parts, above everything else.
func (s *Stage) point(p *part) {
	if len(p.under) > 0 {
		s.pointerAt(s.surface, p.x+p.bw*0.72, p.y+p.bh*0.62, p.under...)
	}
	for _, k := range p.kids {
		s.point(k)
	}
}

func (p *part) pointedAt(names ...string) *part { p.under = names; return p }

// Printf writes to the picture.
func (c *Canvas) Printf(format string, args ...any) { fmt.Fprintf(c, format, args...) }

// line draws a line of text, set at a size in px, as outlines of its font, its shadows under it.
func (s *Stage) line(face *typeset.Face, line typeset.Line, size float64, st *gtkcss.Style, x, y float64) {
	shadows := st.Shadows("text-shadow")
	for _, sh := range slices.Backward(shadows) {
		if sh.Colour.A == 0 {
			continue
		}
		blur := s.painter.Blur(paint.Rect{X: x + sh.X, Y: y + sh.Y - size, W: line.Width, H: size * 1.5}, s.painter.Deviation(sh.Blur))
		if blur != "" {
			s.Printf(`<g%s>`, blur)
		}
		s.Glyphs(face, line, size, x+sh.X, y+sh.Y, sh.Colour.CSS())
		if blur != "" {
			s.WriteString(`</g>`)
		}
	}
	s.Glyphs(face, line, size, x, y, st.Colour("color").CSS())
	s.decorate(face, line, size, st, x, y)
}

// decorate draws the line that a style has under its text, or through it.
func (s *Stage) decorate(face *typeset.Face, line typeset.Line, size float64, st *gtkcss.Style, x, y float64) {
	under, through := face.Lines(size)
	at, ok := map[string]typeset.Rule{"underline": under, "line-through": through}[st.Text("text-decoration-line")]
	if !ok || line.Width <= 0 {
		return
	}
	s.Printf(`<rect x="%s" y="%s" width="%s" height="%s" fill="%s"/>`, paint.Number(x), paint.Number(y+at.Top), paint.Number(line.Width), paint.Number(at.Thick), st.Colour("text-decoration-color").CSS())
}

// Glyphs draws a line of text as outlines of its font, each defined once.
func (c *Canvas) Glyphs(face *typeset.Face, line typeset.Line, size, x, y float64, fill string) {
	c.Printf(`<g fill="%s">`, fill)
	for _, g := range line.Glyphs {
		of := cmp.Or(g.Face, face)
		key := glyphKey{of, g.ID}
		k := size / of.Upem()
		id, ok := c.glyphs[key]
		if !ok {
			d := of.Outline(g.ID)
			if d == "" {
				c.glyphs[key] = ""
				continue
			}
			c.ids++
			id = fmt.Sprint("y", c.ids)
			c.glyphs[key] = id
			c.Defs.WriteString(fmt.Sprintf(`<path id="%s" d="%s"/>`, id, d))
		}
		if id != "" {
			c.Printf(`<use href="#%s" transform="matrix(%.5g 0 0 %.5g %s %s)"/>`, id, k, -k, paint.Number(x+g.X), paint.Number(y+g.Y))
		}
	}
	c.WriteString(`</g>`)
}

type glyphKey struct {
	face *typeset.Face
	id   uint32
}

// usualIcon is how large an icon in a menu or on a button is asked for, px.
const usualIcon = 16

// shown is how large GTK 3 shows an icon that is asked for at that size, px: one of a
// directory of another size only as large as it is.
func (s *Stage) shown(name string, st *gtkcss.Style) float64 {
	names := strings.Split(styled(name, st), " ")
	if plain := strings.TrimSuffix(names[0], "-symbolic"); len(names) == 1 && plain != names[0] {
		names = append(names, plain)
	}
	if icon, _, ok := s.Icons(s.surface).LookupBest(names, usualIcon, 1); ok && icon.Shown > 0 && icon.Shown <= 4*usualIcon {
		return float64(icon.Shown)
	}
	return usualIcon
}

// themed draws an icon in the colour of the text if it is a symbolic one, else
// as it is.
func (s *Stage) themed(name string, x, y, size float64, st *gtkcss.Style) {
	name = styled(name, st)
	if plain, other, regular := strings.Cut(name, " "); regular && strings.HasSuffix(other, "-symbolic") {
		if _, _, ok := s.Icons(s.surface).LookupBest([]string{plain}, int(size), 1); !ok {
			name = other
		} else {
			name = plain
		}
	}
	if strings.HasSuffix(name, "-symbolic") {
		s.symbolicAt(s.surface, x, y, size, paint.TintOf(st, st.Palette()), name)
		return
	}
	if strings.HasPrefix(name, "/") { // a picture by its path
		if uri, ok := s.Canvas.DataURI(desk.Name(name)); ok {
			s.Canvas.Printf(`<image x="%s" y="%s" width="%s" height="%s" href="%s"/>`, paint.Number(x), paint.Number(y), paint.Number(size), paint.Number(size), uri)
		}
		return
	}
	s.Canvas.Icon(s.surface, int(x+0.5), int(y+0.5), int(size), strings.Split(name, " ")...)
}

// styled is the name of an icon as -gtk-icon-style asks for it.
func styled(name string, st *gtkcss.Style) string {
	plain := strings.TrimSuffix(name, "-symbolic")
	switch {
	case strings.ContainsAny(name, "/ "):
	case st.Text("-gtk-icon-style") == "regular" && plain != name:
		return plain + " " + name
	case st.Text("-gtk-icon-style") == "symbolic":
		return plain + "-symbolic"
	}
	return name
}
