package main

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
)

// kind of a token.
type kind int

const (
	word    kind = iota // of the text
	open                // the start of an element
	closing             // its end
	void                // an element without an end
	action              // of the template, that writes something
	control             // of the template, that writes nothing itself
	raw                 // as it is, whitespace and all
)

type token struct {
	kind  kind
	name  string // of an element, or the first word of an action
	text  string
	block bool // whitespace around it does not show
	space bool // whitespace stands before it
	end   int  // of what it opens, the token that ends it; 0 for none
	start int  // of what ends, and of else: the token that opened it
	elses []int
}

// blocks are elements around which whitespace does not show: they stand by themselves, or
// have no place on the page.
var blocks = strings.Fields(`html head body title meta link script style div ul ol li section article aside header footer
	main nav p form fieldset legend h1 h2 h3 h4 table thead tbody tfoot tr td th details summary figure figcaption dl dt dd
	option select pre dialog template svg:g svg:path svg:rect svg:circle svg:defs svg:title svg:image svg:text svg:svg`)

// voids have no end.
var voids = strings.Fields(`area br hr img input link meta source wbr path rect circle line`)

var (
	actionStart = regexp.MustCompile(`^\{\{-?\s*`)
	actionEnd   = regexp.MustCompile(`\s*-?\}\}$`)
	assignment  = regexp.MustCompile(`^\$\w+\s*:?=`)
	blank       = regexp.MustCompile(`\s+`)
	asItIs      = regexp.MustCompile(`^<(pre|textarea)\b`) // in which every blank shows
)

// tokens splits a template. Trims of actions are taken off: what they trim is not there.
func tokens(s string) ([]token, error) {
	var out []token
	space, trimmed := false, false
	inSVG := 0
	add := func(t token) {
		t.space = space && !trimmed
		space, trimmed = false, false
		out = append(out, t)
	}
	for s != "" {
		switch {
		case strings.HasPrefix(s, "{{"):
			n := actionLength(s)
			if n < 0 {
				return nil, fmt.Errorf("an action does not end: %.40q", s)
			}
			a := s[:n]
			if strings.HasPrefix(a, "{{- ") || strings.HasPrefix(a, "{{-\n") {
				space = false
			}
			inner := spaced(actionEnd.ReplaceAllString(actionStart.ReplaceAllString(a, ""), ""))
			t := token{kind: action, text: "{{" + inner + "}}"}
			t.name, _, _ = strings.Cut(inner, " ")
			switch {
			case slices.Contains([]string{"if", "range", "with", "define", "block", "else", "end"}, t.name), assignment.MatchString(inner), strings.HasPrefix(inner, "/*"):
				t.kind = control
			}
			add(t)
			trimmed = strings.HasSuffix(a, "-}}")
			s = s[n:]
		case asItIs.MatchString(s):
			name := asItIs.FindStringSubmatch(s)[1]
			end := "</" + name + ">"
			n := strings.Index(s, end)
			if n < 0 {
				return nil, fmt.Errorf("a %s does not end", name)
			}
			n += len(end)
			add(token{kind: raw, name: name, text: s[:n], block: name == "pre"})
			s = s[n:]
		case strings.HasPrefix(s, "<!"):
			end := ">"
			if strings.HasPrefix(s, "<!--") {
				end = "-->"
			}
			n := strings.Index(s, end)
			if n < 0 {
				return nil, fmt.Errorf("it does not end: %.40q", s)
			}
			n += len(end)
			add(token{kind: raw, text: s[:n], block: true})
			s = s[n:]
		case s[0] == '<':
			n := tagLength(s)
			if n < 0 {
				return nil, fmt.Errorf("a tag does not end: %.40q", s)
			}
			t := tagOf(s[:n], inSVG > 0)
			if t.name == "svg" && t.kind != void {
				inSVG += map[kind]int{open: 1, closing: -1}[t.kind]
			}
			add(t)
			s = s[n:]
		case strings.ContainsRune(" \t\r\n", rune(s[0])):
			space = true
			s = strings.TrimLeft(s, " \t\r\n")
		default:
			n := strings.IndexAny(s[1:], " \t\r\n<{") + 1
			for n > 0 && s[n] == '{' && !strings.HasPrefix(s[n:], "{{") {
				more := strings.IndexAny(s[n+1:], " \t\r\n<{")
				if more < 0 {
					n = 0
					break
				}
				n += 1 + more
			}
			if n == 0 {
				n = len(s)
			}
			add(token{kind: word, text: s[:n]})
			s = s[n:]
		}
	}
	return out, match(out)
}

