// Package preview draws a desk as an SVG picture from the pieces themselves:
// every icon in it is the file that the surface's own lookup ends at.
//
// The picture is built from values only. Icons are embedded as pictures, which
// a browser neither lets run scripts nor load anything.
package preview

import (
	"fmt"
	"io/fs"
	"slices"
	"strconv"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/desktopentry"
	"ivelt/core/icontheme"
	"ivelt/core/keyfile"
	"ivelt/core/outfit"
	"ivelt/core/reading"
)

// Look is what is to be pictured.
type Look struct {
	Icons map[string]string // for each surface the name of its icon pack
	Dark  bool
}

// Worn is the look of a desk as it is: what each surface reads, or still has
// loaded.
func Worn(d *desk.Desk) Look {
	l := Look{Icons: map[string]string{}}
	for _, r := range reading.All(d) {
		if r.Facet != desk.FacetIcons {
			continue
		}
		l.Icons[r.Surface] = r.Value
		if r.Pending != "" {
			l.Icons[r.Surface] = r.Loaded
		}
	}
	return l
}

// Draft is the look of a desk once it wears the outfit. A surface that would
// not find a piece keeps what it shows.
func Draft(d *desk.Desk, o outfit.Outfit) Look {
	l := Worn(d)
	want := o.Piece(desk.FacetIcons)
	if want == "" {
		return l
	}
	for _, s := range d.Surfaces {
		f, ok := s.Facet(desk.FacetIcons)
		if !ok {
			continue
		}
		if _, err := reading.FindIcons(d, f.Lookup, want); err == nil {
			l.Icons[s.ID] = want
		}
	}
	return l
}

// Scene is a thing to picture. Add one by adding to [Scenes].
type Scene struct {
	Name, Title   string
	Width, Height int // px at 1×
	draw          func(*canvas)
}

// Scenes are the scenes there are, the usual one first.
var Scenes = []Scene{
	{"desk", "Whole desk", 1280, 800, drawDesk},
	{"close", "Close up", 560, 640, drawClose},
}

