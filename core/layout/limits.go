package layout

import (
	"slices"
	"strconv"
	"strings"
)

// Limits are what a shell takes of bars, and of windows side by side. Of what they do not tell it takes
// all there is.
type Limits struct {
	Bars     int      `toml:"bars"`     // how many it has at most
	Edges    []Edge   `toml:"edges"`    // where they may lie
	Thinnest int      `toml:"thinnest"` // px
	Thickest int      `toml:"thickest"` // px
	Items    []string `toml:"items"`    // what may be on them
	Words    []string `toml:"words"`    // what may be told of a bar, or of windows: "long", "margin", "outer"
	Ways     []Tiling `toml:"ways"`     // how windows may lie
}

// Loss is something of a layout that a shell does not take.
type Loss struct {
	Code    string // one of those below
	What    string // an edge, a thickness, a kind of items, a word, a way
	Instead string // what comes nearest, "" for nothing
}

// Codes of losses.
const (
	LostEdge  = "edge"  // no bar may lie there
	LostThick = "thick" // px; no bar may be so thick, or so thin
	LostBar   = "bar"   // there are too many: what is on it goes to another
	LostItem  = "item"  // it may not be on a bar
	LostWord  = "word"  // it may not be told
	LostWay   = "way"   // windows may not lie so
	LostDock  = "dock"  // there is none; a bar takes its place
)

func within[T comparable](all []T, one T) bool { return all == nil || slices.Contains(all, one) }

// Nearest are the bars within limits that come nearest to some, and what of them is lost. What is on a
// bar too many goes to the last of those that stay, if none has such an item; what a newer version says is
// lost where a shell tells which words it takes.
func (l Limits) Nearest(bars []Bar) (out []Bar, lost []Loss) {
	lose := func(code, what, instead string) {
		if one := (Loss{code, what, instead}); !slices.Contains(lost, one) {
			lost = append(lost, one)
		}
	}
	for _, b := range copied(bars) {
		wanted := b.Edge
		if b.Edge = l.edge(b.Edge, out); b.Edge != wanted {
			lose(LostEdge, string(wanted), string(b.Edge))
		}
		b.Items = slices.DeleteFunc(b.Items, func(i Item) bool {
			gone := !within(l.Items, i.Kind)
			if gone {
				lose(LostItem, i.Kind, "")
			}
			return gone
		})
		if l.Bars > 0 && len(out) == l.Bars {
			lose(LostBar, string(wanted), "")
			for _, i := range b.Items {
				has := func(b Bar) bool {
					return slices.ContainsFunc(b.Items, func(o Item) bool { return o.Kind == i.Kind && o.Kind != "stretch" })
				}
				if !slices.ContainsFunc(out, has) {
					put(&out[len(out)-1], i, Spot{Side: i.Side, At: maxItems})
				}
			}
			continue
		}
		thick := max(b.Thick, l.Thinnest)
		if l.Thickest > 0 {
			thick = min(thick, l.Thickest)
		}
		if thick != b.Thick {
			lose(LostThick, strconv.Itoa(b.Thick), strconv.Itoa(thick))
			b.Thick = thick
		}
		out = append(out, l.worded(b, lose))
	}
	return out, lost
}

// edge is where a bar may lie that is wanted at an edge: there, else across from it, else at the first
// that may be and has none.
func (l Limits) edge(wanted Edge, others []Bar) Edge {
	if within(l.Edges, wanted) || len(l.Edges) == 0 {
		return wanted
	}
	free := func(e Edge) bool { return !slices.ContainsFunc(others, func(b Bar) bool { return b.Edge == e }) }
	across := map[Edge]Edge{Top: Bottom, Bottom: Top, Left: Right, Right: Left}[wanted]
	if within(l.Edges, across) && free(across) {
		return across
	}
	if i := slices.IndexFunc(l.Edges, free); i >= 0 {
		return l.Edges[i]
	}
	return l.Edges[0]
}

