package web

import (
	"net/http"
	"slices"
	"strconv"

	"github.com/go-chi/chi/v5"

	"ivelt/app/jobs"
	"ivelt/core/desk"
	"ivelt/core/plan"
	"ivelt/core/say"
)

// administer has an administrator do their part of a plan, or go back on it.
func (s *Server) administer(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	then := "/d/" + d.ID + "/history"
	var job *jobs.Job
	if back := r.FormValue("back"); back != "" {
		n, e := strconv.ParseUint(back, 10, 32)
		if e != nil {
			return refused(say.Errorf("%q is no number of a change", back))
		}
		job, err = s.App.Changes.AskBack(d, uint(n), then)
	} else {
		job, err = s.App.Changes.AskAdministrator(d, r.FormValue("plan"), then)
	}
	if err != nil {
		return refused(err)
	}
	s.showJob(w, r, d.ID, job)
	return nil
}

// handOverPage is where a plan that needs an administrator is looked at.
func handOverPage(deskID, planID string) string { return "/d/" + deskID + "/administrator/" + planID }

// administratorsPart is the review of a plan of which some is an administrator's to do.
func (s *Server) administratorsPart(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "review", "find", "Review")
	if err != nil {
		return err
	}
	p, err := s.App.Plans.Get(f.Desk, chi.URLParam(r, "plan"))
	if err != nil {
		return missing(err)
	}
	mine, theirs := p.Mine(f.Desk.Desk), p.Theirs(f.Desk.Desk)
	for _, part := range []plan.Plan{mine, theirs} {
		if err := s.App.Plans.Keep(part); err != nil {
			return err
		}
	}
	page := changeOf(f, p)
	page.AdminHere, page.Mine, page.Theirs = f.Desk.AdminHere(), &mine, &theirs
	page.Packages = slices.ContainsFunc(p.Ops, func(op plan.Op) bool { return op.Kind == plan.Package })
	page.Copies = slices.ContainsFunc(p.Ops, func(op plan.Op) bool { return op.Kind == plan.Copy })
	page.Then = "/d/" + f.Desk.ID + "/find"
	page.To = "/d/" + f.Desk.ID + "/step"
	page.Hidden = [][2]string{{"then", "/d/" + f.Desk.ID + "/shelf"}}
	s.page(w, r, http.StatusOK, "review", page)
	return nil
}

// installPackage plans to have the package manager install one.
func (s *Server) installPackage(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	p, err := s.App.Review.Packages(d, []desk.PackageAt{{Name: r.FormValue("name"), Version: r.FormValue("version")}})
	if err != nil {
		return refused(err)
	}
	to(w, r, handOverPage(d.ID, p.ID))
	return nil
}
