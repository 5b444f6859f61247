// Package outfit reads and writes outfit files: one chosen piece or setting for
// each facet, as a TOML file that people can read and edit.
//
//	format = 1
//	name = "Dusk at the shore"
//
//	[facet.icons]
//	piece = "Shingle"
//
//	[facet.font]
//	piece = "Estuary Sans"
//	size = 10.5
//
//	[facet.dark]
//	value = "automatic"
//	except = { bittern = "dark", lantern = "" } # of one surface; "" stays as it is
package outfit

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"

	"github.com/pelletier/go-toml/v2"

	"ivelt/core/desk"
)

// Format is the version of the file format written here.
const Format = 1

// ErrFormat: the bytes are not an outfit file.
var ErrFormat = errors.New("not an outfit file")

// Outfit is what a desk is to wear.
type Outfit struct {
	Name    string            `toml:"name"`
	Choices map[string]Choice `toml:"facet"`
}

// Choice is what one facet is to be: a piece, of a font with a size, or a value.
type Choice struct {
	Piece string  `toml:"piece,omitempty"` // the name programs use
	Size  float64 `toml:"size,omitempty"`  // points
	Value string  `toml:"value,omitempty"`
	// Except are surfaces that are to have another value, "" for whatever they
	// have.
	Except map[string]string `toml:"except,omitempty"`
}

// choiceOf is the choice that a facet's value stands for.
func choiceOf(f desk.FacetInfo, value string) Choice {
	switch f.Takes {
	case desk.TakesPiece:
		return Choice{Piece: value}
	case desk.TakesFont:
		family, size := desk.SplitFont(value)
		return Choice{Piece: family, Size: size}
	}
	return Choice{Value: value}
}

// text is the value that a choice is for.
func (c Choice) text() string {
	if c.Size > 0 {
		return c.Piece + " " + strconv.FormatFloat(c.Size, 'f', -1, 64)
	}
	return cmp.Or(c.Piece, c.Value)
}

type file struct {
	Format  int               `toml:"format"`
	Name    string            `toml:"name"`
	Choices map[string]Choice `toml:"facet"`
}

// Parse reads an outfit file. Errors wrap [ErrFormat].
func Parse(b []byte) (Outfit, error) {
	var f file
	if err := toml.Unmarshal(b, &f); err != nil {
		return Outfit{}, fmt.Errorf("%w: %w", ErrFormat, err)
	}
	if f.Format != Format {
		return Outfit{}, fmt.Errorf("%w: format is %d; this Ivelt reads format %d", ErrFormat, f.Format, Format)
	}
	for facet, c := range f.Choices {
		info, known := desk.FacetOf(facet)
		if !known {
			return Outfit{}, fmt.Errorf("%w: facet %q is not known", ErrFormat, facet)
		}
		if c.text() == "" {
			return Outfit{}, fmt.Errorf("%w: facet %q names nothing", ErrFormat, facet)
		}
		if err := info.Accepts(c.text()); err != nil {
			return Outfit{}, fmt.Errorf("%w: %w", ErrFormat, err)
		}
		for surface, value := range c.Except {
			if err := info.Accepts(value); surface == "" || value != "" && err != nil {
				return Outfit{}, fmt.Errorf("%w: facet %q, except %q: %w", ErrFormat, facet, surface, err)
			}
		}
		if plain := choiceOf(info, c.text()); plain.Piece != c.Piece || plain.Size != c.Size || plain.Value != c.Value {
			return Outfit{}, fmt.Errorf("%w: facet %q takes %s", ErrFormat, facet, map[bool]string{true: "a piece", false: "a value"}[info.Takes == desk.TakesPiece || info.Takes == desk.TakesFont])
		}
	}
	return Outfit{Name: f.Name, Choices: f.Choices}, nil
}

// Bytes returns the outfit as a file.
func (o Outfit) Bytes() []byte {
	b, err := toml.Marshal(file{Format, o.Name, o.Choices})
	if err != nil {
		panic(err) // strings and maps of strings always marshal
	}
	return b
}

// Want returns what is chosen for a facet, or "".
func (o Outfit) Want(facet string) string { return o.Choices[facet].text() }

// WantOn returns what is chosen for a facet on one surface, or "".
func (o Outfit) WantOn(surface, facet string) string {
	if value, ok := o.Excepted(surface, facet); ok {
		return value
	}
	return o.Want(facet)
}

// Excepted returns what one surface is to have in a facet's stead, "" for
// whatever it has, and whether it is excepted.
func (o Outfit) Excepted(surface, facet string) (value string, ok bool) {
	value, ok = o.Choices[facet].Except[surface]
	return value, ok
}

// With returns a copy in which the facet is as wanted, its exceptions as they
// are; "" takes it out.
func (o Outfit) With(facet, want string) Outfit {
	choices := maps.Clone(o.Choices)
	if choices == nil {
		choices = map[string]Choice{}
	}
	if want == "" {
		delete(choices, facet)
	} else {
		f, _ := desk.FacetOf(facet)
		c := choiceOf(f, want)
		c.Except = choices[facet].Except
		choices[facet] = c
	}
	return Outfit{o.Name, choices}
}

// Over returns the outfit with another one put on over it: its name, and all that
// it chooses.
func (o Outfit) Over(other Outfit) Outfit {
	choices := maps.Clone(o.Choices)
	if choices == nil {
		choices = map[string]Choice{}
	}
	maps.Copy(choices, other.Choices)
	return Outfit{other.Name, choices}
}

// Except returns a copy in which one surface is excepted from a facet that is
// chosen, with another value, or "" for whatever it has.
func (o Outfit) Except(surface, facet, value string) Outfit {
	return o.excepting(facet, func(e map[string]string) { e[surface] = value })
}

// Rejoin returns a copy in which a surface is no exception.
func (o Outfit) Rejoin(surface, facet string) Outfit {
	return o.excepting(facet, func(e map[string]string) { delete(e, surface) })
}

func (o Outfit) excepting(facet string, change func(map[string]string)) Outfit {
	c, ok := o.Choices[facet]
	if !ok {
		return o
	}
	if c.Except = maps.Clone(c.Except); c.Except == nil {
		c.Except = map[string]string{}
	}
	change(c.Except)
	if len(c.Except) == 0 {
		c.Except = nil
	}
	choices := maps.Clone(o.Choices)
	choices[facet] = c
	return Outfit{o.Name, choices}
}

// Facets returns the facets that have a choice, sorted.
func (o Outfit) Facets() []string { return slices.Sorted(maps.Keys(o.Choices)) }
