package web

import (
	"errors"
	"net/http"
	"strconv"
	"time"

	"github.com/go-chi/chi/v5"

	"ivelt/app/jobs"
	"ivelt/app/library"
	"ivelt/app/markets"
	"ivelt/core/plan"
	"ivelt/core/say"
)

type jobView struct {
	Frame
	Job    jobs.Progress
	DeskID string
	Older  *markets.Ref // an older version to take instead
	Locked *library.LockedError
	Lossy  *jobs.Asked // what can be asked again, now that it is said what would be lost
}

// quick is how long a request waits for a job before it shows progress: work
// that is done by then needs none.
const quick = 250 * time.Millisecond

// showJob answers a request that started a job: with where it leads if it was
// quick, else with its progress.
func (s *Server) showJob(w http.ResponseWriter, r *http.Request, deskID string, j *jobs.Job) {
	ended := make(chan struct{})
	go func() { _ = j.Wait(); close(ended) }()
	select {
	case <-ended:
	case <-time.After(quick):
	}
	if r.Header.Get("HX-Request") == "" {
		http.Redirect(w, r, "/jobs/"+j.Progress().ID+"?desk="+deskID, http.StatusSeeOther)
		return
	}
	s.jobPart(w, r, deskID, j)
}

func (s *Server) jobPart(w http.ResponseWriter, r *http.Request, deskID string, j *jobs.Job) {
	v := s.jobView(deskID, j)
	if v.Job.State == jobs.Done && v.Job.Then != "" {
		to(w, r, v.Job.Then)
		return
	}
	if r.Header.Get("HX-Target") == "job-now" {
		if v.Job.State == jobs.Running && r.FormValue("pauses") == strconv.FormatBool(v.Job.Pauses) {
			s.part(w, r, "job", "job-now", v)
			return
		}
		w.Header().Set("HX-Retarget", "#job")
	}
	s.part(w, r, "job", "job", v)
}

func (s *Server) jobView(deskID string, j *jobs.Job) jobView {
	v := jobView{Job: j.Progress(), DeskID: deskID}
	var older *markets.OlderError
	if errors.As(v.Job.Err, &older) {
		v.Older = &older.Take
	}
	errors.As(v.Job.Err, &v.Locked)
	if errors.Is(v.Job.Err, plan.ErrLoses) && v.Job.Asked.URL != "" {
		v.Lossy = &v.Job.Asked
	}
	return v
}

func (s *Server) job(w http.ResponseWriter, r *http.Request) error {
	j := s.App.Jobs.Get(chi.URLParam(r, "job"))
	deskID := r.FormValue("desk")
	d, err := s.App.Desk(deskID)
	if j == nil || err != nil {
		return missing(errors.New("this job is not known any more"))
	}
	if r.Header.Get("HX-Request") != "" {
		s.jobPart(w, r, deskID, j)
		return nil
	}
	v := s.jobView(deskID, j)
	if v.Job.State == jobs.Done && v.Job.Then != "" {
		http.Redirect(w, r, v.Job.Then, http.StatusSeeOther)
		return nil
	}
	chi.RouteContext(r.Context()).URLParams.Add("desk", d.ID)
	if v.Frame, err = s.frame(r, "job", "", say.Word(v.Job.Title)); err != nil {
		return err
	}
	s.page(w, r, http.StatusOK, "job", v)
	return nil
}

func (s *Server) cancelJob(w http.ResponseWriter, r *http.Request) error {
	return s.tellJob(w, r, s.App.Jobs.Cancel)
}
func (s *Server) pauseJob(w http.ResponseWriter, r *http.Request) error {
	return s.tellJob(w, r, (*jobs.Job).Pause)
}
func (s *Server) resumeJob(w http.ResponseWriter, r *http.Request) error {
	return s.tellJob(w, r, s.App.Jobs.Resume)
}

func (s *Server) tellJob(w http.ResponseWriter, r *http.Request, tell func(*jobs.Job)) error {
	j := s.App.Jobs.Get(chi.URLParam(r, "job"))
	if j == nil {
		return missing(errors.New("this job is not known any more"))
	}
	tell(j)
	if r.Header.Get("HX-Request") == "" {
		http.Redirect(w, r, "/jobs/"+j.Progress().ID+"?desk="+r.FormValue("desk"), http.StatusSeeOther)
		return nil
	}
	s.jobPart(w, r, r.FormValue("desk"), j)
	return nil
}
