package gtkcss

import (
	"cmp"
	"context"
	"encoding/binary"
	"slices"
)

// Cascade computes styles under several sheets.
type Cascade struct {
	Generation int

	sheets  []*Sheet
	entries []entry // in the order they win
	by      struct{ id, class, name map[string][]int }
	any     []int
	styles  map[*Node]*Style
	alike   map[likeness]*Style
	lost    map[*declaration]bool // that won at a node and name a colour nobody defines
	size    float64
	known   *knownColours
	work    int             // selectors that were held against nodes
	tired   bool            // it was too much: what came after that is not styled
	until   context.Context // nil for none
}

// MaxWork bounds how often a selector is held against a node for one cascade. The
// sheets of real themes take 60,000 for a whole picture.
const MaxWork = 2_000_000

// entry is one selector and what it is told.
type entry struct {
	selector *selector
	tells    []declaration
}

// NewCascade puts sheets over each other: a later one wins over an earlier one.
// The first one's generation counts.
func NewCascade(sheets ...*Sheet) *Cascade {
	c := &Cascade{Generation: 3, sheets: sheets, styles: map[*Node]*Style{}, alike: map[likeness]*Style{}, lost: map[*declaration]bool{}, size: usualSize, known: newKnown()}
	if len(sheets) > 0 {
		c.Generation = sheets[0].Generation
	}
	for _, s := range sheets {
		from := len(c.entries)
		for i := range s.rules {
			for j := range s.rules[i].selectors {
				c.entries = append(c.entries, entry{&s.rules[i].selectors[j], s.rules[i].tells})
			}
		}
		slices.SortStableFunc(c.entries[from:], func(a, b entry) int { return cmp.Compare(a.selector.weight, b.selector.weight) })
	}
	c.by.id, c.by.class, c.by.name = map[string][]int{}, map[string][]int{}, map[string][]int{}
	for i, e := range c.entries {
		switch own := e.selector.parts[0]; {
		case own.id != "":
			c.by.id[own.id] = append(c.by.id[own.id], i)
		case len(own.classes) > 0:
			c.by.class[own.classes[0]] = append(c.by.class[own.classes[0]], i)
		case own.name != "":
			c.by.name[own.name] = append(c.by.name[own.name], i)
		default:
			c.any = append(c.any, i)
		}
	}
	return c
}

// Until gives up when a context ends: what is asked about after that has no style of its own,
// as if it were too much work.
func (c *Cascade) Until(ctx context.Context) { c.until = ctx }

// spend counts work, and reports whether there may be more of it.
func (c *Cascade) spend(n int) bool {
	const look = 1 << 14
	was := c.work / look
	if c.work += n; c.work > MaxWork || c.until != nil && (n == 0 || c.work/look != was) && c.until.Err() != nil {
		c.tired = true
	}
	return !c.tired
}

// TextSize sets the size of text where no sheet says another, in px.
func (c *Cascade) TextSize(px float64) { c.size = px }

// Colour returns what a named colour stands for; a later sheet's wins.
func (c *Cascade) Colour(name string) (Colour, bool) {
	return namedColour(name).resolve(colourContext{named: c.named, known: c.known})
}

func (c *Cascade) named(name string) (colour, bool) {
	for _, s := range slices.Backward(c.sheets) {
		if v, ok := s.colours[name]; ok {
			return v, true
		}
	}
	return nil, false
}

// Compute returns the style of a node by its path.
func (c *Cascade) Compute(path string) *Style { return c.Style(Path(path)) }

// Compute returns the style of a node by its path under this sheet alone.
func (s *Sheet) Compute(path string) *Style { return NewCascade(s).Compute(path) }

// Style returns the computed style of a node of a tree, nil for none. It is
// kept: a node whose states change needs Forget.
func (c *Cascade) Style(n *Node) *Style {
	if n == nil {
		return nil
	}
	if st, ok := c.styles[n]; ok {
		return st
	}
	st := c.compute(n, c.Style(n.parent))
	c.styles[n] = st
	return st
}

// Tired reports whether the sheets ask for more work than is done for one picture:
// nodes that were asked about after that have no style of theirs.
func (c *Cascade) Tired() bool { return c.tired }

