// Package backdrop computes how a picture lies on the ground of a desk: how large, where, what of it
// is cut off and what stays bare; and it takes colours out of pictures.
package backdrop

import (
	"image"
	"math"
	"slices"
)

// Mode is how a picture lies on a monitor.
type Mode string

// The modes. Fill, fit, stretch and centre are CSS's object-fit cover, contain, fill and none; tile is
// its background-repeat.
const (
	Fill    Mode = "fill"    // as large as it takes to leave nothing bare; the rest is cut off
	Fit     Mode = "fit"     // as large as it can be whole
	Stretch Mode = "stretch" // whole, and as wide and as tall as the monitor
	Centre  Mode = "centre"  // in its own size
	Tile    Mode = "tile"    // in its own size, again and again from the upper left corner
	Span    Mode = "span"    // fills all monitors as if they were one
	None    Mode = "none"    // not shown: the ground alone
)

// Modes are all, in the order they are offered in.
var Modes = []Mode{Fill, Fit, Stretch, Centre, Tile, Span, None}

// Cut is which part of a picture is seen where it is cut off: the place of the picture, of 1 its width
// and height, that lies on the same place of the monitor (CSS's object-position in percent).
type Cut struct{ X, Y float64 }

// Middle is cut off alike on both sides.
var Middle = Cut{0.5, 0.5}

// Box is a place in px.
type Box struct{ X, Y, W, H float64 }

// Laid is how a picture lies on one monitor.
type Laid struct {
	Mode  Mode
	W, H  float64 // of the monitor, px of the screen
	Drawn Box     // the picture, or its first copy, on the monitor
	// Scale is how large it is drawn, of 1 its own size, along and down.
	ScaleX, ScaleY float64
	RoomX, RoomY   float64 // by how many px the cut moves it between its two ends: less than 0 where it is larger than the monitor
	Lost           float64 // how much of the picture is not seen on this monitor, of 1
	Bare           float64 // how much of the monitor shows the ground, of 1
}

// Enlarged is how many times as large as it is a picture is drawn, 1 for no more than its own size.
func (l Laid) Enlarged() float64 { return max(l.ScaleX, l.ScaleY, 1) }

// CanBeCut reports whether the cut moves it.
func (l Laid) CanBeCut() bool {
	cuts := l.Mode == Fill || l.Mode == Span || l.Mode == Centre
	return cuts && (math.Abs(l.RoomX) >= 1 || math.Abs(l.RoomY) >= 1)
}

// Lay places a picture of w × h px on a monitor of ww × hh. Of a picture without a size nothing is
// drawn. Span is fill where there is only one monitor, see [Across].
func Lay(mode Mode, w, h, ww, hh float64, cut Cut) Laid {
	l := Laid{Mode: mode, W: ww, H: hh, ScaleX: 1, ScaleY: 1, Bare: 1}
	if !(w > 0 && h > 0 && ww > 0 && hh > 0) || mode == None {
		l.Mode = None
		return l
	}
	switch mode {
	case Fit:
		l.ScaleX = min(ww/w, hh/h)
		l.ScaleY, cut = l.ScaleX, Middle
	case Stretch:
		l.ScaleX, l.ScaleY = ww/w, hh/h
	case Centre:
	case Tile:
		cut = Cut{}
		l.Drawn = Box{0, 0, w, h}
	default:
		l.ScaleX = max(ww/w, hh/h)
		l.ScaleY = l.ScaleX
	}
	dw, dh := w*l.ScaleX, h*l.ScaleY
	if mode != Tile {
		l.RoomX, l.RoomY = ww-dw, hh-dh
		l.Drawn = Box{(ww - dw) * cut.X, (hh - dh) * cut.Y, dw, dh}
	}
	l.seen()
	return l
}

// seen reckons what is lost and what stays bare.
func (l *Laid) seen() {
	over := func(at, long, of float64) float64 { return max(min(at+long, of)-max(at, 0), 0) }
	part := over(l.Drawn.X, l.Drawn.W, l.W) * over(l.Drawn.Y, l.Drawn.H, l.H)
	l.Lost = max(1-part/(l.Drawn.W*l.Drawn.H), 0)
	l.Bare = max(1-part/(l.W*l.H), 0)
	if l.Mode == Tile {
		l.Bare = 0
	}
	const tiny = 1e-9
	if l.Lost < tiny {
		l.Lost = 0
	}
	if l.Bare < tiny {
		l.Bare = 0
	}
}

// Across places a picture on each of several screens. In the mode span it fills the box around all of
// them, of which each shows its part.
func Across(mode Mode, w, h float64, screens []image.Rectangle, cut Cut) (out []Laid) {
	var all image.Rectangle
	for _, s := range screens {
		all = all.Union(s)
	}
	whole := Lay(mode, w, h, float64(all.Dx()), float64(all.Dy()), cut)
	for _, s := range screens {
		if mode != Span || whole.Mode == None {
			out = append(out, Lay(mode, w, h, float64(s.Dx()), float64(s.Dy()), cut))
			continue
		}
		l := whole
		l.W, l.H = float64(s.Dx()), float64(s.Dy())
		l.Drawn.X -= float64(s.Min.X - all.Min.X)
		l.Drawn.Y -= float64(s.Min.Y - all.Min.Y)
		l.seen()
		out = append(out, l)
	}
	return out
}

// Moved is the cut after what is drawn was dragged by dx, dy px of the monitor: it stays where it can
// be moved no further.
func (l Laid) Moved(cut Cut, dx, dy float64) Cut {
	along := func(at, by, room float64) float64 {
		if math.Abs(room) < 1e-6 {
			return at
		}
		return min(max(at+by/room, 0), 1)
	}
	return Cut{along(cut.X, dx, l.RoomX), along(cut.Y, dy, l.RoomY)}
}

// ModeOf is a mode by its word, Fill for none.
func ModeOf(word string) Mode {
	if m := Mode(word); slices.Contains(Modes, m) {
		return m
	}
	return Fill
}
