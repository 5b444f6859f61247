package web

import (
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"ivelt/app"
)

type historyPage struct {
	Frame
	Past []pastView
}

type pastView struct {
	app.Past
	Ops []opView
}

func (s *Server) history(w http.ResponseWriter, r *http.Request) {
	f, err := s.frame(r, "history", "history", "History")
	if err != nil {
		s.fail(w, r, http.StatusNotFound, err)
		return
	}
	past, err := s.App.History(f.Desk)
	if err != nil {
		s.fail(w, r, http.StatusInternalServerError, err)
		return
	}
	page := historyPage{Frame: f}
	for _, p := range past {
		page.Past = append(page.Past, pastView{p, opViews(f.Desk, p.Plan, false)})
	}
	s.page(w, r, http.StatusOK, "history", page)
}

func (s *Server) back(w http.ResponseWriter, r *http.Request) {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		s.fail(w, r, http.StatusNotFound, err)
		return
	}
	id, err := strconv.ParseUint(r.FormValue("checkpoint"), 10, 32)
	if err != nil {
		s.fail(w, r, http.StatusBadRequest, fmt.Errorf("%q is no checkpoint", r.FormValue("checkpoint")))
		return
	}
	job, err := s.App.Back(d, uint(id), "/d/"+d.ID+"/history")
	if err != nil {
		s.fail(w, r, http.StatusBadRequest, err)
		return
	}
	s.showJob(w, r, d.ID, job)
}

// destination is somewhere the go-anywhere box leads to.
type destination struct{ Title, Kind, URL string }

func (s *Server) goAnywhere(w http.ResponseWriter, r *http.Request) {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		s.fail(w, r, http.StatusNotFound, err)
		return
	}
	q := strings.ToLower(strings.TrimSpace(r.FormValue("q")))
	base := "/d/" + d.ID
	var all []destination
	for _, st := range []string{"Find", "Shelf", "Compose", "Review", "Match", "History"} {
		all = append(all, destination{st, "stage", base + "/" + strings.ToLower(st)})
	}
	if rows, err := s.App.Store.Parcels(); err == nil {
		for _, p := range rows {
			all = append(all, destination{p.Title + " " + p.Version, "parcel", base + "/parcel/" + p.SHA256})
		}
	}
	if packs, err := s.App.Shelf(d); err == nil {
		for _, p := range packs {
			all = append(all, destination{p.Name, "on the shelf", base + "/shelf#pack-" + p.Folder})
		}
	}
	all = slices.DeleteFunc(all, func(t destination) bool { return q == "" || !strings.Contains(strings.ToLower(t.Title), q) })
	if q != "" {
		if found, err := s.App.Markets.Search(app.Query{Words: q, Most: 9, Exact: true}); err == nil {
			for _, e := range found.Entries {
				all = append(all, destination{e.Name, "in the market", base + "/find?q=" + url.QueryEscape(e.Name)})
			}
		}
	}
	s.part(w, r, "find", "destinations", all[:min(len(all), 9)])
}
