// Package recolour gives pictures another colour and keeps their shading: hue and chroma are
// moved in OKLCH, lightness is stretched between black and white, which stay where they are,
// and what is white, grey or black is left alone. SVG (also compressed, with styles, gradients
// and pictures in it), PNG and XPM.
package recolour

import (
	"bytes"
	"compress/gzip"
	"context"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"io"
	"math"
	"regexp"
	"strconv"
	"strings"

	"golang.org/x/image/colornames"

	"ivelt/core/colour"
	"ivelt/core/imagefile"
	"ivelt/core/xcursor"
)

// Bounds of a picture, in bytes; a drawing may be packed in that.
const (
	MaxBytes    = 8 << 20
	maxInside   = 3 // pictures in each other
	maxRemember = 1 << 16
)

// ErrPicture: the bytes are no picture that can be recoloured.
var ErrPicture = errors.New("not a picture whose colours can be changed")

// grey is the chroma up to which a colour is white, grey or black. Common practice, no source:
// icons' greys are tinted by about half of that.
const grey = 0.03

// Dye says which colour becomes which.
type Dye struct {
	From, To colour.Colour
	Within   float64 // degrees of hue around From that are changed; 0 for every hue
}

// Of is what a colour becomes.
func (d Dye) Of(c colour.Colour) colour.Colour {
	l, chroma, hue := c.LCH()
	fl, fc, fh := d.From.LCH()
	if chroma <= grey || d.Within > 0 && colour.HueDistance(hue, fh) > d.Within {
		return c
	}
	tl, tc, th := d.To.LCH()
	switch {
	case l <= fl && fl > 0:
		l *= tl / fl
	case fl < 1:
		l = 1 - (1-l)*(1-tl)/(1-fl)
	}
	turned := hue - fh
	if turned > 180 {
		turned -= 360
	} else if turned < -180 {
		turned += 360
	}
	if fc > grey {
		chroma *= tc / fc
	} else {
		turned, chroma = 0, tc
	}
	if d.Within == 0 { // from any hue to one
		turned = 0
	}
	if hue = th + turned; hue < 0 {
		hue += 360
	}
	return colour.OfLCH(l, chroma, hue)
}

// Turn says what a colour becomes: [Dye], [Fill], [Palette], [Shade].
type Turn interface {
	Of(c colour.Colour) colour.Colour
}

// Shade makes dark of what is light and the other way round, by its lightness in OKLCH: white
// becomes a dark grey and black nearly white, and that back again. What is as colourful as an
// accent stays.
type Shade struct{ Dark bool }

// The lightness that white and black get in the dark, how far what is between leans towards
// black's, so that dark text becomes light text, and the chroma from which a colour stays. Common
// practice, no source: dark themes fill windows with about that.
const (
	bend                     = 1.5
	whiteInDark, blackInDark = 0.18, 0.98
	colourful                = 0.08
)

// Of is what a colour becomes.
func (s Shade) Of(c colour.Colour) colour.Colour {
	l, chroma, hue := c.LCH()
	if chroma >= colourful {
		return c
	}
	if s.Dark {
		l = blackInDark - math.Pow(l, bend)*(blackInDark-whiteInDark)
	} else {
		l = math.Pow(max(0, blackInDark-l)/(blackInDark-whiteInDark), 1/bend)
	}
	return colour.OfLCH(min(max(l, 0), 1), chroma, hue)
}

// Dyer recolours pictures, one after the other.
type Dyer struct {
	dye     Turn
	seen    map[[3]uint8][3]uint8
	last    [2][3]uint8
	encoder png.Encoder
	buffer  *png.EncoderBuffer // what an encoder works with: large, and new for each picture else
}

// New is a dyer. It is for one goroutine.
func New(d Turn) *Dyer {
	out := &Dyer{dye: d, seen: map[[3]uint8][3]uint8{}}
	out.encoder = png.Encoder{CompressionLevel: png.BestSpeed, BufferPool: out}
	return out
}

// Get and Put are those of [png.EncoderBufferPool].
func (d *Dyer) Get() *png.EncoderBuffer  { return d.buffer }
func (d *Dyer) Put(b *png.EncoderBuffer) { d.buffer = b }

// Picture recolours a picture; changed is false where nothing in it has a colour that is
// changed. Errors are [ErrPicture], those of unpacking, or the context's.
func (d *Dyer) Picture(ctx context.Context, raw []byte) (out []byte, changed bool, err error) {
	return d.picture(ctx, raw, 0)
}

