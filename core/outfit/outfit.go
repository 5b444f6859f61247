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
//
// A look may turn: then it says when, and what it is in the light and in the dark.
//
//	[turn]
//	by = "clock"
//	light = "07:00"
//	dark = "19:00"
//
//	[light.backdrop]
//	value = "/home/ada/Pictures/bay.jpg"
//	[dark.backdrop]
//	value = "/home/ada/Pictures/bay-at-night.jpg"
package outfit

import (
	"bytes"
	"cmp"
	"errors"
	"maps"
	"slices"
	"strconv"

	"github.com/pelletier/go-toml/v2"

	"ivelt/core/desk"
	"ivelt/core/say"
	"ivelt/core/shown"
	"ivelt/core/tomlfile"
	"ivelt/core/turning"
)

// Format is the version of the file format written here.
const Format = 1

// ErrFormat: the bytes are not an outfit file.
var ErrFormat = errors.New("not an outfit file")

// Outfit is what a desk is to wear.
type Outfit struct {
	Name    string            `toml:"name"`
	About   string            `toml:"about,omitempty"` // a few words
	Choices map[string]Choice `toml:"facet"`
	// Turn is when it turns between Light and Dark, which have the same facets; each of them
	// has a choice too, which is the one that is worn now. Show is more than one backdrop.
	Turn        *turning.Schedule `toml:"turn,omitempty"`
	Light, Dark map[string]Choice
	Show        *turning.Show `toml:"show,omitempty"`
	// Extra is what the file has besides, which this Ivelt does not know: it is
	// kept.
	Extra map[string]any `toml:"-"`
}

// Choice is what one facet is to be: a piece, of a font with a size, or a value.
type Choice struct {
	Piece string  `toml:"piece,omitempty"` // the name programs use
	Size  float64 `toml:"size,omitempty"`  // points
	Value string  `toml:"value,omitempty"`
	// What is known of the piece: its version, where it can be had, its licence,
	// and the SHA-256 of the parcel it came in, as "sha256:…".
	Version  string `toml:"version,omitempty"`
	Source   string `toml:"source,omitempty"`
	Licence  string `toml:"licence,omitempty"`
	Checksum string `toml:"checksum,omitempty"`
	// Recipe is what the piece is built from, if it is a layer over another (package layer).
	Recipe string `toml:"recipe,multiline,omitempty"`
	// Except are surfaces that are to have another value, "" for whatever they
	// have.
	Except map[string]string `toml:"except,omitempty"`
	Extra  map[string]any    `toml:"-"` // as of [Outfit]
}

// MaxRecipe is how long a recipe may be, in bytes.
const MaxRecipe = 64 << 10

// Pieced returns the choice with what is known of its piece.
func (c Choice) Pieced(version, source, licence, checksum string) Choice {
	c.Version, c.Source, c.Licence, c.Checksum = version, source, licence, checksum
	return c
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
	About   string            `toml:"about,omitempty"`
	Choices map[string]Choice `toml:"facet"`
	Turn    *turning.Schedule `toml:"turn,omitempty"`
	Light   map[string]Choice `toml:"light,omitempty"`
	Dark    map[string]Choice `toml:"dark,omitempty"`
	Show    *turning.Show     `toml:"show,omitempty"`
}

// Parse reads an outfit file. Errors wrap [ErrFormat]. What it does not know is
// kept, see [Outfit.Unknown].
func Parse(b []byte) (Outfit, error) {
	var f file
	if err := tomlfile.Decode(b, &f); err != nil {
		return Outfit{}, say.Errorf("%w: %w", ErrFormat, err)
	}
	if f.Format != Format {
		return Outfit{}, say.Errorf("%w: format is %d; this Ivelt reads format %d", ErrFormat, f.Format, Format)
	}
	o := Outfit{Name: f.Name, About: f.About, Choices: f.Choices, Turn: f.Turn, Light: f.Light, Dark: f.Dark, Show: f.Show}
	var all map[string]any
	if err := tomlfile.Decode(b, &all); err != nil {
		return Outfit{}, say.Errorf("%w: %w", ErrFormat, err)
	}
	o.extras(all)
	o.Name, o.About = shown.Line(o.Name), shown.Line(o.About)
	for facet, c := range o.Choices {
		info, _ := desk.FacetOf(facet)
		if c.text() == "" {
			return Outfit{}, say.Errorf("%w: facet %q names nothing", ErrFormat, facet)
		}
		if err := info.Accepts(c.text()); err != nil {
			return Outfit{}, say.Errorf("%w: %w", ErrFormat, err)
		}
		if len(c.Recipe) > MaxRecipe {
			return Outfit{}, say.Errorf("%w: facet %q: its recipe is longer than %d kB", ErrFormat, facet, MaxRecipe>>10)
		}
		for surface, value := range c.Except {
			if err := info.Accepts(value); surface == "" || value != "" && err != nil {
				return Outfit{}, say.Errorf("%w: facet %q, except %q: %w", ErrFormat, facet, surface, err)
			}
		}
		if plain := choiceOf(info, c.text()); plain.Piece != c.Piece || plain.Size != c.Size || plain.Value != c.Value {
			return Outfit{}, say.Errorf("%w: facet %q takes %s", ErrFormat, facet, map[bool]string{true: "a piece", false: "a value"}[info.Takes == desk.TakesPiece || info.Takes == desk.TakesFont])
		}
	}
	if err := o.validTurns(); err != nil {
		return Outfit{}, say.Errorf("%w: %w", ErrFormat, err)
	}
	return o, nil
}

