package layout

import (
	"fmt"
	"image"
	"math"
	"slices"
	"strconv"
	"strings"
)

// Tiles are how windows lie side by side.
type Tiles struct {
	As     Tiling
	Outer  [4]int // gaps to the edges of what bars leave: above, right, below, left, px
	Inner  int    // gap between two windows
	Share  int    // percent: the width of the large one of [Beside]
	Frames bool   // whether they have frames
	Floats []string
	// LeastWide and LeastHigh are the smallest that a window is made.
	LeastWide, LeastHigh int
	Other                []Option
}

// Tiling is how windows share a screen.
type Tiling string

// The ways.
const (
	ByHand  Tiling = "hand"    // each where it is put
	Columns Tiling = "columns" // beside each other, alike
	Beside  Tiling = "beside"  // one large beside a column of the others
	Grid    Tiling = "grid"    // in rows, as square as can be
)

// usualShare is the part of the large one of [Beside] that is not told, percent.
const usualShare = 50

// Tilings are all of them.
var Tilings = []Tiling{ByHand, Columns, Beside, Grid}

// ParseTiles reads how windows lie side by side:
//
//	beside outer 30 inner 20 share 60% frames no float "dialog,class:calc" least 200x120
//
// outer is one number, or four, "30,30,40,30", from above clockwise. Errors wrap [ErrText].
func ParseTiles(text string) (t Tiles, err error) {
	p := parser{text: text}
	if err := p.size(); err != nil {
		return t, err
	}
	as, err := p.needs("a way")
	if err != nil {
		return t, err
	}
	if t.As = Tiling(as); !slices.Contains(Tilings, t.As) {
		return t, p.bad("windows lie by %s, not %q", strings.Trim(fmt.Sprint(Tilings), "[]"), as)
	}
	t.Share, t.Frames = usualShare, true
	for p.more() {
		word, err := p.needs("a word")
		if err != nil {
			return t, err
		}
		value, err := p.needs("what " + word + " is")
		if err != nil {
			return t, err
		}
		if err := p.tile(&t, word, value); err != nil {
			return t, err
		}
	}
	return t, nil
}

func (p *parser) tile(t *Tiles, word, value string) (err error) {
	switch word {
	case "outer":
		sides := strings.Split(value, ",")
		if len(sides) != 1 && len(sides) != 4 {
			return p.bad("outer is one number or four, not %q", value)
		}
		for i := range t.Outer {
			if t.Outer[i], err = p.whole(word, sides[i%len(sides)]); err != nil {
				return err
			}
		}
	case "inner":
		t.Inner, err = p.whole(word, value)
	case "share":
		if t.Share, err = p.whole(word, strings.TrimSuffix(value, "%")); err == nil && (t.Share < 10 || t.Share > 90) {
			err = p.bad("share is from 10 to 90 percent, not %d", t.Share)
		}
	case "frames":
		if t.Frames = value == "yes"; !t.Frames && value != "no" {
			err = p.bad("frames is yes or no, not %q", value)
		}
	case "float":
		t.Floats = strings.Split(value, ",")
	case "least":
		w, h, ok := strings.Cut(value, "x")
		if !ok {
			return p.bad("least is a size such as 200x120, not %q", value)
		}
		if t.LeastWide, err = p.whole(word, w); err == nil {
			t.LeastHigh, err = p.whole(word, h)
		}
	default:
		if t.Other = append(t.Other, Option{word, value}); len(t.Other) > maxOptions {
			err = p.bad("%d words that are not known are the most", maxOptions)
		}
	}
	return err
}

// String is the text of it. What is as usual is left out.
func (t Tiles) String() string {
	var s strings.Builder
	s.WriteString(string(t.As))
	pair := func(word, value, usual string) {
		if value != usual {
			s.WriteString(" " + word + " " + quoted(value))
		}
	}
	outer := strconv.Itoa(t.Outer[0])
	if t.Outer != [4]int{t.Outer[0], t.Outer[0], t.Outer[0], t.Outer[0]} {
		outer = strings.Trim(strings.ReplaceAll(fmt.Sprint(t.Outer), " ", ","), "[]")
	}
	pair("outer", outer, "0")
	pair("inner", strconv.Itoa(t.Inner), "0")
	pair("share", strconv.Itoa(t.Share)+"%", "50%")
	pair("frames", map[bool]string{true: "yes", false: "no"}[t.Frames], "yes")
	pair("float", strings.Join(t.Floats, ","), "")
	pair("least", fmt.Sprintf("%dx%d", t.LeastWide, t.LeastHigh), "0x0")
	for _, o := range t.Other {
		s.WriteString(" " + quoted(o.Key) + " " + quoted(o.Value))
	}
	return s.String()
}

