// Package backdropbench looks closely at a picture as the backdrop of a desk: how it lies on each of its
// monitors, which colours lead in it, and what of the rest could be made of them.
package backdropbench

import (
	"context"
	"errors"
	"fmt"
	"image"
	"slices"

	"ivelt/core/backdrop"
	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/imagefile"
	"ivelt/core/palette"
	"ivelt/core/preview"
)

// Bounds of a picture that is looked at.
const (
	MaxBytes    = preview.MaxBackdrop
	drawnAt     = 640 // px of the longer side of a drawing without pixels of its own
	maxLeading  = 10
	maxAccents  = 5
	usualWidth  = 1920 // px of a monitor where none is known (common practice, no source)
	usualHeight = 1080
)

// ErrPicture: it is none that can be shown as a backdrop.
var ErrPicture = errors.New("it is no picture that can be shown as a backdrop")

// On is a picture on one monitor.
type On struct {
	Monitor desk.Monitor
	backdrop.Laid
}

// Proposed is a palette of a terminal, and where its colours come from.
type Proposed struct {
	palette.Palette
	Tones [16]backdrop.Tone
}

// Report is what was seen of a picture.
type Report struct {
	Type          string  // its media type
	Width, Height float64 // px, turned as it is shown; of a drawing those it says
	Turned        bool    // it says by Exif that it is to be turned
	Drawing       bool    // it has no pixels of its own, and is sharp in any size
	Mode          backdrop.Mode
	Cut           backdrop.Cut
	Guessed       bool // no monitor is known: one of usual size stands for it
	On            []On
	Leading       []backdrop.Leading
	Accents       []backdrop.Accent
	Dark, Light   Proposed
}

// Options of [Look].
type Options struct {
	Mode     backdrop.Mode
	Cut      backdrop.Cut
	Monitors []desk.Monitor    // none for one of usual size
	Grounds  []backdrop.Ground // that accents are seen on
}

// Look looks at a picture. Errors wrap [ErrPicture] or [imagefile.ErrCostly], or are those of ctx.
func Look(ctx context.Context, raw []byte, o Options) (*Report, error) {
	r := &Report{Type: imagefile.MediaType(raw)}
	r.Drawing = r.Type == "image/svg+xml"
	im, err := picture(ctx, raw, r.Drawing)
	if err != nil {
		return nil, err
	}
	r.Turned = !r.Drawing && imagefile.Turn(raw) > 1
	if r.Width, r.Height = imagefile.Size(raw); r.Width < 1 || r.Height < 1 {
		r.Width, r.Height = float64(im.Bounds().Dx()), float64(im.Bounds().Dy())
	}
	if r.Leading, err = backdrop.LeadingColours(ctx, im, maxLeading); err != nil {
		return nil, err
	}
	r.Dark.Palette, r.Dark.Tones = backdrop.Sixteen(r.Leading, true)
	r.Light.Palette, r.Light.Tones = backdrop.Sixteen(r.Leading, false)
	return r.As(o), nil
}

// picture reads or draws a picture.
func picture(ctx context.Context, raw []byte, drawing bool) (image.Image, error) {
	if !drawing {
		im, err := imagefile.Photograph(ctx, raw)
		switch {
		case ctx.Err() != nil:
			return nil, ctx.Err()
		case errors.Is(err, imagefile.ErrCostly):
			return nil, err
		case err != nil:
			return nil, fmt.Errorf("%w: %w", ErrPicture, err)
		}
		return im, nil
	}
	if err := imagefile.Check(raw); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrPicture, err)
	}
	if im := imagefile.Raster(ctx, raw, drawnAt); im != nil {
		return im, nil
	}
	if ctx.Err() != nil {
		return nil, ctx.Err()
	}
	return nil, fmt.Errorf("%w: the drawing would cost too much", ErrPicture)
}

// As is the same picture laid otherwise, or seen on other grounds.
func (r *Report) As(o Options) *Report {
	out := *r
	out.Mode, out.Cut, out.On = o.Mode, o.Cut, nil
	out.lie(o)
	out.Accents = backdrop.Accents(r.Leading, o.Grounds, maxAccents)
	return &out
}

// Or is monitors, or one of usual size if none is known.
func Or(monitors []desk.Monitor) []desk.Monitor {
	if len(monitors) > 0 {
		return monitors
	}
	return []desk.Monitor{{Name: "a usual monitor", Width: usualWidth, Height: usualHeight}}
}

// lie tells how the picture lies on each monitor.
func (r *Report) lie(o Options) {
	r.Guessed = len(o.Monitors) == 0
	monitors := Or(o.Monitors)
	for i, l := range backdrop.Across(o.Mode, r.Width, r.Height, desk.Places(monitors), o.Cut) {
		r.On = append(r.On, On{monitors[i], l})
	}
}

// Grounds are what an accent is seen on in a look of a desk: the windows of each toolkit, as their
// themes have them; of those that follow an accent alone, if there are such.
func Grounds(d *desk.Desk, look preview.Look) (out []backdrop.Ground) {
	follows := func(s desk.Surface) bool { _, ok := s.Facet(desk.FacetAccent); return ok }
	some := slices.ContainsFunc(d.Surfaces(), func(s desk.Surface) bool { return s.Kind == "toolkit" && follows(s) })
	for _, s := range d.Surfaces() {
		if s.Kind != "toolkit" || some && !follows(s) {
			continue
		}
		st := preview.Styles(d, look, s.ID)
		if st == nil {
			continue
		}
		if c := st.Style(gtkcss.Path("window.background")).Colour("background-color"); c.A >= 1 {
			out = append(out, backdrop.Ground{Name: s.Title, Colour: colour.Colour{R: c.R, G: c.G, B: c.B}})
		}
	}
	return out
}
