package web

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"html/template"
	"maps"
	"net/http"
	"net/url"
	"path"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"ivelt/app/desks"
	"ivelt/app/layers"
	"ivelt/core/desk"
	"ivelt/core/fine"
	"ivelt/core/fontbook"
	"ivelt/core/gtkcss"
	"ivelt/core/layer"
	"ivelt/core/parcel"
	"ivelt/core/preview"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// askedPage is what the picture has at a place that was pointed at.
type askedPage struct {
	Frame
	Making    making
	At        preview.Asked
	Name      string // of the part, as selectors name it
	Surface   string // by its title
	Place     url.Values
	Above     []pickView // the nodes above it, the nearest first
	Decided   []decidedView
	IconFile  string
	IconBench string // where the icon can be given another picture
	FontFile  string
	Facet     say.Word // of what no style sheet draws, by its title
	File      string   // where that is found
	Choose    string   // where it is chosen
	Nothing   bool     // is there
	Left      bool     // the answer stands on the left of the picture: what was pointed at is on the right
}

// decidedView is one declaration that decides something of the part.
type decidedView struct {
	preview.Rule
	Property, Value string
	Where           string // file and line
	Hex             string // of a value that is one colour, #rrggbb; "" for others
	Overruled       []rungText
	Behind          []namedView
	Scopes          []scopeView
}

type rungText struct{ Value, Selector, Where string }

type namedView struct {
	gtkcss.Named
	Where, Hex string
}

// scopeView is how far a change goes.
type scopeView struct{ Value, Title string }

// making is what is being made of a theme, as pages show it.
type making struct {
	Recipe  layer.Recipe
	Changes []layers.Said
	Lay     string // tells pictures of different changes apart, "" for none
}

// makingOf is what is being made on a desk.
func (s *Server) makingOf(d *desks.Managed) (making, error) {
	r, ok, err := s.App.Layers.Making(d)
	if err != nil || !ok {
		return making{}, err
	}
	return making{r, layers.Changes(r), strings.Trim(etag(r.Bytes()), `"`)}, nil
}

// movesView is what a whole theme can be changed by.
type movesView struct {
	Theme   string // its folder; "" if there is none that could be changed
	Open    bool
	Sizes   []moveView
	Accent  string // of the recipe, "" for the theme's own
	Own     string // that of what windows show, "" if it names none
	Shades  []fine.Option
	Fonts   []fine.Option
	Accents []fine.Option
}

// maxFonts is how many fonts are offered.
const maxFonts = 400

// moveView is a slider.
type moveView struct {
	layer.MoveInfo
	Now int // in percent
}

