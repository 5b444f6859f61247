package web

import (
	"context"
	"net/http"
	"net/url"
	"slices"

	"github.com/go-chi/chi/v5"

	"ivelt/app/changes"
	"ivelt/app/desks"
	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/say"
)

// matchPage is the match board: surfaces against facets.
type matchPage struct {
	Frame
	Against  *say.Message // what the board holds the desk against
	Columns  []columnView // the facets that are asked for, or in trouble
	Rows     []rowView
	Without  []say.Message // surfaces that have a setting for none of them, and will show none
	Still    []stillView   // what nothing is asked of, and nothing is wrong with
	Troubles []cellView
	Open     int // cells that do not follow
	Score    match.Score
	Next     []stepView // what to do, what shows most first
	All      bool       // there is something that the draft could still take
	Old      []changes.Stale
	Undone   string // what an update of a system under a lock has undone
	OnTheWay bool   // the desk is on its way to a look
	Locked   string // the system of the desk, if it is under a lock
}

type columnView struct {
	Facet string
	Title say.Word
	Wants *say.Message
}

type rowView struct {
	Surface desk.Surface
	Cells   []cellView
	Page    string // address of the page that is about this surface alone, if it has one
}

type stillView struct {
	Title say.Word
	Cells []cellView
}

type stepView struct {
	match.NextStep
	Says    *say.Message   // a restart in words, or what is wanted as pages write it
	Can     []desk.Surface // of a restart: those that Ivelt can make
	OnDraft bool           // it is on the draft already
	Why     string         // address of the cell that it is about, if it has a plan of its own
}

type cellView struct {
	match.Cell
	Desk  *desks.Managed
	Bead  string
	Why   string       // address of the page that tells why
	Says  say.Word     // the state in words
	Word  say.Word     // the same in one word
	Shows *say.Message // the value as pages write it; nil for none
	Fixes []boardFix
	Notes []asideView
}

type asideView struct {
	match.Aside
	Fix  boardFix
	Also []string // further surfaces that it is said of
}

type boardFix struct {
	match.Fix
	Says    *say.Message // of a draft: what is wanted as pages write it
	OnDraft bool         // it is on the draft already
	Can     bool         // of a restart: Ivelt can make it
	Later   bool         // it has a plan only once what is tried on is in place
}

var says = map[match.State]say.Word{
	match.Follows: "matches", match.Differs: "shows something else", match.Broken: "cannot use its setting", match.Excepted: "excluded",
	match.Pending: "after a restart", match.Unasked: "not part of the look", match.NotHere: "has no such setting", match.NotFound: "cannot find it", match.CannotFollow: "not possible",
}

var word = map[match.State]say.Word{
	match.Follows: "matches", match.Differs: "differs", match.Broken: "broken", match.Excepted: "excluded",
	match.Pending: "restart", match.Unasked: "unchanged", match.NotFound: "not found", match.CannotFollow: "no setting",
}

// cellOf is a cell as pages show it.
func cellOf(b *beading, d *desks.Managed, c match.Cell, draft outfit.Outfit) cellView {
	v := cellView{
		Cell: c, Desk: d, Why: whyAddress(d, c.Surface.ID, c.Facet), Says: says[c.State], Word: word[c.State], Shows: shows(c.Facet, c.Reading.Value),
	}
	if c.State != match.NotHere {
		v.Bead = b.address(c.Facet, c.Surface.ID)
	}
	fix := func(r match.Fix) boardFix {
		return boardFix{
			Fix: r, Says: shows(r.Facet, r.Want), OnDraft: r.Kind == match.ByDraft && draft.WantOn(c.Surface.ID, r.Facet) == r.Want,
			Can: r.Kind == match.ByRestart && d.CanRestart(c.Surface.ID), Later: b.later(c, r),
		}
	}
	if c.Remedy.Kind != "" {
		v.Fixes = append(v.Fixes, fix(c.Remedy))
	}
	for _, r := range c.Others {
		v.Fixes = append(v.Fixes, fix(r))
	}
	for _, a := range c.Asides {
		note := asideView{Aside: a}
		if a.Remedy.Kind != "" {
			note.Fix = fix(a.Remedy)
		}
		v.Notes = append(v.Notes, note)
	}
	return v
}

