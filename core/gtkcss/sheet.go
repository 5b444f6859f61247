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
	"bytes"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"path"
	"slices"
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
	File    string
	Line    int
	Text    string
	Refused bool   // the toolkit refuses it too, and complains of that line
	Unknown string // the property that is told there and that the toolkit does not have
}

func (n Note) String() string { return fmt.Sprintf("%s:%d: %s", n.File, n.Line, n.Text) }

// Sheet is a style sheet with those it imports.
type Sheet struct {
	Generation int    // of GTK whose rules count: 3 or 4
	Notes      []Note // what does not count, in the order it was met
	Files      []string

	rules     []rule
	colours   map[string]colour
	places    map[string]writtenAt // where each of them is defined
	bindings  map[string]bool      // names of sets of keys
	open      []string             // files being read: an import of one goes in a circle
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

// writtenAt is a place in a file.
type writtenAt struct {
	file string
	line int
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
	s := &Sheet{Generation: generation, colours: map[string]colour{}, bindings: map[string]bool{}}
	s.read(text, "")
	return s
}

// Load reads a style sheet of a tree and those it imports. Imports leave the
// tree neither by name nor by an address; a resource bundle is looked for
// beside the sheet, as gtk.gresource. The generation is told by the folder's
// name, gtk-4.0 or else 3. Once ctx has ended it returns with its error.
func Load(ctx context.Context, fsys fs.FS, name string) (*Sheet, error) {
	return LoadOver(ctx, fsys, name, nil)
}

// LoadOver is Load with resources that are not in the bundle beside the sheet: those
// of the toolkit itself.
func LoadOver(ctx context.Context, fsys fs.FS, name string, beyond func(name string) ([]byte, error)) (*Sheet, error) {
	return LoadFrom(ctx, &folder{fsys: fsys, dir: path.Dir(name), beyond: beyond}, name, generationOf(name))
}

// LoadMade is LoadOver of texts that are made of those of the tree and of the bundle: for each of
// them, by its name, made tells what is read in its stead. What is beyond is read as it is.
func LoadMade(ctx context.Context, fsys fs.FS, name string, beyond func(name string) ([]byte, error), made func(name string, resource bool, text []byte) []byte) (*Sheet, error) {
	return LoadFrom(ctx, &folder{fsys: fsys, dir: path.Dir(name), beyond: beyond, made: made}, name, generationOf(name))
}

// LoadResource reads a style sheet that is itself a resource, and those it imports.
func LoadResource(ctx context.Context, resources func(name string) ([]byte, error), name string, generation int) (*Sheet, error) {
	return LoadFrom(ctx, resourceSource(resources), "resource://"+name, generation)
}

// resourceSource has nothing but resources.
type resourceSource func(name string) ([]byte, error)

func (r resourceSource) Read(name string, _ bool) ([]byte, error) {
	return r(strings.TrimPrefix(name, "resource://"))
}

// LoadFrom reads a style sheet and those it imports from a source.
func LoadFrom(ctx context.Context, source Source, name string, generation int) (*Sheet, error) {
	text, err := source.Read(name, false)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrSheet, err)
	}
	s := &Sheet{Generation: generation, colours: map[string]colour{}, bindings: map[string]bool{}, source: source, until: ctx}
	s.open = []string{name}
	s.read(text, name)
	if err := ctx.Err(); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrSheet, err)
	}
	s.until = nil
	return s, nil
}

// And is the sheet with more text at its end, which is called by a name. The sheet itself
// stays as it is.
func (s *Sheet) And(text []byte, name string) *Sheet {
	out := *s
	out.rules, out.Notes, out.Files = slices.Clip(s.rules), slices.Clip(s.Notes), slices.Clip(s.Files)
	out.colours, out.places, out.bindings = maps.Clone(s.colours), maps.Clone(s.places), maps.Clone(s.bindings)
	out.open = []string{name}
	out.read(text, name)
	return &out
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
	s.Notes = append(s.Notes, Note{File: file, Line: line, Text: fmt.Sprintf(format, args...)})
}

// refuse notes what the toolkit refuses as well.
func (s *Sheet) refuse(file string, line int, format string, args ...any) {
	s.Notes = append(s.Notes, Note{File: file, Line: line, Text: fmt.Sprintf(format, args...), Refused: true})
}

