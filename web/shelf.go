package web

import (
	"net/http"
	"strings"

	"github.com/go-chi/chi/v5"

	"ivelt/app/jobs"
	"ivelt/app/library"
	"ivelt/app/markets"
	"ivelt/core/desk"
	"ivelt/core/icontheme"
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

// packTag serves the picture of a piece that is in place or tried on.
func (s *Server) packTag(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	seen := s.App.Overlays.Overlay(d)
	facet, name, columns := r.FormValue("facet"), r.FormValue("piece"), 5
	if facet == "" {
		facet, name, seen, columns = desk.FacetIcons, r.FormValue("pack"), d.Desk, 6
	}
	if facet == desk.FacetIcons {
		if x, ok := iconsNamed(seen, name); ok {
			servePicture(w, r, "image/svg+xml", sign.Tag(r.Context(), seen.Tree(), x, columns, 2, 64, 56))
			return nil
		}
		return missing(errNotHere)
	}
	wear, ok := s.App.Advice.Piece(r.Context(), d, facet, name)
	if !ok {
		return missing(errNotHere)
	}
	if facet == desk.FacetBar {
		servePicture(w, r, "image/svg+xml", sign.Shell(seen, preview.Draft(r.Context(), seen, outfit.Outfit{}.With(facet, wear.Folder))))
		return nil
	}
	servePicture(w, r, "image/svg+xml", sign.Piece(r.Context(), seen.Tree(), wear.Piece))
	return nil
}

// iconsNamed are the icons that some surface finds by the name of a pack.
func iconsNamed(d *desk.Desk, name string) (*icontheme.Index, bool) {
	if strings.Contains(name, "/") {
		return nil, false
	}
	for _, surface := range d.Surfaces() {
		f, ok := surface.Facet(desk.FacetIcons)
		if !ok {
			continue
		}
		x := reading.IconIndex(d, f.Lookup, name)
		if chain := x.Chain(); len(chain) > 0 && chain[0].Folder == name {
			return x, true
		}
	}
	return nil, false
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