// FloatsKind reports whether a window floats: by its kind ("dialog"), its class ("class:calc") or its
// role ("role:palette").
func (t Tiles) FloatsKind(kind, class, role string) bool {
	return slices.ContainsFunc(t.Floats, func(f string) bool {
		return f != "" && (f == kind || f == "class:"+class && class != "" || f == "role:"+role && role != "")
	})
}

// Places are where so many windows lie in what bars leave of a monitor. Cells are never smaller than the
// least size where the screen is not itself: windows that find no cell share the last one, one over the
// other.
func (t Tiles) Places(n int, work image.Rectangle) (out []image.Rectangle, bad []Trouble) {
	gap := func(v int) int {
		if v < 0 {
			bad = append(bad, Trouble{Negative, -1, -1, ""})
		}
		return max(v, 0)
	}
	inner := gap(t.Inner)
	top, right, below, left := gap(t.Outer[0]), gap(t.Outer[1]), gap(t.Outer[2]), gap(t.Outer[3])
	in := image.Rect(work.Min.X+left, work.Min.Y+top, work.Max.X-right, work.Max.Y-below)
	if left+right > work.Dx()/2 || top+below > work.Dy()/2 {
		bad = append(bad, Trouble{TooThick, -1, -1, ""})
		in = work.Inset(min(work.Dx(), work.Dy()) / 4)
	}
	if n <= 0 {
		return nil, bad
	}
	cells := t.cells(n, in, inner)
	for i := range n {
		out = append(out, cells[min(i, len(cells)-1)])
	}
	if len(cells) < n {
		bad = append(bad, Trouble{NoRoom, -1, -1, strconv.Itoa(n - len(cells))})
	}
	return out, bad
}

// split parts a line in n with gaps between, each at least so long, as many as fit: their ends.
func split(from, to, n, gap, least int) (out [][2]int) {
	long := to - from
	n = max(min(n, (long+gap)/max(least+gap, 1)), 1)
	free := max(long-(n-1)*gap, n)
	for i := range n {
		a := from + int(math.Round(float64(i)*float64(free)/float64(n))) + i*gap
		b := from + int(math.Round(float64(i+1)*float64(free)/float64(n))) + i*gap
		out = append(out, [2]int{a, min(b, max(to, a))})
	}
	return out
}

// cells are the parts of a screen that windows are put in.
func (t Tiles) cells(n int, in image.Rectangle, gap int) (out []image.Rectangle) {
	wide, high := max(t.LeastWide, 1), max(t.LeastHigh, 1)
	columns := func(in image.Rectangle, n int) {
		for _, x := range split(in.Min.X, in.Max.X, n, gap, wide) {
			out = append(out, image.Rect(x[0], in.Min.Y, x[1], in.Max.Y))
		}
	}
	switch {
	case t.As == ByHand || n == 1:
		return []image.Rectangle{in}
	case t.As == Columns:
		columns(in, n)
	case t.As == Beside:
		large := int(math.Round(float64(in.Dx()-gap) * float64(t.Share) / 100))
		if in.Dx()-gap-large < wide || large < wide {
			return []image.Rectangle{in}
		}
		out = append(out, image.Rect(in.Min.X, in.Min.Y, in.Min.X+large, in.Max.Y))
		for _, y := range split(in.Min.Y, in.Max.Y, n-1, gap, high) {
			out = append(out, image.Rect(in.Min.X+large+gap, y[0], in.Max.X, y[1]))
		}
	default:
		rows := int(math.Round(math.Sqrt(float64(n) * float64(max(in.Dy(), 1)) / float64(max(in.Dx(), 1)))))
		lines := split(in.Min.Y, in.Max.Y, min(max(rows, 1), n), gap, high)
		for i, y := range lines {
			of := n/len(lines) + map[bool]int{true: 1}[i >= len(lines)-n%len(lines)] // the last rows have one more
			columns(image.Rect(in.Min.X, y[0], in.Max.X, y[1]), of)
		}
	}
	return out
}
