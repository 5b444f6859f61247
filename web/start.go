package web

import (
	"fmt"
	"net/http"
	"slices"

	"github.com/go-chi/chi/v5"

	"ivelt/app/desks"
	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// startPage is the first page of a desk: what it is, what it shows, where that disagrees,
// and whether Ivelt may change it.
type startPage struct {
	Frame
	Is       []factView
	Shows    []spreadView
	Disagree int  // of them
	Mine     bool // somebody has to allow that the desk is changed
	Bare     bool // no toolkit and no shell that Ivelt knows is on it
	Session  sessionView
	Icons    int // packs there are
	Themes   int
	First    bool // nothing was chosen or changed yet
}

type factView struct {
	What say.Word
	Says say.Message
	Not  bool // something that is missing
}

type spreadView struct {
	match.Spread
	Values []shownView
}

type shownView struct {
	Says  *say.Message
	On    []say.Message // titles of surfaces
	Bead  string
	Whole bool // all surfaces show it
	Why   string
}

func (s *Server) start(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "start", "", "Start")
	if err != nil {
		return err
	}
	beads := s.beading(r.Context(), f)
	p := startPage{Frame: f, Is: factsOf(f.Now), Mine: f.Desk.Keep != nil}
	for _, of := range match.Of(f.Now, outfit.Outfit{}).Spreads() {
		v := spreadView{Spread: of}
		for _, shown := range of.Shown {
			cell := cellOf(beads, f.Desk, shown.Cells[0], outfit.Outfit{})
			one := shownView{Says: shows(of.Facet, shown.Value), Bead: cell.Bead, Whole: !of.Disagree(), Why: cell.Why}
			for _, c := range shown.Cells {
				one.On = append(one.On, c.Surface.Among())
			}
			v.Values = append(v.Values, one)
		}
		if of.Disagree() {
			p.Disagree++
		}
		p.Shows = append(p.Shows, v)
	}
	slices.SortStableFunc(p.Shows, func(a, b spreadView) int { // what disagrees first
		switch {
		case a.Disagree() == b.Disagree():
			return 0
		case a.Disagree():
			return -1
		}
		return 1
	})
	p.Session, p.First = sessionOf(f), s.firstVisit()
	p.Bare = !slices.ContainsFunc(f.Now.Surfaces(), func(s desk.Surface) bool { return s.Kind != "display" && s.Kind != "fonts" })
	in := s.App.Advice.CatalogueOf(r.Context(), f.Desk, f.Now)
	p.Icons, p.Themes = len(in.Listed(desk.FacetIcons)), len(in.Listed(desk.FacetWidgets))
	s.page(w, r, http.StatusOK, "start", p)
	return nil
}

// firstVisit reports whether nothing was chosen or changed yet, on any desk.
func (s *Server) firstVisit() bool {
	return !slices.ContainsFunc(s.App.Desks(), func(d *desks.Managed) bool {
		rows, err := s.App.Record.Entries(d.ID)
		draft, e := s.App.Drafts.Draft(d)
		return err != nil || e != nil || len(rows) > 0 || len(draft.Choices) > 0
	})
}

// sessionView is whether Ivelt's own provider tells the desk's programs of changes.
type sessionView struct {
	Can  bool // it could, as nobody else does
	On   bool // it is started at sign-in
	Runs bool
}

func sessionOf(f Frame) sessionView {
	now := f.Now.Now()
	v := sessionView{On: planning.HasSession(f.Now), Runs: now.Own}
	display, _ := f.Now.Var("DISPLAY")
	v.Can = f.Desk.Session != nil && f.Now.Display() == "x11" && display.Value != "" && (now.XSettings == nil || now.Own)
	return v
}

// session shows the plan by which Ivelt's own provider is started at sign-in, or no longer;
// or starts it now.
func (s *Server) session(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "review", "", "Review")
	if err != nil {
		return err
	}
	start := "/d/" + f.Desk.ID + "/start"
	var p plan.Plan
	switch of := sessionOf(f); {
	case !of.Can && !of.On:
		return refused(planning.ErrProvided)
	case r.FormValue("do") == "start":
		if err := f.Desk.Session(); err != nil {
			return refused(err)
		}
		to(w, r, start)
		return nil
	default:
		if p, err = s.App.Review.Session(f.Desk, r.FormValue("do") == "on"); err != nil {
			return refused(err)
		}
	}
	s.stepPage(w, r, f, p, start)
	return nil
}

// factsOf says what a desk is.
func factsOf(d *desk.Desk) []factView {
	var out []factView
	add := func(what say.Word, says say.Message) { out = append(out, factView{What: what, Says: says}) }
	var titles []say.Message
	for _, s := range d.Surfaces() {
		titles = append(titles, s.Among())
	}
	add("themed here", say.Join(", ", titles...))
	switch display, _ := d.Var("DISPLAY"); {
	case d.Display() == "wayland":
		add("drawn by", say.Line("a Wayland compositor"))
	case display.Value != "":
		add("drawn by", say.Line("an X display, %s", display.Value))
		if d.Now().XSettings != nil {
			add("live changes", say.Line("yes, a settings daemon (XSETTINGS) updates open programs at once"))
		} else {
			out = append(out, factView{"live changes", say.Line("no: most programs show a change after a restart"), true})
		}
	default:
		out = append(out, factView{"drawn by", say.Line("no display that Ivelt can see: start it in your session to see what runs"), true})
	}
	switch backend := reading.Backend(d); {
	case backend == "keyfile":
		add("settings", say.Line("in a key file, %s", d.Show(reading.KeyfileOf(d))))
	case d.Settings == nil:
		out = append(out, factView{"settings", say.Line("in a database that nothing here can change (%s)", backend), true})
	default:
		if err := d.Settings.Answers(); err != nil {
			out = append(out, factView{"settings", say.Line("in a database whose service does not answer: %s", err), true})
		} else {
			says := say.Line("in a database, changed by its service")
			if d.Display() == "wayland" {
				says = say.Line("in a database, changed by its service, so that programs follow at once")
			}
			add("settings", says)
		}
	}
	var monitors []say.Message
	for _, m := range d.Monitors() {
		one := say.Words(fmt.Sprintf("%s, %d × %d", m.Name, m.Width, m.Height))
		if more := m.Says(); more.Code != "" {
			one = say.Join(", ", one, more)
		}
		monitors = append(monitors, one)
	}
	if len(monitors) > 0 {
		add("monitors", say.Join("; ", monitors...))
	}
	return out
}

// allow is the owner's word on whether the desk may be changed.
func (s *Server) allow(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	if err := d.Allow(r.FormValue("write") == "yes"); err != nil {
		return refused(err)
	}
	to(w, r, "/d/"+d.ID+"/start#writing")
	return nil
}
