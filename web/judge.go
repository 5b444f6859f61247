package web

import (
	"cmp"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"

	"github.com/go-chi/chi/v5"

	"ivelt/app/jobs"
	"ivelt/core/desk"
	"ivelt/core/judge"
	"ivelt/core/preview"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// judgePage tells what of the look is not well, in both shades.
type judgePage struct {
	Frame
	Verdicts []verdictView
	Costs    []verdictView // what a slow machine would feel
	Grave    int
	Other    []verdictView // that would come with the other shade
	Shade    string        // that other one, where there is one
}

type verdictView struct {
	judge.Verdict
	Surface desk.Surface
	Others  []say.Message // titles of other surfaces that it is true of
	Fixes   []fixView
	Window  string // of the picture where it is seen: x, y, width and height
	Scene   preview.Scene
	Bench   string // where icons that are missing can be given, "" for another verdict
}

type fixView struct {
	judge.Fix
	Says    *say.Message
	OnDraft bool
}

func (s *Server) judge(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "judge", "compose", "Judge")
	if err != nil {
		return err
	}
	now, err := s.App.Judge.Of(r.Context(), f.Desk)
	if err != nil {
		return err
	}
	page := judgePage{Frame: f}
	for _, v := range now {
		view := verdictOf(f, v)
		if v.Code == judge.Costly {
			page.Costs = append(page.Costs, view)
			continue
		}
		page.Verdicts = append(page.Verdicts, view)
		if v.Grave {
			page.Grave++
		}
	}
	s.page(w, r, http.StatusOK, "judge", page)
	return nil
}

// judgeOther serves what would come with the other shade, and is not there in this
// one.
func (s *Server) judgeOther(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "judge", "compose", "Judge")
	if err != nil {
		return err
	}
	now, err := s.App.Judge.Of(r.Context(), f.Desk)
	other, shade, err2 := s.App.Judge.Other(r.Context(), f.Desk)
	if err = errors.Join(err, err2); err != nil {
		return err
	}
	page := judgePage{Frame: f, Shade: shade}
	for _, v := range other {
		known := slices.ContainsFunc(now, func(n judge.Verdict) bool { return n.Text == v.Text })
		if !known && v.Code != judge.Costly {
			v.Marks = nil // the picture is of the shade that is worn
			page.Other = append(page.Other, verdictOf(f, v))
		}
	}
	s.part(w, r, "judge", "other-shade", page)
	return nil
}

func verdictOf(f Frame, v judge.Verdict) verdictView {
	view := verdictView{Verdict: v}
	view.Surface, _ = f.Desk.Surface(v.Surface)
	for _, id := range v.Also {
		also, _ := f.Desk.Surface(id)
		view.Others = append(view.Others, also.Among())
	}
	for _, r := range v.Remedies {
		view.Fixes = append(view.Fixes, fixView{r, shows(r.Facet, r.Want), r.Facet != "" && f.Draft.Want(r.Facet) == r.Want})
	}
	if of, ok := view.Surface.Facet(view.Surface.Called(desk.FacetIcons)); ok && v.Code == judge.NoIcons && len(v.Parts) > 0 {
		pack := cmp.Or(f.Draft.WantOn(v.Surface, desk.FacetIcons), reading.Of(f.Now, view.Surface, of).Value)
		view.Bench = "/d/" + f.Desk.ID + "/bench/icons?" + url.Values{"set": {pack}, "icon": {v.Parts[0].What}}.Encode()
	}
	for _, scene := range preview.Scenes {
		if scene.Name == v.Scene && len(v.Marks) > 0 {
			view.Scene, view.Window = scene, windowOn(v.Marks, scene)
		}
	}
	return view
}

// windowOn is the part of a scene around marks, twice as wide as it is high.
func windowOn(marks []preview.Mark, scene preview.Scene) string {
	x0, y0, x1, y1 := marks[0].X, marks[0].Y, marks[0].X+marks[0].W, marks[0].Y+marks[0].H
	for _, m := range marks[1:] {
		if max(x1, m.X+m.W)-min(x0, m.X) > 420 || max(y1, m.Y+m.H)-min(y0, m.Y) > 210 {
			continue // too far away to be shown with the first
		}
		x0, y0, x1, y1 = min(x0, m.X), min(y0, m.Y), max(x1, m.X+m.W), max(y1, m.Y+m.H)
	}
	wide := min(max(x1-x0+40, 2*(y1-y0+40), 280), float64(scene.Width))
	high := wide / 2
	x := min(max((x0+x1-wide)/2, 0), float64(scene.Width)-wide)
	y := min(max((y0+y1-high)/2, 0), float64(scene.Height)-high)
	return fmt.Sprintf("%.0f %.0f %.0f %.0f", x, y, wide, high)
}

// fixJudged does what a verdict proposes and a draft cannot: lines in a sheet of
// the person's own, or colours of a palette, to be reviewed; or another part of the
// backdrop.
func (s *Server) fixJudged(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "judge", "compose", "Judge")
	if err != nil {
		return err
	}
	back := "/d/" + chi.URLParam(r, "desk") + "/judge"
	if job, err := s.remake(r, f, back); job != nil || err != nil {
		if err != nil {
			return refused(err)
		}
		s.showJob(w, r, f.Desk.ID, job)
		return nil
	}
	review := s.App.Review.Sheet
	if r.FormValue("do") == "colours" {
		review = s.App.Review.Colours
	}
	pl, err := review(r.Context(), f.Desk, r.FormValue("code"), r.FormValue("surface"))
	if err != nil {
		return refused(err)
	}
	s.stepPage(w, r, f, pl, back)
	return nil
}

// remake starts making what a verdict proposes of the backdrop; nil if something else is asked for.
func (s *Server) remake(r *http.Request, f Frame, back string) (*jobs.Job, error) {
	code, surface := r.FormValue("code"), r.FormValue("surface")
	switch r.FormValue("do") {
	case "crop":
		return s.App.Judge.Crop(r.Context(), f.Desk, code, surface, back)
	case "soften":
		_, fix, err := s.App.Judge.Fix(r.Context(), f.Desk, code, surface, func(of judge.Fix) bool { return of.Soft != nil && of.Soft.Kind() == r.FormValue("soft") })
		if err != nil {
			return nil, err
		}
		return s.App.Layers.MakePicture(f.Desk, f.Trying(), fix.Soft.Picture, nil, &fix.Soft.Soft, back)
	case "again":
		_, fix, err := s.App.Judge.Fix(r.Context(), f.Desk, code, surface, func(of judge.Fix) bool { return of.Again != "" })
		if err != nil {
			return nil, err
		}
		return s.App.Layers.MakeAgain(f.Desk, f.Trying(), fix.Again, back)
	}
	return nil, nil
}
