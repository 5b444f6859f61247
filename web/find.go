package web

import (
	"context"
	"net/http"
	"time"

	"github.com/go-chi/chi/v5"

	"ivelt/app"
	"ivelt/core/preview"
)

type findPage struct {
	Frame
	Query, Order string
	Market       string
	Entries      []findTag
	Total        int
	Here         []app.Here
	Down         string // why the market cannot be read
}

type findTag struct {
	app.Entry
	Fetched bool
	Desk    string
}

func (s *Server) find(w http.ResponseWriter, r *http.Request) {
	f, err := s.frame(r, "find", "find", "Find")
	if err != nil {
		s.fail(w, r, http.StatusNotFound, err)
		return
	}
	p := findPage{Frame: f, Query: r.FormValue("q"), Order: r.FormValue("order"), Here: s.App.Downloads(f.Desk)}
	if s.App.Market != nil {
		ctx, cancel := context.WithTimeout(r.Context(), 6*time.Second)
		defer cancel()
		entries, err := s.App.Market.Entries(ctx)
		if err != nil {
			p.Down = sentence(err)
		}
		p.Market, p.Total = s.App.Market.Name(), len(entries)
		have := map[string]bool{}
		if rows, err := s.App.Store.Parcels(); err == nil {
			for _, row := range rows {
				have[row.SHA256] = true
			}
		}
		for _, e := range app.Find(entries, p.Query, p.Order) {
			p.Entries = append(p.Entries, findTag{e, have[e.SHA256], f.Desk.ID})
		}
	}
	if r.Header.Get("HX-Target") == "wall" {
		s.part(w, r, "find", "wall", p)
		return
	}
	s.page(w, r, http.StatusOK, "find", p)
}

func (s *Server) marketPicture(w http.ResponseWriter, r *http.Request) {
	if s.App.Market == nil {
		http.NotFound(w, r)
		return
	}
	b, err := s.App.Market.Picture(r.Context(), chi.URLParam(r, "entry"))
	t := preview.MediaType(b)
	if err != nil || t == "" {
		http.NotFound(w, r)
		return
	}
	servePicture(w, r, t, b)
}

func (s *Server) fetch(w http.ResponseWriter, r *http.Request) {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		s.fail(w, r, http.StatusNotFound, err)
		return
	}
	job, err := s.App.Fetch(r.Context(), r.FormValue("entry"), func(sha string) string { return "/d/" + d.ID + "/parcel/" + sha })
	if err != nil {
		s.fail(w, r, http.StatusBadGateway, err)
		return
	}
	s.showJob(w, r, d.ID, job)
}
