package svgraster

import (
	"image"
	"math"
	"strings"
)

// blendMode gives a part of a colour from those of what is under it and what is laid over
// it, 0–1 (Compositing and Blending 1, section 10.1).
type blendMode func(under, over float64) float64

var blends = map[string]blendMode{
	"multiply": func(b, s float64) float64 { return b * s },
	"screen":   func(b, s float64) float64 { return b + s - b*s },
	"overlay":  func(b, s float64) float64 { return hardLight(s, b) },
	"darken":   func(b, s float64) float64 { return min(b, s) },
	"lighten":  func(b, s float64) float64 { return max(b, s) },
	"color-dodge": func(b, s float64) float64 {
		if b == 0 {
			return 0
		}
		if s >= 1 {
			return 1
		}
		return min(1, b/(1-s))
	},
	"color-burn": func(b, s float64) float64 {
		if b >= 1 {
			return 1
		}
		if s <= 0 {
			return 0
		}
		return 1 - min(1, (1-b)/s)
	},
	"hard-light": func(b, s float64) float64 { return hardLight(b, s) },
	"soft-light": func(b, s float64) float64 {
		if s <= 0.5 {
			return b - (1-2*s)*b*(1-b)
		}
		d := math.Sqrt(b)
		if b <= 0.25 {
			d = ((16*b-12)*b + 4) * b
		}
		return b + (2*s-1)*(d-b)
	},
	"difference": func(b, s float64) float64 { return math.Abs(b - s) },
	"exclusion":  func(b, s float64) float64 { return b + s - 2*b*s },
}

func hardLight(b, s float64) float64 {
	if s <= 0.5 {
		return b * 2 * s
	}
	s = 2*s - 1
	return b + s - b*s
}

// blended lays a pixel over another by a mode.
func blended(to, from []uint8, k float64, mode blendMode) {
	b, s := colourOf(to), colourOf(from)
	ab, as := float64(to[3])/255, float64(from[3])/255*k
	one := func(b, s uint8) uint8 {
		fb, fs := float64(b)/255, float64(s)/255
		c := (1-ab)*fs + ab*mode(fb, fs)
		return uint8((as*c+(1-as)*ab*fb)*255 + 0.5)
	}
	to[0], to[1], to[2] = one(b.R, s.R), one(b.G, s.G), one(b.B, s.B)
	to[3] = uint8((as+ab*(1-as))*255 + 0.5)
}

// room is how far beside its box a filter looks, px.
func (d *drawer) room(f *element, m matrix) int {
	room := 0.0
	for _, k := range f.kids {
		if n := numbers(k.attrs["stdDeviation"]); len(n) > 0 {
			room += 3 * n[0]
		}
		room += math.Abs(length(k.attrs["dx"], 1, 0)) + math.Abs(length(k.attrs["dy"], 1, 0))
	}
	return int(math.Ceil(min(room*m.scale(), 4000))) + 2
}

