package demo

import (
	"bytes"
	_ "embed"
	"fmt"
	"image/png"
	"strings"
	"sync"

	"ivelt/core/svgraster"
)

// The icons of the demo's packs. Their glyphs are those of bootstrap-icons
// (MIT); plates, folders, sheets and palettes are drawn here.

//go:embed icons.csv
var iconsCSV string

//go:embed glyphs.tsv
var glyphsTSV string

var (
	glyphs = readGlyphs()
	icons  = readIcons()
)

// icon is one name of the Icon Naming Specification (or close to it), and what
// it is to show.
type icon struct{ name, context, glyph, tone string }

func readGlyphs() map[string]string {
	out := map[string]string{}
	for line := range strings.Lines(glyphsTSV) {
		name, markup, _ := strings.Cut(strings.TrimSpace(line), "\t")
		out[name] = markup
	}
	return out
}

func readIcons() []icon {
	var out []icon
	for i, line := range strings.Split(strings.TrimSpace(iconsCSV), "\n") {
		f := strings.Split(line, ",")
		if i > 0 {
			out = append(out, icon{f[0], f[1], f[2], f[3]})
		}
	}
	return out
}

// tone is a colour from light to deep.
type tone struct{ light, mid, deep string }

// style is how a pack draws. All drawings are on a square of 64.
type style struct {
	tones  map[string]tone
	plate  func(tone) string // behind programs
	glyph  func(tone) string // the colour of the glyph on a plate
	folder func(tone) string
	sheet  func(tone) string // behind documents; the glyph stands on its band
	badge  func(tone) string // behind signs that warn or inform
	bare   func(tone) string // the colour of actions and small states
	scale  float64           // of glyphs on plates; 1 is 16 units
}

// svg draws one icon of the pack as a picture of size px.
func (s style) svg(ic icon, size int, folderTone string) []byte {
	t := s.tones[ic.tone]
	if ic.tone == "folder" {
		t = s.tones[folderTone]
	}
	scale := s.scale
	if size > 0 && size <= 24 {
		scale *= 1.22 // small pictures need a larger glyph to stay clear
	}
	var b strings.Builder
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" width="%d" height="%d" viewBox="0 0 64 64">`, max(size, 64), max(size, 64))
	switch {
	case ic.tone == "folder":
		b.WriteString(s.folder(t))
		b.WriteString(at(ic.glyph, 32, 41, 1.15*scale/2.1, t.deep))
	case ic.context == "mimetypes":
		b.WriteString(s.sheet(t))
		b.WriteString(at(ic.glyph, 32, 38, 1.35*scale/2.1, t.mid))
	case ic.context == "status" && strings.HasPrefix(ic.name, "dialog-"):
		b.WriteString(s.badge(t))
		b.WriteString(at(ic.glyph, 32, 32, scale, "#ffffff"))
	case ic.context == "actions" || ic.context == "status" || ic.context == "emblems":
		b.WriteString(at(ic.glyph, 32, 32, 3.1, s.bare(t)))
	default:
		b.WriteString(s.plate(t))
		b.WriteString(at(ic.glyph, 32, 32, scale, s.glyph(t)))
	}
	b.WriteString(`</svg>`)
	return []byte(b.String())
}

// symbolic draws the one-colour form.
func symbolic(ic icon) []byte {
	glyph := ic.glyph
	if glyph == "" {
		glyph = "folder2-open"
	}
	return []byte(`<svg xmlns="http://www.w3.org/2000/svg" width="16" height="16" viewBox="0 0 16 16"><g fill="#2e2e34">` + glyphs[glyph] + `</g></svg>`)
}

// at places a glyph with its middle at x, y.
func at(glyph string, x, y, scale float64, colour string) string {
	markup, ok := glyphs[glyph]
	if !ok {
		return ""
	}
	return fmt.Sprintf(`<g transform="translate(%.2f %.2f) scale(%.3f %.3f)" fill="%s">%s</g>`, x-8*scale, y-8*scale, scale, scale, colour, markup)
}

// encoders keeps what an encoder of PNG works with, which is large and new for each picture
// otherwise.
var encoders buffers

type buffers struct{ pool sync.Pool }

func (b *buffers) Get() *png.EncoderBuffer  { held, _ := b.pool.Get().(*png.EncoderBuffer); return held }
func (b *buffers) Put(e *png.EncoderBuffer) { b.pool.Put(e) }

// raster turns a drawing into a PNG of size px.
func raster(svg []byte, size int) ([]byte, error) { return rasterWide(svg, size, size) }

func rasterWide(svg []byte, w, h int) ([]byte, error) {
	img, err := svgraster.Trusted(svg, w, h)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	enc := png.Encoder{CompressionLevel: png.BestSpeed, BufferPool: &encoders}
	err = enc.Encode(&b, img)
	return b.Bytes(), err
}

