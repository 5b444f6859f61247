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
		if choiceOf(info, c.text()) != c {
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

// With returns a copy in which the facet is as wanted; "" takes it out.
func (o Outfit) With(facet, want string) Outfit {
	choices := maps.Clone(o.Choices)
	if choices == nil {
		choices = map[string]Choice{}
	}
	if want == "" {
		delete(choices, facet)
	} else {
		f, _ := desk.FacetOf(facet)
		choices[facet] = choiceOf(f, want)
	}
	return Outfit{o.Name, choices}
}

// Facets returns the facets that have a choice, sorted.
func (o Outfit) Facets() []string { return slices.Sorted(maps.Keys(o.Choices)) }
