package gtkcss

import (
	"cmp"
	"path"
	"strings"

	"github.com/tdewolff/parse/v2/css"
)

// gradient is a linear, radial or conic gradient (css-images-3, section 3).
type gradient struct {
	form      string // linear, radial, conic
	repeating bool
	side      string // "to right"; empty if an angle is given or nothing
	angle     number
	angled    bool
	shape     string // of a radial one: "circle", "ellipse"
	size      value  // closest-side …, or lengths
	position  value
	stops     []stop
	old       string // the head of one in GTK 3's older form
}

type stop struct {
	colour value
	at     number
	placed bool
}

func (g gradient) compute(c *against) value {
	g.angle = g.angle.compute(c).(number)
	if g.size != nil {
		g.size = g.size.compute(c)
	}
	if g.position != nil {
		g.position = g.position.compute(c)
	}
	stops := make([]stop, len(g.stops))
	for i, s := range g.stops {
		stops[i] = stop{s.colour.compute(c), s.at.compute(c).(number), s.placed}
	}
	g.stops = stops
	return g
}

func (g gradient) text() string {
	var b strings.Builder
	if g.old != "" {
		b.WriteString("-gtk-gradient (" + g.old)
		for _, s := range g.stops {
			switch s.at.pct {
			case 0:
				b.WriteString(", from (" + s.colour.text() + ")")
			case 100:
				b.WriteString(", to (" + s.colour.text() + ")")
			default:
				b.WriteString(", color-stop (" + number{n: s.at.pct / 100}.text() + ", " + s.colour.text() + ")")
			}
		}
		return b.String() + ")"
	}
	if g.repeating {
		b.WriteString("repeating-")
	}
	b.WriteString(g.form + "-gradient(")
	head := ""
	switch {
	case g.form == "linear" && g.side != "" && g.side != "to bottom":
		head = g.side
	case g.form == "linear" && g.angled:
		head = g.angle.text()
	case g.form == "radial":
		head = g.shape
		if g.size != nil {
			head = strings.TrimSpace(head + " " + g.size.text())
		}
		if g.position != nil {
			head += " at " + g.position.text()
		}
	case g.form == "conic":
		if g.angled {
			head = "from " + g.angle.text()
		}
		if g.position != nil {
			head = strings.TrimSpace(head + " at " + g.position.text())
		}
	}
	b.WriteString(head)
	for i, s := range g.stops {
		if i > 0 || head != "" {
			b.WriteString(", ")
		}
		b.WriteString(s.colour.text())
		if s.placed {
			b.WriteString(" " + s.at.text())
		}
	}
	return b.String() + ")"
}

// picture is an image that is a file, an icon or one colour, or made from
// others.
type picture struct {
	how   string  // url, image, -gtk-icontheme, -gtk-scaled, -gtk-recolor, cross-fade
	file  string  // of url and -gtk-recolor: where the sheet that says it stands, and the address
	of    []value // of the others
	share number  // of cross-fade
	has   bool
}

func (p picture) compute(c *against) value {
	p.of = computeAll(p.of, c)
	return p
}

func (p picture) text() string {
	switch p.how {
	case "url", "-gtk-icontheme":
		return p.how + `("` + p.file + `")`
	case "-gtk-recolor":
		out := `-gtk-recolor(url("` + p.file + `")`
		if len(p.of) > 0 {
			out += ", " + joined(p.of, ", ")
		}
		return out + ")"
	case "cross-fade":
		out := "cross-fade("
		if p.has {
			out += p.share.text() + " "
		}
		return out + joined(p.of, ", ") + ")"
	}
	return p.how + "(" + joined(p.of, ",") + ")"
}

// readImage reads one image, or none.
func readImage(r *reader) (value, bool) {
	if _, ok := r.word("none"); ok {
		return keyword("none"), true
	}
	return try(r, readPicture)
}

func readPicture(r *reader) (value, bool) {
	if !r.enter() {
		return nil, false
	}
	defer r.leave()
	if r.peek().kind == css.URLToken {
		file, ok := r.text()
		return picture{how: "url", file: file}, ok
	}
	name, ok := r.function()
	if !ok {
		return nil, false
	}
	v, ok := readPictureFunction(r, name)
	return v, ok && r.take(")")
}