func (d *Dyer) picture(ctx context.Context, raw []byte, deep int) ([]byte, bool, error) {
	if err := ctx.Err(); err != nil {
		return nil, false, err
	}
	if len(raw) > MaxBytes {
		return nil, false, fmt.Errorf("%w: larger than %d MiB", ErrPicture, MaxBytes>>20)
	}
	switch {
	case bytes.HasPrefix(raw, []byte{0x1f, 0x8b}):
		return d.packed(ctx, raw, deep)
	case xcursor.IsXcursor(raw):
		return d.pointer(ctx, raw)
	case bytes.HasPrefix(raw, []byte("/* XPM")):
		return d.xpm(raw)
	}
	switch imagefile.MediaType(raw) {
	case "image/png":
		return d.png(ctx, raw)
	case "image/svg+xml":
		return d.svg(ctx, raw, deep)
	}
	return nil, false, ErrPicture
}

// packed is a compressed drawing, .svgz.
func (d *Dyer) packed(ctx context.Context, raw []byte, deep int) ([]byte, bool, error) {
	z, err := gzip.NewReader(bytes.NewReader(raw))
	if err != nil {
		return nil, false, fmt.Errorf("%w: %w", ErrPicture, err)
	}
	text, err := io.ReadAll(io.LimitReader(z, MaxBytes+1))
	if err != nil || imagefile.MediaType(text) != "image/svg+xml" {
		return nil, false, errors.Join(ErrPicture, err)
	}
	out, changed, err := d.picture(ctx, text, deep)
	if err != nil || !changed {
		return raw, false, err
	}
	var b bytes.Buffer
	w := gzip.NewWriter(&b)
	_, err = w.Write(out)
	err = errors.Join(err, w.Close())
	return b.Bytes(), true, err
}

// eight is what a colour of 8 bits a part becomes.
func (d *Dyer) eight(c [3]uint8) [3]uint8 {
	if c == d.last[0] { // as its neighbour, most often
		return d.last[1]
	}
	if to, ok := d.seen[c]; ok {
		d.last = [2][3]uint8{c, to}
		return to
	}
	if len(d.seen) >= maxRemember {
		clear(d.seen)
	}
	part := func(f float64) uint8 { return uint8(min(max(f, 0), 1)*255 + 0.5) }
	from := colour.Of8(c[0], c[1], c[2])
	to := c
	if of := d.dye.Of(from); of != from {
		to = [3]uint8{part(of.R), part(of.G), part(of.B)}
	}
	d.seen[c], d.last = to, [2][3]uint8{c, to}
	return to
}

func (d *Dyer) png(ctx context.Context, raw []byte) ([]byte, bool, error) {
	im, err := imagefile.Decode(ctx, raw)
	if err != nil {
		return nil, false, fmt.Errorf("%w: %w", ErrPicture, err)
	}
	changed := false
	pixel := func(c color.NRGBA) color.NRGBA {
		from := [3]uint8{c.R, c.G, c.B}
		to := d.eight(from)
		changed = changed || to != from && c.A > 0
		return color.NRGBA{to[0], to[1], to[2], c.A}
	}
	var dyed image.Image
	if p, ok := im.(*image.Paletted); ok {
		q := *p
		q.Palette = make(color.Palette, len(p.Palette))
		for i, c := range p.Palette {
			q.Palette[i] = pixel(color.NRGBAModel.Convert(c).(color.NRGBA))
		}
		dyed = &q
	} else {
		box := im.Bounds()
		q := image.NewNRGBA(box)
		if from, ok := im.(*image.NRGBA); ok { // as most are
			for i := 0; i < len(from.Pix); i += 4 {
				c := pixel(color.NRGBA{from.Pix[i], from.Pix[i+1], from.Pix[i+2], from.Pix[i+3]})
				q.Pix[i], q.Pix[i+1], q.Pix[i+2], q.Pix[i+3] = c.R, c.G, c.B, c.A
			}
			box.Max.Y = box.Min.Y // done
		}
		for y := box.Min.Y; y < box.Max.Y; y++ {
			if err := ctx.Err(); err != nil {
				return nil, false, err
			}
			for x := box.Min.X; x < box.Max.X; x++ {
				q.SetNRGBA(x, y, pixel(color.NRGBAModel.Convert(im.At(x, y)).(color.NRGBA)))
			}
		}
		dyed = q
	}
	if !changed {
		return raw, false, nil
	}
	var b bytes.Buffer
	err = d.encoder.Encode(&b, dyed)
	return b.Bytes(), true, err
}

