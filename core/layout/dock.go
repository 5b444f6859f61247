package layout

import (
	"image"
	"slices"
	"strconv"
	"strings"
)

// Dock is a row of programs along an edge, as long as they take.
type Dock struct {
	Edge     Edge
	At       Align
	Icon     int // of a program, px
	Grow     int // percent: how large one becomes under the pointer; 100 leaves it as it is
	Space    int // between two
	Margin   int // between it and the edge: it floats
	Round    int
	Hides    Hiding
	Monitor  string // as a bar's
	Previews bool   // of its windows, over a program
	Running  bool   // a sign under those that run, and those that run and are not pinned
	Programs []string
	Other    []Option
}

// dockPad is how far the icons are from the edges of a dock, px.
const dockPad = 6

// ParseDock reads a dock, "none" for no dock:
//
//	bottom 48 grow 150% space 6 margin 7 round 12: org.example.Log org.example.Charts
//
// An edge and the size of icons, pairs as a bar has them, and after a colon the programs by the IDs of
// their desktop entries. Errors wrap [ErrText].
func ParseDock(text string) (*Dock, error) {
	p := parser{text: text}
	if err := p.size(); err != nil {
		return nil, err
	}
	if strings.TrimSpace(text) == "none" {
		return nil, nil
	}
	items := 0
	b, err := p.bar(&items, Middle)
	if err != nil {
		return nil, err
	}
	if p.more() {
		return nil, p.bad("%q is not expected", p.rest())
	}
	d := &Dock{Edge: b.Edge, At: b.At, Icon: b.Thick, Grow: 100, Margin: b.Margin, Round: b.Round, Hides: b.Hides, Monitor: b.Monitor, Running: true}
	for _, i := range b.Items {
		if len(i.Options) > 0 || i.Side != Start {
			return nil, p.bad("a dock has programs alone")
		}
		d.Programs = append(d.Programs, i.Kind)
	}
	for _, o := range b.Other {
		yes := o.Value == "yes"
		switch o.Key {
		case "grow":
			if d.Grow, err = p.whole("grow", strings.TrimSuffix(o.Value, "%")); err == nil && (d.Grow < 100 || d.Grow > maxGrow) {
				err = p.bad("grow is from 100 to %d percent", maxGrow)
			}
		case "space":
			d.Space, err = p.whole("space", o.Value)
		case "previews", "running":
			if !yes && o.Value != "no" {
				err = p.bad("%s is yes or no, not %q", o.Key, o.Value)
			}
			if o.Key == "previews" {
				d.Previews = yes
			} else {
				d.Running = yes
			}
		default:
			d.Other = append(d.Other, o)
		}
		if err != nil {
			return nil, err
		}
	}
	if b.Long.Of != Whole {
		return nil, p.bad("a dock is as long as its programs")
	}
	return d, nil
}

// maxGrow is how large a program may become under the pointer, percent.
const maxGrow = 300

// FormatDock is the text of a dock.
func FormatDock(d *Dock) string {
	if d == nil {
		return "none"
	}
	b := Bar{Edge: d.Edge, Thick: d.Icon, Margin: d.Margin, Round: d.Round, Hides: d.Hides, Monitor: d.Monitor}
	say := func(key, value, usual string) {
		if value != usual {
			b.Other = append(b.Other, Option{key, value})
		}
	}
	yes := map[bool]string{true: "yes", false: "no"}
	say("at", string(d.At), string(Middle))
	say("grow", strconv.Itoa(d.Grow)+"%", "100%")
	say("space", strconv.Itoa(d.Space), "0")
	say("previews", yes[d.Previews], "no")
	say("running", yes[d.Running], "yes")
	b.Other = append(b.Other, d.Other...)
	for _, id := range d.Programs {
		b.Items = append(b.Items, Item{Kind: id, Side: Start})
	}
	return b.String()
}

// thick is how far it reaches from its edge without its margin, px.
func (d Dock) thick() int { return max(d.Icon, 1) + 2*dockPad }

// PlacedDock is a dock on a monitor.
type PlacedDock struct {
	Monitor string
	At      image.Rectangle
	Icon    int               // px, smaller than was said if there is no room
	Icons   []image.Rectangle // of its programs, in order
	Takes   int               // of its edge, from windows
}

// PlaceDock is where a dock is on a monitor, in what bars have left of it, and what that leaves to
// windows. Icons that find no room become smaller, all alike.
func PlaceDock(d Dock, s Screen, left image.Rectangle) (p PlacedDock, rest image.Rectangle, bad []Trouble) {
	b := Bar{Edge: d.Edge, Thick: d.thick(), At: d.At, Margin: d.Margin, Hides: d.Hides}
	along := left.Dx()
	if d.Edge.Upright() {
		along = left.Dy()
	}
	p.Monitor, p.Icon = s.Name, max(d.Icon, 1)
	space, n := max(d.Space, 0), len(d.Programs)
	if d.Space < 0 {
		bad = append(bad, Trouble{Negative, -1, -1, ""})
	}
	if free := along - 2*min(max(d.Margin, 0), along/4) - 2*dockPad - max(n-1, 0)*space; n > 0 && n*p.Icon > free {
		bad = append(bad, Trouble{TooLong, -1, -1, ""})
		p.Icon = max(free/n, 1)
		b.Thick = p.Icon + 2*dockPad
	}
	b.Long = Length{Fixed, max(2*dockPad+n*p.Icon+max(n-1, 0)*space, 1)}
	bar, rest, wrong := b.place(left, Room{}, nil)
	p.At, bad = bar.At, append(bad, wrong...)
	for i := range n {
		from := dockPad + i*(p.Icon+space)
		at := image.Rect(p.At.Min.X+from, p.At.Min.Y+dockPad, p.At.Min.X+from+p.Icon, p.At.Min.Y+dockPad+p.Icon)
		if d.Edge.Upright() {
			at = image.Rect(p.At.Min.X+dockPad, p.At.Min.Y+from, p.At.Min.X+dockPad+p.Icon, p.At.Min.Y+from+p.Icon)
		}
		p.Icons = append(p.Icons, at.Intersect(p.At))
	}
	if d.Hides == Never || d.Hides == "" {
		p.Takes = Placed{At: p.At}.depth(d.Edge, s)
	} else {
		rest = left
	}
	return p, rest, slices.DeleteFunc(bad, func(t Trouble) bool { return t.Code == Cut })
}

// Grown is where along a dock its icons are, and how large, while the pointer is at a place: each a
// middle and a size, px, of icons that are evenly apart. What is near the pointer grows by a curve of
// our own, (1 - (far/reach)²)², and what is beside it moves away by as much, so that what is under the
// pointer stays there.
func (d Dock) Grown(pointer float64, middles []float64) (at, size []float64) {
	icon := float64(max(d.Icon, 1))
	more := float64(min(max(d.Grow, 100), maxGrow))/100 - 1
	reach := 2.5 * (icon + float64(max(d.Space, 0)))
	moved := func(to float64) float64 { // by the curve's integral from the pointer on
		u := min(max((to-pointer)/reach, -1), 1)
		return to + more*reach*(u-2*u*u*u/3+u*u*u*u*u/5)
	}
	for _, m := range middles {
		from, to := moved(m-icon/2), moved(m+icon/2)
		at, size = append(at, (from+to)/2), append(size, to-from)
	}
	return at, size
}
