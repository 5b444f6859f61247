package web

import (
	"cmp"
	"context"
	"errors"
	"html/template"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"ivelt/app/layers"
	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/layer"
	"ivelt/core/parcel"
	"ivelt/core/picturestyle"
	"ivelt/core/preview"
	"ivelt/core/say"
)

// elementsView is a picture style as its elements.
type elementsView struct {
	Style    string // what programs ask for; "" if there is none that could be changed
	Found    string // where its drawing lies
	Wrong    string // why it cannot be read, "" if it can
	Elements []elementView
	Lacks    []lackView
	Shown    *elementView // the one that is being changed
	Open     bool         // the page shows them
	Kinds    []string     // elements that a copy can be made of
}

// elementView is an element as it is painted.
type elementView struct {
	Name    string
	Sample  template.URL // "" if nothing is painted
	W, H    int
	Wrong   string
	Edges   string
	Open    bool
	Address string
	Shapes  []shapeView
}

// shapeView is a shape of an element, with what can be changed of it.
type shapeView struct {
	N     int
	Kind  string
	Parts []shapePart
}

// shapePart is an attribute of a shape.
type shapePart struct {
	Style, Element  string
	N               int
	Property, Title string
	Value           string // #rrggbb or a number; "" for what is neither
	Says            string // what it is then
	Colour          bool
}

// lackView is an element that the engine finds nothing under.
type lackView struct {
	Name  string
	Meant string // the one that is probably meant, "" for none
	Like  string // the one that it could be drawn like, "" for none
}

// elementsOf is the picture style that is being changed, or else the one that is shown.
func elementsOf(ctx context.Context, f Frame, look preview.Look, m making, shown string) elementsView {
	var v elementsView
	if m.Recipe.Base.Kind == parcel.Style {
		v.Open = true
		recipe := m.Recipe
		look.Layer = &recipe
		v.Style = recipe.Base.Folder
	}
	v.Open = v.Open || shown != ""
	trying := f.Trying()
	drawing, ok := preview.StyleOf(trying, look, v.Style)
	if !ok {
		return elementsView{}
	}
	v.Style, v.Found = drawing.Name, f.Desk.Show(drawing.At)
	if drawing.Wrong != nil {
		v.Wrong = drawing.Wrong.Error()
		return v
	}
	for _, name := range drawing.Asked {
		e := elementView{Name: name, Open: name == shown, Address: "/d/" + f.Desk.ID + "/compose?" + url.Values{"facet": {desk.FacetPictures}, "element": {name}}.Encode()}
		var sample string
		sample, e.W, e.H = drawing.Sample(ctx, name)
		e.Sample = template.URL(sample)
		if of, ok := drawing.Style.Element(name); ok {
			v.Kinds = append(v.Kinds, name)
			e.Wrong = of.Wrong
			if of.Edges != (picturestyle.Edges{}) {
				e.Edges = of.Edges.String()
			}
		}
		if e.Open && e.Sample != "" {
			e.Shapes = shapesOf(v.Style, drawing.Text, name)
			v.Shown = &e
		}
		v.Elements = append(v.Elements, e)
	}
	for _, name := range drawing.Style.Lacks() {
		lack := lackView{Name: name, Meant: drawing.Style.Meant(name)}
		kind, _, _ := strings.Cut(name, "-")
		for _, other := range v.Kinds {
			if other == kind || lack.Like == "" && strings.HasPrefix(other, kind+"-") {
				lack.Like = other
			}
		}
		v.Lacks = append(v.Lacks, lack)
	}
	return v
}

// shapesOf are an element's shapes, as far as they can be changed one by one.
func shapesOf(style string, text []byte, name string) (out []shapeView) {
	all, err := picturestyle.Shapes(text, name)
	if err != nil {
		return nil
	}
	for i, of := range all[:min(len(all), maxShapes)] {
		s := shapeView{N: i + 1, Kind: of.Kind}
		add := func(property, title, value, says string, isColour bool) {
			s.Parts = append(s.Parts, shapePart{style, name, s.N, property, title, value, says, isColour})
		}
		for _, p := range [][2]string{{"fill", "Fill"}, {"stroke", "Line"}} {
			hex, says := plainly(of.Says[p[0]])
			add(p[0], p[1], hex, says, true)
		}
		if width := cmp.Or(of.Says["stroke-width"], "1"); small(width) {
			add("stroke-width", "Line width", width, "", false)
		}
		if round := cmp.Or(of.Says["rx"], "0"); of.Kind == "rect" && small(round) {
			add("rx", "Rounding", round, "", false)
		}
		out = append(out, s)
	}
	return out
}

// small reports whether a text is a number that a field for px takes.
func small(s string) bool {
	n, err := strconv.ParseFloat(s, 64)
	return err == nil && n >= 0 && n <= 40
}

// maxShapes is how many shapes of an element are shown.
const maxShapes = 24

// plainly is a colour as #rrggbb, or what it is else.
func plainly(value string) (hex, says string) {
	if c, err := colour.Parse(value); err == nil {
		return c.Hex(), ""
	}
	switch {
	case value == "":
		return "", "not said"
	case strings.HasPrefix(value, "url("):
		return "", "a gradient"
	}
	return "", value
}

// elementChangesOf reads changes to elements from a form: what is missing mended, one named or
// drawn like another, or something of a shape set.
func (s *Server) elementChangesOf(r *http.Request) (layers.Change, error) {
	name := r.FormValue("element")
	if name == allMissing {
		return s.mended(r)
	}
	e := layer.Element{Name: name, From: r.FormValue("from"), Like: r.FormValue("like"), Edges: strings.TrimSpace(r.FormValue("edges"))}
	if property := r.FormValue("property"); property != "" {
		e.Set = map[string]string{property: strings.TrimSpace(r.FormValue("value"))}
		e.Shape, _ = strconv.Atoi(r.FormValue("shape"))
		if was := r.FormValue("was"); was != "" { // for people to see; it is read anew when the change is built
			e.Was = map[string]string{property: was}
		}
	}
	if e.Empty() {
		return layers.Change{}, errors.New("a change needs a value")
	}
	return layers.Change{Elements: []layer.Element{e}}, nil
}

// allMissing stands for every element that is missing.
const allMissing = "*"

// mended gives each missing element what is probably meant by it, or a copy of one like it.
func (s *Server) mended(r *http.Request) (layers.Change, error) {
	var c layers.Change
	f, err := s.chrome(r, "compose", "compose", "Compose")
	if err != nil {
		return c, err
	}
	m, err := s.makingOf(f.Desk)
	if err != nil {
		return c, err
	}
	v := elementsOf(r.Context(), f, preview.Draft(r.Context(), f.Trying(), f.Draft), m, "")
	if style := r.FormValue("theme"); v.Style != style {
		return c, say.Errorf("%s is not the picture style that is shown", style)
	}
	for _, lack := range v.Lacks {
		switch {
		case lack.Meant != "":
			c.Elements = append(c.Elements, layer.Element{Name: lack.Name, From: lack.Meant})
		case lack.Like != "":
			c.Elements = append(c.Elements, layer.Element{Name: lack.Name, Like: lack.Like})
		}
	}
	if len(c.Elements) == 0 {
		return c, errors.New("nothing is missing that another element could stand in for")
	}
	// What is named first may be what another is a copy of.
	slices.SortStableFunc(c.Elements, func(a, b layer.Element) int { return cmp.Compare(b.From, a.From) })
	return c, nil
}
