package gtkrc

import (
	"slices"
	"strings"
)

// glob matches a text against a pattern in which * stands for any letters and ?
// for one (GLib, GPatternSpec).
func glob(pattern, text string) bool {
	// Both walked once, going back to the last star when something does not fit.
	p, t, star, from := 0, 0, -1, 0
	for t < len(text) {
		switch {
		case p < len(pattern) && pattern[p] == '*':
			star, from = p, t
			p++
		case p < len(pattern) && (pattern[p] == '?' || pattern[p] == text[t]):
			p, t = p+1, t+1
		case star >= 0:
			from++
			p, t = star+1, from
		default:
			return false
		}
	}
	return strings.Trim(pattern[p:], "*") == ""
}

// fitsPath matches names joined by dots. In a pattern of classes <Type> stands
// for a class that is one of that type, see types.
func fitsPath(pattern string, names []string, types map[string][]string) bool {
	if types == nil || !strings.Contains(pattern, "<") {
		return glob(pattern, strings.Join(names, "."))
	}
	return fitsParts(partsOf(pattern), "", names, types)
}

// part of a pattern: a type, or else text with stars.
type part struct {
	text   string
	isType bool
}

func partsOf(pattern string) []part {
	var out []part
	for {
		open := strings.IndexByte(pattern, '<')
		if open < 0 {
			break
		}
		shut := strings.IndexByte(pattern[open:], '>')
		if shut < 0 {
			break
		}
		if open > 0 {
			out = append(out, part{text: pattern[:open]})
		}
		out = append(out, part{pattern[open+1 : open+shut], true})
		pattern = pattern[open+shut+1:]
	}
	if pattern != "" {
		out = append(out, part{text: pattern})
	}
	return out
}

// fitsParts matches what is left of a path, which begins with lead, "." once a
// class was matched and another follows.
func fitsParts(parts []part, lead string, names []string, types map[string][]string) bool {
	if len(parts) == 0 {
		return len(names) == 0
	}
	is := func(class, of string) bool { return slices.Contains(types[class], of) }
	if parts[0].isType {
		return len(names) > 0 && is(names[0], parts[0].text) && fitsParts(parts[1:], ".", names[1:], types)
	}
	if len(parts) == 1 {
		if len(names) == 0 {
			lead = ""
		}
		return glob(parts[0].text, lead+strings.Join(names, "."))
	}
	before := lead
	for i, class := range names {
		if is(class, parts[1].text) && glob(parts[0].text, before) && fitsParts(parts[2:], ".", names[i+1:], types) {
			return true
		}
		before += class + "."
	}
	return false
}
