package web

import (
	"cmp"
	"context"
	"errors"
	"net/http"
	"path"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"ivelt/app/advice"
	"ivelt/app/changes"
	"ivelt/app/desks"
	"ivelt/app/drafts"
	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/fine"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/core/preview"
	"ivelt/core/reading"
	"ivelt/core/say"
	"ivelt/core/turning"
)

// halvesPage is what a desk wears by day and after dark, when it turns, and its backdrops in
// turn.
type halvesPage struct {
	Frame
	Halved outfit.Outfit
	Rows   []halfRow
	More   []halfRow // that few people turn
	Turn   turning.Schedule
	Place  turning.Place
	Ways   []turning.By
	Turns  []turnsView // what surfaces do when it turns
	Is     *turningView
	Show   showView
}

// halfRow is one facet with its two values.
type halfRow struct {
	Facet       string
	Title       say.Word
	Light, Dark string
	Colour      bool
	Options     []fine.Option
}

// Same reports whether both halves have the same.
func (r halfRow) Same() bool { return r.Dark == "" || r.Dark == r.Light }

// turnsView is a kind of surfaces, by what they do when the look turns.
type turnsView struct {
	Says     say.Word
	Sign     string
	Surfaces []say.Message // with the reasons of those that cannot
}

// Why reports whether reasons are told.
func (v turnsView) Why() bool { return v.Sign == "warning" }

// turningView is what turns now.
type turningView struct {
	changes.Turning
	Says   []say.Message
	ByHand bool
	Dark   bool
	Shows  bool // a slide show runs, of which there is a next picture
}

// showView is the slide show that the form has.
type showView struct {
	turning.Show
	Folders []fine.Option // with pictures
	Every   []fine.Option
	Times   []turning.Timed // with empty ones to fill in
	Froms   []string
	Options []fine.Option // pictures
	Count   int           // in the folder
	Daily   bool          // by the time of day
	Has     bool          // the desk has a backdrop
}

// fewTurn are the facets that most people turn; the others are folded away.
var fewTurn = []string{desk.FacetWidgets, desk.FacetIcons, desk.FacetPalette, desk.FacetAccent, desk.FacetBackdrop}

// Orders are the orders that pictures may come in.
func (showView) Orders() []turning.Order { return []turning.Order{turning.ByName, turning.ByChance} }

// everies are how long a picture may stay.
var everies = []string{"30s", "1m", "5m", "10m", "30m", "1h", "3h", "24h"}

func (s *Server) halves(w http.ResponseWriter, r *http.Request) error {
	page, err := s.halvesView(r)
	if err != nil {
		return err
	}
	s.page(w, r, http.StatusOK, "halves", page)
	return nil
}

func (s *Server) halvesView(r *http.Request) (halvesPage, error) {
	f, err := s.frame(r, "halves", "compose", "Day and night")
	if err != nil {
		return halvesPage{}, err
	}
	page := halvesPage{Frame: f, Ways: turning.Ways, Turn: turning.Schedule{By: turning.ByClock, Light: "07:00", Dark: "19:00"}}
	if page.Halved, err = s.App.Drafts.Halved(f.Desk); err != nil {
		return page, err
	}
	if turn := page.Halved.Turn; turn != nil && (turn.By != turning.ByHand || len(page.Halved.Turns()) > 1) {
		page.Turn.By = turn.By
		page.Turn.Light, page.Turn.Dark = cmp.Or(turn.Light, page.Turn.Light), cmp.Or(turn.Dark, page.Turn.Dark)
		if turn.At != nil {
			page.Place = *turn.At
		}
	}
	trying := f.Trying()
	in := s.App.Advice.CatalogueOf(r.Context(), f.Desk, f.Now)
	look := preview.Draft(r.Context(), trying, page.Halved.In(outfit.Light))
	for _, facet := range outfit.Turnable {
		if facet == desk.FacetDark || !f.Desk.Has(facet) {
			continue
		}
		row := halfRowOf(trying, in, look, page.Halved, facet)
		if slices.Contains(fewTurn, facet) {
			page.Rows = append(page.Rows, row)
		} else {
			page.More = append(page.More, row)
		}
	}
	slices.SortFunc(page.Rows, func(a, b halfRow) int { return slices.Index(fewTurn, a.Facet) - slices.Index(fewTurn, b.Facet) })
	if page.Turns, err = turnsOf(r.Context(), trying, page.Halved); err != nil {
		return page, err
	}
	page.Show = showOf(f.Desk, in, page.Halved)
	switch is, err := s.App.Turner.Of(f.Desk); {
	case err == nil:
		show := is.Worn.Show
		page.Is = &turningView{Turning: is, Says: is.Says(s.App.Turner.Now()), ByHand: is.Worn.Turn != nil && is.Worn.Turn.By == turning.ByHand, Dark: is.Worn.IsDark(),
			Shows: show != nil && len(show.Times) == 0 && len(is.Pictures) > 1}
	case !errors.Is(err, changes.ErrStill):
		return page, err
	}
	return page, nil
}

