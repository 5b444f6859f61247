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
	"sync"

	"ivelt/core/desk"
	"ivelt/core/desktopentry"
	"ivelt/core/gtkcss"
	"ivelt/core/icontheme"
	"ivelt/core/keyfile"
	"ivelt/core/outfit"
	"ivelt/core/reading"
	"ivelt/core/typeset"
)

// Look is what is to be pictured.
type Look struct {
	Names map[string]map[string]string // by facet and surface, the piece's name
	Dark  bool
}

// Of returns the name of the piece that a surface shows for a facet.
func (l Look) Of(facet, surface string) string { return l.Names[facet][surface] }

func (l Look) set(facet, surface, name string) {
	if l.Names[facet] == nil {
		l.Names[facet] = map[string]string{}
	}
	l.Names[facet][surface] = name
}

// Worn is the look of a desk as it is: what each surface reads, or still has
// loaded.
func Worn(d *desk.Desk) Look {
	l := Look{Names: map[string]map[string]string{}}
	for _, r := range reading.All(d) {
		name := r.Value
		if r.Pending != "" {
			name = r.Loaded
		}
		l.set(r.Facet, r.Surface, name)
	}
	return l
}

// Draft is the look of a desk once it wears the outfit. A surface that would
// not find a piece keeps what it shows.
func Draft(d *desk.Desk, o outfit.Outfit) Look {
	l := Worn(d)
	for _, facet := range o.Facets() {
		want := o.Piece(facet)
		for _, s := range d.Surfaces {
			f, ok := s.Facet(facet)
			if !ok {
				continue
			}
			if _, err := reading.Find(d, f.Lookup, want); err == nil {
				l.set(facet, s.ID, want)
			}
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
	{"controls", "Controls", 1280, 800, drawControls},
}

// Draw pictures a scene of the desk as SVG.
func Draw(d *desk.Desk, look Look, scene string) []byte {
	i := slices.IndexFunc(Scenes, func(s Scene) bool { return s.Name == scene })
	s := Scenes[max(i, 0)]
	c := newCanvas(d, look, s.Width, s.Height)
	fmt.Fprintf(c, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" width="%d" height="%d" font-family="'Hanken Grotesk','Noto Sans','DejaVu Sans',sans-serif" font-size="12.5">`, c.w, c.h, c.w, c.h)
	s.draw(c)
	if c.defs.Len() > 0 {
		c.WriteString("<defs>" + c.defs.String() + "</defs>")
	}
	c.WriteString("</svg>")
	return []byte(c.String())
}

func newCanvas(d *desk.Desk, look Look, w, h int) *canvas {
	c := &canvas{d: d, tree: d.Tree().Briefly(), look: look, w: w, h: h, ink: lightInk, shell: shellOf(d), indexes: map[string]*icontheme.Index{}, stages: map[string]*stage{}, drawn: map[glyphKey]string{}, faces: map[string]*typeset.Face{}, fonts: fontsOf(d), family: familyOf(d)}
	if look.Dark {
		c.ink = darkInk
	}
	return c
}

type canvas struct {
	strings.Builder
	d       *desk.Desk
	tree    *desk.Tree // for this one picture
	look    Look
	w, h    int
	ink     inks
	indexes map[string]*icontheme.Index
	shell   string // the surface that draws the bar
	ids     int
	stages  map[string]*stage
	fonts   *fontbook
	family  string // that programs are told to use
	faces   map[string]*typeset.Face
	drawn   map[glyphKey]string // outlines in defs
	defs    strings.Builder
}

// inks are the colours of what no piece dresses yet.
type inks struct{ sky, sea, sand, window, header, line, text, quiet, shade, bar, barText string }

var (
	lightInk = inks{"#dfe6e6", "#c3d2d2", "#e9e2d2", "#faf8f3", "#efebe2", "#d2ccbf", "#2c323c", "#6b6f76", "#000000", "#2d3640", "#f2efe8"}
	darkInk  = inks{"#27313c", "#1d2832", "#34322e", "#262b33", "#2f353e", "#434a55", "#e9e6de", "#a3a6ab", "#000000", "#151a20", "#e9e6de"}
)

func (c *canvas) index(surface string) *icontheme.Index {
	name := c.look.Of(desk.FacetIcons, surface)
	key := surface + "\x00" + name
	if x, ok := c.indexes[key]; ok {
		return x
	}
	s, _ := c.d.Surface(surface)
	f, _ := s.Facet(desk.FacetIcons)
	x := c.indexOf(f.Lookup, name)
	c.indexes[key] = x
	return x
}

type cachedIndex struct {
	stamp string
	index *icontheme.Index
}

var indexes sync.Map // by desk, lookup and pack: cachedIndex

// indexOf reads the icons that a lookup finds, anew only if a folder of them
// has changed.
func (c *canvas) indexOf(l desk.Lookup, name string) *icontheme.Index {
	d := c.d
	key := d.ID + "\x00" + d.HostPath("/") + d.HostPath(d.HomePath) + "\x00" + strings.Join(l.Folders, ":") + "\x00" + strings.Join(l.Also, ":") + "\x00" + name
	if known, ok := indexes.Load(key); ok && known.(cachedIndex).stamp == known.(cachedIndex).index.Stamp(c.tree) {
		return known.(cachedIndex).index
	}
	x := reading.IconIndex(d, l, name)
	indexes.Store(key, cachedIndex{x.Stamp(c.tree), x})
	return x
}

// icon draws what the surface's lookup finds for the first of names that is
// found, or the sign for a missing icon.
func (c *canvas) icon(surface string, x, y, size int, names ...string) {
	icon, _, ok := c.index(surface).LookupBest(names, size, 1)
	if ok {
		if uri, ok := DataURI(c.tree, icon.Path); ok {
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
	c.symbolicAt(surface, float64(x), float64(y), float64(size), colour, name)
}

func (c *canvas) symbolicAt(surface string, x, y, size float64, colour, name string) {
	plain := strings.TrimSuffix(name, "-symbolic")
	names := []string{name}
	if plain == name {
		names = []string{name + "-symbolic", name}
	} else {
		names = append(names, plain)
	}
	icon, _, ok := c.index(surface).LookupBest(names, int(size), 1)
	uri := ""
	if ok {
		uri, ok = DataURI(c.tree, icon.Path)
	}
	if !ok || !strings.Contains(icon.Path, "-symbolic.") {
		c.icon(surface, int(x+0.5), int(y+0.5), int(size), names...)
		return
	}
	c.ids++
	c.printf(`<mask id="m%d" mask-type="alpha"><image x="%s" y="%s" width="%s" height="%s" href="%s"/></mask><rect x="%s" y="%s" width="%s" height="%s" fill="%s" mask="url(#m%d)"><title>%s</title></rect>`,
		c.ids, n(x), n(y), n(size), n(size), uri, n(x), n(y), n(size), n(size), colour, c.ids, esc(plain+" · "+icon.Theme))
}

func (c *canvas) rect(x, y, w, h, r int, fill string, more ...string) {
	fmt.Fprintf(c, `<rect x="%d" y="%d" width="%d" height="%d" rx="%d" fill="%s" %s/>`, x, y, w, h, r, fill, strings.Join(more, " "))
}

// words writes a line in the desk's own font; anchor is start, middle or end.
func (c *canvas) words(x, y float64, fill, anchor, s string, size, weight float64) {
	face := c.font(gtkcss.Font{Weight: weight})
	line := face.Set(s, size)
	switch anchor {
	case "middle":
		x -= line.Width / 2
	case "end":
		x -= line.Width
	}
	c.glyphs(face, line, size, x, y, fill)
}

func esc(s string) string {
	return strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;", `"`, "&#34;", "'", "&#39;").Replace(strings.ToValidUTF8(s, "?"))
}

func (c *canvas) programs() []desktopentry.Program {
	return desktopentry.List(c.tree, c.d.Folders([]string{"{data}/applications", "{data-dirs}/applications"}))
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
			raw, err := fs.ReadFile(c.tree, desk.Name(p))
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
