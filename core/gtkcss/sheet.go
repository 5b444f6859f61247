// Package gtkcss reads the style sheets of GTK 3 and 4 themes and computes the
// style of a node, given by its path from the window down. The syntax is CSS
// (css-syntax-3, selectors-3) with GTK's own named colours and colour
// functions (GTK 3 reference, "GTK CSS Overview" and "GTK CSS Properties").
//
// Covered are colours, backgrounds of one colour or a linear gradient, borders,
// corners, padding and least sizes. Pictures, shadows and transitions are read
// over.
package gtkcss

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path"
	"strings"

	"github.com/tdewolff/parse/v2"
	"github.com/tdewolff/parse/v2/css"
)

// ErrSheet: the text is no style sheet.
var ErrSheet = errors.New("the style sheet cannot be read")

// Sheet is a style sheet.
type Sheet struct {
	rules   []rule // in the order they are written
	colours map[string]string
	deep    int // of imports
}

type rule struct {
	selector selector
	name     string // of the property
	value    string
	order    int
}

// MostImports bounds how deep sheets may import each other.
const mostImports = 16

// Parse reads a style sheet that imports nothing.
func Parse(text []byte) (*Sheet, error) {
	s := &Sheet{colours: map[string]string{}}
	return s, s.read(text, nil, "")
}

// Load reads a style sheet and those it imports. A missing import is read over,
// as GTK does with a warning.
func Load(fsys fs.FS, name string) (*Sheet, error) {
	text, err := fs.ReadFile(fsys, name)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrSheet, err)
	}
	s := &Sheet{colours: map[string]string{}}
	return s, s.read(text, fsys, name)
}

// Colour returns what a named colour is defined as, resolved.
func (s *Sheet) Colour(name string) (Colour, bool) {
	text, ok := s.colours[name]
	if !ok {
		return Colour{}, false
	}
	return s.colour(text, Colour{}, 0)
}

func (s *Sheet) read(text []byte, fsys fs.FS, name string) error {
	p := css.NewParser(parse.NewInput(bytes.NewReader(text)), false)
	var selectors []selector
	var pending strings.Builder // of a selector list
	skip := 0                   // inside an at-rule that is read over
	for {
		grammar, _, data := p.Next()
		switch grammar {
		case css.ErrorGrammar:
			if errors.Is(p.Err(), io.EOF) {
				return nil
			}
			if p.HasParseError() { // of one declaration: the rest still counts
				continue
			}
			return fmt.Errorf("%w: %w", ErrSheet, p.Err())
		case css.AtRuleGrammar:
			s.at(string(data), values(p.Values()), fsys, name)
		case css.BeginAtRuleGrammar:
			skip++
		case css.EndAtRuleGrammar:
			skip--
		case css.QualifiedRuleGrammar:
			pending.WriteString(values(p.Values()))
			pending.WriteByte(',')
		case css.BeginRulesetGrammar:
			pending.WriteString(values(p.Values()))
			selectors = parseSelectors(pending.String())
			pending.Reset()
		case css.EndRulesetGrammar:
			selectors = nil
		case css.DeclarationGrammar, css.CustomPropertyGrammar:
			if skip > 0 {
				continue
			}
			for _, sel := range selectors {
				s.rules = append(s.rules, rule{sel, strings.ToLower(string(data)), values(p.Values()), len(s.rules)})
			}
		}
	}
}

func values(tokens []css.Token) string {
	var b strings.Builder
	for _, t := range tokens {
		b.Write(t.Data)
	}
	return strings.TrimSpace(b.String())
}

func (s *Sheet) at(keyword, value string, fsys fs.FS, name string) {
	switch keyword {
	case "@define-color":
		key, colour, ok := strings.Cut(value, " ")
		if ok {
			s.colours[key] = strings.TrimSpace(colour)
		}
	case "@import":
		file := strings.Trim(strings.TrimSuffix(strings.TrimPrefix(value, "url("), ")"), `"' `)
		if fsys == nil || s.deep >= mostImports || strings.Contains(file, ":") {
			return
		}
		at := path.Join(path.Dir(name), file)
		if text, err := fs.ReadFile(fsys, at); err == nil {
			s.deep++
			_ = s.read(text, fsys, at) // what can be read of it counts
			s.deep--
		}
	}
}
