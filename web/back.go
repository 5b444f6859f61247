package web

import (
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"ivelt/app/changes"
	"ivelt/app/desks"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/core/say"
)

// backView is what the review of a going back has besides a plan.
type backView struct {
	Conflicts []conflictView
	Kept      []string
	Since     bool
	Parts     []partView // all, one surface, one facet
}

type conflictView struct {
	planning.Conflict
	Shown     string
	Was, Both []plan.DiffLine // against what is there now
	Edits     []editView
	Choices   []choiceView
	Lines     []clashView
}

// editView is what somebody else did to a file.
type editView struct {
	planning.Edit
	Diff []plan.DiffLine
}

// clashView is where the newer lines stay, with the address that takes the older
// ones, or the other way round.
type clashView struct {
	planning.Clash
	URL string
}

type choiceView struct {
	Take  planning.Take
	Says  string
	URL   string
	Taken bool
}

type partView struct {
	Title     say.Message
	Kind, URL string
	Here      bool
}

var takes = map[planning.Take]string{
	planning.TakeBoth:   "Undo the change, keep the edits",
	planning.TakeNow:    "Keep it as it is now",
	planning.TakeBefore: "Take it as it was before",
}

// wayOf reads a way back from a request.
func wayOf(r *http.Request, checkpoint string) (changes.Way, error) {
	id, err := strconv.ParseUint(checkpoint, 10, 32)
	if err != nil {
		return changes.Way{}, say.Errorf("%q is no checkpoint", checkpoint)
	}
	way := changes.Way{Checkpoint: uint(id), Since: r.FormValue("since") != "", Lose: r.FormValue("lose") != ""}
	way.Surface, way.Facet, way.Takes = r.FormValue("surface"), r.FormValue("facet"), map[string]planning.Take{}
	for _, t := range r.Form["take"] {
		take, p, ok := strings.Cut(t, " ")
		if _, known := takes[planning.Take(take)]; !ok || !known {
			return way, say.Errorf("%q says neither which file nor which version", t)
		}
		way.Takes[p] = planning.Take(take)
	}
	way.Lines = map[string][]int{}
	for _, l := range r.Form["older"] {
		number, p, ok := strings.Cut(l, " ")
		n, err := strconv.Atoi(number)
		if !ok || err != nil {
			return way, say.Errorf("%q says neither which file nor which lines", l)
		}
		way.Lines[p] = append(way.Lines[p], n)
	}
	return way, nil
}

// ofCheckpoint is the frame of a page about an entry of the history, and the way
// back that its address tells.
func (s *Server) ofCheckpoint(r *http.Request, page string, title say.Word) (Frame, changes.Way, error) {
	f, err := s.frame(r, page, "history", title)
	if err != nil {
		return f, changes.Way{}, err
	}
	way, err := wayOf(r, chi.URLParam(r, "checkpoint"))
	if err != nil {
		return f, way, refused(err)
	}
	return f, way, nil
}

func (s *Server) reviewBack(w http.ResponseWriter, r *http.Request) error {
	f, way, err := s.ofCheckpoint(r, "review", "Go back")
	if err != nil {
		return err
	}
	rv, err := s.App.Back.Review(f.Desk, way, r.URL.Query()["out"])
	if err != nil {
		return refused(err)
	}
	page := s.reviewOf(r, f, rv.Reviewed)
	page.To, page.Then = "/d/"+f.Desk.ID+"/back", "/d/"+f.Desk.ID+"/history"
	page.Hidden = [][2]string{{"checkpoint", fmt.Sprint(way.Checkpoint)}}
	for name, values := range r.URL.Query() {
		for _, v := range values {
			if name != "out" {
				page.Hidden = append(page.Hidden, [2]string{name, v})
			}
		}
	}
	if page.Back, err = s.backView(r, f.Desk, way, rv); err != nil {
		return err
	}
	s.page(w, r, http.StatusOK, "review", page)
	return nil
}

func (s *Server) backView(r *http.Request, d *desks.Managed, way changes.Way, rv changes.ReviewedBack) (*backView, error) {
	v := &backView{Since: way.Since}
	for _, p := range rv.Kept {
		v.Kept = append(v.Kept, d.Show(p))
	}
	address := func(change func(q url.Values)) string {
		q := r.URL.Query()
		q.Del("out")
		change(q)
		if len(q) == 0 {
			return r.URL.Path
		}
		return r.URL.Path + "?" + q.Encode()
	}
	for _, c := range rv.Conflicts {
		cv := conflictView{Conflict: c, Shown: d.Show(c.Path)}
		if !c.Tree {
			cv.Was = plan.Diff(c.Now, c.Before)
			for _, e := range c.Edits {
				cv.Edits = append(cv.Edits, editView{e, plan.Diff(e.From, e.To)})
			}
			if c.Both != nil {
				cv.Both = plan.Diff(c.Now, c.Both)
			}
		}
		for _, take := range c.Takes {
			cv.Choices = append(cv.Choices, choiceView{take, takes[take], address(func(q url.Values) {
				q["take"] = slices.DeleteFunc(q["take"], func(t string) bool { return strings.HasSuffix(t, " "+c.Path) })
				q.Add("take", string(take)+" "+c.Path)
			}), take == c.Taken})
		}
		for _, clash := range c.Clashes {
			cv.Lines = append(cv.Lines, clashView{clash, address(func(q url.Values) {
				this := fmt.Sprintf("%d %s", clash.Number, c.Path)
				if clash.Taken {
					q["older"] = slices.DeleteFunc(q["older"], func(l string) bool { return l == this })
				} else {
					q.Add("older", this)
				}
			})})
		}
		v.Conflicts = append(v.Conflicts, cv)
	}
	surfaces, facets, err := s.App.Back.Touched(d, way)
	if err != nil {
		return nil, err
	}
	part := func(title say.Message, kind, surface, facet string) {
		v.Parts = append(v.Parts, partView{title, kind, address(func(q url.Values) {
			q.Del("surface")
			q.Del("facet")
			q.Del("take")
			q.Del("older")
			if surface != "" {
				q.Set("surface", surface)
			}
			if facet != "" {
				q.Set("facet", facet)
			}
		}), way.Surface == surface && way.Facet == facet})
	}
	part(say.Line("everything"), "", "", "")
	for _, sf := range surfaces {
		part(say.Words(sf.Title), "surface", sf.ID, "")
	}
	for _, fc := range facets {
		part(fc.Title.Message(), "facet", "", fc.Name)
	}
	return v, nil
}

func (s *Server) back(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	way, err := wayOf(r, r.FormValue("checkpoint"))
	if err != nil {
		return refused(err)
	}
	job, err := s.App.Back.Start(d, way, r.FormValue("plan"), "/d/"+d.ID+"/history")
	if err != nil {
		return refused(err)
	}
	s.showJob(w, r, d.ID, job)
	return nil
}
