package reading

import (
	"fmt"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/say"
)

// Follows reports whether the session makes a surface follow the one that a
// source names; the error names what is not installed for it.
func Follows(d *desk.Desk, src desk.Source) (bool, error) {
	_, met, err := leads(d, src)
	return met, err
}

// leads returns the variable that makes a surface follow another.
func leads(d *desk.Desk, src desk.Source) (v desk.Variable, met bool, err error) {
	if len(src.When) == 0 {
		return desk.Variable{}, true, nil
	}
	for _, when := range src.When {
		v, _ := d.Var(when.Key)
		there := when.File == "" || len(glob(d, when.File)) > 0
		if !there && err == nil {
			err = say.Errorf("there is no %s", when.File)
		}
		for word := range strings.SplitSeq(v.Value, ":") {
			if slices.ContainsFunc(when.Words, func(w string) bool { return strings.EqualFold(w, word) }) && there {
				return v, true, nil
			}
		}
	}
	return desk.Variable{}, false, err
}

// maxLeaders bounds how many surfaces can follow one another.
const maxLeaders = 6

// Circles reports whether the one that a surface follows follows it in turn, by
// whatever way, or leads on too far: then it is not followed.
func Circles(d *desk.Desk, s desk.Surface, facet string, src desk.Source) bool {
	return desk.Once(d, fmt.Sprintf("circles %q %q %q", s.ID, src.Path, facet), func() bool {
		return leadsOn(d, src.Path, s.ID, facet, 1)
	})
}

func leadsOn(d *desk.Desk, from, to, facet string, far int) bool {
	if from == to || far > maxLeaders {
		return true
	}
	s, _ := d.Surface(from)
	f, _ := s.Facet(facet)
	return slices.ContainsFunc(f.Sources, func(src desk.Source) bool {
		return src.Format == "follows" && leadsOn(d, src.Path, to, facet, far+1)
	})
}

// follow tells what another surface is told, if this one follows it.
func follow(d *desk.Desk, follower desk.Surface, f desk.Facet, src desk.Source) []Link {
	s, ok := d.Surface(src.Path)
	if !ok {
		return nil
	}
	if Circles(d, follower, f.Name, src) {
		return []Link{Link{Origin: originOf(src), State: Broken}.noted(say.Of("reading/step/would-follow-itself-way", follower.Title, s.Named()))}
	}
	of, ok := s.Facet(f.Name)
	if !ok {
		return nil
	}
	v, met, err := leads(d, src)
	step := Link{Origin: Origin{Kind: "env", Path: v.File, Line: v.Line, Key: v.Name}, State: Silent}
	switch {
	case met && len(src.When) == 0:
		return Told(d, s, of).Chain
	case met:
		step.say(say.Of("reading/step/so-follows-are-told", v.Value, s.Named()))
		r := Told(d, s, of)
		for i := range r.Chain { // what leaves it to the next
			if slices.Contains(src.Leaves, r.Value) && (r.Chain[i].State == Wins || r.Chain[i].State == Overruled) {
				r.Chain[i].State = Silent
			}
		}
		return append([]Link{step}, r.Chain...)
	case err != nil:
		step.say(say.Of("reading/step/following-takes-what-not-installed", s.Named(), err))
	default:
		step.say(say.Of("reading/step/does-not-make-follow", s.Named()))
	}
	step.Key = src.When[0].Key
	return []Link{step}
}
