package settingsfile

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"
)

// yamlReader reads the first document of a YAML file.
type yamlReader struct {
	b     []byte
	lines []int // where each begins
	out   []Value
	work  int
	last  struct{ line, column, at int }
}

func parseYAML(b []byte) ([]Value, error) {
	r, root, err := readYAML(b)
	if err != nil || root == nil {
		return nil, err
	}
	if root.Kind != yaml.MappingNode && root.Kind != yaml.SequenceNode {
		return nil, errors.New("it is one value alone")
	}
	if err := r.walk(root, "", "", 0); err != nil {
		return nil, err
	}
	return r.out, nil
}

func readYAML(b []byte) (*yamlReader, *yaml.Node, error) {
	if depth(b) > maxDepth || deepIndent(b) > 10*maxDepth {
		return nil, nil, fmt.Errorf("%w: it is nested more than %d deep", ErrTooMuch, maxDepth)
	}
	r := &yamlReader{b: b, lines: []int{0}}
	for i, c := range b {
		if c == '\n' {
			r.lines = append(r.lines, i+1)
		}
	}
	var doc yaml.Node
	err := yaml.NewDecoder(bytes.NewReader(b)).Decode(&doc)
	if errors.Is(err, io.EOF) || err == nil && len(doc.Content) == 0 {
		return r, nil, nil
	}
	if err != nil {
		return nil, nil, err
	}
	root := doc.Content[0]
	if root.Kind == yaml.ScalarNode && root.Tag == "!!null" {
		return r, nil, nil
	}
	return r, root, nil
}

// deepIndent is the most letters of blanks and dashes that a line begins with.
func deepIndent(b []byte) int {
	most := 0
	for line := range bytes.Lines(b) {
		most = max(most, len(line)-len(bytes.TrimLeft(line, " -\t")))
	}
	return most
}

// offset is where a place of the parser's, a line and a column of letters, lies.
func (r *yamlReader) offset(line, column int) (at int) {
	if line < 1 || line > len(r.lines) {
		return len(r.b)
	}
	at = r.lines[line-1]
	wanted := column
	if line == 1 && bytes.HasPrefix(r.b, []byte("\xef\xbb\xbf")) {
		at += 3
	}
	if line == r.last.line && column >= r.last.column { // on from there: a line may be long
		at, column = r.last.at, column-r.last.column+1
	}
	defer func() { r.last.line, r.last.column, r.last.at = line, wanted, at }()
	for ; column > 1 && at < len(r.b); column-- {
		at++
		for at < len(r.b) && r.b[at]&0xc0 == 0x80 {
			at++
		}
	}
	return at
}

func (r *yamlReader) walk(n *yaml.Node, group, key string, depth int) error {
	if r.work++; r.work > maxValues || depth > maxDepth {
		return fmt.Errorf("%w: more than %d values", ErrTooMuch, maxValues)
	}
	switch n.Kind {
	case yaml.MappingNode:
		for i := 0; i+1 < len(n.Content); i += 2 {
			k := n.Content[i]
			if k.Kind != yaml.ScalarNode {
				continue // a key that is a list or a mapping leads to no setting
			}
			at := len(r.out)
			if err := r.walk(n.Content[i+1], join(group, key), Step(k.Value), depth+1); err != nil {
				return err
			}
			if len(r.out) == at+1 && r.out[at].from == r.out[at].to && r.out[at].Text == "" {
				colon, ok := r.colon(k)
				r.out[at].from, r.out[at].to, r.out[at].Line = colon, colon, k.Line
				r.out[at].fixed = !ok || n.Style&yaml.FlowStyle != 0
			}
			if n.Style&yaml.FlowStyle == 0 && len(r.out) == at+1 && n.Content[i+1].Kind == yaml.ScalarNode && !r.out[at].fixed {
				v := &r.out[at]
				start := r.offset(k.Line, 1)
				_, next := lineAt(r.b, v.to)
				if len(strings.TrimSpace(string(r.b[start:r.offset(k.Line, k.Column)]))) == 0 {
					v.cut = [2]int{start, next}
				}
			}
		}
	case yaml.SequenceNode:
		for i, c := range n.Content {
			if err := r.walk(c, join(group, key), strconv.Itoa(i), depth+1); err != nil {
				return err
			}
		}
	case yaml.ScalarNode:
		r.out = append(r.out, r.scalar(n, group, key))
	}
	return nil // what an alias stands for has its own place
}

// colon is where the colon behind a key ends.
func (r *yamlReader) colon(k *yaml.Node) (int, bool) {
	at := r.offset(k.Line, k.Column)
	end, _ := lineAt(r.b, at)
	key := k.Value
	if k.Style&(yaml.SingleQuotedStyle|yaml.DoubleQuotedStyle) != 0 {
		key = string(r.b[at : at+closing(string(r.b[at:end]), r.b[at])])
	}
	if !bytes.HasPrefix(r.b[at:end], []byte(key)) || k.Anchor != "" {
		return at, false
	}
	rest := r.b[at+len(key) : end]
	blank := len(rest) - len(bytes.TrimLeft(rest, " \t"))
	if !bytes.HasPrefix(rest[blank:], []byte(":")) {
		return at, false
	}
	return at + len(key) + blank + 1, true
}

