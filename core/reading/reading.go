// Package reading tells what each surface of a desk shows for a facet, worked
// out the way the surface's own program does it: which sources it asks in
// which order, which of them decides, and where the name then leads on disk.
package reading

import (
	"io/fs"
	"path"
	"slices"
	"time"

	"ivelt/core/desk"
	"ivelt/core/say"
)

// Reading is what one surface shows for one facet.
type Reading struct {
	Surface  string `json:"surface"`
	Facet    string `json:"facet"`
	Value    string `json:"value"`
	Source   Origin `json:"source"`
	Resolved string `json:"resolved"` // the piece's folder; "" if it is not found
	Pending  string `json:"pending"`  // what has to start again for Value to show; "" if nothing
	Loaded   string `json:"loaded,omitempty"`
	// Changed is when what decides was changed, if that was after signing in.
	Changed time.Time `json:"changed,omitzero"`
	Chain   []Link    `json:"chain"` // strongest source first
	// Copies are further pieces of that name, which the one found shadows.
	Copies  []string `json:"copies,omitempty"`
	Singles []Single `json:"singles,omitempty"` // what was set by itself and does not go with it
	Problem *Problem `json:"problem,omitempty"`
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
	SignIn    State = "sign-in"   // it sets it again at each sign-in
	NotAsked  State = "not-asked" // the program asks it on another kind of display only
	Broken    State = "broken"    // the program cannot read it and passes it over
)

// Link is one source of the chain.
type Link struct {
	Origin
	State State  `json:"state"`
	Value string `json:"value,omitempty"`
	Note  string `json:"note,omitempty"`

	Says say.Message `json:"says,omitzero"` // what the note says
	// Locked: an administrator does not let it be changed.
	Locked bool `json:"locked,omitempty"`
}

// Problem is what keeps a surface from showing what it was told.
type Problem struct {
	Code   Code   `json:"code"`
	Text   string `json:"text"`
	Remedy string `json:"remedy,omitempty"`
	At     string `json:"at,omitempty"` // where the piece lies, or what is missing

	Says say.Message `json:"says"`                 // what Text says
	Fix  say.Message `json:"remedy_says,omitzero"` // and what Remedy says
}

// problem puts what a problem says into words.
func problem(p Problem) *Problem {
	p.Text, p.Remedy = p.Says.String(), p.Fix.String()
	return &p
}

// say notes something on a step.
func (s *Link) say(m say.Message) { s.Says, s.Note = m, m.String() }

// noted is a step with something noted on it.
func (s Link) noted(m say.Message) Link {
	s.say(m)
	return s
}

// Code names a cause.
type Code string

const (
	NotFound       Code = "name-not-found"
	NotForThis     Code = "not-for-this"    // it is there, and has no part for the surface
	OtherFolder    Code = "other-folder"    // it lies where the surface does not look
	GrantMissing   Code = "grant-missing"   // it lies where the surface may not look
	BrokenPiece    Code = "broken-piece"    // it is there, and cannot be used
	BrokenSource   Code = "broken-source"   // a settings file cannot be read, and is passed over
	VariantMissing Code = "variant-missing" // it has no such variant as it is told to wear
	DarkMissing    Code = "dark-missing"    // it has no dark form, and the program leaves it in the dark
	EngineMissing  Code = "engine-missing"  // it needs a program that draws it, which is not installed
	OtherVersion   Code = "other-version"   // it was made for another version of the program
	LoginFails     Code = "login-fails"     // the login screen would not come up with it
	OldPicture     Code = "old-picture"     // it shows a picture that it has kept, and not the one that it is told
	StaysBlack     Code = "stays-black"     // the desk would show nothing with it
	NotSigned      Code = "not-signed"      // the system takes signed looks alone, and not this one
)

// All returns every reading of a desk, by surface and facet as the descriptors
// list them.
func All(d *desk.Desk) []Reading {
	d = d.Snapshot()
	out := []Reading{}
	for _, s := range d.Surfaces() {
		for _, f := range s.Facets {
			out = append(out, Of(d, s, f))
		}
	}
	return out
}

// Of reads one facet of one surface.
func Of(d *desk.Desk, s desk.Surface, f desk.Facet) Reading {
	d = d.Snapshot()
	r := Told(d, s, f)
	resolve(d, s, f, &r)
	if f.Places == nil {
		r.Singles = Singles(d, f)
	}
	return r
}

// Told reads what a surface is told, and not where the name leads.
func Told(d *desk.Desk, s desk.Surface, f desk.Facet) Reading {
	if f.Places != nil {
		return toldPlaces(d, s, f)
	}
	r := Reading{Surface: s.ID, Facet: f.Name}
	decided := false
	for _, src := range f.Sources {
		for _, step := range Ask(d, s, f, src) {
			switch {
			case step.State == Broken && !decided && r.Problem == nil:
				r.Problem = problem(Problem{
					Code: BrokenSource, Says: say.Of("reading/passes-over", s.Does("ignore", "ignores"), d.Show(step.Path), step.Note), At: step.Path,
					Fix: say.Of("reading/mend-or-take-out-line", max(step.Line, 1), d.Show(step.Path)),
				})
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
	last := Link{Origin: Origin{Kind: "default", Key: f.Name}, State: Overruled, Value: f.Default}.noted(say.Of("reading/step/what-program-uses-when-nothing"))
	if !decided {
		last.State = Wins
		r.Value, r.Source = f.Default, last.Origin
	}
	led := slices.ContainsFunc(r.Chain, func(step Link) bool { return step.Kind == "default" })
	if !led || !decided { // of one that is followed the chain has it already
		r.Chain = append(r.Chain, last)
	}
	if f.Loaded != nil {
		pending(d, s, f, &r)
	} else {
		changed(d, s, &r)
	}
	return r
}

// changed tells of a file that decides and was changed since the person signed
// in: what was running before has not read it. Where a session has to start
// again, it is pending.
func changed(d *desk.Desk, s desk.Surface, r *Reading) {
	began := d.Now().Started
	if began.IsZero() || r.Source.Path == "" {
		return
	}
	fi, err := fs.Stat(d.Tree(), desk.Name(r.Source.Path))
	if err != nil || !fi.ModTime().After(began) {
		return
	}
	r.Changed = fi.ModTime()
	if s.Restart == "session" && !(s.Kind == "display" && d.Now().Own) { // Ivelt's own shows it at once
		r.Pending = s.Restart
	}
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
	if f.Name == desk.FacetWidgets && inTheDark(d, s) {
		if sheet, dark, e := FindSheet(d, f.Lookup, r.Value, true); dark && e == nil {
			folder, err = path.Dir(path.Dir(sheet)), nil // the dark form is all it needs
		}
	}
	switch {
	case err == nil:
		r.Resolved = folder
		r.Copies = copies(d, f.Lookup, r.Value, folder)
		if r.Problem == nil {
			r.Problem = engineMissing(d, s, f.Lookup, r.Value)
		}
		if r.Problem == nil && r.Source.Kind == "env" {
			r.Problem = variantMissing(d, s, f.Lookup, *r)
		}
		if r.Problem == nil && f.Name == desk.FacetWidgets {
			r.Problem = darkMissing(d, s, f.Lookup, *r)
		}
	case r.Problem == nil:
		r.Problem = why(d, s, f, r.Value, err)
	}
}
