package gtkcss

import (
	"slices"
	"strings"
)

// Node is one widget's node, as GTK matches selectors against it.
type Node struct {
	Name    string
	ID      string
	Classes []string
	States  []string // hover, active, checked, disabled, focus, selected, backdrop …
}

// ParsePath reads a path from the window down: its nodes separated by blanks,
// each a name with classes, states and an ID, "button.suggested-action:hover".
func ParsePath(text string) []Node {
	var out []Node
	for _, part := range strings.Fields(text) {
		c := parseCompound(part)
		out = append(out, Node{Name: c.name, ID: c.id, Classes: c.classes, States: c.states})
	}
	return out
}

// selector is a list of compounds, the last one for the node itself.
type selector struct {
	parts []compound
	never bool // it asks for what is not known here
}

// compound is what is asked of one node, and how it stands to the one before.
type compound struct {
	name, id        string
	classes, states []string
	not             []compound
	child           bool // the one before is its parent, not just above it
	never           bool
}

func parseSelectors(list string) []selector {
	var out []selector
	for _, text := range split(list, ',') {
		if text = strings.TrimSpace(text); text != "" {
			out = append(out, parseSelector(text))
		}
	}
	return out
}

func parseSelector(text string) selector {
	var s selector
	child := false
	text = strings.NewReplacer(">", " > ", "+", " + ", "~", " ~ ").Replace(outside(text))
	for _, part := range strings.Fields(text) {
		switch part {
		case ">":
			child = true
			continue
		case "+", "~":
			s.never = true // siblings are not part of a path
			continue
		}
		c := parseCompound(part)
		c.child, child = child, false
		s.never = s.never || c.never
		s.parts = append(s.parts, c)
	}
	return s
}

// outside takes blanks out of what stands in brackets, so that a compound is
// one field.
func outside(text string) string {
	deep := 0
	return strings.Map(func(r rune) rune {
		switch {
		case r == '(':
			deep++
		case r == ')':
			deep--
		case deep > 0 && r == ' ':
			return -1
		}
		return r
	}, text)
}

func parseCompound(text string) compound {
	var c compound
	for text != "" {
		end := 1
		for end < len(text) && !strings.ContainsRune(".:#", rune(text[end])) {
			if text[end] == '(' {
				end += max(closing(text[end:]), 0)
			}
			end++
		}
		end = min(end, len(text))
		word := text[:end]
		text = text[end:]
		switch {
		case word[0] == '.':
			c.classes = append(c.classes, word[1:])
		case word[0] == '#':
			c.id = word[1:]
		case strings.HasPrefix(word, ":not("):
			c.not = append(c.not, parseCompound(strings.TrimSuffix(word[5:], ")")))
		case word == ":":
		case word[0] == ':' && (strings.Contains(word, "(") || word == ":first-child" || word == ":last-child" || word == ":only-child"):
			c.never = true // places among siblings are not part of a path
		case word[0] == ':':
			c.states = append(c.states, word[1:])
		case word != "*":
			c.name = word
		}
	}
	return c
}

// closing returns where the bracket that text starts with is closed, or -1.
func closing(text string) int {
	deep := 0
	for i, r := range text {
		switch r {
		case '(':
			deep++
		case ')':
			if deep--; deep == 0 {
				return i
			}
		}
	}
	return -1
}

func (c compound) matches(n Node) bool {
	if c.never || c.name != "" && c.name != n.Name || c.id != "" && c.id != n.ID {
		return false
	}
	for _, class := range c.classes {
		if !slices.Contains(n.Classes, class) {
			return false
		}
	}
	for _, state := range c.states {
		if !slices.Contains(n.States, state) {
			return false
		}
	}
	return !slices.ContainsFunc(c.not, func(not compound) bool { return not.matches(n) })
}

// matches tells whether the selector is about the last node of a path.
func (s selector) matches(nodes []Node) bool {
	if s.never || len(s.parts) == 0 {
		return false
	}
	return matchFrom(s.parts, nodes)
}

func matchFrom(parts []compound, nodes []Node) bool {
	last := parts[len(parts)-1]
	if len(nodes) == 0 || !last.matches(nodes[len(nodes)-1]) {
		return false
	}
	rest, above := parts[:len(parts)-1], nodes[:len(nodes)-1]
	if len(rest) == 0 {
		return true
	}
	if last.child {
		return matchFrom(rest, above)
	}
	for n := len(above); n > 0; n-- {
		if matchFrom(rest, above[:n]) {
			return true
		}
	}
	return false
}

// weight is the specificity (Selectors Level 3, section 9): IDs, then classes
// and states, then names.
func (s selector) weight() int {
	w := 0
	for _, c := range s.parts {
		w += c.weight()
	}
	return w
}

func (c compound) weight() int {
	w := 1_000 * (len(c.classes) + len(c.states))
	if c.id != "" {
		w += 1_000_000
	}
	if c.name != "" {
		w++
	}
	for _, n := range c.not {
		w += n.weight()
	}
	return w
}

// split cuts text at a separator that stands outside brackets.
func split(text string, at rune) []string {
	var out []string
	deep, from := 0, 0
	for i, r := range text {
		switch {
		case r == '(':
			deep++
		case r == ')':
			deep--
		case r == at && deep <= 0:
			out = append(out, text[from:i])
			from = i + 1
		}
	}
	return append(out, text[from:])
}
