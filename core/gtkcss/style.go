package gtkcss

import (
	"slices"
	"strconv"
	"strings"
)

// Style is the computed style of a node. Lengths are in px.
type Style struct {
	values []value
	told   []*declaration
	gtk    int
}

// Box is a value for each side: top, right, bottom, left.
type Box [4]float64

// Stop is a colour of a gradient and where it stands, 0–1 of its line.
type Stop struct {
	At     float64
	Colour Colour
}

// Image is one picture of a background or a border.
type Image struct {
	Kind      string            // none, builtin, url, recolor, icon, colour, linear, radial, conic, other
	Text      string            // as it is computed
	File      string            // of url and recolor: its path in the tree, resource://… or data:…; of icon its name
	Palette   map[string]Colour // of recolor and icon: what marked parts are drawn in, "success", "warning", "error"
	Colour    Colour
	Repeating bool
	Side      string  // of linear: "to right"; empty if Angle counts
	Angle     float64 // degrees, 0 is up
	Circle    bool
	Size      string     // of radial: closest-side …, or lengths as written
	At        [2]float64 // of radial: the middle, 0–1
	Stops     []Stop     // their places are filled in
	stops     []stop
}

// Layer is one layer of a background, the topmost first.
type Layer struct {
	Image          Image
	Repeat         string
	Position, Size string // as they are computed
	Clip, Origin   string
	Blend          string // normal, multiply …
}

// Shadow is one shadow.
type Shadow struct {
	X, Y, Blur, Spread float64
	Colour             Colour
	Inset              bool
}

// Told tells whether a sheet says something of a property, and where: "" and 0
// if none does.
func (s *Style) Told(name string) (file string, line int, ok bool) {
	id, known := byName[name]
	if !known || s.told[id] == nil {
		return "", 0, false
	}
	return s.told[id].file, s.told[id].line, true
}

// Properties are the names of all properties of a generation, in a fixed order.
func Properties(gtk int) []string {
	var out []string
	for _, p := range properties {
		if (p.only == 0 || p.only == gtk) && !p.setting {
			out = append(out, p.name)
		}
	}
	return out
}

// Text is a computed value as GTK writes it.
func (s *Style) Text(name string) string {
	id, ok := byName[name]
	if !ok {
		return ""
	}
	v := s.values[id]
	if n, is := v.(number); is && name == "font-weight" && s.gtk == 3 {
		if w, ok := map[float64]string{400: "normal", 700: "bold"}[n.n]; ok {
			return w
		}
	}
	return v.text()
}

// Colour of a property whose value is one: color, background-color,
// border-top-color …
func (s *Style) Colour(name string) Colour {
	c, _ := s.values[byName[name]].(Colour)
	return c
}

// Length of a property whose value is one, percent taken of nothing.
func (s *Style) Length(name string) float64 {
	switch v := s.values[byName[name]].(type) {
	case number:
		return v.px + v.n
	case corner:
		return v.x.px
	case words:
		if n, ok := v[0].(number); ok {
			return n.px + n.n
		}
	}
	return 0
}

// Spacing is what a box of GTK 4 keeps between its parts, beside and under each other, px.
func (s *Style) Spacing() (x, y float64) {
	if v, ok := s.values[byName["border-spacing"]].(words); ok && len(v) == 2 {
		across, _ := v[0].(number)
		down, _ := v[1].(number)
		return across.px + across.n, down.px + down.n
	}
	return 0, 0
}

func (s *Style) box(names [4]string) Box {
	var out Box
	for i, name := range names {
		out[i] = s.Length(name)
	}
	return out
}

// ofSides are the names of a property of the four sides.
func ofSides(pattern string) (out [4]string) {
	for i, side := range sideNames {
		out[i] = strings.Replace(pattern, "*", side, 1)
	}
	return out
}

var paddings, margins, borderWidths = ofSides("padding-*"), ofSides("margin-*"), ofSides("border-*-width")

