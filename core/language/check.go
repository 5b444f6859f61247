package language

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"ivelt/core/po"
)

// Marks finds what stands in a line of a page: {Name} for a value, <1> and </1> for an element.
var Marks = regexp.MustCompile(`</?[0-9]+>|\{[A-Za-z0-9]+\}`)

// verbs are what stands in a message for its arguments (package fmt).
var verbs = regexp.MustCompile(`%(?:%|[-+# 0]*(?:\[(\d+)\])?[0-9.]*(?:\[(\d+)\])?([a-zA-Z]))`)

// Bounds of what a translator may write for a text: so many letters, and so many times as long.
const (
	moreLetters = 300
	timesAsLong = 8
)

// turns are the letters that turn the direction of what stands beside them (UAX #9, 2). A page sets
// off what stands in a line by itself, and shows such letters as what they are.
const turns = "\u061c\u200e\u200f\u2028\u2029\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069"

// Check tells what is wrong with what a translator wrote: it has to have what stands in the text,
// each once, and nothing that changes what stands around it.
func Check(e po.Entry) error {
	var all error
	for i, said := range e.Text {
		if said == "" {
			continue
		}
		text := e.ID
		if e.Plural != "" && i > 0 {
			text = e.Plural
		}
		all = errors.Join(all, check(text, said, e.Context != "" || e.Plural != ""))
	}
	return all
}

func check(text, said string, formatted bool) error {
	if len(said) > moreLetters+timesAsLong*len(text) {
		return errors.New("it is far longer than the text")
	}
	if at := strings.IndexFunc(said, func(r rune) bool { return unicode.IsControl(r) || strings.ContainsRune(turns, r) }); at >= 0 {
		r, _ := utf8.DecodeRuneInString(said[at:])
		return fmt.Errorf("it has a letter that cannot be seen, %U", r)
	}
	if formatted {
		want, err := arguments(text)
		if err != nil {
			return err
		}
		has, err := arguments(said)
		if err != nil {
			return err
		}
		if !slices.Equal(want, has) {
			return fmt.Errorf("it needs each once: %s", strings.Join(want, " "))
		}
		return nil
	}
	return marked(text, said)
}

// arguments are those of a format, in order, with their verbs.
func arguments(format string) ([]string, error) {
	var out []string
	next := 1
	rest := verbs.ReplaceAllStringFunc(format, func(v string) string {
		m := verbs.FindStringSubmatch(v)
		if v == "%%" {
			return ""
		}
		for _, at := range m[1:3] {
			if n, err := strconv.Atoi(at); err == nil {
				next = n
			}
		}
		out = append(out, fmt.Sprintf("%%[%d]%s", next, m[3]))
		next++
		return ""
	})
	if strings.Contains(rest, "%") {
		return nil, errors.New("it has a % that stands for nothing; the sign itself is %%")
	}
	slices.Sort(out)
	return out, nil
}

// marked tells whether a line has the same marks, each once, and its elements end in the order in
// which they begin.
func marked(text, said string) error {
	want, has := Marks.FindAllString(text, -1), Marks.FindAllString(said, -1)
	var open []string
	for _, mark := range has {
		switch {
		case strings.HasPrefix(mark, "</"):
			if len(open) == 0 || open[len(open)-1] != "<"+mark[2:] {
				return fmt.Errorf("%s ends what does not begin before it", mark)
			}
			open = open[:len(open)-1]
		case mark[0] == '<':
			open = append(open, mark)
		}
	}
	slices.Sort(want)
	slices.Sort(has)
	if !slices.Equal(want, has) {
		return fmt.Errorf("it needs each once: %s", strings.Join(want, " "))
	}
	return nil
}
