package web

import (
	"errors"
	"io"
	"mime/multipart"
	"net/http"
	"sync"
	"time"

	"github.com/go-chi/chi/v5"

	"ivelt/app/desks"
)

// bring takes the one file of a form. It is read as it comes; nothing waits in
// memory.
func (s *Server) bring(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	parts, err := r.MultipartReader()
	if err != nil {
		return refused(errors.New("no file came with this"))
	}
	for {
		part, err := parts.NextPart()
		if err != nil {
			return refused(errors.New("no file came with this"))
		}
		if part.FormName() != "parcel" || part.FileName() == "" {
			continue
		}
		up := &upload{Part: part, body: r.Body, read: make(chan struct{})}
		job := s.App.Library.Bring(part.FileName(), up, r.ContentLength, "", parcelOf(d))
		done := make(chan struct{})
		go func() { _ = job.Wait(); close(done) }()
		select { // not before all has come: the request ends with the answer
		case <-up.read:
			select {
			case <-time.After(quickLook):
			case <-done:
			}
		case <-done:
		}
		s.showJob(w, r, d.ID, job)
		return nil
	}
}

// upload is the part of a request's body that holds a parcel.
type upload struct {
	*multipart.Part
	body io.ReadCloser
	read chan struct{} // closed once all of it was read
	once sync.Once
}

func (u *upload) Read(b []byte) (int, error) {
	n, err := u.Part.Read(b)
	if err != nil {
		u.once.Do(func() { close(u.read) })
	}
	return n, err
}

// Close leaves the body to the server.
func (u *upload) Close() error { return nil }

// Interrupt ends what is being read.
func (u *upload) Interrupt() {
	if s, ok := u.body.(*steady); ok {
		s.Interrupt()
	}
}

func parcelOf(d *desks.Managed) func(string) string {
	return func(sha string) string { return "/d/" + d.ID + "/parcel/" + sha }
}

func (s *Server) bringHere(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	job, err := s.App.Library.BringHere(d, r.FormValue("name"), parcelOf(d))
	if err != nil {
		return refused(err)
	}
	s.showJob(w, r, d.ID, job)
	return nil
}

func (s *Server) unlock(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	job, err := s.App.Library.Unlock(r.FormValue("sha"), r.FormValue("name"), r.FormValue("password"), parcelOf(d))
	if err != nil {
		return refused(err)
	}
	s.showJob(w, r, d.ID, job)
	return nil
}
