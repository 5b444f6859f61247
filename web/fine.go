package web

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"ivelt/app/drafts"
	"ivelt/core/desk"
	"ivelt/core/fontbook"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/preview"
	"ivelt/core/reading"
)

// fineView is one fine setting of the draft.
type fineView struct {
	desk.FacetInfo
	Now     string // what the draft would show: one value, or "" if surfaces differ
	OnDraft bool
	Options []choice // to choose from; none for a number that is typed
	Flip    bool     // the options are few and short: they stand side by side
	Of      string   // the facet it sets, if it is a part of one: the font's size
}

// accents are Ivelt's own colours to begin with.
var accents = []choice{
	{Value: "#2f7f8c", Title: "estuary"}, {Value: "#1d6b52", Title: "kelp"}, {Value: "#6b8e23", Title: "samphire"}, {Value: "#b8862b", Title: "sand"},
	{Value: "#b4553d", Title: "rust"}, {Value: "#a0466b", Title: "thrift"}, {Value: "#6f5a9e", Title: "heather"}, {Value: "#4a5a6a", Title: "slate"},
}

// buttonOrders are usual arrangements of a window's buttons.
var buttonOrders = []choice{
	{Value: "menu:minimize,maximize,close", Title: "right: down, up, close"},
	{Value: "menu:close", Title: "right: close only"},
	{Value: "menu:minimize,close", Title: "right: down, close"},
	{Value: "close,minimize,maximize:menu", Title: "left: close, down, up"},
	{Value: "close:menu", Title: "left: close only"},
	{Value: "close:minimize,maximize", Title: "close left, down and up right"},
}

// pictured are the facets that have their pieces on the page, with pictures.
var pictured = []string{desk.FacetWidgets, desk.FacetIcons, desk.FacetPointer, desk.FacetBar, desk.FacetBackdrop, desk.FacetPalette, desk.FacetPictures, desk.FacetLogin}

// fineViews are the fine settings that some surface of the desk has.
func fineViews(d *desk.Desk, o outfit.Outfit) []fineView {
	look := preview.Draft(d, o)
	var out []fineView
	for _, info := range desk.Facets {
		if slices.Contains(pictured, info.Name) {
			continue
		}
		v := fineView{FacetInfo: info, OnDraft: o.Want(info.Name) != "", Of: info.Name}
		has, differ := false, false
		for _, s := range d.Surfaces {
			f, ok := s.Facet(info.Name)
			if !ok {
				continue
			}
			switch info.Takes {
			case desk.TakesPiece, desk.TakesPicture, desk.TakesName:
				for _, c := range optionsOf(d, s, f, "") {
					if c.Value != "" && !slices.ContainsFunc(v.Options, func(o choice) bool { return o.Value == c.Value }) {
						c.Chosen = false
						v.Options = append(v.Options, c)
					}
				}
			}
			now := look.Of(info.Name, s.ID)
			differ = differ || has && now != v.Now
			v.Now, has = now, true
		}
		if !has {
			continue
		}
		if differ {
			v.Now = ""
		}
		switch info.Takes {
		case desk.TakesShade, desk.TakesWord:
			for _, word := range info.Words {
				v.Options = append(v.Options, choice{Value: word, Title: word})
			}
			v.Flip = len(v.Options) <= 3
		case desk.TakesColour:
			v.Options = slices.Clone(accents)
		case desk.TakesButtons:
			v.Options = slices.Clone(buttonOrders)
		case desk.TakesFont:
			if info.Name != desk.FacetFont {
				v.Options = families(d, v.Now)
				break
			}
			// the family is chosen among the fonts
			_, size := drafts.FontOf(d, o)
			v.Title, v.Unit, v.Least, v.Most, v.Takes = "Font size", "pt", 6, 24, desk.TakesNumber
			v.Now = strconv.FormatFloat(size, 'f', -1, 64)
		case desk.TakesNumber:
			if info.Name == desk.FacetPointerSize {
				v.Options = pointerSizes(d, o, look)
			}
		}
		for i := range v.Options {
			v.Options[i].Chosen = v.Options[i].Value == v.Now
		}
		if v.Now != "" && len(v.Options) > 0 && !slices.ContainsFunc(v.Options, func(c choice) bool { return c.Chosen }) {
			v.Options = append(v.Options, choice{Value: v.Now, Title: valueSays(d, info.Name, v.Now), Chosen: true})
		}
		out = append(out, v)
	}
	return out
}

// families are those of the desk, in the size of what is shown now.
func families(d *desk.Desk, now string) []choice {
	_, size := desk.SplitFont(now)
	if size == 0 {
		size = 11
	}
	var out []choice
	for _, f := range fontbook.Of(d, fontbook.Folders(d)).Families() {
		out = append(out, choice{Value: f.Family() + " " + strconv.FormatFloat(size, 'f', -1, 64), Title: f.Family()})
	}
	return out
}

// pointerSizes are the sizes of the set that the draft would show.
func pointerSizes(d *desk.Desk, o outfit.Outfit, look preview.Look) []choice {
	var out []choice
	for _, s := range d.Surfaces {
		f, ok := s.Facet(desk.FacetPointer)
		if !ok {
			continue
		}
		for _, n := range match.PointerSizes(d, f.Lookup, look.Of(desk.FacetPointer, s.ID)) {
			if c := (choice{Value: strconv.Itoa(n), Title: fmt.Sprint(n, " px")}); !slices.Contains(out, c) {
				out = append(out, c)
			}
		}
	}
	if len(out) == 0 { // the display's own, whose sizes no file tells
		for _, n := range []int{24, 32, 48} {
			out = append(out, choice{Value: strconv.Itoa(n), Title: fmt.Sprint(n, " px")})
		}
	}
	return out
}

// valueSays is how a value of a facet is written on pages.
func valueSays(d *desk.Desk, facet, value string) string {
	info, _ := desk.FacetOf(facet)
	switch {
	case value == "":
		return ""
	case info.Takes == desk.TakesPicture:
		name := value[strings.LastIndexByte(value, '/')+1:]
		if at := strings.LastIndexByte(name, '.'); at > 0 {
			name = name[:at]
		}
		return strings.ReplaceAll(name, "-", " ")
	case info.Takes == desk.TakesNumber:
		if facet == desk.FacetPointerSize && value == "0" {
			return "the display's"
		}
		return value + " " + info.Unit
	case info.Takes == desk.TakesButtons:
		for _, c := range buttonOrders {
			if c.Value == value {
				return c.Title
			}
		}
	case info.Takes == desk.TakesColour:
		for _, c := range accents {
			if c.Value == value {
				return c.Title
			}
		}
	}
	return value
}

// onDraft reports whether a piece is what the draft has for a facet.
func onDraft(o outfit.Outfit, facet, piece string) bool {
	want := o.Want(facet)
	if f, _ := desk.FacetOf(facet); f.Takes == desk.TakesFont {
		want = o.Choices[facet].Piece
	}
	return want != "" && reading.Same(desk.Facet{}, want, piece)
}
