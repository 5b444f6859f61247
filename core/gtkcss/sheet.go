// Package gtkcss reads the style sheets of GTK 3 and 4 themes and computes the
// style of any node of a tree of widgets, as those toolkits do. The syntax is
// CSS (css-syntax-3, selectors-3, css-values-3, css-backgrounds-3, css-images-3)
// with GTK's own properties, named colours and functions (GTK 3 reference, "GTK
// CSS Overview" and "GTK CSS Properties"; GTK 4 reference, the same two).
//
// What a sheet says and this package does not understand, or GTK would not
// either, is kept as a Note with its file and line; the rest counts.
package gtkcss

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"path"
	"strings"

	"github.com/tdewolff/parse/v2/css"
)

// ErrSheet: the style sheet cannot be read.
var ErrSheet = errors.New("the style sheet cannot be read")

// What a sheet may have at most, with all that it imports. The largest sheets of real
// themes have a fifth of that.
const (
	MaxBytes   = 3 << 20
	maxTokens  = 300_000
	maxRules   = 25_000 // selectors, each with what it is told
	maxFiles   = 200
	maxImports = 16 // deep
)

// Note says what a sheet has that does not count.
type Note struct {
	File string
	Line int
	Text string
}

func (n Note) String() string { return fmt.Sprintf("%s:%d: %s", n.File, n.Line, n.Text) }

// Sheet is a style sheet with those it imports.
type Sheet struct {
	Generation int    // of GTK whose rules count: 3 or 4
	Notes      []Note // what does not count, in the order it was met
	Files      []string

	rules     []rule
	colours   map[string]colour
	open      []string // files being read: an import of one goes in a circle
	source    Source
	bytes     int // that were read, of all files
	tokens    int
	selectors int
	full      bool // there is more than is read
	until     context.Context
}

// Source is where a sheet and what it imports come from.
type Source interface {
	// Read returns the text of a sheet. resource is true for an address in a
	// resource bundle, name then being the path in it.
	Read(name string, resource bool) ([]byte, error)
}

// rule is what a list of selectors is told.
type rule struct {
	selectors []selector
	tells     []declaration
}

// declaration is one property's value and where it is written.
type declaration struct {
	property int
	value    value
	file     string
	line     int
}

// Parse reads a style sheet that imports nothing. generation is 3 or 4.
func Parse(text []byte, generation int) *Sheet {
	s := &Sheet{Generation: generation, colours: map[string]colour{}}
	s.read(text, "")
	return s
}

// Load reads a style sheet of a tree and those it imports. Imports leave the
// tree neither by name nor by an address; a resource bundle is looked for
// beside the sheet, as gtk.gresource. The generation is told by the folder's
// name, gtk-4.0 or else 3. Once ctx has ended it returns with its error.
func Load(ctx context.Context, fsys fs.FS, name string) (*Sheet, error) {
	return LoadFrom(ctx, &folder{fsys: fsys, dir: path.Dir(name)}, name, generationOf(name))
}

// LoadFrom reads a style sheet and those it imports from a source.
func LoadFrom(ctx context.Context, source Source, name string, generation int) (*Sheet, error) {
	text, err := source.Read(name, false)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrSheet, err)
	}
	s := &Sheet{Generation: generation, colours: map[string]colour{}, source: source, until: ctx}
	s.open = []string{name}
	s.read(text, name)
	if err := ctx.Err(); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrSheet, err)
	}
	s.until = nil
	return s, nil
}

// givenUp reports whether nobody waits for the sheet any more.
func (s *Sheet) givenUp() bool { return s.until != nil && s.until.Err() != nil }

// Bytes is how long the sheet is with all that it imports.
func (s *Sheet) Bytes() int { return s.bytes }

// Colour returns what a named colour stands for.
func (s *Sheet) Colour(name string) (Colour, bool) {
	c, ok := s.colours[name]
	if !ok {
		return Colour{}, false
	}
	return c.resolve(colourContext{named: func(n string) (colour, bool) { c, ok := s.colours[n]; return c, ok }, known: newKnown()})
}