func gradient(id, from, to string) string {
	return fmt.Sprintf(`<defs><linearGradient id="%s" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="%s"/><stop offset="1" stop-color="%s"/></linearGradient></defs>`, id, from, to)
}

func fill(d, colour string) string { return fmt.Sprintf(`<path d="%s" fill="%s"/>`, d, colour) }

func veil(d, colour string, opacity float64) string {
	return fmt.Sprintf(`<path d="%s" fill="%s" fill-opacity="%.2f"/>`, d, colour, opacity)
}

func constant(colour string) func(tone) string { return func(tone) string { return colour } }

const (
	// A beach pebble: no two radii alike, heavier at the foot.
	pebble    = "M29 4.5C45 2.5 59 11.5 60.5 28.5C62 47 51.500 59.500 34.500 60.500C16 61.500 3.500 52 3.500 35.500C3.500 18.500 13.500 6.500 29 4.500Z"
	pebbleRim = "M29 4.5C45 2.5 59 11.5 60.5 28.5C58 14.500 44.500 7.500 29.500 8.500C16 9.500 6 19 3.600 33C4.500 17.500 14 6.500 29 4.500Z"
	pebbleLow = "M60.500 30C61.500 47.500 51 59.500 34.500 60.500C17.500 61.500 5 53.500 3.600 38.500C8 50.500 20 56 34 55C49 54 58.500 44.500 60.500 30Z"

	// A folder whose front is cut along a wave, as a tide line in sand.
	waveBack  = "M8 13.500C8 10.500 10 9 12.500 9H51.500C54.500 9 56 10.500 56 13.500V40H8Z"
	wavePaper = "M12 16H52V40H12Z"
	waveFront = "M5 29C11 24.500 17 24.500 23 28C29.500 31.700 35.500 31.700 42 28C48 24.500 53.500 24.500 59 27.500V51C59 54.500 57 56.500 53.500 56.500H10.500C7 56.500 5 54.500 5 51Z"
	waveEdge  = "M5 29C11 24.500 17 24.500 23 28C29.500 31.700 35.500 31.700 42 28C48 24.500 53.500 24.500 59 27.500V29.500C53.500 26.500 48 26.500 42 30C35.500 33.700 29.500 33.700 23 30C17 26.500 11 26.500 5 31Z"

	// A sheet with a scooped corner.
	sheet     = "M13 8C13 5.500 14.500 4 17 4H39C39 11 44 16 51 16V56C51 58.500 49.500 60 47 60H17C14.500 60 13 58.500 13 56Z"
	sheetFold = "M39 4C39 11 44 16 51 16Z"
)

var shingleTones = map[string]tone{
	"kelp":    {"#7fb38a", "#3f7f63", "#21523f"},
	"sand":    {"#e6cf9f", "#c39f5f", "#7d5f2d"},
	"sky":     {"#8fbfd6", "#4a86ab", "#27587a"},
	"rust":    {"#e0a07c", "#b8603c", "#7a351c"},
	"heather": {"#b9a3cf", "#80649f", "#503a6d"},
	"slate":   {"#a9b4bd", "#6c7a86", "#424e59"},
	"coral":   {"#f0a394", "#cf6258", "#8c322f"},
	"sun":     {"#f3d06f", "#d99a2b", "#8a5a10"},
	"ink":     {"#6a7690", "#39435a", "#1f2636"},
}

var shingle = style{
	tones: shingleTones,
	plate: func(t tone) string {
		return gradient("p", t.light, t.mid) + fill(pebble, "url(#p)") + veil(pebbleLow, t.deep, 0.35) + veil(pebbleRim, "#ffffff", 0.45)
	},
	glyph: constant("#fffdf7"),
	folder: func(t tone) string {
		return gradient("f", t.light, t.mid) + fill(waveBack, t.deep) + fill(wavePaper, "#fbf7ec") +
			veil("M12 18.500H52V21H12Z", t.deep, 0.18) + fill(waveFront, "url(#f)") + veil(waveEdge, "#ffffff", 0.5)
	},
	sheet: func(t tone) string {
		return gradient("s", "#fffefa", "#efe9db") + fill(sheet, "url(#s)") + fill(sheetFold, t.light) +
			veil("M13 52.500H51V56C51 58.500 49.500 60 47 60H17C14.500 60 13 58.500 13 56Z", t.mid, 0.9)
	},
	badge: func(t tone) string {
		return gradient("b", t.light, t.mid) + fill(pebble, "url(#b)") + veil(pebbleRim, "#ffffff", 0.45)
	},
	bare:  func(t tone) string { return t.mid },
	scale: 2.1,
}

