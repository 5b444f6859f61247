// Package sign draws what stands for things on pages: tags of pieces, from their own files, and
// beads, which tell what a surface shows for a facet.
package sign

import (
	_ "embed"
	"strings"

	_ "golang.org/x/image/webp"

	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/gtkrc"
	"ivelt/core/paint"
	"ivelt/core/preview"
	"ivelt/core/reading"
)

// bead is a canvas of 32 px square.
type bead struct {
	*preview.Canvas
	look preview.Look
}

// Bead draws, 32 px square, what stands for what a surface shows for a facet:
// the folder of its icons, its windows' colours, its arrow, a letter of its font.
func Bead(d *desk.Desk, look preview.Look, facet, surface string) []byte {
	c := bead{preview.NewCanvas(d, look, 32, 32), look}
	c.WriteString(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 32 32" width="32" height="32">`)
	value := look.Of(facet, surface)
	info, _ := desk.FacetOf(facet)
	switch {
	case facet == desk.FacetWidgets || facet == desk.FacetBar:
		c.swatch(surface)
	case facet == desk.FacetNotices || facet == desk.FacetFrame:
		c.strip(surface, facet)
	case facet == desk.FacetLogin:
		c.gate(surface, value)
	case facet == desk.FacetPalette:
		c.colours(value)
	case facet == desk.FacetPictures:
		if at, err := reading.Find(c.D, c.lookup(surface, facet), value); err == nil && at != "" {
			if uri, ok := c.DataURI(desk.Name(at)); ok {
				c.Printf(`<image x="1" y="1" width="30" height="30" href="%s"/>`, uri)
				break
			}
		}
		c.middle(c.Lettering(surface, desk.FacetFont), value, 15, "#6a7078")
	case facet == desk.FacetPointer || facet == desk.FacetLoginPointer:
		c.arrow(surface)
	case facet == desk.FacetIcons || facet == desk.FacetLoginIcons:
		c.Icon(surface, 0, 0, 32, "folder")
	case info.Takes == desk.TakesShade:
		c.shade(value)
	case info.Takes == desk.TakesColour:
		if info.Accepts(value) == nil {
			c.Printf(`<circle cx="16" cy="16" r="13" fill="%s"/>`, value)
		}
	case info.Takes == desk.TakesButtons:
		c.buttons(value)
	case info.Takes == desk.TakesFont:
		c.middle(c.Lettering(surface, facet), "Ag", 20, "#6a7078")
	case info.Takes == desk.TakesPicture:
		if f, ok := c.Filling(value, 30, 22); value != "" && ok {
			c.Printf(`<svg x="1" y="5" width="30" height="22">%s</svg>`, f.Image("", 30, 22))
		}
		c.WriteString(`<rect x="1" y="5" width="30" height="22" rx="2" fill="none" stroke="#808080"/>`)
	default:
		c.middle(c.Lettering(surface, desk.FacetFont), value, 15, "#6a7078")
	}
	if c.Defs.Len() > 0 {
		c.WriteString("<defs>" + c.Defs.String() + "</defs>")
	}
	c.WriteString("</svg>")
	return []byte(c.String())
}

func (c bead) lookup(surface, facet string) desk.Lookup {
	s, _ := c.D.Surface(surface)
	f, _ := s.Facet(facet)
	return f.Lookup
}

// middle sets a short text in the middle, in the surface's font, as large as it
// fits in.
func (c bead) middle(s *preview.Stage, text string, size float64, colour string) {
	face := s.Face(gtkcss.Font{Weight: 400})
	line := face.Set(text, size)
	if line.Width > 30 {
		size *= 30 / line.Width
		line = face.Set(text, size)
	}
	c.Glyphs(face, line, size, 16-line.Width/2, 16+size*0.36, colour)
}

// strip draws a notice, or a title bar, in the theme that is set for it.
func (c bead) strip(surface, facet string) {
	s := c.StageFor(surface, facet)
	of, kid := gtkcss.New("frame"), gtkcss.New("button")
	if facet == desk.FacetNotices {
		of, kid = gtkcss.New("notice"), gtkcss.New("button.default")
	}
	of.Add(kid)
	fill, on := s.Styles.Style(of).Fill().CSS(), s.Styles.Style(of).Colour("color").CSS()
	if facet == desk.FacetFrame {
		c.Printf(`<rect x="1" y="8" width="30" height="17" rx="2" fill="#ffffff" fill-opacity="0.7"/><path d="M1 15v-5a2 2 0 0 1 2-2h26a2 2 0 0 1 2 2v5z" fill="%s"/><path d="M5 11.500h9" stroke="%[2]s" stroke-width="2"/><circle cx="27" cy="11.500" r="1.600" fill="%[2]s"/>`, fill, on)
	} else {
		c.Printf(`<rect x="2" y="8" width="28" height="17" rx="2" fill="%s"/><path d="M6 13h12M6 17h9" stroke="%s" stroke-width="2"/><rect x="19" y="18" width="8" height="4" fill="%s"/>`, fill, on, s.Styles.Style(kid).Fill().CSS())
	}
	c.WriteString(`<rect x="1.500" y="8" width="29" height="17" rx="2" fill="none" stroke="#808080" stroke-opacity="0.6"/>`)
}

// gate draws a login screen, small.
func (c bead) gate(surface, theme string) {
	s, _ := c.D.Surface(surface)
	look := c.look.Only(map[string]map[string]string{desk.FacetLogin: {surface: theme}, desk.FacetPane: {surface: "hidden"}})
	c.Printf(`<clipPath id="gate"><rect x="1" y="5" width="30" height="22" rx="2"/></clipPath><g clip-path="url(#gate)"><g transform="translate(-2 5) scale(0.056)">`)
	c.Login(look, s)
	c.WriteString(`</g></g><rect x="1.500" y="5.500" width="29" height="21" rx="2" fill="none" stroke="#808080" stroke-opacity="0.6"/>`)
}

// colours draws a palette: its ground, and the first colours on it.
func (c bead) colours(name string) {
	p, ok := c.Palette(name)
	if !ok {
		c.WriteString(`<rect x="2" y="6" width="28" height="20" rx="2" fill="none" stroke="#808080"/><path d="M7 12l4 4-4 4M14 20h7" fill="none" stroke="#808080" stroke-width="2"/>`)
		return
	}
	c.Printf(`<rect x="1" y="5" width="30" height="22" rx="2" fill="%s" stroke="#808080" stroke-opacity="0.5"/>`, p.Ground.Hex())
	for i := range 6 {
		c.Printf(`<rect x="%d" y="%d" width="7" height="5" fill="%s"/>`, 4+i%3*9, 9+i/3*8, p.Colours[i+1].Hex())
	}
}

func (c bead) shade(value string) {
	const light, dark = `#f4f1e8`, `#262b33`
	left, right := light, light
	switch value {
	case "dark":
		left, right = dark, dark
	case "automatic":
		right = dark
	}
	c.Printf(`<path d="M16 3a13 13 0 0 0 0 26z" fill="%s"/><path d="M16 3a13 13 0 0 1 0 26z" fill="%s"/><circle cx="16" cy="16" r="13" fill="none" stroke="#808080" stroke-width="1.500"/>`, left, right)
}

// buttons draws a title bar with as many buttons on each side as a value says.
func (c bead) buttons(value string) {
	c.WriteString(`<rect x="1" y="9" width="30" height="14" rx="3" fill="none" stroke="#808080"/>`)
	before, after, _ := strings.Cut(value, ":")
	count := func(side string) (n int) {
		for name := range strings.SplitSeq(side, ",") {
			if name == "close" || name == "minimize" || name == "maximize" {
				n++
			}
		}
		return n
	}
	for i := range count(before) {
		c.Printf(`<circle cx="%d" cy="16" r="2" fill="#6a7078"/>`, 6+i*6)
	}
	for i := range count(after) {
		c.Printf(`<circle cx="%d" cy="16" r="2" fill="#6a7078"/>`, 26-i*6)
	}
}

// swatch draws a small window in the colours that a surface's theme computes:
// its ground, its header bar, what is chosen, and text; of a shell its bar and
// a notice.
func (c bead) swatch(surface string) {
	if surface == "gtk2" {
		o := c.Older()
		window, bar, view := o.Style(), o.Style("GtkMenuBar"), o.Style("GtkTreeView")
		c.Printf(`<rect x="1" y="3" width="30" height="26" rx="3" fill="%s"/><path d="M1 10V6a3 3 0 0 1 3-3H28a3 3 0 0 1 3 3V10Z" fill="%s"/>`, window.Bg[gtkrc.Normal].CSS(), bar.Bg[gtkrc.Normal].CSS())
		c.Printf(`<rect x="5" y="13" width="22" height="13" fill="%s"/><rect x="5" y="16" width="22" height="4" fill="%s"/><rect x="7" y="22" width="9" height="2" fill="%s"/><rect x="1.500" y="3.500" width="29" height="25" rx="2.500" fill="none" stroke="#808080" stroke-opacity="0.5"/>`,
			view.Base[gtkrc.Normal].CSS(), view.Base[gtkrc.Selected].CSS(), view.Text[gtkrc.Normal].CSS())
		return
	}
	s := c.Stage(surface)
	if surface == c.Shell {
		panel, notice := s.Styles.Style(gtkcss.New("panel.top")), gtkcss.New("notice")
		button := gtkcss.New("button.default")
		notice.Add(button)
		c.Printf(`<rect x="1" y="3" width="30" height="26" rx="3" fill="%s"/><path d="M1 12V6a3 3 0 0 1 3-3H28a3 3 0 0 1 3 3V12Z" fill="%s"/><rect x="5" y="6" width="9" height="2" fill="%s"/>`, c.Ink.Ground, panel.Fill().CSS(), panel.Colour("color").CSS())
		c.Printf(`<rect x="12" y="16" width="16" height="10" rx="1.500" fill="%s"/><rect x="19" y="21" width="7" height="3" fill="%s"/><rect x="1.500" y="3.500" width="29" height="25" rx="2.500" fill="none" stroke="#808080" stroke-opacity="0.5"/>`, s.Styles.Style(notice).Fill().CSS(), s.Styles.Style(button).Fill().CSS())
		return
	}
	window, bar := gtkcss.New("window.background.csd"), gtkcss.New("headerbar.titlebar")
	act := gtkcss.New("button.suggested-action.text-button")
	row := gtkcss.New("row:selected")
	window.Add(bar, gtkcss.New("box.vertical").Add(act, gtkcss.New("list").Add(row)))
	c.Printf(`<rect x="1" y="3" width="30" height="26" rx="3" fill="%s"/><path d="M1 10V6a3 3 0 0 1 3-3H28a3 3 0 0 1 3 3V10Z" fill="%s"/>`,
		s.Styles.Style(window).Fill().CSS(), s.Styles.Style(bar).Fill().CSS())
	c.Printf(`<rect x="5" y="14" width="22" height="4" fill="%s"/><rect x="17" y="21" width="10" height="5" rx="1.500" fill="%s"/><rect x="5" y="22.500" width="9" height="2" fill="%s"/><rect x="1.500" y="3.500" width="29" height="25" rx="2.500" fill="none" stroke="#808080" stroke-opacity="0.5"/>`,
		s.Styles.Style(row).Fill().CSS(), s.Styles.Style(act).Fill().CSS(), s.Styles.Style(window).Colour("color").CSS())
}

// arrow draws the arrow that a surface shows.
func (c bead) arrow(surface string) {
	if f := c.Shape(surface, preview.Shapes[0]); f != nil {
		im := f.Frames(f.Best(24))[0]
		c.Printf(`<image x="%d" y="%d" width="%d" height="%d" href="%s"/>`, (32-im.Rect.Dx())/2, (32-im.Rect.Dy())/2, im.Rect.Dx(), im.Rect.Dy(), paint.PNG(f.Picture(im)))
	} else {
		c.WriteString(`<path d="M9 6h14M9 26h14M16 6v20" stroke="#808080" stroke-width="2" stroke-dasharray="2 3" fill="none"/>`)
	}
}