// Colours are the names of the colours that are defined.
func (s *Sheet) Colours() []string {
	out := make([]string, 0, len(s.colours))
	for name := range s.colours {
		out = append(out, name)
	}
	return out
}

func (s *Sheet) note(file string, line int, format string, args ...any) {
	if len(s.Notes) < 2000 {
		s.Notes = append(s.Notes, Note{file, line, fmt.Sprintf(format, args...)})
	}
}

// enough ends the reading of a sheet that has too much.
func (s *Sheet) enough(file string, line int, format string, args ...any) {
	if !s.full {
		s.note(file, line, format+"; what comes after that is not read", args...)
	}
	s.full = true
}

func (s *Sheet) read(text []byte, file string) {
	s.Files = append(s.Files, file)
	switch s.bytes += len(text); {
	case s.full:
		return
	case s.bytes > MaxBytes:
		s.enough(file, 1, "the sheets are longer than %d MiB together", MaxBytes>>20)
		return
	case len(s.Files) > maxFiles:
		s.enough(file, 1, "more than %d sheets are imported", maxFiles)
		return
	}
	words, all := someTokens(text, maxTokens-s.tokens, s.givenUp)
	s.tokens += len(words)
	r := &reader{tokens: words, gtk: s.Generation}
	defer func() {
		if !all {
			s.enough(file, 1, "the sheets have more than %d words together", maxTokens)
		}
	}()
	for n := 0; !r.done() && !s.full; n++ {
		if n%64 == 0 && s.givenUp() {
			return
		}
		switch t := r.peek(); {
		case t.is(";") || t.is("}") || t.is(")") || t.is("]"):
			s.note(file, t.line, "%q stands alone", t.text)
			r.at++
		case t.kind == css.AtKeywordToken:
			s.at(r, file)
		default:
			s.ruleset(r, file)
		}
	}
}

// block returns the words up to the end of a block whose bracket was taken, and
// goes past it.
func (r *reader) block() []token {
	from := r.at
	for deep := 1; !r.done(); {
		switch t := r.next(); {
		case t.is("{"):
			deep++
		case t.is("}"):
			if deep--; deep == 0 {
				return r.tokens[from : r.at-1]
			}
		}
	}
	return r.tokens[from:]
}

// statement returns the words up to a semicolon or a block, outside brackets;
// it goes past the semicolon and stops at the block.
func (r *reader) statement() []token {
	from := r.at
	for deep := 0; !r.done(); r.at++ {
		switch t := r.peek(); {
		case t.is("(") || t.is("[") || t.kind == css.FunctionToken:
			deep++
		case t.is(")") || t.is("]"):
			deep = max(deep-1, 0)
		case t.is("{"):
			return r.tokens[from:r.at]
		case t.is(";") && deep == 0:
			r.at++
			return r.tokens[from : r.at-1]
		}
	}
	return r.tokens[from:]
}

func (s *Sheet) at(r *reader, file string) {
	t := r.next()
	words := r.statement()
	block := r.take("{")
	if block {
		r.block()
	}
	in := &reader{tokens: words, gtk: s.Generation}
	switch strings.ToLower(t.text) {
	case "@define-color":
		name := in.next()
		c, ok := readColour(in)
		if name.kind != css.IdentToken || !ok || !in.done() || block {
			s.note(file, t.line, "@define-color %s: not a colour", name.text)
			return
		}
		s.colours[name.text] = c
	case "@import":
		if name, ok := in.text(); ok && !block {
			s.include(name, file, t.line)
			return
		}
		s.note(file, t.line, "@import needs an address")
	case "@keyframes", "@binding-set", "@charset": // movements and keys do not show
	default:
		s.note(file, t.line, "%s is not known", t.text)
	}
}