// movesOf are the moves of the theme that is being changed, or else of that which windows show.
func movesOf(f Frame, look preview.Look, m making) movesView {
	if m.Lay != "" && m.Recipe.Base.Kind != parcel.Theme {
		return movesView{}
	}
	v := movesView{Theme: m.Recipe.Base.Folder, Open: len(m.Recipe.Moves) > 0}
	for _, s := range f.Now.Surfaces() {
		of, has := s.Facet(desk.FacetWidgets)
		if !has || m.Recipe.Base.Folder != "" {
			continue
		}
		for _, theme := range []string{f.Draft.Want(desk.FacetWidgets), look.Of(desk.FacetWidgets, s.ID)} {
			at, err := reading.Find(f.Now, of.Lookup, theme)
			if err == nil && at != "" && (v.Theme == "" || theme == f.Draft.Want(desk.FacetWidgets)) {
				v.Theme = theme // what is on the draft before what is in use
			}
		}
	}
	if v.Theme == "" {
		return v
	}
	for _, s := range f.Now.Surfaces() {
		if look.Of(desk.FacetWidgets, s.ID) == v.Theme && s.Kind == "toolkit" {
			if c, ok := layer.AccentOf(preview.Styles(f.Trying(), look, s.ID)); ok {
				v.Own = c.Hex()
				break
			}
		}
	}
	now := map[string]string{}
	for _, move := range m.Recipe.Moves {
		now[move.Of] = move.To
	}
	for _, of := range layer.Moves {
		switch of.Of {
		case layer.MoveAccent:
			v.Accent = now[of.Of]
			continue
		case layer.MoveFamily:
			v.Fonts = []fine.Option{{Title: say.Line("as made"), Chosen: now[of.Of] == ""}}
			for _, face := range fontbook.Of(f.Now, fontbook.Folders(f.Now)).Families() {
				if name := face.Family(); !face.Fixed && len(v.Fonts) < maxFonts && !slices.ContainsFunc(v.Fonts, func(o fine.Option) bool { return o.Value == name }) {
					v.Fonts = append(v.Fonts, fine.Option{Value: name, Title: say.Words(name), Chosen: name == now[of.Of]})
				}
			}
			continue
		case layer.MoveShade:
			for _, s := range []fine.Option{{Title: say.Line("as made")}, {Value: "light", Title: say.Line("light")}, {Value: "dark", Title: say.Line("dark")}} {
				s.Chosen = s.Value == now[of.Of]
				v.Shades = append(v.Shades, s)
			}
			continue
		}
		n, err := strconv.ParseFloat(strings.TrimSuffix(now[of.Of], "%"), 64)
		if err != nil {
			n = 100
		}
		v.Sizes = append(v.Sizes, moveView{of, int(n)})
	}
	v.Accents = slices.Clone(fine.Accents)
	for i := range v.Accents {
		v.Accents[i].Chosen = v.Accents[i].Value == v.Accent
	}
	return v
}

// lookAsked is the look that a picture was asked for with, with what is being made laid over
// it if the page shows that.
func (s *Server) lookAsked(ctx context.Context, d *desks.Managed, r *http.Request) (*desk.Desk, preview.Look, error) {
	trying, look, err := s.lookOf(ctx, d, r.FormValue("look"))
	if err != nil {
		return trying, look, missing(err)
	}
	look = s.inLanguage(r, look)
	if shade := r.FormValue("shade"); shade == "dark" || shade == "light" {
		look.Shade = shade
	}
	if slices.ContainsFunc(preview.States, func(of struct {
		Name  string
		Title say.Word
	}) bool {
		return of.Name == r.FormValue("state")
	}) {
		look.State = r.FormValue("state")
	}
	if r.FormValue("lay") != "" {
		m, err := s.makingOf(d)
		if err != nil {
			return trying, look, err
		}
		if m.Lay != "" {
			look.Layer = &m.Recipe
		}
	}
	return trying, look, nil
}

// placeKeys are what an answer of the picture depends on.
var placeKeys = []string{"look", "scene", "shade", "state", "x", "y", "up"}

// ask tells what the picture has at a place.
func (s *Server) ask(w http.ResponseWriter, r *http.Request) error {
	page, err := s.askedView(r)
	if err != nil {
		return err
	}
	s.part(w, r, "compose", "asked", page)
	return nil
}

