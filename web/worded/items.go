package worded

import (
	"fmt"
	"html"
	"slices"
	"strings"
	"text/template/parse"
	"unicode"
)

// item is a piece of a page's text as a translator meets it.
type item struct {
	kind  kind
	text  string       // of text, as read: without entities
	name  string       // of an element, or what a value is called
	nodes []parse.Node // what it is made of, for all but text
	quiet bool         // of a control: nothing of it stands by itself on the page
}

type kind int

const (
	text    kind = iota
	value        // an action that writes something
	control      // a choice or a repetition, with texts of its own
	open         // the start of an element within a line
	closing      // its end
	whole        // an element that is left as it is, with all that is in it
	border       // where no line goes on: the start or end of a block, a comment
)

// within are the elements that a line goes on through (HTML Living Standard, 4.5 "Text-level
// semantics").
var within = strings.Fields("a abbr b bdi bdo cite del dfn em i ins mark q s small span strong sub sup time u var")

// leftAlone are elements whose text is not for translating: what is typed, and pictures.
var leftAlone = strings.Fields("code kbd samp svg pre script style textarea")

// lexer splits lists of nodes of a template into items.
type lexer struct {
	w     *writer
	items []item
	tag   []parse.Node // of the tag that is being read
	quote byte         // in which an attribute of it is
	in    bool         // a tag, or what is left alone
	until string       // what ends that which is left alone
	alone bool         // in an element that has text alone
}

// list reads a list that begins and ends outside of tags.
func (w *writer) list(l *parse.ListNode) []item {
	x := lexer{w: w}
	if l == nil {
		return nil
	}
	for _, n := range l.Nodes {
		x.node(n)
	}
	if x.in || x.until != "" {
		w.fail(fmt.Errorf("a tag begins in one part of a choice and ends in another: %.60q", l.String()))
	}
	return x.items
}

func (x *lexer) add(i item) { x.items = append(x.items, i) }

func (x *lexer) node(n parse.Node) {
	switch n := n.(type) {
	case *parse.TextNode:
		x.text(n, string(n.Text))
	case *parse.CommentNode:
	default:
		if x.in || x.until != "" {
			x.tag = append(x.tag, n)
			return
		}
		if a, ok := n.(*parse.ActionNode); ok {
			if len(a.Pipe.Decl) > 0 {
				x.add(item{kind: control, nodes: []parse.Node{n}, quiet: true})
				return
			}
			x.add(item{kind: value, name: called(a.Pipe), nodes: []parse.Node{x.w.said(a, x.by())}})
			return
		}
		made, quiet := x.w.inner(n)
		x.add(item{kind: control, nodes: []parse.Node{made}, quiet: quiet, name: "part"})
	}
}

func (x *lexer) text(n *parse.TextNode, s string) {
	part := func(s string) *parse.TextNode {
		return &parse.TextNode{NodeType: parse.NodeText, Pos: n.Pos, Text: []byte(s)}
	}
	for s != "" {
		switch {
		case x.in: // a tag
			i := 0
			for ; i < len(s); i++ {
				c := s[i]
				if x.quote != 0 {
					if c == x.quote {
						x.quote = 0
					}
				} else if c == '"' || c == '\'' {
					x.quote = c
				} else if c == '>' {
					break
				}
			}
			if i == len(s) {
				x.tag = append(x.tag, part(s))
				return
			}
			x.tag = append(x.tag, part(s[:i+1]))
			s, x.in = s[i+1:], false
			if x.until == "" {
				x.tagEnds()
			}
		case x.until != "": // left alone, up to its end
			i := strings.Index(s, x.until)
			if i < 0 {
				x.tag = append(x.tag, part(s))
				return
			}
			x.tag = append(x.tag, part(s[:i+len(x.until)]))
			s = s[i+len(x.until):]
			x.add(item{kind: whole, name: strings.Trim(x.until, "</>!-"), nodes: x.tag})
			x.tag, x.until = nil, ""
		case strings.HasPrefix(s, "<!--"):
			x.tag, x.until = nil, "-->"
		case strings.HasPrefix(s, "<") && len(s) > 1 && (s[1] == '/' || s[1] == '!' || unicode.IsLetter(rune(s[1]))):
			x.tag, x.in = nil, true
		default:
			i := strings.IndexByte(s[1:], '<') + 1
			if i == 0 {
				i = len(s)
			}
			x.add(item{kind: text, text: html.UnescapeString(s[:i])})
			s = s[i:]
		}
	}
}

// tagEnds sorts in the tag that was read.
func (x *lexer) tagEnds() {
	first := string(x.tag[0].(*parse.TextNode).Text)
	name := strings.ToLower(strings.FieldsFunc(strings.TrimLeft(first, "</!"), func(r rune) bool { return unicode.IsSpace(r) || r == '>' || r == '/' })[0])
	ends := strings.HasPrefix(first, "</")
	nodes := x.tag
	if !ends {
		nodes = x.w.attributes(nodes)
	}
	x.tag = nil
	switch {
	case !ends && (slices.Contains(leftAlone, name) || strings.Contains(first, `translate="no"`)):
		x.tag, x.until = nodes, "</"+name+">"
	case slices.Contains(within, name) && ends:
		x.add(item{kind: closing, name: name, nodes: nodes})
	case slices.Contains(within, name):
		x.add(item{kind: open, name: name, nodes: nodes})
	case name == "img" || name == "br" || name == "wbr":
		x.add(item{kind: whole, name: name, nodes: nodes})
	default:
		x.alone = !ends && (name == "title" || name == "option")
		x.add(item{kind: border, name: name, nodes: nodes})
	}
}

// by is what values go through where the lexer is.
func (x *lexer) by() string {
	if x.alone {
		return bare
	}
	return between
}

// called is what a value is called in a message: by the last word of how it is written.
func called(p *parse.PipeNode) string {
	words := strings.FieldsFunc(p.String(), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
	if len(words) == 0 {
		return "value"
	}
	if c := p.Cmds[0]; len(c.Args) > 0 && c.Args[0].String() == "many" {
		return "many"
	}
	return words[len(words)-1]
}