const (
	// A blade of weed: two points, two bellies.
	blade     = "M32 2C46 5 59 14 60 30C61 46 48 59 32 62C17 59 4 47 4 31C4 15 18 5 32 2Z"
	bladeHalf = "M32 2C46 5 59 14 60 30C61 46 48 59 32 62Z"
	wrackBack = "M6 12H28L34 19H58V50H6Z"
	wrackFace = "M3 24H61L56 56H8Z"
)

var wrack = style{
	tones: map[string]tone{
		"kelp": {"#a9bf5a", "#6f8a2f", "#2d3a1c"}, "sand": {"#e0b55c", "#b98a2f", "#4a3510"},
		"sky": {"#7cc0c4", "#3f8d95", "#153f47"}, "rust": {"#e08a4f", "#b35c26", "#4c230c"},
		"heather": {"#c58fb4", "#8f5480", "#3f1f38"}, "slate": {"#9fb0ad", "#647976", "#263532"},
		"coral": {"#ee8672", "#c14f3f", "#52190f"}, "sun": {"#f0cb4a", "#c79a17", "#4f3a05"}, "ink": {"#8d9dc0", "#52628a", "#1b2440"},
	},
	plate: func(t tone) string {
		return fill(blade, "#23302f") + veil(bladeHalf, "#000000", 0.22) + veil("M32 54C38 53 43 51 47 48L49 50C44 54 38 57 32 58C26 57 20 54 15 50L17 48C21 51 26 53 32 54Z", t.light, 0.95)
	},
	glyph: func(t tone) string { return t.light },
	folder: func(t tone) string {
		return fill(wrackBack, t.deep) + fill(wrackFace, t.mid) + veil("M3 24H61L60.500 27H3.500Z", t.light, 1) + veil("M32 24H61L56 56H32Z", "#000000", 0.12)
	},
	sheet: func(t tone) string {
		return fill("M12 5H44L52 13V59H12Z", "#2b3938") + fill("M44 5L52 13H44Z", t.light)
	},
	badge: func(t tone) string { return fill(blade, t.mid) + veil(bladeHalf, "#000000", 0.15) },
	bare:  func(t tone) string { return t.mid },
	scale: 2.0,
}

// Glasswort is drawn in one colour: an open ring and the glyph.
var glasswort = oneColour("#9c3f56", "#c9657b")

func oneColour(line, tint string) style {
	tones := map[string]tone{}
	for name := range shingleTones {
		tones[name] = tone{tint, line, line}
	}
	const ring = "M32 3C48 3 61 16 61 32C61 48 48 61 32 61C16 61 3 48 3 32C3 22 8 13.500 15.500 8.300L17 10.600C10.200 15.300 5.800 23 5.800 32C5.800 46.500 17.500 58.200 32 58.200C46.500 58.200 58.200 46.500 58.200 32C58.200 17.500 46.500 5.800 32 5.800Z"
	return style{
		tones: tones,
		plate: func(t tone) string { return veil(ring, line, 1) },
		glyph: constant(line),
		folder: func(t tone) string {
			return veil("M5 14H27L32 20H59V54H5Z", tint, 0.18) +
				fill("M5 14H27L32 20H59V54H5ZM7.800 16.800V51.200H56.200V22.800H30.700L25.700 16.800Z", line)
		},
		sheet: func(t tone) string {
			return veil("M12 5H42L52 15V59H12Z", tint, 0.14) + fill("M12 5H42L52 15V59H12ZM14.800 7.800V56.200H49.200V16.200L40.800 7.800Z", line)
		},
		badge: func(t tone) string {
			return fill("M32 3C48 3 61 16 61 32C61 48 48 61 32 61C16 61 3 48 3 32C3 16 16 3 32 3Z", line)
		},
		bare:  constant(line),
		scale: 2.0,
	}
}

// Foreshore, the pack Avocet comes with: paper tickets with a torn foot.
var foreshore = style{
	tones: shingleTones,
	plate: func(t tone) string {
		const ticket = "M8 8H56V53L50 57L44 53L38 57L32 53L26 57L20 53L14 57L8 53Z"
		return fill(ticket, "#f4f0e6") + veil("M8 8H56V14H8Z", t.mid, 1) + veil("M8 53L14 57L20 53L26 57L32 53L38 57L44 53L50 57L56 53V50L50 54L44 50L38 54L32 50L26 54L20 50L14 54L8 50Z", t.deep, 0.25)
	},
	glyph: func(t tone) string { return t.deep },
	folder: func(t tone) string {
		return fill("M6 10H30V18H58V54H6Z", t.mid) + fill("M6 22H58V54H6Z", t.light) + veil("M6 49H58V54H6Z", t.deep, 0.25)
	},
	sheet: func(t tone) string {
		return fill("M13 5H51V59H13Z", "#f7f4ec") + veil("M13 5H51V11H13Z", t.light, 1) + veil("M13 56H51V59H13Z", t.deep, 0.3)
	},
	badge: func(t tone) string { return fill("M10 10H54V54H10Z", t.mid) },
	bare:  func(t tone) string { return t.deep },
	scale: 1.8,
}

