// Package palette reads the colours of a terminal from an X resource file, tells
// how well each can be read on its ground, and finds the nearest that can.
package palette

import (
	"errors"
	"fmt"
	"strconv"
	"strings"

	"ivelt/core/colour"
	"ivelt/core/xresources"
)

// Palette is the colours of a terminal.
type Palette struct {
	Ground, Ink colour.Colour
	Colours     [16]colour.Colour
}

// Names are what the sixteen colours are called (ECMA-48, 8.3.117, SGR 30 to 37;
// the second eight are the brighter ones, common practice, no source).
var Names = [16]string{
	"black", "red", "green", "yellow", "blue", "magenta", "cyan", "white",
	"bright black", "bright red", "bright green", "bright yellow", "bright blue", "bright magenta", "bright cyan", "bright white",
}

// ErrPalette: the file is no palette.
var ErrPalette = errors.New("it is no palette of a terminal")

// Parse reads an X resource file that sets background, foreground and color0 to
// color15, of whatever program; the last line that sets one counts. Colours are
// written as XParseColor(3) reads them with a number sign.
func Parse(file []byte) (Palette, error) {
	said := map[string]string{}
	for _, e := range xresources.Parse(file) {
		said[e.Name[strings.LastIndexAny(e.Name, ".*")+1:]] = e.Value
	}
	var p Palette
	read := func(key string) (colour.Colour, error) {
		text, ok := said[key]
		if !ok {
			return colour.Colour{}, fmt.Errorf("%w: it does not set %s", ErrPalette, key)
		}
		c, err := parse(text)
		if err != nil {
			return c, fmt.Errorf("%w: %s is %q, which is no colour", ErrPalette, key, text)
		}
		return c, nil
	}
	var err error
	if p.Ground, err = read("background"); err != nil {
		return p, err
	}
	if p.Ink, err = read("foreground"); err != nil {
		return p, err
	}
	for i := range p.Colours {
		if p.Colours[i], err = read("color" + strconv.Itoa(i)); err != nil {
			return p, err
		}
	}
	return p, nil
}

// parse reads #rgb and its longer forms: 4, 8, 12 or 16 bits a part, of which the
// highest count (XParseColor(3): of fewer bits the others are zero; what a screen
// shows of both is the same to within a step of 8 bits).
func parse(text string) (colour.Colour, error) {
	digits, ok := strings.CutPrefix(strings.TrimSpace(text), "#")
	n := len(digits) / 3
	if !ok || n < 1 || n > 4 || len(digits) != 3*n {
		return colour.Colour{}, ErrPalette
	}
	var part [3]uint8
	for i := range part {
		v, err := strconv.ParseUint(digits[i*n:(i+1)*n], 16, 16)
		if err != nil {
			return colour.Colour{}, ErrPalette
		}
		part[i] = uint8(v << (16 - 4*n) >> 8)
	}
	return colour.Of8(part[0], part[1], part[2]), nil
}

// File is an X resource file with the palette, which [Parse] reads; about stands above it.
func (p Palette) File(about string) []byte {
	var b strings.Builder
	for line := range strings.Lines(about) {
		b.WriteString("! " + strings.TrimRight(line, "\n") + "\n")
	}
	fmt.Fprintf(&b, "*.background: %s\n*.foreground: %s\n", p.Ground.Hex(), p.Ink.Hex())
	for i, c := range p.Colours {
		fmt.Fprintf(&b, "*.color%d: %s\n", i, c.Hex())
	}
	return []byte(b.String())
}

// Legible is the contrast that text needs: WCAG 2.2, success criterion 1.4.3.
const Legible = 4.5

// Held is one of the sixteen colours held against the ground.
type Held struct {
	Index    int
	Name     string
	Colour   colour.Colour
	Contrast float64
	// Quiet: it is the ground's own end of black and white, which programs use to
	// draw with and not to write in (common practice, no source).
	Quiet bool
}

// Legible reports whether text in the colour can be read.
func (h Held) Legible() bool { return h.Contrast >= Legible }

// Contrasts holds each of the colours against the ground.
func (p Palette) Contrasts() []Held {
	dark := p.Ground.Luminance() < p.Ink.Luminance()
	out := make([]Held, 0, 16)
	for i, c := range p.Colours {
		quiet := dark && i == 0 || !dark && (i == 7 || i == 15)
		out = append(out, Held{i, Names[i], c, colour.Contrast(c, p.Ground), quiet})
	}
	return out
}

// Nearest is a colour of the same hue that can be read on the ground, see
// [colour.Nearest]; the ink if no colour of its hue can.
func (p Palette) Nearest(c colour.Colour) colour.Colour {
	if near, ok := colour.Nearest(c, p.Ground, Legible); ok {
		return near
	}
	return p.Ink
}

// Set is the file with one of the sixteen colours made another, and everything
// else in it as it was.
func Set(file []byte, index int, c colour.Colour) []byte {
	key := "color" + strconv.Itoa(index)
	name := "*." + key
	for _, e := range xresources.Parse(file) {
		if e.Name[strings.LastIndexAny(e.Name, ".*")+1:] == key {
			name = e.Name
		}
	}
	return xresources.Set(file, name, c.Hex())
}

// Through is the ground as it shows with something behind it, at an opacity of
// 0 to 1: mixed as compositors do, in sRGB (Porter and Duff's "over").
func (p Palette) Through(behind colour.Colour, opacity float64) colour.Colour {
	mix := func(a, b float64) float64 { return a*opacity + b*(1-opacity) }
	return colour.Colour{R: mix(p.Ground.R, behind.R), G: mix(p.Ground.G, behind.G), B: mix(p.Ground.B, behind.B)}
}
