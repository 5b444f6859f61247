// Package match holds the readings of a desk against an outfit: what follows,
// what does not, why, and what to do about it.
package match

import (
	"cmp"
	"errors"
	"fmt"
	"hash/fnv"
	"io"
	"path"
	"slices"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/reading"
	"ivelt/core/say"
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
	Excepted State = "excepted"  // the outfit leaves it out
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
	Because say.Message
	Code    reading.Code
	Remedy  Fix
	Others  []Fix // that would do as well
	Asides  []Aside
	// Own: the outfit has a value for this surface alone.
	Own bool
}

// Aside is what keeps a surface from nothing, and is to be mended all the same.
type Aside struct {
	Code   reading.Code
	Text   string // one sentence or two
	Says   say.Message
	Remedy Fix
}

// Causes besides those of a reading's problem.
const (
	Overruled    reading.Code = "overruled"      // something stronger says otherwise
	SwitchedOff  reading.Code = "switched-off"   // what would make it follow is not switched on
	NeedsRestart reading.Code = "needs-restart"  // it is told, and shows what it loaded before
	SetAgain     reading.Code = "set-again"      // something sets it otherwise at sign-in
	Shadowed     reading.Code = "shadowed"       // another piece of that name comes first
	GrantTooWide reading.Code = "grant-too-wide" // a sandboxed program sees more than it needs
	OwnSetting   reading.Code = "own-setting"    // a setting of the program's own goes before what others follow
	SecondOne    reading.Code = "second-setting" // a setting that goes with another was forgotten
	StaleCache   reading.Code = "stale-cache"    // what programs remember of it is older than it
	WouldBeLost  reading.Code = "would-be-lost"  // an update of its package writes over what was changed
	NotMade      reading.Code = "not-made"       // a plan makes it for the surface from a piece that is there
	NotUp        reading.Code = "not-up"         // it is started and does not come up
	NotStarted   reading.Code = "not-started"    // nothing starts it at sign-in, so that it shows nothing
	// It is set in a file that only an administrator may write.
	NeedsAdministrator reading.Code = "needs-administrator"
)

// Fix is what would mend a cell.
type Fix struct {
	Kind  FixKind
	Text  string
	Says  say.Message
	Facet string // of a draft, with what is to be put on it
	Want  string // the same, and of what is to be said
	Path  string // of what is changed, a path of the desk
	Key   string // in it
}

// FixKind is how a remedy is carried out.
type FixKind string

const (
	ByDraft   FixKind = "draft"   // put something on the draft
	ByRestart FixKind = "restart" // start the program again
	ByInstall FixKind = "install" // put a piece in place
	ByHand    FixKind = "mend"    // by hand
	BySaying  FixKind = "say"     // make one source say something
	ByOut     FixKind = "out"     // take out what one source says
	ByRemove  FixKind = "remove"  // take something away: a copy, a cache
	ByNarrow  FixKind = "narrow"  // grant no more than is needed
	ByLink    FixKind = "link"    // put a link where it is looked for
	ByAdopt   FixKind = "adopt"   // put a copy into the person's own folder
	ByStart   FixKind = "start"   // have it started at sign-in
	ByUnstart FixKind = "unstart" // have it started at sign-in no longer
	ByForget  FixKind = "forget"  // let the system forget pictures that it has kept
	ByUnlock  FixKind = "unlock"  // unlock the system first
	ByNearest FixKind = "nearest" // let the surface have what it takes that comes nearest
)

// ID names a remedy among those of a cell by what it does, so that a page which was drawn
// before the desk changed never asks for another: eight hexadecimal digits.
func (r Fix) ID() string {
	h := fnv.New32a()
	for _, part := range []string{string(r.Kind), r.Facet, r.Want, r.Path, r.Key} {
		_, _ = io.WriteString(h, part+"\x00")
	}
	return fmt.Sprintf("%08x", h.Sum32())
}

// Planned reports whether a remedy has a plan of its own.
func (r Fix) Planned() bool {
	switch r.Kind {
	case BySaying, ByOut, ByRemove, ByNarrow, ByLink, ByAdopt, ByStart, ByForget, ByUnstart:
		return true
	}
	return false
}

