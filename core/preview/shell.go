package preview

import (
	"bytes"
	"cmp"
	"context"
	_ "embed"
	"encoding/base64"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"io/fs"
	"math"
	"strconv"

	"golang.org/x/image/draw"
	_ "golang.org/x/image/webp"

	"ivelt/core/backdrop"
	"ivelt/core/cache"
	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/desktopentry"
	"ivelt/core/imagefile"
	"ivelt/core/paint"
	"ivelt/core/reading"
)

// shellPlain is how a shell looks that wears no theme.
//
//go:embed shell.css
var shellPlain string

// OnBar are the icons in colour on the bars of a look: names of files in the
// desk's tree, by what they stand for.
func OnBar(d *desk.Desk, look Look) map[string]string {
	c := NewCanvas(d, look, 1, 1)
	out := map[string]string{}
	if c.Shell == "" {
		return out
	}
	for _, b := range c.bars() {
		for _, i := range b.Items {
			if i.Kind != "pinned" {
				continue
			}
			for _, id := range c.pinned(i) {
				p := c.known()[id]
				if icon, _, ok := c.Icons(c.Shell).LookupBest([]string{p.Icon}, max(b.Thick-10, 8), 1); ok {
					out[p.Name] = icon.Path
				}
			}
		}
	}
	return out
}

// shellOf names the surface that draws the bar and what lies on the ground, or
// "" if no shell of the desk is known: then neither is pictured.
func shellOf(d *desk.Desk) string {
	for _, s := range d.Surfaces() {
		if s.Kind == "shell" {
			return s.ID
		}
	}
	return ""
}

// room is what bars and the dock leave between the upper and the lower edge.
func (c *Canvas) room() (top, bottom int) {
	a := c.arranged()
	return a.left.Min.Y, a.left.Max.Y
}

// notice is what the shell says in a corner.
func (c *Canvas) notice(right, y float64) {
	if c.Shell == "" {
		return
	}
	s, of := c.apart(desk.FacetNotices), cmp.Or(c.having(desk.FacetNotices), c.Shell)
	words := node("box.vertical", text("label.title", "Tide Gauge"), text("label", "High water in 20 minutes, 4.2 m."), node("box.horizontal", s.button("", "Later"), s.button(".default", "Show")).row(8)).column(6).growing()
	n := node("notice", picture("image", "dialog-information", 32).small(), words).row(12)
	s.measure(n)
	w := max(n.minW, 250)
	m := n.st.Margin()
	s.put(n, right-w-m[1], y+m[0], w, 0)
	facet := desk.FacetNotices
	if c.having(facet) == "" {
		facet = desk.FacetBar
	}
	c.mark(facet, of, right-w-m[1], y+m[0], w, n.minH)
}

// backdrop lays the picture that the shell is told over the ground, as it is told to, or leaves it
// plain.
func (c *Canvas) backdrop() {
	of := c.having(desk.FacetBackdrop)
	mode, cut, ground, told := c.look.lies(of)
	if told {
		c.rect(0, 0, c.w, c.h, 0, ground.Hex())
	} else {
		c.rect(0, 0, c.w, c.h, 0, c.Ink.Ground)
	}
	file := cmp.Or(c.ofWorkspace(), c.look.OnMonitor(c.D, of, c.screen))
	if file == "" || mode == backdrop.None {
		return
	}
	if all := reading.Slides(c.tree, desk.Name(file)); len(all) > 0 {
		file = desk.Path(all[0]) // of several the first
	}
	screens := []image.Rectangle{image.Rect(0, 0, c.w, c.h)}
	times := 1.0
	if len(c.monitors) > 0 {
		screens, times = desk.Places(c.monitors), c.monitors[c.screen].Times()
	}
	w, h := screens[c.screen].Dx(), screens[c.screen].Dy()
	if mode == backdrop.Span {
		all := image.Rectangle{}
		for _, s := range screens {
			all = all.Union(s)
		}
		w, h = all.Dx(), all.Dy()
	}
	if f, ok := c.filling(file, w, h, mode); ok {
		if c.glyphs[glyphKey{}] == "" { // once, however often it is shown
			c.glyphs[glyphKey{}] = "back"
			c.Defs.WriteString(f.Lies(` id="back"`, backdrop.Across(mode, f.w, f.h, screens, cut)[c.screen].Smaller(1/times)))
		}
		c.WriteString(`<use href="#back"/>`)
	} else {
		c.without(desk.Name(file), "no picture that can be shown as a backdrop")
	}
}

