package match

import (
	"cmp"
	"slices"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/say"
)

// NextStep is one thing to do so that more of a desk is as wanted.
type NextStep struct {
	Kind     FixKind
	Restart  string         // of a restart: program, shell, session, machine
	Facet    string         // of what is to be put on the draft
	Want     string         // the same
	Surfaces []desk.Surface // that it is about
	Text     string         // of any other: what to do
	Tells    say.Message    // what Text says
	Path     string         // that it changes, if it has a plan of its own
	At       string         // the facet whose cell has that plan
	Cells    int            // that would be as wanted then
	Weight   int            // how much of them shows
	Grave    bool           // without it a login screen or a shell may stay black
}

// SaidBy tells whether an outfit says already, for all the surfaces that a step is
// about, what it would put on a draft.
func (s NextStep) SaidBy(o outfit.Outfit) bool {
	return s.Facet != "" && !slices.ContainsFunc(s.Surfaces, func(of desk.Surface) bool { return o.WantOn(of.ID, s.Facet) != s.Want })
}

// Score is how much of what is asked a desk shows, by how much of it one sees.
type Score struct {
	Has, Of       int // weight
	Follow, Asked int // cells
}

// Percent is the score as a share of 100; a desk that is asked nothing has all.
func (s Score) Percent() int {
	if s.Of == 0 {
		return 100
	}
	return 100 * s.Has / s.Of
}

// How much of a screen surfaces and facets take, against each other: common
// practice, no source.
var (
	kindShows  = map[string]int{"shell": 3, "toolkit": 3, "display": 2, "frames": 2, "sandbox": 1, "login": 1}
	facetShows = map[string]int{
		desk.FacetBackdrop: 5, desk.FacetWidgets: 4, desk.FacetDark: 4, desk.FacetIcons: 3, desk.FacetFont: 3, desk.FacetBar: 3,
		desk.FacetAccent: 2, desk.FacetPointer: 2, desk.FacetPointerSize: 2, desk.FacetLogin: 2,
	}
)

func (c Cell) weight() int {
	return cmp.Or(kindShows[c.Surface.Kind], 1) * cmp.Or(facetShows[c.Facet], 1)
}

// Score weighs what is as wanted against all that is asked and could be.
func (b Board) Score() Score {
	var s Score
	for _, t := range b.Threads {
		for _, c := range t.Cells {
			switch c.State {
			case NotHere, Unasked, CannotFollow, Excepted:
				continue
			case Follows:
				s.Has += c.weight()
				s.Follow++
			}
			s.Of += c.weight()
			s.Asked++
		}
	}
	return s
}

var restarts = []string{"program", "shell", "session", "machine"}

// Next lists what to do, each thing once: first what a screen may stay black without, then
// what would show most; restarts come last, in the order in which to make them, for what is set before
// them shows with them.
func (b Board) Next() []NextStep {
	var out []NextStep
	for _, t := range b.Threads {
		for _, c := range t.Cells {
			if c.Remedy.Kind != "" && c.State != Follows {
				out = takeStep(out, c, c.Remedy, c.weight())
			}
			for _, a := range c.Asides {
				out = takeStep(out, c, a.Remedy, 1)
			}
		}
	}
	slices.SortStableFunc(out, func(a, b NextStep) int {
		return cmp.Or(
			cmp.Compare(bit(b.Grave), bit(a.Grave)),
			cmp.Compare(slices.Index(restarts, a.Restart), slices.Index(restarts, b.Restart)),
			cmp.Compare(b.Weight, a.Weight),
		)
	})
	return out
}

// stays reports whether the surface may stay black as it is: a login screen or a shell that
// cannot use the theme it is drawn by.
func (c Cell) stays() bool {
	drawn := c.Surface.Kind == "login" && c.Facet == desk.FacetLogin || c.Surface.Kind == "shell" && c.Facet == desk.FacetBar
	return drawn && (c.State == Broken || c.State == NotFound)
}

func bit(b bool) int {
	if b {
		return 1
	}
	return 0
}

// takeStep adds what a remedy asks for to the steps, once for all cells.
func takeStep(out []NextStep, c Cell, r Fix, weight int) []NextStep {
	step := NextStep{Kind: r.Kind, Text: r.Text, Tells: r.Says, Path: r.Path}
	switch {
	case r.Kind == ByRestart:
		step.Restart, step.Text = c.Reading.Pending, ""
	case r.Kind == ByDraft && r.Want != "":
		step.Facet, step.Want, step.Text = r.Facet, r.Want, ""
	case r.Planned():
		step.At = c.Facet
	}
	i := slices.IndexFunc(out, func(o NextStep) bool {
		return o.Kind == step.Kind && o.Restart == step.Restart && o.Facet == step.Facet && o.Want == step.Want && o.Text == step.Text && o.Path == step.Path
	})
	if i < 0 {
		i = len(out)
		out = append(out, step)
	}
	out[i].Cells++
	out[i].Weight += weight
	out[i].Grave = out[i].Grave || c.stays()
	if !slices.ContainsFunc(out[i].Surfaces, func(s desk.Surface) bool { return s.ID == c.Surface.ID }) {
		out[i].Surfaces = append(out[i].Surfaces, c.Surface)
	}
	return out
}

// Titles names the surfaces.
func (t NextStep) Titles() say.Message {
	var out []say.Message
	for _, s := range t.Surfaces {
		out = append(out, s.Among())
	}
	return say.Join(", ", out...)
}
