// Package specimen draws a line of text as the pixels that a desk's programs make of it: smooth
// or not, fitted to the pixels or not, with the colours of a pixel as three places or as one.
//
// What FreeType does is followed where it can be: smooth edges are exact coverage, and hinting is
// what the font's own instructions do, executed by an interpreter for TrueType. Slight hinting is
// FreeType's own fitting, which is not computed; nor is that of fonts without instructions.
package specimen

import (
	"image"
	"image/color"
	"math"
	"slices"

	"github.com/golang/freetype/truetype"
	"golang.org/x/image/font"
	"golang.org/x/image/math/fixed"
	"golang.org/x/image/vector"

	"ivelt/core/typeset"
)

// Font is a face with its instructions.
type Font struct {
	Set    *typeset.Face
	hinted *truetype.Font
	whole  bool // its instructions are for whole sizes in px
}

// Load reads a face of a font file; index counts in collections.
func Load(raw []byte, index int) (*Font, error) {
	set, err := typeset.Load(raw, index)
	if err != nil {
		return nil, err
	}
	f := &Font{Set: set}
	if index != 0 {
		return f, nil
	}
	tables := typeset.Tables(raw, 0)
	if len(tables["glyf"]) > 0 && len(tables["fpgm"]) > 0 {
		f.hinted = parse(raw)
		f.whole = len(tables["head"]) >= 18 && tables["head"][17]&8 != 0
	}
	return f, nil
}

func parse(raw []byte) (f *truetype.Font) {
	defer func() { // a damaged font must not end the program
		if recover() != nil {
			f = nil
		}
	}()
	f, err := truetype.Parse(raw)
	if err != nil {
		return nil
	}
	return f
}

// Hints reports whether the font's instructions can be executed.
func (f *Font) Hints() bool { return f.hinted != nil }

// Hinting is how far letters are fitted to the pixels.
type Hinting int

const (
	Unhinted Hinting = iota
	// UpAndDown is what FreeType's interpreter does since 2.7 (version 40): the instructions move
	// nothing sidewards.
	UpAndDown
	// Whole is what it did before, and does if it is told (version 35).
	Whole
)

// Rendering is how text is drawn.
type Rendering struct {
	Hard    bool // no smooth edges
	Hinting Hinting
	Order   string // of a pixel's colours: "" for one, rgb, bgr, vrgb, vbgr
}

// Bounds of what is drawn.
const (
	maxLetters = 400
	maxSize    = 512.0 // px
	maxWide    = 4096  // px
	maxFitted  = 96.0  // px: of larger letters nobody sees it
)

const (
	fineBits = 4
	finer    = 1 << fineBits
)

// Line is a line of text in pixels. Of each pixel there are three parts, how much of it is covered
// from 0 to 255, in the order red, green, blue.
type Line struct {
	Wide, High int
	Base       int // px from the top
	Cover      []uint8
}

// Draw draws a line of text at a size in px, each letter on a whole pixel as Pango sets them.
// What is longer than a few hundred letters is cut.
func (f *Font) Draw(text string, size float64, r Rendering) Line {
	if runes := []rune(text); len(runes) > maxLetters {
		text = string(runes[:maxLetters])
	}
	size = min(max(size, 1), maxSize)
	set := f.Set.Set(text, size).Snap()
	up, down := f.Set.Heights(size)
	base := int(math.Ceil(min(max(up, size/2), 3*size))) + 1
	out := Line{Wide: min(int(math.Ceil(set.Width))+4, maxWide), High: base + int(math.Ceil(min(max(down, size/8), 3*size))) + 1, Base: base}
	across, along := 1, 1 // parts of a pixel
	switch r.Order {
	case "rgb", "bgr":
		across = 3
	case "vrgb", "vbgr":
		along = 3
	}
	if r.Hard {
		across, along = 1, 1
	}
	z := vector.NewRasterizer(out.Wide*across, out.High*along)
	pen := Pen(flat{z, &[2]float32{}})
	if along == 3 {
		pen = tall{pen}
	}
	var glyph truetype.GlyphBuf
	known := map[uint32]outline{} // each letter is fitted once, whatever its instructions take
	for _, g := range set.Glyphs {
		x, y := g.X+2, float64(base)+g.Y
		of, has := known[g.ID]
		if !has {
			points, ends, ok := f.Points(&glyph, g.ID, size, r.Hinting)
			of = outline{points, slices.Clone(ends), ok}
			known[g.ID] = of
		}
		if of.ok {
			of.draw(x, y, float64(across), pen)
		} else {
			f.Set.Trace(g.ID, size, x, y, float64(across), pen)
		}
	}
	mask := image.NewAlpha(image.Rect(0, 0, out.Wide*across, out.High*along))
	z.Draw(mask, mask.Bounds(), image.Opaque, image.Point{})
	out.Cover = parts(mask, out.Wide, out.High, across, along, r)
	return out
}

