package typebench

import (
	"math"
	"strconv"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/say"
	"ivelt/core/xresources"
)

// Shown is what a surface shows for a facet, as a reading or a draft has it.
type Shown func(facet, surface string) string

// Sizing is what a surface makes of a font's size, and how it draws its letters.
type Sizing struct {
	Surface string        `json:"surface"`
	Title   string        `json:"title"`
	Facet   string        `json:"facet"`
	Setting string        `json:"setting"` // family and size
	Points  float64       `json:"points"`
	DPI     float64       `json:"dpi"`     // pixels to the inch, with what makes text larger
	Display float64       `json:"display"` // how many pixels of the screen a pixel of the program is
	Px      float64       `json:"px"`      // of the screen
	Why     []say.Message `json:"-"`       // what makes it other than usual
	Reasons []string      `json:"reasons,omitempty"`
	Smooth  string        `json:"smooth"` // as facets have it; "" where the surface is told nothing
	Hinting string        `json:"hinting"`
	Order   string        `json:"order"`
}

// usualDPI is what programs take where nobody says how many pixels an inch has.
const usualDPI = 96

// unsized are surfaces that are settings, and not what draws.
var unsized = []string{"desktop", "display", "fonts"}

// sizing works out how many pixels a surface gives its font, as its toolkit does; false if it is
// told no size. What GTK 2, 3 and 4 and Qt 5 make of the session is held against them by the truth
// tests. Of other surfaces it is taken that an inch has 96 pixels.
func sizing(d *desk.Desk, s desk.Surface, facet, setting string, shown Shown) (Sizing, bool) {
	_, points := desk.SplitFont(setting)
	if points <= 0 {
		return Sizing{}, false
	}
	z := Sizing{Surface: s.ID, Title: s.Title, Facet: facet, Setting: setting, Points: points, DPI: usualDPI, Display: 1}
	switch s.ID {
	case "gtk2":
		z.display(d, false)
	case "gtk3", "settings":
		z.gtk(d, shown)
		if k, ok := leading(d, "GDK_DPI_SCALE"); ok && k != 0 && !z.unsaid(d) {
			if z.because(say.Of("type/by-variable", "GDK_DPI_SCALE", plain(k))); k > 0 {
				z.DPI *= k
			} else {
				z.DPI = usualDPI
			}
		}
	case "gtk4", "gtk4-own":
		z.gtk(d, shown)
	case "qt":
		z.qt(d)
	}
	if n, err := strconv.ParseFloat(shown(desk.FacetDisplayScale, s.ID), 64); err == nil && n > 0 && n != 100*z.Display && n != 100 {
		z.Display = n / 100 // as a draft has it
		z.because(say.Of("type/by-display-scale", plain(n)))
	}
	z.Px = points * z.DPI / 72 * z.Display
	z.Smooth, z.Hinting, z.Order = drawnBy(d, s.ID, shown)
	return z, true
}

func (z *Sizing) because(m say.Message) {
	z.Why, z.Reasons = append(z.Why, m), append(z.Reasons, m.String())
}

// display takes what the X display tells of its pixels (gdkxftdefaults.c; gdksettings.c and
// xsettings-client.c of GTK 3.24): the provider's Xft/DPI, which is in 1024ths, else the resource
// Xft.dpi. With a scale of the provider's for windows, unscaled is what counts.
func (z *Sizing) display(d *desk.Desk, scaled bool) {
	now := d.Now()
	if n, ok := now.XSettings["Gdk/UnscaledDPI"].(int32); ok && scaled && n > 0 {
		z.DPI = float64(n) / 1024
		z.because(say.Of("type/by-display", "Gdk/UnscaledDPI", plain(z.DPI)))
		return
	}
	if n, ok := now.XSettings["Xft/DPI"].(int32); ok {
		if n > 0 {
			z.DPI = float64(n) / 1024
			z.because(say.Of("type/by-display", "Xft/DPI", plain(z.DPI)))
		}
		return
	}
	if e, ok := xresources.Lookup(now.Resources, "Xft.dpi"); ok {
		if dpi, err := strconv.ParseFloat(strings.TrimSpace(e.Value), 64); err == nil && dpi > 0 {
			z.DPI = dpi
			z.because(say.Of("type/by-display", "Xft.dpi", plain(dpi)))
		}
	}
}

