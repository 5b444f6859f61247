package gtkcss

import (
	"slices"
	"strings"

	"github.com/tdewolff/parse/v2/css"
)

// Rung is one rule that says something of a property of a node.
type Rung struct {
	File     string // as [Sheet.Files] names it
	Line     int    // of the declaration, 1-based
	Selector string // that the node meets, as [Selector] writes it; "" if it could not be found again
	Property string // as it is written: the property itself, or one that sets several
	Value    string // as it is written
}

// Explained is a declaration that wins at a node, and those that it wins over.
type Explained struct {
	Properties []string // that it decides, in the order of [Properties]
	Value      string   // computed, of the first of them
	Colour     *Colour  // the same, where it is one colour
	Won        Rung
	Overruled  []Rung // of the first property, the strongest first
}

// Named is a named colour and where its value is written.
type Named struct {
	Name, Value string // Value as it is written; "" if nobody defines it
	File        string
	Line        int
	Colour      Colour // what it comes to
}

// Explainer tells which rules of a cascade's sheets make a node look as it does, and where
// they are written.
type Explainer struct {
	cascade *Cascade
	read    func(file string) ([]byte, error)
	rules   map[string][]Rule
	defined map[string][]Definition
}

// Explain reads the files of a cascade's sheets again, which are given by their names.
func (c *Cascade) Explain(read func(file string) ([]byte, error)) *Explainer {
	return &Explainer{c, read, map[string][]Rule{}, map[string][]Definition{}}
}

// Node tells every declaration that wins at a node, in the order of the first property that
// each decides.
func (x *Explainer) Node(n *Node) []Explained {
	met, st := x.cascade.met(n), x.cascade.Style(n)
	var out []Explained
	for id := range properties {
		won := st.told[id]
		if won == nil || properties[id].only != 0 && properties[id].only != x.cascade.Generation {
			continue
		}
		name := properties[id].name
		rungs := x.rungs(n, met, id)
		if len(rungs) == 0 {
			continue
		}
		if i := slices.IndexFunc(out, func(e Explained) bool { return e.Won == rungs[0] }); i >= 0 {
			out[i].Properties = append(out[i].Properties, name)
			continue
		}
		e := Explained{Properties: []string{name}, Value: st.Text(name), Won: rungs[0], Overruled: rungs[1:]}
		if c, ok := st.values[id].(Colour); ok {
			e.Colour = &c
		}
		out = append(out, e)
	}
	return out
}

// rungs are the declarations of a property at a node, the strongest first.
func (x *Explainer) rungs(n *Node, met []int, id int) (out []Rung) {
	for _, i := range slices.Backward(met) {
		tells := x.cascade.entries[i].tells
		for j := range slices.Backward(tells) {
			if tells[j].property == id {
				out = append(out, x.rung(n, x.cascade.entries[i].selector.weight, &tells[j], properties[id].name))
				break // what the same rule says before that is no other rung
			}
		}
	}
	return out
}

// rung finds a declaration, told by a selector of a weight, in the text of its file.
func (x *Explainer) rung(n *Node, weight int, d *declaration, property string) Rung {
	out := Rung{File: d.file, Line: d.line, Property: property, Value: d.value.text()}
	for _, r := range slices.Backward(x.rulesOf(d.file)) {
		i := slices.IndexFunc(r.Tells, func(t Tell) bool { return t.Line == d.line && x.sets(t.Property, d.property) })
		if i < 0 {
			continue
		}
		for _, s := range r.Selectors { // several rules may stand in one line
			if x.meets(n, s, weight) {
				out.Selector = s
				break
			}
		}
		if out.Selector == "" {
			continue
		}
		for _, t := range r.Tells { // the last one counts
			if t.Line == d.line && x.sets(t.Property, d.property) {
				out.Property, out.Value = t.Property, t.Value
			}
		}
		return out
	}
	return out
}

// sets reports whether what is written decides a property.
func (x *Explainer) sets(written string, id int) bool {
	if at, ok := byName[written]; ok && at == id {
		return true
	}
	s, ok := shorthands[written]
	return ok && slices.Contains(s.of(x.cascade.Generation), properties[id].name)
}

func (x *Explainer) meets(n *Node, text string, weight int) bool {
	words, _ := someTokens([]byte(text), maxTokens, func() bool { return false }, func([]byte, int) {})
	s, err := readSelectors(&reader{tokens: words, gtk: x.cascade.Generation})
	return err == nil && len(s) == 1 && s[0].weight == weight && s[0].matches(n, x.cascade.Generation)
}

func (x *Explainer) rulesOf(file string) []Rule {
	r, ok := x.rules[file]
	if !ok {
		if text, err := x.read(file); err == nil {
			r = Rules(text)
		}
		x.rules[file] = r
	}
	return r
}

// Named tells the named colours that a value as it is written asks for, each followed by those
// that its own value asks for.
func (x *Explainer) Named(value string) []Named {
	var out []Named
	x.follow(value, &out)
	return out
}

func (x *Explainer) follow(value string, out *[]Named) {
	for _, w := range lexed([]byte(value)) {
		name, ok := strings.CutPrefix(w.text, "@")
		if w.kind != css.AtKeywordToken || !ok || len(*out) == maxNamed || slices.ContainsFunc(*out, func(n Named) bool { return n.Name == name }) {
			continue
		}
		n := Named{Name: name}
		n.Colour, _ = x.cascade.Colour(name)
		for _, s := range slices.Backward(x.cascade.sheets) {
			at, ok := s.places[name]
			if !ok {
				continue
			}
			n.File, n.Line = at.file, at.line
			for _, d := range x.definitionsOf(at.file) {
				if d.Name == name && d.Line == at.line {
					n.Value = d.Value
				}
			}
			break
		}
		*out = append(*out, n)
		x.follow(n.Value, out)
	}
}

// maxNamed bounds how many named colours are followed from one value.
const maxNamed = 32

func (x *Explainer) definitionsOf(file string) []Definition {
	d, ok := x.defined[file]
	if !ok {
		if text, err := x.read(file); err == nil {
			d = Definitions(text)
		}
		x.defined[file] = d
	}
	return d
}

// String is the node as a selector names it: button.flat:hover.
func (n *Node) String() string {
	var b strings.Builder
	b.WriteString(n.Name)
	if n.ID != "" {
		b.WriteString("#" + n.ID)
	}
	for _, c := range n.Classes {
		b.WriteString("." + c)
	}
	for _, s := range n.States {
		if s != "dir(ltr)" { // which every node is in
			b.WriteString(":" + s)
		}
	}
	if b.Len() == 0 {
		return "*"
	}
	return b.String()
}

// Way is the node with those above it, from the top.
func (n *Node) Way() string {
	if n.parent == nil {
		return n.String()
	}
	return n.parent.Way() + " > " + n.String()
}
