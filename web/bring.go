package web

import (
	"archive/zip"
	"cmp"
	"errors"
	"io"
	"mime/multipart"
	"net/http"
	"net/url"
	"path"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/go-chi/chi/v5"

	"ivelt/app/desks"
	"ivelt/core/desk"
	"ivelt/core/say"
)

// bring takes the file of a form, or several with the path of each before it, which become
// one parcel. They are read as they come; nothing waits in memory.
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
		up := &upload{Reader: part, body: r.Body, read: make(chan struct{})}
		name := part.FileName()
		switch {
		case part.FormName() == "together":
			said, err := io.ReadAll(io.LimitReader(part, 200))
			if err != nil || strings.TrimSpace(string(said)) == "" {
				return refused(errors.New("no file came with this"))
			}
			name = strings.TrimSpace(string(said)) + ".zip"
			up.Reader = together(parts)
		case part.FormName() != "parcel" || name == "":
			continue
		}
		job := s.App.Library.Bring(name, up, r.ContentLength, "", parcelFor(d, r.URL.Query().Get("for")))
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
	io.Reader
	body io.ReadCloser
	read chan struct{} // closed once all of it was read
	once sync.Once
}

func (u *upload) Read(b []byte) (int, error) {
	n, err := u.Reader.Read(b)
	if err != nil {
		u.once.Do(func() { close(u.read) })
	}
	return n, err
}

// together packs the files that come, each after its path, into one archive while it is read.
func together(parts *multipart.Reader) io.Reader {
	out, in := io.Pipe()
	go func() {
		z := zip.NewWriter(in)
		err := func() error {
			at := ""
			for n := 0; ; {
				part, err := parts.NextPart()
				if errors.Is(err, io.EOF) && n == 0 {
					return errors.New("no file came with this")
				}
				if errors.Is(err, io.EOF) {
					return z.Close()
				}
				if err != nil {
					return err
				}
				if part.FormName() == "path" {
					said, err := io.ReadAll(io.LimitReader(part, maxPath+1))
					if err != nil {
						return err
					}
					at = string(said)
					continue
				}
				if part.FileName() == "" {
					continue
				}
				name := cmp.Or(strings.TrimLeft(path.Clean("/"+at), "/"), part.FileName())
				if n++; n > maxTogether || len(name) > maxPath {
					return say.Errorf("more than %d files, or a path that is too long", maxTogether)
				}
				w, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Store, Modified: time.Now()})
				if err != nil {
					return err
				}
				if _, err := io.Copy(w, part); err != nil {
					return err
				}
				at = ""
			}
		}()
		_ = in.CloseWithError(err)
	}()
	return out
}

// What may come together: files, and the bytes of the path of each.
const (
	maxTogether = 20_000
	maxPath     = 4096
)

// Close leaves the body to the server.
func (u *upload) Close() error { return nil }

// Interrupt ends what is being read.
func (u *upload) Interrupt() {
	if p, ok := u.Reader.(*io.PipeReader); ok {
		_ = p.CloseWithError(io.ErrUnexpectedEOF)
	}
	if s, ok := u.body.(*steady); ok {
		s.Interrupt()
	}
}

func parcelOf(d *desks.Managed) func(string) string {
	return func(sha string) string { return "/d/" + d.ID + "/parcel/" + sha }
}

// parcelFor is the same for a parcel that was brought for a facet.
func parcelFor(d *desks.Managed, facet string) func(string) string {
	of := parcelOf(d)
	if !d.Has(facet) {
		return of
	}
	everyone := ""
	if forEveryone(d, facet) {
		everyone = "&everyone"
	}
	return func(sha string) string { return of(sha) + "?for=" + url.QueryEscape(facet) + everyone }
}

// forEveryone reports whether what a facet names is found only where everyone reads.
func forEveryone(d *desks.Managed, facet string) bool {
	return slices.ContainsFunc(d.Surfaces(), func(s desk.Surface) bool {
		f, ok := s.Facet(facet)
		return ok && len(f.Lookup.Within) > 0
	})
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
