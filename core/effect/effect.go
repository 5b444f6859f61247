// Package effect is how windows move: the effects of shells for opening, closing, minimising
// and switching workspaces, what each looks like at any moment, and what it costs.
package effect

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"ivelt/core/say"
)

// Action is when an effect is played.
type Action string

// The actions.
const (
	Open   Action = "open"
	Close  Action = "close"
	Hide   Action = "minimise"
	Switch Action = "workspace"
)

// Actions are all of them, in the order they are shown.
var Actions = []Action{Open, Close, Hide, Switch}

// Kinds are the kinds of effects that an action may have; "none" and "fade" are of all.
func Kinds(a Action) []string {
	switch a {
	case Hide:
		return []string{"none", "fade", "shrink", "sink"}
	case Switch:
		return []string{"none", "fade", "slide", "zoom"}
	}
	return []string{"none", "fade", "grow", "rise", "roll"}
}

// Easings are the ways in which an effect gathers way, as CSS names them (CSS Easing Functions
// Level 1, 2.2.1), each with the two points of its curve.
var Easings = []Easing{
	{"linear", [4]float64{0, 0, 1, 1}}, {"ease", [4]float64{0.25, 0.1, 0.25, 1}}, {"ease-in", [4]float64{0.42, 0, 1, 1}},
	{"ease-out", [4]float64{0, 0, 0.58, 1}}, {"ease-in-out", [4]float64{0.42, 0, 0.58, 1}},
}

// Easing is a cubic Bézier curve from 0, 0 to 1, 1.
type Easing struct {
	Name  string
	Curve [4]float64 // x and y of its two points between
}

// At is how far an effect has come after a part of its time, 0 to 1 (the same, 2.2).
func (e Easing) At(t float64) float64 {
	switch {
	case t <= 0:
		return 0
	case t >= 1:
		return 1
	}
	along := func(s, a, b float64) float64 { return 3*(1-s)*(1-s)*s*a + 3*(1-s)*s*s*b + s*s*s }
	low, high := 0.0, 1.0 // x grows along the curve
	for range 50 {
		middle := (low + high) / 2
		if along(middle, e.Curve[0], e.Curve[2]) < t {
			low = middle
		} else {
			high = middle
		}
	}
	return along(low, e.Curve[1], e.Curve[3])
}

// Longest is how long an effect may be.
const Longest = 2 * time.Second

// Effect is one, as settings name it: "grow 180 ease-out", or "none".
type Effect struct {
	Action Action
	Kind   string
	For    time.Duration
	Easing Easing
}

// Parse reads an effect of an action.
func Parse(a Action, text string) (Effect, error) {
	words := strings.Fields(text)
	if len(words) == 1 && words[0] == "none" {
		return Effect{Action: a, Kind: "none", Easing: Easings[0]}, nil
	}
	bad := func(what string) (Effect, error) {
		return Effect{}, say.Errorf("%q is no effect: %s", text, what)
	}
	if len(words) != 3 {
		return bad("it is a kind, how many milliseconds it takes, and how it gathers way, as fade 160 ease-out; or none")
	}
	ms, err := strconv.Atoi(words[1])
	at := slices.IndexFunc(Easings, func(e Easing) bool { return e.Name == words[2] })
	switch {
	case !slices.Contains(Kinds(a), words[0]):
		return bad("its kind is one of " + strings.Join(Kinds(a), ", "))
	case err != nil || ms < 0 || ms > int(Longest/time.Millisecond):
		return bad(fmt.Sprintf("it takes from 0 to %d milliseconds", Longest/time.Millisecond))
	case at < 0:
		return bad("it is linear, ease, ease-in, ease-out or ease-in-out")
	}
	return Effect{a, words[0], time.Duration(ms) * time.Millisecond, Easings[at]}, nil
}

// String is the effect as settings name it.
func (e Effect) String() string {
	if e.Kind == "none" || e.Kind == "" {
		return "none"
	}
	return fmt.Sprintf("%s %d %s", e.Kind, e.For/time.Millisecond, e.Easing.Name)
}

// Still reports whether nothing is seen to move: it is no effect, or a fade.
func (e Effect) Still() bool {
	return e.Kind == "none" || e.Kind == "" || e.Kind == "fade" || e.For == 0
}

// Less is the effect for a person who wishes for less motion: what moves fades instead, and
// not for long.
func (e Effect) Less() Effect {
	if !e.Still() {
		e.Kind = "fade"
	}
	e.For = min(e.For, 150*time.Millisecond)
	return e
}

// Pose is how a window, or a workspace, is drawn at a moment.
type Pose struct {
	X, Y           float64 // px from where it rests
	ScaleX, ScaleY float64 // around its middle; of a roll around its top
	Opacity        float64
	Top            bool // it is scaled from its top
}

var rest = Pose{ScaleX: 1, ScaleY: 1, Opacity: 1}

// Box is a rectangle, px.
type Box struct{ X, Y, W, H float64 }

// Scene is where an effect is played: on a screen, of a window that is minimised into a button.
type Scene struct{ Screen, Window, Button Box }

// away is the pose at the end of an effect that is not the rest.
func (e Effect) away(s Scene) Pose {
	p := rest
	switch e.Kind {
	case "none", "":
		return p
	case "fade":
		p.Opacity = 0
	case "grow":
		p.ScaleX, p.ScaleY, p.Opacity = 0.85, 0.85, 0
	case "rise":
		p.Y, p.Opacity = 48, 0
	case "roll":
		p.ScaleY, p.Top = 0.001, true
	case "shrink":
		p.X = s.Button.X + s.Button.W/2 - s.Window.X - s.Window.W/2
		p.Y = s.Button.Y + s.Button.H/2 - s.Window.Y - s.Window.H/2
		p.ScaleX, p.ScaleY, p.Opacity = s.Button.W/max(s.Window.W, 1), s.Button.H/max(s.Window.H, 1), 0.2
	case "sink":
		p.Y, p.Opacity = s.Screen.H-s.Window.Y, 0.6
	case "slide":
		p.X = -s.Screen.W
	case "zoom":
		p.ScaleX, p.ScaleY, p.Opacity = 0.6, 0.6, 0
	}
	return p
}

