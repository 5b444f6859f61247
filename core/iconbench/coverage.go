package iconbench

import (
	"cmp"
	"io/fs"
	"slices"
	"strings"

	"ivelt/core/icontheme"
	"ivelt/core/say"
)

// State says whose picture is shown for what is asked.
type State string

// The states, the best first.
const (
	Own     State = "own"     // the pack's, drawn for that size
	Scaled  State = "scaled"  // the pack's, drawn for another size
	Shorter State = "shorter" // the pack's, by one of the names that are asked for next
	Brought State = "brought" // the program's own, from the folder of the fallback theme or from no theme
	Lent    State = "lent"    // of a pack that it inherits
	Fixed   State = "fixed"   // the file that an entry names: no pack can change that
	Nothing State = "nothing"
)

// States are all of them, the best first, with what people call them.
var States = []struct {
	State State
	Title say.Word
}{
	{Own, "its own"}, {Scaled, "its own, scaled"}, {Shorter, "by a shorter name"}, {Brought, "brought by the program"},
	{Lent, "lent by another pack"}, {Fixed, "a file the entry names"}, {Nothing, "nothing"},
}

// Title is what people call a state.
func (s State) Title() say.Word { return States[s.at()].Title }

func (s State) at() int {
	for i, of := range States {
		if of.State == s {
			return i
		}
	}
	return len(States) - 1
}

// Answer is where the lookup of one size ended.
type Answer struct {
	Ask
	State State  `json:"state"`
	Name  string `json:"name,omitempty"`  // the one that was found
	Theme string `json:"theme,omitempty"` // that had it
	Path  string `json:"path,omitempty"`  // of the file, as io/fs wants it
	Drawn int    `json:"drawn,omitempty"` // px that the file was drawn for, where that is not what is asked
}

// Item is what a pack has for one thing that is asked.
type Item struct {
	Want    `json:"-"`
	Group   Group    `json:"group"`
	Key     string   `json:"key"`
	Title   string   `json:"title"`
	Names   []string `json:"names,omitempty"`
	State   State    `json:"state"` // the worst of its answers
	Answers []Answer `json:"answers,omitempty"`
}

// Main is the answer for the largest size.
func (i Item) Main() Answer {
	if len(i.Answers) == 0 {
		return Answer{State: Nothing}
	}
	return i.Answers[len(i.Answers)-1]
}

// Counted is how many items of a group are in each state.
type Counted struct {
	Group  Group         `json:"group"`
	Title  say.Word      `json:"title"`
	All    int           `json:"all"`
	States map[State]int `json:"states"`
}

// Has is how many of them the pack has something of its own for.
func (c Counted) Has() int { return c.States[Own] + c.States[Scaled] + c.States[Shorter] }

// Coverage is what a pack has of what a desk asks for.
type Coverage struct {
	Pack   string    `json:"pack"`
	Chain  []string  `json:"chain"` // the packs that it is looked for in, by folder
	Groups []Counted `json:"groups"`
	Items  []Item    `json:"items"`
}

// Of returns the item of a key, see [Want.KeyOf].
func (c *Coverage) Of(key string) (Item, bool) {
	for _, it := range c.Items {
		if it.KeyOf() == key {
			return it, true
		}
	}
	return Item{}, false
}

// Cover looks up everything that is wanted in a pack that an index begins with, the way GTK 3
// does (see [icontheme.Index.LookupBest]). tree tells whether a file that an entry names is there; what
// the pack below has, "" for none, counts as the pack's own.
func Cover(x *icontheme.Index, tree fs.FS, below string, wants []Want) *Coverage {
	out := &Coverage{}
	for i, t := range x.Chain() {
		if i == 0 {
			out.Pack = t.Folder
		}
		out.Chain = append(out.Chain, t.Folder)
	}
	counts := map[Group]*Counted{}
	for _, w := range wants {
		it := Item{Want: w, Group: w.Group, Key: w.Key, Title: w.Title, Names: w.Names, State: Nothing}
		worst := -1
		for _, ask := range w.Asks {
			a := answer(x, tree, out.Pack, below, w, ask)
			it.Answers = append(it.Answers, a)
			if at := a.State.at(); at > worst {
				worst, it.State = at, a.State
			}
		}
		out.Items = append(out.Items, it)
		c := counts[w.Group]
		if c == nil {
			c = &Counted{Group: w.Group, Title: w.Group.Title(), States: map[State]int{}}
			counts[w.Group] = c
		}
		c.All++
		c.States[it.State]++
	}
	for _, g := range Groups {
		if c := counts[g.Group]; c != nil {
			out.Groups = append(out.Groups, *c)
		}
	}
	slices.SortStableFunc(out.Items, func(a, b Item) int {
		return cmp.Compare(a.Group.at(), b.Group.at())
	})
	return out
}

func (g Group) at() int {
	return slices.IndexFunc(Groups, func(of struct {
		Group Group
		Title say.Word
	}) bool {
		return of.Group == g
	})
}

func answer(x *icontheme.Index, tree fs.FS, pack, below string, w Want, ask Ask) Answer {
	a := Answer{Ask: ask, State: Nothing}
	if w.File != "" {
		name := strings.TrimPrefix(w.File, "/")
		if fi, err := fs.Stat(tree, name); err == nil && fi.Mode().IsRegular() {
			a.State, a.Path = Fixed, name
		}
		return a
	}
	if len(w.Names) == 0 {
		return a
	}
	icon, name, ok := x.LookupBest(w.Names, ask.Size, ask.Scale)
	if !ok {
		return a
	}
	a.Name, a.Theme, a.Path = name, icon.Theme, icon.Path
	if icon.Off > 0 {
		a.Drawn = icon.Size * icon.Scale
	}
	switch {
	case icon.Theme == "" || icon.Theme == icontheme.Fallback && pack != icontheme.Fallback:
		a.State = Brought
	case icon.Theme != pack && icon.Theme != below:
		a.State = Lent
	case name != w.Names[0]:
		a.State = Shorter
	case icon.Off > 0:
		a.State = Scaled
	default:
		a.State = Own
	}
	return a
}