// Marram: dune grass, tall lozenges in greens and straw.
var marram = style{
	tones: map[string]tone{
		"kelp": {"#b7c77d", "#7f9a45", "#46591f"}, "sand": {"#e3d6a4", "#b9a35e", "#6b5a28"}, "sky": {"#a9cdbd", "#64977f", "#325645"},
		"rust": {"#d7b083", "#a3743f", "#5f3f1b"}, "heather": {"#c3c3a0", "#8b8b60", "#4c4c2d"}, "slate": {"#bcc2b4", "#7f8874", "#474f3e"},
		"coral": {"#dfb58d", "#b37c47", "#69441f"}, "sun": {"#eadb8c", "#c5ab3c", "#6d5c14"}, "ink": {"#8a9a80", "#52634a", "#2a3525"},
	},
	plate: func(t tone) string {
		const lozenge = "M32 2L60 32L32 62L4 32Z"
		return gradient("m", t.light, t.mid) + fill(lozenge, "url(#m)") + veil("M32 2L60 32L32 62Z", t.deep, 0.18)
	},
	glyph: func(t tone) string { return t.deep },
	folder: func(t tone) string {
		return fill("M8 12L20 8L56 14V50L8 56Z", t.deep) + fill("M4 26L60 20V50L8 58Z", t.mid) + veil("M4 26L60 20V23L4.500 29Z", t.light, 1)
	},
	sheet: func(t tone) string {
		return fill("M12 9L44 4L52 12V56L12 60Z", "#f1eeda") + fill("M44 4L52 12L45 13Z", t.mid)
	},
	badge: func(t tone) string { return fill("M32 2L60 32L32 62L4 32Z", t.mid) },
	bare:  func(t tone) string { return t.mid },
	scale: 1.65,
}

// Cockle: shells, ribbed fans in pinks and greys.
var cockle = style{
	tones: map[string]tone{
		"kelp": {"#b9d0c4", "#6d9a88", "#33594a"}, "sand": {"#f1dcc4", "#cfa682", "#81593a"}, "sky": {"#c0d2e4", "#7b9bbd", "#3e5a7b"},
		"rust": {"#f0bfa8", "#c97b5e", "#7f3f29"}, "heather": {"#dcc3dc", "#a97fa9", "#65436a"}, "slate": {"#cdc8c8", "#8f8789", "#544d50"},
		"coral": {"#f6bfc0", "#d9787f", "#8b353f"}, "sun": {"#f6dca0", "#d9ab55", "#84601c"}, "ink": {"#9a93a3", "#5d5669", "#302b3a"},
	},
	plate: func(t tone) string {
		const fan = "M32 60C28 60 25 58 24 55C11 49 3 38 3 26C3 12 16 4 32 4C48 4 61 12 61 26C61 38 53 49 40 55C39 58 36 60 32 60Z"
		out := gradient("c", t.light, t.mid) + fill(fan, "url(#c)")
		for _, x := range []int{8, 20, 32, 44, 56} {
			out += veil(fmt.Sprintf("M31 58L%d %dL%d %dL33 58Z", x-1, 12, x+1, 12), "#ffffff", 0.28)
		}
		return out
	},
	glyph: func(t tone) string { return t.deep },
	folder: func(t tone) string {
		return fill("M6 16C6 12 8 10 12 10H26C29 10 30 16 34 16H52C56 16 58 18 58 22V40H6Z", t.deep) +
			fill("M4 28C14 22 50 22 60 28L55 52C54.500 55 53 56 50 56H14C11 56 9.500 55 9 52Z", t.mid) + veil("M4 28C14 22 50 22 60 28L59.500 31C50 25 14 25 4.500 31Z", t.light, 1)
	},
	sheet: func(t tone) string {
		return fill("M12 10C12 6 14 4 18 4H46C50 4 52 6 52 10V60L46 56L39 60L32 56L25 60L18 56L12 60Z", "#fbf5f0") + veil("M12 10C12 6 14 4 18 4H46C50 4 52 6 52 10V13H12Z", t.light, 1)
	},
	badge: func(t tone) string {
		return fill("M32 60C14 58 3 42 3 26C3 12 16 4 32 4C48 4 61 12 61 26C61 42 50 58 32 60Z", t.mid)
	},
	bare:  func(t tone) string { return t.mid },
	scale: 1.7,
}
