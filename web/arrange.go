package web

import (
	"cmp"
	"errors"
	"fmt"
	"image"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"ivelt/app/desks"
	"ivelt/core/backdropbench"
	"ivelt/core/desk"
	"ivelt/core/judge"
	"ivelt/core/layout"
	"ivelt/core/preview"
)

// arrangePage is where things are on a desk: its bars and its dock.
type arrangePage struct {
	Frame
	Surface  desk.Surface // whose they are; none if no shell of the desk can be told
	Cannot   []string     // what its shells say that they cannot be told
	Monitors []desk.Monitor
	Monitor  int // which is pictured
	W, H     int // of it, px at 100 %
	Screen   string
	Bars     []arrangedBar
	Dock     *arrangedDock
	HasDock  bool
	Tiles    *layout.Tiles // nil if the shell is not told
	Tilings  []layout.Tiling
	Sel      selected
	Findings []judge.Verdict
	Kinds    []layout.Kind
	Edges    []layout.Edge
	Aligns   []layout.Align
	Hidings  []layout.Hiding
	Programs []arrangedProgram // of the desk
	Pins     []string          // that a new dock begins with
}

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
	Title string
	How   layout.Form // on the pictured monitor, "" if it is not there
	At    image.Rectangle
	On    bool // it is selected
	Takes []arrangedOption
}

type arrangedOption struct{ Key, Title, Value, Hint string }

type arrangedDock struct {
	layout.Dock
	Place  image.Rectangle // on the pictured monitor, empty if it is on another
	Pinned []arrangedProgram
}

type arrangedProgram struct{ ID, Name string }

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
func (b arrangedBar) Name() string { return fmt.Sprintf("Bar at the %s", b.Edge) }

// options are what items can be told, and a hint of it.
var itemOptions = map[string][2]string{
	"form": {"Form", "%a %d %b  %H:%M, %V is the week"}, "places": {"Further places", "Europe/Lisbon,Asia/Tokyo"}, "width": {"Width, px", "160"}, "titles": {"Titles", "yes or no"},
	"group": {"Grouped", "yes or no"}, "names": {"Names", "yes or no"}, "percent": {"Percent", "yes or no"}, "of": {"Of", "load or frequency"}, "size": {"Size, px", "16"}, "programs": {"Programs", "their IDs, with commas; those of the desk if empty"},
}

// arrangesOn is the first surface of a desk that is told of its bars.
func arrangesOn(d *desk.Desk) (desk.Surface, bool) {
	i := slices.IndexFunc(d.Surfaces(), func(s desk.Surface) bool { _, has := s.Facet(desk.FacetBars); return has })
	if i < 0 {
		return desk.Surface{}, false
	}
	return d.Surfaces()[i], true
}

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
	page := arrangePage{Frame: f, Sel: sel, Kinds: layout.Kinds, Edges: layout.Edges, Aligns: layout.Aligns, Hidings: layout.Hidings}
	on := f.Trying()
	surface, ok := arrangesOn(on)
	for _, of := range on.Surfaces() {
		if why := of.Cannot[desk.FacetBars]; why != "" {
			page.Cannot = append(page.Cannot, why)
		}
	}
	if !ok {
		s.page(w, r, http.StatusOK, "arrange", page)
		return nil
	}
	page.Surface = surface
	look := preview.Draft(r.Context(), on, f.Draft)
	page.Monitors = backdropbench.Or(on.Monitors())
	if n, err := strconv.Atoi(r.FormValue("monitor")); err == nil && n >= 0 && n < len(page.Monitors) {
		page.Monitor = n
	}
	a := preview.ArrangeOn(on, look, page.Monitors, page.Monitor)
	m := page.Monitors[page.Monitor]
	page.W, page.H = int(float64(m.Width)/m.Times()+0.5), int(float64(m.Height)/m.Times()+0.5)
	page.Screen = fmt.Sprintf("/d/%s/arrange/screen.svg?monitor=%d&as=%s", f.Desk.ID, page.Monitor, etag([]byte(f.Draft.Bytes()))[1:9])
	page.fill(a)
	known := map[string]string{}
	for _, p := range preview.Programs(on) {
		known[p.ID] = p.Name
		page.Programs = append(page.Programs, arrangedProgram{p.ID, p.Name})
	}
	page.Pins = preview.Pinned(on, look)
	if _, has := surface.Facet(desk.FacetTiles); has {
		if tiles, err := layout.ParseTiles(look.Of(desk.FacetTiles, surface.ID)); err == nil {
			page.Tiles, page.Tilings = &tiles, layout.Tilings
		}
	}
	_, page.HasDock = surface.Facet(desk.FacetDock)
	if dock, err := layout.ParseDock(cmp.Or(look.Of(desk.FacetDock, surface.ID), "none")); err == nil && dock != nil {
		page.Dock = &arrangedDock{Dock: *dock, Place: a.Docked.At}
		for _, id := range dock.Programs {
			page.Dock.Pinned = append(page.Dock.Pinned, arrangedProgram{id, cmp.Or(known[id], id)})
		}
	}
	for _, v := range judge.Of(on, look) {
		if v.Code == judge.Arranged {
			page.Findings = append(page.Findings, v)
		}
	}
	s.page(w, r, http.StatusOK, "arrange", page)
	return nil
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