// Pen is what outlines are drawn with.
type Pen = typeset.Pen

// flat draws curves as the lines that FreeType draws them as (ftgrays.c of FreeType 2.12,
// gray_render_conic and gray_render_cubic): a quarter and half a pixel is what it lets them be off.
type flat struct {
	*vector.Rasterizer
	at *[2]float32
}

func (f flat) MoveTo(x, y float32) {
	*f.at = [2]float32{x, y}
	f.Rasterizer.MoveTo(x, y)
}

func (f flat) LineTo(x, y float32) {
	*f.at = [2]float32{x, y}
	f.Rasterizer.LineTo(x, y)
}

func (f flat) QuadTo(x1, y1, x, y float32) {
	x0, y0 := f.at[0], f.at[1]
	n := 1
	for bent := max(abs(x0-2*x1+x), abs(y0-2*y1+y)); bent > 0.25 && n < 1024; bent /= 4 {
		n *= 2
	}
	for i := 1; i < n; i++ {
		t := float32(i) / float32(n)
		a, b, c := (1-t)*(1-t), 2*t*(1-t), t*t
		f.Rasterizer.LineTo(a*x0+b*x1+c*x, a*y0+b*y1+c*y)
	}
	f.LineTo(x, y)
}

func (f flat) CubeTo(x1, y1, x2, y2, x, y float32) { f.cube(*f.at, x1, y1, x2, y2, x, y, 0) }

// deepest bounds how often a curve is halved.
const deepest = 12

func (f flat) cube(from [2]float32, x1, y1, x2, y2, x, y float32, deep int) {
	x0, y0 := from[0], from[1]
	if deep == deepest || abs(2*x0-3*x1+x) <= 0.5 && abs(2*y0-3*y1+y) <= 0.5 && abs(x0-3*x2+2*x) <= 0.5 && abs(y0-3*y2+2*y) <= 0.5 {
		f.LineTo(x, y)
		return
	}
	half := func(a, b float32) float32 { return (a + b) / 2 }
	ax, ay, mx, my, bx, by := half(x0, x1), half(y0, y1), half(x1, x2), half(y1, y2), half(x2, x), half(y2, y)
	cx, cy, dx, dy := half(ax, mx), half(ay, my), half(mx, bx), half(my, by)
	ex, ey := half(cx, dx), half(cy, dy)
	f.cube(from, ax, ay, cx, cy, ex, ey, deep+1)
	f.cube([2]float32{ex, ey}, dx, dy, bx, by, x, y, deep+1)
}

func abs(x float32) float32 { return max(x, -x) }

// tall draws with pixels that are three parts high.
type tall struct{ Pen }

func (t tall) MoveTo(x, y float32)             { t.Pen.MoveTo(x, 3*y) }
func (t tall) LineTo(x, y float32)             { t.Pen.LineTo(x, 3*y) }
func (t tall) QuadTo(a, b, x, y float32)       { t.Pen.QuadTo(a, 3*b, x, 3*y) }
func (t tall) CubeTo(a, b, c, d, x, y float32) { t.Pen.CubeTo(a, 3*b, c, 3*d, x, 3*y) }

// filter spreads a part of a pixel over five, so that colours do not stand out: FreeType's usual
// one (ftlcdfil.c, FT_LCD_FILTER_DEFAULT), in 256ths.
var filter = [5]int{0x08, 0x4D, 0x56, 0x4D, 0x08}

// parts are the three parts of each pixel of a mask.
func parts(mask *image.Alpha, w, h, across, along int, r Rendering) []uint8 {
	out := make([]uint8, 3*w*h)
	at := func(x, y int) int {
		if x < 0 || y < 0 || x >= w*across || y >= h*along {
			return 0
		}
		return int(mask.Pix[y*mask.Stride+x])
	}
	for y := range h {
		for x := range w {
			for c := range 3 {
				v := at(x*across, y*along)
				part := c
				if r.Order == "bgr" || r.Order == "vbgr" {
					part = 2 - c
				}
				switch {
				case across == 3:
					v = 0
					for i, k := range filter {
						v += k * at(3*x+part+i-2, y)
					}
					v = min(v>>8, 255)
				case along == 3:
					v = 0
					for i, k := range filter {
						v += k * at(x, 3*y+part+i-2)
					}
					v = min(v>>8, 255)
				case r.Hard && v < 128:
					v = 0
				case r.Hard:
					v = 255
				}
				out[3*(y*w+x)+c] = uint8(v)
			}
		}
	}
	return out
}

// outline is a letter as its instructions set it.
type outline struct {
	points []Point
	ends   []int
	ok     bool
}

