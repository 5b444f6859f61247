// Package reading tells what each surface of a desk shows for a facet, worked
// out the way the surface's own program does it: which sources it asks in
// which order, which of them decides, and where the name then leads on disk.
package reading

import (
	"errors"
	"fmt"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/fontbook"
	"ivelt/core/icontheme"
)

// Reading is what one surface shows for one facet.
type Reading struct {
	Surface  string   `json:"surface"`
	Facet    string   `json:"facet"`
	Value    string   `json:"value"`
	Source   Origin   `json:"source"`
	Resolved string   `json:"resolved"` // the piece's folder; "" if it is not found
	Pending  string   `json:"pending"`  // what has to start again for Value to show; "" if nothing
	Loaded   string   `json:"loaded,omitempty"`
	Chain    []Step   `json:"chain"` // strongest source first
	Problem  *Problem `json:"problem,omitempty"`
}

// Origin is where a value comes from.
type Origin struct {
	Kind string `json:"kind"` // file, env, setting, default
	Path string `json:"path,omitempty"`
	Line int    `json:"line,omitempty"` // 1-based
	Key  string `json:"key,omitempty"`
}

// State is what a source has to say.
type State string

const (
	Wins      State = "wins"
	Overruled State = "overruled"
	Silent    State = "silent"    // it is there but does not name the facet
	Absent    State = "absent"    // there is no such file
	NotAsked  State = "not-asked" // the program asks it on another kind of display only
	Broken    State = "broken"    // the program cannot read it and passes it over
)

// Step is one source of the chain.
type Step struct {
	Origin
	State State  `json:"state"`
	Value string `json:"value,omitempty"`
	Note  string `json:"note,omitempty"`
	// Locked: an administrator does not let it be changed.
	Locked bool `json:"locked,omitempty"`
}

// Problem is what keeps a surface from showing what it was told.
type Problem struct {
	Code string `json:"code"` // name-not-found, broken-piece, broken-source
	Text string `json:"text"`
}

// All returns every reading of a desk, by surface and facet as the descriptors
// list them.
func All(d *desk.Desk) []Reading {
	out := []Reading{}
	for _, s := range d.Surfaces {
		for _, f := range s.Facets {
			out = append(out, Of(d, s, f))
		}
	}
	return out
}

// Of reads one facet of one surface.
func Of(d *desk.Desk, s desk.Surface, f desk.Facet) Reading {
	r := Told(d, s, f)
	resolve(d, s, f, &r)
	return r
}

// Told reads what a surface is told, and not where the name leads.
func Told(d *desk.Desk, s desk.Surface, f desk.Facet) Reading {
	r := Reading{Surface: s.ID, Facet: f.Name}
	decided := false
	for _, src := range f.Sources {
		for _, step := range Ask(d, s, f, src) {
			switch {
			case step.State == Broken && !decided && r.Problem == nil:
				r.Problem = &Problem{"broken-source", fmt.Sprintf("%s passes over %s: %s.", s.Title, d.Show(step.Path), step.Note)}
			case step.State != Wins:
			case decided:
				step.State = Overruled
			default:
				decided = true
				r.Value, r.Source = step.Value, step.Origin
			}
			r.Chain = append(r.Chain, step)
		}
	}
	last := Step{Origin: Origin{Kind: "default", Key: f.Name}, State: Overruled, Value: f.Default, Note: "what the program uses when nothing else is said"}
	if !decided {
		last.State = Wins
		r.Value, r.Source = f.Default, last.Origin
	}
	r.Chain = append(r.Chain, last)
	if f.Loaded != nil {
		pending(d, s, f, &r)
	}
	return r
}

func pending(d *desk.Desk, s desk.Surface, f desk.Facet, r *Reading) {
	for _, step := range Ask(d, s, f, *f.Loaded) {
		if step.State != Wins {
			continue
		}
		r.Loaded = step.Value
		if !Same(f, step.Value, r.Value) {
			r.Pending = s.Restart
		}
		return
	}
}

func resolve(d *desk.Desk, s desk.Surface, f desk.Facet, r *Reading) {
	if f.Lookup.Kind == "" {
		return
	}
	folder, err := Find(d, f.Lookup, r.Value)
	if err == nil {
		r.Resolved = folder
		return
	}
	if r.Problem != nil {
		return
	}
	what := map[string]string{"icon-theme": "an icon pack", "theme": "a theme for it", "pointer": "a pointer set", "font": "a font", "picture": "a picture"}[f.Lookup.Kind]
	if errors.Is(err, icontheme.ErrNoIndex) || errors.Is(err, ErrNotThere) {
		if f.Lookup.Kind == "font" {
			family, _ := desk.SplitFont(r.Value)
			r.Problem = &Problem{"name-not-found", fmt.Sprintf("No folder %s searches has a font named %q.", s.Title, family)}
			if face, ok := fontbook.Of(d, f.Lookup.Folders).Instead(d, family, 400, false); ok {
				r.Problem.Text = strings.TrimSuffix(r.Problem.Text, ".") + ": fontconfig takes " + face.Family() + " in its stead."
			}
			return
		}
		if f.Lookup.Kind == "picture" {
			r.Problem = &Problem{"name-not-found", fmt.Sprintf("%s is told a picture that is not there, %q.", s.Title, r.Value)}
			return
		}
		r.Problem = &Problem{"name-not-found", fmt.Sprintf("No folder %s searches has %s named %q.", s.Title, what, r.Value)}
		return
	}
	r.Problem = &Problem{"broken-piece", fmt.Sprintf("%q cannot be used: %v.", r.Value, err)}
}
