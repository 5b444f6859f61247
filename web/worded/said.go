package worded

import (
	"html"
	"text/template/parse"

	"ivelt/core/say"
)

func unescape(s string) string { return html.UnescapeString(s) }

// What values go through: between tags, and where no element can stand.
const (
	between = "said"
	bare    = "saidHere"
)

// said lets a value go through one of them, and the words that its action chooses from through "word".
func (w *writer) said(a *parse.ActionNode, by string) parse.Node {
	pipe := w.pipe(a.Pipe)
	if !w.says {
		return a
	}
	pipe.Cmds = append(pipe.Cmds, &parse.CommandNode{NodeType: parse.NodeCommand, Args: []parse.Node{ident(by)}})
	return &parse.ActionNode{NodeType: parse.NodeAction, Pos: a.Pos, Line: a.Line, Pipe: pipe}
}

func ident(name string) *parse.IdentifierNode { return parse.NewIdentifier(name) }

// pipe is a copy in which words that are chosen from are said.
func (w *writer) pipe(p *parse.PipeNode) *parse.PipeNode {
	c := p.CopyPipe()
	for _, cmd := range c.Cmds {
		name, _ := cmd.Args[0].(*parse.IdentifierNode)
		if noun, ok := cmd.Args[len(cmd.Args)-1].(*parse.StringNode); ok && name != nil && name.Ident == "many" {
			if w.note != nil {
				one, several := say.Counted(noun.Text)
				w.note(Line{ID: one, Plural: several})
			}
			continue
		}
		for i, arg := range cmd.Args {
			switch arg := arg.(type) {
			case *parse.PipeNode:
				cmd.Args[i] = w.pipe(arg)
			case *parse.StringNode:
				alone := len(cmd.Args) == 1
				if !hasLetter(arg.Text) || !alone && (name == nil || name.Ident != "or" && name.Ident != "and") {
					continue
				}
				if w.note != nil {
					w.note(Line{ID: arg.Text})
				}
				cmd.Args[i] = &parse.PipeNode{NodeType: parse.NodePipe, Pos: arg.Pos, Cmds: []*parse.CommandNode{{
					NodeType: parse.NodeCommand, Args: []parse.Node{ident("word"), arg},
				}}}
			}
		}
	}
	return c
}