// extras moves what is not known of a file into Extra.
func (o *Outfit) extras(all map[string]any) {
	take := func(from map[string]any, known ...string) map[string]any {
		var out map[string]any
		for key, value := range from {
			if slices.Contains(known, key) {
				continue
			}
			if out == nil {
				out = map[string]any{}
			}
			out[key] = value
		}
		return out
	}
	o.Extra = take(all, "format", "name", "about", "facet", "turn", "light", "dark", "show")
	facets, _ := all["facet"].(map[string]any)
	for facet, of := range facets {
		said, _ := of.(map[string]any)
		if _, known := desk.FacetOf(facet); !known {
			delete(o.Choices, facet)
			if o.Extra == nil {
				o.Extra = map[string]any{}
			}
			held, _ := o.Extra["facet"].(map[string]any)
			if held == nil {
				held = map[string]any{}
				o.Extra["facet"] = held
			}
			held[facet] = of
			continue
		}
		c := o.Choices[facet]
		c.Extra = take(said, "piece", "size", "value", "version", "source", "licence", "checksum", "except")
		o.Choices[facet] = c
	}
}

// Unknown names what the file has that this Ivelt does not know, sorted: keys, as
// "facet.icons.shine".
func (o Outfit) Unknown() []string {
	var out []string
	for key, value := range o.Extra {
		if held, ok := value.(map[string]any); ok && key == "facet" {
			for facet := range held {
				out = append(out, "facet."+facet)
			}
			continue
		}
		out = append(out, key)
	}
	for facet, c := range o.Choices {
		for key := range c.Extra {
			out = append(out, "facet."+facet+"."+key)
		}
	}
	slices.Sort(out)
	return out
}

// Bytes returns the outfit as a file, with what it had that is not known.
func (o Outfit) Bytes() []byte {
	var b bytes.Buffer
	enc := toml.NewEncoder(&b)
	known := file{Format, o.Name, o.About, o.Choices, o.Turn, o.Light, o.Dark, o.Show}
	if len(o.Unknown()) == 0 {
		if err := enc.Encode(known); err != nil {
			panic(err) // strings and maps of strings always marshal
		}
		return b.Bytes()
	}
	all := map[string]any{}
	plain, err := toml.Marshal(known)
	if err == nil {
		err = toml.Unmarshal(plain, &all)
	}
	if err != nil {
		panic(err) // the same
	}
	facets, _ := all["facet"].(map[string]any)
	if facets == nil {
		facets = map[string]any{}
	}
	for facet, c := range o.Choices {
		if said, ok := facets[facet].(map[string]any); ok {
			maps.Copy(said, c.Extra)
		}
	}
	for key, value := range o.Extra {
		if held, ok := value.(map[string]any); ok && key == "facet" {
			maps.Copy(facets, held)
			continue
		}
		all[key] = value
	}
	all["facet"] = facets
	if err := enc.Encode(all); err != nil {
		panic(err) // it was read so
	}
	return b.Bytes()
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

// With returns a copy in which the facet is as wanted, at all times, its exceptions as they
// are; "" takes it out.
func (o Outfit) With(facet, want string) Outfit {
	o = o.unturned(func(f string) bool { return f != facet })
	choices := maps.Clone(o.Choices)
	if choices == nil {
		choices = map[string]Choice{}
	}
	if want == "" {
		delete(choices, facet)
	} else {
		f, _ := desk.FacetOf(facet)
		c, old := choiceOf(f, want), choices[facet]
		if old.text() == c.text() {
			c = old
		}
		c.Except = old.Except
		choices[facet] = c
	}
	o.Choices = choices
	return o
}

// Over returns the outfit with another one put on over it: its name, and all that
// it chooses.
func (o Outfit) Over(other Outfit) Outfit {
	choices := maps.Clone(o.Choices)
	if choices == nil {
		choices = map[string]Choice{}
	}
	maps.Copy(choices, other.Choices)
	o = o.turns(other)
	o.Name, o.About, o.Choices, o.Extra = other.Name, other.About, choices, other.Extra
	return o
}

// Less returns the outfit without the choices that another one has just so.
func (o Outfit) Less(other Outfit) Outfit {
	choices := map[string]Choice{}
	for facet, c := range o.Choices {
		same, ok := other.Choices[facet]
		if !ok || same.text() != c.text() || !maps.Equal(same.Except, c.Except) || !o.turnsAlike(other, facet) {
			choices[facet] = c
		}
	}
	o.Choices = choices
	return o.unturned(func(facet string) bool { _, ok := choices[facet]; return ok })
}

// Only returns the outfit with the choices of which keep says so.
func (o Outfit) Only(keep func(facet string) bool) Outfit {
	choices := map[string]Choice{}
	for facet, c := range o.Choices {
		if keep(facet) {
			choices[facet] = c
		}
	}
	o.Choices = choices
	return o.unturned(keep)
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
	o.Choices = choices
	return o
}

// Facets returns the facets that have a choice, sorted.
func (o Outfit) Facets() []string { return slices.Sorted(maps.Keys(o.Choices)) }
