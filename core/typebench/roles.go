package typebench

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/fontbook"
	"ivelt/core/fontconf"
	"ivelt/core/reading"
	"ivelt/core/specimen"
)

// Role is what a font is for on a desk.
type Role struct {
	Facet    string   `json:"facet"`
	Title    string   `json:"title"`
	Setting  string   `json:"setting"`  // what most of its surfaces show, family and size
	Surfaces []string `json:"surfaces"` // that show it so, by title
	Others   []Sizing `json:"others,omitempty"`
	// Family is the one that is shown; Instead is set if the one that is named is not there.
	Family   string    `json:"family"`
	Instead  bool      `json:"instead"`
	Size     Sizing    `json:"size"`
	Height   float64   `json:"height"` // px that an x is tall
	Measures *Measures `json:"measures"`

	family Family
}

// roles are those that fonts have, in the order in which they are shown.
var roles = []struct{ facet, title string }{
	{desk.FacetFont, "Interface"}, {desk.FacetFontDocument, "Documents"}, {desk.FacetFontMono, "Fixed width"}, {desk.FacetFontTitle, "Window titles"},
}

// Bench is a desk whose fonts lie under the lens.
type Bench struct {
	Desk      *desk.Desk
	Languages []string // of the person, as fontconfig calls them
	Roles     []Role
	Sizings   []Sizing // of all surfaces that are told a font
	Findings  []Finding

	shown Shown
	book  *fontbook.Book
	known map[string]*Measures // by family
}

// Read is what surfaces of a desk show, by its readings.
func Read(d *desk.Desk) Shown {
	return func(facet, surface string) string {
		s, ok := d.Surface(surface)
		if !ok {
			return ""
		}
		f, ok := s.Facet(facet)
		if !ok {
			return ""
		}
		return reading.Of(d, s, f).Value
	}
}

// LanguagesOf are those of the person at a desk: what the session's variables say, in the order in
// which programs look at them (gettext, "Locale Environment Variables"; setlocale(3)). English, if
// none says one.
func LanguagesOf(d *desk.Desk) (out []string) {
	for _, name := range []string{"LANGUAGE", "LC_ALL", "LC_MESSAGES", "LC_CTYPE", "LANG"} {
		v, _ := d.Var(name)
		for locale := range strings.SplitSeq(v.Value, ":") {
			if of := fontconf.LanguageOf(locale); of != "" && !slices.Contains(out, of) {
				out = append(out, of)
			}
		}
	}
	if out == nil {
		return []string{"en"}
	}
	return out
}

// On puts a desk's fonts under the lens, as surfaces show them; languages are those that the
// letters are checked for, none for [LanguagesOf].
func On(d *desk.Desk, shown Shown, languages []string) *Bench {
	if languages == nil {
		languages = LanguagesOf(d)
	}
	b := &Bench{Desk: d, Languages: languages, shown: shown, book: fontbook.Of(d, fontbook.Folders(d)), known: map[string]*Measures{}}
	for _, s := range d.Surfaces() {
		for _, r := range roles {
			facet := s.Called(r.facet)
			if _, ok := s.Facet(facet); !ok || slices.Contains(unsized, s.ID) || s.Kind == "login" {
				continue
			}
			if z, ok := sizing(d, s, r.facet, shown(facet, s.ID), shown); ok {
				b.Sizings = append(b.Sizings, z)
			}
		}
	}
	for _, r := range roles {
		if role, ok := b.role(r.facet, r.title); ok {
			b.Roles = append(b.Roles, role)
		}
	}
	b.find()
	return b
}

// role puts together what surfaces show in a role; false if none has one.
func (b *Bench) role(facet, title string) (Role, bool) {
	var of []Sizing
	counts := map[string]int{}
	for _, z := range b.Sizings {
		if z.Facet == facet {
			of = append(of, z)
			counts[z.Setting]++
		}
	}
	if len(of) == 0 {
		return Role{}, false
	}
	first := slices.MaxFunc(of, func(a, c Sizing) int { return cmp.Compare(counts[a.Setting], counts[c.Setting]) })
	r := Role{Facet: facet, Title: title, Setting: first.Setting, Size: first}
	for _, z := range of {
		if z.Setting == first.Setting {
			r.Surfaces = append(r.Surfaces, z.Title)
		} else {
			r.Others = append(r.Others, z)
		}
	}
	face, ok := b.book.Setting(r.Setting)
	if !ok {
		family, _ := desk.SplitFont(r.Setting)
		r.Instead = !slices.ContainsFunc(kinds, func(kind string) bool { return strings.EqualFold(kind, family) })
		if face, ok = b.book.Instead(b.Desk, family, 400, false); !ok {
			return Role{}, false
		}
	}
	r.Family = face.Family()
	if r.family, ok = Of(b.Desk, b.book, r.Family); !ok {
		return Role{}, false
	}
	m, err := b.measured(&r.family)
	if err != nil {
		return Role{}, false
	}
	r.Measures, r.Height = m, m.XHeight*r.Size.Px
	return r, true
}

// kinds are names of kinds of fonts, which every desk has one for (fontconfig; CSS Fonts 4, generic
// families).
var kinds = []string{"Sans", "Sans Serif", "sans-serif", "Serif", "Mono", "Monospace", "system-ui"}

// measured measures a family once.
func (b *Bench) measured(f *Family) (*Measures, error) {
	if m, ok := b.known[f.Name]; ok {
		return m, nil
	}
	m, err := Measure(f, b.Languages)
	if err != nil {
		return nil, err
	}
	b.known[f.Name] = m
	return m, nil
}

// Font is what the letters of a role are drawn with.
func (r *Role) Font() (*specimen.Font, error) { return r.family.load(r.family.Plain()) }

// Of is the role of a facet.
func (b *Bench) Of(facet string) (*Role, bool) {
	i := slices.IndexFunc(b.Roles, func(r Role) bool { return r.Facet == facet })
	if i < 0 {
		return nil, false
	}
	return &b.Roles[i], true
}

// Rendering is how a surface's letters are drawn in a font, and whether that is computed: what is
// not is drawn without fitting.
func (b *Bench) Rendering(z Sizing, f *specimen.Font) (r specimen.Rendering, computed bool) {
	r.Hard = z.Smooth == "off"
	if z.Order != "none" {
		r.Order = z.Order
	}
	computed = true
	switch z.Hinting {
	case "slight":
		computed = false
	case "medium", "full", "":
		if computed = f.Hints(); computed {
			r.Hinting = specimen.UpAndDown
			if v, ok := b.Desk.Var("FREETYPE_PROPERTIES"); ok && strings.Contains(v.Value, "truetype:interpreter-version=35") {
				r.Hinting = specimen.Whole
			}
		}
	}
	return r, computed && !r.Hard
}

// sit is the size in points at which a family's x is as tall as another's, in steps of half a
// point; 0 if that is not between 4 and 72.
func sit(m *Measures, height float64, z Sizing) float64 {
	if m.XHeight <= 0 {
		return 0
	}
	points := math.Round(2*height/(m.XHeight*z.DPI/72*z.Display)) / 2
	if points < 4 || points > 72 {
		return 0
	}
	return points
}