func (s *Server) askedView(r *http.Request) (askedPage, error) {
	f, err := s.chrome(r, "compose", "compose", "Compose")
	if err != nil {
		return askedPage{}, err
	}
	page := askedPage{Frame: f, Place: url.Values{}}
	for _, key := range placeKeys {
		page.Place.Set(key, r.FormValue(key))
	}
	if page.Making, err = s.makingOf(f.Desk); err != nil {
		return page, err
	}
	r.Form.Set("lay", "1")
	trying, look, err := s.lookAsked(r.Context(), f.Desk, r)
	if err != nil {
		return page, err
	}
	x, errX := strconv.ParseFloat(r.FormValue("x"), 64)
	y, errY := strconv.ParseFloat(r.FormValue("y"), 64)
	if errX != nil || errY != nil {
		return page, refused(errors.New("the place in the picture is two numbers, x and y, in px"))
	}
	up, _ := strconv.Atoi(r.FormValue("up"))
	of, ok := preview.Ask(trying, look, r.FormValue("scene"), x, y, up)
	if !ok {
		page.Nothing = true
		return page, nil
	}
	page.At = of
	if of.Node == nil {
		page.Name, page.Facet = cmp.Or(of.Element, of.Wears, "default"), desk.FacetTitle(of.Facet)
		page.Choose = "/d/" + f.Desk.ID + "/compose?" + url.Values{"facet": {of.Facet}}.Encode()
		if of.Element != "" {
			page.Choose += "&" + url.Values{"element": {of.Element}}.Encode()
		}
		if of.File != "" {
			page.File = f.Desk.Show(of.File)
		}
	} else {
		page.Name, page.Above = of.Node.String(), page.above(up)
	}
	if surface, ok := f.Desk.Surface(of.Surface); ok {
		page.Surface = surface.Title
	}
	if surface, ok := f.Desk.Surface(of.Surface); ok && of.Icon != nil {
		if pack := look.Of(surface.Called(desk.FacetIcons), of.Surface); pack != "" {
			page.IconBench = "/d/" + f.Desk.ID + "/bench/icons?" + url.Values{"set": {pack}, "icon": {of.Icon.Name}}.Encode()
		}
	}
	if of.Icon != nil && of.Icon.File != "" {
		page.IconFile = f.Desk.Show(desk.Path(of.Icon.File))
	}
	if of.FontFile != "" {
		page.FontFile = f.Desk.Show(desk.Path(of.FontFile))
	}
	for _, rule := range of.Rules {
		page.Decided = append(page.Decided, page.decided(f.Desk, rule))
	}
	slices.SortStableFunc(page.Decided, func(a, b decidedView) int { return cmp.Compare(rank(a), rank(b)) })
	page.Left = x > sceneWidth(r.FormValue("scene"))/2
	return page, nil
}

// above are the nodes above the part, which can be asked about in its place.
func (p askedPage) above(up int) (out []pickView) {
	for n := p.At.Node.Parent(); n != nil && len(out) < maxAbove; n = n.Parent() {
		up++
		place := maps.Clone(p.Place)
		place.Set("up", strconv.Itoa(up))
		out = append(out, pickView{Title: say.Words(n.String()), Address: "/d/" + p.Desk.ID + "/ask?" + place.Encode()})
	}
	return out
}

// maxAbove is how many of them are offered.
const maxAbove = 4

func sceneWidth(name string) float64 {
	for _, s := range preview.Scenes {
		if s.Name == name {
			return float64(s.Width)
		}
	}
	return float64(preview.Scenes[0].Width)
}

// rank puts what is seen most first: colours, then edges and text, then sizes.
func rank(v decidedView) int {
	for i, names := range [][]string{{"background-color", "background-image"}, {"color"}, {"border-top-color", "border-top-width", "border-top-left-radius", "box-shadow"}, {"font-size", "font-family", "font-weight"}, {"padding-top", "min-height", "min-width", "margin-top"}} {
		if slices.ContainsFunc(v.Properties, func(p string) bool { return slices.Contains(names, p) }) {
			return i
		}
	}
	return 9
}

func (p askedPage) decided(d *desks.Managed, r preview.Rule) decidedView {
	v := decidedView{Rule: r, Property: r.Won.Property, Value: r.Won.Value, Where: placeOf(d, r.Won.File, r.Won.Line)}
	if r.Colour != nil {
		v.Hex = dyeOf(*r.Colour)
	}
	for _, o := range r.Explained.Overruled {
		v.Overruled = append(v.Overruled, rungText{o.Value, o.Selector, placeOf(d, o.File, o.Line)})
	}
	for _, n := range r.Named {
		v.Behind = append(v.Behind, namedView{n, placeOf(d, n.File, n.Line), dyeOf(n.Colour)})
	}
	own := r.Won.File == layer.File || strings.HasPrefix(r.Won.File, "resource:") || strings.Contains(r.Won.File, "/"+p.At.Theme+"/")
	if p.At.Theme == "" || r.Won.Selector == "" || !own {
		return v // a sheet that is not the theme's: its own of the person, or the toolkit's
	}
	v.Scopes = append(v.Scopes, scopeView{"rule " + r.Won.Selector, "everything that is " + preview.Shorten(r.Won.Selector, 40)})
	for _, n := range r.Named {
		if n.File != "" {
			v.Scopes = append(v.Scopes, scopeView{"colour " + n.Name, "the colour @" + n.Name + ", wherever it is used"})
		}
	}
	if r.From == "" {
		v.Scopes = append(v.Scopes, scopeView{"part " + p.At.Node.Way(), "this one alone"})
	}
	return v
}