// worded is a bar of which nothing is told that may not be.
func (l Limits) worded(b Bar, lose func(code, what, instead string)) Bar {
	if l.Words == nil {
		return b
	}
	usual := Bar{Long: Length{Of: Whole}, At: Start, Hides: Never}
	for _, w := range []struct {
		word   string
		is     bool
		unsaid func()
	}{
		{"long", b.Long.Of != usual.Long.Of && b.Long.Of != "", func() { b.Long = usual.Long }},
		{"at", b.At != usual.At, func() { b.At = usual.At }},
		{"margin", b.Margin != 0, func() { b.Margin = 0 }},
		{"round", b.Round != 0, func() { b.Round = 0 }},
		{"hides", b.Hides != usual.Hides, func() { b.Hides = usual.Hides }},
		{"on", b.Monitor != "", func() { b.Monitor = "" }},
	} {
		if w.is && !within(l.Words, w.word) {
			lose(LostWord, w.word, "")
			w.unsaid()
		}
	}
	b.Other = slices.DeleteFunc(slices.Clone(b.Other), func(o Option) bool {
		gone := !within(l.Words, o.Key)
		if gone {
			lose(LostWord, o.Key, "")
		}
		return gone
	})
	return b
}

// NearestTiles is how windows lie within limits that comes nearest to a way, and what of it is lost.
func (l Limits) NearestTiles(t Tiles) (out Tiles, lost []Loss) {
	out = t
	if !within(l.Ways, t.As) {
		out.As = ByHand
		lost = append(lost, Loss{LostWay, string(t.As), string(out.As)})
	}
	usual := Tiles{Share: usualShare, Frames: true}
	for _, w := range []struct {
		word   string
		is     bool
		unsaid func()
	}{
		{"outer", t.Outer != usual.Outer, func() { out.Outer = usual.Outer }},
		{"inner", t.Inner != 0, func() { out.Inner = 0 }},
		{"share", t.Share != usualShare, func() { out.Share = usualShare }},
		{"frames", !t.Frames, func() { out.Frames = true }},
		{"float", len(t.Floats) > 0, func() { out.Floats = nil }},
		{"least", t.LeastWide != 0 || t.LeastHigh != 0, func() { out.LeastWide, out.LeastHigh = 0, 0 }},
	} {
		if w.is && !within(l.Words, w.word) {
			lost = append(lost, Loss{LostWord, w.word, ""})
			w.unsaid()
		}
	}
	if l.Words != nil {
		out.Other = nil
		for _, o := range t.Other {
			lost = append(lost, Loss{LostWord, o.Key, ""})
		}
	}
	return out, lost
}

// AsBar is the bar that comes nearest to a dock, for a shell that has none: as long as its programs,
// where the dock would be, with a button of each.
func (d *Dock) AsBar() Bar {
	b := Bar{
		Edge: d.Edge, Thick: d.thick(), Long: Length{Of: Content}, At: d.At, Margin: d.Margin, Round: d.Round, Hides: d.Hides, Monitor: d.Monitor,
		Items: []Item{{Kind: "pinned", Side: Start}},
	}
	if len(d.Programs) > 0 {
		b.Items[0].Options = []Option{{"programs", strings.Join(d.Programs, ",")}}
	}
	return b
}

// NearestTo are the bars within limits that come nearest to some and a dock, for a shell that has no
// dock: none of them shares its edge with what stands for the dock.
func (l Limits) NearestTo(bars []Bar, dock *Dock) (out []Bar, lost []Loss) {
	if dock != nil {
		bars = slices.DeleteFunc(slices.Clone(bars), func(b Bar) bool { return b.Edge == dock.Edge && b.Monitor == dock.Monitor })
		bars = append(bars, dock.AsBar())
	}
	out, lost = l.Nearest(bars)
	if dock != nil {
		lost = append([]Loss{{LostDock, string(dock.Edge), ""}}, lost...)
	}
	return out, lost
}
