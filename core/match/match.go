// Package match holds the readings of a desk against an outfit: what follows,
// what does not, why, and what to do about it.
package match

import (
	"cmp"
	"errors"
	"fmt"
	"path"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/reading"
)

// State is how a surface stands to what is wanted of it.
type State string

const (
	Follows  State = "follows"
	Differs  State = "differs"   // it shows something else
	Broken   State = "broken"    // it is told a name it cannot use
	Pending  State = "pending"   // set, and shows after a restart
	Unasked  State = "unasked"   // nothing is wanted of this facet
	NotHere  State = "not-here"  // the surface has no such facet
	NotFound State = "not-found" // what is wanted is not where this surface looks
	// The surface knows nothing like it.
	CannotFollow State = "cannot-follow"
)

// Cell is one surface held against one facet.
type Cell struct {
	Surface desk.Surface
	Facet   string
	Want    string
	State   State
	Reading reading.Reading
	Cause   string // one sentence; "" if the surface follows
	Code    reading.Code
	Note    string // of what keeps nothing from following, but is good to know
	Remedy  Remedy
}

// Causes besides those of a reading's problem.
const (
	Overruled    reading.Code = "overruled"      // something stronger says otherwise
	SwitchedOff  reading.Code = "switched-off"   // what would make it follow is not switched on
	NeedsRestart reading.Code = "needs-restart"  // it is told, and shows what it loaded before
	SetAgain     reading.Code = "set-again"      // something sets it otherwise at sign-in
	Shadowed     reading.Code = "shadowed"       // another piece of that name comes first
	GrantTooWide reading.Code = "grant-too-wide" // a sandboxed program sees more than it needs
	// It is set in a file that only an administrator may write.
	NeedsAdministrator reading.Code = "needs-administrator"
)

// Remedy is what would mend a cell.
type Remedy struct {
	Kind string // "", draft, restart, install, mend
	Text string
}

// Finding is a cell that is not as wanted, in the form the command line prints.
type Finding struct {
	Surface string `json:"surface"`
	Facet   string `json:"facet"`
	Code    string `json:"code"`
	Cause   string `json:"cause"`
	Remedy  string `json:"remedy"`
}

// Thread is a facet across all surfaces.
type Thread struct {
	Facet, Title, Want string
	Cells              []Cell
}

// Whole reports whether every surface that has the facet follows.
func (t Thread) Whole() bool {
	for _, c := range t.Cells {
		if c.State != Follows && c.State != NotHere && c.State != CannotFollow {
			return false
		}
	}
	return true
}

// Board is the match board of a desk.
type Board struct {
	Threads []Thread
}

// Thread returns the thread of a facet.
func (b Board) Thread(facet string) Thread {
	for _, t := range b.Threads {
		if t.Facet == facet {
			return t
		}
	}
	return Thread{}
}

// Of holds a desk against an outfit. Facets the outfit leaves open are held
// against themselves: they are only found wanting if a surface cannot use what
// it is told.
func Of(d *desk.Desk, o outfit.Outfit) Board {
	d = d.Glance()
	var b Board
	for _, f := range desk.Facets {
		t := Thread{Facet: f.Name, Title: f.Title, Want: o.Want(f.Name)}
		for _, s := range d.Surfaces {
			t.Cells = append(t.Cells, Hold(d, s, f.Name, t.Want))
		}
		b.Threads = append(b.Threads, t)
	}
	return b
}

