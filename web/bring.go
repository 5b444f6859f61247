package web

import (
	"errors"
	"io"
	"net/http"

	"github.com/go-chi/chi/v5"

	"ivelt/app"
)

// bring takes the one file of a form. It is read as it comes; nothing waits in
// memory.
func (s *Server) bring(w http.ResponseWriter, r *http.Request) {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		s.fail(w, r, http.StatusNotFound, err)
		return
	}
	parts, err := r.MultipartReader()
	if err != nil {
		s.fail(w, r, http.StatusBadRequest, errors.New("no file came with this"))
		return
	}
	for {
		part, err := parts.NextPart()
		if err != nil {
			s.fail(w, r, http.StatusBadRequest, errors.New("no file came with this"))
			return
		}
		if part.FormName() != "parcel" || part.FileName() == "" {
			continue
		}
		job := s.App.Bring(part.FileName(), io.NopCloser(part), r.ContentLength, "", parcelOf(d))
		_ = job.Wait() // the body is read by then; looking inside is quick
		s.showJob(w, r, d.ID, job)
		return
	}
}

func parcelOf(d *app.Desk) func(string) string {
	return func(sha string) string { return "/d/" + d.ID + "/parcel/" + sha }
}

func (s *Server) bringHere(w http.ResponseWriter, r *http.Request) {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		s.fail(w, r, http.StatusNotFound, err)
		return
	}
	job, err := s.App.BringHere(d, r.FormValue("name"), parcelOf(d))
	if err != nil {
		s.fail(w, r, http.StatusBadRequest, err)
		return
	}
	s.showJob(w, r, d.ID, job)
}

func (s *Server) unlock(w http.ResponseWriter, r *http.Request) {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		s.fail(w, r, http.StatusNotFound, err)
		return
	}
	job, err := s.App.Unlock(r.FormValue("sha"), r.FormValue("name"), r.FormValue("password"), parcelOf(d))
	if err != nil {
		s.fail(w, r, http.StatusBadRequest, err)
		return
	}
	s.showJob(w, r, d.ID, job)
}
