package web

import (
	"context"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"

	"github.com/go-chi/chi/v5"

	"ivelt/app/advice"
	"ivelt/app/bundles"
	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/core/desk"
	"ivelt/core/fine"
	"ivelt/core/judge"
	"ivelt/core/preview"
	"ivelt/core/say"
	"ivelt/core/taste"
)

// bundlePage looks at an outfit that came in a parcel, before any of it is taken.
type bundlePage struct {
	Frame
	Bundle bundles.Bundle
	Looks  []bundleView // how things look
	Layout []bundleView // where things are
	Acts   []bundleView // what does something, and is off by itself
	Open   []openView
	First  []bundles.Missing // what it needs first, each once
	Came   []string          // pieces that came with it
	Here   []string          // and those that are in place
	Cannot int               // facets that no surface of the desk can follow
}

type bundleView struct {
	bundles.BundleFacet
	Says    *say.Message
	OnDraft bool
}

type openView struct {
	Facet  string
	Offers []offerView
}

// offerView is a suggestion with the picture of its piece.
type offerView struct {
	advice.Suggestion
	DeskID  string
	OnDraft bool
}

// Picture is the address of the piece's picture, "" if there is none.
func (o offerView) Picture() string {
	if o.Entry != nil {
		if !o.Entry.Picced {
			return ""
		}
		return "/market/" + strconv.FormatUint(uint64(o.Entry.Market), 10) + "/" + url.PathEscape(o.Entry.Key) + "/picture"
	}
	return "/d/" + o.DeskID + "/tag.svg?facet=" + o.Facet + "&piece=" + url.QueryEscape(wearName(o.Suggestion))
}

// wearName is how the wardrobe calls a suggestion in place: of a font the family.
func wearName(s advice.Suggestion) string {
	if s.Facet == desk.FacetFont {
		family, _ := desk.SplitFont(s.Want)
		return family
	}
	return s.Want
}

// Percent is the score of 100.
func (o offerView) Percent() int { return int(o.Score*100 + 0.5) }

func offersOf(f Frame, all []advice.Suggestion) []offerView {
	var out []offerView
	for _, s := range all {
		out = append(out, offerView{s, f.Desk.ID, s.Want != "" && f.Draft.Want(s.Facet) == s.Want})
	}
	return out
}

// openBundle lays out what came with an outfit, and leads to its page.
func (s *Server) openBundle(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	sha := chi.URLParam(r, "sha")
	job, err := s.App.Bundles.Open(d, sha, "/d/"+d.ID+"/parcel/"+sha+"/bundle?piece="+url.QueryEscape(r.FormValue("piece")))
	if err != nil {
		return refused(err)
	}
	s.showJob(w, r, d.ID, job)
	return nil
}

func (s *Server) bundle(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "bundle", "find", "Bundle")
	if err != nil {
		return err
	}
	b, err := s.App.Bundles.Look(r.Context(), f.Desk, chi.URLParam(r, "sha"), r.URL.Query().Get("piece"))
	if err != nil {
		return missing(err)
	}
	f.Title = say.Words(b.Outfit.Name)
	page := bundlePage{Frame: f, Bundle: b, First: bundles.Once(b.Lacks)}
	for _, of := range b.Facets {
		v := bundleView{of, shows(of.Facet, of.Want), f.Draft.Want(of.Facet) == of.Want}
		if len(of.On)+len(of.Once) == 0 {
			page.Cannot++
		}
		switch name := fine.Says(of.Facet, of.Want).String(); {
		case of.Comes == bundles.WithIt && !slices.Contains(page.Came, name):
			page.Came = append(page.Came, name)
		case of.Comes == bundles.InPlace && !slices.Contains(page.Here, name):
			page.Here = append(page.Here, name)
		}
		switch {
		case of.Acts:
			page.Acts = append(page.Acts, v)
		case of.Layout:
			page.Layout = append(page.Layout, v)
		default:
			page.Looks = append(page.Looks, v)
		}
	}
	for _, open := range b.Open {
		page.Open = append(page.Open, openView{open.Facet, offersOf(f, open.Offer)})
	}
	s.page(w, r, http.StatusOK, "bundle", page)
	return nil
}

