package settingsfile

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"

	"github.com/tailscale/hujson"
)

// parseJSON reads JSON; comments and commas behind the last of a list are none to it.
func parseJSON(b []byte) ([]Value, error) {
	tree, err := readJSON(b)
	if err != nil {
		return nil, err
	}
	var out []Value
	lines := lineOf{b: b}
	var walk func(n *jsonNode, group, key string)
	walk = func(n *jsonNode, group, key string) {
		if n.children == nil {
			v := Value{Group: group, Key: key, Line: lines.of(n.from), from: n.from, to: n.to, cut: n.cut}
			v.Text, v.Bare = n.text, !n.quoted
			out = append(out, v)
			return
		}
		for _, c := range *n.children {
			at := group
			if !n.root {
				at = join(group, key)
			}
			walk(c, at, c.key)
		}
	}
	walk(tree, "", "")
	if tree.children == nil {
		return nil, errors.New("it is one value alone")
	}
	return out, nil
}

// jsonNode is a value of a JSON text, and where it stands.
type jsonNode struct {
	key      string // as a step
	keyAt    int    // where its key begins
	from, to int
	text     string
	quoted   bool
	root     bool
	object   bool
	children *[]*jsonNode // of an object or a list
	cut      [2]int
}

// readJSON reads a text whose comments have become blanks, so that offsets hold.
func readJSON(b []byte) (*jsonNode, error) {
	if depth(b) > maxDepth {
		return nil, fmt.Errorf("%w: it is nested more than %d deep", ErrTooMuch, maxDepth)
	}
	if len(bytes.TrimSpace(b)) == 0 {
		return &jsonNode{root: true, object: true, children: new([]*jsonNode)}, nil
	}
	plain, err := hujson.Standardize(bytes.Clone(b))
	if err != nil {
		return nil, err
	}
	d := json.NewDecoder(bytes.NewReader(plain))
	d.UseNumber()
	count := 0
	var read func(n *jsonNode) error
	read = func(n *jsonNode) error {
		t, err := d.Token()
		if err != nil {
			return err
		}
		if count++; count > maxValues {
			return fmt.Errorf("%w: more than %d values", ErrTooMuch, maxValues)
		}
		n.to = int(d.InputOffset())
		switch t := t.(type) {
		case json.Delim:
			n.from, n.children, n.object = n.to-1, new([]*jsonNode), t == '{'
			for i := 0; d.More(); i++ {
				c := &jsonNode{key: strconv.Itoa(i)}
				if n.object {
					before := int(d.InputOffset())
					k, err := d.Token()
					if err != nil {
						return err
					}
					c.key = Step(k.(string))
					c.keyAt = before + bytes.IndexByte(plain[before:], '"')
				}
				if err := read(c); err != nil {
					return err
				}
				*n.children = append(*n.children, c)
			}
			if _, err := d.Token(); err != nil {
				return err
			}
			n.to = int(d.InputOffset())
			cutJSON(plain, n)
		case string:
			n.text, n.quoted = t, true
			n.from = startOfString(plain, n.to)
		case json.Number:
			n.text, n.from = t.String(), n.to-len(t.String())
		case bool:
			n.text = strconv.FormatBool(t)
			n.from = n.to - len(n.text)
		case nil:
			n.from = n.to - len("null")
		}
		return nil
	}
	root := &jsonNode{root: true}
	if err := read(root); err != nil {
		return nil, err
	}
	if _, err := d.Token(); err != io.EOF {
		return nil, errors.New("something comes after its end")
	}
	return root, nil
}

// startOfString is where the string begins whose closing quote is before an offset.
func startOfString(b []byte, to int) int {
	for i := to - 2; i >= 0; i-- {
		if b[i] != '"' {
			continue
		}
		slashes := 0
		for i-1-slashes >= 0 && b[i-1-slashes] == '\\' {
			slashes++
		}
		if slashes%2 == 0 {
			return i
		}
	}
	return 0
}

// cutJSON finds, for each member of an object, what goes when it is taken out: itself and
// one of the commas beside it.
func cutJSON(plain []byte, n *jsonNode) {
	if !n.object {
		return
	}
	all := *n.children
	for i, c := range all {
		from, to := c.keyAt, c.to
		comma := bytes.IndexByte(plain[to:], ',')
		switch {
		case i+1 < len(all) && comma >= 0:
			to += comma + 1
		case i > 0:
			from = all[i-1].to // with the comma before it
		}
		c.cut = [2]int{from, to}
	}
}

// depth is how deep brackets and braces are nested, those in texts and comments included.
func depth(b []byte) int {
	most, now := 0, 0
	for _, c := range b {
		switch c {
		case '{', '[':
			if now++; now > most {
				most = now
			}
		case '}', ']':
			now--
		}
	}
	return most
}

// addJSON adds a member behind the last of an object; objects that are missing too.
func addJSON(b []byte, group, key, text string, bare bool) ([]byte, error) {
	if len(bytes.TrimSpace(b)) == 0 {
		b = []byte("{\n}\n")
	}
	n, err := readJSON(b)
	if err != nil {
		return nil, err
	}
	way := steps(group)
	for len(way) > 0 {
		var next *jsonNode
		if n.object {
			for _, c := range *n.children {
				if c.key == way[0] {
					next = c
				}
			}
		}
		if next == nil {
			break
		}
		n, way = next, way[1:]
	}
	if !n.object {
		return nil, fmt.Errorf("%w: %s is no object", ErrEdit, group)
	}
	inner := indentOf(b, n.from) + "  "
	if all := *n.children; len(all) > 0 {
		inner = indentOf(b, all[len(all)-1].keyAt)
		for _, c := range []*jsonNode{all[0], all[len(all)-1]} { // one that begins a line
			if own := b[lineStart(b, c.keyAt):c.keyAt]; len(bytes.TrimSpace(own)) == 0 {
				inner = string(own)
			}
		}
	}
	end := lineEnd(b)
	step := "  "
	if strings.Contains(inner, "\t") {
		step = "\t"
	}
	member := Quoted(stepUnescaper.Replace(key)) + ": " + literal(JSON, text, bare)
	for i := len(way) - 1; i >= 0; i-- {
		pad := inner + strings.Repeat(step, i)
		member = Quoted(stepUnescaper.Replace(way[i])) + ": {" + end + pad + step + member + end + pad + "}"
	}
	all := *n.children
	oneLine := !bytes.Contains(b[n.from:n.to], []byte("\n")) && len(way) == 0
	switch {
	case oneLine && len(all) == 0:
		return splice(b, n.from+1, n.to-1, " "+member+" "), nil
	case oneLine:
		return splice(b, all[len(all)-1].to, all[len(all)-1].to, ", "+member), nil
	case len(all) == 0:
		return splice(b, n.from+1, n.to-1, end+inner+member+end+indentOf(b, n.from)), nil
	}
	return splice(b, all[len(all)-1].to, all[len(all)-1].to, ","+end+inner+member), nil
}

func lineStart(b []byte, offset int) int { return bytes.LastIndexByte(b[:offset], '\n') + 1 }
