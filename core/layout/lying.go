package layout

import (
	"fmt"
	"image"
	"slices"
	"strconv"
	"strings"

	"ivelt/core/say"
)

// Lying is where something lies on the desk itself, so that it is well on any monitor: at a corner, an
// edge or the middle of what bars leave, and how far in.
type Lying struct {
	Edges   []Edge // none for the middle, one, or two that meet
	In      [2]int // px in from an edge at the left or right, and from one above or below
	Size    int    // of its letters, px; 0 for as usual
	Form    string // of a clock, that of strftime; "" for the usual
	Monitor string // as a bar's
	Other   []Option
}

// maxSize is how large letters on the desk may be, px.
const maxSize = 400

// ParseLying reads where something lies, "none" for nowhere:
//
//	top right 40 30 size 48 form "%H:%M" on DP-2
//
// The edges it is near, or "middle"; how far in from the sides and from above or below, px; then pairs.
// Errors wrap [ErrText].
func ParseLying(text string) (*Lying, error) {
	p := parser{text: text}
	if err := p.size(); err != nil {
		return nil, err
	}
	if strings.TrimSpace(text) == "none" {
		return nil, nil
	}
	l := &Lying{}
	word, err := p.needs("a place")
	for ; err == nil && slices.Contains(Edges, Edge(word)); word, err = p.needs("how far in it lies") {
		if l.Edges = append(l.Edges, Edge(word)); len(l.Edges) > 2 {
			break
		}
	}
	if err != nil {
		return nil, err
	}
	if len(l.Edges) == 2 && l.Edges[0].Upright() == l.Edges[1].Upright() || len(l.Edges) > 2 {
		return nil, p.bad("two edges meet in a corner, such as top right")
	}
	if len(l.Edges) == 0 {
		if word != string(Middle) {
			return nil, p.bad("a place is at top, bottom, left, right or in the middle, not %q", word)
		}
		if word, err = p.needs("how far in it lies"); err != nil {
			return nil, err
		}
	}
	if l.In[0], err = p.whole("how far in", word); err != nil {
		return nil, err
	}
	if l.In[1], err = p.number("how far from above or below"); err != nil {
		return nil, err
	}
	for p.more() {
		word, err := p.needs("a word")
		if err != nil {
			return nil, err
		}
		value, err := p.needs("what " + word + " is")
		if err != nil {
			return nil, err
		}
		switch word {
		case "size":
			if l.Size, err = p.whole(word, value); err == nil && (l.Size < 0 || l.Size > maxSize) {
				err = p.bad("size is from 0 to %d px", maxSize)
			}
		case "form":
			l.Form = value
		case "on":
			l.Monitor = value
		default:
			if l.Other = append(l.Other, Option{word, value}); len(l.Other) > maxOptions {
				err = p.bad("%d words that are not known are the most", maxOptions)
			}
		}
		if err != nil {
			return nil, err
		}
	}
	return l, nil
}

// Where is where it lies in words of its text: "top right", "middle".
func (l Lying) Where() string {
	if len(l.Edges) == 0 {
		return string(Middle)
	}
	var out []string
	for _, e := range l.Edges {
		out = append(out, string(e))
	}
	slices.SortStableFunc(out, func(a, b string) int {
		return map[bool]int{true: 1}[Edge(a).Upright()] - map[bool]int{true: 1}[Edge(b).Upright()]
	})
	return strings.Join(out, " ")
}

// FormatLying is the text of it.
func FormatLying(l *Lying) string {
	if l == nil {
		return "none"
	}
	out := fmt.Sprintf("%s %d %d", l.Where(), l.In[0], l.In[1])
	for _, o := range append([]Option{{"size", strconv.Itoa(l.Size)}, {"form", l.Form}, {"on", l.Monitor}}, l.Other...) {
		if o.Value != "" && (o.Key != "size" || l.Size != 0) {
			out += " " + quoted(o.Key) + " " + quoted(o.Value)
		}
	}
	return out
}

// Says tells it in words.
func (l *Lying) Says() say.Message {
	if l == nil {
		return say.Word("none").Message()
	}
	said := []say.Message{say.Word("in the middle").Message()}
	if len(l.Edges) > 0 {
		var at []say.Message
		for word := range strings.FieldsSeq(l.Where()) {
			at = append(at, Edge(word).Says().Message())
		}
		said[0] = say.Line("at the %s", say.Join(" ", at...))
	}
	if l.In != [2]int{} {
		said = append(said, say.Line("%d and %d px in", l.In[0], l.In[1]))
	}
	if l.Size > 0 {
		said = append(said, say.Line("letters of %d px", l.Size))
	}
	if l.Form != "" {
		said = append(said, say.Line("as %s", l.Form))
	}
	return comma(said...)
}