// At is the pose after a part of the time, 0 to 1. A window that opens comes from away, all
// else goes there.
func (e Effect) At(t float64, s Scene) Pose {
	k := e.Easing.At(t)
	if e.Action == Open {
		k = 1 - k
	}
	if e.Kind == "none" || e.Kind == "" || e.For == 0 {
		k = 1
		if e.Action == Open {
			k = 0
		}
		hidden := rest
		hidden.Opacity = 1 - k
		return hidden
	}
	a := e.away(s)
	mix := func(from, to float64) float64 { return from + (to-from)*k }
	return Pose{mix(0, a.X), mix(0, a.Y), mix(1, a.ScaleX), mix(1, a.ScaleY), mix(1, a.Opacity), a.Top}
}

// Over is what a window covers in a pose.
func (p Pose) Over(b Box) Box {
	w, h := b.W*p.ScaleX, b.H*p.ScaleY
	x, y := b.X+(b.W-w)/2+p.X, b.Y+(b.H-h)/2+p.Y
	if p.Top {
		y = b.Y + p.Y
	}
	return Box{x, y, w, h}
}

// Frames are how many a display of 60 frames a second draws of it.
func (e Effect) Frames() int {
	if e.Kind == "none" || e.Kind == "" {
		return 0
	}
	return int(math.Ceil(e.For.Seconds() * 60))
}

// Glass is what is drawn over windows that move, or of them, and has to be mixed anew: windows
// that are see-through, and blur of what is behind them.
type Glass struct {
	Through bool    // what moves is see-through
	Blur    float64 // px, of what shows through
}

// Cost is what an effect costs.
type Cost struct {
	Frames int
	Frame  float64 // pixels touched in the dearest frame
	All    float64 // pixels touched in all
	each   []float64
}

// CostOf counts the pixels that an effect touches on a screen: in each frame what lies under
// the window, then and in the frame before, is drawn anew, and the window over it, once if it
// hides it, twice if it is mixed with it. Blur reads, for each pixel, a row and a column as
// long as its Gaussian is wide. This is how a compositor with damage tracking goes about it
// (common practice, no source).
func (e Effect) CostOf(s Scene, g Glass) Cost {
	c := Cost{Frames: e.Frames()}
	moved := s.Window
	if e.Action == Switch {
		moved = s.Screen
	}
	before := rest.Over(moved)
	if e.Action == Open {
		before = Box{}
	}
	for i := 1; i <= c.Frames; i++ {
		p := e.At(float64(i)/float64(c.Frames), s)
		now := p.Over(moved).within(s.Screen)
		anew := union(before, now).within(s.Screen).area()
		touches := anew // what is under it
		if e.Action == Switch && e.Kind != "fade" {
			touches = s.Screen.area() // the other workspace comes in where this one goes
		}
		over := now.area()
		if touches += over; p.Opacity < 1 || g.Through {
			touches += over
		}
		if g.Through && g.Blur > 0 {
			touches += over * 2 * (2*math.Ceil(1.5*g.Blur) + 1)
		}
		c.Frame, c.All, c.each = max(c.Frame, touches), c.All+touches, append(c.each, touches)
		before = now
	}
	return c
}

func (b Box) area() float64 { return max(b.W, 0) * max(b.H, 0) }

func (b Box) within(s Box) Box {
	x, y := max(b.X, s.X), max(b.Y, s.Y)
	return Box{x, y, min(b.X+b.W, s.X+s.W) - x, min(b.Y+b.H, s.Y+s.H) - y}
}

func union(a, b Box) Box {
	if a.area() == 0 {
		return b
	}
	if b.area() == 0 {
		return a
	}
	x, y := min(a.X, b.X), min(a.Y, b.Y)
	return Box{x, y, max(a.X+a.W, b.X+b.W) - x, max(a.Y+a.H, b.Y+b.H) - y}
}

// Computer is one of three that costs are held against.
type Computer struct {
	Name  string
	Frame float64 // pixels that it can touch in a sixtieth of a second
}

// Computers are a slow one, which draws without a graphics processor, a usual one with the
// graphics of its processor, and a fast one with a card: 0.3, 3 and 30 thousand million pixels
// a second (common practice, no source).
var Computers = []Computer{{"a slow computer", 0.3e9 / 60}, {"a usual computer", 3e9 / 60}, {"a fast computer", 30e9 / 60}}

// Drops is how many of the frames a computer cannot draw in time: while it draws one that takes
// longer than a sixtieth of a second, the next ones are due and are left out.
func (c Cost) Drops(on Computer) int {
	drawn := 0
	for i := 0; i < len(c.each); drawn++ {
		i += max(int(math.Ceil(c.each[i]/on.Frame)), 1)
	}
	return c.Frames - drawn
}

// Says is what a kind of effect, or a way that one gathers, is called on pages.
func Says(word string) say.Word {
	if i := slices.Index(words, say.Word(word)); i >= 0 {
		return words[i]
	}
	return say.Word(word)
}

var words = []say.Word{"none", "fade", "slide", "zoom", "grow", "shrink", "rise", "sink", "roll", "linear", "ease", "ease-in", "ease-out", "ease-in-out"}
