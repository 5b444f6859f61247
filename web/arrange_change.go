package web

import (
	"cmp"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"ivelt/app/desks"
	"ivelt/core/desk"
	"ivelt/core/layout"
	"ivelt/core/preview"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// changeArrangement changes where something is in the draft.
func (s *Server) changeArrangement(w http.ResponseWriter, r *http.Request) error {
	if err := r.ParseForm(); err != nil {
		return refused(err)
	}
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	on, look, err := s.drafted(r.Context(), d)
	if err != nil {
		return err
	}
	change, err := arranging(r, on, look)
	if errors.Is(err, layout.ErrStays) {
		err = nil
	} else if err == nil {
		err = s.arrangeOnDraft(d, on, change)
	}
	if err != nil {
		return refused(err)
	}
	if r.Header.Get("HX-Request") != "" {
		return s.arrangeWith(w, r, change.sel)
	}
	to(w, r, viewOf(r).Here()+fmt.Sprintf("&bar=%d&item=%d", change.sel.Bar, change.sel.Item))
	return nil
}

// arrangedTo is a facet of a surface with what it is to be told, and what is selected then.
type arrangedTo struct {
	surface desk.Surface
	facet   desk.Facet
	value   string
	sel     selected
}

// arranging is what a form asks for, with a value that the surface takes. The error is
// [layout.ErrStays] if all stays as it is.
func arranging(r *http.Request, on *desk.Desk, look preview.Look) (to arrangedTo, err error) {
	sel, of := selected{-1, -1}, r.Form.Get("of")
	facet := map[string]string{"": desk.FacetBars, "dock": desk.FacetDock, "tiles": desk.FacetTiles, "names": desk.FacetNames, "space": desk.FacetSpaces}[of]
	if facet == "" && slices.Contains(layoutFacets, r.Form.Get("facet")) { // a setting, or what lies on the desk
		facet = r.Form.Get("facet")
	}
	surface, f, has := told(on, facet)
	if !has {
		return to, errors.New("nothing on this desk is told of that")
	}
	now, value := look.Of(facet, surface.ID), ""
	switch of {
	case "dock":
		value, err = changedDock(r, now)
	case "tiles":
		value, err = toldTiles(r, now)
	case "setting":
		value = r.Form.Get("piece")
	case "names":
		value = toldNames(r.Form.Get("names"))
	case "space":
		value = toldSpace(r.Form, now)
	case "lying":
		view := viewOf(r)
		value, err = changedLying(r.Form, now, facet, preview.ArrangeOn(on, look, view.on(on), view.Monitor))
	default:
		value, sel, err = changedBars(r, now)
	}
	to = arrangedTo{surface, f, value, sel}
	if err != nil {
		return to, err
	}
	info, _ := desk.FacetOf(f.Name)
	if err := info.Accepts(value); err != nil {
		return to, err
	}
	if err := reading.Check(on, surface, f, value); errors.As(err, new(*reading.ValueError)) {
		return to, say.Errorf("%s cannot follow: %w", surface.Title, err)
	}
	return to, nil
}

// arrangeOnDraft chooses a value for a facet; what is so already is taken off the draft. Where the surface
// has a value of its own, or cannot follow that of the draft, it gets its own.
func (s *Server) arrangeOnDraft(d *desks.Managed, on *desk.Desk, to arrangedTo) error {
	draft, err := s.App.Drafts.Draft(d)
	if err != nil {
		return err
	}
	facet := to.facet.Name
	_, own := draft.Excepted(to.surface.ID, facet)
	if want := draft.Want(facet); own || want != "" && reading.Check(on, to.surface, to.facet, want) != nil {
		return s.App.Drafts.Except(d, to.surface.ID, facet, to.value, false)
	}
	_, err = s.App.Drafts.Choose(d, facet, to.value)
	return err
}

// toldNames are names of workspaces as they are typed, with commas or semicolons between.
func toldNames(typed string) string {
	var names []string
	for _, name := range strings.FieldsFunc(typed, func(r rune) bool { return r == ';' || r == ',' }) {
		if name = strings.TrimSpace(name); name != "" {
			names = append(names, name)
		}
	}
	return cmp.Or(strings.Join(names, ";"), "none")
}

// toldSpace are the pictures of workspaces with that of one as a form tells it, "" for none.
func toldSpace(form url.Values, now string) string {
	n, picture := form.Get("space"), form.Get("picture")
	all := slices.DeleteFunc(desk.Each(now), func(o desk.Own) bool { return o.Monitor == n })
	if picture != "" {
		all = append(all, desk.Own{Monitor: n, Picture: picture})
	}
	slices.SortFunc(all, func(a, b desk.Own) int {
		return cmp.Or(len(a.Monitor)-len(b.Monitor), strings.Compare(a.Monitor, b.Monitor))
	})
	return desk.EachOf(all)
}

// changedLying is where something lies on the desk after what a form asks for.
func changedLying(form url.Values, now, facet string, a preview.Arranged) (string, error) {
	l, err := layout.ParseLying(cmp.Or(now, "none"))
	if err != nil {
		return "", err
	}
	number := func(name string) int { n, _ := strconv.Atoi(form.Get(name)); return n }
	switch do := form.Get("do"); {
	case do == "away":
		return "none", nil
	case do == "there":
		return form.Get("usual"), nil
	case l == nil:
		return "", errors.New("there is none on the desk")
	case do == "by" || do == "put": // by so many px, or at a place of the picture
		i := slices.IndexFunc(a.OnDesk, func(o preview.OnDesk) bool { return o.Facet == facet })
		if i < 0 {
			return "", errors.New("it is on another monitor")
		}
		at := a.OnDesk[i].At
		to := l.By(number("x"), number("y"), at.Dx(), at.Dy(), a.Work)
		if do == "put" {
			to = layout.At(number("x"), number("y"), at.Dx(), at.Dy(), a.Work)
		}
		l.Edges, l.In = to.Edges, to.In
	case do == "set":
		line := form.Get("place") + " " + cmp.Or(form.Get("across"), "0") + " " + cmp.Or(form.Get("down"), "0")
		for _, word := range []string{"size", "form", "on"} {
			if v := strings.TrimSpace(form.Get(word)); v != "" {
				line += " " + word + " " + strconv.Quote(v)
			}
		}
		to, err := layout.ParseLying(line)
		if err != nil {
			return "", err
		}
		to.Other = l.Other
		l = to
	default:
		return "", say.Errorf("nothing is to be done: %q", do)
	}
	return layout.FormatLying(l), nil
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
		kind := layout.Kind{}
		if isBar() == nil && sel.Item >= 0 && sel.Item < len(bars[sel.Bar].Items) {
			kind, _ = layout.KindOf(bars[sel.Bar].Items[sel.Item].Kind)
		} else {
			err = layout.ErrNotThere
		}
		for _, key := range kind.Options {
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
		err = say.Errorf("nothing is to be done: %q", do)
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
		return "", say.Errorf("nothing is to be done: %q", do)
	}
	return layout.FormatDock(dock), nil
}