// filtered is a layer after a filter (Filter Effects 1): blurs, moves, floods, mixes of
// colours, and how they are put together.
func (d *drawer) filtered(f *element, source *image.RGBA, e *element, m matrix) *image.RGBA {
	made := map[string]*image.RGBA{"SourceGraphic": source}
	last := source
	get := func(name string) *image.RGBA {
		if name == "SourceAlpha" {
			out := image.NewRGBA(source.Rect)
			for i := 3; i < len(out.Pix); i += 4 {
				out.Pix[i] = source.Pix[i]
			}
			return out
		}
		if im := made[name]; im != nil {
			return im
		}
		return last
	}
	area := source.Rect.Dx() * source.Rect.Dy()
	b, ok := d.box(e)
	unit := [2]float64{1, 1}
	if f.attrs["primitiveUnits"] == "objectBoundingBox" && ok {
		unit = [2]float64{b[2], b[3]}
	}
	for n, k := range f.kids {
		if n > 100 || !strings.HasPrefix(k.name, "fe") {
			continue
		}
		d.hold(area)
		d.spend(20 * area)
		linear := true
		for at := k; at != nil; at = at.above {
			if v := d.doc.told(at, "color-interpolation-filters"); v != "" && v != "inherit" {
				linear = v != "sRGB"
				break
			}
		}
		in := get(k.attrs["in"])
		var out *image.RGBA
		switch k.name {
		case "feGaussianBlur":
			dev := numbers(k.attrs["stdDeviation"])
			if len(dev) == 1 {
				dev = append(dev, dev[0])
			}
			if len(dev) == 0 {
				dev = []float64{0, 0}
			}
			out = inSpace(in, linear, func(im *image.RGBA) *image.RGBA {
				return blur(im, dev[0]*unit[0]*m.scale(), dev[1]*unit[1]*m.scale(), d.spend)
			})
		case "feOffset":
			to := point{length(k.attrs["dx"], 1, 0) * unit[0], length(k.attrs["dy"], 1, 0) * unit[1]}
			out = moved(in, int(math.Round(m.a*to.x+m.c*to.y)), int(math.Round(m.b*to.x+m.d*to.y)))
		case "feDropShadow":
			d.spend(20 * area)
			dev := append(numbers(k.attrs["stdDeviation"]), 2)[0]
			to := point{length(k.attrs["dx"], 1, 2), length(k.attrs["dy"], 1, 2)}
			shadow := inSpace(in, linear, func(im *image.RGBA) *image.RGBA { return blur(im, dev*m.scale(), dev*m.scale(), d.spend) })
			shadow = moved(shadow, int(math.Round(m.a*to.x+m.c*to.y)), int(math.Round(m.b*to.x+m.d*to.y)))
			out = operate("over", in, operate("in", d.flood(k, source.Rect), shadow, nil), nil)
		case "feFlood":
			out = d.flood(k, source.Rect)
		case "feComposite":
			out = operate(k.attrs["operator"], in, get(k.attrs["in2"]), []float64{length(k.attrs["k1"], 1, 0), length(k.attrs["k2"], 1, 0), length(k.attrs["k3"], 1, 0), length(k.attrs["k4"], 1, 0)})
		case "feBlend":
			under := get(k.attrs["in2"])
			out = image.NewRGBA(source.Rect)
			copy(out.Pix, under.Pix)
			mode := blends[k.attrs["mode"]]
			if mode == nil {
				mode = func(_, s float64) float64 { return s }
			}
			for i := 0; i < len(out.Pix); i += 4 {
				blended(out.Pix[i:i+4], in.Pix[i:i+4], 1, mode)
			}
		case "feMerge":
			out = image.NewRGBA(source.Rect)
			for _, node := range k.kids {
				if node.name == "feMergeNode" {
					d.spend(20 * area)
					out = operate("over", get(node.attrs["in"]), out, nil)
				}
			}
		case "feColorMatrix":
			out = inSpace(in, linear, func(im *image.RGBA) *image.RGBA { return recoloured(im, k) })
		default:
			out = in
		}
		last = out
		if name := k.attrs["result"]; name != "" {
			made[name] = out
		}
	}
	return last
}

func (d *drawer) flood(k *element, box image.Rectangle) *image.RGBA {
	c, ok := readColour(d.doc.told(k, "flood-color"), d.styleOf(k).colour)
	if !ok {
		c.A = 255
	}
	a := float64(c.A) / 255 * min(max(length(d.doc.told(k, "flood-opacity"), 1, 1), 0), 1)
	px := [4]uint8{uint8(float64(c.R)*a + 0.5), uint8(float64(c.G)*a + 0.5), uint8(float64(c.B)*a + 0.5), uint8(255*a + 0.5)}
	out := image.NewRGBA(box)
	for i := 0; i < len(out.Pix); i += 4 {
		copy(out.Pix[i:], px[:])
	}
	return out
}

