package web

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"html/template"
	"net/http"
	"net/url"
	"path"
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
	"ivelt/core/say"
	"ivelt/sign"
	"ivelt/store"
)

type composePage struct {
	Frame
	Groups  []groupView
	Open    wardrobeView // of the group that is open
	Fine    []fine.Setting
	Looks   []drafts.Kept
	Older   int                      // looks that are not shown, the older ones
	Missing []bundles.Missing        // pieces that the draft asks for and nobody finds
	CanGet  bool                     // a market has some of them
	Warned  []string                 // what makers say of the risk of pieces on the draft
	Near    map[string][]advice.Swap // what surfaces that cannot follow could wear
	// What can be undone, and done again.
	Undo, Redo string
	Making     making
	Moves      movesView
	Elements   elementsView
}

// groupView is a tag of what is chosen together, with what the look has of it.
type groupView struct {
	fine.Group
	Address string
	Bead    template.URL // a small picture of it
	Says    say.Message  // what the look shows: "Saltpan", "mixed"
	Changed int          // choices on the draft
	Open    bool
}

// wardrobeView is what there is to choose from for one facet.
type wardrobeView struct {
	Facet, Kind   string
	Title         say.Word
	Has           bool         // some surface has the facet
	Chosen        *say.Message // what the draft has, nil for nothing
	Marks         bool         // the page is to mark what is chosen,
	On            string       // this, by its folder
	Words         string       // what the pieces are searched for
	Count         int          // pieces in all
	Pieces        []wearView
	More          string        // address of the same with the rest, "" if this is all
	Market        []findTag     // of the markets, what the desk does not have
	Dyes, Colours []fine.Option // packs that can be had in another colour, and colours for them
	Palette       string        // and a palette for them, "" for none
}

// maxStrip is how many saved looks are shown at first, the latest ones.
const maxStrip = 12

// maxWall is how many pieces a facet's wall shows at first.
const maxWall = 12

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
		job, err = s.App.Overlays.TryOn(d, sha, r.FormValue("facet"), then)
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
	Apart   string // what tells it from others of its name, "" if there is none
}

// shownBy are the wishes of the page of Compose that a request asks for, or that its form was
// sent from: which group, which words.
func shownBy(r *http.Request) url.Values {
	if r.Method == http.MethodGet {
		return r.URL.Query()
	}
	at, err := url.Parse(cmp.Or(r.Header.Get("HX-Current-URL"), r.Referer()))
	if err != nil || !strings.HasSuffix(at.Path, "/compose") {
		return url.Values{}
	}
	return at.Query()
}

// openGroup is the group that a page of Compose shows: the one asked for, or that of the facet
// that was chosen.
func openGroup(r *http.Request) fine.Group {
	for _, facet := range []string{shownBy(r).Get("facet"), r.PostFormValue("facet")} {
		if g, ok := fine.GroupOf(facet); ok {
			return g
		}
	}
	return fine.Groups[0]
}

func (s *Server) composeView(r *http.Request) (composePage, error) {
	page, err := s.draftView(r)
	if err != nil {
		return composePage{}, err
	}
	f := page.Frame
	if page.Missing, err = s.App.Bundles.MissingOf(f.Desk, f.Draft); err != nil {
		return composePage{}, err
	}
	if page.Warned, err = s.App.Review.Warnings(f.Desk, plan.Plan{}, f.Draft); err != nil {
		return composePage{}, err
	}
	in := s.App.Advice.CatalogueOf(r.Context(), f.Desk, f.Now)
	page.Near = s.App.Advice.Nearest(in, f.Trying(), f.Draft)
	page.CanGet = bundles.Gettable(page.Missing)
	page.Open, err = s.wardrobe(r, f, in, openGroup(r))
	return page, err
}

