package web

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"ivelt/app/advice"
	"ivelt/app/bundles"
	"ivelt/app/desks"
	"ivelt/app/drafts"
	"ivelt/app/jobs"
	"ivelt/app/markets"
	"ivelt/core/desk"
	"ivelt/core/fine"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/preview"
	"ivelt/core/reading"
	"ivelt/sign"
	"ivelt/store"
)

type composePage struct {
	Frame
	Fine     []fine.Setting
	Wardrobe []wardrobeView
	Packs    []packView
	Looks    []drafts.Kept
	Missing  []bundles.Missing        // pieces that the draft asks for and nobody finds
	CanGet   bool                     // a market has some of them
	Warned   []string                 // what makers say of the risk of pieces on the draft
	Near     map[string][]advice.Swap // what surfaces that cannot follow could wear
	// What can be undone, and done again.
	Undo, Redo string
}

// wardrobeView is what there is to choose from for one facet.
type wardrobeView struct {
	Facet, Title, Kind string
	Chosen             string // what the draft has, "" for nothing
	Pieces             []wearView
	Market             []findTag // of the markets, what the desk does not have
}

// maxOffered is how many pieces of a kind are offered beside those in place.
const maxOffered = 4

// onOffer lists pieces of the markets that the desk could wear and does not have.
func (s *Server) onOffer(ctx context.Context, d *desks.Managed, kind string, known map[string]bool) ([]findTag, error) {
	found, err := s.App.Markets.Search(ctx, markets.Query{Kind: kind, Only: true, Fits: d, Safe: true, Most: maxOffered + len(known) + 4})
	if err != nil {
		return nil, err
	}
	rows := slices.DeleteFunc(found.Entries, func(e store.MarketEntryRow) bool { return known[strings.ToLower(e.Name)] })
	return s.tags(ctx, rows[:min(maxOffered, len(rows))], d.ID)
}

// tryOn fetches a piece of a market, or takes a parcel of the library, to try it
// on; or takes it off again.
func (s *Server) tryOn(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	if sha := r.FormValue("away"); sha != "" {
		if err := s.App.Overlays.Untry(d, sha); err != nil {
			return refused(err)
		}
		return s.draftChanged(w, r)
	}
	var job *jobs.Job
	then := "/d/" + d.ID + "/compose"
	if sha := r.FormValue("parcel"); sha != "" {
		job, err = s.App.Overlays.TryOn(d, sha, then)
	} else {
		id, _ := strconv.ParseUint(r.FormValue("market"), 10, 32)
		job, err = s.App.Overlays.TryFromMarket(d, markets.Ref{Market: uint(id), Entry: r.FormValue("entry"), Version: r.FormValue("version")}, then)
	}
	if err != nil {
		return unreachable(err)
	}
	s.showJob(w, r, d.ID, job)
	return nil
}

type wearView struct {
	advice.Wear
	OnDraft bool
}

func (s *Server) composeView(r *http.Request) (composePage, error) {
	f, err := s.frame(r, "compose", "compose", "Compose")
	if err != nil {
		return composePage{}, err
	}
	packs, err := s.App.Pieces.Shelf(f.Desk)
	if err != nil {
		return composePage{}, err
	}
	var usable []packView
	for _, p := range packViews(f, packs) {
		if p.Problem == "" && p.HiddenBy == "" {
			usable = append(usable, p)
		}
	}
	page := composePage{Frame: f, Packs: usable}
	if page.Missing, err = s.App.Bundles.MissingOf(f.Desk, f.Draft); err != nil {
		return composePage{}, err
	}
	if page.Warned, err = s.App.Review.Warnings(f.Desk, plan.Plan{}, f.Draft); err != nil {
		return composePage{}, err
	}
	in := s.App.Advice.Catalogue(r.Context(), f.Desk)
	page.Near = s.App.Advice.Nearest(in, f.Draft)
	page.CanGet = bundles.Gettable(page.Missing)
	if page.Looks, err = s.App.Drafts.Looks(f.Desk); err != nil {
		return composePage{}, err
	}
	page.Undo, page.Redo = s.App.Drafts.Steps(f.Desk)
	page.Fine = fine.Settings(r.Context(), f.Now, f.Draft)
	for _, of := range []struct{ facet, kind string }{
		{desk.FacetWidgets, "theme"}, {desk.FacetIcons, "icons"}, {desk.FacetPointer, "pointer"}, {desk.FacetFont, "font"}, {desk.FacetBar, "theme"}, {desk.FacetBackdrop, "backdrop"}, {desk.FacetPalette, "palette"}, {desk.FacetPictures, "style"}, {desk.FacetLogin, "login"},
	} {
		if !f.Desk.Has(of.facet) {
			continue
		}
		v := wardrobeView{Facet: of.facet, Title: desk.FacetTitle(of.facet), Kind: of.kind, Chosen: fine.Says(of.facet, f.Draft.Want(of.facet))}
		known := map[string]bool{}
		for _, w := range in.Of(of.facet) {
			known[strings.ToLower(w.Name)] = true
			if of.facet != desk.FacetIcons || w.Tried != "" { // the packs in place are listed with what the shelf knows of them
				v.Pieces = append(v.Pieces, wearView{w, onDraft(f.Draft, of.facet, w.Folder)})
			}
		}
		if of.facet != desk.FacetBar { // that is in the themes
			v.Market, err = s.onOffer(r.Context(), f.Desk, of.kind, known)
			if err != nil {
				return composePage{}, err
			}
		}
		page.Wardrobe = append(page.Wardrobe, v)
	}
	return page, nil
}

