package reading

import (
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/fontbook"
	"ivelt/core/say"
)

// askFonts asks fontconfig's configuration: for a family which is taken, or what
// is said of rendering the one that is.
func askFonts(d *desk.Desk, f desk.Facet, src desk.Source) []Link {
	own := d.First(src.Path)
	c := fontbook.Config(d)
	if c == nil {
		return []Link{{Origin: Origin{Kind: "file", Path: "/etc/fonts/fonts.conf", Key: src.Key}, State: Absent}}
	}
	book := fontbook.Of(d, f.Lookup.Folders)
	taken, ok := instead(d, f.Lookup, src.Group)
	var out []Link
	for _, note := range c.Notes {
		out = append(out, Link{Origin: Origin{Kind: "file", Path: note.File, Key: src.Key}, State: Broken, Note: note.Text})
	}
	if src.Key != "family" {
		var families []string
		if ok {
			families = taken.Families
		}
		for _, said := range c.Rendered(src.Group, families)[src.Key] {
			step := Link{Origin: Origin{Kind: "file", Path: said.File, Line: said.Line, Key: src.Key}}.heard(f, src, said.Value)
			if step.State == Silent { // the first there is counts
				step.State = Wins
			}
			out = append(out, step)
		}
	} else if ok {
		seen := map[string]bool{}
		for _, family := range c.Families(src.Group) {
			if family.Line == 0 || seen[strings.ToLower(family.Name)] {
				continue
			}
			seen[strings.ToLower(family.Name)] = true
			step := Link{Origin: Origin{Kind: "file", Path: family.File, Line: family.Line, Key: src.Group}, State: Overruled, Value: family.Name}
			switch {
			case slices.ContainsFunc(taken.Families, func(name string) bool { return strings.EqualFold(name, family.Name) }):
				step.State, step.Value = Wins, taken.Family()
			case !slices.ContainsFunc(out, func(s Link) bool { return s.State == Wins }):
				if _, has := book.Find(family.Name, 400, false); has {
					step.State = Overruled
					step.say(say.Of("reading/step/nearer-face-taken"))
				} else {
					step.State = Silent
					step.say(say.Of("reading/step/not-installed"))
				}
			}
			if out = append(out, step); step.State == Wins {
				break
			}
		}
		if !slices.ContainsFunc(out, func(s Link) bool { return s.State == Wins }) {
			out = append(out, Link{Origin: Origin{Kind: "default", Key: src.Group}, State: Wins, Value: taken.Family()}.noted(say.Of("reading/step/first-face-there")))
		}
	}
	if !slices.ContainsFunc(out, func(s Link) bool { return s.Path == own }) {
		state := Silent
		if !d.Exists(own) {
			state = Absent
		}
		out = slices.Insert(out, 0, Link{Origin: Origin{Kind: "file", Path: own, Key: src.Key}, State: state})
	}
	return out
}