// takeBundle puts the facets that were marked of a parcel's outfit on the draft;
// all of them, if no choice was offered.
func (s *Server) takeBundle(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	if err := r.ParseForm(); err != nil {
		return refused(err)
	}
	only := r.Form["facet"]
	if r.Form.Has("some") && only == nil {
		only = []string{}
	}
	job, err := s.App.Bundles.Take(r.Context(), d, chi.URLParam(r, "sha"), r.FormValue("take"), only, r.FormValue("near") != "", "/d/"+d.ID+"/compose")
	if err != nil {
		return refused(err)
	}
	s.showJob(w, r, d.ID, job)
	return nil
}

// suggest serves what goes with the draft for one facet.
func (s *Server) suggest(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "compose", "compose", "Compose")
	if err != nil {
		return err
	}
	facet := r.URL.Query().Get("facet")
	all, err := s.App.Advice.Suggest(r.Context(), f.Desk, f.Draft, facet)
	if err != nil {
		return err
	}
	s.part(w, r, "compose", "suggested", openView{facet, offersOf(f, all)})
	return nil
}

// completePage proposes three whole looks.
type completePage struct {
	Frame
	Proposals []proposalView
	Why       error // there are none
	Fetch     int64
	Lacks     int
	Fixed     []FacetRow
}

type proposalView struct {
	advice.Proposal
	Shown  string // the address of its picture
	Offers []offerView
}

func (s *Server) complete(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "complete", "compose", "Complete")
	if err != nil {
		return err
	}
	page := completePage{Frame: f, Fixed: f.Facets()}
	all, err := s.App.Advice.Complete(r.Context(), f.Desk)
	if err != nil {
		page.Why = err
	}
	page.Lacks, page.Fetch = advice.ToFetch(all)
	for _, p := range all {
		shown := fmt.Sprintf("/d/%s/picture.svg?look=%s&scene=desk&v=%s-%d-%d", f.Desk.ID, p.Manner, f.Version(), p.Lacks, p.Score)
		page.Proposals = append(page.Proposals, proposalView{p, shown, offersOf(f, p.Picks)})
	}
	s.page(w, r, http.StatusOK, "complete", page)
	return nil
}

// inShort is a judgement in a line.
type inShort struct {
	Things, Grave int
	First         string // the worst of them, a sentence
}

// judgeProposal serves how well a proposal can be read.
func (s *Server) judgeProposal(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	p, ok := s.proposed(r.Context(), d, chi.URLParam(r, "manner"))
	if !ok {
		return missing(errNotHere)
	}
	var short inShort
	seen := s.App.Overlays.Trying(d, p.Outfit)
	for _, v := range judge.Of(seen, preview.Draft(r.Context(), seen, p.Outfit)) {
		if v.Code == judge.Costly {
			continue
		}
		if short.Things == 0 {
			short.First = v.Text
		}
		short.Things++
		if v.Grave {
			short.Grave++
		}
	}
	s.part(w, r, "complete", "in-short", short)
	return nil
}

// takeComplete pictures the proposals, or puts one of them on the draft.
func (s *Server) takeComplete(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	var job *jobs.Job
	if r.FormValue("do") == "picture" {
		job, err = s.App.Advice.PictureProposals(r.Context(), d, "/d/"+d.ID+"/complete")
	} else {
		job, err = s.App.Advice.TakeProposal(r.Context(), d, taste.Manner(r.FormValue("manner")), "/d/"+d.ID+"/compose")
	}
	if err != nil {
		return refused(err)
	}
	s.showJob(w, r, d.ID, job)
	return nil
}

// getMissing fetches what the draft asks for and the desk has not.
func (s *Server) getMissing(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	job, err := s.App.Bundles.GetMissing(d, "/d/"+d.ID+"/compose")
	if err != nil {
		return refused(err)
	}
	s.showJob(w, r, d.ID, job)
	return nil
}

// proposed is the outfit of a proposal.
func (s *Server) proposed(ctx context.Context, d *desks.Managed, manner string) (advice.Proposal, bool) {
	all, err := s.App.Advice.Complete(ctx, d)
	if err != nil {
		return advice.Proposal{}, false
	}
	for _, p := range all {
		if string(p.Manner) == manner {
			return p, true
		}
	}
	return advice.Proposal{}, false
}