// halfRowOf is the row of a facet: what each half has of it, and what there is to choose from.
func halfRowOf(on *desk.Desk, in *advice.Catalogue, look preview.Look, o outfit.Outfit, facet string) halfRow {
	info, _ := desk.FacetOf(facet)
	row := halfRow{Facet: facet, Title: info.Title, Colour: info.Takes == desk.TakesColour, Light: o.WantIn(outfit.Light, facet)}
	if o.Paired(facet) {
		row.Dark = o.WantIn(outfit.Dark, facet)
	}
	if row.Light == "" {
		row.Light = shownEverywhere(on, look, facet)
		if row.Colour && row.Light == "" {
			row.Light = colour.Of8(0x2f, 0x7f, 0x8c).Hex() // somewhere to begin
		}
	}
	if row.Colour {
		return row
	}
	names := map[string]int{}
	for _, w := range in.Listed(facet) {
		names[w.Name]++
	}
	for _, w := range in.Listed(facet) {
		title := w.Name
		if names[w.Name] > 1 {
			title += " (" + path.Base(w.Folder) + ")"
		}
		row.Options = append(row.Options, fine.Option{Value: w.Folder, Title: say.Words(title)})
	}
	for _, value := range []string{row.Light, row.Dark} {
		if value != "" && !slices.ContainsFunc(row.Options, func(o fine.Option) bool { return o.Value == value }) {
			row.Options = append(row.Options, fine.Option{Value: value, Title: info.Says(value)})
		}
	}
	return row
}

// shownEverywhere is what a look has for a facet, "" where it has more than one thing.
func shownEverywhere(on *desk.Desk, look preview.Look, facet string) (out string) {
	for _, s := range on.Surfaces() {
		f, ok := s.Facet(facet)
		if !ok || s.Kind == "login" {
			continue
		}
		shows := look.Of(facet, s.ID)
		if out != "" && !reading.Same(f, out, shows) {
			return ""
		}
		out = shows
	}
	return out
}

// turnsOf sorts the surfaces of a desk by what they do when a look turns, with the reasons of
// those that cannot.
func turnsOf(ctx context.Context, on *desk.Desk, o outfit.Outfit) ([]turnsView, error) {
	facets := o.Turns()
	if len(o.Dark) == 0 {
		return nil, nil
	}
	effects, why := map[string]plan.Effect{}, map[string][]say.Message{}
	for _, half := range []outfit.Half{outfit.Light, outfit.Dark} { // one of them is worn: the other changes something
		worn := o.In(half).Only(func(facet string) bool { return slices.Contains(facets, facet) })
		p, err := planning.Dress(ctx, on, worn)
		if err != nil {
			return nil, err
		}
		for _, op := range p.Ops {
			if op.Surface != "" {
				effects[op.Surface] = effects[op.Surface].Later(op.Effect)
			}
		}
		for _, short := range planning.Shortfalls(on, worn, p) {
			if of := short.Surface.ID; !slices.ContainsFunc(why[of], func(m say.Message) bool { return m.String() == short.Says.String() }) {
				why[of] = append(why[of], short.Says)
			}
		}
	}
	views := []turnsView{{Says: "at once", Sign: "ok"}, {Says: "once started again", Sign: "later"}, {Says: "not all of it", Sign: "warning"}, {Says: "has nothing that turns", Sign: "off"}}
	for _, s := range on.Surfaces() {
		has := func(of []string) bool {
			return slices.ContainsFunc(of, func(facet string) bool { _, ok := s.Facet(facet); return ok })
		}
		if s.Kind == "login" || !has(outfit.Turnable) {
			continue // it is an administrator's, or could turn nothing in whatever look
		}
		effect, told := effects[s.ID]
		switch {
		case told && effect != plan.AtOnce && effect != "":
			views[1].Surfaces = append(views[1].Surfaces, s.Named().Message())
		case has(facets) && (told || why[s.ID] == nil):
			views[0].Surfaces = append(views[0].Surfaces, s.Named().Message())
		case why[s.ID] == nil:
			views[3].Surfaces = append(views[3].Surfaces, s.Named().Message())
		}
		if why[s.ID] != nil {
			views[2].Surfaces = append(views[2].Surfaces, say.Line("%s: %s", s.Named(), say.Join(" ", why[s.ID]...)))
		}
	}
	return slices.DeleteFunc(views, func(v turnsView) bool { return len(v.Surfaces) == 0 }), nil
}