// ofWorkspace is the picture that the pictured workspace has of its own, "" for none.
func (c *Canvas) ofWorkspace() string {
	for _, own := range desk.Each(c.look.Of(desk.FacetSpaces, c.having(desk.FacetSpaces))) {
		if own.Monitor == strconv.Itoa(c.workspace+1) {
			return own.Picture
		}
	}
	return ""
}

// OnMonitor is the backdrop that a surface shows on one of the desk's monitors, by its number: its own,
// or that of all.
func (l Look) OnMonitor(d *desk.Desk, surface string, monitor int) string {
	mode, _, _, _ := l.lies(surface)
	if all := d.Monitors(); monitor < len(all) && mode != backdrop.Span {
		for _, own := range desk.Each(l.Of(desk.FacetEach, surface)) {
			if own.Monitor == all[monitor].Name {
				return own.Picture
			}
		}
	}
	return l.Of(desk.FacetBackdrop, surface)
}

// lies is how a surface's backdrop lies; told if the colour of its ground is known.
func (l Look) lies(surface string) (mode backdrop.Mode, cut backdrop.Cut, ground colour.Colour, told bool) {
	part := func(facet string) float64 { return float64(min(max(l.number(facet, surface, 50), 0), 100)) / 100 }
	ground, err := colour.Parse(l.Of(desk.FacetBehind, surface))
	return backdrop.ModeOf(l.Of(desk.FacetLies, surface)), backdrop.Cut{X: part(desk.FacetAcross), Y: part(desk.FacetDown)}, ground, err == nil
}

// Lies is how the backdrop of a look lies: that of the first surface that has one. A ground that
// nothing is told of is black.
func Lies(d *desk.Desk, l Look) (mode backdrop.Mode, cut backdrop.Cut, ground color.Color) {
	for _, s := range d.Surfaces() {
		if s.Kind != "login" && l.Of(desk.FacetBackdrop, s.ID) != "" {
			mode, cut, of, _ := l.lies(s.ID)
			return mode, cut, of.Opaque()
		}
	}
	return backdrop.Fill, backdrop.Middle, color.Black
}