func (r *yamlReader) scalar(n *yaml.Node, group, key string) Value {
	from := r.offset(n.Line, n.Column)
	v := Value{Group: group, Key: key, Text: n.Value, Line: n.Line, from: from, to: from, Bare: n.Style&(yaml.SingleQuotedStyle|yaml.DoubleQuotedStyle) == 0}
	// A letter takes ten at most, "\\U0001F600".
	rest := string(r.b[from:min(len(r.b), from+10*len(n.Value)+16)])
	rest, _, _ = strings.Cut(rest, "\n")
	if n.Anchor != "" || n.Style&yaml.TaggedStyle != 0 {
		v.fixed = true
		return v
	}
	switch {
	case n.Style&(yaml.LiteralStyle|yaml.FoldedStyle) != 0:
		v.fixed = true
	case n.Style&yaml.DoubleQuotedStyle != 0:
		v.to = from + closing(rest, '"')
	case n.Style&yaml.SingleQuotedStyle != 0:
		at := 1
		for at < len(rest) {
			i := strings.IndexByte(rest[at:], '\'')
			if i < 0 {
				break
			}
			if at += i + 1; at >= len(rest) || rest[at] != '\'' {
				v.to = from + at
				break
			}
			at++
		}
	case strings.HasPrefix(rest, n.Value):
		v.to = from + len(n.Value)
	default:
		v.fixed = true // a plain text over several lines
	}
	v.fixed = v.fixed || v.to == from && n.Value != ""
	return v
}

// plainYAML reports whether a text may stand without quotes and is not read as anything
// else than what it says (YAML 1.2, 7.3.3, plain style), among "{" and "}" too.
func plainYAML(text string) bool {
	if text == "" || strings.ContainsAny(text, "#:,[]{}\"'\\\t") || strings.ContainsAny(text[:1], "-?&*!|>%@` ") || text[len(text)-1] == ' ' {
		return number(YAML, text)
	}
	return true
}

// addYAML adds a key behind the last of its mapping; mappings that are missing too.
func addYAML(b []byte, group, key, text string, bare bool) ([]byte, error) {
	r, n, err := readYAML(b)
	if err != nil {
		return nil, err
	}
	end := lineEnd(b)
	say := Quoted(text)
	if bare {
		say = literal(YAML, text, true)
		if plainYAML(text) {
			say = text
		}
	}
	way := steps(group)
	block := func(indent string, way []string) string {
		var out strings.Builder
		for _, s := range way {
			out.WriteString(indent + yamlKey(s) + ":" + end)
			indent += "  "
		}
		return out.String() + indent + yamlKey(key) + ": " + say + end
	}
	if n == nil {
		return insertLine(b, len(b), block("", way), end), nil
	}
	for len(way) > 0 {
		var next *yaml.Node
		for i := 0; n.Kind == yaml.MappingNode && i+1 < len(n.Content); i += 2 {
			if k := n.Content[i]; Step(k.Value) == way[0] {
				next = n.Content[i+1]
				if next.Kind == yaml.ScalarNode && next.Value == "" && next.Tag == "!!null" && n.Style&yaml.FlowStyle == 0 {
					_, after := lineAt(b, r.offset(k.Line, k.Column))
					return insertLine(b, after, block(indentOf(b, r.offset(k.Line, k.Column))+"  ", way[1:]), end), nil
				}
			}
		}
		if next == nil {
			break
		}
		n, way = next, way[1:]
	}
	if n.Kind != yaml.MappingNode || len(n.Content) < 2 {
		return nil, fmt.Errorf("%w: %s has no keys", ErrEdit, group)
	}
	last := n.Content[len(n.Content)-2]
	if n.Style&yaml.FlowStyle != 0 {
		if len(way) > 0 {
			return nil, fmt.Errorf("%w: %s stands in one line", ErrEdit, group)
		}
		at := r.offset(n.Content[0].Line, n.Content[0].Column)
		return splice(b, at, at, yamlKey(key)+": "+say+", "), nil
	}
	// Before the last key: what comes behind it may be deeper, and end nobody knows where.
	start := r.offset(last.Line, 1)
	indent := string(b[start:r.offset(last.Line, last.Column)])
	if strings.TrimSpace(indent) != "" { // "- key: value": behind the dash
		return nil, fmt.Errorf("%w: %s stands in a list", ErrEdit, group)
	}
	return insertLine(b, start, block(indent, way), end), nil
}

func yamlKey(step string) string {
	name := stepUnescaper.Replace(step)
	if plainYAML(name) && !number(YAML, name) && name != "true" && name != "false" && name != "null" {
		return name
	}
	return Quoted(name)
}