// Forget drops what was computed.
func (c *Cascade) Forget() {
	clear(c.styles)
	clear(c.alike)
}

// met returns the rules that a node meets, the weakest first.
func (c *Cascade) met(n *Node) []int {
	var at []int
	if !c.spend(0) {
		return nil
	}
	pick := func(of []int) {
		for _, i := range of {
			if !c.spend(len(c.entries[i].selector.parts)) {
				return
			}
			if c.entries[i].selector.matches(n, c.Generation) {
				at = append(at, i)
			}
		}
	}
	pick(c.any)
	pick(c.by.name[n.Name])
	if n.ID != "" {
		pick(c.by.id[n.ID])
	}
	for i, class := range n.Classes {
		if !slices.Contains(n.Classes[:i], class) {
			pick(c.by.class[class])
		}
	}
	slices.Sort(at)
	return at
}

// told returns what wins of rules, by property.
func (c *Cascade) told(at []int) []*declaration {
	won := make([]*declaration, len(properties))
	for _, i := range at {
		tells := c.entries[i].tells
		for j := range tells {
			won[tells[j].property] = &tells[j]
		}
	}
	return won
}

// likeness is what two nodes have in common that have the same style.
type likeness struct {
	parent *Style
	met    string
}

func (c *Cascade) compute(n *Node, parent *Style) *Style {
	at := c.met(n)
	key := make([]byte, 0, 4*len(at))
	for _, i := range at {
		key = binary.AppendUvarint(key, uint64(i))
	}
	like := likeness{parent, string(key)}
	if st, ok := c.alike[like]; ok {
		return st
	}
	st := c.computeFrom(at, parent)
	c.alike[like] = st
	return st
}

func (c *Cascade) computeFrom(at []int, parent *Style) *Style {
	st := &Style{values: make([]value, len(properties)), told: c.told(at), gtk: c.Generation}
	k := &against{parent: parent, own: st, rootSize: c.size, colours: colourContext{named: c.named, known: c.known}}
	above := func(id int) value {
		switch {
		case parent != nil:
			return parent.values[id]
		case id == idFontSize:
			return px(c.size)
		}
		return properties[id].initial
	}
	set := func(id int) {
		p := &properties[id]
		v := p.initial
		if id == idFontSize {
			v = px(c.size)
		}
		k.fallback = Colour{}
		if col, is := p.initial.(Colour); is {
			k.fallback = col
		}
		switch d := st.told[id]; {
		case d == nil && p.inherited:
			st.values[id] = computed(above(id), k)
			return
		case d != nil:
			switch d.value.(type) {
			case inherit:
				st.values[id] = computed(above(id), k)
				return
			case initial:
			case unset:
				if p.inherited {
					st.values[id] = computed(above(id), k)
					return
				}
			default:
				v = d.value
				if k.fallback == (Colour{}) && fallsToText[p.name] {
					k.fallback = k.colours.current
				}
			}
		}
		k.lost = false
		if st.values[id] = v.compute(k); k.lost && st.told[id] != nil {
			c.lost[st.told[id]] = true
		}
	}
	// Sizes of text are of the size above, all else is of the node's own; the
	// same goes for currentColor.
	k.fontSize = computed(above(idFontSize), k).(number).px
	set(idFontSize)
	k.fontSize = st.values[idFontSize].(number).px
	k.colours.current = computed(above(idColour), k).(Colour)
	set(idColour)
	k.colours.current = st.values[idColour].(Colour)
	for id := range properties {
		if id != idFontSize && id != idColour {
			set(id)
		}
	}
	for _, line := range borderLines { // css-backgrounds-3, section 4.3
		if style := st.values[line.style]; style == keyword("none") || style == keyword("hidden") {
			st.values[line.width] = px(0)
		}
	}
	return st
}

// fallsToText are the colours that are the text's if what they are told is not
// defined: their first value is currentColor.
var fallsToText = map[string]bool{
	"border-top-color": true, "border-right-color": true, "border-bottom-color": true, "border-left-color": true,
	"outline-color": true, "caret-color": true, "-gtk-secondary-caret-color": true, "-gtk-icon-palette": true,
}

// borderLines are the styles and widths that belong together.
var borderLines []struct{ style, width int }

func computed(v value, k *against) value { return v.compute(k) }
