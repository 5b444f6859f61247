package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"ivelt/app/desks"
	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/planning"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// whyPage tells why a surface shows what it shows for a facet.
type whyPage struct {
	Frame
	Cell     cellView
	Of       say.Word // what the facet is called
	Evidence string
	Surfaces []pickView // that have the facet
	Aspects  []pickView // that the surface has
	Rungs    []rungView
	Places   []placeView
	Asked    string // what is asked of the facet everywhere
	Cannot   string // why the surface cannot be told of the facet
}

// pickView is something else to look at.
type pickView struct {
	Title   say.Message
	Address string
	Here    bool
	State   match.State
	Next    bool // it is the one after this, for the key that goes on
}

type rungView struct {
	reading.Link
	Shown   string
	Open    string       // address of the file, if it is there
	Says    say.Word     // the state in words
	Value   *say.Message // as pages write it
	Edit    bool         // whether it may be edited here
	CanDrop bool         // whether what it says may be taken out
	Offer   string       // what to say, to begin with
	// Database: it stands in the desktop's settings, and not on the display.
	Database bool
}

type placeView struct {
	reading.Place
	Shown string
	Says  say.Word
}

var stepSays = map[reading.State]say.Word{
	reading.Wins: "decides", reading.Overruled: "overruled", reading.Silent: "says nothing", reading.Absent: "not there",
	reading.Broken: "cannot be read", reading.NotAsked: "does not count", reading.SignIn: "at sign-in",
}

var placeSays = map[reading.PlaceState]say.Word{
	reading.FoundHere: "found here", reading.ShadowHere: "another, shadowed by the first", reading.PartMissing: "there, with nothing for this surface",
	reading.Empty: "not in it", reading.NoFolder: "no such folder", reading.NotGranted: "not granted",
}

func whyAddress(d *desks.Managed, surface, facet string) string {
	return "/d/" + d.ID + "/why/" + url.PathEscape(surface) + "/" + url.PathEscape(facet)
}

func (s *Server) why(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "why", "match", "Why")
	if err != nil {
		return err
	}
	page, err := s.whyView(r.Context(), f, chi.URLParam(r, "surface"), chi.URLParam(r, "facet"))
	if err != nil {
		return missing(err)
	}
	s.page(w, r, http.StatusOK, "why", page)
	return nil
}

func (s *Server) whyView(ctx context.Context, f Frame, id, facet string) (whyPage, error) {
	d := f.Desk
	surface, ok := d.Surface(id)
	of, has := surface.Facet(facet)
	if !ok || !has {
		return whyPage{}, errors.New("this desk has no such surface, or nothing is known of that for it")
	}
	o, draft, err := s.App.Drafts.Wanted(d)
	if err != nil {
		return whyPage{}, err
	}
	board := match.Of(f.Trying(), o)
	cell, _ := board.Cell(id, facet)
	page := whyPage{Frame: f, Cell: cellOf(s.beading(ctx, f), d, cell, draft), Asked: o.Want(facet), Of: desk.FacetTitle(facet), Evidence: of.Evidence}
	page.Title = say.Line("%s, %s", page.Of, surface.Title)
	for _, other := range d.Surfaces() {
		if _, has := other.Facet(facet); has {
			page.Surfaces = append(page.Surfaces, pickView{Title: other.Named().Message(), Address: whyAddress(d, other.ID, facet), Here: other.ID == id, State: stateOf(board, other.ID, facet)})
		}
	}
	for _, info := range desk.Facets {
		if _, has := surface.Facet(info.Name); has {
			page.Aspects = append(page.Aspects, pickView{Title: info.Title.Message(), Address: whyAddress(d, id, info.Name), Here: info.Name == facet, State: stateOf(board, id, info.Name)})
		}
	}
	for _, step := range cell.Reading.Chain {
		page.Rungs = append(page.Rungs, s.rung(d, step, facet, cell))
	}
	for _, p := range reading.Search(f.Now, of.Lookup, cell.Reading.Value) {
		page.Places = append(page.Places, placeView{p, d.Show(p.Path), placeSays[p.State]})
	}
	return page, nil
}

func stateOf(b match.Board, surface, facet string) match.State {
	c, _ := b.Cell(surface, facet)
	return c.State
}

func (s *Server) rung(d *desks.Managed, step reading.Link, facet string, cell match.Cell) rungView {
	v := rungView{Link: step, Shown: d.Show(step.Path), Says: stepSays[step.State], Value: shows(facet, step.Value)}
	if step.Path != "" && step.State != reading.Absent {
		v.Open = fmt.Sprintf("/d/%s/source?%s#line-%d", d.ID, url.Values{"file": {step.Path}, "line": {strconv.Itoa(step.Line)}}.Encode(), step.Line)
	}
	says := step.State == reading.Wins || step.State == reading.Overruled
	v.Database = strings.Contains(step.Key, " ")
	v.Edit = d.Writable() && step.State != reading.Broken && step.State != reading.NotAsked && planning.CanSay(d.Desk, planning.SourceRef{Surface: cell.Surface.ID, Facet: facet, Path: step.Path, Key: step.Key})
	v.CanDrop = v.Edit && says
	v.Offer = step.Value
	if cell.Want != "" {
		v.Offer = cell.Want
	}
	return v
}

// whyStep shows the plan of editing one source.
func (s *Server) whyStep(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "review", "match", "Review")
	if err != nil {
		return err
	}
	at := planning.SourceRef{Surface: chi.URLParam(r, "surface"), Facet: chi.URLParam(r, "facet"), Path: r.FormValue("path"), Key: r.FormValue("key")}
	want := r.FormValue("want")
	switch r.FormValue("do") {
	case "out":
		want = ""
	case "say":
		info, _ := desk.FacetOf(at.Facet)
		if err := info.Accepts(want); err != nil {
			return refused(err)
		}
	default:
		return refused(errors.New("that is nothing that can be done with a source"))
	}
	p, err := s.App.Review.Step(f.Desk, at, want)
	if err != nil {
		return refused(err)
	}
	s.stepPage(w, r, f, p, whyAddress(f.Desk, at.Surface, at.Facet))
	return nil
}
