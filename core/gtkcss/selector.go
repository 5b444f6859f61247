package gtkcss

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/tdewolff/parse/v2/css"
)

// Node is one widget's node in a tree, as selectors see it.
type Node struct {
	Name    string
	ID      string
	Classes []string
	States  []string // hover, active, checked, disabled, focus, selected, backdrop …
	Hidden  bool     // it does not count among its siblings

	parent   *Node
	children []*Node
	index    int
	loose    bool // its place among its siblings is not known
}

// Add puts nodes under this one, after those that are there, and returns it.
func (n *Node) Add(children ...*Node) *Node {
	for _, c := range children {
		c.parent, c.index, c.loose = n, len(n.children), false
		n.children = append(n.children, c)
	}
	return n
}

// Replace puts another node in the place of the only one under this one.
func (n *Node) Replace(child *Node) {
	n.children = nil
	n.Add(child)
}

// Children are the nodes under this one.
func (n *Node) Children() []*Node { return n.children }

// Parent is the node above, nil at the top.
func (n *Node) Parent() *Node { return n.parent }

// Is tells whether the node is in a state.
func (n *Node) Is(state string) bool { return slices.Contains(n.States, state) }

// New reads one node: a name with classes, states and an ID,
// "button.suggested-action:hover".
func New(text string) *Node {
	n := &Node{}
	for text != "" {
		end := 1
		for end < len(text) && !strings.ContainsRune(".:#", rune(text[end])) {
			if text[end] == '(' {
				end += max(strings.IndexByte(text[end:], ')'), 0)
			}
			end++
		}
		end = min(end, len(text))
		word := text[:end]
		text = text[end:]
		switch word[0] {
		case '.':
			n.Classes = append(n.Classes, word[1:])
		case '#':
			n.ID = word[1:]
		case ':':
			if state, ok := stateNames[word[1:]]; ok {
				n.States = append(n.States, state)
			} else {
				n.States = append(n.States, word[1:])
			}
		default:
			n.Name = word
		}
	}
	if !n.Is("dir(rtl)") && !n.Is("dir(ltr)") {
		n.States = append(n.States, "dir(ltr)")
	}
	return n
}

// Path reads a path from the window down, "window.background box button:hover",
// and returns its last node, nil if there is none. A "+" puts the next node
// beside the one before instead of under it. What else stands beside a node is
// not said: under GTK 3 it has no place among its siblings, as in a widget
// path; under GTK 4 it is the only one.
func Path(text string) *Node {
	var last *Node
	beside := false
	for _, part := range strings.Fields(strings.ReplaceAll(text, ">", " ")) {
		if part == "+" {
			beside = true
			continue
		}
		n := New(part)
		switch {
		case last == nil:
			n.loose = true
		case beside && last.parent != nil:
			last.loose = false
			last.parent.Add(n)
		default:
			last.Add(n)
			n.loose = true
		}
		last, beside = n, false
	}
	return last
}

// selector is a chain of compounds, the first one for the node itself, the
// others for those before and above it.
type selector struct {
	parts  []step
	weight int
}

// step is a compound in a selector, and how its node stands to the next one.
type step struct {
	*compound      // the same one wherever a sheet says the same: it says most of them often
	before    byte // ' ', '>', '+', '~'
}

// compound is what is asked of one node.
type compound struct {
	name, id        string
	classes, states []string
	places          []place
	not             []compound
	less            int // places that count as one with another
}

// place is a·n+b among the siblings.
type place struct {
	a, b int
	last bool // counted from the end
}

var errSelector = errors.New("is no selector")

// stateNames are the state pseudo-classes; the values are how they are called
// today.
var stateNames = map[string]string{
	"active": "active", "hover": "hover", "prelight": "hover", "selected": "selected", "disabled": "disabled", "insensitive": "disabled",
	"indeterminate": "indeterminate", "inconsistent": "indeterminate", "focus": "focus", "focused": "focus", "backdrop": "backdrop", "link": "link",
	"visited": "visited", "checked": "checked", "focus-visible": "focus-visible", "focus-within": "focus-within",
}

// only3 and only4 are known to one generation alone (gtkcssselector.c of each).
var only3 = []string{"prelight", "insensitive", "inconsistent", "focused"}
var only4 = []string{"focus-visible", "focus-within"}

func readSelectors(r *reader) ([]selector, error) {
	var out []selector
	for {
		s, err := readSelector(r)
		if err != nil {
			return nil, err
		}
		out = append(out, s)
		if r.done() {
			return slices.Clip(out), nil
		}
		if !r.take(",") {
			return nil, errSelector
		}
	}
}

