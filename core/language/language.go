// Package language is what Ivelt says in other languages than English: catalogues of messages
// (package po), the language that comes nearest to those a person reads, and two made-up ones that
// show how far a page can be said in another one.
package language

import (
	"cmp"
	_ "embed"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"

	bcp47 "golang.org/x/text/language"
	"golang.org/x/text/language/display"

	"ivelt/core/po"
)

//go:embed ivelt.pot
var template []byte

// Entries is all that Ivelt says, in English: what a translator fills in.
var Entries = sync.OnceValue(func() []po.Entry {
	c, err := po.Read(template)
	if err != nil {
		panic(err)
	}
	return c.Entries
})

// Template is the same as a file.
func Template() []byte { return template }

// Language is a language that Ivelt can be read in. nil is English.
type Language struct {
	Tag   string // as BCP 47 has it, "pt-BR"
	Title string // its name in itself
	words func() *po.Catalogue
	wrong map[[2]string]bool
	rtl   bool
}

// Problem is a message of a catalogue that is not used, and why.
type Problem struct {
	po.Entry
	Err error
}

// English is the tag of what everything is written in.
const English = "en"

// fromRight are the scripts that are written from right to left (Unicode, "Right-to-left scripts
// in use today", as CLDR's likely subtags name them).
var fromRight = strings.Fields("Adlm Arab Hebr Mand Nkoo Rohg Samr Syrc Thaa Yezi")

// Read reads a translator's catalogue. What is not right of it is left out and told: those
// messages stay English.
func Read(b []byte) (*Language, []Problem, error) {
	c, err := po.Read(b)
	if err != nil {
		return nil, nil, err
	}
	if c.Language == "" {
		return nil, nil, errors.New("the header of the catalogue does not say which language it is: a line Language is needed")
	}
	tag, err := bcp47.Parse(c.Language)
	if err != nil {
		return nil, nil, fmt.Errorf("the catalogue is of a language that is not known, %q", c.Language)
	}
	script, _ := tag.Script()
	l := &Language{Tag: tag.String(), words: func() *po.Catalogue { return c }, wrong: map[[2]string]bool{}, rtl: slices.Contains(fromRight, script.String())}
	l.Title = cmp.Or(madeUp[l.Tag], display.Self.Name(tag), l.Tag)
	var out []Problem
	for _, e := range c.Entries {
		if err := Check(e); err != nil {
			l.wrong[[2]string{e.Context, e.ID}] = true
			out = append(out, Problem{e, err})
		}
	}
	return l, out, nil
}

// Said is what is said for a text of Ivelt's, see [say.Language].
func (l *Language) Said(code, text, plural string, n int) (string, bool) {
	switch {
	case l == nil || l.wrong[[2]string{code, text}]:
		return "", false
	case plural != "":
		return l.words().GetN(code, text, n)
	}
	return l.words().Get(code, text)
}

// Made tells whether it is a made-up one.
func (l *Language) Made() bool { return l != nil && madeUp[l.Tag] != "" }

// Name is the tag, also of English.
func (l *Language) Name() string {
	if l == nil {
		return English
	}
	return l.Tag
}

// Short is the language alone, without its country: "pt".
func (l *Language) Short() string {
	base, _, _ := strings.Cut(l.Name(), "-")
	return base
}

// Direction is the way that it is written, "ltr" or "rtl".
func (l *Language) Direction() string {
	if l != nil && l.rtl {
		return "rtl"
	}
	return "ltr"
}

// Covers is how many of a number of messages it has.
func (l *Language) Covers() (has, of int) {
	for _, e := range Entries() {
		if _, ok := l.Said(e.Context, e.ID, e.Plural, 1); ok {
			has++
		}
	}
	return has, len(Entries())
}

// Choose is the language that comes nearest to what a person asks for, the first wish first: each
// a tag, or a list of them with weights as browsers send it (RFC 9110, 12.5.4). nil is English,
// also where nothing comes near. Made-up ones are taken only where they are asked for by name.
func Choose(all []*Language, wishes ...string) *Language {
	real := slices.ContainsFunc(all, func(l *Language) bool { return !l.Made() })
	for _, wish := range wishes {
		if !real && !strings.Contains(wish, Longer) && !strings.Contains(wish, Mirrored) {
			continue // as most desks have it
		}
		tags, _, err := bcp47.ParseAcceptLanguage(wish)
		if err != nil || len(tags) == 0 {
			continue
		}
		known, of := []bcp47.Tag{bcp47.English}, []*Language{nil}
		for _, l := range all {
			tag := bcp47.Make(l.Tag)
			if l.Made() {
				if tags[0] == tag {
					return l
				}
				continue
			}
			known, of = append(known, tag), append(of, l)
		}
		if _, i, sure := bcp47.NewMatcher(known).Match(tags...); sure > bcp47.Low {
			return of[i]
		}
	}
	return nil
}
