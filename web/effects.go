package web

import (
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"time"

	"github.com/go-chi/chi/v5"

	"ivelt/core/desk"
	"ivelt/core/effect"
	"ivelt/core/preview"
	"ivelt/core/say"
)

// effectsPage plays how windows move, and tells what that costs.
type effectsPage struct {
	Frame
	Surface desk.Surface // that moves them
	Rows    []effectRow
	Less    bool // the person wishes for less motion
	HasLess bool // and can say so here
	All     string
	Easings []effect.Easing
	On      string // the monitor that costs are counted on
}

// effectRow is one action.
type effectRow struct {
	Facet   string
	Title   say.Word
	Set     effect.Effect // as it is set
	Plays   effect.Effect // and as it is played, with less motion, or without effects
	Kinds   []string
	Picture string
	Cost    effect.Cost
	On      []effectOn
}

// effectOn is what an effect is on a computer.
type effectOn struct {
	Name  string
	Drops int
}

// Million is how many pixels are touched in the dearest frame.
func (r effectRow) Million() string { return fmt.Sprintf("%.1f", r.Cost.Frame/1e6) }

// Ms is how long it takes.
func (r effectRow) Ms() int { return int(r.Set.For / time.Millisecond) }

// Easing is how it gathers way.
func (r effectRow) Easing() string { return r.Set.Easing.Name }

// Same reports whether it is played as it is set.
func (r effectRow) Same() bool { return r.Plays.String() == r.Set.String() }

// movesOn is the surface of a desk that moves windows.
func movesOn(d *desk.Desk) (desk.Surface, bool) {
	i := slices.IndexFunc(d.Surfaces(), preview.Moves)
	if i < 0 {
		return desk.Surface{}, false
	}
	return d.Surfaces()[i], true
}

func (s *Server) effects(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "effects", "compose", "Effects")
	if err != nil {
		return err
	}
	page := effectsPage{Frame: f, Easings: effect.Easings}
	on := f.Trying()
	surface, ok := movesOn(on)
	if !ok {
		return refused(say.Errorf("nothing on %s says how windows move", f.Desk.Title))
	}
	page.Surface = surface
	look := preview.Draft(r.Context(), on, f.Draft)
	_, page.HasLess = surface.Facet(desk.FacetMotion)
	page.Less, page.All = look.Of(desk.FacetMotion, surface.ID) == "less", look.Of(desk.FacetEffects, surface.ID)
	scene := preview.EffectScene(on)
	page.On = fmt.Sprintf("%.0f × %.0f", scene.Screen.W, scene.Screen.H)
	for _, facet := range surface.Facets {
		action := desk.EffectOf(facet.Name)
		if action == "" {
			continue
		}
		info, _ := desk.FacetOf(facet.Name)
		row := effectRow{Facet: facet.Name, Title: info.Title, Kinds: effect.Kinds(action), Plays: preview.EffectOf(look, surface, action)}
		if row.Set, err = effect.Parse(action, look.Of(facet.Name, surface.ID)); err != nil {
			return err
		}
		if row.Set.For == 0 {
			row.Set.For, row.Set.Easing = 180*time.Millisecond, effect.Easings[3] // to begin with
		}
		row.Cost = row.Plays.CostOf(scene, effect.Glass{})
		for _, on := range effect.Computers {
			row.On = append(row.On, effectOn{on.Name, row.Cost.Drops(on)})
		}
		row.Picture = fmt.Sprintf("/d/%s/effects/played.svg?facet=%s&as=%s", f.Desk.ID, facet.Name, etag([]byte(row.Plays.String() + string(f.Draft.Bytes())))[1:9])
		page.Rows = append(page.Rows, row)
	}
	s.page(w, r, http.StatusOK, "effects", page)
	return nil
}

// effectPlayed is the picture of an effect, that moves or stands still.
func (s *Server) effectPlayed(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	on, look, err := s.lookOf(r.Context(), d, "draft")
	if err != nil {
		return err
	}
	look = s.inLanguage(r, look)
	surface, ok := movesOn(on)
	action := desk.EffectOf(r.FormValue("facet"))
	if _, has := surface.Facet(r.FormValue("facet")); !ok || !has || action == "" {
		return missing(errNotHere)
	}
	servePicture(w, r, "image/svg+xml", preview.Played(on, look, preview.EffectOf(look, surface, action), r.FormValue("still") != ""))
	return nil
}

// changeEffects puts an effect on the draft.
func (s *Server) changeEffects(w http.ResponseWriter, r *http.Request) error {
	if err := r.ParseForm(); err != nil {
		return refused(err)
	}
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	choices := map[string]string{}
	for _, facet := range []string{desk.FacetMotion, desk.FacetEffects} {
		if value := r.Form.Get(facet); value != "" {
			choices[facet] = value
		}
	}
	for _, facet := range []string{desk.FacetOpening, desk.FacetClosing, desk.FacetHiding, desk.FacetSwitching} {
		kind := r.Form.Get(facet + ".kind")
		if kind == "" {
			continue
		}
		ms, err := strconv.Atoi(r.Form.Get(facet + ".ms"))
		if err != nil {
			return refused(say.Errorf("%s takes a whole number of milliseconds, not %q", desk.FacetTitle(facet), r.Form.Get(facet+".ms")))
		}
		if choices[facet] = fmt.Sprintf("%s %d %s", kind, ms, r.Form.Get(facet+".easing")); kind == "none" {
			choices[facet] = "none"
		}
	}
	if len(choices) == 0 {
		return refused(errNothingToDo)
	}
	look := preview.Worn(r.Context(), d.Desk)
	draft, err := s.App.Drafts.Draft(d)
	if err != nil {
		return err
	}
	for facet, value := range choices { // what it is already is no choice
		if draft.Want(facet) == "" && isSo(d.Desk, look, facet, value) {
			delete(choices, facet)
		}
	}
	if _, err := s.App.Drafts.ChooseAll(d, "effects", choices); err != nil {
		return refused(err)
	}
	if r.Header.Get("HX-Request") != "" {
		return s.effects(w, r)
	}
	to(w, r, "/d/"+d.ID+"/effects")
	return nil
}

// isSo reports whether every surface that has a facet shows a value.
func isSo(d *desk.Desk, look preview.Look, facet, value string) bool {
	return !slices.ContainsFunc(d.Surfaces(), func(s desk.Surface) bool {
		_, has := s.Facet(facet)
		return has && look.Of(facet, s.ID) != value
	})
}

// HasEffects reports whether the group that is open has how windows move.
func (p composePage) HasEffects() bool {
	return p.Open.Facet == desk.FacetWidgets && p.Desk.Has(desk.FacetOpening)
}

// Amounts are how much of its effects a surface may play.
func (effectsPage) Amounts() []string {
	info, _ := desk.FacetOf(desk.FacetEffects)
	return info.Words
}

// Smooth reports whether no computer drops a frame.
func (r effectRow) Smooth() bool {
	return !slices.ContainsFunc(r.On, func(on effectOn) bool { return on.Drops > 0 })
}