// readPictureFunction reads what a function of a name is given.
func readPictureFunction(r *reader, name string) (value, bool) {
	switch name {
	case "url", "-gtk-icontheme":
		file, ok := r.text()
		return picture{how: name, file: file}, ok
	case "linear-gradient", "repeating-linear-gradient", "radial-gradient", "repeating-radial-gradient":
		return readGradient(r, name)
	case "conic-gradient":
		if r.gtk == 4 {
			return readGradient(r, name)
		}
	case "-gtk-gradient":
		if r.gtk == 3 {
			return oldGradient(r)
		}
	case "-gtk-recolor":
		return readRecoloured(r)
	case "-gtk-scaled":
		of, ok := commas(r, readScaled)
		return picture{how: name, of: of}, ok
	case "image":
		if c, ok := readColour(r); ok {
			return picture{how: name, of: []value{asWritten{c}}}, true
		}
		of, ok := commas(r, readPictureOrColour)
		return picture{how: name, of: of}, ok
	case "cross-fade":
		p := picture{how: name}
		p.share, p.has = readNumber(r, takesPercent)
		var ok bool
		p.of, ok = commas(r, readFaded)
		return p, ok
	}
	return nil, false
}

func readGradient(r *reader, name string) (value, bool) {
	form, repeating := strings.CutPrefix(strings.TrimSuffix(name, "-gradient"), "repeating-")
	g := gradient{form: form, repeating: repeating}
	ok := g.read(r)
	return g, ok
}

// readRecoloured reads the file of a symbolic picture, and the colours it takes.
func readRecoloured(r *reader) (value, bool) {
	inBrackets := false
	if r.peek().kind != css.URLToken {
		if f, is := r.function(); !is || f != "url" {
			return nil, false
		}
		inBrackets = true
	}
	file, ok := r.text()
	p := picture{how: "-gtk-recolor", file: file}
	if ok = ok && (!inBrackets || r.take(")")); ok && r.take(",") {
		p.of, ok = commas(r, readPaletteEntry)
	}
	return p, ok
}

// readScaled reads one picture of several sizes; GTK 4 tells the scale too.
func readScaled(r *reader) (value, bool) {
	if v, ok := readImage(r); ok {
		return v, true
	}
	v, ok := readNumber(r, takesNumber)
	return v, ok
}

func readPictureOrColour(r *reader) (value, bool) {
	if c, ok := readColour(r); ok {
		return asWritten{c}, true
	}
	return readPicture(r)
}

// readFaded reads one of the pictures that are faded into each other, with its share.
func readFaded(r *reader) (value, bool) {
	n, has := readNumber(r, takesPercent)
	if c, ok := readColour(r); ok {
		return asWritten{c}, true
	}
	v, ok := readImage(r)
	if ok && has {
		return words{n, v}, true
	}
	return v, ok
}

func readPaletteEntry(r *reader) (value, bool) {
	t := r.next()
	if t.kind != css.IdentToken {
		return nil, false
	}
	c, ok := readColour(r)
	return words{keyword(t.text), asWritten{c}}, ok
}

func (g *gradient) read(r *reader) bool {
	heads := map[string]func(*reader) (headed, ok bool){"linear": g.readLine, "conic": g.readTurn, "radial": g.readShape}
	headed := false
	if head := heads[g.form]; head != nil {
		var ok bool
		if headed, ok = head(r); !ok {
			return false
		}
	}
	if g.form != "linear" {
		placed, ok := g.readPlace(r)
		if !ok {
			return false
		}
		headed = headed || placed
	}
	if headed && !r.take(",") {
		return false
	}
	return g.readStops(r)
}

// readLine reads which way a linear gradient goes. headed is whether that is said.
func (g *gradient) readLine(r *reader) (headed, ok bool) {
	if t := r.peek(); r.gtk == 3 && t.kind == css.IdentToken && strings.HasPrefix(t.text, "to") && t.text != "to" {
		return false, false // it takes tomato for a direction
	}
	if _, to := r.word("to"); !to {
		a, ok := readNumber(r, takesAngle)
		if ok {
			g.angle, g.angled = a, true
		}
		return ok, true
	}
	var across, down string
	for range 2 {
		if w, ok := r.word("left", "right"); ok && across == "" {
			across = w
		} else if w, ok := r.word("top", "bottom"); ok && down == "" {
			down = w
		}
	}
	g.side = strings.TrimSpace(strings.Join(strings.Fields("to "+down+" "+across), " "))
	return true, across != "" || down != ""
}

