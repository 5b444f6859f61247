package planning

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// HandStep is a file that has to say something so that a look is worn.
type HandStep struct {
	Path     string      // as people write it; "a terminal" if the lines are commands
	Lines    string      // what it has to say, among what else it says
	Surfaces []string    // titles of those that read it
	Seen     plan.Effect // when they show it
}

// atPrompt stands for a terminal, in which a setting of GLib is made.
const atPrompt = "a terminal"

// ByHand says what the files of a desk have to say so that an outfit is worn, for
// those who write them themselves; in the order they are met. What no file says is
// not among them.
func ByHand(d *desk.Desk, o outfit.Outfit) []HandStep {
	d = d.Snapshot()
	b := builder{d: d, seen: d, outfit: o, plan: &plan.Plan{}, made: map[string]bool{}, told: map[string]bool{}, unsetting: map[string]bool{}}
	var out hand
	for _, s := range d.Surfaces() {
		for _, f := range s.Facets {
			want := o.WantOn(s.ID, f.Name)
			if want == "" || reading.Possible(d, s, f, want) != nil && reading.Grantable(d, f.Lookup, want) == "" {
				continue
			}
			sg, ok := b.sayByHand(s, f, want)
			if !ok {
				continue
			}
			out.add(sg)
			for _, src := range b.shaded(f) { // what is asked in the other shade
				if sg.at == atPrompt && src.Key != sg.key {
					sg.target, sg.key, sg.want = src, src.Key, b.inShade(s, f, src, want)
					sg.value = reading.Written(f, src, sg.want)
					out.add(sg)
				}
			}
		}
	}
	return slices.DeleteFunc(out, func(h HandStep) bool { return h.Lines == "" })
}

// saying is what one file, or a terminal, is to be told.
type saying struct {
	surface    desk.Surface
	facet      desk.Facet
	target     desk.Source
	at         string // as people write it
	key, value string
	want       string
}

// seenOf is when what is said is seen.
func seenOf(sg saying) plan.Effect {
	if sg.facet.Live {
		return plan.AtOnce
	}
	return plan.EffectOf(sg.surface.Restart)
}

// sayByHand is how a facet is told to a surface by hand; it is not ok if no file says it, or
// another that is told says it too.
func (b *builder) sayByHand(s desk.Surface, f desk.Facet, want string) (saying, bool) {
	target, why, _ := b.targetOf(s, f, want)
	sg := saying{surface: s, facet: f, target: target, key: target.Key, want: want}
	if lead := slices.IndexFunc(f.Sources, func(src desk.Source) bool { return src.Format == "follows" }); lead >= 0 {
		src := f.Sources[lead]
		if len(src.When) == 0 {
			return sg, false // it goes with another that is told
		}
		if _, err := reading.Follows(b.d, src); err != nil {
			return sg, false // what it takes is not installed
		}
		sg.target, why = desk.Source{Format: "env"}, say.Message{}
		sg.key, sg.value = src.When[0].Key, src.When[0].Words[0]
	}
	if why.Code != "" && (target.Format != "gsettings" || reading.Locked(b.d, s, f, target)) {
		return sg, false // at a terminal a setting can be made that is in no file
	}
	switch sg.target.Format {
	case "env":
		sg.value = cmp.Or(sg.value, reading.Written(f, sg.target, want))
		sg.at = b.d.Show(b.d.First(ownEnvironment))
	case "gsettings", "dconf":
		asked := slices.IndexFunc(f.Sources, func(src desk.Source) bool { return src.Format == "gsettings" && src.Key == sg.key })
		if asked < 0 {
			return sg, false
		}
		sg.target, sg.at = f.Sources[asked], atPrompt // by its schema, whatever keeps it
		sg.value = reading.Written(f, sg.target, want)
	default:
		sg.at = b.d.Show(reading.PlaceOf(b.d, s, sg.target, nil))
	}
	return sg, true
}

// hand are the steps so far.
type hand []HandStep

func (h *hand) add(sg saying) {
	i := slices.IndexFunc(*h, func(step HandStep) bool { return step.Path == sg.at })
	if i < 0 {
		*h = append(*h, HandStep{Path: sg.at, Seen: seenOf(sg)})
		i = len(*h) - 1
	}
	step := &(*h)[i]
	lines, err := sg.lines(step.Lines)
	if err != nil {
		return
	}
	step.Lines = lines
	if !slices.Contains(step.Surfaces, sg.surface.Title) {
		step.Surfaces = append(step.Surfaces, sg.surface.Title)
	}
}

// lines are those of a file with what is to be said in them.
func (sg saying) lines(so string) (string, error) {
	line := ""
	switch sg.target.Format {
	case "env":
		line = fmt.Sprintf("%s=%s\n", sg.key, sg.value)
	case "gsettings":
		line = fmt.Sprintf("gsettings set %s %s %s\n", sg.target.Group, sg.key, plan.Quote(sg.value))
	default:
		b, err := edited([]byte(so), sg.target, sg.facet, sg.want)
		return string(b), err
	}
	if strings.Contains(so, line) {
		return so, nil
	}
	return so + line, nil
}