// Shell draws the bar and a notice of the desk's shell in one of its themes,
// over the backdrop.
func Shell(d *desk.Desk, look Look, w, h int) []byte {
	c := NewCanvas(d, look, w, h)
	c.Printf(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" width="%d" height="%d">`, c.w, c.h, c.w, c.h)
	c.backdrop()
	top, _ := c.room()
	c.drawBars()
	c.notice(float64(c.w)+4, float64(top)-8)
	c.WriteString("<defs>" + c.Defs.String() + "</defs></svg>")
	return []byte(c.String())
}

// onMonitor is an empty picture of one of several monitors.
func onMonitor(d *desk.Desk, look Look, monitors []desk.Monitor, screen int) *Canvas {
	m := monitors[screen]
	less := func(n int) int { return max(int(math.Round(float64(n)/m.Times())), 1) }
	c := NewCanvas(d, look, less(m.Width), less(m.Height))
	c.monitors, c.screen = monitors, screen
	return c
}

// Monitor draws what lies on one of several monitors when no window is open: the backdrop, what lies
// on the desk, and the bar, all as large as is said of it.
func Monitor(d *desk.Desk, look Look, monitors []desk.Monitor, screen int) []byte {
	return drawMonitor(d, look, monitors, screen, Use{}, false)
}

// Use is what of a monitor in use is pictured.
type Use struct {
	Maximised bool // a window that is
	Moving    bool // windows go to where they lie side by side, once, unless less motion is wished for
	Workspace int  // another than the first: by its number from 2 on, with no window
	// Part of it alone: "edges" are bars, the dock, a clock and a readout, and no ground behind them; "rest"
	// is what is left without these.
	Part string
}

// InUse is the same while windows are open, which are on the first workspace of the first monitor.
func InUse(d *desk.Desk, look Look, monitors []desk.Monitor, screen int, use Use) []byte {
	return drawMonitor(d, look, monitors, screen, use, screen == 0 && use.Workspace < 2)
}

func drawMonitor(d *desk.Desk, look Look, monitors []desk.Monitor, screen int, use Use, open bool) []byte {
	m := monitors[screen]
	c := onMonitor(d, look, monitors, screen)
	c.workspace, c.moving = max(use.Workspace-1, 0), use.Moving
	c.Printf(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" width="%d" height="%d">`, c.w, c.h, m.Width, m.Height)
	top, bottom := c.room()
	if use.Part != "edges" {
		c.backdrop()
		c.ground()
	}
	if use.Part != "rest" {
		c.drawOnDesk()
	}
	switch {
	case use.Part == "edges":
	case open && use.Maximised:
		c.maximised()
	case open:
		c.windows(top, bottom)
	}
	if c.bare = use.Part == "edges"; use.Part != "rest" {
		c.drawBars()
	}
	c.WriteString("<defs>" + c.Defs.String() + "</defs></svg>")
	return []byte(c.String())
}

// A picture that is larger than what it is shown on is made smaller, once.
type cachedFilling struct {
	stamp string
	Filling
}

// Filling is a picture that is to fill a place, and its own size in px.
type Filling struct {
	URI  string
	w, h float64
}

// Image places it over the middle of w × h, as large as it takes to leave
// nothing bare; what hangs over has to be cut off.
func (f Filling) Image(attributes string, w, h float64) string {
	if f.w <= 0 || f.h <= 0 {
		return fmt.Sprintf(`<image%s width="%s" height="%s" preserveAspectRatio="xMidYMid slice" href="%s"/>`, attributes, paint.Number(w), paint.Number(h), f.URI)
	}
	return f.Lies(attributes, backdrop.Lay(backdrop.Fill, f.w, f.h, w, h, backdrop.Middle))
}

// Whole is the picture itself as a drawing of its own size.
func (f Filling) Whole() []byte {
	w, h := f.w, f.h
	if w <= 0 || h <= 0 {
		w, h = 480, 300
	}
	return fmt.Appendf(nil, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %[1]s %[2]s" width="%[1]s" height="%[2]s">%[3]s</svg>`, paint.Number(w), paint.Number(h), f.Image("", w, h))
}

// Lies places it as it lies on a monitor. What hangs over has to be cut off.
func (f Filling) Lies(attributes string, l backdrop.Laid) string {
	if f.w <= 0 || f.h <= 0 {
		return f.Image(attributes, l.W, l.H)
	}
	image := func(attributes string) string {
		return fmt.Sprintf(`<image%s x="%s" y="%s" width="%s" height="%s" preserveAspectRatio="none" href="%s"/>`,
			attributes, paint.Number(l.Drawn.X), paint.Number(l.Drawn.Y), paint.Number(l.Drawn.W), paint.Number(l.Drawn.H), f.URI)
	}
	if l.Mode != backdrop.Tile {
		return image(attributes)
	}
	return fmt.Sprintf(`<pattern id="tile" width="%s" height="%s" patternUnits="userSpaceOnUse">%s</pattern><rect%s width="%s" height="%s" fill="url(#tile)"/>`,
		paint.Number(f.w), paint.Number(f.h), image(""), attributes, paint.Number(l.W), paint.Number(l.H))
}

// ofFilling is the key of a picture made ready for a size.
type ofFilling struct {
	file string
	w, h int
	own  bool // in its own size
}

// maxBackdrop bounds the file of a backdrop, in bytes.
const MaxBackdrop = 64 << 20

// Filling is a picture of the desk made ready to fill w × h.
func (c *Canvas) Filling(file string, w, h int) (f Filling, ok bool) {
	return c.filling(file, w, h, backdrop.Fill)
}

// filling is a picture of the desk made ready to lie on w × h.
func (c *Canvas) filling(file string, w, h int, mode backdrop.Mode) (f Filling, ok bool) {
	name := desk.Name(file)
	info, err := fs.Stat(c.tree, name)
	if err != nil || info.IsDir() || info.Size() > MaxBackdrop {
		return f, false
	}
	stamp := fmt.Sprint(info.Size(), info.ModTime().UnixNano())
	holds := func(known cachedFilling) bool { return known.stamp == stamp }
	own := mode == backdrop.Centre || mode == backdrop.Tile
	f = cache.Of(c.D.Cache, ofFilling{c.D.HostPath(file), w, h, own}, holds, func() cache.Made[cachedFilling] {
		made := cachedFilling{stamp: stamp}
		if b, err := fs.ReadFile(c.tree, name); err == nil {
			most := 1.0
			if own {
				most = ownSize
			}
			made.Filling = Fitted(c.look.ctx, b, int(float64(w)*most), int(float64(h)*most))
		}
		return cache.Made[cachedFilling]{Value: made, Bytes: len(made.URI), Brief: c.look.ctx.Err() != nil}
	}).Filling
	return f, f.URI != ""
}

// ownSize is how many times as large as what it lies on a picture is kept that is shown in its own
// size: of a larger one less is seen than would be told from a smaller copy.
const ownSize = 3

// Fitted is a picture no larger than it takes to fill w × h; without an address if
// it is none.
func Fitted(ctx context.Context, b []byte, w, h int) Filling {
	t := imagefile.MediaType(b)
	fw, fh := imagefile.Size(b)
	as := func(t string, b []byte) Filling {
		return Filling{"data:" + t + ";base64," + base64.StdEncoding.EncodeToString(b), fw, fh}
	}
	switch {
	case t == "", t == "image/svg+xml" && len(b) > paint.MaxIcon:
		return Filling{}
	case t == "image/svg+xml":
		if imagefile.Check(b) != nil {
			return Filling{}
		}
		return as(t, b)
	case fw < 1 || fh < 1:
		return Filling{}
	}
	k := max(float64(w)/fw, float64(h)/fh)
	if k >= 1 && len(b) <= paint.MaxIcon && !(t == "image/webp" && imagefile.Turn(b) > 1) { // which browsers do not turn
		return as(t, b)
	}
	im, err := imagefile.Photograph(ctx, b)
	if err != nil {
		return Filling{}
	}
	k = min(k, 1)
	small := image.NewRGBA(image.Rect(0, 0, max(int(fw*k+0.5), 1), max(int(fh*k+0.5), 1)))
	draw.ApproxBiLinear.Scale(small, small.Rect, im, im.Bounds(), draw.Src, nil)
	var out bytes.Buffer
	if small.Opaque() {
		err, t = jpeg.Encode(&out, small, &jpeg.Options{Quality: 88}), "image/jpeg"
	} else { // the ground shows through
		err, t = png.Encode(&out, small), "image/png"
	}
	if err != nil {
		return Filling{}
	}
	return as(t, out.Bytes())
}

func (c *Canvas) programs() []desktopentry.Program {
	return desktopentry.List(c.tree, c.D.Folders([]string{"{data}/applications", "{data-dirs}/applications"}))
}

// MeanColour is the mean colour of a picture of a desk's tree, such as its backdrop, or of the first
// of several; false if it is none that can be read. It is kept as long as the file stays as it is.
func MeanColour(ctx context.Context, d *desk.Desk, name string) (colour.Colour, bool) {
	if all := reading.Slides(d.Tree(), name); len(all) > 0 {
		name = all[0]
	}
	info, err := fs.Stat(d.Tree(), name)
	if err != nil || !info.Mode().IsRegular() || info.Size() > maxBackdrop {
		return colour.Colour{}, false
	}
	type result struct {
		colour.Colour
		ok bool
	}
	key := ofMean{d.Where(), name, info.ModTime().String(), info.Size()}
	mean := cache.Of(d.Cache, key, cache.Always[result], func() cache.Made[result] {
		var out result
		if raw, err := fs.ReadFile(d.Tree(), name); err == nil {
			if im := imagefile.Scene(ctx, raw, meanSide); im != nil {
				out.Colour, out.ok = meanOf(im)
			}
		}
		return cache.Made[result]{Value: out, Bytes: 200}
	})
	return mean.Colour, mean.ok
}

// ofMean is the key of a picture's mean colour.
type ofMean struct {
	where, name, date string
	size              int64
}

func meanOf(im image.Image) (out colour.Colour, ok bool) {
	all := 0.0
	for y := im.Bounds().Min.Y; y < im.Bounds().Max.Y; y++ {
		for x := im.Bounds().Min.X; x < im.Bounds().Max.X; x++ {
			r, g, b, a := im.At(x, y).RGBA()
			out.R, out.G, out.B, all = out.R+float64(r), out.G+float64(g), out.B+float64(b), all+float64(a)
		}
	}
	if all == 0 {
		return out, false
	}
	return colour.Colour{R: out.R / all, G: out.G / all, B: out.B / all}, true
}

// What of a picture is read for its mean colour at most: bytes, and px of its longer side.
const (
	maxBackdrop = 64 << 20
	meanSide    = 32
)