func readSelector(r *reader) (selector, error) {
	s := selector{parts: r.room[:0]} // most selectors are short, and a sheet has thousands
	var before byte
	for {
		from := r.at
		c, err := readCompound(r)
		if err != nil {
			return s, err
		}
		if r.afresh {
			s, r.afresh = selector{parts: r.room[:0]}, false
		}
		one := step{compound: r.same(r.tokens[from:r.at], c)}
		if len(s.parts) > 0 {
			one.before = before
		}
		s.parts = append(s.parts, one)
		s.weight += c.weight()
		if r.done() || r.peek().is(",") {
			break
		}
		switch t := r.peek(); {
		case t.is(">") || t.is("+") || t.is("~"):
			before = t.text[0]
			r.at++
		case t.spaced || r.gtk == 3: // GTK 3 needs no blank
			before = ' '
		default:
			return s, errSelector
		}
	}
	// From the node itself upwards; "before" then says how it stands to the next.
	r.room = s.parts
	s.parts = append(make([]step, 0, len(s.parts)), s.parts...)
	slices.Reverse(s.parts)
	return s, nil
}

// same is the compound that was read of the same words before.
func (r *reader) same(words []token, c compound) *compound {
	var key strings.Builder
	for _, t := range words {
		key.WriteString(t.text)
		key.WriteByte(0)
	}
	if known := r.compounds[key.String()]; known != nil {
		return known
	}
	if r.compounds == nil {
		r.compounds = map[string]*compound{}
	}
	r.compounds[key.String()] = &c
	return &c
}

func readCompound(r *reader) (compound, error) {
	var c compound
	for first := true; ; first = false {
		t := r.peek()
		if r.done() || !first && t.spaced {
			if first {
				return c, errSelector
			}
			return c, nil
		}
		switch {
		case t.is("*") && first:
			r.at++
		case t.kind == css.IdentToken && first:
			c.name = t.text
			r.at++
		case t.kind == css.HashToken:
			c.id = t.text[1:]
			r.at++
		case t.is("."):
			r.at++
			if t := r.peek(); t.kind == css.IdentToken && !t.spaced {
				c.classes = append(c.classes, t.text)
				r.at++
			} else if r.gtk == 4 { // it complains, and forgets all that stood before
				r.complains, r.afresh = t.line, true
				c = compound{}
			} else { // a class without a name, which nothing has: GTK 3 goes on
				c.classes = append(c.classes, "")
			}
		case t.is(":"):
			r.at++
			if err := c.pseudo(r); err != nil {
				return c, err
			}
		default:
			if first {
				return c, errSelector
			}
			return c, nil
		}
	}
}

func (c *compound) pseudo(r *reader) error {
	if !r.enter() {
		return fmt.Errorf("%w: it is nested too deep", errSelector)
	}
	defer r.leave()
	t := r.next()
	unknown := fmt.Errorf("%w: ‘:%s’ is not known", errSelector, t.text)
	switch t.kind {
	case css.IdentToken:
		if r.gtk == 4 && slices.Contains(only3, t.text) || r.gtk == 3 && slices.Contains(only4, t.text) {
			return unknown
		}
		switch t.text {
		case "first-child":
			c.places = append(c.places, place{0, 1, false})
		case "last-child":
			c.places = append(c.places, place{0, 1, true})
		case "only-child":
			c.places = append(c.places, place{0, 1, false}, place{0, 1, true})
			c.less++
		case "root":
			if r.gtk == 3 {
				return unknown
			}
			c.states = append(c.states, "root")
		default:
			state, ok := stateNames[t.text]
			if !ok {
				return unknown
			}
			c.states = append(c.states, state)
		}
		return nil
	case css.FunctionToken:
		switch name := strings.TrimSuffix(t.text, "("); name {
		case "not":
			inner, err := readSimple(r)
			if err != nil || !r.take(")") {
				return errSelector
			}
			c.not = append(c.not, inner)
			return nil
		case "dir", "drop":
			word := r.next()
			if word.kind != css.IdentToken || !r.take(")") {
				return errSelector
			}
			c.states = append(c.states, name+"("+word.text+")")
			return nil
		case "nth-child", "nth-last-child":
			last := name == "nth-last-child"
			if w, is := r.word("first", "last"); is && r.gtk == 3 && !last { // its older words
				c.places = append(c.places, place{0, 1, w == "last"})
				if !r.take(")") {
					return errSelector
				}
				return nil
			}
			a, b, ok := readPlace(r)
			if !ok {
				return errSelector
			}
			c.places = append(c.places, place{a, b, last})
			return nil
		}
	}
	return unknown
}

