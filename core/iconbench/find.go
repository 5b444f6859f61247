package iconbench

import (
	"fmt"
	"strings"

	"ivelt/core/icontheme"
	"ivelt/core/say"
)

// Finding is something that is wrong with a pack on a desk.
type Finding struct {
	Code  string      `json:"code"`
	Says  say.Message `json:"-"`
	Text  string      `json:"text"`
	Grave bool        `json:"grave"`
	Items []string    `json:"items,omitempty"` // keys of what it is about, see [Want.KeyOf]
	Pack  string      `json:"pack,omitempty"`  // that is inherited and not there
}

func finding(grave bool, items []string, says say.Message) Finding {
	return Finding{Code: strings.TrimPrefix(says.Code, "icons/"), Says: says, Text: says.String(), Grave: grave, Items: items}
}

// maxNamed is how many things a finding names.
const maxNamed = 6

// Findings tell what of a coverage is wrong, what is felt most first: what shows no picture, what
// shows a bitmap that is too small, packs that are inherited and not there, and what is lent.
func (c *Coverage) Findings(problems []icontheme.Problem) (out []Finding) {
	for _, g := range c.Groups {
		nothing := c.in(g.Group, func(i Item) bool { return i.State == Nothing })
		switch {
		case len(nothing) == 0:
		case g.Group == Programs:
			out = append(out, finding(true, keys(nothing), say.Of("icons/programs-without", len(nothing), g.All, named(nothing))))
		default:
			out = append(out, finding(false, keys(nothing), say.Of("icons/group-without", g.Title, len(nothing), g.All, named(nothing))))
		}
	}
	for _, p := range problems {
		f := finding(p.Theme == c.Pack, nil, say.Of("icons/pack-missing", p.Theme, p.Err))
		if p.Theme != c.Pack {
			f.Pack = p.Theme
		}
		out = append(out, f)
	}
	for _, g := range c.Groups {
		soft := c.in(g.Group, func(i Item) bool { return i.soft() })
		if len(soft) > 0 {
			out = append(out, finding(g.Group == Programs, keys(soft), say.Of("icons/group-soft", g.Title, len(soft), g.All, named(soft))))
		}
	}
	if of := c.in(Programs, func(i Item) bool { return i.State == Brought }); len(of) > 0 {
		out = append(out, finding(false, keys(of), say.Of("icons/programs-brought", len(of), c.ofAll(Programs), named(of))))
	}
	if of := c.in(Programs, func(i Item) bool { return i.State == Lent }); len(of) > 0 {
		out = append(out, finding(false, keys(of), say.Of("icons/programs-lent", len(of), c.ofAll(Programs), named(of))))
	}
	return out
}

// soft reports whether a bitmap is enlarged for some size by a quarter or more.
func (i Item) soft() bool {
	for _, a := range i.Answers {
		if a.Drawn > 0 && a.Drawn*5 <= a.Size*a.Scale*4 && !strings.HasSuffix(a.Path, ".svg") {
			return true
		}
	}
	return false
}

func (c *Coverage) in(group Group, is func(Item) bool) (out []Item) {
	for _, it := range c.Items {
		if it.Group == group && is(it) {
			out = append(out, it)
		}
	}
	return out
}

func (c *Coverage) ofAll(group Group) int {
	for _, g := range c.Groups {
		if g.Group == group {
			return g.All
		}
	}
	return 0
}

func keys(of []Item) (out []string) {
	for _, it := range of {
		out = append(out, it.KeyOf())
	}
	return out
}

// named lists the first of some things.
func named(of []Item) string {
	var names []string
	for _, it := range of[:min(len(of), maxNamed)] {
		names = append(names, it.Title)
	}
	text := strings.Join(names, ", ")
	if n := len(of) - maxNamed; n > 0 {
		text = fmt.Sprintf("%s and %d more", text, n)
	}
	return text
}
