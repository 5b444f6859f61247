package settingsfile

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/pelletier/go-toml/v2/unstable"

	"ivelt/core/tomlfile"
)

// tomlTable is a table of a TOML file, and where keys are added to it.
type tomlTable struct {
	group string
	end   int // of its last line
}

// parseTOML reads TOML.
func parseTOML(b []byte) ([]Value, error) {
	values, _, err := readTOML(b)
	return values, err
}

func readTOML(b []byte) (out []Value, tables []tomlTable, err error) {
	if depth(b) > maxDepth*10 {
		return nil, nil, fmt.Errorf("%w: it is nested more than %d deep", ErrTooMuch, maxDepth*10)
	}
	// What the parser below lets pass, keys that are there twice, the decoder does not.
	if err := tomlfile.Decode(b, &map[string]any{}); errors.Is(err, tomlfile.ErrTooMuch) {
		return nil, nil, fmt.Errorf("%w: %w", ErrTooMuch, err)
	} else if err != nil {
		return nil, nil, err
	}
	var p unstable.Parser
	p.Reset(b)
	lines := lineOf{b: b}
	group, lists := "", map[string]int{}
	tables = []tomlTable{{}}
	where := func(it unstable.Iterator) (way []string, raw unstable.Range) {
		for it.Next() {
			way = append(way, Step(string(it.Node().Data)))
			raw = it.Node().Raw
		}
		return way, raw
	}
	var value func(n *unstable.Node, group, key string, whole bool)
	value = func(n *unstable.Node, group, key string, whole bool) {
		switch n.Kind {
		case unstable.Array:
			i := 0
			for it := n.Children(); it.Next(); i++ {
				value(it.Node(), join(group, key), strconv.Itoa(i), false)
			}
			return
		case unstable.InlineTable:
			for it := n.Children(); it.Next(); {
				way, _ := where(it.Node().Key())
				value(it.Node().Value(), strings.Join(append([]string{join(group, key)}, way[:len(way)-1]...), "/"), way[len(way)-1], false)
			}
			return
		}
		raw := n.Raw
		if raw.Length == 0 && len(n.Data) > 0 {
			raw = p.Range(n.Data)
		}
		from, to := int(raw.Offset), int(raw.Offset+raw.Length)
		v := Value{Group: group, Key: key, Text: string(n.Data), Line: lines.of(from), from: from, to: to, Bare: n.Kind != unstable.String}
		v.fixed = strings.Contains(string(b[from:to]), "\n")
		if whole {
			start := lineStart(b, from)
			end := len(b)
			if _, next := lineAt(b, to); next > 0 {
				end = next
			}
			v.cut = [2]int{start, end}
		}
		out = append(out, v)
	}
	for p.NextExpression() {
		e := p.Expression()
		switch e.Kind {
		case unstable.Table, unstable.ArrayTable:
			way, raw := where(e.Key())
			for i := range way { // the last of a list of tables is meant
				if n, ok := lists[strings.Join(way[:i+1], "/")]; ok && (i+1 < len(way) || e.Kind == unstable.Table) {
					way = slices.Concat(way[:i+1], []string{strconv.Itoa(n - 1)}, way[i+1:])
				}
			}
			group = strings.Join(way, "/")
			if e.Kind == unstable.ArrayTable {
				lists[group]++
				group = join(group, strconv.Itoa(lists[group]-1))
			}
			_, next := lineAt(b, int(raw.Offset))
			tables = append(tables, tomlTable{group: group, end: next})
		case unstable.KeyValue:
			way, _ := where(e.Key())
			at := group
			for _, s := range way[:len(way)-1] {
				at = join(at, s)
			}
			before := len(out)
			value(e.Value(), at, way[len(way)-1], true)
			last := int(e.Raw.Offset + e.Raw.Length)
			if len(out) > before {
				last = max(last, out[len(out)-1].to)
			}
			_, next := lineAt(b, last)
			tables[len(tables)-1].end = next
		}
		if len(out) > maxValues {
			return nil, nil, fmt.Errorf("%w: more than %d values", ErrTooMuch, maxValues)
		}
	}
	if err := p.Error(); err != nil {
		var pe *unstable.ParserError
		if errors.As(err, &pe) {
			return nil, nil, fmt.Errorf("line %d: %w", lines.of(int(p.Range(pe.Highlight).Offset)), err)
		}
		return nil, nil, err
	}
	return out, tables, nil
}

// addTOML adds a key behind the last of its table, or a table at the end.
func addTOML(b []byte, group, key, text string, bare bool) ([]byte, error) {
	_, tables, err := readTOML(b)
	if err != nil {
		return nil, err
	}
	end := lineEnd(b)
	line := tomlKey(key) + " = " + literal(TOML, text, bare) + end
	for _, t := range slices.Backward(tables) {
		if t.group == group {
			return insertLine(b, t.end, line, end), nil
		}
	}
	var names []string
	for _, s := range steps(group) {
		names = append(names, tomlKey(s))
	}
	head := "[" + strings.Join(names, ".") + "]" + end
	if len(b) > 0 {
		head = end + head
	}
	return insertLine(b, len(b), head+line, end), nil
}

// tomlKey is a step as a key: bare, if its letters are those of bare keys (TOML 1.0, Keys).
func tomlKey(step string) string {
	name := stepUnescaper.Replace(step)
	if name != "" && !strings.ContainsFunc(name, func(r rune) bool {
		return (r < 'a' || r > 'z') && (r < 'A' || r > 'Z') && (r < '0' || r > '9') && r != '-' && r != '_'
	}) {
		return name
	}
	return Quoted(name)
}
