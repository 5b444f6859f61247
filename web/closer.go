package web

import (
	"net/http"
	"strconv"

	"github.com/go-chi/chi/v5"

	"ivelt/app"
	"ivelt/store"
)

type closerPage struct {
	Frame
	app.Closer
	Tag      findTag
	Variants []findTag
	With     []nearTag
	Words    []string // how it looks
	Has      map[string]bool
}

type nearTag struct {
	findTag
	Why string
}

// Missing are the companions that are not on the desk and can be fetched along.
func (p closerPage) Missing() []app.Companion {
	var out []app.Companion
	for _, c := range p.Companions {
		if c.Here == "" && c.Entry != "" {
			out = append(out, c)
		}
	}
	return out
}

// closer shows one entry, laid over the wall or as a page of its own.
func (s *Server) closer(w http.ResponseWriter, r *http.Request) {
	f, err := s.frame(r, "closer", "find", "")
	if err != nil {
		s.fail(w, r, http.StatusNotFound, err)
		return
	}
	id, _ := strconv.ParseUint(chi.URLParam(r, "market"), 10, 32)
	c, err := s.App.Closer(f.Desk, uint(id), chi.URLParam(r, "entry"))
	if err != nil {
		s.fail(w, r, http.StatusNotFound, err)
		return
	}
	f.Title = c.Entry.Name
	p := closerPage{Frame: f, Closer: c, Has: map[string]bool{}}
	if rows, err := s.App.Store.Parcels(); err == nil {
		for _, row := range rows {
			p.Has[row.SHA256] = true
		}
	}
	if tags := s.tags([]store.MarketEntry{c.Row}, f.Desk.ID); len(tags) == 1 {
		p.Tag = tags[0]
	}
	p.Variants = s.tags(c.Variants, f.Desk.ID)
	for _, n := range c.With {
		for _, t := range s.tags([]store.MarketEntry{n.Row}, f.Desk.ID) {
			p.With = append(p.With, nearTag{t, n.Why})
		}
	}
	if l := c.Entry.Looks; l != nil {
		shade, shape := "light", "square"
		if l.Dark() {
			shade = "dark"
		}
		if l.Roundness >= 0.5 {
			shape = "round"
		}
		p.Words = []string{shade, l.HueName(), shape}
	}
	if r.Header.Get("HX-Request") != "" {
		s.part(w, r, "closer", "closer", p)
		return
	}
	s.page(w, r, http.StatusOK, "closer", p)
}
