// Package preview draws a desk as an SVG picture from the pieces themselves:
// every icon in it is the file that the surface's own lookup ends at.
//
// The picture is built from values only. Icons are embedded as pictures, which
// a browser neither lets run scripts nor load anything.
package preview

import (
	"cmp"
	_ "embed"
	"fmt"
	textlanguage "github.com/go-text/typesetting/language"
	"slices"
	"strings"

	_ "golang.org/x/image/webp"

	"ivelt/core/desk"
	"ivelt/core/desktopentry"
	"ivelt/core/fontbook"
	"ivelt/core/gtkcss"
	"ivelt/core/icontheme"
	"ivelt/core/paint"
	"ivelt/core/reading"
	"ivelt/core/say"
	"ivelt/core/typeset"
)

// Scene is a thing to picture. Add one by adding to [Scenes].
type Scene struct {
	Name          string
	Title         say.Word
	Width, Height int // px at 1×
	draw          func(*Canvas)
	shows         string // the surface that it shows, or its kind; "" if every desk has it
}

// Scenes are the scenes there are, the usual one first.
var Scenes = []Scene{
	{"desk", "Whole desk", 1280, 800, drawDesk, ""},
	{"close", "Close up", 560, 640, drawClose, ""},
	{"controls", "Controls", 1280, 800, drawControls, ""},
	{"lists", "Lists", 1280, 800, drawLists, ""},
	{"dialogs", "Dialogs", 1280, 800, drawDialogs, ""},
	{"older", "GTK 2", 560, 640, drawOlder, ""},
	{"qt", "Qt", 720, 600, drawQt, "qt"},
	{"drawn", "Picture style", 560, 340, drawDrawn, "engine"},
	{"terminal", "Terminal", terminalWidth, terminalHeight, drawTerminal, "terminal"},
	{"login", "Login screen", loginWidth, loginHeight, drawLogin, "login"},
	{"sandboxed", "Sandbox", 1280, 800, drawSandboxed, "sandbox"},
}

// Mark says what a rectangle of a picture shows, px.
type Mark struct {
	Facet   string    `json:"facet"`
	Surface string    `json:"surface"`
	X       float64   `json:"x"`
	Y       float64   `json:"y"`
	W       float64   `json:"w"`
	H       float64   `json:"h"`
	icon    shownIcon // of an icon
	element string    // of a picture-based style
}

// shownIcon is an icon that a lookup found.
type shownIcon struct{ name, theme, path string }

// Draw pictures a scene of the desk as SVG.
func Draw(d *desk.Desk, look Look, scene string) []byte {
	b, _ := DrawMarked(d, look, scene)
	return b
}

// DrawMarked pictures a scene and tells which facet of which surface is seen
// where, what lies above others last.
func DrawMarked(d *desk.Desk, look Look, scene string) ([]byte, []Mark) {
	c, s := newScene(d, look, scene)
	return c.drawn(s), c.marks
}

// DrawSized pictures a scene on a canvas of another size than its own, px.
func DrawSized(d *desk.Desk, look Look, scene string, w, h int) []byte {
	c, s := newScene(d, look, scene)
	c.w, c.h = w, h
	return c.drawn(s)
}