// Here is the page with the monitor that is pictured.
func (p arrangePage) Here() string {
	return fmt.Sprintf("/d/%s/arrange?monitor=%d", p.Desk.ID, p.Monitor)
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

// arrangeScreen is the picture of a monitor with its bars, as the draft has them.
func (s *Server) arrangeScreen(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	on, look, err := s.lookOf(r.Context(), d, "draft")
	if err != nil {
		return err
	}
	monitors := backdropbench.Or(on.Monitors())
	i, err := strconv.Atoi(r.FormValue("monitor"))
	if err != nil || i < 0 || i >= len(monitors) {
		return missing(errNotHere)
	}
	servePicture(w, r, "image/svg+xml", preview.InUse(on, look, monitors, i))
	return nil
}

// changeArrangement changes the bars or the dock of the draft.
func (s *Server) changeArrangement(w http.ResponseWriter, r *http.Request) error {
	if err := r.ParseForm(); err != nil {
		return refused(err)
	}
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	on, look, err := s.lookOf(r.Context(), d, "draft")
	if err != nil {
		return err
	}
	surface, ok := arrangesOn(on)
	if !ok {
		return refused(errors.New("no shell of this desk is told of its bars"))
	}
	sel := selected{-1, -1}
	facet, value := desk.FacetBars, ""
	switch r.Form.Get("of") {
	case "dock":
		facet = desk.FacetDock
		value, err = changedDock(r, look.Of(desk.FacetDock, surface.ID))
	case "tiles":
		facet = desk.FacetTiles
		value, err = toldTiles(r, look.Of(desk.FacetTiles, surface.ID))
	default:
		value, sel, err = changedBars(r, look.Of(desk.FacetBars, surface.ID))
	}
	if errors.Is(err, layout.ErrStays) {
		err = nil
	} else if err == nil {
		err = s.putOnDraft(d, facet, value)
	}
	if err != nil {
		return refused(err)
	}
	if r.Header.Get("HX-Request") != "" {
		return s.arrangeWith(w, r, sel)
	}
	monitor, _ := strconv.Atoi(r.Form.Get("monitor"))
	to(w, r, fmt.Sprintf("/d/%s/arrange?monitor=%d&bar=%d&item=%d", d.ID, monitor, sel.Bar, sel.Item))
	return nil
}

// putOnDraft chooses a value for a facet; what is so already is taken off the draft.
func (s *Server) putOnDraft(d *desks.Managed, facet, value string) error {
	info, _ := desk.FacetOf(facet)
	if err := info.Accepts(value); err != nil {
		return err
	}
	_, err := s.App.Drafts.Choose(d, facet, value)
	return err
}

// changedBars are bars after what a form asks for, and what is selected then.
func changedBars(r *http.Request, now string) (text string, sel selected, err error) {
	bars, err := layout.ParseBars(now)
	if err != nil {
		return "", sel, err
	}
	bars = layout.Sorted(bars)
	number := func(name string) int {
		n, err := strconv.Atoi(r.Form.Get(name))
		if err != nil {
			return -1
		}
		return n
	}
	sel = selected{number("bar"), number("item")}
	isBar := func() error {
		if sel.Bar < 0 || sel.Bar >= len(bars) {
			return layout.ErrNotThere
		}
		return nil
	}
	side := layout.Align(cmp.Or(r.Form.Get("side"), string(layout.Start)))
	was := sel
	switch do := r.Form.Get("do"); do {
	case "earlier", "later", "next", "previous":
		bars, sel.Bar, sel.Item, err = layout.Step(bars, sel.Bar, sel.Item, do)
		if errors.Is(err, layout.ErrStays) {
			return "", was, err
		}
	case "move":
		to := layout.Spot{Bar: number("tobar"), Side: side, At: max(number("at"), 0)}
		bars, sel.Item, err = layout.Move(bars, sel.Bar, sel.Item, to)
		sel.Bar = to.Bar
	case "add":
		bars, sel.Item, err = layout.Add(bars, r.Form.Get("kind"), layout.Spot{Bar: sel.Bar, Side: side, At: 1000})
	case "remove":
		bars, err = layout.Remove(bars, sel.Bar, sel.Item)
		sel.Item = -1
	case "set":
		for key := range itemOptions {
			if value, told := r.Form["option."+key]; told && err == nil {
				bars, err = layout.Set(bars, sel.Bar, sel.Item, key, value[0])
			}
		}
	case "add-bar":
		edge := layout.Bottom
		if len(bars) > 0 && bars[0].Edge == layout.Bottom {
			edge = layout.Top
		}
		bars = append(bars, layout.Bar{Edge: edge, Thick: 34, At: layout.Start, Hides: layout.Never})
		sel = selected{len(bars) - 1, -1}
	case "remove-bar":
		if err = isBar(); err == nil {
			bars = slices.Delete(bars, sel.Bar, sel.Bar+1)
			sel = selected{-1, -1}
		}
	case "bar":
		if err = isBar(); err == nil {
			bars[sel.Bar], err = toldBar(r, bars[sel.Bar])
		}
	default:
		err = fmt.Errorf("nothing is to be done: %q", do)
	}
	if err != nil {
		return "", was, err
	}
	return layout.FormatBars(bars), sel, nil
}

// toldBar is a bar as a form tells it; what the form does not have stays.
func toldBar(r *http.Request, b layout.Bar) (layout.Bar, error) {
	text := func(name, now string) string {
		if v, told := r.Form[name]; told {
			return strings.TrimSpace(v[0])
		}
		return now
	}
	pair := func(word, value string) string {
		if value == "" {
			return ""
		}
		return " " + word + " " + strconv.Quote(value)
	}
	items := b.Items
	line := text("edge", string(b.Edge)) + " " + cmp.Or(text("thick", ""), strconv.Itoa(b.Thick)) + pair("long", text("long", b.Long.String())) + pair("at", text("at", string(b.At))) +
		pair("margin", text("margin", strconv.Itoa(b.Margin))) + pair("round", text("round", strconv.Itoa(b.Round))) + pair("hides", text("hides", string(b.Hides))) + pair("on", text("on", b.Monitor))
	all, err := layout.ParseBars(line)
	if err != nil || len(all) != 1 {
		return b, cmp.Or(err, layout.ErrText)
	}
	all[0].Items, all[0].Other = items, b.Other
	return all[0], nil
}

// toldTiles is how windows lie as a form tells it.
func toldTiles(r *http.Request, now string) (string, error) {
	text := r.Form.Get("as")
	for _, word := range []string{"outer", "inner", "share", "float", "least"} {
		if v := strings.ReplaceAll(strings.TrimSpace(r.Form.Get(word)), " ", ""); v != "" {
			text += " " + word + " " + strconv.Quote(v)
		}
	}
	if r.Form.Get("frames") == "" {
		text += " frames no"
	}
	told, err := layout.ParseTiles(text)
	if err != nil {
		return "", err
	}
	if before, err := layout.ParseTiles(now); err == nil {
		told.Other = before.Other
	}
	return told.String(), nil
}

// Outer are the gaps around windows as they are typed.
func (p arrangePage) Outer() string {
	o := p.Tiles.Outer
	if o == [4]int{o[0], o[0], o[0], o[0]} {
		return strconv.Itoa(o[0])
	}
	return fmt.Sprintf("%d,%d,%d,%d", o[0], o[1], o[2], o[3])
}

// Lie tells a way in words.
func (arrangePage) Lie(as layout.Tiling) string {
	return map[layout.Tiling]string{layout.ByHand: "each where it is put", layout.Columns: "in columns", layout.Beside: "one large, beside the others", layout.Grid: "in a grid"}[as]
}

// Floats are the windows that float, as they are typed.
func (p arrangePage) Floats() string { return strings.Join(p.Tiles.Floats, ",") }

// changedDock is a dock after what a form asks for.
func changedDock(r *http.Request, now string) (string, error) {
	dock, err := layout.ParseDock(cmp.Or(now, "none"))
	if err != nil {
		return "", err
	}
	n, _ := strconv.Atoi(r.Form.Get("program"))
	inDock := func() bool { return dock != nil && n >= 0 && n < len(dock.Programs) }
	switch do := r.Form.Get("do"); {
	case do == "remove-dock":
		return "none", nil
	case do == "add-dock" && dock == nil:
		return layout.FormatDock(&layout.Dock{Edge: layout.Bottom, At: layout.Middle, Icon: 48, Grow: 100, Space: 6, Hides: layout.Never, Running: true, Programs: r.Form["pin"]}), nil
	case dock == nil:
		return "", errors.New("there is no dock")
	case do == "edge":
		dock.Edge = layout.Edge(r.Form.Get("edge"))
	case do == "pin" && r.Form.Get("id") != "":
		if !slices.Contains(dock.Programs, r.Form.Get("id")) {
			dock.Programs = append(dock.Programs, r.Form.Get("id"))
		}
	case do == "unpin" && inDock():
		dock.Programs = slices.Delete(dock.Programs, n, n+1)
	case (do == "earlier" || do == "later") && inDock():
		to := n + map[string]int{"earlier": -1, "later": 1}[do]
		if to < 0 || to >= len(dock.Programs) {
			return "", layout.ErrStays
		}
		dock.Programs[n], dock.Programs[to] = dock.Programs[to], dock.Programs[n]
	case do == "dock":
		line := r.Form.Get("edge") + " " + r.Form.Get("icon")
		for _, word := range []string{"at", "grow", "space", "margin", "round", "hides", "on"} {
			if v := strings.TrimSpace(r.Form.Get(word)); v != "" {
				line += " " + word + " " + strconv.Quote(v)
			}
		}
		yes := map[bool]string{true: "yes", false: "no"}
		line += " previews " + yes[r.Form.Get("previews") != ""] + " running " + yes[r.Form.Get("running") != ""]
		told, err := layout.ParseDock(line)
		if err != nil {
			return "", err
		}
		told.Programs, told.Other = dock.Programs, dock.Other
		dock = told
	default:
		return "", fmt.Errorf("nothing is to be done: %q", do)
	}
	return layout.FormatDock(dock), nil
}
