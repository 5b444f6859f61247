// Package layout computes where things are on a desk: its bars and what is on them, the dock, windows
// side by side, and what is left for them. All lengths are px at 100 %; a monitor that is drawn larger
// has so many fewer of them.
package layout

import (
	"slices"
	"strconv"

	"ivelt/core/say"
)

// Edge is one of a monitor's edges.
type Edge string

// The edges.
const (
	Top    Edge = "top"
	Bottom Edge = "bottom"
	Left   Edge = "left"
	Right  Edge = "right"
)

// Edges are all, in the order they are offered in.
var Edges = []Edge{Top, Bottom, Left, Right}

// Upright reports whether what lies along the edge goes from the top down.
func (e Edge) Upright() bool { return e == Left || e == Right }

// Align is where something lies along a line.
type Align string

// The places along a line; of a bar that is read from left to right, or from the top down.
const (
	Start  Align = "start"
	Middle Align = "middle"
	End    Align = "end"
)

// Aligns are all of them, in order.
var Aligns = []Align{Start, Middle, End}

// Hiding is when something at an edge makes room.
type Hiding string

// When: a hidden one comes back when the pointer is at its edge.
const (
	Never   Hiding = "never"
	Always  Hiding = "always"
	Covered Hiding = "covered" // when a window would lie under it
)

// Hidings are all of them.
var Hidings = []Hiding{Never, Always, Covered}

// Length is how long a bar is.
type Length struct {
	Of Measured
	N  int // px or percent
}

// Measured is what a length is told in.
type Measured string

// What lengths are told in.
const (
	Whole   Measured = "whole"   // the edge
	Share   Measured = "share"   // percent of the edge
	Fixed   Measured = "fixed"   // px
	Content Measured = "content" // as its items take
)

// String is the length as it is written: "60%", "800", "content", "whole".
func (l Length) String() string {
	switch l.Of {
	case Share:
		return strconv.Itoa(l.N) + "%"
	case Fixed:
		return strconv.Itoa(l.N)
	case Content:
		return string(Content)
	}
	return string(Whole)
}

// Bar is a bar along an edge.
type Bar struct {
	Edge    Edge
	Thick   int
	Long    Length
	At      Align // where it lies along its edge, if it is not as long
	Margin  int   // between it and the edges: it floats
	Round   int   // of its corners
	Hides   Hiding
	Monitor string // the name of its socket; "" for the first, "all" for each
	Items   []Item
	Other   []Option // what a newer version says of it
}

// All is the monitor of a bar that each monitor has.
const All = "all"

// Item is one thing on a bar.
type Item struct {
	Kind    string // one of Kinds, or that of a newer version
	Side    Align
	Options []Option
}

// Option is a word and its value.
type Option struct{ Key, Value string }

// Get is the value of an option, "" if it is not told.
func Get(all []Option, key string) string {
	for _, o := range all {
		if o.Key == key {
			return o.Value
		}
	}
	return ""
}

// Kind is what is known of a kind of items.
type Kind struct {
	Name    string
	Title   say.Word
	Options []string // words that it takes
	// How it goes when room is short, see [Bar.Fit]: Order is the turn in which it gives way, the
	// first with 1; 0 stays to the last.
	Shortens, Collapses bool
	Order               int
}

// Kinds are the items that are known, in the order they are offered in.
var Kinds = []Kind{
	{"menu", "Menu", nil, false, false, 0},
	{"pinned", "Pinned programs", []string{"programs"}, true, false, 10},
	{"windows", "Open windows", []string{"width", "group", "titles"}, true, true, 9},
	{"title", "Title of the maximised window", []string{"width"}, true, false, 5},
	{"buttons", "Window buttons", nil, false, false, 11},
	{"program-menu", "Menu of the program", nil, false, true, 6},
	{"workspaces", "Workspaces", []string{"names"}, false, true, 8},
	{"tray", "Tray", []string{"show"}, false, true, 7},
	{"clock", "Clock", []string{"form", "places"}, false, true, 12},
	{"battery", "Battery", []string{"percent"}, false, true, 4},
	{"processor", "Processor", []string{"of"}, false, true, 1},
	{"keyboard", "Keyboard layout", nil, false, false, 3},
	{"show-desktop", "Show the desktop", nil, false, false, 2},
	{"power", "Power", nil, false, false, 13},
	{"space", "Space", []string{"size"}, true, false, 0},
	{"stretch", "Flexible space", nil, true, false, 0},
	{"line", "Line", nil, false, false, 0},
}

// KindOf is what is known of a kind; false for that of a newer version.
func KindOf(name string) (Kind, bool) {
	i := slices.IndexFunc(Kinds, func(k Kind) bool { return k.Name == name })
	if i < 0 {
		return Kind{Name: name, Title: say.Word(name), Collapses: true, Order: 1}, false
	}
	return Kinds[i], true
}
