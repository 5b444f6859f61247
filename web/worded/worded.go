// Package worded says the pages' templates in another language. A template is written in
// English, as it is read; its lines are found in its parsed form, each with what stands in it: a
// value is {Name}, an element within the line is <1>…</1>. A line that a language has is put in
// the template's place; what a translator writes is text and becomes no markup.
package worded

import (
	"errors"
	"fmt"
	"html/template"
	"regexp"
	"slices"
	"strings"
	"text/template/parse"
	"unicode"

	"ivelt/core/language"
)

// Line is a line of a template.
type Line struct {
	ID     string // the English, with what stands in it in brackets
	Plural string // of a counted noun: the English of several
	Note   string // what the parts are
}

// Translate says a line in another language; false where the language has it not.
type Translate func(id string) (string, bool)

// read are the attributes that are read; so is what a script says, which begins with data-say-.
var read = strings.Fields("alt aria-description aria-label aria-roledescription data-confirm placeholder title")

// Say puts the lines of a set of templates in another language. Values that are written between
// tags go through the function "said" of the templates, those in what is read of a tag, and in
// elements that have text alone, through "saidHere", and words within actions through "word".
func Say(t *template.Template, to Translate) error {
	for _, one := range t.Templates() {
		if one.Tree == nil || one.Tree.Root == nil {
			continue
		}
		w := &writer{to: to, says: true}
		one.Tree.Root.Nodes = w.write(w.list(one.Tree.Root))
		if w.err != nil {
			return fmt.Errorf("the template %s: %w", one.Name(), w.err)
		}
	}
	return nil
}

// Lines are the lines of a tree of a template, and the words within its actions.
func Lines(tree *parse.Tree) ([]Line, error) {
	var out []Line
	w := &writer{note: func(l Line) { out = append(out, l) }}
	w.to = func(string) (string, bool) { return "", false }
	w.write(w.list(tree.Root))
	return out, w.err
}

type writer struct {
	to   Translate
	note func(Line)
	says bool // in a language; else lines are noted alone
	err  error
}

func (w *writer) fail(err error) { w.err = errors.Join(w.err, err) }

// inner says what is in the branches of a node, and tells whether no block begins or ends there.
func (w *writer) inner(n parse.Node) (parse.Node, bool) {
	quiet := true
	branch := func(l *parse.ListNode) *parse.ListNode {
		if l == nil {
			return nil
		}
		items := w.list(l)
		deep := 0
		for _, i := range items {
			switch {
			case i.kind == open:
				deep++
			case i.kind == closing:
				deep--
			case i.kind == border || i.kind == control && !i.quiet:
				quiet = false
			}
			if deep < 0 {
				quiet = false
			}
		}
		if deep != 0 {
			quiet = false
		}
		l = l.CopyList()
		l.Nodes = w.write(items)
		return l
	}
	switch n := n.(type) {
	case *parse.IfNode:
		c := *n
		c.List, c.ElseList = branch(n.List), branch(n.ElseList)
		return &c, quiet
	case *parse.WithNode:
		c := *n
		c.List, c.ElseList = branch(n.List), branch(n.ElseList)
		return &c, quiet
	case *parse.RangeNode:
		c := *n
		c.List, c.ElseList = branch(n.List), branch(n.ElseList)
		return &c, quiet
	}
	return n, false // a template of its own, a break
}

// write says items line by line.
func (w *writer) write(items []item) (out []parse.Node) {
	start := 0
	for i, it := range items {
		if it.kind == border || it.kind == control && !it.quiet {
			out = append(append(out, w.line(items[start:i])...), it.nodes...)
			start = i + 1
		}
	}
	return append(out, w.line(items[start:])...)
}

// end is where the element ends that an item begins, or -1.
func end(items []item, at int) int {
	deep := 0
	for i := at; i < len(items); i++ {
		switch items[i].kind {
		case open:
			deep++
		case closing:
			deep--
		}
		if deep == 0 {
			return i
		}
	}
	return -1
}

func hasLetter(s string) bool { return strings.ContainsFunc(s, unicode.IsLetter) }