func (s *Server) match(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "match", "match", "Match")
	if err != nil {
		return err
	}
	page, err := s.matchView(r.Context(), f)
	if err != nil {
		return err
	}
	s.page(w, r, http.StatusOK, "match", page)
	return nil
}

func (s *Server) matchView(ctx context.Context, f Frame) (matchPage, error) {
	d, beads := f.Desk, s.beading(ctx, f)
	o, draft, err := s.App.Drafts.Wanted(d)
	if err != nil {
		return matchPage{}, err
	}
	board := match.Of(f.Trying(), o)
	if f.Tried != nil {
		now := match.Of(f.Now, o)
		beads.board = &now
	}
	page := matchPage{Frame: f, Score: board.Score(), Open: board.Open()}
	if of, lock := d.Locked(); lock != nil {
		page.Locked = of.Title
	}
	undone, journey := s.App.Journeys.Undone(d)
	page.Undone, page.OnTheWay = undone.String(), journey.ID != "" && !journey.Ended
	switch {
	case len(o.Choices) == 0:
	case len(draft.Choices) > 0:
		page.Against = ref(say.Line("the draft, %s", draft.Name))
	default:
		page.Against = ref(say.Words(o.Name))
	}
	asked, still := board.Asked()
	for _, t := range asked {
		page.Columns = append(page.Columns, columnView{t.Facet, t.Title, shows(t.Facet, t.Want)})
	}
	for i, surface := range d.Surfaces() {
		row := rowView{Surface: surface, Page: surfacePage(d, surface)}
		here, can := false, false
		for _, t := range asked {
			row.Cells = append(row.Cells, cellOf(beads, d, t.Cells[i], draft))
			here = here || t.Cells[i].State != match.NotHere
			can = can || !slices.Contains([]match.State{match.NotHere, match.CannotFollow}, t.Cells[i].State)
		}
		switch {
		case can:
			page.Rows = append(page.Rows, row)
		case here:
			page.Without = append(page.Without, surface.Full())
		}
	}
	for _, t := range still {
		page.Still = append(page.Still, stillOf(beads, d, t))
	}
	for _, t := range board.Troubles() {
		page.Troubles = append(page.Troubles, troubleOf(beads, d, t, draft))
	}
	if page.Old, err = s.App.History.Stale(d); err != nil {
		return matchPage{}, err
	}
	for _, step := range board.Next() {
		v := stepOf(d, step, draft)
		page.All = page.All || step.Kind == match.ByDraft && step.Facet != "" && !v.OnDraft
		page.Next = append(page.Next, v)
	}
	return page, nil
}

// stillOf is a facet of which nothing is asked.
func stillOf(beads *beading, d *desks.Managed, t match.Thread) stillView {
	v := stillView{Title: t.Title}
	for _, c := range t.Cells {
		if c.State != match.NotHere {
			v.Cells = append(v.Cells, cellOf(beads, d, c, outfit.Outfit{}))
		}
	}
	return v
}

// troubleOf is a cell with what is told of it, and not of another already.
func troubleOf(beads *beading, d *desks.Managed, t match.Trouble, draft outfit.Outfit) cellView {
	v := cellOf(beads, d, t.Cell, draft)
	var notes []asideView
	for _, n := range v.Notes {
		if i := slices.IndexFunc(t.Told, func(told match.Told) bool { return told.Text == n.Text }); i >= 0 {
			n.Also = t.Told[i].Also
			notes = append(notes, n)
		}
	}
	v.Notes = notes
	return v
}