// showOf is the form of a slide show.
func showOf(d *desks.Managed, in *advice.Catalogue, o outfit.Outfit) showView {
	v := showView{Has: d.Has(desk.FacetBackdrop), Show: turning.Show{Every: "10m", Order: turning.ByName}}
	if o.Show != nil {
		v.Show, v.Daily = *o.Show, len(o.Show.Times) > 0
		v.Show.Every, v.Show.Order = cmp.Or(v.Show.Every, "10m"), cmp.Or(v.Show.Order, turning.ByName)
	}
	for _, w := range in.Listed(desk.FacetBackdrop) {
		v.Options = append(v.Options, fine.Option{Value: w.Folder, Title: say.Words(w.Name)})
		dir := path.Dir(w.Folder)
		if n := len(changes.Pictures(d.Desk, turning.Show{Folder: dir})); n > 1 && !slices.ContainsFunc(v.Folders, func(o fine.Option) bool { return o.Value == dir }) {
			v.Folders = append(v.Folders, fine.Option{Value: dir, Title: say.Line("%s, %s", d.Show(dir), say.Many(n, "picture"))})
		}
	}
	if v.Show.Folder == "" && len(v.Folders) > 0 {
		v.Show.Folder = v.Folders[0].Value
	}
	all := everies
	if !slices.Contains(all, v.Show.Every) {
		all = append(slices.Clone(all), v.Show.Every)
	}
	for _, every := range all {
		v.Every = append(v.Every, fine.Option{Value: every, Title: everySays(every)})
	}
	v.Times = slices.Clone(v.Show.Times)
	if len(v.Times) == 0 {
		v.Times = []turning.Timed{{From: "sunrise"}, {From: "noon"}, {From: "sunset"}, {From: "dusk"}}
	}
	v.Times = append(v.Times, turning.Timed{})
	v.Froms = slices.Clone(turning.Moments)
	return v
}

// everySays is a duration in words.
func everySays(text string) say.Message {
	every, err := time.ParseDuration(text)
	if err != nil {
		return say.Words(text)
	}
	for _, unit := range []struct {
		of  time.Duration
		one string
	}{{24 * time.Hour, "day"}, {time.Hour, "hour"}, {time.Minute, "minute"}, {time.Second, "second"}} {
		if n := every / unit.of; n*unit.of == every && n > 0 {
			return say.Many(int(n), unit.one)
		}
	}
	return say.Words(text)
}

// changeHalves puts two halves, or a slide show, on the draft, or tells what turns now what to
// do.
func (s *Server) changeHalves(w http.ResponseWriter, r *http.Request) error {
	if err := r.ParseForm(); err != nil {
		return refused(err)
	}
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	page := "/d/" + d.ID + "/halves"
	dark := r.Form.Get("do") == "dark"
	switch r.Form.Get("do") {
	case "dark", "light":
		_, err = s.App.Turner.Turn(r.Context(), d, changes.Ask{Dark: &dark})
	case "next":
		_, err = s.App.Turner.Turn(r.Context(), d, changes.Ask{Next: true})
	case "pause", "go-on":
		err = s.App.Turner.Pause(d, r.Form.Get("do") == "pause")
	case "keep":
		err = s.App.Turner.End(d)
	case "show":
		var show turning.Show
		if show, err = showAsked(r); err == nil {
			_, err = s.App.Drafts.ChooseShow(d, show, changes.Pictures(d.Desk, show), s.App.Turner.Now())
		}
	default:
		var h drafts.Halves
		if h, err = halvesAsked(r); err == nil {
			_, err = s.App.Drafts.ChooseHalves(d, h, func(o outfit.Outfit) outfit.Outfit { return s.App.Turner.Half(d, o) })
		}
	}
	if err != nil {
		return refused(err)
	}
	if r.Header.Get("HX-Request") != "" {
		return s.halves(w, r)
	}
	to(w, r, page)
	return nil
}