var (
	// entity is one that stands for a colour (XML 1.0, section 4.2).
	entity = regexp.MustCompile(`(?i)(<!ENTITY\s+[\w.-]{1,80}\s+["'])(#[0-9a-f]{3,8})(["'])`)
	// inside is a picture in a drawing.
	inside = regexp.MustCompile(`data:image/(?:png|svg\+xml);base64,[A-Za-z0-9+/=\s]{16,}`)
	// pixels is a colour of an XPM ("XPM Manual", 1990: the key c).
	pixels = regexp.MustCompile(`(\bc\s+)(#[0-9A-Fa-f]{12}|#[0-9A-Fa-f]{6})\b`)
)

func (d *Dyer) svg(ctx context.Context, raw []byte, deep int) ([]byte, bool, error) {
	changed := false
	out := d.told(raw, &changed)
	if bytes.Contains(out, []byte("<!ENTITY")) {
		out = d.replaced(entity, out, &changed)
	}
	if deep >= maxInside {
		return out, changed, nil
	}
	var wrong error
	out = inside.ReplaceAllFunc(out, func(address []byte) []byte {
		head, body, _ := strings.Cut(string(address), ",")
		raw, err := base64.StdEncoding.DecodeString(strings.Join(strings.Fields(body), ""))
		if err != nil {
			return address // nobody shows it
		}
		dyed, is, err := d.picture(ctx, raw, deep+1)
		if ctx.Err() != nil {
			wrong = ctx.Err()
		}
		if err != nil || !is {
			return address
		}
		changed = true
		return []byte(head + "," + base64.StdEncoding.EncodeToString(dyed))
	})
	return out, changed, wrong
}

// painted are the properties that give something a colour (SVG 1.1, sections 11 and 13).
var painted = map[string]bool{"fill": true, "stroke": true, "stop-color": true, "flood-color": true, "lighting-color": true, "solid-color": true, "color": true}

// told is a drawing in which each colour that is given to something, as an attribute or in a
// style, is dyed.
func (d *Dyer) told(text []byte, changed *bool) []byte {
	var out []byte
	at := 0
	for i, c := range text {
		if c != ':' && c != '=' {
			continue
		}
		end := i
		for end > 0 && blank(text[end-1]) {
			end--
		}
		from := end
		for from > 0 && (letter(text[from-1]) || text[from-1] == '-') && end-from < 16 {
			from--
		}
		if !painted[strings.ToLower(string(text[from:end]))] || from > 0 && !blank(text[from-1]) && !bytes.ContainsRune([]byte(`;{"'`), rune(text[from-1])) {
			continue
		}
		from = i + 1
		for from < len(text) && (blank(text[from]) || text[from] == '"' || text[from] == '\'') {
			from++
		}
		end = from + colourAt(text[from:])
		to, ok := d.written(string(text[from:end]))
		if !ok || from < at {
			continue
		}
		*changed = true
		out = append(append(out, text[at:from]...), to...)
		at = end
	}
	if at == 0 {
		return text
	}
	return append(out, text[at:]...)
}

// colourAt is how long the colour is that a text begins with (css-color-3), 0 for none.
func colourAt(text []byte) int {
	n := 0
	switch {
	case len(text) == 0:
	case text[0] == '#':
		for n = 1; n < len(text) && n < 10 && (letter(text[n]) || text[n] >= '0' && text[n] <= '9'); n++ {
		}
	default:
		for n < len(text) && n < 24 && letter(text[n]) {
			n++
		}
		if n < len(text) && text[n] == '(' {
			if end := bytes.IndexByte(text[:min(len(text), 80)], ')'); end > 0 {
				n = end + 1
			}
		}
	}
	return n
}

func blank(c byte) bool { return c == ' ' || c == '\t' || c == '\n' || c == '\r' }

func letter(c byte) bool { return c|0x20 >= 'a' && c|0x20 <= 'z' }

func (d *Dyer) xpm(raw []byte) ([]byte, bool, error) {
	changed := false
	return d.replaced(pixels, raw, &changed), changed, nil
}

// replaced is text in which each colour that an expression finds, its second group, is dyed.
func (d *Dyer) replaced(of *regexp.Regexp, text []byte, changed *bool) []byte {
	var out []byte
	at := 0
	for _, m := range of.FindAllSubmatchIndex(text, -1) {
		to, ok := d.written(string(text[m[4]:m[5]]))
		if !ok {
			continue
		}
		*changed = true
		out = append(append(out, text[at:m[4]]...), to...)
		at = m[5]
	}
	if at == 0 {
		return text
	}
	return append(out, text[at:]...)
}

