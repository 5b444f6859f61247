package web

import (
	"net/http"

	"ivelt/core/desk"
	"ivelt/core/judge"
	"ivelt/core/preview"
)

// judgePage tells what of the look is not well, in both shades.
type judgePage struct {
	Frame
	Verdicts []verdictView
	Grave    int
	Other    []verdictView // that would come with the other shade
	Shade    string        // that other one, where there is one
}

type verdictView struct {
	judge.Verdict
	Surface desk.Surface
	Mends   []mendView
}

type mendView struct {
	judge.Remedy
	Says    string
	OnDraft bool
}

func (s *Server) judge(w http.ResponseWriter, r *http.Request) {
	f, err := s.frame(r, "judge", "compose", "Judge")
	if err != nil {
		s.fail(w, r, http.StatusNotFound, err)
		return
	}
	d := f.Desk.Desk
	look := preview.Draft(s.App.Trying(f.Desk, f.Draft), f.Draft)
	page := judgePage{Frame: f}
	page.Verdicts = verdicts(f, judge.Of(s.App.Trying(f.Desk, f.Draft), look))
	for _, v := range page.Verdicts {
		page.Grave += bit(v.Grave)
	}
	other := look
	page.Shade = "dark"
	for _, surface := range d.Surfaces {
		if _, has := surface.Facet(desk.FacetDark); !has {
			continue
		}
		if look.Of(desk.FacetDark, surface.ID) == "dark" {
			page.Shade = "light"
		}
	}
	for _, surface := range d.Surfaces {
		if _, has := surface.Facet(desk.FacetDark); has {
			other = other.With(desk.FacetDark, surface.ID, page.Shade)
		}
	}
	known := map[string]bool{}
	for _, v := range page.Verdicts {
		known[v.Text] = true
	}
	for _, v := range verdicts(f, judge.Of(s.App.Trying(f.Desk, f.Draft), other)) {
		if !known[v.Text] {
			page.Other = append(page.Other, v)
		}
	}
	s.page(w, r, http.StatusOK, "judge", page)
}

func verdicts(f Frame, all []judge.Verdict) []verdictView {
	var out []verdictView
	for _, v := range all {
		view := verdictView{Verdict: v}
		view.Surface, _ = f.Desk.Surface(v.Surface)
		for _, r := range v.Remedies {
			view.Mends = append(view.Mends, mendView{r, valueSays(f.Desk.Desk, r.Facet, r.Want), r.Facet != "" && f.Draft.Want(r.Facet) == r.Want})
		}
		out = append(out, view)
	}
	return out
}