// dyeOf is a colour without what shows through it.
func dyeOf(c gtkcss.Colour) string {
	byte := func(v float64) int { return int(min(max(v, 0), 1)*255 + 0.5) }
	return fmt.Sprintf("#%02x%02x%02x", byte(c.R), byte(c.G), byte(c.B))
}

// placeOf is where something is written, as people write it.
func placeOf(d *desks.Managed, file string, line int) string {
	switch {
	case file == "":
		return "Ivelt's plain style"
	case file == layer.File:
		return "your change"
	case !strings.Contains(file, ":"):
		file = d.Show(desk.Path(file))
	}
	return file + ":" + strconv.Itoa(line)
}

// changeLayer makes a change to the theme that is pictured, takes one back, builds them, or
// discards them.
func (s *Server) changeLayer(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	switch r.FormValue("do") {
	case "build":
		job, err := s.App.Layers.Build(r.Context(), d, strings.TrimSpace(r.FormValue("name")), "/d/"+d.ID+"/compose")
		if err != nil {
			return refused(err)
		}
		s.showJob(w, r, d.ID, job)
		return nil
	case "discard":
		err = s.App.Layers.Discard(d)
	case "take":
		n, wrong := strconv.Atoi(r.FormValue("change"))
		if err = wrong; err == nil {
			err = s.App.Layers.Take(d, n)
		}
	default:
		var c layers.Change
		if r.FormValue("element") != "" {
			c, err = s.elementChangesOf(r)
		} else {
			c, err = themeChangeOf(r)
		}
		if err == nil {
			err = s.App.Layers.Make(r.Context(), d, r.FormValue("theme"), c)
		}
	}
	if err != nil {
		return refused(err)
	}
	if r.Header.Get("HX-Request") == "" {
		at := url.Values{}
		if name := r.FormValue("element"); name != "" {
			at = url.Values{"facet": {desk.FacetPictures}, "element": {name}}
		}
		to(w, r, strings.TrimSuffix("/d/"+d.ID+"/compose?"+at.Encode(), "?"))
		return nil
	}
	if r.FormValue("x") != "" {
		page, err := s.askedView(r)
		if err != nil {
			return err
		}
		page.Swap = true
		s.part(w, r, "compose", "asked-changed", page)
		return nil
	}
	p, err := s.draftView(r)
	if err != nil {
		return err
	}
	p.Moves.Open = p.Moves.Open || r.FormValue("move") != "" // the last one may have been taken back
	s.part(w, r, "compose", "making-changed", p)
	return nil
}