func moved(im *image.RGBA, dx, dy int) *image.RGBA {
	out := image.NewRGBA(im.Rect)
	b := im.Rect
	for y := b.Min.Y; y < b.Max.Y; y++ {
		if y-dy < b.Min.Y || y-dy >= b.Max.Y {
			continue
		}
		from, to := max(b.Min.X, b.Min.X+dx), min(b.Max.X, b.Max.X+dx)
		if from < to {
			copy(out.Pix[out.PixOffset(from, y):out.PixOffset(to-1, y)+4], im.Pix[im.PixOffset(from-dx, y-dy):])
		}
	}
	return out
}

// operate puts one layer on another by an operator.
func operate(op string, a, b *image.RGBA, k []float64) *image.RGBA {
	out := image.NewRGBA(a.Rect)
	for i := 0; i < len(out.Pix); i += 4 {
		aa, ab := float64(a.Pix[i+3])/255, float64(b.Pix[i+3])/255
		fa, fb := 1.0, 1-aa
		switch op {
		case "in":
			fa, fb = ab, 0
		case "out":
			fa, fb = 1-ab, 0
		case "atop":
			fa, fb = ab, 1-aa
		case "xor":
			fa, fb = 1-ab, 1-aa
		}
		for j := range 4 {
			x, y := float64(a.Pix[i+j]), float64(b.Pix[i+j])
			v := x*fa + y*fb
			if op == "arithmetic" && len(k) == 4 {
				v = k[0]*x*y/255 + k[1]*x + k[2]*y + k[3]*255
			}
			out.Pix[i+j] = uint8(min(max(v, 0), 255) + 0.5)
		}
		if op == "arithmetic" {
			for j := range 3 {
				out.Pix[i+j] = min(out.Pix[i+j], out.Pix[i+3])
			}
		}
	}
	return out
}

// recoloured is a layer after a matrix of colours.
func recoloured(im *image.RGBA, k *element) *image.RGBA {
	n := numbers(k.attrs["values"])
	m := [20]float64{0: 1, 6: 1, 12: 1, 18: 1}
	switch k.attrs["type"] {
	case "saturate":
		s := append(n, 1)[0]
		m = [20]float64{0.213 + 0.787*s, 0.715 - 0.715*s, 0.072 - 0.072*s, 0, 0, 0.213 - 0.213*s, 0.715 + 0.285*s, 0.072 - 0.072*s, 0, 0, 0.213 - 0.213*s, 0.715 - 0.715*s, 0.072 + 0.928*s, 0, 0, 0, 0, 0, 1, 0}
	case "hueRotate":
		sin, cos := math.Sincos(append(n, 0)[0] * math.Pi / 180)
		m = [20]float64{
			0.213 + cos*0.787 - sin*0.213, 0.715 - cos*0.715 - sin*0.715, 0.072 - cos*0.072 + sin*0.928, 0, 0,
			0.213 - cos*0.213 + sin*0.143, 0.715 + cos*0.285 + sin*0.140, 0.072 - cos*0.072 - sin*0.283, 0, 0,
			0.213 - cos*0.213 - sin*0.787, 0.715 - cos*0.715 + sin*0.715, 0.072 + cos*0.928 + sin*0.072, 0, 0, 0, 0, 0, 1, 0,
		}
	case "luminanceToAlpha":
		m = [20]float64{15: 0.2125, 16: 0.7154, 17: 0.0721}
	default:
		if len(n) == 20 {
			copy(m[:], n)
		}
	}
	out := image.NewRGBA(im.Rect)
	for i := 0; i < len(out.Pix); i += 4 {
		c := colourOf(im.Pix[i : i+4])
		in := [5]float64{float64(c.R) / 255, float64(c.G) / 255, float64(c.B) / 255, float64(c.A) / 255, 1}
		var v [4]float64
		for j := range v {
			for l, x := range in {
				v[j] += m[5*j+l] * x
			}
			v[j] = min(max(v[j], 0), 1)
		}
		for j := range 3 {
			out.Pix[i+j] = uint8(v[j]*v[3]*255 + 0.5)
		}
		out.Pix[i+3] = uint8(v[3]*255 + 0.5)
	}
	return out
}