// actionLength is how long the action is that a text begins with; strings in it may hold
// brackets.
func actionLength(s string) int {
	quote := byte(0)
	for i := 2; i < len(s)-1; i++ {
		switch c := s[i]; {
		case quote != 0:
			if c == '\\' && quote == '"' {
				i++
			} else if c == quote {
				quote = 0
			}
		case c == '"' || c == '`':
			quote = c
		case c == '}' && s[i+1] == '}':
			return i + 2
		}
	}
	return -1
}

// tagLength is how long the tag is that a text begins with.
func tagLength(s string) int {
	quoted := false
	for i := 1; i < len(s); i++ {
		switch {
		case strings.HasPrefix(s[i:], "{{"):
			n := actionLength(s[i:])
			if n < 0 {
				return -1
			}
			i += n - 1
		case s[i] == '"':
			quoted = !quoted
		case s[i] == '>' && !quoted:
			return i + 1
		}
	}
	return -1
}

func tagOf(s string, inSVG bool) token {
	t := token{kind: open, text: s}
	body := strings.TrimSuffix(strings.TrimPrefix(strings.TrimPrefix(s, "<"), "/"), ">")
	self := strings.HasSuffix(body, "/")
	t.name = strings.ToLower(strings.FieldsFunc(body, func(r rune) bool { return strings.ContainsRune(" \t\n/>{", r) })[0])
	switch {
	case strings.HasPrefix(s, "</"):
		t.kind, t.text = closing, "</"+t.name+">"
	case self || slices.Contains(voids, t.name):
		t.kind = void
	}
	t.block = slices.Contains(blocks, t.name) || inSVG && slices.Contains(blocks, "svg:"+t.name) && t.name != "svg"
	if t.name == "input" && strings.Contains(body, `type="hidden"`) {
		t.block = true // it has no place
	}
	if t.kind != closing {
		t.text = "<" + strings.Join(attributes(body), " ") + ">"
	}
	return t
}

// attributes splits what is in a tag where whitespace stands outside of quotes and of
// conditions.
func attributes(s string) []string {
	var out []string
	at, quoted, depth := 0, false, 0
	flush := func(i int) {
		if part := strings.TrimSpace(s[at:i]); part != "" {
			out = append(out, part)
		}
		at = i
	}
	for i := 0; i < len(s); i++ {
		switch {
		case strings.HasPrefix(s[i:], "{{"):
			if !quoted && depth == 0 && i > 0 && s[i-1] == '"' {
				flush(i)
			}
			n := actionLength(s[i:])
			inner := actionStart.ReplaceAllString(s[i:i+n], "")
			switch first, _, _ := strings.Cut(strings.TrimSuffix(inner, "}}"), " "); first {
			case "if", "range", "with":
				depth++
			case "end":
				depth--
			}
			i += n - 1
		case s[i] == '"':
			quoted = !quoted
		case !quoted && depth == 0 && strings.ContainsRune(" \t\r\n", rune(s[i])):
			flush(i)
		}
	}
	flush(len(s))
	return out
}

// spaced writes every run of whitespace outside of strings as one blank.
func spaced(s string) string {
	var b strings.Builder
	for s != "" {
		i := strings.IndexAny(s, "\"`")
		if i < 0 {
			b.WriteString(blank.ReplaceAllString(s, " "))
			break
		}
		b.WriteString(blank.ReplaceAllString(s[:i], " "))
		j := strings.IndexByte(s[i+1:], s[i]) + i + 1
		for s[i] == '"' && j > i && s[j-1] == '\\' {
			j += 1 + strings.IndexByte(s[j+1:], '"')
		}
		b.WriteString(s[i : j+1])
		s = s[j+1:]
	}
	return b.String()
}

// match finds what ends what. An element that ends in another branch than it starts in is
// taken for one without contents.
func match(ts []token) error {
	var actions []int
	tags := [][]int{nil}
	for i := range ts {
		t := &ts[i]
		top := &tags[len(tags)-1]
		switch {
		case t.kind == control && slices.Contains([]string{"if", "range", "with", "define", "block"}, t.name):
			actions, tags = append(actions, i), append(tags, nil)
		case t.kind == control && (t.name == "else" || t.name == "end"):
			if len(actions) == 0 {
				return fmt.Errorf("%s ends nothing", t.text)
			}
			t.start = actions[len(actions)-1]
			if t.name == "else" {
				ts[t.start].elses = append(ts[t.start].elses, i)
				*top = nil
				continue
			}
			ts[t.start].end = i
			actions, tags = actions[:len(actions)-1], tags[:len(tags)-1]
		case t.kind == open:
			*top = append(*top, i)
		case t.kind == closing && len(*top) > 0:
			last := (*top)[len(*top)-1]
			if ts[last].name == t.name {
				ts[last].end, t.start = i, last
				*top = (*top)[:len(*top)-1]
			}
		}
	}
	if len(actions) > 0 {
		return fmt.Errorf("%s does not end", ts[actions[len(actions)-1]].text)
	}
	return nil
}