// line says what no block interrupts.
func (w *writer) line(items []item) []parse.Node {
	whole, direct, deep := true, false, 0
	for _, i := range items {
		switch i.kind {
		case open:
			deep++
		case closing:
			deep--
		case text:
			direct = direct || deep == 0 && hasLetter(i.text)
		}
		whole = whole && deep >= 0
	}
	if !whole || deep != 0 || !direct { // no sentence of its own: each part is said for itself
		var out []parse.Node
		for i := 0; i < len(items); i++ {
			it := items[i]
			switch it.kind {
			case text:
				out = append(out, w.sentence(items[i:i+1])...)
			case open:
				out = append(out, it.nodes...)
				if to := end(items, i); to > i {
					out = append(append(out, w.line(items[i+1:to])...), items[to].nodes...)
					i = to
				}
			default:
				out = append(out, it.nodes...)
			}
		}
		return out
	}
	from, to := 0, len(items)
	for from < to { // what stands before the sentence and is not part of it
		n := from
		if items[from].kind == open {
			n = end(items, from)
		}
		if speaks(items[from : n+1]) {
			break
		}
		from = n + 1
	}
	for to > from {
		n := to - 1
		for items[to-1].kind == closing && end(items, n) != to-1 {
			n--
		}
		if speaks(items[n:to]) {
			break
		}
		to = n
	}
	return append(append(w.asItIs(items[:from]), w.sentence(items[from:to])...), w.asItIs(items[to:])...)
}

// asItIs writes what is not part of a sentence.
func (w *writer) asItIs(items []item) (out []parse.Node) {
	for _, i := range items {
		if i.kind == text {
			out = append(out, plain(i.text))
		} else {
			out = append(out, i.nodes...)
		}
	}
	return out
}

// speaks tells whether items have words or values.
func speaks(items []item) bool {
	return slices.ContainsFunc(items, func(i item) bool {
		return i.kind == value || i.kind == control && i.name != "" || i.kind == text && strings.TrimSpace(i.text) != ""
	})
}

func plain(s string) parse.Node {
	return &parse.TextNode{NodeType: parse.NodeText, Text: []byte(template.HTMLEscapeString(s))}
}

var blank = regexp.MustCompile(`[ \t\r\n]+`)

// sentence says one line.
func (w *writer) sentence(items []item) []parse.Node {
	var id strings.Builder
	marks := map[string][]parse.Node{}
	var stack []string
	var notes []string
	elements := 0
	for _, i := range items {
		var mark string
		switch i.kind {
		case text:
			id.WriteString(i.text)
			continue
		case open:
			elements++
			mark = fmt.Sprintf("<%d>", elements)
			stack = append(stack, fmt.Sprintf("</%d>", elements))
		case closing:
			mark, stack = stack[len(stack)-1], stack[:len(stack)-1]
		default:
			name := i.name
			if name == "" {
				name = "part"
			}
			mark = "{" + name + "}"
			for n := 2; marks[mark] != nil; n++ {
				mark = fmt.Sprintf("{%s%d}", name, n)
			}
			if i.kind == control && i.name != "" {
				notes = append(notes, mark+" is "+strings.TrimSpace(blank.ReplaceAllString(i.nodes[0].String(), " ")))
			}
		}
		marks[mark] = i.nodes
		id.WriteString(mark)
	}
	whole := id.String()
	trimmed := strings.Trim(whole, " \t\r\n")
	if !hasLetter(language.Marks.ReplaceAllString(trimmed, "")) {
		return w.asItIs(items)
	}
	before, after, _ := strings.Cut(whole, trimmed)
	key := blank.ReplaceAllString(trimmed, " ")
	if w.note != nil {
		w.note(Line{ID: key, Note: strings.Join(notes, "; ")})
	}
	said, ok := w.to(key)
	if !ok {
		return w.asItIs(items)
	}
	out := []parse.Node{plain(before)}
	for said != "" {
		at := language.Marks.FindStringIndex(said)
		if at == nil {
			out = append(out, plain(said))
			break
		}
		if at[0] > 0 {
			out = append(out, plain(said[:at[0]]))
		}
		out = append(out, marks[said[at[0]:at[1]]]...)
		said = said[at[1]:]
	}
	return append(out, plain(after))
}