// Padding, Margin and BorderWidth are those of the four sides.
func (s *Style) Padding() Box     { return s.box(paddings) }
func (s *Style) Margin() Box      { return s.box(margins) }
func (s *Style) BorderWidth() Box { return s.box(borderWidths) }

// Borders are the colours of the four sides.
func (s *Style) Borders() [4]Colour {
	var out [4]Colour
	for i, side := range sideNames {
		out[i] = s.Colour("border-" + side + "-color")
	}
	return out
}

// Radii are those of the four corners, from the top left clockwise, in a box of
// a size, made smaller together where they would meet (css-backgrounds-3,
// section 5.5).
func (s *Style) Radii(width, height float64) [4][2]float64 {
	var out [4][2]float64
	for i, name := range cornerNames {
		if c, ok := s.values[byName["border-"+name+"-radius"]].(corner); ok {
			out[i] = [2]float64{max(c.x.Px(width), 0), max(c.y.Px(height), 0)}
		}
	}
	k := 1.0
	for _, pair := range [][3]int{{0, 1, 0}, {3, 2, 0}, {0, 3, 1}, {1, 2, 1}} {
		whole := width
		if pair[2] == 1 {
			whole = height
		}
		if sum := out[pair[0]][pair[2]] + out[pair[1]][pair[2]]; sum > whole && sum > 0 {
			k = min(k, max(whole, 0)/sum)
		}
	}
	for i := range out {
		out[i][0], out[i][1] = out[i][0]*k, out[i][1]*k
	}
	return out
}

// Opacity is 0–1.
func (s *Style) Opacity() float64 { return min(max(s.Length("opacity"), 0), 1) }

// Shadows of a property: box-shadow, text-shadow, -gtk-icon-shadow.
func (s *Style) Shadows(name string) []Shadow {
	l, _ := s.values[byName[name]].(list)
	var out []Shadow
	for _, v := range l {
		if sh, ok := v.(shadow); ok {
			c, _ := sh.colour.(Colour)
			out = append(out, Shadow{sh.x.px, sh.y.px, sh.blur.px, sh.spread.px, c, sh.inset})
		}
	}
	return out
}

// Layers are the pictures of the background, the topmost first.
func (s *Style) Layers() []Layer {
	images, _ := s.values[byName["background-image"]].(list)
	nth := func(name string, i int) string {
		l, _ := s.values[byName[name]].(list)
		if len(l) == 0 {
			return ""
		}
		return l[i%len(l)].text()
	}
	var out []Layer
	for i, v := range images {
		if v == keyword("none") {
			continue
		}
		out = append(out, Layer{s.image(v, "background-image"), nth("background-repeat", i), nth("background-position", i), nth("background-size", i), nth("background-clip", i), nth("background-origin", i), nth("background-blend-mode", i)})
	}
	return out
}

// Image of a property whose value is one: border-image-source, -gtk-icon-source.
func (s *Style) Image(name string) Image { return s.image(s.values[byName[name]], name) }

func (s *Style) image(v value, property string) Image {
	out := Image{Kind: "other", Text: v.text()}
	switch v := v.(type) {
	case keyword:
		out.Kind = string(v)
	case gradient:
		out.Kind, out.Repeating, out.Side = v.form, v.repeating, v.side
		if !v.angled && v.side == "" {
			out.Side = "to bottom"
		}
		out.Angle, out.Circle = v.angle.n, v.shape == "circle"
		if v.size != nil {
			out.Size = v.size.text()
		}
		out.At = [2]float64{0.5, 0.5}
		if p, ok := v.position.(position); ok {
			out.At = [2]float64{p.x.pct / 100, p.y.pct / 100}
		}
		out.stops, out.Stops = v.stops, placed(v.stops, 0)
	case picture:
		switch {
		case v.how == "url" || v.how == "-gtk-recolor":
			if out.Kind = "url"; v.how == "-gtk-recolor" {
				out.Kind, out.Palette = "recolor", s.palette(v.of)
			}
			file, _, _ := s.Told(property)
			out.File = beside(file, v.file)
		case v.how == "-gtk-icontheme":
			out.Kind, out.File, out.Palette = "icon", v.file, s.palette(nil)
		case v.how == "image" && len(v.of) > 0:
			if c, ok := v.of[0].(Colour); ok {
				out.Kind, out.Colour = "colour", c
			} else {
				return s.image(v.of[0], property)
			}
		case v.how == "-gtk-scaled" && len(v.of) > 0:
			return s.image(v.of[0], property)
		}
	}
	return out
}