func (o outline) draw(x, y, wide float64, to Pen) {
	from := 0
	for _, end := range o.ends {
		contour(o.points[from:end], func(p [2]float64) (float32, float32) {
			return float32((x + p[0]/64) * wide), float32(y - p[1]/64)
		}, to)
		from = end
	}
}

// Point is a point of an outline, in 64ths of a pixel, y up.
type Point struct {
	X, Y fixed.Int26_6
	On   bool // it is on the outline
}

// Points are the points of a glyph at a size in px as the font's instructions set them, and where
// each contour ends among them; false if there are no instructions, or they fail.
func (f *Font) Points(glyph *truetype.GlyphBuf, id uint32, size float64, h Hinting) (points []Point, ends []int, ok bool) {
	if f.hinted == nil || h == Unhinted || size > maxFitted {
		return nil, nil, false
	}
	defer func() { // a damaged font must not end the program
		if recover() != nil {
			points, ends, ok = nil, nil, false
		}
	}()
	if f.whole { // ttobjs.c, tt_size_reset
		size = math.Round(size)
	}
	scale := fixed.Int26_6(math.Round(size * 64))
	var sidewards []fixed.Int26_6
	if h == UpAndDown {
		// Parts of a compound glyph are set on whole pixels here, and there they are not: so it is
		// loaded at a multiple of its size, and made smaller.
		if err := glyph.Load(f.hinted, scale*finer, truetype.Index(id), font.HintingNone); err != nil {
			return nil, nil, false
		}
		for _, p := range glyph.Points {
			sidewards = append(sidewards, (p.X+finer/2)>>fineBits)
		}
	}
	if err := glyph.Load(f.hinted, scale, truetype.Index(id), font.HintingFull); err != nil {
		return nil, nil, false
	}
	for i, p := range glyph.Points {
		if h == UpAndDown {
			p.X = sidewards[i]
		}
		points = append(points, Point{p.X, p.Y, p.Flags&1 != 0})
	}
	return points, glyph.Ends, true
}

// contour draws a closed contour of quadratic curves, with a point between each two that are not
// on it (OpenType 1.9, table glyf).
func contour(points []Point, at func([2]float64) (float32, float32), to Pen) {
	if len(points) == 0 {
		return
	}
	of := func(p Point) [2]float64 { return [2]float64{float64(p.X), float64(p.Y)} }
	middle := func(a, b Point) Point { return Point{(a.X + b.X) / 2, (a.Y + b.Y) / 2, true} }
	start := points[0]
	rest := points[1:]
	if !start.On {
		if last := points[len(points)-1]; last.On {
			start, rest = last, points[:len(points)-1]
		} else {
			start, rest = middle(start, last), points
		}
	}
	sx, sy := at(of(start))
	to.MoveTo(sx, sy)
	var off *Point
	curve := func(end Point) {
		x, y := at(of(end))
		if off == nil {
			to.LineTo(x, y)
			return
		}
		cx, cy := at(of(*off))
		to.QuadTo(cx, cy, x, y)
		off = nil
	}
	for i, p := range rest {
		switch {
		case p.On:
			curve(p)
		case off != nil:
			curve(middle(*off, p))
			off = &rest[i]
		default:
			off = &rest[i]
		}
	}
	curve(start)
	to.ClosePath()
}

// Paint is the line in an ink on a ground, enlarged a whole number of times.
func (l Line) Paint(ink, ground color.NRGBA, times int) *image.NRGBA {
	times = min(max(times, 1), 16)
	im := image.NewNRGBA(image.Rect(0, 0, l.Wide*times, l.High*times))
	mix := func(a, b, part uint8) uint8 { return uint8((int(a)*int(part) + int(b)*(255-int(part)) + 127) / 255) }
	for y := range l.High {
		for x := range l.Wide {
			c := l.Cover[3*(y*l.Wide+x):]
			of := color.NRGBA{mix(ink.R, ground.R, c[0]), mix(ink.G, ground.G, c[1]), mix(ink.B, ground.B, c[2]), 255}
			for dy := range times {
				for dx := range times {
					im.SetNRGBA(x*times+dx, y*times+dy, of)
				}
			}
		}
	}
	return im
}

// Level is the line in a box of a height over and under the base line, px: so lines of different
// fonts stand beside each other.
func (l Line) Level(over, under int) Line {
	out := Line{Wide: l.Wide, High: over + under, Base: over, Cover: make([]uint8, 3*l.Wide*(over+under))}
	for y := range l.High {
		if to := y - l.Base + over; to >= 0 && to < out.High {
			copy(out.Cover[3*to*l.Wide:3*(to+1)*l.Wide], l.Cover[3*y*l.Wide:3*(y+1)*l.Wide])
		}
	}
	return out
}
