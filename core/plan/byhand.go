package plan

import (
	"fmt"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/reading"
)

// HandStep is a file that has to say something so that a look is worn.
type HandStep struct {
	Path     string   // as people write it; "a terminal" if the lines are commands
	Lines    string   // what it has to say, among what else it says
	Surfaces []string // titles of those that read it
	Seen     Effect   // when they show it
}

// atPrompt stands for a terminal, in which a setting of GLib is made.
const atPrompt = "a terminal"

// ByHand says what the files of a desk have to say so that an outfit is worn, for
// those who write them themselves; in the order they are met. What no file says is
// not among them.
func ByHand(d *desk.Desk, o outfit.Outfit) []HandStep {
	d = d.Snapshot()
	b := builder{d: d, seen: d, plan: &Plan{}, made: map[string]bool{}, told: map[string]bool{}, unsetting: map[string]bool{}}
	var out []HandStep
	for _, s := range d.Surfaces {
		for _, f := range s.Facets {
			want := o.WantOn(s.ID, f.Name)
			if want == "" || reading.Check(d, s, f, want) != nil && reading.Grantable(d, f.Lookup, want) == "" {
				continue
			}
			target, why, _ := b.targetOf(s, f, want)
			key, value := target.Key, ""
			if lead := slices.IndexFunc(f.Sources, func(src desk.Source) bool { return src.Format == "follows" }); lead >= 0 {
				src := f.Sources[lead]
				if len(src.When) == 0 {
					continue // it goes with another that is told
				}
				if _, err := reading.Follows(d, src); err != nil {
					continue // what it takes is not installed
				}
				target, why = desk.Source{Format: "env"}, ""
				key, value = src.When[0].Key, src.When[0].Words[0]
			}
			if why != "" && (target.Format != "gsettings" || reading.Locked(d, s, f, target)) {
				continue // at a terminal a setting can be made that is in no file
			}
			at := d.Show(reading.PlaceOf(d, s, target, nil))
			if target.Format == "env" {
				if value == "" {
					value = reading.Written(f, target, want)
				}
				at = d.Show(d.First(ownEnvironment))
			}
			if target.Format == "gsettings" {
				at, value = atPrompt, reading.Written(f, target, want)
			}
			i := slices.IndexFunc(out, func(h HandStep) bool { return h.Path == at })
			if i < 0 {
				out = append(out, HandStep{Path: at, Seen: EffectOf(s.Restart)})
				i = len(out) - 1
			}
			lines := []byte(out[i].Lines)
			line := fmt.Sprintf("%s=%s\n", key, value)
			if target.Format == "gsettings" {
				line = fmt.Sprintf("gsettings set %s %s %s\n", target.Group, key, quote(value))
			}
			if target.Format == "env" || target.Format == "gsettings" {
				if !strings.Contains(out[i].Lines, line) {
					lines = append(lines, line...)
				}
			} else {
				var err error
				if lines, err = edited(lines, target, f, want); err != nil {
					continue
				}
			}
			out[i].Lines = string(lines)
			if !slices.Contains(out[i].Surfaces, s.Title) {
				out[i].Surfaces = append(out[i].Surfaces, s.Title)
			}
		}
	}
	return slices.DeleteFunc(out, func(h HandStep) bool { return h.Lines == "" })
}