func (s *Server) compose(w http.ResponseWriter, r *http.Request) error {
	p, err := s.composeView(r)
	if err != nil {
		return err
	}
	s.page(w, r, http.StatusOK, "compose", p)
	return nil
}

func (s *Server) choose(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	if _, err := s.App.Drafts.Choose(d, r.FormValue("facet"), r.FormValue("piece")); err != nil {
		return refused(err)
	}
	switch then := r.FormValue("then"); {
	case then == "match" || then == "judge":
		to(w, r, "/d/"+d.ID+"/"+then)
	case then != "":
		surface, ok := d.Surface(then)
		if !ok || surfacePage(d, surface) == "" {
			return refused(errNothingToDo)
		}
		to(w, r, surfacePage(d, surface))
	default:
		return s.draftChanged(w, r)
	}
	return nil
}

func (s *Server) dropDraft(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	if err := s.App.Drafts.Drop(d); err != nil {
		return err
	}
	if r.FormValue("then") != "" {
		to(w, r, "/d/"+d.ID+"/compose")
		return nil
	}
	return s.draftChanged(w, r)
}

// draftChanged swaps what shows the draft: the picture, the list beside it, the
// strip at the foot, and the marks on the packs.
func (s *Server) draftChanged(w http.ResponseWriter, r *http.Request) error {
	p, err := s.composeView(r)
	if err != nil {
		return err
	}
	if r.Header.Get("HX-Request") == "" {
		http.Redirect(w, r, "/d/"+p.Desk.ID+"/compose", http.StatusSeeOther)
		return nil
	}
	p.Swap = true
	s.part(w, r, "compose", "draft-changed", p)
	return nil
}

func (s *Server) picture(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	trying, look, err := s.lookOf(r.Context(), d, r.FormValue("look"))
	if err != nil {
		return missing(err)
	}
	if shade := r.FormValue("shade"); shade == "dark" || shade == "light" {
		look.Shade = shade
	}
	for _, state := range preview.States {
		if state.Name == r.FormValue("state") {
			look.State = state.Name
		}
	}
	servePicture(w, r, "image/svg+xml", preview.Draw(trying, look, r.FormValue("scene")))
	return nil
}

// pictureNotes tells what a picture does without.
func (s *Server) pictureNotes(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	trying, look, err := s.lookOf(r.Context(), d, r.FormValue("look"))
	if err != nil {
		return missing(err)
	}
	s.part(w, r, "compose", "picture-notes", preview.Notes(trying, look, r.FormValue("scene")))
	return nil
}

// bead serves what stands for what a surface shows for a facet.
func (s *Server) bead(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	surface, ok := d.Surface(r.FormValue("surface"))
	if _, has := surface.Facet(r.FormValue("facet")); !ok || !has {
		return missing(errNotHere)
	}
	servePicture(w, r, "image/svg+xml", sign.Bead(d.Desk, preview.Worn(r.Context(), d.Desk), r.FormValue("facet"), surface.ID))
	return nil
}

func etag(b []byte) string {
	sum := sha256.Sum256(b)
	return `"` + hex.EncodeToString(sum[:8]) + `"`
}

// onDraft reports whether a piece is what the draft has for a facet.
func onDraft(o outfit.Outfit, facet, piece string) bool {
	want := o.Want(facet)
	if f, _ := desk.FacetOf(facet); f.Takes == desk.TakesFont {
		want = o.Choices[facet].Piece
	}
	return want != "" && reading.Same(desk.Facet{}, want, piece)
}
