package plan

import (
	"fmt"
	"slices"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/reading"
)

// HandStep is a file that has to say something so that a look is worn.
type HandStep struct {
	Path     string   // as people write it
	Lines    string   // what it has to say, among what else it says
	Surfaces []string // titles of those that read it
	Seen     Effect   // when they show it
}

// ByHand says what the files of a desk have to say so that an outfit is worn, for
// those who write them themselves; in the order they are met. What no file says is
// not among them.
func ByHand(d *desk.Desk, o outfit.Outfit) []HandStep {
	d = d.Glance()
	b := builder{d: d, seen: d, plan: &Plan{}, made: map[string]bool{}, told: map[string]bool{}, unsetting: map[string]bool{}}
	var out []HandStep
	for _, s := range d.Surfaces {
		for _, f := range s.Facets {
			want := o.WantOn(s.ID, f.Name)
			if want == "" || reading.Check(d, s, f, want) != nil && reading.Grantable(d, f.Lookup, want) == "" {
				continue
			}
			target, why, _ := b.targetOf(s, f, want)
			if why != "" || target.Format == "follows" {
				continue
			}
			at, lines := d.Show(reading.PlaceOf(d, s, target, nil)), []byte(nil)
			if target.Format == "env" {
				at = "the environment of your session"
			}
			i := slices.IndexFunc(out, func(h HandStep) bool { return h.Path == at })
			if i < 0 {
				out = append(out, HandStep{Path: at, Seen: EffectOf(s.Restart)})
				i = len(out) - 1
			}
			if target.Format == "env" {
				lines = fmt.Appendf([]byte(out[i].Lines), "%s=%s\n", target.Key, reading.Written(f, target, want))
			} else {
				var err error
				if lines, err = edited([]byte(out[i].Lines), target, f, want); err != nil {
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
