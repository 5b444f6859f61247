package web

import (
	"cmp"
	"net/http"
	"net/url"
	"slices"

	"github.com/go-chi/chi/v5"

	"ivelt/app"
	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/plan"
)

type reviewPage struct {
	Frame
	Change plan.Plan // what is reviewed: of the draft, or of one source
	Groups []opGroup
	Admin  int
	Then   string // of an edit that is no draft: the page to come back to
}

type opGroup struct {
	Title string
	Ops   []opView
}

type opView struct {
	plan.Op
	Shown string
	Diff  []plan.DiffLine
	Verb  string
}

func opViews(d *app.Desk, p plan.Plan, diff bool) []opView {
	var out []opView
	for _, op := range p.Ops {
		v := opView{Op: op, Shown: d.Show(op.Path)}
		switch op.Kind {
		case plan.Folder:
			v.Verb = "Make the folder"
		case plan.Copy:
			v.Verb = "Copy " + many(op.Files, "file") + " to"
		case plan.Remove:
			v.Verb = "Remove"
		case plan.Write:
			v.Verb = "Edit"
			if op.Before.Kind == "" {
				v.Verb = "Write"
			}
			if diff {
				old, _ := d.Tree().ReadFile(desk.Name(op.Path))
				v.Diff = plan.Diff(old, op.Content)
			}
		}
		out = append(out, v)
	}
	return out
}

func (s *Server) review(w http.ResponseWriter, r *http.Request) {
	f, err := s.frame(r, "review", "compose", "Review")
	if err != nil {
		s.fail(w, r, http.StatusNotFound, err)
		return
	}
	p, err := s.App.Review(r.Context(), f.Desk)
	if err != nil {
		s.fail(w, r, http.StatusBadRequest, err)
		return
	}
	s.page(w, r, http.StatusOK, "review", reviewOf(f, p))
}

func reviewOf(f Frame, p plan.Plan) reviewPage {
	page := reviewPage{Frame: f, Change: p}
	for _, v := range opViews(f.Desk, p, true) {
		title := "Folders"
		if surface, ok := f.Desk.Surface(v.Surface); ok {
			title = surface.Title
		}
		if v.Admin {
			page.Admin++
		}
		if n := len(page.Groups); n == 0 || page.Groups[n-1].Title != title {
			page.Groups = append(page.Groups, opGroup{Title: title})
		}
		g := &page.Groups[len(page.Groups)-1]
		g.Ops = append(g.Ops, v)
	}
	return page
}

func (s *Server) apply(w http.ResponseWriter, r *http.Request) {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		s.fail(w, r, http.StatusNotFound, err)
		return
	}
	job, err := s.App.Apply(d, r.FormValue("plan"), "/d/"+d.ID+"/match")
	if err != nil {
		s.fail(w, r, http.StatusBadRequest, err)
		return
	}
	s.showJob(w, r, d.ID, job)
}

type matchPage struct {
	Frame
	Against string // what the board holds the desk against
	Threads []threadView
	Open    int // cells that do not follow
}

type threadView struct {
	match.Thread
	Cells []cellView
	Still bool   // nothing is asked and nothing is wrong
	Wants string // as pages write it
}

type cellView struct {
	match.Cell
	Desk    *app.Desk
	Bead    string
	Why     string // address of the page that tells why
	Says    string // the state in words
	Shows   string // the value as pages write it
	OnDraft bool   // what is wanted is on the draft already
}

func (s *Server) match(w http.ResponseWriter, r *http.Request) {
	f, err := s.frame(r, "match", "match", "Match")
	if err != nil {
		s.fail(w, r, http.StatusNotFound, err)
		return
	}
	page, err := s.matchView(f)
	if err != nil {
		s.fail(w, r, http.StatusInternalServerError, err)
		return
	}
	s.page(w, r, http.StatusOK, "match", page)
}

func (s *Server) matchView(f Frame) (matchPage, error) {
	o, isDraft, err := s.App.Wanted(f.Desk)
	if err != nil {
		return matchPage{}, err
	}
	page := matchPage{Frame: f}
	switch {
	case len(o.Choices) == 0:
	case isDraft:
		page.Against = "the draft, " + o.Name
	default:
		page.Against = o.Name
	}
	for _, t := range match.Of(f.Desk.Desk, o).Threads {
		tv := threadView{Thread: t, Still: t.Want == "", Wants: valueSays(f.Desk.Desk, t.Facet, t.Want)}
		for _, c := range t.Cells {
			if c.State == match.NotHere {
				continue // no station
			}
			v := cellOf(f.Desk, c, isDraft)
			tv.Still = tv.Still && c.State == match.Unasked
			switch c.State {
			case match.Follows, match.Unasked, match.NotHere, match.CannotFollow:
			default:
				page.Open++
			}
			tv.Cells = append(tv.Cells, v)
		}
		if len(tv.Cells) > 0 {
			page.Threads = append(page.Threads, tv)
		}
	}
	// What is asked for comes first.
	slices.SortStableFunc(page.Threads, func(a, b threadView) int { return cmp.Compare(bit(a.Still), bit(b.Still)) })
	return page, nil
}

// cellOf is a cell as pages show it.
func cellOf(d *app.Desk, c match.Cell, isDraft bool) cellView {
	return cellView{
		Cell: c, Desk: d, Why: whyAddress(d, c.Surface.ID, c.Facet), Says: says[c.State], Shows: valueSays(d.Desk, c.Facet, c.Reading.Value),
		OnDraft: isDraft && c.Remedy.Kind == "draft",
		Bead:    "/d/" + d.ID + "/bead?facet=" + c.Facet + "&surface=" + c.Surface.ID + "&v=" + url.QueryEscape(c.Reading.Value+c.Reading.Loaded),
	}
}

var says = map[match.State]string{
	match.Follows: "follows", match.Differs: "shows something else", match.Broken: "cannot use what it is told",
	match.Pending: "after a restart", match.Unasked: "nothing asked", match.NotHere: "has no such thing", match.NotFound: "cannot find it", match.CannotFollow: "cannot follow",
}

func bit(b bool) int {
	if b {
		return 1
	}
	return 0
}

func (s *Server) restart(w http.ResponseWriter, r *http.Request) {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		s.fail(w, r, http.StatusNotFound, err)
		return
	}
	if err := s.App.Restart(d, r.FormValue("surface")); err != nil {
		s.fail(w, r, http.StatusBadRequest, err)
		return
	}
	to(w, r, "/d/"+d.ID+"/match")
}