// draftView is what a page of Compose shows of the draft, without what there is to choose.
func (s *Server) draftView(r *http.Request) (composePage, error) {
	f, err := s.frame(r, "compose", "compose", "Compose")
	if err != nil {
		return composePage{}, err
	}
	page := composePage{Frame: f}
	if page.Looks, err = s.App.Drafts.Looks(f.Desk); err != nil {
		return composePage{}, err
	}
	if n := len(page.Looks); n > maxStrip && shownBy(r).Get("looks") == "" {
		page.Older, page.Looks = n-maxStrip, page.Looks[n-maxStrip:]
	}
	page.Undo, page.Redo = s.App.Drafts.Steps(f.Desk)
	if page.Making, err = s.makingOf(f.Desk); err != nil {
		return composePage{}, err
	}
	trying := f.Trying()
	look := preview.Draft(r.Context(), trying, f.Draft)
	open := openGroup(r)
	page.Groups = groups(trying, f, look, open.Facet)
	page.Fine = fine.Settings(f.Now, f.Draft, look, open.Settle)
	page.Open = wardrobeOf(f, open)
	if open.Facet == desk.FacetWidgets {
		page.Moves = movesOf(f, look, page.Making)
	}
	if open.Facet == desk.FacetPictures {
		page.Elements = elementsOf(r.Context(), f, look, page.Making, shownBy(r).Get("element"))
	}
	return page, nil
}

// Plain is the page for a part that is swapped within another.
func (p composePage) Plain() composePage {
	p.Swap = false
	return p
}

// Off is what undoes the choice of the open group's piece, swapped by itself.
func (p composePage) Off() map[string]any {
	return map[string]any{"Desk": p.Desk, "Of": p.Open, "Swap": true}
}

// groups are the tags of the groups that a desk has something of.
func groups(trying *desk.Desk, f Frame, look preview.Look, open string) []groupView {
	var out []groupView
	for _, g := range fine.Groups {
		v := groupView{Group: g, Open: g.Facet == open, Address: "/d/" + f.Desk.ID + "/compose?facet=" + g.Facet}
		var shown []say.Message
		has, beaded := false, false
		for _, facet := range g.Facets() {
			if f.Draft.Want(facet) != "" {
				v.Changed++
			}
			for _, surface := range trying.Surfaces() {
				if _, ok := surface.Facet(facet); !ok {
					continue
				}
				has = true
				of, _ := surface.Facet(facet)
				if says := fine.Says(facet, look.Of(facet, surface.ID)); facet == g.Facet && !of.Fixed && says.Code != "" && !slices.ContainsFunc(shown, func(m say.Message) bool { return m.String() == says.String() }) {
					shown = append(shown, says)
				}
				if !beaded {
					beaded = true
					v.Bead = template.URL("data:image/svg+xml;base64," + base64.StdEncoding.EncodeToString(sign.Bead(trying, look, facet, surface.ID)))
				}
			}
		}
		switch len(shown) {
		case 0:
			v.Says = say.Line("default")
		case 1:
			v.Says = shown[0]
		default:
			v.Says = say.Line("mixed: %s", say.Join(", ", shown...))
		}
		if has {
			out = append(out, v)
		}
	}
	return out
}

// wardrobeOf is a wardrobe without its pieces.
func wardrobeOf(f Frame, g fine.Group) wardrobeView {
	return wardrobeView{Facet: g.Facet, Title: g.Title, Kind: string(advice.KindOf(g.Facet)), Has: f.Desk.Has(g.Facet), Chosen: shows(g.Facet, f.Draft.Want(g.Facet))}
}

