package gtkrc

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"github.com/lucasb-eyer/go-colorful"
	"golang.org/x/image/colornames"
)

// Colour is red, green and blue, 0–1.
type Colour [3]float64

func rgb8(r, g, b int) Colour {
	return Colour{float64(r) / 255, float64(g) / 255, float64(b) / 255}
}

// Bytes are its parts, 0–255, as GTK keeps them: the upper half of 16 bits.
func (c Colour) Bytes() (out [3]int) {
	for i, f := range c {
		out[i] = int(f*65535) >> 8
	}
	return out
}

// CSS writes it as #rrggbb.
func (c Colour) CSS() string {
	b := c.Bytes()
	return fmt.Sprintf("#%02x%02x%02x", b[0], b[1], b[2])
}

// parseColour reads a colour as gdk_color_parse does: a name, or # and hex
// digits, the same number for each part.
func parseColour(s string) (Colour, bool) {
	if hex, ok := strings.CutPrefix(s, "#"); ok {
		n := len(hex) / 3
		if len(hex)%3 != 0 || n < 1 || n > 4 {
			return Colour{}, false
		}
		var out Colour
		for i := range out {
			v, err := strconv.ParseUint(hex[i*n:(i+1)*n], 16, 16)
			if err != nil {
				return Colour{}, false
			}
			out[i] = float64(v) / (math.Pow(16, float64(n)) - 1)
		}
		return out, true
	}
	if s != strings.TrimSpace(s) {
		return Colour{}, false
	}
	name := strings.ToLower(strings.ReplaceAll(s, " ", ""))
	c, ok := colornames.Map[name]
	return rgb8(int(c.R), int(c.G), int(c.B)), ok
}

// Shade makes a colour lighter or darker: its lightness and its saturation times
// k (gtkstyle.c, gtk_style_shade).
func (c Colour) Shade(k float64) Colour {
	h, s, l := colorful.Color{R: c[0], G: c[1], B: c[2]}.Hsl()
	shaded := colorful.Hsl(h, min(max(s*k, 0), 1), min(max(l*k, 0), 1))
	return Colour{shaded.R, shaded.G, shaded.B}
}

// mix is f of a and the rest of b. GTK keeps 16 bits of what comes out, whatever
// it is (gtkrc.c, gtk_rc_parse_color_full).
func mix(f float64, a, b Colour) (out Colour) {
	for i := range out {
		sum := f*math.Trunc(a[i]*65535) + (1-f)*math.Trunc(b[i]*65535)
		out[i] = float64(uint16(int64(max(min(sum, 1<<40), -1<<40)))) / 65535
	}
	return out
}