func (s *Sheet) include(name, from string, line int) {
	if s.source == nil {
		s.note(from, line, "import of %q is not followed", name)
		return
	}
	name = strings.TrimPrefix(name, "file://")
	at, resource := name, false
	if inside, ok := strings.CutPrefix(name, "resource://"); ok {
		at, resource = inside, true
	} else if inside, ok := strings.CutPrefix(from, "resource://"); ok {
		at, resource = path.Join(path.Dir(inside), name), true
	} else if strings.Contains(name, ":") {
		s.note(from, line, "import of %q leaves the piece", name)
		return
	} else if !path.IsAbs(name) {
		at = path.Join(path.Dir(from), name)
	}
	file := at
	if resource {
		file = "resource://" + at
	}
	for _, open := range s.open {
		if open == file {
			s.note(from, line, "import of %q goes in a circle", name)
			return
		}
	}
	if len(s.open) > maxImports {
		s.note(from, line, "import of %q is nested too deep", name)
		return
	}
	text, err := s.source.Read(at, resource)
	if err != nil {
		s.note(from, line, "import of %q %s", name, plainError(err))
		return
	}
	s.open = append(s.open, file)
	s.read(text, file)
	s.open = s.open[:len(s.open)-1]
}

func plainError(err error) string {
	if errors.Is(err, fs.ErrNotExist) {
		return "is not there"
	}
	if errors.Is(err, fs.ErrInvalid) {
		return "leaves the piece"
	}
	return err.Error()
}

func (s *Sheet) ruleset(r *reader, file string) {
	line := r.peek().line
	from := r.at
	for !r.done() && !r.peek().is("{") {
		if r.peek().is("}") {
			break
		}
		r.at++
	}
	words := r.tokens[from:r.at]
	if !r.take("{") {
		s.note(file, line, "%q is no rule", written(words))
		r.at++
		return
	}
	body := &reader{tokens: r.block(), gtk: s.Generation}
	selectors, err := readSelectors(&reader{tokens: words, gtk: s.Generation})
	if err != nil {
		s.note(file, line, "%s: %v", written(words), err)
		return
	}
	if s.selectors += len(selectors); s.selectors > maxRules {
		s.enough(file, line, "there are more than %d rules", maxRules)
		return
	}
	out := rule{selectors: selectors}
	for !body.done() {
		if body.take(";") {
			continue
		}
		out.tells = s.declaration(body, out.tells, file)
	}
	s.rules = append(s.rules, out)
}

// declaration reads one declaration; one that is wrong does not count.
func (s *Sheet) declaration(body *reader, tells []declaration, file string) []declaration {
	t := body.peek()
	words := body.statement()
	if body.take("{") { // a block ends the declaration it stands in
		body.block()
		s.note(file, t.line, "%s: a block has no place here", t.text)
		return tells
	}
	in := &reader{tokens: words, gtk: s.Generation}
	name := in.next()
	if (name.kind != css.IdentToken && name.kind != css.CustomPropertyNameToken) || !in.take(":") {
		s.note(file, t.line, "%q is no declaration", written(words))
		return tells
	}
	key := strings.ToLower(name.text)
	if strings.HasPrefix(name.text, "-Gtk") || key == "gtk-key-bindings" || key == "-gtk-key-bindings" || key == "engine" {
		return tells // settings of one widget class, keys, engines: none shows here
	}
	set, known, ok := readProperty(key, in)
	switch {
	case !known:
		s.note(file, t.line, "%s is not a property of GTK %d", key, s.Generation)
	case !ok || !in.done():
		s.note(file, t.line, "%s: %q does not count", key, written(words[min(2, len(words)):]))
	default:
		for _, p := range set {
			tells = append(tells, declaration{p.property, p.value, file, t.line})
		}
	}
	return tells
}

func written(words []token) string {
	var b strings.Builder
	for i, t := range words {
		if t.spaced && i > 0 {
			b.WriteByte(' ')
		}
		b.WriteString(t.text)
		if b.Len() > 80 {
			return b.String()[:min(b.Len(), 80)] + "…"
		}
	}
	return b.String()
}