// written is a colour as it is written once it is dyed, in the same form; false if it stays.
func (d *Dyer) written(text string) (string, bool) {
	lower := strings.ToLower(text)
	switch {
	case strings.HasPrefix(lower, "#"):
		digits := lower[1:]
		wide := len(digits) == 12 // of an XPM
		if wide {
			digits = digits[0:2] + digits[4:6] + digits[8:10]
		}
		if len(digits) == 3 || len(digits) == 4 {
			var b strings.Builder
			for _, r := range digits {
				b.WriteString(string(r) + string(r))
			}
			digits = b.String()
		}
		b, err := hex.DecodeString(digits)
		if err != nil || len(b) != 3 && len(b) != 4 {
			return "", false
		}
		from := [3]uint8{b[0], b[1], b[2]}
		to := d.eight(from)
		if to == from {
			return "", false
		}
		if wide {
			return fmt.Sprintf("#%02[1]x%02[1]x%02[2]x%02[2]x%02[3]x%02[3]x", to[0], to[1], to[2]), true
		}
		return "#" + hex.EncodeToString(append(to[:], b[3:]...)), true
	case strings.HasPrefix(lower, "rgb"):
		open := strings.IndexByte(lower, '(')
		if open < 0 {
			return "", false
		}
		parts := strings.FieldsFunc(strings.TrimSuffix(lower[open+1:], ")"), func(r rune) bool { return r == ',' || r == ' ' || r == '/' })
		if len(parts) != 3 && len(parts) != 4 {
			return "", false
		}
		var from [3]uint8
		for i := range from {
			share, percent := strings.CutSuffix(parts[i], "%")
			f, err := strconv.ParseFloat(share, 64)
			if err != nil {
				return "", false
			}
			if percent {
				f *= 2.55
			}
			from[i] = uint8(min(max(f, 0), 255) + 0.5)
		}
		to := d.eight(from)
		if to == from {
			return "", false
		}
		if len(parts) == 4 {
			return fmt.Sprintf("rgba(%d,%d,%d,%s)", to[0], to[1], to[2], parts[3]), true
		}
		return fmt.Sprintf("rgb(%d,%d,%d)", to[0], to[1], to[2]), true
	}
	c, ok := colornames.Map[lower]
	if !ok {
		return "", false
	}
	from := [3]uint8{c.R, c.G, c.B}
	to := d.eight(from)
	return fmt.Sprintf("#%02x%02x%02x", to[0], to[1], to[2]), to != from
}

// Main is the colour that a picture has most of, without white, grey and black; false if it
// has none.
func Main(ctx context.Context, raw []byte) (colour.Colour, bool) {
	if bytes.HasPrefix(raw, []byte{0x1f, 0x8b}) {
		z, err := gzip.NewReader(bytes.NewReader(raw))
		if err != nil {
			return colour.Colour{}, false
		}
		if raw, err = io.ReadAll(io.LimitReader(z, MaxBytes)); err != nil {
			return colour.Colour{}, false
		}
	}
	im := imagefile.Raster(ctx, raw, 64)
	if im == nil {
		return colour.Colour{}, false
	}
	const bins = 24 // of 15 degrees
	var sums [bins]struct{ weight, r, g, b float64 }
	box := im.Bounds()
	step := max(box.Dx()/128, box.Dy()/128, 1)
	for y := box.Min.Y; y < box.Max.Y; y += step {
		for x := box.Min.X; x < box.Max.X; x += step {
			p := color.NRGBAModel.Convert(im.At(x, y)).(color.NRGBA)
			c := colour.Of8(p.R, p.G, p.B)
			if _, chroma, hue := c.LCH(); chroma > grey && p.A > 127 {
				s := &sums[int(hue/360*bins)%bins]
				s.weight, s.r, s.g, s.b = s.weight+1, s.r+c.R, s.g+c.G, s.b+c.B
			}
		}
	}
	best := 0
	for i := range sums {
		if sums[i].weight > sums[best].weight {
			best = i
		}
	}
	if s := sums[best]; s.weight > 0 {
		return colour.Colour{R: s.r / s.weight, G: s.g / s.weight, B: s.b / s.weight}, true
	}
	return colour.Colour{}, false
}
