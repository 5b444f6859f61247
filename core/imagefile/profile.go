package imagefile

import (
	"bytes"
	"compress/zlib"
	"context"
	"encoding/binary"
	"image"
	"image/color"
	"io"
	"math"
)

// maxProfile bounds a colour profile, in bytes.
const maxProfile = 4 << 20

// Photograph reads a PNG, JPEG or WebP as [Decode] does, with its colours as a screen of sRGB shows
// them: those of a profile of three primaries and curves are converted, as browsers do. Icons are not
// read so, as toolkits pass their profiles over.
func Photograph(ctx context.Context, raw []byte) (image.Image, error) {
	im, err := Decode(ctx, raw)
	if err != nil {
		return nil, err
	}
	switch im.ColorModel() {
	case color.CMYKModel, color.GrayModel, color.Gray16Model:
		return im, nil
	}
	if p := parseProfile(profileOf(raw)); p != nil {
		return profiled{im, p}, nil
	}
	return im, nil
}

// Scene reads a picture as [Photograph] does, or draws an SVG so that its longer side has size px. It
// returns nil for what is none of them, or would take too much, and once ctx has ended.
func Scene(ctx context.Context, raw []byte, size int) image.Image {
	if MediaType(raw) == "image/svg+xml" {
		return Raster(ctx, raw, size)
	}
	im, err := Photograph(ctx, raw)
	if err != nil {
		return nil
	}
	return im
}

// profileOf is the colour profile in a picture, nil for none.
func profileOf(raw []byte) []byte {
	switch MediaType(raw) {
	case "image/jpeg": // ICC.1:2022, B.4: in numbered segments APP2
		parts := map[byte][]byte{}
		for at := 2; at+4 <= len(raw) && raw[at] == 0xff && raw[at+1] != 0xda; {
			size := int(binary.BigEndian.Uint16(raw[at+2:]))
			if size < 2 || at+2+size > len(raw) {
				break
			}
			in, ok := bytes.CutPrefix(raw[at+4:at+2+size], []byte("ICC_PROFILE\x00"))
			if ok && raw[at+1] == 0xe2 && len(in) > 2 {
				parts[in[0]] = in[2:]
			}
			at += 2 + size
		}
		var out []byte
		for n := 1; n <= len(parts); n++ {
			out = append(out, parts[byte(n)]...)
		}
		return out
	case "image/png": // PNG (third edition), 11.3.2.3: iCCP
		for at := 8; at+12 <= len(raw); {
			size, kind := int64(binary.BigEndian.Uint32(raw[at:])), string(raw[at+4:at+8])
			if int64(at)+12+size > int64(len(raw)) || kind == "IDAT" {
				break
			}
			if kind == "iCCP" {
				in := raw[at+8 : at+8+int(size)]
				end := bytes.IndexByte(in, 0)
				if end < 0 || end+2 > len(in) {
					break
				}
				z, err := zlib.NewReader(bytes.NewReader(in[end+2:]))
				if err != nil {
					break
				}
				out, err := io.ReadAll(io.LimitReader(z, maxProfile))
				if err != nil {
					break
				}
				return out
			}
			at += 12 + int(size)
		}
	case "image/webp": // RFC 9649, 2.7.1.4
		for at := 12; at+8 <= len(raw); {
			size := int64(binary.LittleEndian.Uint32(raw[at+4:]))
			if int64(at)+8+size > int64(len(raw)) {
				break
			}
			if string(raw[at:at+4]) == "ICCP" {
				return raw[at+8 : at+8+int(size)]
			}
			at += 8 + int(size+size%2)
		}
	}
	return nil
}

// profile turns the colours of a picture into sRGB.
type profile struct {
	light  [3][256]float32 // of a part of 0 to 255
	matrix [3][3]float32   // of light into that of sRGB
}

// fromD50 turns XYZ as profiles have it, in the light of D50, into linear sRGB: the inverse of sRGB's own
// primaries, adapted by Bradford (ICC.1:2022, Annex E; IEC 61966-2-1).
var fromD50 = [3][3]float64{
	{3.1341359569958707, -1.6173863321612538, -0.4906619460083532},
	{-0.978795502912089, 1.916254567259524, 0.03344273116131949},
	{0.07195537988411677, -0.2289768264158322, 1.405386058324125},
}