// readTurn reads where a conic gradient begins.
func (g *gradient) readTurn(r *reader) (headed, ok bool) {
	if _, from := r.word("from"); !from {
		return false, true
	}
	g.angle, g.angled = readNumber(r, takesAngle)
	return true, g.angled
}

// readShape reads the shape and the size of a radial gradient, in any order.
func (g *gradient) readShape(r *reader) (headed, ok bool) {
	for more := true; more; headed = headed || more {
		more = false
		if w, ok := r.word("circle", "ellipse"); ok {
			g.shape, more = w, true
		}
		if w, ok := r.word("closest-side", "farthest-side", "closest-corner", "farthest-corner"); ok && g.size == nil {
			g.size, more = keyword(w), true
			continue
		}
		a, ok := readNumber(r, takesLength|takesPercent)
		if !ok {
			continue
		}
		if g.size != nil {
			return true, false
		}
		more = true
		if b, ok := readNumber(r, takesLength|takesPercent); ok {
			g.size = words{a, b}
		} else {
			g.size = words{a}
		}
	}
	if w, ok := g.size.(words); g.shape == "" && ok && len(w) == 1 {
		g.shape = "circle"
	}
	g.shape = cmp.Or(g.shape, "ellipse")
	if g.size == nil {
		g.size = keyword("farthest-corner")
	}
	return headed, true
}

// readPlace reads where the middle of a gradient is.
func (g *gradient) readPlace(r *reader) (headed, ok bool) {
	if _, at := r.word("at"); !at {
		g.position = position{px(0).half(), px(0).half()}
		return false, true
	}
	g.position, ok = readPosition(r)
	return true, ok
}

// readStops reads the colours, to the end.
func (g *gradient) readStops(r *reader) bool {
	t := takes(takesPercent | takesLength)
	if g.form == "conic" {
		t = takesPercent | takesAngle
	}
	for {
		at, before := readNumber(r, t)
		c, ok := readColour(r)
		if !ok {
			return false
		}
		s := stop{colour: asWritten{c}, at: at, placed: before}
		if at, ok := readNumber(r, t); ok && !before {
			s.at, s.placed = at, true
		}
		g.stops = append(g.stops, s)
		if at, ok := readNumber(r, t); ok { // a stop in two places
			g.stops = append(g.stops, stop{colour: s.colour, at: at, placed: true})
		}
		if !r.take(",") {
			return len(g.stops) > 1 || r.gtk == 3
		}
	}
}

// half is the middle of a box.
func (number) half() number { return number{pct: 50, sort: aPercent} }

// oldGradient reads -gtk-gradient(linear, from, to, stops…) and -gtk-gradient(
// radial, from, radius, to, radius, stops…), GTK 3's older form (GTK 3 reference,
// "GTK CSS Properties").
func oldGradient(r *reader) (value, bool) {
	form, ok := r.word("linear", "radial")
	if !ok {
		return nil, false
	}
	var ends [2][2]float64
	var radii [2]float64
	head := form
	for i := range ends {
		if !r.take(",") || !oldPoint(r, &ends[i]) {
			return nil, false
		}
		head += ", " + pointName(ends[i])
		if form != "radial" {
			continue
		}
		if !r.take(",") {
			return nil, false
		}
		if radii[i], ok = plain(r); !ok {
			return nil, false
		}
		head += ", " + number{n: radii[i]}.text()
	}
	g := gradient{form: form, old: head}
	if form == "radial" {
		g.shape, g.size, g.position = "ellipse", words{percent(radii[1]), percent(radii[1])}, position{percent(ends[1][0]), percent(ends[1][1])}
	} else {
		g.side = sideTo(ends)
	}
	for r.take(",") {
		s, ok := oldStop(r)
		if !ok {
			return nil, false
		}
		g.stops = append(g.stops, s)
	}
	return g, len(g.stops) > 0
}

func percent(f float64) number { return number{pct: f * 100, sort: aPercent} }

