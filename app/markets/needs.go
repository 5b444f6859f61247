package markets

import (
	"fmt"
	"slices"
	"strings"

	"ivelt/app/desks"
	"ivelt/core/icontheme"
	"ivelt/core/market"
	"ivelt/core/parcel"
	"ivelt/core/reading"
)

// Need is something a piece cannot do without, and where it is.
type Need struct {
	What   string // "icon pack Shingle"
	Stand  Stand
	At     string // the folder where it is in place, or the package that has it
	Market uint   // where an entry has it
	Entry  string
}

// Stand is where something is that is needed, the nearest first.
type Stand string

// The stands.
const (
	InPlace  Stand = "in place"
	WithIt   Stand = "in this parcel"
	Packaged Stand = "packaged"
	InMarket Stand = "in a market"
	Missing  Stand = "missing"
)

// Says is that in words.
func (n Need) Says() string {
	switch n.Stand {
	case InPlace:
		return "installed in " + n.At
	case WithIt:
		return "in this parcel"
	case Packaged:
		return fmt.Sprintf("not on this desk; its packages have it as %s", n.At)
	case InMarket:
		return "not on this desk; a market has it"
	}
	return "not on this desk, nor in any market that is looked through"
}

// Met reports whether nothing is left to be done about it.
func (n Need) Met() bool { return n.Stand == InPlace || n.Stand == WithIt }

// engine is the kind of what draws for a theme; it is no piece.
const engine = parcel.Kind("engine")

// Needs weighs what a piece of a parcel needs against a desk: each once, whether it is
// in place, comes along, or can be had from packages or markets.
func (m *Markets) Needs(d *desks.Managed, in parcel.Contents, pc parcel.Piece) ([]Need, error) {
	var out []Need
	words := slices.Clone(pc.Needs)
	if pc.Kind == parcel.Icons || pc.Kind == parcel.Pointer {
		for _, parent := range pc.Inherits {
			if parent != icontheme.Fallback {
				words = append(words, string(pc.Kind.Title())+" "+parent)
			}
		}
	}
	for _, word := range words {
		kind, name := needed(pc.Kind, word)
		if slices.ContainsFunc(out, func(n Need) bool { return n.What == whatOf(kind, name) }) {
			continue
		}
		n, err := m.need(d, kind, name)
		if err != nil {
			return nil, err
		}
		along := slices.ContainsFunc(in.Pieces, func(other parcel.Piece) bool {
			return other.Folder == name && (other.Kind == kind || kind == parcel.Pointer && other.Kind == parcel.Icons)
		})
		if n.Stand != InPlace && along {
			n.Stand, n.At = WithIt, ""
		}
		out = append(out, n)
	}
	return out, nil
}

// needed is the kind and the name of what a parcel says is needed.
func needed(of parcel.Kind, word string) (kind parcel.Kind, name string) {
	for _, k := range parcel.Kinds() {
		if name, ok := strings.CutPrefix(word, string(k.Title())+" "); ok {
			return k, name
		}
	}
	if name, ok := strings.CutPrefix(word, "drawing engine "); ok {
		return engine, name
	}
	if of == parcel.Bundle {
		return "", word
	}
	return of, word
}

func whatOf(kind parcel.Kind, name string) string {
	switch kind {
	case engine:
		return "drawing engine " + name
	case "":
		return name
	}
	return string(kind.Title()) + " " + name
}

// need finds one thing on the desk, in its packages, or in a market.
func (m *Markets) need(d *desks.Managed, kind parcel.Kind, name string) (Need, error) {
	n := Need{What: whatOf(kind, name), Stand: Missing}
	switch {
	case kind == engine:
		n.At = reading.EngineAt(d.Desk, name)
	case kind == "":
		for _, k := range parcel.Kinds() {
			if n.At = here(d, market.Companion{Kind: string(k), Name: name}); n.At != "" {
				break
			}
		}
	default:
		n.At = here(d, market.Companion{Kind: string(kind), Name: name})
	}
	if n.At != "" {
		n.Stand = InPlace
		return n, nil
	}
	called := ""
	if kind == engine {
		called = "gtk2-engines-" + strings.ToLower(name) // common practice, no source
	}
	if found, ok := d.Packaged().Find(string(kind), name, called); ok {
		n.Stand, n.At = Packaged, found.Name
		return n, nil
	}
	rows, err := m.Named(name)
	if err != nil {
		return n, err
	}
	for _, row := range rows {
		if kind == "" || row.Kind == string(kind) {
			n.Stand, n.Market, n.Entry = InMarket, row.Market, row.Key
			break
		}
	}
	return n, nil
}

// needsOf weighs what an entry says it needs, but for the companions that are named
// beside it.
func (m *Markets) needsOf(d *desks.Managed, e market.Entry) ([]Need, error) {
	var out []Need
	for _, word := range e.Needs {
		kind, name := needed(parcel.Kind(e.Kind), word)
		beside := slices.ContainsFunc(e.Companions, func(c market.Companion) bool {
			return c.Name == name && (c.Kind == string(kind) || kind == parcel.Kind(e.Kind))
		})
		if beside || slices.ContainsFunc(out, func(n Need) bool { return n.What == whatOf(kind, name) }) {
			continue
		}
		n, err := m.need(d, kind, name)
		if err != nil {
			return nil, err
		}
		if n.Stand == Missing && kind == parcel.Kind(e.Kind) && string(kind.Title())+" "+name != word {
			n.What = word // in the maker's own words
		}
		out = append(out, n)
	}
	return out, nil
}