// wardrobe is what there is to choose from in a group.
func (s *Server) wardrobe(r *http.Request, f Frame, in *advice.Catalogue, g fine.Group) (v wardrobeView, err error) {
	v = wardrobeOf(f, g)
	v.Words = strings.TrimSpace(shownBy(r).Get("q"))
	if !v.Has {
		return v, nil
	}
	all, known, twins := in.Listed(g.Facet), map[string]bool{}, map[string]int{}
	for _, w := range all {
		known[strings.ToLower(w.Name)] = true
		twins[strings.ToLower(w.Name)]++
	}
	for _, w := range all {
		v.Count++
		if !contains(w.Name+" "+w.Folder+" "+w.Comment, v.Words) {
			continue
		}
		of := wearView{Wear: w, OnDraft: onDraft(f.Draft, g.Facet, w.Folder)}
		if twins[strings.ToLower(w.Name)] > 1 {
			if of.Apart = w.Folder; path.IsAbs(w.Folder) {
				of.Apart = f.Desk.Show(path.Dir(w.Folder))
			}
		}
		v.Pieces = append(v.Pieces, of)
	}
	if slices.Contains([]string{desk.FacetIcons, desk.FacetPointer, desk.FacetPictures}, g.Facet) {
		v.Colours = fine.Accents
		if g.Facet != desk.FacetPointer {
			if v.Palette, _, _, err = s.App.Layers.PaletteOf(r.Context(), f.Desk); err != nil {
				return v, err
			}
		}
		for _, w := range all {
			if w.Tried == "" && !w.BuiltIn {
				v.Dyes = append(v.Dyes, fine.Option{Value: w.Folder, Title: say.Words(w.Name), Chosen: len(w.UsedBy) > 0 && !slices.ContainsFunc(v.Dyes, func(o fine.Option) bool { return o.Chosen })})
			}
		}
	}
	if len(v.Pieces) > maxWall && shownBy(r).Get("all") == "" {
		// what is chosen, tried on or in use is among the first
		slices.SortStableFunc(v.Pieces, func(a, b wearView) int { return cmp.Compare(a.rank(), b.rank()) })
		v.Pieces = v.Pieces[:maxWall]
		v.More = "/d/" + f.Desk.ID + "/compose?" + url.Values{"facet": {g.Facet}, "q": {v.Words}, "all": {"1"}}.Encode()
	}
	for i := range v.Pieces {
		in.Ask(g.Facet, &v.Pieces[i].Wear)
	}
	if g.Facet != desk.FacetBar { // that is in the themes
		v.Market, err = s.onOffer(r.Context(), f.Desk, v.Kind, known)
	}
	return v, err
}

// rank is 0 for what a wall shows in any case.
func (w wearView) rank() int {
	if w.OnDraft || w.Tried != "" || len(w.UsedBy) > 0 {
		return 0
	}
	return 1
}

// contains reports whether a text has every one of some words, in any case.
func contains(text, words string) bool {
	text = strings.ToLower(text)
	for _, word := range strings.Fields(strings.ToLower(words)) {
		if !strings.Contains(text, word) {
			return false
		}
	}
	return true
}

func (s *Server) compose(w http.ResponseWriter, r *http.Request) error {
	p, err := s.composeView(r)
	if err != nil {
		return err
	}
	if target := r.Header.Get("HX-Target"); target == "picks" || target == "picks-wall" {
		s.part(w, r, "compose", "opened", p)
		return nil
	}
	if r.Header.Get("HX-Target") == "moves" {
		s.part(w, r, "compose", "moves", p)
		return nil
	}
	s.page(w, r, http.StatusOK, "compose", p)
	return nil
}

// Swapped is the page for parts that are swapped beside the one asked for.
func (p composePage) Swapped() composePage {
	p.Swap = true
	return p
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
	case then == "match" || then == "judge" || then == "arrange":
		to(w, r, "/d/"+d.ID+"/"+then)
	case then != "":
		surface, ok := d.Surface(then)
		if !ok || surfacePage(d, surface) == "" {
			return refused(errNothingToDo)
		}
		to(w, r, surfacePage(d, surface))
	case r.Header.Get("HX-Request") != "":
		return s.chosen(w, r)
	default:
		return s.draftChanged(w, r)
	}
	return nil
}

// chosen swaps what a choice changes, and not the wall: there the page marks it itself.
func (s *Server) chosen(w http.ResponseWriter, r *http.Request) error {
	p, err := s.draftView(r)
	if err != nil {
		return err
	}
	p.Swap = true
	if facet, piece := r.PostFormValue("facet"), r.PostFormValue("piece"); facet == p.Open.Facet && !strings.HasPrefix(piece, " ") {
		p.Open.Marks, p.Open.On = true, piece
	}
	s.part(w, r, "compose", "chosen", p)
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
	if r.Header.Get("HX-Request") == "" {
		to := "compose?facet=" + openGroup(r).Facet
		if r.FormValue("then") == "arrange" {
			to = "arrange"
		}
		http.Redirect(w, r, "/d/"+chi.URLParam(r, "desk")+"/"+to, http.StatusSeeOther)
		return nil
	}
	p, err := s.composeView(r)
	if err != nil {
		return err
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
	trying, look, err := s.lookAsked(r.Context(), d, r)
	if err != nil {
		return err
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