func placeAsked(r *http.Request, prefix string) (*turning.Place, error) {
	lat, long := strings.TrimSpace(r.Form.Get(prefix+"latitude")), strings.TrimSpace(r.Form.Get(prefix+"longitude"))
	if lat == "" && long == "" {
		return nil, nil
	}
	var p turning.Place
	var err, also error
	p.Latitude, err = strconv.ParseFloat(strings.Replace(lat, ",", ".", 1), 64)
	p.Longitude, also = strconv.ParseFloat(strings.Replace(long, ",", ".", 1), 64)
	if err != nil || also != nil {
		return nil, say.Errorf("a place is its latitude and its longitude in degrees, as 53.55 and 9.99, not %q and %q", lat, long)
	}
	return &p, nil
}

func halvesAsked(r *http.Request) (drafts.Halves, error) {
	h := drafts.Halves{Light: map[string]string{}, Dark: map[string]string{}, Turn: turning.Schedule{By: turning.By(r.Form.Get("by"))}}
	switch h.Turn.By {
	case turning.ByClock:
		h.Turn.Light, h.Turn.Dark = r.Form.Get("light-at"), r.Form.Get("dark-at")
	case turning.BySun:
		var err error
		if h.Turn.At, err = placeAsked(r, ""); err != nil {
			return h, err
		}
	}
	for _, facet := range outfit.Turnable {
		h.Light[facet], h.Dark[facet] = r.Form.Get("light."+facet), r.Form.Get("dark."+facet)
	}
	return h, nil
}

func showAsked(r *http.Request) (turning.Show, error) {
	if r.Form.Get("kind") == "daily" {
		var out turning.Show
		for i, from := range r.Form["from"] {
			if i < len(r.Form["picture"]) && r.Form["picture"][i] != "" && from != "" {
				out.Times = append(out.Times, turning.Timed{From: from, Picture: r.Form["picture"][i]})
			}
		}
		var err error
		if len(out.Times) < 2 {
			return out, errors.New("choose pictures for two times of day at least")
		}
		out.At, err = placeAsked(r, "show-")
		return out, err
	}
	return turning.Show{Folder: strings.TrimSpace(r.Form.Get("folder")), Every: r.Form.Get("every"), Order: turning.Order(r.Form.Get("order")), Battery: r.Form.Get("battery")}, nil
}

// halfView is one of the two pictures.
type halfView struct {
	outfit.Half
	Title say.Word
	Now   bool
}

func (h halfView) String() string { return string(h.Half) }

// Both are the two halves.
func (p halvesPage) Both() []halfView {
	dark := p.Is != nil && p.Is.Dark
	return []halfView{{outfit.Light, "By day", p.Is != nil && p.Is.Worn.Turn != nil && !dark}, {outfit.Dark, "After dark", dark}}
}

// Stamp is another one for each look, so that its pictures are asked for anew.
func (p halvesPage) Stamp() string { return plan.Digest(p.Halved.Bytes())[:12] }

// Turnable reports whether anything can turn.
func (p halvesPage) Turnable() bool { return len(p.Rows)+len(p.More) > 0 }

// Shaded reports whether programs of the desk have a light and a dark form.
func (p halvesPage) Shaded() bool { return p.Desk.Has(desk.FacetDark) }

// MoreTurns reports whether something that is folded away turns.
func (p halvesPage) MoreTurns() bool {
	return slices.ContainsFunc(p.More, func(r halfRow) bool { return !r.Same() })
}

// PlaceSays is a degree of the place, "" for none.
func (p halvesPage) PlaceSays(degrees float64) string {
	if p.Place == (turning.Place{}) {
		return ""
	}
	return strconv.FormatFloat(degrees, 'f', -1, 64)
}

// ShowPlace is where the sun's times of the show are taken.
func (p halvesPage) ShowPlace() (out struct{ Latitude, Longitude string }) {
	at := p.Show.At
	if at == nil && p.Turn.By == turning.BySun {
		at = &p.Place
	}
	if at != nil {
		out.Latitude, out.Longitude = strconv.FormatFloat(at.Latitude, 'f', -1, 64), strconv.FormatFloat(at.Longitude, 'f', -1, 64)
	}
	return out
}