// inSpace does something in linear light, or as it is.
func inSpace(im *image.RGBA, linear bool, do func(*image.RGBA) *image.RGBA) *image.RGBA {
	if !linear {
		return do(im)
	}
	return through(do(through(im, &toLinear)), &fromLinear)
}

var toLinear, fromLinear [256]uint8

func init() {
	for i := range 256 {
		f := float64(i) / 255
		to := f / 12.92
		if f > 0.04045 {
			to = math.Pow((f+0.055)/1.055, 2.4)
		}
		from := f * 12.92
		if f > 0.0031308 {
			from = 1.055*math.Pow(f, 1/2.4) - 0.055
		}
		toLinear[i], fromLinear[i] = uint8(to*255+0.5), uint8(from*255+0.5)
	}
}

func through(im *image.RGBA, table *[256]uint8) *image.RGBA {
	out := image.NewRGBA(im.Rect)
	for i := 0; i < len(out.Pix); i += 4 {
		if im.Pix[i+3] == 0 {
			continue
		}
		c := colourOf(im.Pix[i : i+4])
		a := int(c.A)
		out.Pix[i], out.Pix[i+1], out.Pix[i+2], out.Pix[i+3] = uint8((int(table[c.R])*a+127)/255), uint8((int(table[c.G])*a+127)/255), uint8((int(table[c.B])*a+127)/255), c.A
	}
	return out
}

// blur is a layer blurred by a deviation across and down: by the bell itself where that is
// small, else by three boxes (Filter Effects 1, section 9.14).
func blur(im *image.RGBA, across, down float64, spend func(int)) *image.RGBA {
	out := image.NewRGBA(im.Rect)
	copy(out.Pix, im.Pix)
	w, h := im.Rect.Dx(), im.Rect.Dy()
	line, sums := make([]float64, max(w, h)), make([]float64, max(w, h)+1)
	pass := func(n, count, step, stride int, dev float64) {
		if dev <= 0 {
			return
		}
		for i := range count {
			spend(20 * n)
			for j := range 4 {
				at := i*stride + j
				some := byte(0)
				for k := range n {
					some |= out.Pix[at+k*step]
					line[k] = float64(out.Pix[at+k*step])
				}
				if some == 0 {
					continue
				}
				smooth(line[:n], sums, dev)
				for k := range n {
					out.Pix[at+k*step] = uint8(min(max(line[k], 0), 255) + 0.5)
				}
			}
		}
	}
	pass(w, h, 4, out.Stride, min(across, 500))
	pass(h, w, out.Stride, 4, min(down, 500))
	return out
}

func smooth(line, sums []float64, dev float64) {
	if dev < 2 {
		reach := int(math.Ceil(3 * dev))
		weights := make([]float64, 2*reach+1)
		sum := 0.0
		for i := range weights {
			x := float64(i-reach) / dev
			weights[i] = math.Exp(-x * x / 2)
			sum += weights[i]
		}
		from := append([]float64(nil), line...)
		for i := range line {
			v := 0.0
			for k, weight := range weights {
				if at := i + k - reach; at >= 0 && at < len(from) {
					v += from[at] * weight
				}
			}
			line[i] = v / sum
		}
		return
	}
	d := int(math.Floor(dev*3*math.Sqrt(2*math.Pi)/4 + 0.5))
	if d%2 == 1 {
		for range 3 {
			boxed(line, sums, d, -(d / 2))
		}
		return
	}
	boxed(line, sums, d, -d/2)
	boxed(line, sums, d, -d/2+1)
	boxed(line, sums, d+1, -d/2)
}

// boxed is the mean of n values, the first so far before each.
func boxed(line, sums []float64, n, from int) {
	sums[0] = 0
	for i, v := range line {
		sums[i+1] = sums[i] + v
	}
	for i := range line {
		a, b := min(max(i+from, 0), len(line)), min(max(i+from+n, 0), len(line))
		line[i] = (sums[b] - sums[a]) / float64(n)
	}
}