func (c *Canvas) drawn(s Scene) []byte {
	fmt.Fprintf(c, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" width="%d" height="%d">`, c.w, c.h, c.w, c.h)
	if c.look.Black != "" {
		c.blackScreen()
	} else {
		c.ahead()
		s.draw(c)
	}
	if c.Defs.Len() > 0 {
		c.WriteString("<defs>" + c.Defs.String() + "</defs>")
	}
	c.WriteString("</svg>")
	return []byte(c.String())
}

// blackScreen is what a desk shows that did not come up: nothing, and a text console.
func (c *Canvas) blackScreen() {
	c.rect(0, 0, c.w, c.h, 0, "#000000")
	c.WriteString(`<g fill="#c8c8c8" font-family="monospace" font-size="13">`)
	why, y := c.look.Black, 28
	for len(why) > 0 {
		n := min(len(why), max(c.w/9, 8))
		for n < len(why) && why[n]&0xc0 == 0x80 { // within a letter
			n--
		}
		fmt.Fprintf(c, `<text x="14" y="%d">%s</text>`, y, paint.Escape(why[:n]))
		why, y = why[n:], y+18
	}
	fmt.Fprintf(c, `<text x="14" y="%d">Text console 3</text><text x="14" y="%d">login: _</text></g>`, y+18, y+36)
}

// Spot says where a part of a surface is painted, by its node, px.
type Spot struct {
	Surface    string
	Node       *gtkcss.Node
	X, Y, W, H float64
	stage      *Stage
	marks      int // of the picture before it
}

// Spots tells where each part of a scene is painted, in the order they are.
func Spots(d *desk.Desk, look Look, scene string) []Spot {
	c, s := newScene(d, look, scene)
	var out []Spot
	c.seen = func(spot Spot) { out = append(out, spot) }
	s.draw(c)
	return out
}

func newScene(d *desk.Desk, look Look, name string) (*Canvas, Scene) {
	i := slices.IndexFunc(Scenes, func(s Scene) bool { return s.Name == name })
	s := Scenes[max(i, 0)]
	return NewCanvas(d, look, s.Width, s.Height), s
}

// NewCanvas is an empty picture of a desk in a look, px.
func NewCanvas(d *desk.Desk, look Look, w, h int) *Canvas {
	c := &Canvas{D: d, tree: d.Tree().Briefly(), look: look, w: w, h: h, Ink: lightInk, Shell: shellOf(d), indexes: map[string]*icontheme.Index{}, stages: map[string]*Stage{}, glyphs: map[glyphKey]string{}, faces: map[string]*typeset.Face{}, others: map[textlanguage.Script]*typeset.Face{}, fonts: fontbook.Of(d, fontbook.Folders(d))}
	if look.dark(c.Shell) {
		c.Ink = darkInk
	}
	return c
}

// Canvas is a picture of a desk that is being drawn.
type Canvas struct {
	edges    *arrangement // what is at the edges, see [Canvas.arranged]
	byID     map[string]desktopentry.Program
	monitors []desk.Monitor // of which the canvas is one; none for a screen alone
	screen   int
	// workspace is the one that is pictured, from 0 on.
	workspace int
	// moving: windows side by side come from where they were.
	moving bool
	// bare: nothing shows through what is at the edges.
	bare bool
	strings.Builder
	D       *desk.Desk
	tree    *desk.Tree // for this one picture
	look    Look
	w, h    int
	Ink     inks
	indexes map[string]*icontheme.Index
	Shell   string // the surface that draws the bar
	ids     int
	stages  map[string]*Stage
	fonts   *fontbook.Book
	faces   map[string]*typeset.Face
	others  map[textlanguage.Script]*typeset.Face // that have letters of a script, nil for none
	glyphs  map[glyphKey]string                   // outlines in defs
	Defs    strings.Builder
	marks   []Mark
	notes   []Note
	seen    func(Spot) // what is told of each part that is painted; nil for nothing
}

func (c *Canvas) mark(facet, surface string, x, y, w, h float64) {
	if own := toolkitOf(c.D, surface); own.ID != "" {
		surface = own.ID
	}
	c.marks = append(c.marks, Mark{Facet: facet, Surface: surface, X: x, Y: y, W: w, H: h})
}

// inks are the colours of what no piece dresses.
type inks struct{ Ground, colours string }

var (
	lightInk = inks{"#c9d5d4", "@define-color bar #2d3640; @define-color bartext #f2efe8; " + plainLight}
	darkInk  = inks{"#1d2832", "@define-color bar #151a20; @define-color bartext #e9e6de; " + plainDark}
)

// Icons are those that a surface finds, of the pack that it shows.
func (c *Canvas) Icons(surface string) *icontheme.Index {
	s := iconsOf(c.D, surface)
	name := c.look.Of(s.Called(desk.FacetIcons), surface)
	key := surface + "\x00" + name
	if x, ok := c.indexes[key]; ok {
		return x
	}
	f, _ := s.Facet(s.Called(desk.FacetIcons))
	x := reading.Icons(c.D, f.Packs(), name)
	c.indexes[key] = x
	return x
}

// Icon draws what the surface's lookup finds for the first of names that is
// found, or the sign for a missing icon.
func (c *Canvas) Icon(surface string, x, y, size int, names ...string) {
	surface = c.ofPlace(surface, names)
	icon, name, ok := c.Icons(surface).LookupBest(names, size, 1)
	c.markIcon(surface, float64(x), float64(y), float64(size), shownIcon{cmp.Or(name, names[0]), icon.Theme, icon.Path})
	if ok {
		if uri, ok := c.DataURI(icon.Path); ok {
			fmt.Fprintf(c, `<image x="%d" y="%d" width="%d" height="%d" href="%s"><title>%s</title></image>`, x, y, size, size, uri, paint.Escape(names[0]+" · "+icon.Theme))
			return
		}
		c.without(icon.Path, "no picture that can be shown, so there is no icon for "+names[0])
	}
	s := float64(size)
	fmt.Fprintf(c, `<g transform="translate(%d %d)"><rect x="%.1f" y="%.1f" width="%.1f" height="%.1f" rx="2" fill="none" stroke="#b4553d" stroke-dasharray="3 2"/><path d="M%.1f %.1fL%.1f %.1fM%.1f %.1fL%.1f %.1f" stroke="#b4553d"/><title>%s: no icon</title></g>`,
		x, y, s*.1, s*.1, s*.8, s*.8, s*.35, s*.35, s*.65, s*.65, s*.65, s*.35, s*.35, s*.65, paint.Escape(names[0]))
}

// markIcon marks an icon of a surface's.
func (c *Canvas) markIcon(surface string, x, y, size float64, of shownIcon) {
	s, _ := c.D.Surface(surface)
	c.mark(s.Called(desk.FacetIcons), surface, x, y, size, size)
	c.marks[len(c.marks)-1].icon = of
}

// icon draws an icon that a sheet names in a tint, and reports whether there is one.
func (s *Stage) icon(name string, x, y, size float64, tint paint.Tint) bool {
	return s.symbolicAt(s.surface, x, y, size, tint, name)
}

// symbolicAt draws a symbolic icon in a tint, as programs recolour it.
func (c *Canvas) symbolicAt(surface string, x, y, size float64, tint paint.Tint, name string) bool {
	plain := strings.TrimSuffix(name, "-symbolic")
	names := []string{name}
	if plain == name {
		names = []string{name + "-symbolic", name}
	} else {
		names = append(names, plain)
	}
	icon, _, ok := c.Icons(surface).LookupBest(names, int(size), 1)
	if !ok && (c.ownIcon(surface, name, x, y, size, tint) || ownSign(c, plain, x, y, size, tint.Ink.CSS())) {
		return true
	}
	if !ok || !strings.Contains(icon.Path, "-symbolic.") {
		c.Icon(surface, int(x+0.5), int(y+0.5), int(size), names...)
		return ok
	}
	address, _, _, ok := c.filePicture(icon.Path, paint.Form{Tint: tint, Tints: true})
	if !ok {
		c.Icon(surface, int(x+0.5), int(y+0.5), int(size), names...)
		return false
	}
	c.markIcon(surface, x, y, size, shownIcon{name, icon.Theme, icon.Path})
	c.Printf(`<image x="%s" y="%s" width="%s" height="%s" href="%s"><title>%s</title></image>`, paint.Number(x), paint.Number(y), paint.Number(size), paint.Number(size), address, paint.Escape(plain+" · "+icon.Theme))
	return true
}

// signs stand for symbolic icons that GTK carries in itself for want of one in the
// pack; the names are those in the library's own resources.
var signs = map[string]string{
	"list-add": "M8 3v10M3 8h10", "list-remove": "M3 8h10", "edit-find": "M11 7a4 4 0 1 1-8 0a4 4 0 1 1 8 0zM10 10l4 4",
	"pan-down": "M4 6l4 4l4-4", "pan-up": "M4 10l4-4l4 4", "pan-start": "M10 4l-4 4l4 4", "pan-end": "M6 4l4 4l-4 4", "open-menu": "M3 4h10M3 8h10M3 12h10",
	"switch-on": "M8 3v10", "switch-off": "M12 8a4 4 0 1 1-8 0a4 4 0 1 1 8 0z",
	"window-close": "M4 4l8 8M12 4l-8 8", "window-minimize": "M4 11.5h8", "window-maximize": "M4.500 4.500h7v7h-7z", "window-restore": "M4 6.500h5.500v5.500H4zM6.500 6.500V4H12v5.500H9.500",
}

func ownSign(c *Canvas, name string, x, y, size float64, colour string) bool {
	d, ok := signs[name]
	if ok {
		c.Printf(`<path transform="translate(%s %s) scale(%s)" d="%s" fill="none" stroke="%s" stroke-width="1.800"/>`, paint.Number(x), paint.Number(y), paint.Number(size/16), d, colour)
	}
	return ok
}

func (c *Canvas) rect(x, y, w, h, r int, fill string, more ...string) {
	fmt.Fprintf(c, `<rect x="%d" y="%d" width="%d" height="%d" rx="%d" fill="%s" %s/>`, x, y, w, h, r, fill, strings.Join(more, " "))
}