// oldPoint reads a point across and down, of 1.
func oldPoint(r *reader, at *[2]float64) bool {
	for j := range at {
		if w, ok := r.word("left", "right", "center", "top", "bottom"); ok {
			at[j] = map[string]float64{"left": 0, "top": 0, "center": 0.5, "right": 1, "bottom": 1}[w]
		} else if f, ok := plain(r); ok {
			at[j] = f
		} else {
			return false
		}
	}
	return true
}

// sideTo is the side that a line from one point to another leads to, "" for none.
func sideTo(ends [2][2]float64) string {
	var side []string
	switch from, to := ends[0][1], ends[1][1]; {
	case to > from:
		side = append(side, "bottom")
	case to < from:
		side = append(side, "top")
	}
	switch from, to := ends[0][0], ends[1][0]; {
	case to > from:
		side = append(side, "right")
	case to < from:
		side = append(side, "left")
	}
	if len(side) == 0 {
		return ""
	}
	return "to " + strings.Join(side, " ")
}

// oldStop reads from(colour), to(colour) or color-stop(place, colour).
func oldStop(r *reader) (s stop, ok bool) {
	name, ok := r.function()
	at := 0.0
	switch {
	case !ok:
		return stop{}, false
	case name == "from":
	case name == "to":
		at = 1
	case name == "color-stop":
		if at, ok = plain(r); !ok || !r.take(",") {
			return stop{}, false
		}
	default:
		return stop{}, false
	}
	c, ok := readColour(r)
	return stop{asWritten{c}, percent(at), true}, ok && r.take(")")
}

func pointName(p [2]float64) string {
	one := func(f float64, names [3]string) string {
		switch f {
		case 0:
			return names[0]
		case 0.5:
			return names[1]
		case 1:
			return names[2]
		}
		return number{n: f}.text()
	}
	return one(p[0], [3]string{"left", "center", "right"}) + " " + one(p[1], [3]string{"top", "center", "bottom"})
}

// position is a place in a box.
type position struct{ x, y number }

func (p position) compute(c *against) value {
	return position{p.x.compute(c).(number), p.y.compute(c).(number)}
}

func (p position) text() string {
	name := func(n number, names [3]string) (string, bool) {
		if n.px != 0 || n.sort != aPercent {
			return n.text(), false
		}
		switch n.pct {
		case 0:
			return names[0], true
		case 50:
			return names[1], true
		case 100:
			return names[2], true
		}
		return n.text(), false
	}
	x, _ := name(p.x, [3]string{"left", "center", "right"})
	y, _ := name(p.y, [3]string{"top", "center", "bottom"})
	if x == "center" && y == "center" {
		return "center"
	}
	switch {
	case y == "center":
		return x
	case x == "center" && (y == "top" || y == "bottom"):
		return y
	}
	return x + " " + y
}

func readPosition(r *reader) (value, bool) {
	return try(r, func(r *reader) (value, bool) {
		percent := func(f float64) number { return number{pct: f, sort: aPercent} }
		var p position
		if w, ok := r.word("top", "bottom"); ok {
			p.y = percent(map[string]float64{"top": 0, "bottom": 100}[w])
			p.x = percent(50)
			if w, ok := r.word("left", "center", "right"); ok {
				p.x = percent(map[string]float64{"left": 0, "center": 50, "right": 100}[w])
			}
			return p, true
		}
		if w, ok := r.word("left", "center", "right"); ok {
			p.x = percent(map[string]float64{"left": 0, "center": 50, "right": 100}[w])
			if w == "center" { // it may be about y, with x after it
				if w, ok := r.word("left", "right"); ok {
					return position{percent(map[string]float64{"left": 0, "right": 100}[w]), percent(50)}, true
				}
			}
		} else if n, ok := readNumber(r, takesPercent|takesLength); ok {
			p.x = n
		} else {
			return nil, false
		}
		p.y = percent(50)
		if w, ok := r.word("top", "center", "bottom"); ok {
			p.y = percent(map[string]float64{"top": 0, "center": 50, "bottom": 100}[w])
		} else if n, ok := readNumber(r, takesPercent|takesLength); ok {
			p.y = n
		}
		return p, true
	})
}

// beside gives the address of a picture relative to the tree.
func beside(sheet, address string) string {
	if strings.Contains(address, ":") {
		return address
	}
	if dir, ok := strings.CutPrefix(sheet, "resource://"); ok {
		return "resource://" + path.Join(path.Dir(dir), address)
	}
	return path.Join(path.Dir(sheet), address)
}
