package layout

import (
	"image"
	"math"
	"slices"
)

// Screen is a monitor as it is laid out: its size in px at 100 %.
type Screen struct {
	Name       string
	Wide, High int
}

// Size is how long an item is along its bar, px: as it wants to be, and at least. An item that cannot be
// shortened has both alike.
type Size struct{ Wants, Least float64 }

// Measure tells the size of an item on a bar; small of one that has collapsed to its sign.
type Measure func(b Bar, i Item, small bool) Size

// Room is what of a bar is not its items, px.
type Room struct {
	Padding float64 // at both ends
	Gap     float64 // between two items
	More    float64 // the button behind which is what finds no room
}

// Form is how an item is shown.
type Form string

// The forms, in the order in which items give way.
const (
	Full   Form = "whole"
	Short  Form = "shortened"
	Small  Form = "collapsed"
	Behind Form = "behind" // the button that shows the rest
)

// Placed is a bar on a monitor.
type Placed struct {
	Bar     int // which of the bars
	Monitor string
	At      image.Rectangle
	Items   []PlacedItem
	More    image.Rectangle // the button that shows the rest, empty without
	Takes   int             // of its edge, from windows: 0 for one that hides
}

// PlacedItem is an item on it.
type PlacedItem struct {
	Item int // which of the bar's items
	At   image.Rectangle
	How  Form
}

// Trouble is something that was not done as it was said.
type Trouble struct {
	Code Code
	Bar  int    // which of the bars, -1 for none
	Item int    // which of its items, -1 for none
	What string // a name, or by how many px
}

// Code names a trouble.
type Code string

// The troubles of bars.
const (
	TooThick  Code = "too-thick"  // it would take more than half of what is left
	TooLong   Code = "too-long"   // it is longer than its edge
	Negative  Code = "negative"   // a length below 0 counts as 0
	NoMonitor Code = "no-monitor" // it is for one that is not there
	NoRoom    Code = "no-room"    // an item is behind the button that shows the rest
	Cut       Code = "cut"        // not even that fits
	Unknown   Code = "unknown"    // an item of a newer version
)

// Places are where bars are on monitors, and what they leave of each to windows. Bars take their part
// of what those before them left, so that no two lie over each other.
func Places(bars []Bar, screens []Screen, room Room, measure Measure) (out []Placed, work map[string]image.Rectangle, bad []Trouble) {
	left := map[string]image.Rectangle{}
	work = map[string]image.Rectangle{}
	for _, s := range screens {
		left[s.Name] = image.Rect(0, 0, max(s.Wide, 0), max(s.High, 0))
		work[s.Name] = left[s.Name]
	}
	for n, b := range bars {
		for i, item := range b.Items {
			if _, known := KindOf(item.Kind); !known {
				bad = append(bad, Trouble{Unknown, n, i, item.Kind})
			}
		}
		on := screens
		switch {
		case b.Monitor == All:
		case b.Monitor == "":
			on = screens[:min(len(screens), 1)]
		default:
			i := slices.IndexFunc(screens, func(s Screen) bool { return s.Name == b.Monitor })
			if i < 0 {
				bad = append(bad, Trouble{NoMonitor, n, -1, b.Monitor})
				continue
			}
			on = screens[i : i+1]
		}
		for _, s := range on {
			p, rest, wrong := b.place(left[s.Name], room, measure)
			p.Bar, p.Monitor = n, s.Name
			left[s.Name] = rest
			if b.Hides == Never || b.Hides == "" {
				work[s.Name] = p.beside(b.Edge, work[s.Name]) // of those that hide nothing is taken
				p.Takes = p.depth(b.Edge, s)
			}
			for _, t := range wrong {
				t.Bar = n
				bad = append(bad, t)
			}
			out = append(out, p)
		}
	}
	return out, work, bad
}

// beside is what a bar at an edge leaves of a rectangle.
func (p Placed) beside(e Edge, of image.Rectangle) image.Rectangle {
	switch e {
	case Bottom:
		of.Max.Y = min(of.Max.Y, p.At.Min.Y)
	case Left:
		of.Min.X = max(of.Min.X, p.At.Max.X)
	case Right:
		of.Max.X = min(of.Max.X, p.At.Min.X)
	default:
		of.Min.Y = max(of.Min.Y, p.At.Max.Y)
	}
	return of
}

// depth is how far from a monitor's edge a bar reaches, px.
func (p Placed) depth(e Edge, s Screen) int {
	switch e {
	case Bottom:
		return s.High - p.At.Min.Y
	case Left:
		return p.At.Max.X
	case Right:
		return s.Wide - p.At.Min.X
	}
	return p.At.Max.Y
}