// Hold holds one surface against what an outfit wants of a facet; "" is nothing.
func Hold(d *desk.Desk, s desk.Surface, facet, want string) Cell {
	d = d.Glance()
	c := Cell{Surface: s, Facet: facet, Want: want}
	f, ok := s.Facet(facet)
	if !ok {
		c.State = NotHere
		return c
	}
	r := reading.Of(d, s, f)
	c.Reading = r
	if len(r.Copies) > 0 {
		c.Code = Shadowed // if nothing worse is found
		c.Note = fmt.Sprintf("There is more than one %s: that in %s is used, and that in %s is shadowed by it.", r.Value, d.Show(path.Dir(r.Resolved)), d.Show(path.Dir(r.Copies[0])))
	}
	if wide := reading.TooWide(d, f.Lookup); len(wide) > 0 {
		c.Code = GrantTooWide
		c.Note = fmt.Sprintf("%s may look into all of %s, which is more than it needs. Take that out of %s, and a plan grants the folder of each piece alone.", s.Title, d.Show(wide[0]), d.Show(d.Expand(f.Lookup.Grants.Path)[0]))
	}
	for _, step := range r.Chain {
		if step.State == reading.SignIn && !reading.Same(f, step.Value, r.Value) {
			c.Code = SetAgain
			c.Note = fmt.Sprintf("At the next sign-in it will be %s: %s, line %d, sets it then. Take that out to keep %s.", step.Value, d.Show(step.Path), step.Line, quoteEmpty(r.Value))
		}
	}
	if want == "" {
		c.State = Unasked
		if r.Problem != nil {
			c.State, c.Cause, c.Code = Broken, r.Problem.Text, r.Problem.Code
			c.Remedy = Remedy{"draft", r.Problem.Remedy}
		}
		return c
	}
	switch err := reading.Check(d, s, f, want); {
	case errors.As(err, new(*reading.ValueError)):
		c.State, c.Cause = CannotFollow, fmt.Sprintf("%s cannot follow: %v.", s.Title, err)
		return c
	case err != nil:
		p := reading.Why(d, s, f, want)
		c.State, c.Cause, c.Code = NotFound, p.Text, p.Code
		c.Remedy = Remedy{"install", p.Remedy}
		if p.Code == reading.GrantMissing && reading.Grantable(d, f.Lookup, want) != "" {
			c.Remedy = Remedy{"draft", p.Remedy + " A plan for " + want + " does so."}
		}
		return c
	}
	switch {
	case r.Problem != nil && r.Problem.Code == "broken-source":
		c.State, c.Cause, c.Code = Broken, r.Problem.Text, r.Problem.Code
		c.Remedy = Remedy{"mend", fmt.Sprintf("Open %s and mend or remove the line; then look again.", brokenAt(d, r))}
	case !reading.Same(f, r.Value, want):
		c.State = Differs
		c.Cause, c.Code = fmt.Sprintf("%s says %s.", where(d, r.Source), quoteEmpty(r.Value)), Overruled
		if off := reading.Switch(d, s, f); off != "" && r.Source.Kind == "default" {
			c.Cause, c.Code = off, SwitchedOff
		}
		c.Remedy = Remedy{"draft", "Put " + want + " on the draft, review and apply."}
		if at := setIn(d, f); at != "" && !d.Mine(at) {
			c.Code = NeedsAdministrator
			c.Remedy.Text = "Only an administrator may set it, in " + at + ": put " + want + " on the draft, review, and hand that part over."
		}
	case r.Pending != "":
		c.State, c.Code = Pending, NeedsRestart
		c.Cause = fmt.Sprintf("It still shows %s, which it loaded before the change.", quoteEmpty(r.Loaded))
		if r.Loaded == "" {
			c.Cause = "Programs that were running when it was changed show what was there before."
		}
		c.Remedy = Remedy{"restart", fmt.Sprintf("Restart the %s.", r.Pending)}
	case r.Problem != nil:
		c.State, c.Cause, c.Code = Broken, r.Problem.Text, r.Problem.Code
		c.Remedy = Remedy{"install", r.Problem.Remedy}
	default:
		c.State = Follows
	}
	return c
}

// setIn is the file in which a plan sets a facet, "" if it is in none.
func setIn(d *desk.Desk, f desk.Facet) string {
	for _, src := range f.Sources {
		if src.Write && src.Path != "" {
			return d.Expand(src.Path)[0]
		}
	}
	return ""
}

func where(d *desk.Desk, o reading.Origin) string {
	switch {
	case o.Kind == "default":
		return "Nothing is set, and the program's own default"
	case o.Kind == "setting" && o.Path == "":
		return "The setting " + o.Key + ", which a provider keeps on the display,"
	case o.Kind == "setting" && o.Line == 0:
		return fmt.Sprintf("The desktop's setting %s, in %s,", o.Key, d.Show(o.Path))
	case o.Kind == "env" && o.Path == "":
		return "The variable " + o.Key + " of the session"
	case o.Kind == "env":
		return fmt.Sprintf("The variable %s, which %s sets in line %d,", o.Key, d.Show(o.Path), o.Line)
	case o.Line > 0:
		return fmt.Sprintf("%s, line %d,", d.Show(o.Path), o.Line)
	}
	return d.Show(o.Path)
}

func brokenAt(d *desk.Desk, r reading.Reading) string {
	for _, s := range r.Chain {
		if s.State == reading.Broken {
			return fmt.Sprintf("%s at line %d", d.Show(s.Path), max(s.Line, 1))
		}
	}
	return "the file"
}

func quoteEmpty(s string) string {
	if s == "" {
		return "nothing"
	}
	return s
}

// Findings lists what is not as wanted.
func (b Board) Findings() []Finding {
	out := []Finding{}
	for _, t := range b.Threads {
		for _, c := range t.Cells {
			switch c.State {
			case Follows, Unasked, NotHere, CannotFollow:
				continue
			}
			out = append(out, Finding{c.Surface.ID, c.Facet, string(cmp.Or(c.Code, reading.Code(c.State))), c.Cause, c.Remedy.Text})
		}
	}
	return out
}