// palette is what marked parts of a symbolic picture are drawn in: what the picture
// itself says, or else the style's palette.
func (s *Style) palette(own []value) map[string]Colour {
	entries, _ := s.values[byName["-gtk-icon-palette"]].(list)
	if len(own) > 0 {
		entries = own
	}
	out := map[string]Colour{}
	for _, v := range entries {
		if w, ok := v.(words); ok && len(w) == 2 {
			out[w[0].text()], _ = w[1].(Colour)
		}
	}
	return out
}

// Palette is what marked parts of symbolic icons are drawn in, by the mark.
func (s *Style) Palette() map[string]Colour { return s.palette(nil) }

// Slice is where a picture is cut for a border: a number of its px, or a share.
type Slice struct {
	Px, Share float64
}

// Of is the length of a whole that is cut off.
func (c Slice) Of(whole float64) float64 { return min(c.Px+c.Share*whole, whole) }

// BorderImage is the picture that is drawn instead of a border.
type BorderImage struct {
	Image  Image
	Slices [4]Slice
	Fill   bool       // the middle is drawn too
	Widths [4]float64 // of the border that it makes, px
	Repeat [2]string  // across and down: stretch, repeat, round, space
}

// BorderImage returns it for a box of a size, and whether there is one
// (css-backgrounds-3, section 6).
func (s *Style) BorderImage(width, height float64) (BorderImage, bool) {
	out := BorderImage{Image: s.Image("border-image-source")}
	if out.Image.Kind == "none" || out.Image.Kind == "" {
		return out, false
	}
	slices, _ := s.values[byName["border-image-slice"]].(words)
	if n := len(slices); n > 0 && slices[n-1] == keyword("fill") {
		out.Fill, slices = true, slices[:n-1]
	}
	widths, _ := s.values[byName["border-image-width"]].(words)
	if len(slices) == 0 || len(widths) == 0 || len(slices) > 4 || len(widths) > 4 {
		return out, false
	}
	border := s.BorderWidth()
	for i := range 4 {
		if n, ok := slices[spread[len(slices)-1][i]].(number); ok {
			out.Slices[i] = Slice{n.px + n.n, n.pct / 100}
		}
		n, ok := widths[spread[len(widths)-1][i]].(number)
		whole := []float64{height, width}[i%2]
		switch {
		case !ok: // auto
			out.Widths[i] = border[i]
		case n.sort == plainNumber:
			out.Widths[i] = n.n * border[i]
		default:
			out.Widths[i] = n.Px(whole)
		}
	}
	for _, pair := range [2][2]int{{0, 2}, {3, 1}} {
		whole := []float64{height, width}[pair[0]%2]
		if a, b := out.Widths[pair[0]], out.Widths[pair[1]]; a+b > whole && a+b > 0 {
			out.Widths[pair[0]], out.Widths[pair[1]] = a*whole/(a+b), b*whole/(a+b)
		}
	}
	repeat := strings.Fields(s.Text("border-image-repeat"))
	out.Repeat = [2]string{repeat[0], repeat[len(repeat)-1]}
	return out, true
}

// Transform is one function of a transformation: its name, "rotate", and its
// arguments, lengths in px and angles in degrees.
type Transform struct {
	Name string
	Args []float64
}

