package preview

import (
	"fmt"
	"math"

	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/paint"
	"ivelt/core/typeset"
)

// The size of a poster, px at 1×.
const PosterWidth, PosterHeight = 1600, 1000

// Poster is a look to be shown to others: its picture, and what it is made of.
type Poster struct {
	Title, About, Day string
	Pieces            []Credit
	Values            []Credit
}

// Credit is a piece of a look, or a value.
type Credit struct {
	For, Name string
	Details   string // version, maker, licence
	Swatch    string // a colour, #rrggbb
}

// Where things stand on a poster, px.
const (
	posterEdge  = 40
	posterWide  = 1184 // of the picture
	posterHigh  = 740
	creditsAt   = posterEdge + posterWide + posterEdge
	creditsWide = PosterWidth - creditsAt - posterEdge
	creditHigh  = 74
	maxCredits  = posterHigh / creditHigh
	maxValues   = 7
)

// Draw pictures a look of a desk on a poster, as SVG: in the look's own font, ink and ground.
func (p Poster) Draw(d *desk.Desk, look Look) []byte {
	c, scene := newScene(d, look, "desk")
	fmt.Fprintf(c, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" width="%[1]d" height="%[2]d"><title>%s</title>`, PosterWidth, PosterHeight, paint.Escape(p.Title))
	ground, ink := c.paper()
	quiet := between(ink, ground, 0.3)
	c.Printf(`<rect width="%d" height="%d" fill="%s"/>`, PosterWidth, PosterHeight, ground.Hex())
	c.Printf(`<svg x="%d" y="%d" width="%d" height="%d" viewBox="0 0 %d %d">`, posterEdge, posterEdge, posterWide, posterHigh, scene.Width, scene.Height)
	c.ahead()
	scene.draw(c)
	c.Printf(`</svg><rect x="%g" y="%g" width="%d" height="%d" fill="none" stroke="%s" stroke-opacity="0.4"/>`, posterEdge-0.5, posterEdge-0.5, posterWide+1, posterHigh+1, quiet.Hex())

	words := c.Stage(c.written())
	plain, bold := words.Face(gtkcss.Font{Weight: 400}), words.Face(gtkcss.Font{Weight: 700})
	say := func(face *typeset.Face, text string, size, x, y, room float64, in colour.Colour) {
		c.Glyphs(face, cut(face, text, size, room), size, x, y, in.Hex())
	}
	pieces, more := p.Pieces, 0
	if len(pieces) > maxCredits {
		pieces, more = pieces[:maxCredits-1], len(pieces)-maxCredits+1
	}
	y := float64(posterEdge)
	for _, credit := range pieces {
		say(plain, credit.For, 14, creditsAt, y+14, creditsWide, quiet)
		say(bold, credit.Name, 21, creditsAt, y+37, creditsWide, ink)
		say(plain, credit.Details, 14, creditsAt, y+56, creditsWide, quiet)
		y += creditHigh
	}
	if more > 0 {
		say(plain, fmt.Sprintf("and %d more", more), 17, creditsAt, y+24, creditsWide, quiet)
	}

	foot := float64(posterEdge + posterHigh)
	say(bold, p.Title, 42, posterEdge, foot+68, posterWide, ink)
	say(plain, p.About, 18, posterEdge, foot+98, posterWide, quiet)
	values := p.Values[:min(len(p.Values), maxValues)]
	for i, v := range values {
		room := float64(posterWide) / maxValues
		x := posterEdge + float64(i)*room
		say(plain, v.For, 14, x, foot+142, room-12, quiet)
		if v.Swatch != "" {
			c.Printf(`<circle cx="%s" cy="%s" r="8" fill="%s" stroke="%s" stroke-opacity="0.5"/>`, paint.Number(x+8), paint.Number(foot+159), paint.Escape(v.Swatch), quiet.Hex())
			x, room = x+24, room-24
		}
		say(plain, v.Name, 17, x, foot+165, room-12, ink)
	}
	say(plain, p.Day, 14, creditsAt, foot+142, creditsWide, quiet)
	c.Printf(`<g transform="translate(%d %s)" fill="none" stroke="%s"><path d="M2 2h14v5.5l-3 1.500 3 1.500V16H2Z" stroke-width="1.6"/><circle cx="5.6" cy="5.6" r="1.5" fill="%[3]s" stroke="none"/></g>`, creditsAt, paint.Number(foot+151), quiet.Hex())
	say(plain, "Drawn by Ivelt from the pieces' files", 14, creditsAt+26, foot+165, creditsWide-26, quiet)
	if c.Defs.Len() > 0 {
		c.WriteString("<defs>" + c.Defs.String() + "</defs>")
	}
	c.WriteString("</svg>")
	return []byte(c.String())
}

// written is the surface whose font and colours a poster takes.
func (c *Canvas) written() string {
	for _, id := range []string{"gtk3", "gtk4"} {
		if _, ok := c.D.Surface(id); ok {
			return id
		}
	}
	return c.Shell
}

// paper is the ground and the ink of the look's windows; our own where text could not be read
// on it.
func (c *Canvas) paper() (ground, ink colour.Colour) {
	st := c.Stage(c.written()).Styles.Compute("window.background")
	fill, text := st.Fill(), st.Colour("color")
	ground, ink = colour.Colour{R: fill.R, G: fill.G, B: fill.B}, colour.Colour{R: text.R, G: text.G, B: text.B}
	if fill.A < 1 || colour.Contrast(ground, ink) < 7 {
		return colour.Colour{R: 0.98, G: 0.98, B: 0.97}, colour.Colour{R: 0.12, G: 0.13, B: 0.15}
	}
	return ground, ink
}

// cut is a line of text, its end left out where there is no room for it, px.
func cut(face *typeset.Face, text string, size, room float64) typeset.Line {
	line := face.Set(text, size)
	letters := []rune(text)
	for line.Width > room && len(letters) > 1 {
		keep := int(math.Min(float64(len(letters)-1), float64(len(letters))*room/line.Width))
		letters = letters[:max(keep, 1)]
		line = face.Set(string(letters)+"…", size)
	}
	return line
}

// between is a colour a part of the way from one to another.
func between(from, to colour.Colour, part float64) colour.Colour {
	return colour.Colour{R: from.R + part*(to.R-from.R), G: from.G + part*(to.G-from.G), B: from.B + part*(to.B-from.B)}
}