// stepOf is something to do next.
func stepOf(d *desks.Managed, step match.NextStep, draft outfit.Outfit) stepView {
	v := stepView{NextStep: step, Says: shows(step.Facet, step.Want), OnDraft: step.SaidBy(draft)}
	if step.Restart != "" {
		restart := plan.EffectOf(step.Restart).Says().Message()
		v.Says = &restart
	}
	if step.At != "" {
		v.Why = whyAddress(d, step.Surfaces[0].ID, step.At)
	}
	for _, s := range step.Surfaces {
		if d.CanRestart(s.ID) && step.Restart != "" {
			v.Can = append(v.Can, s)
		}
	}
	return v
}

// fix shows the plan of one of a cell's remedies.
func (s *Server) fix(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "review", "match", "Review")
	if err != nil {
		return err
	}
	p, err := s.App.Review.Fix(r.Context(), f.Desk, r.FormValue("surface"), r.FormValue("facet"), r.FormValue("remedy"))
	if err != nil {
		return refused(err)
	}
	s.stepPage(w, r, f, p, "/d/"+f.Desk.ID+"/match")
	return nil
}

// stepPage is the review of a plan that is none of the draft.
func (s *Server) stepPage(w http.ResponseWriter, r *http.Request, f Frame, p plan.Plan, then string) {
	f.Title = say.Line("Review")
	page := changeOf(f, p)
	page.Then = then
	page.To = "/d/" + f.Desk.ID + "/step"
	page.Hidden = [][2]string{{"then", then}}
	s.page(w, r, http.StatusOK, "review", page)
}

// applyStep carries such a plan out.
func (s *Server) applyStep(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	then := r.FormValue("then")
	if u, err := url.Parse(then); err != nil || u.Host != "" || u.Scheme != "" || len(then) < 2 || then[0] != '/' || then[1] == '/' {
		then = "/d/" + d.ID + "/match"
	}
	job, err := s.App.Changes.ApplyStep(d, r.FormValue("plan"), changes.How{Lose: r.FormValue("lose") != "", Then: then})
	if err != nil {
		return refused(err)
	}
	s.showJob(w, r, d.ID, job)
	return nil
}

// takeAll puts on the draft what the board proposes.
func (s *Server) takeAll(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	if err := s.App.Drafts.TakeAll(d); err != nil {
		return refused(err)
	}
	to(w, r, "/d/"+d.ID+"/match")
	return nil
}

// except leaves a surface out of a choice, or takes it in again.
func (s *Server) except(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	surface, facet := r.FormValue("surface"), r.FormValue("facet")
	value := ""
	if r.FormValue("do") == "own" {
		if value = r.FormValue("value"); value == "" {
			return refused(errNothingToDo)
		}
	}
	if err := s.App.Drafts.Except(d, surface, facet, value, r.FormValue("do") == "rejoin"); err != nil {
		return refused(err)
	}
	if then := r.FormValue("then"); then == "compose" || then == "arrange" {
		to(w, r, "/d/"+d.ID+"/"+then)
		return nil
	}
	to(w, r, whyAddress(d, surface, facet))
	return nil
}

// wearDraft writes down that the draft is worn.
func (s *Server) wearDraft(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	if err := s.App.Changes.WearDraft(r.Context(), d); err != nil {
		return refused(err)
	}
	to(w, r, "/d/"+d.ID+"/match")
	return nil
}

func (s *Server) restart(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	if err := r.ParseForm(); err != nil || len(r.Form["surface"]) == 0 {
		return refused(errNothingToDo)
	}
	for _, surface := range r.Form["surface"] {
		force := r.FormValue("force") != ""
		if err := s.App.Changes.Restart(d, surface, force); err != nil && !(force && d.Screens[surface] != nil) { // what came of it is on its page
			return refused(err)
		}
	}
	then := "/d/" + d.ID + "/match"
	if of, ok := d.Surface(r.FormValue("login")); ok {
		then = surfacePage(d, of)
	}
	to(w, r, then)
	return nil
}
