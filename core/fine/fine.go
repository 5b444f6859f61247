// Package fine tells which settings of a desk can be chosen besides pieces: sizes, shades,
// colours, the order of buttons; with what there is to choose from, and how values are
// written for people.
package fine

import (
	"fmt"
	"path"
	"slices"
	"strconv"

	"ivelt/core/desk"
	"ivelt/core/effect"
	"ivelt/core/fontbook"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/preview"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// Option is one value to choose.
type Option struct {
	Value  string
	Title  say.Message
	Chosen bool
}

// Setting is one fine setting of a draft.
type Setting struct {
	desk.FacetInfo
	Now     string // what the draft would show: one value, or "" if surfaces differ
	OnDraft bool
	Options []Option // to choose from; none for a number that is typed
	Few     bool     // the options are few and short
	Of      string   // the facet it sets, if it is a part of one: the font's size
}

// PointSize is the size of a font that is shown now, in points as they are written, "" where
// that is not said.
func PointSize(now string) string {
	_, size := desk.SplitFont(now)
	if size == 0 {
		return ""
	}
	return strconv.FormatFloat(size, 'f', -1, 64)
}

// titled is how a value stands among the options of a facet.
func titled(facet, value string) say.Message {
	if info, _ := desk.FacetOf(facet); info.Takes == desk.TakesFont && value != "" {
		family, _ := desk.SplitFont(value) // its size is beside
		return say.Words(family)
	}
	return Says(facet, value)
}

// Accents are Ivelt's own colours to begin with.
var Accents = []Option{
	{Value: "#2f7f8c", Title: say.Line("estuary")}, {Value: "#1d6b52", Title: say.Line("kelp")}, {Value: "#6b8e23", Title: say.Line("samphire")},
	{Value: "#b8862b", Title: say.Line("sand")}, {Value: "#b4553d", Title: say.Line("rust")}, {Value: "#a0466b", Title: say.Line("thrift")},
	{Value: "#6f5a9e", Title: say.Line("heather")}, {Value: "#4a5a6a", Title: say.Line("slate")},
}

// ButtonOrders are usual arrangements of a window's buttons.
var ButtonOrders = []Option{
	{Value: "menu:minimize,maximize,close", Title: say.Line("right: minimise, maximise, close")},
	{Value: "menu:close", Title: say.Line("right: close only")},
	{Value: "menu:minimize,close", Title: say.Line("right: minimise, close")},
	{Value: "close,minimize,maximize:menu", Title: say.Line("left: close, minimise, maximise")},
	{Value: "close:menu", Title: say.Line("left: close only")},
	{Value: "close:minimize,maximize", Title: say.Line("close left, minimise and maximise right")},
}

// Settings are the fine settings of facets that some surface of a desk has, as a look of a
// draft shows them, in the order of the facets.
func Settings(d *desk.Desk, o outfit.Outfit, look preview.Look, facets []string) []Setting {
	var out []Setting
	for _, facet := range facets {
		info, ok := desk.FacetOf(facet)
		if !ok || facet == desk.FacetEach && len(d.Monitors()) < 2 {
			continue
		}
		v := Setting{FacetInfo: info, OnDraft: o.Want(info.Name) != "", Of: info.Name}
		if v.onSurfaces(d, look) {
			v.offer(d, o, look)
			v.choose(d)
			out = append(out, v)
		}
	}
	return out
}

// onSurfaces fills in what surfaces show, and what each could be told; it is false if none
// has the facet.
func (v *Setting) onSurfaces(d *desk.Desk, look preview.Look) (has bool) {
	differ := false
	for _, s := range d.Surfaces() {
		f, ok := s.Facet(v.Name)
		if !ok {
			continue
		}
		switch v.Takes {
		case desk.TakesPiece, desk.TakesPicture, desk.TakesName:
			for _, o := range Options(d, s, f, "") {
				v.add(o)
			}
		}
		now := look.Of(v.Name, s.ID)
		differ = differ || has && now != v.Now
		v.Now, has = now, true
	}
	if differ {
		v.Now = ""
	}
	return has
}

// add adds an option, once.
func (v *Setting) add(o Option) {
	if o.Value != "" && !slices.ContainsFunc(v.Options, func(have Option) bool { return have.Value == o.Value }) {
		v.Options = append(v.Options, Option{Value: o.Value, Title: o.Title})
	}
}

// offer fills in what can be chosen of the facet's kind.
func (v *Setting) offer(d *desk.Desk, o outfit.Outfit, look preview.Look) {
	switch v.Takes {
	case desk.TakesShade, desk.TakesWord:
		for _, word := range v.Words {
			v.Options = append(v.Options, Option{Value: word, Title: Says(v.Name, word)})
		}
		v.Few = len(v.Options) <= 3
	case desk.TakesColour:
		v.Options = slices.Clone(Accents)
	case desk.TakesButtons:
		v.Options = slices.Clone(ButtonOrders)
	case desk.TakesEffect:
		v.Options = Effects(v.Name)
	case desk.TakesFont:
		if v.Name != desk.FacetFont {
			folders := fontbook.Folders(d)
			if v.Name == desk.FacetLoginFont {
				folders = v.lookedIn(d)
			}
			v.Options = families(d, v.Now, v.Name == desk.FacetFontMono, folders)
			break
		}
		// the family is chosen among the fonts
		_, size := FontOf(d, o, desk.FacetFont)
		v.Title, v.Unit, v.Least, v.Most, v.Takes = "Font size", "pt", 6, 24, desk.TakesNumber
		v.Now = strconv.FormatFloat(size, 'f', -1, 64)
	case desk.TakesNumber:
		if v.Name == desk.FacetPointerSize {
			v.Options = pointerSizes(d, look)
		}
	}
}

// lookedIn are the folders that surfaces look for the setting's pieces in.
func (v *Setting) lookedIn(d *desk.Desk) []string {
	var out []string
	for _, s := range d.Surfaces() {
		if f, ok := s.Facet(v.Name); ok {
			out = append(out, f.Lookup.Everywhere()...)
		}
	}
	return out
}

// choose marks what is shown now, which is an option too.
func (v *Setting) choose(d *desk.Desk) {
	found := false
	for i := range v.Options {
		v.Options[i].Chosen = v.Options[i].Value == v.Now
		found = found || v.Options[i].Chosen
	}
	if v.Now != "" && len(v.Options) > 0 && !found {
		v.Options = append(v.Options, Option{Value: v.Now, Title: titled(v.Name, v.Now), Chosen: true})
	}
}

// FontOf is the font on a draft for a facet, or what the first surface that has one is
// told: its family, and its size in points.
func FontOf(d *desk.Desk, o outfit.Outfit, facet string) (family string, size float64) {
	family, size = desk.SplitFont(o.Want(facet))
	for _, s := range d.Surfaces() {
		f, ok := s.Facet(facet)
		if !ok || family != "" && size > 0 {
			continue
		}
		itsFamily, itsSize := desk.SplitFont(reading.Of(d, s, f).Value)
		if family == "" {
			family = itsFamily
		}
		if size == 0 {
			size = itsSize
		}
	}
	if size == 0 {
		size = 10
	}
	return family, size
}

// families are those of the desk, in the size of what is shown now; those of fixed width
// alone, where that is asked.
func families(d *desk.Desk, now string, fixed bool, folders []string) []Option {
	_, size := desk.SplitFont(now)
	if size == 0 {
		size = 11
	}
	var out []Option
	for _, f := range fontbook.Of(d, folders).Families() {
		if fixed && !f.Fixed {
			continue
		}
		out = append(out, Option{Value: f.Family() + " " + strconv.FormatFloat(size, 'f', -1, 64), Title: say.Words(f.Family())})
	}
	return out
}

// pointerSizes are the sizes of the sets that a look shows.
func pointerSizes(d *desk.Desk, look preview.Look) []Option {
	var sizes []int
	for _, s := range d.Surfaces() {
		f, ok := s.Facet(desk.FacetPointer)
		if !ok {
			continue
		}
		for _, n := range match.PointerSizes(d, f.Lookup, look.Of(desk.FacetPointer, s.ID)) {
			if !slices.Contains(sizes, n) {
				sizes = append(sizes, n)
			}
		}
	}
	if sizes == nil { // the display's own, whose sizes no file tells
		sizes = []int{24, 32, 48}
	}
	var out []Option
	for _, n := range sizes {
		out = append(out, Option{Value: strconv.Itoa(n), Title: say.Words(fmt.Sprint(n, " px"))})
	}
	return out
}

// Options are what a surface could be told for a facet, that which it is told now among
// them; none if anything can be said.
func Options(d *desk.Desk, surface desk.Surface, of desk.Facet, now string) []Option {
	info, _ := desk.FacetOf(of.Name)
	var out []Option
	switch info.Takes {
	case desk.TakesWord, desk.TakesShade:
		for _, w := range info.Words {
			if of.Values == nil || of.Values[w] != nil {
				out = append(out, Option{Value: w, Title: Says(of.Name, w)})
			}
		}
	case desk.TakesFont:
		folders := fontbook.Folders(d)
		if surface.Greeter != nil {
			folders = of.Lookup.Everywhere()
		}
		out = families(d, now, of.Name == desk.FacetFontMono, folders)
	case desk.TakesPicture:
		for _, p := range reading.Choices(d, surface, of) {
			out = append(out, Option{Value: p, Title: say.Words(path.Base(p))})
		}
	case desk.TakesEffect:
		out = Effects(of.Name)
	default:
		for _, name := range reading.Choices(d, surface, of) {
			out = append(out, Option{Value: name, Title: say.Words(name)})
		}
	}
	found := false
	for i := range out {
		out[i].Chosen = out[i].Value == now
		found = found || out[i].Chosen
	}
	if len(out) > 0 && !found {
		title := titled(of.Name, now)
		if now == "" {
			title = say.Line("default")
		}
		out = append([]Option{{Value: now, Title: title, Chosen: true}}, out...)
	}
	return out
}

// Effects are some effects for a facet, one of each kind.
func Effects(facet string) (out []Option) {
	for _, kind := range effect.Kinds(desk.EffectOf(facet)) {
		value := kind
		if kind != "none" {
			value += " 180 ease-out"
		}
		out = append(out, Option{Value: value, Title: Says(facet, value)})
	}
	return out
}

// Says is how a value of a facet is written for people.
func Says(facet, value string) say.Message {
	info, _ := desk.FacetOf(facet)
	var known []Option
	switch info.Takes {
	case desk.TakesButtons:
		known = ButtonOrders
	case desk.TakesColour:
		known = Accents
	}
	for _, o := range known {
		if o.Value == value {
			return o.Title
		}
	}
	return info.Says(value)
}