// Draw pictures a scene of the desk as SVG.
func Draw(d *desk.Desk, look Look, scene string) []byte {
	i := slices.IndexFunc(Scenes, func(s Scene) bool { return s.Name == scene })
	s := Scenes[max(i, 0)]
	c := &canvas{d: d, look: look, w: s.Width, h: s.Height, ink: lightInk, shell: shellOf(d), indexes: map[string]*icontheme.Index{}}
	if look.Dark {
		c.ink = darkInk
	}
	fmt.Fprintf(c, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" width="%d" height="%d" font-family="'Hanken Grotesk','Noto Sans','DejaVu Sans',sans-serif" font-size="12.5">`, c.w, c.h, c.w, c.h)
	s.draw(c)
	c.WriteString("</svg>")
	return []byte(c.String())
}

type canvas struct {
	strings.Builder
	d       *desk.Desk
	look    Look
	w, h    int
	ink     inks
	indexes map[string]*icontheme.Index
	shell   string // the surface that draws the bar
	ids     int
}

// inks are the colours of what no piece dresses yet.
type inks struct{ sky, sea, sand, window, header, line, text, quiet, shade, bar, barText string }

var (
	lightInk = inks{"#dfe6e6", "#c3d2d2", "#e9e2d2", "#faf8f3", "#efebe2", "#d2ccbf", "#2c323c", "#6b6f76", "#000000", "#2d3640", "#f2efe8"}
	darkInk  = inks{"#27313c", "#1d2832", "#34322e", "#262b33", "#2f353e", "#434a55", "#e9e6de", "#a3a6ab", "#000000", "#151a20", "#e9e6de"}
)

func (c *canvas) index(surface string) *icontheme.Index {
	name := c.look.Icons[surface]
	key := surface + "\x00" + name
	if x, ok := c.indexes[key]; ok {
		return x
	}
	s, _ := c.d.Surface(surface)
	f, _ := s.Facet(desk.FacetIcons)
	x := reading.IconIndex(c.d, f.Lookup, name)
	c.indexes[key] = x
	return x
}

// icon draws what the surface's lookup finds for the first of names that is
// found, or the sign for a missing icon.
func (c *canvas) icon(surface string, x, y, size int, names ...string) {
	icon, _, ok := c.index(surface).LookupBest(names, size, 1)
	if ok {
		if uri, ok := DataURI(c.d.Tree(), icon.Path); ok {
			fmt.Fprintf(c, `<image x="%d" y="%d" width="%d" height="%d" href="%s"><title>%s</title></image>`, x, y, size, size, uri, esc(names[0]+" · "+icon.Theme))
			return
		}
	}
	s := float64(size)
	fmt.Fprintf(c, `<g transform="translate(%d %d)"><rect x="%.1f" y="%.1f" width="%.1f" height="%.1f" rx="2" fill="none" stroke="#b4553d" stroke-dasharray="3 2"/><path d="M%.1f %.1fL%.1f %.1fM%.1f %.1fL%.1f %.1f" stroke="#b4553d"/><title>%s: no icon</title></g>`,
		x, y, s*.1, s*.1, s*.8, s*.8, s*.35, s*.35, s*.65, s*.65, s*.65, s*.35, s*.35, s*.65, esc(names[0]))
}

// symbolic draws a symbolic icon in one colour, as a shell recolours it.
func (c *canvas) symbolic(surface string, x, y, size int, colour, name string) {
	icon, _, ok := c.index(surface).LookupBest([]string{name + "-symbolic", name}, size, 1)
	uri := ""
	if ok {
		uri, ok = DataURI(c.d.Tree(), icon.Path)
	}
	if !ok || !strings.Contains(icon.Path, "-symbolic.") {
		c.icon(surface, x, y, size, name+"-symbolic", name)
		return
	}
	c.ids++
	fmt.Fprintf(c, `<mask id="m%d" mask-type="alpha"><image x="%d" y="%d" width="%d" height="%d" href="%s"/></mask><rect x="%d" y="%d" width="%d" height="%d" fill="%s" mask="url(#m%d)"><title>%s</title></rect>`,
		c.ids, x, y, size, size, uri, x, y, size, size, colour, c.ids, esc(name+" · "+icon.Theme))
}

func (c *canvas) rect(x, y, w, h, r int, fill string, more ...string) {
	fmt.Fprintf(c, `<rect x="%d" y="%d" width="%d" height="%d" rx="%d" fill="%s" %s/>`, x, y, w, h, r, fill, strings.Join(more, " "))
}

func (c *canvas) text(x, y int, fill, anchor, s string, more ...string) {
	fmt.Fprintf(c, `<text x="%d" y="%d" fill="%s" text-anchor="%s" %s>%s</text>`, x, y, fill, anchor, strings.Join(more, " "), esc(s))
}

func esc(s string) string {
	return strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;", `"`, "&#34;", "'", "&#39;").Replace(strings.ToValidUTF8(s, "?"))
}

func (c *canvas) programs() []desktopentry.Program {
	return desktopentry.List(c.d.Tree(), c.d.Folders([]string{"{data}/applications", "{data-dirs}/applications"}))
}

// bar is how the shell's own settings lay out its bar.
type bar struct {
	edge      string
	thickness int // px
	pinned    []string
}

// bar reads the bar of the desk's shell; a shell that does not say where its
// bar is described gets a plain one.
func (c *canvas) bar() bar {
	b := bar{"top", 34, nil}
	shell, _ := c.d.Surface(c.shell)
	if shell.Bar == nil {
		return b
	}
	rule := shell.Bar
	for _, file := range rule.Files {
		for _, p := range c.d.Expand(file) {
			raw, err := fs.ReadFile(c.d.Tree(), desk.Name(p))
			if err != nil {
				continue
			}
			kf, err := keyfile.Parse(raw)
			if err != nil {
				continue
			}
			if e := kf.Get(rule.Group, rule.Edge); e == "top" || e == "bottom" {
				b.edge = e
			}
			if n, err := strconv.Atoi(kf.Get(rule.Group, rule.Thickness)); err == nil && n >= 20 && n <= 96 {
				b.thickness = n
			}
			if pinned := kf.List(rule.Group, rule.Pinned, ';'); pinned != nil {
				b.pinned = pinned
			}
		}
	}
	return b
}

// shellOf names the surface that draws the bar and what lies on the ground, or
// "" if no shell of the desk is known: then neither is pictured.
func shellOf(d *desk.Desk) string {
	for _, s := range d.Surfaces {
		if s.Kind == "shell" {
			return s.ID
		}
	}
	return ""
}