// Finding is a cell that is not as wanted, in the form the command line prints.
type Finding struct {
	Surface string `json:"surface"`
	Facet   string `json:"facet"`
	Code    string `json:"code"`
	Cause   string `json:"cause"`
	Remedy  string `json:"remedy"`

	CauseSays  say.Message `json:"cause_says,omitzero"`
	RemedySays say.Message `json:"remedy_says,omitzero"`
}

// Thread is a facet across all surfaces.
type Thread struct {
	Facet string
	Title say.Word
	Want  string
	Cells []Cell
}

// Whole reports whether every surface that has the facet follows.
func (t Thread) Whole() bool {
	for _, c := range t.Cells {
		if !slices.Contains([]State{Follows, NotHere, CannotFollow, Excepted}, c.State) {
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

// Cell returns the cell of a surface and a facet.
func (b Board) Cell(surface, facet string) (Cell, bool) {
	for _, c := range b.Thread(facet).Cells {
		if c.Surface.ID == surface {
			return c, true
		}
	}
	return Cell{}, false
}

// Fixes are all remedies of a cell, the first one first, those of what is said
// aside last.
func (c Cell) Fixes() []Fix {
	var out []Fix
	if c.Remedy.Kind != "" {
		out = append(out, c.Remedy)
	}
	out = append(out, c.Others...)
	for _, a := range c.Asides {
		if a.Remedy.Kind != "" {
			out = append(out, a.Remedy)
		}
	}
	return out
}

// Of holds a desk against an outfit. Facets the outfit leaves open are held
// against themselves: they are only found wanting if a surface cannot use what
// it is told.
func Of(d *desk.Desk, o outfit.Outfit) Board {
	d = d.Snapshot()
	var b Board
	for _, f := range desk.Facets {
		t := Thread{Facet: f.Name, Title: f.Title, Want: o.Want(f.Name)}
		for _, s := range d.Surfaces() {
			t.Cells = append(t.Cells, CompareTo(d, s, f.Name, o))
		}
		b.Threads = append(b.Threads, t)
	}
	b.forgotten(d, o)
	return b
}

// CompareTo holds one surface against what an outfit wants of it for a facet.
func CompareTo(d *desk.Desk, s desk.Surface, facet string, o outfit.Outfit) Cell {
	c := Compare(d, s, facet, o.WantOn(s.ID, facet))
	value, excepted := o.Excepted(s.ID, facet)
	c.Own = excepted && value != ""
	if excepted && value == "" && c.State == Unasked {
		c.State = Excepted
	}
	return c
}

// Compare holds one surface against what an outfit wants of a facet; "" is nothing.
func Compare(d *desk.Desk, s desk.Surface, facet, want string) Cell {
	c := compare(d, s, facet, want)
	c.say()
	return c
}

// say puts what is to be said of a cell into words.
func (c *Cell) say() {
	c.Cause, c.Remedy.Text = c.Because.String(), c.Remedy.Says.String()
	for i := range c.Others {
		c.Others[i].Text = c.Others[i].Says.String()
	}
	for i := range c.Asides {
		a := &c.Asides[i]
		a.Text, a.Remedy.Text = a.Says.String(), a.Remedy.Says.String()
	}
}

func compare(d *desk.Desk, s desk.Surface, facet, want string) Cell {
	d = d.Snapshot()
	c := Cell{Surface: s, Facet: facet, Want: want}
	f, ok := s.Facet(facet)
	if !ok {
		c.State = NotHere
		return c
	}
	r := reading.Of(d, s, f)
	c.Reading = r
	c.aside(d, f)
	if want == "" {
		c.State = Unasked
		switch {
		case r.Problem != nil:
			c.State, c.Because, c.Code = Broken, r.Problem.Says, r.Problem.Code
			c.Remedy = Fix{Kind: ByHand, Says: r.Problem.Fix}
			if r.Problem.Code == reading.OldPicture {
				c.Remedy.Kind = ByForget
			}
			if r.Problem.Code == reading.BrokenSource {
				c.Remedy.Says = fixOfSource(d, r)
			}
		case r.Pending != "": // somebody changed it, with Ivelt or by hand
			c.pending()
		}
		return c
	}
	switch err := reading.Check(d, s, f, want); {
	case errors.As(err, new(*reading.ValueError)) && f.Fixed && Helped(d, s, facet):
		c.State = Follows // what another draws in its stead
		return c
	case errors.As(err, new(*reading.ValueError)):
		c.State, c.Because = CannotFollow, say.Of("match/cannot-follow", s.Named(), err)
		if near, lost := f.Nearest(want); lost != nil {
			info, _ := desk.FacetOf(facet)
			c.Others = append(c.Others, Fix{Kind: ByNearest, Says: say.Of("match/nearest", info.Says(near)), Facet: facet, Want: near})
		}
		return c
	case err != nil:
		switch from, e := reading.Makes(d, f, want); {
		case e == nil:
			c.State, c.Code = Differs, NotMade
			c.Because = say.Of("match/not-made-yet", want, d.Show(from.Folder), s.Named())
			c.Remedy = Fix{Kind: ByDraft, Says: say.Of("match/plan-makes", want), Facet: facet, Want: want}
			return c
		case errors.Is(e, reading.ErrLocked):
			c.State, c.Code = NotFound, reading.NotSigned
			c.Because = say.Of("match/locked", s.Named(), want)
			c.Remedy = Fix{Kind: ByUnlock, Says: say.Of("match/unlock-first", s.Named())}
			return c
		}
		p := reading.Why(d, s, f, want)
		c.State, c.Because, c.Code = NotFound, p.Says, p.Code
		c.Remedy = Fix{Kind: ByInstall, Says: p.Fix}
		if at := linkable(d, f, want, p); at != "" {
			c.Remedy = Fix{Kind: ByLink, Says: say.Of("match/put-link-into-leads-there", d.Show(path.Dir(at))), Path: at, Want: p.At}
		}
		if p.Code == reading.GrantMissing && reading.Grantable(d, f.Lookup, want) != "" {
			c.Remedy = Fix{Kind: ByDraft, Says: say.Of("match/plan-does-so", p.Fix, want), Facet: facet, Want: want}
		}
		return c
	}
	switch {
	case r.Problem != nil && r.Problem.Code == "broken-source":
		c.State, c.Because, c.Code = Broken, r.Problem.Says, r.Problem.Code
		c.Remedy = Fix{Kind: ByHand, Says: fixOfSource(d, r)}
	case !reading.Same(f, r.Value, want):
		c.State = Differs
		c.Because, c.Code = say.Of("match/says-otherwise", where(d, r.Source), quoteEmpty(r.Value)), Overruled
		if off := reading.Switch(d, s, f); off.Code != "" && r.Source.Kind == "default" {
			c.Because, c.Code = off, SwitchedOff
		}
		c.Remedy = Fix{Kind: ByDraft, Says: say.Of("match/put-draft-review-apply", want), Facet: facet, Want: want}
		c.own(d, f)
		c.profile(d, f)
		if at := setIn(d, s, f); at != "" && !d.Mine(at) {
			c.Code = NeedsAdministrator
			c.Remedy.Says = say.Of("match/only-administrator-may-set-put", at, want)
		}
	case r.Pending != "":
		c.pending()
	case r.Problem != nil && r.Problem.Code == reading.OldPicture:
		c.State, c.Because, c.Code = Broken, r.Problem.Says, r.Problem.Code
		c.Remedy = Fix{Kind: ByForget, Says: r.Problem.Fix}
	case r.Problem != nil:
		c.State, c.Because, c.Code = Broken, r.Problem.Says, r.Problem.Code
		c.Remedy = Fix{Kind: ByInstall, Says: r.Problem.Fix}
	case len(r.Singles) > 0:
		c.State, c.Code = Differs, OwnSetting
		c.Because = say.Of("match/set-hand-not-follow", named(r.Singles), d.Show(r.Singles[0].Path), do(r.Singles))
		c.Remedy = Fix{Kind: ByDraft, Says: say.Of("match/plan-takes-out-leaves-rest", want), Facet: facet, Want: want}
		for _, one := range r.Singles {
			c.Others = append(c.Others, Fix{Kind: ByOut, Says: say.Of("match/let-go-others-again", one.Key), Path: one.Path, Key: one.Key})
		}
	default:
		c.State = Follows
	}
	return c
}

// pending says that the surface is told, and shows what it loaded before.
func (c *Cell) pending() {
	r := c.Reading
	c.State, c.Code = Pending, NeedsRestart
	c.Because = say.Of("match/still-shows-loaded-before-change", quoteEmpty(r.Loaded))
	if r.Loaded == "" {
		c.Because = say.Of("match/programs-were-running-when-was")
	}
	c.Remedy = Fix{Kind: ByRestart, Says: say.Of("match/restart", r.Pending)}
}

// linkable is where a link makes a surface find a piece that lies where it does not
// look; "" if none would do.
func linkable(d *desk.Desk, f desk.Facet, want string, p *reading.Problem) string {
	if p.Code != reading.OtherFolder || f.Lookup.Grants != nil {
		return ""
	}
	switch f.Lookup.Kind {
	case "theme", "icon-theme", "pointer":
	default:
		return ""
	}
	there := f.Lookup
	there.Folders = []string{path.Dir(p.At)}
	if _, err := reading.Find(d, there, want); err != nil {
		return ""
	}
	for _, folder := range d.Folders(f.Lookup.Folders) {
		if at := path.Join(desk.Path(folder), want); d.Mine(at) && !d.Exists(at) {
			return at
		}
	}
	return ""
}

// setIn is the file in which a plan sets a facet, "" if it is in none.
func setIn(d *desk.Desk, s desk.Surface, f desk.Facet) string {
	for _, src := range f.Sources {
		if src.Write && src.Path != "" {
			return reading.PlaceOf(d, s, src, nil)
		}
	}
	return ""
}

func where(d *desk.Desk, o reading.Origin) say.Message {
	switch {
	case o.Kind == "default":
		return say.Of("match/where/nothing-set-program-own-default")
	case o.Kind == "setting" && o.Path == "":
		return say.Of("match/where/setting-provider-keeps-display", o.Key)
	case o.Kind == "setting" && o.Line == 0:
		return say.Of("match/where/desktop-setting", o.Key, d.Show(o.Path))
	case o.Kind == "env" && o.Path == "":
		return say.Of("match/where/variable-session", o.Key)
	case o.Kind == "env":
		return say.Of("match/where/variable-sets-line", o.Key, d.Show(o.Path), o.Line)
	case o.Line > 0:
		return say.Of("match/where/line", d.Show(o.Path), o.Line)
	}
	return say.Words(d.Show(o.Path))
}

func fixOfSource(d *desk.Desk, r reading.Reading) say.Message {
	return say.Of("match/open-mend-or-remove-line", brokenAt(d, r))
}

func brokenAt(d *desk.Desk, r reading.Reading) say.Message {
	for _, s := range r.Chain {
		if s.State == reading.Broken {
			return say.Of("match/where/at-line", d.Show(s.Path), max(s.Line, 1))
		}
	}
	return say.Of("match/where/the-file")
}

func quoteEmpty(s string) string {
	if s == "" {
		return "nothing"
	}
	return s
}

// Bad reports whether the cell is not as wanted, whatever is said aside.
func (c Cell) Bad() bool {
	return !slices.Contains([]State{Follows, Unasked, NotHere, CannotFollow, Excepted}, c.State)
}

// Strays lists what is not as an outfit wants it; that of which it says nothing is left out.
func (b Board) Strays(o outfit.Outfit) []Finding {
	out := []Finding{}
	for _, t := range b.Threads {
		for _, c := range t.Cells {
			if c.Bad() && o.WantOn(c.Surface.ID, c.Facet) != "" {
				out = append(out, c.finding())
			}
		}
	}
	return out
}

// finding is what is wrong with a cell.
func (c Cell) finding() Finding {
	return Finding{c.Surface.ID, c.Facet, string(cmp.Or(c.Code, reading.Code(c.State))), c.Cause, c.Remedy.Text, c.Because, c.Remedy.Says}
}

// Findings lists what is not as wanted, and what is to be mended aside, each
// once.
func (b Board) Findings() []Finding {
	out := []Finding{}
	said := map[string]bool{}
	for _, t := range b.Threads {
		for _, c := range t.Cells {
			if c.Bad() {
				out = append(out, c.finding())
			}
			for _, a := range c.Asides {
				if !said[a.Text] {
					out = append(out, Finding{c.Surface.ID, c.Facet, string(a.Code), a.Text, a.Remedy.Text, a.Says, a.Remedy.Says})
				}
				said[a.Text] = true
			}
		}
	}
	return out
}