// readSimple reads what stands in :not(…): one thing only.
func readSimple(r *reader) (compound, error) {
	var c compound
	switch t := r.next(); {
	case t.is("*"):
	case t.kind == css.IdentToken:
		c.name = t.text
	case t.kind == css.HashToken:
		c.id = t.text[1:]
	case t.is("."):
		class := r.next()
		if class.kind != css.IdentToken {
			return c, errSelector
		}
		c.classes = []string{class.text}
	case t.is(":"):
		return c, c.pseudo(r)
	default:
		return c, errSelector
	}
	return c, nil
}

// readPlace reads "2n+1", "odd", "3" and its bracket.
func readPlace(r *reader) (a, b int, ok bool) {
	var text strings.Builder
	for !r.done() && !r.peek().is(")") {
		text.WriteString(r.next().text)
	}
	if !r.take(")") {
		return 0, 0, false
	}
	return nth(strings.ToLower(text.String()))
}

func nth(s string) (a, b int, ok bool) {
	switch s {
	case "odd":
		return 2, 1, true
	case "even":
		return 2, 0, true
	}
	before, after, has := strings.Cut(s, "n")
	if !has {
		b, err := strconv.Atoi(s)
		return 0, b, err == nil
	}
	switch before {
	case "", "+":
		a = 1
	case "-":
		a = -1
	default:
		n, err := strconv.Atoi(before)
		if err != nil {
			return 0, 0, false
		}
		a = n
	}
	if after == "" {
		return a, 0, true
	}
	b, err := strconv.Atoi(after)
	return a, b, err == nil && (after[0] == '+' || after[0] == '-')
}

func (p place) holds(n *Node, gtk int) bool {
	at := 1
	switch {
	case n.loose && gtk == 3:
		return false
	case n.parent == nil || n.loose:
	case p.last:
		at = 1 + shown(n.parent.children[n.index+1:])
	default:
		at = 1 + shown(n.parent.children[:n.index])
	}
	if p.a == 0 {
		return at == p.b
	}
	return (at-p.b)%p.a == 0 && (at-p.b)/p.a >= 0
}

func shown(nodes []*Node) int {
	count := 0
	for _, n := range nodes {
		if !n.Hidden {
			count++
		}
	}
	return count
}

func (c *compound) matches(n *Node, gtk int) bool {
	if c.name != "" && c.name != n.Name || c.id != "" && c.id != n.ID {
		return false
	}
	for _, class := range c.classes {
		if !slices.Contains(n.Classes, class) {
			return false
		}
	}
	for _, state := range c.states {
		if state == "root" {
			if n.parent != nil {
				return false
			}
		} else if !slices.Contains(n.States, state) {
			return false
		}
	}
	for _, p := range c.places {
		if !p.holds(n, gtk) {
			return false
		}
	}
	for i := range c.not {
		if c.not[i].matches(n, gtk) {
			return false
		}
	}
	return true
}

// matches tells whether the selector is about a node.
func (s *selector) matches(n *Node, gtk int) bool { return matchFrom(s.parts, n, gtk) }

func matchFrom(parts []step, n *Node, gtk int) bool {
	if n == nil || !parts[0].matches(n, gtk) {
		return false
	}
	rest := parts[1:]
	if len(rest) == 0 {
		return true
	}
	switch parts[0].before {
	case '>':
		return matchFrom(rest, n.parent, gtk)
	case '+':
		before := n.before()
		return before != nil && matchFrom(rest, before, gtk)
	case '~':
		for before := n.before(); before != nil; before = before.before() {
			if matchFrom(rest, before, gtk) {
				return true
			}
		}
		return false
	}
	for above := n.parent; above != nil; above = above.parent {
		if matchFrom(rest, above, gtk) {
			return true
		}
	}
	return false
}

// before is the sibling before, nil if there is none.
func (n *Node) before() *Node {
	if n.parent == nil {
		return nil
	}
	for i := n.index - 1; i >= 0; i-- {
		if b := n.parent.children[i]; !b.Hidden {
			return b
		}
	}
	return nil
}

// weight is the specificity (Selectors Level 3, section 9): IDs, then classes
// and states, then names.
func (c *compound) weight() int {
	w := 1_000 * (len(c.classes) + len(c.states) + len(c.places) - c.less)
	if c.id != "" {
		w += 1_000_000
	}
	if c.name != "" {
		w++
	}
	for i := range c.not {
		w += c.not[i].weight()
	}
	return w
}