// parseProfile reads a profile of three primaries and curves (ICC.1:2022, 8.3.3 and 9.2); nil for any
// other, for one that is broken, and for sRGB itself.
func parseProfile(b []byte) *profile {
	if len(b) < 132 || len(b) > maxProfile || string(b[16:20]) != "RGB " || string(b[20:24]) != "XYZ " || string(b[36:40]) != "acsp" {
		return nil
	}
	be := binary.BigEndian
	tags := map[string][]byte{}
	for i := range min(int(be.Uint32(b[128:])), 100) {
		at := 132 + 12*i
		if at+12 > len(b) {
			return nil
		}
		from, size := int64(be.Uint32(b[at+4:])), int64(be.Uint32(b[at+8:]))
		if from+size > int64(len(b)) || size < 8 {
			return nil
		}
		tags[string(b[at:at+4])] = b[from : from+size]
	}
	fixed := func(b []byte) float64 { return float64(int32(be.Uint32(b))) / 65536 }
	p := &profile{}
	for k, name := range []string{"r", "g", "b"} {
		xyz, curve := tags[name+"XYZ"], tags[name+"TRC"]
		if len(xyz) < 20 || string(xyz[:4]) != "XYZ " {
			return nil
		}
		for row := range 3 {
			for i := range 3 {
				p.matrix[row][k] += float32(fromD50[row][i] * fixed(xyz[8+4*i:]))
			}
		}
		of, ok := curveOf(curve)
		if !ok {
			return nil
		}
		for v := range 256 {
			p.light[k][v] = float32(of(float64(v) / 255))
		}
	}
	if p.same() {
		return nil
	}
	return p
}

// curveOf is a curve of a profile: a gamma, a table, or one of five formulas (ICC.1:2022, 10.6 and 10.18).
func curveOf(b []byte) (func(float64) float64, bool) {
	be := binary.BigEndian
	switch {
	case len(b) >= 12 && string(b[:4]) == "curv":
		n := int64(be.Uint32(b[8:]))
		switch {
		case n == 0:
			return func(x float64) float64 { return x }, true
		case 12+2*n > int64(len(b)):
			return nil, false
		case n == 1:
			gamma := float64(be.Uint16(b[12:])) / 256
			return func(x float64) float64 { return math.Pow(x, gamma) }, true
		}
		table := b[12 : 12+2*n]
		return func(x float64) float64 {
			at := min(max(x, 0), 1) * float64(n-1)
			i := min(int(at), int(n-2))
			low, high := float64(be.Uint16(table[2*i:])), float64(be.Uint16(table[2*i+2:]))
			return (low + (high-low)*(at-float64(i))) / 65535
		}, true
	case len(b) >= 12 && string(b[:4]) == "para":
		kind := int(be.Uint16(b[8:]))
		counts := []int{1, 3, 4, 5, 7}
		if kind >= len(counts) || len(b) < 12+4*counts[kind] {
			return nil, false
		}
		v := [7]float64{1, 1} // g a b c d e f
		for i := range counts[kind] {
			v[i] = float64(int32(be.Uint32(b[12+4*i:]))) / 65536
		}
		g, a, bb, c, d, e, f := v[0], v[1], v[2], v[3], v[4], v[5], v[6]
		switch kind {
		case 0:
			d = math.Inf(-1)
		case 1, 2: // below -b/a it is c: what is added everywhere
			e, f, c, d = c, c, 0, -bb/a
			if kind == 1 {
				e, f = 0, 0
			}
		}
		return func(x float64) float64 {
			if x >= d {
				return math.Pow(max(a*x+bb, 0), g) + e
			}
			return c*x + f
		}, a != 0
	}
	return nil, false
}

// same reports whether it changes nothing that can be seen.
func (p *profile) same() bool {
	for _, c := range [][3]uint8{{255, 0, 0}, {0, 255, 0}, {0, 0, 255}, {128, 128, 128}, {40, 90, 160}, {200, 120, 30}, {20, 20, 20}} {
		r, g, b := p.convert(c[0], c[1], c[2])
		for i, v := range []uint8{r, g, b} {
			if d := int(v) - int(c[i]); d > 2 || d < -2 {
				return false
			}
		}
	}
	return true
}

// encoded is linear light as sRGB has it, of 4096 steps (IEC 61966-2-1).
var encoded = func() (out [4097]uint8) {
	for i := range out {
		v := float64(i) / 4096
		if v <= 0.0031308 {
			v *= 12.92
		} else {
			v = 1.055*math.Pow(v, 1/2.4) - 0.055
		}
		out[i] = uint8(v*255 + 0.5)
	}
	return out
}()

func (p *profile) convert(r, g, b uint8) (uint8, uint8, uint8) {
	x, y, z := p.light[0][r], p.light[1][g], p.light[2][b]
	to := func(row [3]float32) uint8 {
		return encoded[int(min(max(row[0]*x+row[1]*y+row[2]*z, 0), 1)*4096+0.5)]
	}
	return to(p.matrix[0]), to(p.matrix[1]), to(p.matrix[2])
}

// profiled is a picture with a profile, in sRGB.
type profiled struct {
	image.Image
	by *profile
}

func (p profiled) ColorModel() color.Model { return color.NRGBAModel }

func (p profiled) At(x, y int) color.Color {
	c := color.NRGBAModel.Convert(p.Image.At(x, y)).(color.NRGBA)
	c.R, c.G, c.B = p.by.convert(c.R, c.G, c.B)
	return c
}
