package web

import (
	"cmp"
	"context"
	"fmt"
	"image"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"ivelt/app/desks"
	"ivelt/core/backdropbench"
	"ivelt/core/desk"
	"ivelt/core/fine"
	"ivelt/core/judge"
	"ivelt/core/layout"
	"ivelt/core/match"
	"ivelt/core/preview"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// arrangePage is where things are on a desk: its bars, its dock, windows, and what lies on it.
type arrangePage struct {
	Frame
	arrangeView
	Surface  desk.Surface      // whose the bars are; none if no shell of the desk can be told
	Undo     string            // what undoing the last step of the draft undoes, "" for nothing
	Redo     string            // and what is done again
	Starts   []arrangedStart   // what nothing starts at sign-in
	Lacks    []string          // what its surfaces say that they cannot be told
	Lost     []match.Shortfall // what of the draft they cannot follow
	Nearest  []match.Shortfall // what comes nearest to it, each once
	Monitors []desk.Monitor    // that are pictured
	W, H     int               // of the pictured one, px at 100 %
	Screen   string
	Bars     []arrangedBar
	Dock     *arrangedDock
	HasDock  bool
	Tiles    *layout.Tiles // nil if nothing is told
	TilesOf  desk.Surface
	Ways     []layout.Tiling
	Lying    []arrangedLying
	Icons    []fine.Setting
	Windows  []fine.Setting
	Spaces   []fine.Setting
	Names    *string // of workspaces; nil if nothing is told
	Pictures []arrangedSpace
	Sel      selected
	Findings []judge.Verdict
	Kinds    []layout.Kind
	Edges    []layout.Edge
	Aligns   []layout.Align
	Hidings  []layout.Hiding
	Programs []arrangedProgram // of the desk
	Pins     []string          // that a new dock begins with
	limits   layout.Limits
}

// arrangeView is what is looked at.
type arrangeView struct {
	DeskID  string
	Monitor int    // which is pictured
	Screens string // "" for those of the desk, else a name of otherScreens
	Of      string // "now" for the desk as it is
	Shows   string // "maximised" for such a window, "moving" for windows that go to their places, or a workspace by its number from 2 on
}

// otherScreens are screens that a layout is looked at on besides those of the desk.
var otherScreens = []struct {
	Name, Title string
	monitors    []desk.Monitor
}{
	{"narrow", "a narrow screen", []desk.Monitor{{Name: "narrow", Width: 1024, Height: 768}}},
	{"wide", "a wide screen", []desk.Monitor{{Name: "wide", Width: 3440, Height: 1440}}},
	{"two", "two screens", []desk.Monitor{{Name: "left", Width: 1920, Height: 1080}, {Name: "right", Width: 1920, Height: 1080, At: image.Pt(1920, 0)}}},
}

func viewOf(r *http.Request) arrangeView {
	v := arrangeView{DeskID: chi.URLParam(r, "desk"), Screens: r.FormValue("screens"), Of: r.FormValue("look"), Shows: r.FormValue("shows")}
	v.Monitor, _ = strconv.Atoi(r.FormValue("monitor"))
	return v
}

// on are the monitors that are looked at; the view's own is one of them then.
func (v *arrangeView) on(d *desk.Desk) []desk.Monitor {
	all := backdropbench.Or(d.Monitors())
	for _, o := range otherScreens {
		if o.Name == v.Screens {
			all = o.monitors
		}
	}
	if v.Monitor < 0 || v.Monitor >= len(all) {
		v.Monitor = 0
	}
	return all
}

// use is what of the monitor is pictured.
func (v arrangeView) use() preview.Use {
	n, _ := strconv.Atoi(v.Shows)
	return preview.Use{Maximised: v.Shows == "maximised", Moving: v.Shows == "moving", Workspace: min(max(n, 0), 12)}
}

func (v arrangeView) query() string {
	q := url.Values{"monitor": {strconv.Itoa(v.Monitor)}}
	for key, value := range map[string]string{"screens": v.Screens, "look": v.Of, "shows": v.Shows} {
		if value != "" {
			q.Set(key, value)
		}
	}
	return q.Encode()
}

// Here is the page with what is looked at.
func (v arrangeView) Here() string { return "/d/" + v.DeskID + "/arrange?" + v.query() }

// To is the page with one thing of it another.
func (v arrangeView) To(key string, value any) string {
	said := fmt.Sprint(value)
	switch key {
	case "monitor":
		v.Monitor, _ = strconv.Atoi(said)
	case "screens":
		v.Screens, v.Monitor = said, 0
	case "look":
		v.Of = said
	case "shows":
		v.Shows = said
	}
	return v.Here()
}

// Others are the screens that the layout can be looked at on.
func (arrangeView) Others() any { return otherScreens }

// selected is a bar, or an item on one; -1 for none.
type selected struct{ Bar, Item int }

type arrangedBar struct {
	N int
	layout.Bar
	Places []image.Rectangle // on the pictured monitor
	Items  []arrangedItem
	On     bool // it is selected, and no item on it
}

type arrangedItem struct {
	Bar, N int
	layout.Item
	Title say.Word
	How   layout.Form // on the pictured monitor, "" if it is not there
	At    image.Rectangle
	On    bool // it is selected
	Takes []arrangedOption
}

type arrangedOption struct {
	Key   string
	Title say.Word
	Value string
	Hint  say.Word
}

type arrangedDock struct {
	layout.Dock
	Place  image.Rectangle // on the pictured monitor, empty if it is on another
	Pinned []arrangedProgram
}

type arrangedProgram struct{ ID, Name string }

// arrangedLying is a clock or a readout on the desk.
type arrangedLying struct {
	Facet         string
	Title         say.Word
	*layout.Lying                 // nil if there is none
	At            image.Rectangle // on the pictured monitor, empty if it is on another
	IsClock       bool
	Usual         string // what it is told when it is put there
}

// arrangedStart is a program that has to be started at sign-in, and the remedy of Match for it.
type arrangedStart struct {
	Surface, Facet, Remedy string
	Says, Does             say.Message
}

// arrangedSpace is a workspace with a backdrop of its own, or none.
type arrangedSpace struct {
	N       int
	Name    string
	Picture string
	Choices []fine.Option
}

// Called is the workspace among others: its name, or its number with what it is.
func (s arrangedSpace) Called() say.Message {
	if s.Name == strconv.Itoa(s.N) {
		return say.Line("workspace %s", s.Name)
	}
	return say.Words(s.Name)
}

// Places are the places on the desk that something can be told.
func (l arrangedLying) Places() []string {
	return []string{"top left", "top", "top right", "left", "middle", "right", "bottom left", "bottom", "bottom right"}
}

// Side tells whether an item is at one of the three places of its bar.
func (b arrangedBar) Side(side layout.Align) (out []arrangedItem) {
	for _, i := range b.Items {
		if i.Side == side {
			out = append(out, i)
		}
	}
	return out
}

// Name tells which bar it is.
func (b arrangedBar) Name() say.Message { return say.Line("Bar at the %s", b.Edge.Says()) }

// itemOptions are what items can be told, and a hint of it.
var itemOptions = map[string][2]say.Word{
	"form": {"Form", "%a %d %b  %H:%M, %V is the week"}, "places": {"Further places", "Europe/Lisbon,Asia/Tokyo"}, "width": {"Width, px", "160"}, "titles": {"Titles", "yes or no"},
	"group": {"Grouped", "yes or no"}, "names": {"Names", "yes or no"}, "percent": {"Percent", "yes or no"}, "show": {"Shown", "always or hover"}, "of": {"Of", "load or frequency"}, "size": {"Size, px", "16"}, "programs": {"Programs", "their IDs, with commas; those of the desk if empty"},
}

// told is the first surface of a desk that is told of a facet.
func told(d *desk.Desk, facet string) (desk.Surface, desk.Facet, bool) {
	for _, s := range d.Surfaces() {
		if f, has := s.Facet(facet); has && !f.Fixed && s.Kind != "login" && s.Kind != "sandbox" {
			return s, f, true
		}
	}
	return desk.Surface{}, desk.Facet{}, false
}

// The settings of the page that are of no text of a layout.
var (
	lyingSettings  = []string{desk.FacetLying, desk.FacetLyingAt, desk.FacetIconSize, desk.FacetLyingApart, desk.FacetLyingNames}
	windowSettings = []string{desk.FacetMaximised, desk.FacetButtons, desk.FacetDouble, desk.FacetMiddle, desk.FacetRight}
	spaceSettings  = []string{desk.FacetWorkspaces, desk.FacetNeeded}
)

// layoutFacets are all that the page is about.
var layoutFacets = slices.Concat([]string{desk.FacetBars, desk.FacetDock, desk.FacetTiles, desk.FacetDeskClock, desk.FacetReadout, desk.FacetNames, desk.FacetSpaces}, lyingSettings, windowSettings, spaceSettings)

func (s *Server) arrange(w http.ResponseWriter, r *http.Request) error {
	number := func(name string) int {
		n, err := strconv.Atoi(r.FormValue(name))
		if err != nil {
			return -1
		}
		return n
	}
	return s.arrangeWith(w, r, selected{number("bar"), number("item")})
}

func (s *Server) arrangeWith(w http.ResponseWriter, r *http.Request, sel selected) error {
	f, err := s.frame(r, "arrange", "arrange", "Arrange")
	if err != nil {
		return err
	}
	page := arrangePage{Frame: f, arrangeView: viewOf(r), Sel: sel, Kinds: layout.Kinds, Edges: layout.Edges, Aligns: layout.Aligns, Hidings: layout.Hidings}
	on := f.Trying().Snapshot()
	page.Monitors = page.on(on)
	look := preview.Draft(r.Context(), on, f.Draft)
	if page.Of == "now" {
		look = preview.Worn(r.Context(), f.Now)
	}
	m := page.Monitors[page.Monitor]
	page.W, page.H = int(float64(m.Width)/m.Times()+0.5), int(float64(m.Height)/m.Times()+0.5)
	page.Screen = fmt.Sprintf("/d/%s/arrange/screen.svg?%s&v=%s", f.Desk.ID, page.query(), etag([]byte(f.Draft.Bytes()))[1:9])
	a := preview.ArrangeOn(on, look, page.Monitors, page.Monitor)
	page.edges(on, look, a)
	page.windows(on, look)
	page.lying(on, look, a)
	for _, facet := range layoutFacets {
		if _, _, has := told(on, facet); has {
			continue
		}
		for _, of := range on.Surfaces() {
			if why := of.Cannot[facet]; why != "" && !slices.Contains(page.Lacks, why) {
				page.Lacks = append(page.Lacks, why)
			}
		}
	}
	for _, short := range match.Shortfalls(on, f.Draft) {
		if slices.Contains(layoutFacets, short.Facet) {
			page.Lost = append(page.Lost, short)
			if short.Nearest != "" && !slices.ContainsFunc(page.Nearest, func(n match.Shortfall) bool {
				return n.NearestFacet == short.NearestFacet && n.Nearest == short.Nearest
			}) {
				page.Nearest = append(page.Nearest, short)
			}
		}
	}
	for _, of := range on.Surfaces() {
		if reading.Started(on, of) || !slices.ContainsFunc(of.Facets, func(f desk.Facet) bool { return slices.Contains(layoutFacets, f.Name) }) {
			continue
		}
		for _, a := range match.Compare(on, of, of.Facets[0].Name, "").Asides {
			if a.Code == match.NotStarted {
				page.Starts = append(page.Starts, arrangedStart{of.ID, of.Facets[0].Name, a.Remedy.ID(), a.Says, a.Remedy.Says})
			}
		}
	}
	page.Undo, page.Redo = s.App.Drafts.Steps(f.Desk)
	page.Findings = judge.Layout(on, look)
	s.page(w, r, http.StatusOK, "arrange", page)
	return nil
}

// edges takes bars and the dock into the page.
func (p *arrangePage) edges(on *desk.Desk, look preview.Look, a preview.Arranged) {
	surface, bars, has := told(on, desk.FacetBars)
	if has {
		p.Surface = surface
		if bars.Limits != nil {
			p.limits = *bars.Limits
		}
		if p.limits.Edges != nil {
			p.Edges = p.limits.Edges
		}
		if p.limits.Items != nil {
			p.Kinds = slices.DeleteFunc(slices.Clone(p.Kinds), func(k layout.Kind) bool { return !slices.Contains(p.limits.Items, k.Name) })
		}
		p.fill(a)
	}
	known := map[string]string{}
	for _, program := range preview.Programs(on) {
		known[program.ID] = program.Name
		p.Programs = append(p.Programs, arrangedProgram{program.ID, program.Name})
	}
	p.Pins = preview.Pinned(on, look)
	of, _, hasDock := told(on, desk.FacetDock)
	p.HasDock = hasDock
	if dock, err := layout.ParseDock(cmp.Or(look.Of(desk.FacetDock, of.ID), "none")); err == nil && dock != nil {
		p.Dock = &arrangedDock{Dock: *dock, Place: a.Docked.At}
		for _, id := range dock.Programs {
			p.Dock.Pinned = append(p.Dock.Pinned, arrangedProgram{id, cmp.Or(known[strings.TrimSuffix(id, ".desktop")], id)})
		}
	}
}

// windows takes in how windows lie, what their titles do, and the workspaces they are on.
func (p *arrangePage) windows(on *desk.Desk, look preview.Look) {
	if of, f, has := told(on, desk.FacetTiles); has {
		if tiles, err := layout.ParseTiles(look.Of(desk.FacetTiles, of.ID)); err == nil {
			p.Tiles, p.TilesOf, p.Ways = &tiles, of, layout.Tilings
			if f.Limits != nil && f.Limits.Ways != nil {
				p.Ways = f.Limits.Ways
			}
		}
	}
	p.Windows = fine.Settings(on, p.Draft, look, windowSettings)
	p.Spaces = fine.Settings(on, p.Draft, look, spaceSettings)
	if of, _, has := told(on, desk.FacetNames); has {
		names := look.Of(desk.FacetNames, of.ID)
		if names == "none" {
			names = ""
		}
		p.Names = &names
	}
	if of, _, has := told(on, desk.FacetSpaces); has {
		own := desk.Each(look.Of(desk.FacetSpaces, of.ID))
		_, backdrop, _ := told(on, desk.FacetBackdrop)
		choices := slices.DeleteFunc(fine.Options(on, of, backdrop, ""), func(o fine.Option) bool { return o.Value == "" })
		for i, name := range preview.Workspaces(on, look) {
			space := arrangedSpace{N: i + 1, Name: name, Choices: slices.Clone(choices)}
			for _, o := range own {
				if o.Monitor == strconv.Itoa(space.N) {
					space.Picture = o.Picture
				}
			}
			if space.Picture != "" && !slices.ContainsFunc(space.Choices, func(o fine.Option) bool { return o.Value == space.Picture }) {
				space.Choices = append(space.Choices, fine.Option{Value: space.Picture, Title: fine.Says(desk.FacetBackdrop, space.Picture)})
			}
			p.Pictures = append(p.Pictures, space)
		}
	}
}

// lying takes in what lies on the desk itself.
func (p *arrangePage) lying(on *desk.Desk, look preview.Look, a preview.Arranged) {
	p.Icons = fine.Settings(on, p.Draft, look, lyingSettings)
	for _, facet := range []string{desk.FacetDeskClock, desk.FacetReadout} {
		of, _, has := told(on, facet)
		if !has {
			continue
		}
		l := arrangedLying{Facet: facet, Title: desk.FacetTitle(facet), IsClock: facet == desk.FacetDeskClock, Usual: "bottom right 24 24"}
		if l.IsClock {
			l.Usual = "top right 40 30 size 64"
		}
		l.Lying, _ = layout.ParseLying(cmp.Or(look.Of(facet, of.ID), "none"))
		for _, o := range a.OnDesk {
			if o.Facet == facet {
				l.At = o.At
			}
		}
		p.Lying = append(p.Lying, l)
	}
}

// Takes reports whether the shell takes a word of a bar.
func (p arrangePage) Takes(word string) bool {
	return p.limits.Words == nil || slices.Contains(p.limits.Words, word)
}

// TakesOfWindows reports whether what lays windows takes a word of them.
func (p arrangePage) TakesOfWindows(word string) bool {
	f, _ := p.TilesOf.Facet(desk.FacetTiles)
	return f.Limits == nil || f.Limits.Words == nil || slices.Contains(f.Limits.Words, word)
}

// TilesMove reports whether windows have a place to go to.
func (p arrangePage) TilesMove() bool { return p.Tiles != nil && p.Tiles.As != layout.ByHand }

// More reports whether the shell has room for another bar.
func (p arrangePage) More() bool { return p.limits.Bars == 0 || len(p.Bars) < p.limits.Bars }

// NotTold reports whether nothing of the page can be told.
func (p arrangePage) NotTold() bool {
	return p.Surface.ID == "" && p.Tiles == nil && len(p.Lying)+len(p.Icons)+len(p.Windows)+len(p.Spaces) == 0
}

// fill takes bars and where they are into the page.
func (p *arrangePage) fill(a preview.Arranged) {
	for n, b := range layout.Sorted(a.Bars) {
		bar := arrangedBar{N: n, Bar: b, On: p.Sel == selected{n, -1}}
		for i, item := range b.Items {
			k, _ := layout.KindOf(item.Kind)
			it := arrangedItem{Bar: n, N: i, Item: item, Title: k.Title, On: p.Sel == selected{n, i}}
			for _, key := range k.Options {
				told := itemOptions[key]
				it.Takes = append(it.Takes, arrangedOption{key, told[0], layout.Get(item.Options, key), told[1]})
			}
			bar.Items = append(bar.Items, it)
		}
		for _, placed := range a.Placed {
			if placed.Bar != n {
				continue
			}
			bar.Places = append(bar.Places, placed.At)
			for _, i := range placed.Items {
				bar.Items[i.Item].How, bar.Items[i.Item].At = i.How, i.At
			}
		}
		p.Bars = append(p.Bars, bar)
	}
}

// Selected is the item that is selected, nil for none.
func (p arrangePage) Selected() *arrangedItem {
	for _, b := range p.Bars {
		for i := range b.Items {
			if b.Items[i].On {
				return &b.Items[i]
			}
		}
	}
	return nil
}

// Reach is where a thing on a bar can be taken hold of: at least as far from its edge as a finger needs,
// on a picture that is some 830 px wide.
func (p arrangePage) Reach(e layout.Edge, at image.Rectangle) image.Rectangle {
	const shown, finger = 830, 28
	least := finger * p.W / shown
	switch e {
	case layout.Bottom:
		at.Min.Y = min(at.Min.Y, at.Max.Y-least)
	case layout.Left:
		at.Max.X = max(at.Max.X, at.Min.X+least)
	case layout.Right:
		at.Min.X = min(at.Min.X, at.Max.X-least)
	default:
		at.Max.Y = max(at.Max.Y, at.Min.Y+least)
	}
	return at
}

// drafted is a desk with what its draft tries on, looked at once, in the look of the draft.
func (s *Server) drafted(ctx context.Context, d *desks.Managed) (*desk.Desk, preview.Look, error) {
	draft, err := s.App.Drafts.Draft(d)
	if err != nil {
		return nil, preview.Look{}, err
	}
	on := s.App.Overlays.Trying(d, draft).Snapshot()
	return on, preview.Draft(ctx, on, draft), nil
}

// arrangeScreen is the picture of a monitor with its bars, as the draft has them or as they are; with a
// change, as they would be then.
func (s *Server) arrangeScreen(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	view := viewOf(r)
	on, look, err := s.drafted(r.Context(), d)
	if err != nil {
		return err
	}
	if view.Of == "now" {
		on = d.Snapshot()
		look = preview.Worn(r.Context(), on)
	}
	monitor := view.Monitor
	monitors := view.on(on)
	if monitor != view.Monitor {
		return missing(errNotHere)
	}
	if r.FormValue("do") != "" && view.Of != "now" { // nothing is changed by it
		if to, err := arranging(r, on, look); err == nil {
			look = look.With(to.facet.Name, to.surface.ID, to.value)
		}
	}
	use := view.use()
	use.Part = r.FormValue("part")
	servePicture(w, r, "image/svg+xml", preview.InUse(on, look, monitors, view.Monitor, use))
	return nil
}
