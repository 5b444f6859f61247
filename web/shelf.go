package web

import (
	"net/http"
	"strings"

	"github.com/go-chi/chi/v5"

	"ivelt/app/jobs"
	"ivelt/app/library"
	"ivelt/app/markets"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/preview"
	"ivelt/core/reading"
	"ivelt/sign"
	"ivelt/store"
)

func (s *Server) shelf(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "shelf", "shelf", "Shelf")
	if err != nil {
		return err
	}
	packs, err := s.App.Pieces.Shelf(f.Desk)
	if err != nil {
		return err
	}
	placed, err := s.App.Pieces.Placed(f.Desk)
	if err != nil {
		return err
	}
	newer, err := s.App.Markets.Newer(f.Desk)
	if err != nil {
		return err
	}
	parcels, err := s.App.Library.Parcels()
	if err != nil {
		return err
	}
	s.page(w, r, http.StatusOK, "shelf", shelfPage{f, packViews(f, packs), placed, newer, parcels})
	return nil
}

type shelfPage struct {
	Frame
	Packs   []packView
	Placed  []library.Placed // other kinds that Ivelt put in place
	Newer   []markets.Newer  // versions of what is in place
	Parcels []store.ParcelRow
}

type packView struct {
	library.Pack
	Frame   *Frame
	OnDraft bool
	Shown   string // the path as people write it
}

func packViews(f Frame, packs []library.Pack) []packView {
	var out []packView
	for _, p := range packs {
		out = append(out, packView{p, &f, f.Draft.Want(desk.FacetIcons) == p.Folder, f.Desk.Show(p.Path)})
	}
	return out
}

func (s *Server) packTag(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	if facet := r.FormValue("facet"); facet != "" {
		wear, ok := s.App.Advice.Piece(r.Context(), d, facet, r.FormValue("piece"))
		if !ok {
			return missing(errNotHere)
		}
		overlay := s.App.Overlays.Overlay(d)
		if facet == desk.FacetBar {
			servePicture(w, r, "image/svg+xml", sign.Shell(overlay, preview.Draft(r.Context(), overlay, outfit.Outfit{}.With(facet, wear.Folder))))
			return nil
		}
		servePicture(w, r, "image/svg+xml", sign.Piece(r.Context(), overlay.Tree(), wear.Piece))
		return nil
	}
	name := r.FormValue("pack")
	if strings.Contains(name, "/") {
		return missing(errNotHere)
	}
	for _, surface := range d.Surfaces() {
		f, ok := surface.Facet(desk.FacetIcons)
		if !ok {
			continue
		}
		x := reading.IconIndex(d.Desk, f.Lookup, name)
		if chain := x.Chain(); len(chain) == 0 || chain[0].Folder != name {
			continue
		}
		servePicture(w, r, "image/svg+xml", sign.Tag(r.Context(), d.Tree(), x, 6, 2, 64, 48))
		return nil
	}
	return missing(errNotHere)
}

func (s *Server) remove(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	job, err := s.App.Pieces.Remove(d, r.FormValue("path"), library.How{Lose: r.FormValue("lose") != ""}, "/d/"+d.ID+"/shelf")
	if err != nil {
		return refused(err)
	}
	job.By(jobs.Asked{URL: r.URL.Path, Form: r.PostForm})
	s.showJob(w, r, d.ID, job)
	return nil
}

func (s *Server) rename(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	if err := s.App.Pieces.Rename(r.Context(), d, r.FormValue("path"), r.FormValue("name")); err != nil {
		return refused(err)
	}
	to(w, r, "/d/"+d.ID+"/shelf")
	return nil
}