// Transforms of a property: transform, -gtk-icon-transform.
func (s *Style) Transforms(name string) (out []Transform) {
	for rest := s.Text(name); ; {
		call, after, ok := strings.Cut(rest, ")")
		function, args, is := strings.Cut(strings.TrimSpace(call), "(")
		if !ok || !is {
			return out
		}
		t := Transform{Name: function}
		for _, arg := range strings.FieldsFunc(args, func(r rune) bool { return r == ',' || r == ' ' }) {
			f, err := strconv.ParseFloat(strings.TrimRight(arg, "pxdeg"), 64)
			if err != nil {
				return nil
			}
			t.Args = append(t.Args, f)
		}
		out, rest = append(out, t), after
	}
}

// placed fills in where stops without a place stand (css-images-3, section
// 3.4.3).
func placed(stops []stop, length float64) []Stop {
	out := make([]Stop, len(stops))
	known := make([]bool, len(stops))
	for i, s := range stops {
		c, _ := s.colour.(Colour)
		out[i].Colour = c
		if s.placed {
			out[i].At, known[i] = s.at.pct/100, true
			if length > 0 {
				out[i].At += s.at.px / length
			}
		}
	}
	if len(out) == 0 {
		return nil
	}
	if !known[0] {
		known[0] = true
	}
	if last := len(out) - 1; !known[last] {
		out[last].At, known[last] = 1, true
	}
	most := 0.0
	for i := range out {
		if known[i] {
			out[i].At = max(out[i].At, most)
			most = out[i].At
		}
	}
	for i := 0; i < len(out); i++ {
		if known[i] {
			continue
		}
		next := i + slices.Index(known[i:], true)
		from := out[i-1].At
		for j := i; j < next; j++ {
			out[j].At = from + (out[next].At-from)*float64(j-i+1)/float64(next-i+1)
		}
		i = next
	}
	return out
}

// Along are the stops of a gradient on a line of a length, px: some may be placed in px.
func (i Image) Along(length float64) []Stop { return placed(i.stops, length) }

// Fill is the one colour that stands for what the node is filled with: its
// background with the middle of the gradients over it.
func (s *Style) Fill() Colour {
	out := s.Colour("background-color")
	for _, l := range slices.Backward(s.Layers()) {
		switch {
		case l.Image.Kind == "colour":
			out = l.Image.Colour.Over(out)
		case len(l.Image.Stops) > 0:
			out = middle(l.Image.Stops).Over(out)
		}
	}
	return out
}

// middle is the colour half the way along stops.
func middle(stops []Stop) Colour {
	i := slices.IndexFunc(stops, func(s Stop) bool { return s.At >= 0.5 })
	switch {
	case i == 0:
		return stops[0].Colour
	case i < 0:
		return stops[len(stops)-1].Colour
	}
	from, to := stops[i-1], stops[i]
	return mixColours(from.Colour, to.Colour, (0.5-from.At)/(to.At-from.At))
}

// Pictured tells whether more than plain colours and gradients over all of it fill the node:
// pictures, gradients in a part of it, patterns.
func (s *Style) Pictured() bool {
	for _, l := range s.Layers() {
		whole := l.Size == "" || l.Size == "auto" || l.Size == "auto auto" || l.Size == "100% 100%" || l.Size == "cover"
		if l.Image.Kind != "colour" && (l.Image.Kind != "linear" || l.Image.Repeating || !whole) {
			return true
		}
	}
	_, has := s.BorderImage(100, 100)
	return has
}

// Font is what text is set in.
type Font struct {
	Families []string
	Size     float64 // px
	Weight   float64
	Italic   bool
}

// Font returns the node's.
func (s *Style) Font() Font {
	f := Font{Size: s.Length("font-size"), Weight: s.Length("font-weight"), Italic: s.Text("font-style") != "normal"}
	l, _ := s.values[byName["font-family"]].(list)
	for _, v := range l {
		if q, ok := v.(quoted); ok {
			f.Families = append(f.Families, string(q))
		}
	}
	return f
}
