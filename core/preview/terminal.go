package preview

import (
	_ "embed"
	"fmt"
	"io/fs"

	_ "golang.org/x/image/webp"

	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/paint"
	"ivelt/core/palette"
	"ivelt/core/reading"
)

// Palette reads a palette of the desk, as the first terminal that looks for one
// of that name finds it.
func (c *Canvas) Palette(name string) (palette.Palette, bool) {
	if name == "" {
		return palette.Palette{}, false
	}
	for _, s := range c.D.Surfaces() {
		f, ok := s.Facet(desk.FacetPalette)
		if !ok {
			continue
		}
		if file, err := reading.Find(c.D, f.Lookup, name); err == nil && file != "" {
			if raw, err := fs.ReadFile(c.tree, desk.Name(file)); err == nil {
				p, err := palette.Parse(raw)
				return p, err == nil
			}
		}
	}
	return palette.Palette{}, false
}

const terminalWidth, terminalHeight = 640, 330

// said is what the pictured terminal has on it: words, and which of the colours
// each is in, -1 for the ink.
var said = [][]struct {
	colour int
	text   string
}{
	{{10, "mara"}, {-1, " in "}, {12, "~/Documents"}, {-1, " ls"}},
	{{4, "charts"}, {-1, "  station-rules.txt  "}, {2, "tide-log"}, {-1, "  "}, {5, "pier.png"}, {-1, "  "}, {1, "swell.tar"}},
	{{10, "mara"}, {-1, " in "}, {12, "~/Documents"}, {-1, " tide-log --today"}},
	{{3, "06:40"}, {-1, "  high water  "}, {6, "3.41 m"}, {-1, "   "}, {2, "rising"}},
	{{3, "12:52"}, {-1, "  low water   "}, {6, "0.62 m"}, {-1, "   "}, {9, "falling"}},
	{{11, "warning"}, {-1, "  the lamp is "}, {13, "dim"}, {8, "  since Tuesday"}},
}

// Terminal draws a terminal of the desk in the look: its palette, its font, and
// as much of the backdrop as its opacity lets through. All sixteen colours stand
// below what is written.
func Terminal(d *desk.Desk, look Look, surface string) []byte {
	c := NewCanvas(d, look, terminalWidth, terminalHeight)
	return c.drawn(Scene{draw: func(c *Canvas) { c.terminal(surface) }})
}

func (c *Canvas) terminal(surface string) {
	look := c.look
	c.backdrop()
	p, ok := c.Palette(look.Of(desk.FacetPalette, surface))
	if !ok {
		p = plainPalette
	}
	s := &Stage{Canvas: c, surface: surface, family: c.familyOf(look.Of(desk.FacetFontMono, surface))}
	_, pt := desk.SplitFont(look.Of(desk.FacetFontMono, surface))
	if pt < 6 || pt > 20 {
		pt = 11
	}
	size := pt * 96 / 72
	face, lead := s.Face(gtkcss.Font{Weight: 400}), size*1.45
	x, y, w, h := 24, 18, c.w-48, c.h-36
	of, _ := c.D.Surface(surface)
	if _, sized := of.Facet(desk.FacetColumns); sized { // as far as the picture reaches, and the colours find room
		columns, rows := look.number(desk.FacetColumns, surface, 80), look.number(desk.FacetRows, surface, 24)
		w = min(max(int(float64(columns)*face.Set("0", size).Width)+28, 200), w)
		h = min(max(int(float64(rows)*lead)+24, 120), h)
	}
	if blur := min(max(look.number(desk.FacetGroundBlur, surface, 0), 0), 64); blur > 0 {
		c.Printf(`<clipPath id="window"><rect x="%d" y="%d" width="%d" height="%d"/></clipPath><filter id="behind" filterUnits="userSpaceOnUse" color-interpolation-filters="sRGB" x="0" y="0" width="%d" height="%d"><feGaussianBlur stdDeviation="%s"/></filter><g clip-path="url(#window)"><g filter="url(#behind)">`,
			x, y, w, h, c.w, c.h, paint.Number(float64(blur)/2))
		c.backdrop()
		c.WriteString(`</g></g>`)
	}
	c.Printf(`<rect x="%d" y="%d" width="%d" height="%d" fill="%s" fill-opacity="%s"/>`, x, y, w, h, p.Ground.Hex(), paint.Number(float64(min(max(look.number(desk.FacetGround, surface, 100), 20), 100))/100))
	c.mark(desk.FacetPalette, surface, float64(x), float64(y), float64(w), float64(h))
	at := float64(y+12) + size
	if look.Of(desk.FacetEdges, surface) != "hidden" {
		c.Printf(`<path d="M%d %dh%dv22h-%dz" fill="%s" fill-opacity="0.12"/><path d="M%d %dv%d" stroke="%s" stroke-opacity="0.35" stroke-width="5"/>`, x, y, w, w, p.Ink.Hex(), x+w-6, y+30, 90, p.Ink.Hex())
		left := float64(x + 12)
		for _, word := range []string{"File", "Edit", "View"} {
			line := face.Set(word, 12)
			c.Glyphs(face, line, 12, left, float64(y+15), p.Ink.Hex())
			left += line.Width + 18
		}
		at += 22
	}
	c.Printf(`<svg width="%d" height="%d">`, x+w-8, y+h-44) // what is longer ends with the window
	for _, row := range said {
		left := float64(x + 14)
		for _, part := range row {
			ink := p.Ink
			if part.colour >= 0 {
				ink = p.Colours[part.colour]
			}
			line := face.Set(part.text, size)
			c.Glyphs(face, line, size, left, at, ink.Hex())
			left += line.Width
		}
		at += lead
	}
	c.WriteString(`</svg>`)
	edge := (w - 28) / 8
	for i, colour := range p.Colours {
		c.Printf(`<rect x="%d" y="%d" width="%d" height="14" fill="%s"/>`, x+14+i%8*edge, y+h-40+i/8*16, edge-3, colour.Hex())
	}
	c.Printf(`<rect x="%d.5" y="%d.5" width="%d" height="%d" fill="none" stroke="#000000" stroke-opacity="0.35"/>`, x, y, w-1, h-1)
}

// plainPalette stands for the colours that a terminal has in itself.
var plainPalette = func() palette.Palette {
	file := []byte("*.background: #20242a\n*.foreground: #d8d8d4\n")
	for i, hex := range []string{"#2a2e34", "#c4605a", "#7ba66b", "#c9a657", "#6a92bd", "#a47cae", "#62a5a0", "#c6c6c2", "#666c74", "#de7d76", "#93c082", "#e0bf72", "#84add6", "#bf97c8", "#7dc0ba", "#f0f0ec"} {
		file = fmt.Appendf(file, "*.color%d: %s\n", i, hex)
	}
	p, err := palette.Parse(file)
	if err != nil {
		panic(err) // written here
	}
	return p
}()
