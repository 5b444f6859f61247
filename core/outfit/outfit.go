// Package outfit reads and writes outfit files: one chosen piece for each
// facet, as a TOML file that people can read and edit.
//
//	format = 1
//	name = "Dusk at the shore"
//
//	[facet.icons]
//	piece = "Shingle"
package outfit

import (
	"errors"
	"fmt"
	"maps"
	"slices"

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

// Choice is what one facet is to be.
type Choice struct {
	Piece string `toml:"piece"` // the name programs use
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
		if desk.FacetTitle(facet) == facet {
			return Outfit{}, fmt.Errorf("%w: facet %q is not known", ErrFormat, facet)
		}
		if c.Piece == "" {
			return Outfit{}, fmt.Errorf("%w: facet %q names no piece", ErrFormat, facet)
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

// Piece returns the piece chosen for a facet, or "".
func (o Outfit) Piece(facet string) string { return o.Choices[facet].Piece }

// With returns a copy in which the facet has that piece; "" takes it out.
func (o Outfit) With(facet, piece string) Outfit {
	choices := maps.Clone(o.Choices)
	if choices == nil {
		choices = map[string]Choice{}
	}
	if piece == "" {
		delete(choices, facet)
	} else {
		choices[facet] = Choice{Piece: piece}
	}
	return Outfit{o.Name, choices}
}

// Facets returns the facets that have a choice, sorted.
func (o Outfit) Facets() []string { return slices.Sorted(maps.Keys(o.Choices)) }