// Refused are the lines that the toolkit refuses, in the order they are read.
func (s *Sheet) Refused() []Note {
	return slices.DeleteFunc(slices.Clone(s.Notes), func(n Note) bool { return !n.Refused })
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
	words, all := someTokens(text, maxTokens-s.tokens, s.givenUp, func(of []byte, line int) { s.comment(of, file, line) })
	s.tokens += len(words)
	r := &reader{tokens: words, gtk: s.Generation, end: 1 + bytes.Count(text, []byte("\n"))}
	defer func() {
		if !all {
			s.enough(file, 1, "the sheets have more than %d words together", maxTokens)
		}
	}()
	for n := 0; !r.done() && !s.full; n++ {
		if n%64 == 0 && s.givenUp() {
			return
		}
		if r.peek().kind == css.AtKeywordToken {
			s.at(r, file)
		} else {
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

// comment refuses a comment that begins again before it ends: GTK 3 does.
func (s *Sheet) comment(text []byte, file string, line int) {
	if s.Generation != 3 {
		return
	}
	for i := 2; i+1 < len(text); i++ {
		if text[i] == '/' && text[i+1] == '*' && text[i-1] != '*' {
			s.refuse(file, line+bytes.Count(text[:i], []byte("\n")), "a comment begins in a comment")
		}
	}
}

// after is the line of the word that is next.
func (r *reader) after() int {
	if r.done() {
		return r.end
	}
	return r.peek().line
}

func (s *Sheet) at(r *reader, file string) {
	t := r.next()
	name := strings.ToLower(t.text)
	if name == "@keyframes" || name == "@binding-set" {
		s.named(r, name, file)
		return
	}
	words := r.statement()
	end := r.after()
	if r.at > 0 && r.tokens[r.at-1].is(";") {
		end = r.tokens[r.at-1].line
	}
	block := r.take("{")
	if block {
		r.block()
	}
	in := &reader{tokens: words, gtk: s.Generation, end: end}
	switch name {
	case "@define-color":
		name := in.peek()
		if name.kind != css.IdentToken {
			s.refuse(file, in.failed(), "@define-color: %q is no name", name.text)
			return
		}
		in.at++
		c, ok := readColour(in)
		if !ok || !in.done() || block {
			s.refuse(file, in.failed(), "@define-color %s: not a colour", name.text)
			return
		}
		s.colours[name.text] = c
		if s.places == nil {
			s.places = map[string]writtenAt{}
		}
		s.places[name.text] = writtenAt{file, t.line}
	case "@import":
		if name, ok := in.text(); ok && !block {
			s.include(name, file, end)
			return
		}
		s.refuse(file, in.failed(), "@import needs an address in quotes")
	default:
		s.refuse(file, t.line, "%s is not known", t.text)
	}
}

// named goes past a movement or a set of keys, which do not show. What a movement
// says is read all the same, to tell what the toolkit refuses.
func (s *Sheet) named(r *reader, kind, file string) {
	if kind == "@binding-set" && s.Generation == 4 {
		s.refuse(file, r.after(), "%s is not known", kind)
		r.statement()
		if r.take("{") {
			r.block()
		}
		return
	}
	name := r.peek()
	words := r.statement()
	if len(words) != 1 || name.kind != css.IdentToken || !r.take("{") {
		s.refuse(file, r.after(), "%s needs a name and a block", kind)
		if r.take("{") {
			r.block()
		}
		return
	}
	body := r.blockReader()
	if kind == "@binding-set" {
		s.bindings[name.text] = true
		return
	}
	for !body.done() {
		at := body.next()
		if at.kind != css.PercentageToken && !strings.EqualFold(at.text, "from") && !strings.EqualFold(at.text, "to") || !body.take("{") {
			s.refuse(file, at.line, "@keyframes %s: %q is no place of a movement", name.text, at.text)
			return
		}
		s.declarations(body.blockReader(), file)
	}
}

// blockReader reads what stands in a block whose bracket was taken.
func (r *reader) blockReader() *reader {
	words := r.block()
	out := &reader{tokens: words, gtk: r.gtk, end: r.end}
	if r.at > 0 && r.at <= len(r.tokens) {
		out.end = r.tokens[r.at-1].line
	}
	return out
}

func (s *Sheet) include(name, from string, line int) {
	if s.source == nil {
		s.refuse(from, line, "import of %q is not followed", name)
		return
	}
	name = strings.TrimPrefix(name, "file://")
	at, resource := name, false
	if inside, ok := strings.CutPrefix(name, "resource://"); ok {
		at, resource = inside, true
	} else if inside, ok := strings.CutPrefix(from, "resource://"); ok {
		at, resource = path.Join(path.Dir(inside), name), true
	} else if strings.Contains(name, ":") {
		s.refuse(from, line, "import of %q leaves the piece", name)
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
			s.refuse(from, line, "import of %q goes in a circle", name)
			return
		}
	}
	if len(s.open) > maxImports {
		s.refuse(from, line, "import of %q is nested too deep", name)
		return
	}
	text, err := s.source.Read(at, resource)
	if err != nil {
		s.refuse(from, line, "import of %q %s", name, plainError(err))
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
	for !r.done() && !r.peek().is("{") { // a bracket that stands alone is taken for a selector
		r.at++
	}
	head := &reader{tokens: r.tokens[from:r.at], gtk: s.Generation, end: r.after(), room: r.room, compounds: r.compounds}
	selectors, err := readSelectors(head)
	r.room, r.compounds = head.room, head.compounds
	if !r.take("{") {
		s.refuse(file, head.failed(), "%q is no rule", written(head.tokens))
		return
	}
	body := r.blockReader()
	if err != nil {
		s.refuse(file, head.failed(), "%s: %v", written(head.tokens), err)
		return
	}
	if head.complains > 0 {
		s.refuse(file, head.complains, "%s: a class has no name; what stands after it counts", written(head.tokens))
	}
	if s.selectors += len(selectors); s.selectors > maxRules {
		s.enough(file, line, "there are more than %d rules", maxRules)
		return
	}
	s.rules = append(s.rules, rule{selectors, s.declarations(body, file)})
}

// declarations reads what a block tells.
func (s *Sheet) declarations(body *reader, file string) (tells []declaration) {
	for !body.done() {
		if !body.take(";") {
			tells = s.declaration(body, tells, file)
		}
	}
	return tells
}

// declaration reads one declaration; one that is wrong does not count.
func (s *Sheet) declaration(body *reader, tells []declaration, file string) []declaration {
	t := body.peek()
	words := body.statement()
	in := &reader{tokens: words, gtk: s.Generation, end: body.after()}
	if last := body.at - 1; last >= 0 && body.tokens[last].is(";") {
		in.end = body.tokens[last].line
	}
	if body.peek().is("{") { // a block ends the declaration it stands in
		s.refuse(file, body.peek().line, "%s: a block has no place here", t.text)
		body.at++
		body.block()
		return tells
	}
	name := in.next()
	if name.kind != css.IdentToken && name.kind != css.CustomPropertyNameToken {
		s.refuse(file, t.line, "%q is no declaration", written(words))
		return tells
	}
	key := name.text
	if s.Generation == 3 && strings.HasPrefix(key, "-") && !strings.HasPrefix(key, "-gtk-") {
		if _, shows := byName[key]; shows {
			if set, _, ok := readProperty(key, in); ok && in.done() {
				return append(tells, declaration{set[0].property, set[0].value, file, t.line})
			}
		}
		if in.at = 1; !in.take(":") || in.done() {
			s.refuse(file, in.failed(), "%q is no declaration", written(words))
		}
		return tells // a setting of one class of widgets: most do not show
	}
	set, known, ok := s.told(key, in)
	switch {
	case !known:
		s.refuse(file, in.failed(), "%s is not a property of GTK %d", key, s.Generation)
		s.Notes[len(s.Notes)-1].Unknown = key
	case !ok && in.silent:
		s.note(file, t.line, "%s: %q does not count", key, written(words[min(2, len(words)):]))
	case !ok || !in.done():
		s.refuse(file, in.failed(), "%s: %q does not count", key, written(words[min(2, len(words)):]))
	default:
		if in.complains > 0 {
			s.refuse(file, in.complains, "%s: %q has no size where it should; it is taken all the same", key, written(words[min(2, len(words)):]))
		}
		for _, p := range set {
			tells = append(tells, declaration{p.property, p.value, file, t.line})
		}
	}
	return tells
}

// told reads what a declaration says after the name of its property.
func (s *Sheet) told(key string, in *reader) (set []told, known, ok bool) {
	switch {
	case s.Generation == 3 && key == "engine": // there are none any more
		_, ok := in.colonThen("none")
		return nil, true, ok
	case s.Generation == 3 && (key == "-gtk-key-bindings" || key == "gtk-key-bindings"):
		_, ok := in.colonThen("none")
		for !ok {
			if t := in.peek(); t.kind != css.IdentToken || !s.bindings[t.text] {
				return nil, true, false
			}
			in.at++
			ok = !in.take(",")
		}
		return nil, true, true
	}
	return readProperty(key, in)
}

// colonThen goes past a colon, and a word if it is next.
func (r *reader) colonThen(word string) (string, bool) {
	if !r.take(":") {
		return "", false
	}
	return r.word(word)
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