// attributes says what is read of a tag.
func (w *writer) attributes(nodes []parse.Node) (out []parse.Node) {
	type state struct {
		name  string // of the attribute
		quote byte
		items []item
	}
	var s state
	var before strings.Builder // text outside of what is read, of the node that is read
	flush := func() {
		if before.Len() > 0 {
			out = append(out, &parse.TextNode{NodeType: parse.NodeText, Text: []byte(before.String())})
			before.Reset()
		}
	}
	for _, n := range nodes {
		t, ok := n.(*parse.TextNode)
		if !ok {
			flush()
			switch {
			case s.quote != 0 && s.name != "":
				s.items = append(s.items, w.inAttribute(n))
			case s.quote == 0:
				out = append(out, w.inTag(n))
			default:
				out = append(out, n)
			}
			continue
		}
		rest := string(t.Text)
		for rest != "" {
			if s.quote != 0 {
				i := strings.IndexByte(rest, s.quote)
				ends := i >= 0
				if !ends {
					i = len(rest)
				}
				if s.name != "" {
					if i > 0 {
						s.items = append(s.items, item{kind: text, text: unescape(rest[:i])})
					}
					if ends {
						flush()
						out = append(out, w.sentence(s.items)...)
					}
				} else {
					before.WriteString(rest[:i])
				}
				if !ends {
					break
				}
				before.WriteByte(s.quote)
				rest, s = rest[i+1:], state{}
				continue
			}
			i := strings.IndexAny(rest, `"'`)
			if i < 0 {
				before.WriteString(rest)
				break
			}
			s = state{quote: rest[i]}
			if name, ok := strings.CutSuffix(rest[:i], "="); ok {
				name = name[strings.LastIndexAny(name, " \t\r\n")+1:]
				if slices.Contains(read, name) || strings.HasPrefix(name, "data-say-") {
					s.name = name
				}
			}
			before.WriteString(rest[:i+1])
			rest = rest[i+1:]
		}
		flush()
	}
	return out
}

// inTag says what is read of attributes that a choice has.
func (w *writer) inTag(n parse.Node) parse.Node {
	branch := func(l *parse.ListNode) *parse.ListNode {
		if l == nil {
			return nil
		}
		l = l.CopyList()
		l.Nodes = w.attributes(l.Nodes)
		return l
	}
	return branches(n, branch)
}

// inAttribute is what stands in what is read of a tag.
func (w *writer) inAttribute(n parse.Node) item {
	if a, ok := n.(*parse.ActionNode); ok {
		return item{kind: value, name: called(a.Pipe), nodes: []parse.Node{w.said(a, bare)}}
	}
	made := branches(n, func(l *parse.ListNode) *parse.ListNode {
		if l == nil {
			return nil
		}
		var items []item
		for _, n := range l.Nodes {
			if t, ok := n.(*parse.TextNode); ok {
				items = append(items, item{kind: text, text: unescape(string(t.Text))})
			} else {
				items = append(items, w.inAttribute(n))
			}
		}
		l = l.CopyList()
		l.Nodes = w.sentence(items)
		return l
	})
	return item{kind: control, name: "part", nodes: []parse.Node{made}, quiet: true}
}

// branches makes a node anew with other branches.
func branches(n parse.Node, branch func(*parse.ListNode) *parse.ListNode) parse.Node {
	switch n := n.(type) {
	case *parse.IfNode:
		c := *n
		c.List, c.ElseList = branch(n.List), branch(n.ElseList)
		return &c
	case *parse.WithNode:
		c := *n
		c.List, c.ElseList = branch(n.List), branch(n.ElseList)
		return &c
	case *parse.RangeNode:
		c := *n
		c.List, c.ElseList = branch(n.List), branch(n.ElseList)
		return &c
	}
	return n
}