// place is the bar in a part of a monitor, and what it leaves of that.
func (b Bar) place(in image.Rectangle, room Room, measure Measure) (p Placed, rest image.Rectangle, bad []Trouble) {
	across, along := in.Dy(), in.Dx()
	if b.Edge.Upright() {
		across, along = along, across
	}
	atLeast := func(n, least int) int {
		if n < least {
			bad = append(bad, Trouble{Negative, -1, -1, ""})
		}
		return max(n, least)
	}
	margin := min(atLeast(b.Margin, 0), across/4, along/4)
	thick := atLeast(b.Thick, 1)
	if most := max(across/2-margin, 0); thick > most {
		bad = append(bad, Trouble{TooThick, -1, -1, ""})
		thick = most
	}
	free := max(along-2*margin, 0)
	long := free
	switch b.Long.Of {
	case Share:
		long = int(math.Round(float64(free) * float64(min(max(b.Long.N, 1), 100)) / 100))
	case Fixed:
		long = atLeast(b.Long.N, 1)
	case Content:
		long = int(math.Ceil(b.content(room, measure)))
	}
	if long > free {
		if b.Long.Of == Fixed {
			bad = append(bad, Trouble{TooLong, -1, -1, ""})
		}
		long = free
	}
	from := margin
	switch b.At {
	case Middle:
		from += (free - long) / 2
	case End:
		from += free - long
	}
	rest = in
	switch b.Edge {
	case Bottom:
		p.At = image.Rect(in.Min.X+from, in.Max.Y-margin-thick, in.Min.X+from+long, in.Max.Y-margin)
		rest.Max.Y = p.At.Min.Y
	case Left:
		p.At = image.Rect(in.Min.X+margin, in.Min.Y+from, in.Min.X+margin+thick, in.Min.Y+from+long)
		rest.Min.X = p.At.Max.X
	case Right:
		p.At = image.Rect(in.Max.X-margin-thick, in.Min.Y+from, in.Max.X-margin, in.Min.Y+from+long)
		rest.Max.X = p.At.Min.X
	default:
		p.At = image.Rect(in.Min.X+from, in.Min.Y+margin, in.Min.X+from+long, in.Min.Y+margin+thick)
		rest.Min.Y = p.At.Max.Y
	}
	bad = append(bad, b.fill(&p, long, room, measure)...)
	return p, rest, bad
}

// content is how long the bar is if all on it is as it wants to be.
func (b Bar) content(room Room, measure Measure) float64 {
	sum := 2 * room.Padding
	for i, item := range b.Items {
		if sum += b.box(item, Full, measure).Basis; i > 0 {
			sum += room.Gap
		}
	}
	return sum
}

// box is how an item goes with the room there is.
func (b Bar) box(i Item, how Form, measure Measure) Box {
	if i.Kind == "stretch" {
		return Box{Grow: 1, Shrink: 1}
	}
	s := measure(b, i, how == Small)
	box := Box{Basis: max(s.Wants, 0), Least: max(min(s.Least, s.Wants), 0)}
	if box.Least < box.Basis {
		box.Shrink = 1
	}
	return box
}

// fill places the items on a bar that is so long. What finds no room gives way in a stated order: first
// those that can be are shortened, all alike; then those that can collapse to their sign, one after the
// other by [Kind.Order]; then, by the same order, they go behind a button that shows the rest.
func (b Bar) fill(p *Placed, long int, room Room, measure Measure) (bad []Trouble) {
	forms := make([]Form, len(b.Items))
	for i := range forms {
		forms[i] = Full
	}
	inner := max(float64(long)-2*room.Padding, 0)
	turns := b.turns()
	for _, step := range []struct {
		to  Form
		can func(Kind) bool
	}{{Small, func(k Kind) bool { return k.Collapses }}, {Behind, func(Kind) bool { return true }}} {
		for _, i := range turns {
			if b.least(forms, room, measure) <= inner {
				break
			}
			if kind, _ := KindOf(b.Items[i].Kind); step.can(kind) {
				forms[i] = step.to
			}
		}
	}
	tooLong := b.least(forms, room, measure) > inner+0.5
	if tooLong {
		bad = append(bad, Trouble{Cut, -1, -1, ""})
	}
	for i, f := range forms {
		if f == Behind {
			bad = append(bad, Trouble{NoRoom, -1, i, b.Items[i].Kind})
		}
	}
	b.line(p, forms, inner, room, measure)
	return bad
}

// turns are the items in the order in which they give way; those that stay are not among them.
func (b Bar) turns() (out []int) {
	for i := range b.Items {
		if k, _ := KindOf(b.Items[i].Kind); k.Order > 0 {
			out = append(out, i)
		}
	}
	slices.SortStableFunc(out, func(x, y int) int {
		a, _ := KindOf(b.Items[x].Kind)
		c, _ := KindOf(b.Items[y].Kind)
		return a.Order - c.Order
	})
	return out
}

