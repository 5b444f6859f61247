package paint

import (
	"bytes"
	"encoding/xml"
	"fmt"
	"image"
	"image/color"
	"image/png"

	"ivelt/core/gtkcss"
)

// Tint is what a symbolic picture is drawn in: all of it in Ink, and parts that are
// marked as a success, a warning or an error in theirs.
type Tint struct {
	Ink, Success, Warning, Error gtkcss.Colour
}

// TintOf is that of a style, with a palette for what is marked.
func TintOf(st *gtkcss.Style, palette map[string]gtkcss.Colour) Tint {
	return Tint{st.Colour("color"), palette["success"], palette["warning"], palette["error"]}
}

// Plain is a tint of one colour.
func Plain(c gtkcss.Colour) Tint { return Tint{c, c, c, c} }

// Tinted returns a drawing in which every shape is filled with the tint, as GTK fills
// those of symbolic icons (gtkicontheme.c of GTK 3.24, gdkpixbufutils.c of GTK 4.8).
// It is false for what is no drawing.
func Tinted(svg []byte, t Tint) ([]byte, bool) {
	d := xml.NewDecoder(bytes.NewReader(svg))
	d.Strict = false
	for {
		token, err := d.RawToken()
		if err != nil {
			return nil, false
		}
		if start, ok := token.(xml.StartElement); !ok {
			continue
		} else if start.Name.Local != "svg" {
			return nil, false
		}
		break
	}
	at := int(d.InputOffset())
	if at < 2 || at > len(svg) || svg[at-1] != '>' || svg[at-2] == '/' {
		return nil, false
	}
	fill := func(c gtkcss.Colour) string { c.A = 1; return c.CSS() }
	style := fmt.Sprintf(`<style>svg{opacity:%s}svg svg{opacity:1}rect,path,ellipse,circle,polygon{fill:%s !important}.warning{fill:%s !important}.error{fill:%s !important}.success{fill:%s !important}</style>`,
		Number(t.Ink.A), fill(t.Ink), fill(t.Warning), fill(t.Error), fill(t.Success))
	return bytes.Join([][]byte{svg[:at], []byte(style), svg[at:]}, nil), true
}

// TintedPNG returns a picture whose red, green and blue say how much of each pixel is
// drawn as a success, a warning and an error, and the rest in ink, as GTK keeps
// symbolic icons (gtkicontheme.c, gtk_icon_theme_color_symbolic_pixbuf).
func TintedPNG(b []byte, t Tint) ([]byte, bool) {
	if c, err := png.DecodeConfig(bytes.NewReader(b)); err != nil || c.Width*c.Height > 1<<20 {
		return nil, false
	}
	from, err := png.Decode(bytes.NewReader(b))
	if err != nil {
		return nil, false
	}
	to := image.NewNRGBA(from.Bounds())
	for y := from.Bounds().Min.Y; y < from.Bounds().Max.Y; y++ {
		for x := from.Bounds().Min.X; x < from.Bounds().Max.X; x++ {
			c := color.NRGBAModel.Convert(from.At(x, y)).(color.NRGBA)
			share := [4]float64{1 - (float64(c.R)+float64(c.G)+float64(c.B))/255, float64(c.R) / 255, float64(c.G) / 255, float64(c.B) / 255}
			var sum [3]float64
			for i, of := range []gtkcss.Colour{t.Ink, t.Success, t.Warning, t.Error} {
				for j, part := range []float64{of.R, of.G, of.B} {
					sum[j] += share[i] * part
				}
			}
			part := func(f float64) uint8 { return uint8(min(max(f*255, 0), 255)) }
			to.SetNRGBA(x, y, color.NRGBA{part(sum[0]), part(sum[1]), part(sum[2]), uint8(float64(c.A) * min(max(t.Ink.A, 0), 1))})
		}
	}
	var out bytes.Buffer
	if png.Encode(&out, to) != nil {
		return nil, false
	}
	return out.Bytes(), true
}