// themeChangeOf reads a change from a form: how far it goes, and what it sets.
func themeChangeOf(r *http.Request) (layers.Change, error) {
	if of := r.FormValue("move"); of != "" {
		to := r.FormValue("to")
		if !slices.Contains([]string{layer.MoveAccent, layer.MoveShade, layer.MoveFamily}, of) {
			to += "%"
		}
		return layers.Change{Move: &layer.Move{Of: of, To: to}}, nil
	}
	kind, of, _ := strings.Cut(r.FormValue("scope"), " ")
	value, sheet := strings.TrimSpace(r.FormValue("value")), r.FormValue("sheet")
	switch {
	case value == "":
		return layers.Change{}, errors.New("a change needs a value")
	case kind == "colour":
		return layers.Change{Colour: &layer.Colour{Name: of, Value: value, Was: said(sheet, r.FormValue("was-"+of))}}, nil
	case kind == "rule" || kind == "part":
		part := path.Dir(sheet)
		for _, whole := range []string{"gtk-3.0", "gtk-4.0"} {
			if strings.HasPrefix(part, strings.TrimSuffix(whole, "0")) {
				part = whole
			}
		}
		rule := layer.Rule{Parts: []string{part}, Selector: of, Set: map[string]string{r.FormValue("property"): value}}
		if was := r.FormValue("was"); was != "" && kind == "rule" {
			rule.Was = map[string]map[string]string{sheet: {r.FormValue("property"): was}}
		}
		return layers.Change{Rule: &rule}, nil
	}
	return layers.Change{}, errors.New("how far a change goes is not said")
}

// said is what a sheet said, for people to see; it is read anew when the change is built.
func said(sheet, was string) map[string]string {
	if was == "" {
		return nil
	}
	return map[string]string{sheet: was}
}

// dyeWanted reads which packs are wanted of which, and the facet that they are chosen for.
func dyeWanted(r *http.Request) (kind parcel.Kind, pack, facet string, w layers.Wanted, err error) {
	if err := r.ParseForm(); err != nil {
		return "", "", "", w, refused(err)
	}
	colours := r.Form["to"]
	if r.FormValue("own") != "" {
		colours = append(colours, r.FormValue("colour"))
	}
	kind, facet = parcel.Icons, desk.FacetIcons
	switch r.FormValue("kind") {
	case string(parcel.Pointer):
		kind, facet = parcel.Pointer, desk.FacetPointer
	case string(parcel.Style):
		kind, facet = parcel.Style, desk.FacetPictures
	}
	return kind, r.FormValue("pack"), facet, layers.Wanted{All: r.FormValue("icons") == "all", Colours: colours, Palette: r.FormValue("palette") != ""}, nil
}

// dye makes packs in other colours of one, to be tried on.
func (s *Server) dye(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	kind, pack, facet, wanted, err := dyeWanted(r)
	if err != nil {
		return err
	}
	job, err := s.App.Layers.Dye(r.Context(), d, kind, pack, wanted, "/d/"+d.ID+"/compose?facet="+facet)
	if err != nil {
		return refused(err)
	}
	s.showJob(w, r, d.ID, job)
	return nil
}

// dyedPage is what packs in other colours would look like, before they are made.
type dyedPage struct {
	Names []string
	Rows  []dyedRow
}

type dyedRow struct {
	Title    string
	Pictures []template.URL
}

// dyed shows pictures of a piece before and after.
func (s *Server) dyed(w http.ResponseWriter, r *http.Request) error {
	f, err := s.chrome(r, "compose", "compose", "Compose")
	if err != nil {
		return err
	}
	kind, pack, _, wanted, err := dyeWanted(r)
	if err != nil {
		return err
	}
	var page dyedPage
	recipes, _, err := s.App.Layers.Recipes(r.Context(), f.Desk, kind, pack, wanted)
	if err != nil { // nothing is chosen yet
		s.part(w, r, "compose", "dyed", page)
		return nil
	}
	trying := f.Trying()
	look := preview.Draft(r.Context(), trying, f.Draft)
	before := dyedRow{Title: "as made"}
	var rows []dyedRow
	for _, of := range recipes {
		row := dyedRow{Title: strings.TrimPrefix(of.Name, pack+", ")}
		for _, one := range preview.DyedOf(trying, look, kind, pack, of.Dyes[0]) {
			if len(rows) == 0 {
				page.Names, before.Pictures = append(page.Names, one.Name), append(before.Pictures, template.URL(one.Before))
			}
			row.Pictures = append(row.Pictures, template.URL(one.After))
		}
		rows = append(rows, row)
	}
	page.Rows = append([]dyedRow{before}, rows...)
	s.part(w, r, "compose", "dyed", page)
	return nil
}