// least is the shortest that the items can be in their forms.
func (b Bar) least(forms []Form, room Room, measure Measure) (sum float64) {
	shown, more := 0, false
	for i, item := range b.Items {
		if forms[i] == Behind {
			more = true
			continue
		}
		sum += b.box(item, forms[i], measure).Least
		shown++
	}
	if more {
		sum += room.More
		shown++
	}
	return sum + room.Gap*float64(max(shown-1, 0))
}

// section is what lies at one of the three places of a bar.
type section struct {
	items []int // -1 for the button that shows the rest
	boxes []Box
}

func (s section) least(gap float64) float64 {
	sum := gap * float64(max(len(s.boxes)-1, 0))
	for _, b := range s.boxes {
		sum += b.Least
	}
	return sum
}

func (s section) wants(gap float64) float64 {
	sum := gap * float64(max(len(s.boxes)-1, 0))
	for _, b := range s.boxes {
		sum += max(b.Basis, b.Least)
	}
	return sum
}

func (s section) grows() bool {
	return slices.ContainsFunc(s.boxes, func(b Box) bool { return b.Grow > 0 })
}

// line places the items, given the form of each. The bar is a line of three boxes, one for each place:
// with something in the middle, those beside it are alike, so that it is in the middle of the bar as
// long as there is room; else the start has what the end leaves. In each the items are a line again.
func (b Bar) line(p *Placed, forms []Form, inner float64, room Room, measure Measure) {
	all := map[Align]*section{Start: {}, Middle: {}, End: {}}
	more := false
	for i, item := range b.Items {
		if forms[i] == Behind {
			more = true
			continue
		}
		s := all[item.Side]
		if s == nil {
			s = all[Start]
		}
		s.items, s.boxes = append(s.items, i), append(s.boxes, b.box(item, forms[i], measure))
	}
	if more {
		end := all[End]
		end.items, end.boxes = append(end.items, -1), append(end.boxes, Box{Basis: room.More, Least: room.More})
	}
	var sides []Align
	for _, side := range Aligns {
		if len(all[side].items) > 0 || side != Middle && len(all[Middle].items) > 0 {
			sides = append(sides, side)
		}
	}
	var boxes []Box
	for _, side := range sides {
		s := all[side]
		box := Box{Basis: s.wants(room.Gap), Least: s.least(room.Gap), Shrink: 1}
		switch {
		case len(all[Middle].items) > 0 && side != Middle:
			box.Basis, box.Grow = 0, 1
		case len(sides) == 1, side == Start, s.grows():
			box.Grow = 1
		}
		boxes = append(boxes, box)
	}
	at := room.Padding
	for n, long := range Resolve(inner, room.Gap, boxes) {
		s := all[sides[n]]
		lengths := Resolve(long, room.Gap, s.boxes)
		from := at
		sum := room.Gap * float64(max(len(lengths)-1, 0))
		for _, l := range lengths {
			sum += l
		}
		if sides[n] == End {
			from += max(long-sum, 0)
		}
		for i, l := range lengths {
			b.put(p, s.items[i], forms, from, from+l, s.boxes[i])
			from += l + room.Gap
		}
		at += long + room.Gap
	}
	slices.SortFunc(p.Items, func(x, y PlacedItem) int { return x.Item - y.Item })
	for i, f := range forms {
		if f == Behind {
			p.Items = append(p.Items, PlacedItem{i, image.Rectangle{}, Behind})
		}
	}
}

// put places an item from one place along the bar to another.
func (b Bar) put(p *Placed, item int, forms []Form, from, to float64, box Box) {
	// What finds no room is cut off. Half a pixel goes up, however it was reckoned.
	within := func(v float64, most int) int { return min(int(math.Floor(v+0.5+1e-6)), most) }
	lo, hi := within(from, p.At.Dx()), within(to, p.At.Dx())
	at := image.Rect(p.At.Min.X+lo, p.At.Min.Y, p.At.Min.X+hi, p.At.Max.Y)
	if b.Edge.Upright() {
		lo, hi = within(from, p.At.Dy()), within(to, p.At.Dy())
		at = image.Rect(p.At.Min.X, p.At.Min.Y+lo, p.At.Max.X, p.At.Min.Y+hi)
	}
	if item < 0 {
		p.More = at
		return
	}
	how := forms[item]
	if how == Full && box.Shrink > 0 && to-from < box.Basis-0.5 {
		how = Short
	}
	p.Items = append(p.Items, PlacedItem{item, at, how})
}