// unsaid reports whether the display tells a resolution that is none: then a scale of it counts for
// nothing (gtksettings.c, settings_update_resolution).
func (z *Sizing) unsaid(d *desk.Desk) bool {
	if d.Display() == "wayland" {
		return false
	}
	now := d.Now()
	if n, ok := now.XSettings["Xft/DPI"].(int32); ok {
		return n <= 0
	}
	e, ok := xresources.Lookup(now.Resources, "Xft.dpi")
	dpi, err := strconv.ParseFloat(strings.TrimSpace(e.Value), 64)
	return ok && err == nil && dpi <= 0
}

// gtk takes what GTK 3 and 4 take: under a compositor the text scale of the shared settings
// (gdkscreen-wayland.c, gdkdisplay-wayland.c), else what the display says, and a whole scale of
// windows (GDK_SCALE, else the provider's Gdk/WindowScalingFactor).
func (z *Sizing) gtk(d *desk.Desk, shown Shown) {
	if d.Display() == "wayland" {
		if n, err := strconv.ParseFloat(shown(desk.FacetTextScale, "desktop"), 64); err == nil && n > 0 && n != 100 {
			z.DPI *= n / 100
			z.because(say.Of("type/by-text-scale", plain(n)))
		}
		return
	}
	n, own := leading(d, "GDK_SCALE")
	if own {
		if n = math.Trunc(n); n > 1 {
			z.Display = n
			z.because(say.Of("type/by-variable", "GDK_SCALE", plain(n)))
		}
	} else if n, ok := d.Now().XSettings["Gdk/WindowScalingFactor"].(int32); ok && n > 1 {
		z.Display = float64(n)
		z.because(say.Of("type/by-display", "Gdk/WindowScalingFactor", plain(z.Display)))
	}
	z.display(d, !own)
}

// qt takes what Qt 5 takes on X (qxcbscreen.cpp, qhighdpiscaling.cpp): what the display says as a
// whole number, unless a variable says otherwise, and a scale of everything.
func (z *Sizing) qt(d *desk.Desk) {
	if d.Display() != "wayland" {
		z.display(d, false)
		z.DPI = math.Round(z.DPI)
	}
	if v, ok := d.Var("QT_FONT_DPI"); ok {
		if n, err := strconv.Atoi(v.Value); err == nil && n > 0 {
			z.DPI = float64(n)
			z.because(say.Of("type/by-variable", "QT_FONT_DPI", v.Value))
		}
	}
	if v, ok := d.Var("QT_SCALE_FACTOR"); ok {
		if k, err := strconv.ParseFloat(v.Value, 64); err == nil && k > 0 && k != 1 && !math.IsInf(k, 0) {
			z.Display = k
			z.because(say.Of("type/by-variable", "QT_SCALE_FACTOR", v.Value))
		}
	}
}

// leading is the number that a variable begins with, as C's atoi and strtod read it.
func leading(d *desk.Desk, name string) (float64, bool) {
	v, ok := d.Var(name)
	if !ok {
		return 0, false
	}
	text := strings.TrimSpace(v.Value)
	for end := len(text); end > 0; end-- {
		if n, err := strconv.ParseFloat(text[:end], 64); err == nil && !math.IsInf(n, 0) && !math.IsNaN(n) {
			return n, true
		}
	}
	return 0, true
}

// plain is a number without what it does not need.
func plain(n float64) string { return strconv.FormatFloat(math.Round(n*100)/100, 'f', -1, 64) }

// drawnBy is how a surface draws letters: by facets of its own, else by those of all programs'
// fonts.
func drawnBy(d *desk.Desk, surface string, shown Shown) (smooth, hinting, order string) {
	of := func(facet string) string {
		if surface == "settings" { // programs of the toolkit that asks them
			surface = "gtk3"
		}
		for _, id := range []string{surface, "fonts"} {
			if s, ok := d.Surface(id); ok {
				if _, has := s.Facet(facet); has {
					return shown(facet, id)
				}
			}
		}
		return ""
	}
	return of(desk.FacetAntialias), of(desk.FacetHinting), of(desk.FacetSubpixel)
}