// Place is where a thing of a size lies in what bars leave of a monitor. What does not fit lies at the
// upper left, and is moved in no further than there is room.
func (l Lying) Place(w, h int, work image.Rectangle) image.Rectangle {
	along := func(from, to, size, in int, near, far bool) int {
		free := max(to-from-size, 0)
		switch in = min(max(in, 0), free); {
		case near:
			return from + in
		case far:
			return from + free - in
		}
		return from + free/2
	}
	x := along(work.Min.X, work.Max.X, w, l.In[0], slices.Contains(l.Edges, Left), slices.Contains(l.Edges, Right))
	y := along(work.Min.Y, work.Max.Y, h, l.In[1], slices.Contains(l.Edges, Top), slices.Contains(l.Edges, Bottom))
	return image.Rect(x, y, x+w, y+h)
}

// At is the place of a thing of a size whose upper left corner is put at a point: in the middle, if it is
// near that, else so far from the nearer edge, so that it is well on other monitors too.
func At(x, y, w, h int, work image.Rectangle) (l Lying) {
	along := func(at, size, from, to int, near, far Edge) int {
		switch off := 2*at + size - from - to; { // twice as far as its middle is from that of the room
		case off < -(to-from)/6:
			l.Edges = append(l.Edges, near)
			return max(at-from, 0)
		case off > (to-from)/6:
			l.Edges = append(l.Edges, far)
			return max(to-at-size, 0)
		}
		return 0
	}
	l.In[1] = along(y, h, work.Min.Y, work.Max.Y, Top, Bottom)
	l.In[0] = along(x, w, work.Min.X, work.Max.X, Left, Right)
	return l
}

// By is the place so many px further to the right and below, of a thing of a size. It stays at its edges;
// one in the middle goes to the edge that it is moved to.
func (l Lying) By(dx, dy, w, h int, work image.Rectangle) Lying {
	at := l.Place(w, h, work)
	l.Edges = slices.Clone(l.Edges)
	along := func(in *int, by, before, after int, near, far Edge) {
		switch {
		case by == 0:
		case slices.Contains(l.Edges, near):
			*in = min(max(before+by, 0), before+after)
		case slices.Contains(l.Edges, far):
			*in = min(max(after-by, 0), before+after)
		case by < 0:
			l.Edges, *in = append(l.Edges, near), max(before+by, 0)
		default:
			l.Edges, *in = append(l.Edges, far), max(after-by, 0)
		}
	}
	along(&l.In[1], dy, at.Min.Y-work.Min.Y, work.Max.Y-at.Max.Y, Top, Bottom)
	along(&l.In[0], dx, at.Min.X-work.Min.X, work.Max.X-at.Max.X, Left, Right)
	return l
}

// bounds of names of workspaces.
const maxNames, longestName = 32, 64

// ParseNames reads names with semicolons between, "Sea;Shore"; "none" for none. Errors wrap [ErrText].
func ParseNames(text string) ([]string, error) {
	if text == "none" {
		return nil, nil
	}
	names := strings.Split(text, ";")
	if len(names) > maxNames {
		return nil, say.Errorf("%w: %d names are the most", ErrText, maxNames)
	}
	for i, name := range names {
		if strings.TrimSpace(name) == "" || name != strings.TrimSpace(name) || len(name) > longestName || strings.ContainsAny(name, "\n\r\t") {
			return nil, say.Errorf("%w: name %d is empty, too long, or begins or ends with a blank", ErrText, i+1)
		}
	}
	return names, nil
}

// Around things that lie on the desk, px: from the sides and from above and below, and how wide a thing
// with its name is at least.
const (
	lieAcross, lieDown  = 10, 26
	lieWide, lieBeside  = 112, 120
	leastApart, lieName = 20, 20
)

// Lie is where icons of a size lie on the desk along an edge, in what bars leave of a monitor: one after
// the other, in a further row or column where there is no more room; names are below them, beside them or
// hidden. What finds no room at all is left out.
func Lie(e Edge, n, size, apart int, names string, in image.Rectangle) (out []image.Rectangle) {
	wide, high := max(size, lieWide), size+max(apart, leastApart)
	switch names {
	case "beside":
		wide, high = size+lieBeside, size+max(apart, 0)
	case "hidden":
		wide, high = size+max(apart, 0), size+max(apart, 0)
	}
	in = image.Rect(in.Min.X+lieAcross, in.Min.Y+lieDown, in.Max.X-lieAcross, in.Max.Y-lieDown)
	tall := size
	if names == "below" {
		tall += lieName
	}
	rows, columns := max((in.Dy()-tall)/high+1, 0), max(in.Dx()/wide, 0)
	if in.Dy() < tall || in.Dx() < wide {
		return nil
	}
	for i := range min(n, rows*columns) {
		x, y := i/rows, i%rows // down the side first
		if !e.Upright() {
			x, y = i%columns, i/columns
		}
		at := image.Pt(in.Min.X+x*wide, in.Min.Y+y*high)
		switch e {
		case Right:
			at.X = in.Max.X - (x+1)*wide
		case Bottom:
			at.Y = in.Max.Y - tall - y*high
		}
		if names != "beside" {
			at.X += (wide - size) / 2
		}
		out = append(out, image.Rect(at.X, at.Y, at.X+size, at.Y+size))
	}
	return out
}
