package typebench

import (
	"cmp"
	"crypto/sha256"
	"fmt"
	"io/fs"
	"math"
	"slices"
	"strings"

	"ivelt/core/cache"
	"ivelt/core/desk"
	"ivelt/core/fontbook"
	"ivelt/core/fontconf"
	"ivelt/core/reading"
	"ivelt/core/say"
	"ivelt/core/specimen"
)

// Role is what a font is for on a desk.
type Role struct {
	Facet    string   `json:"facet"`
	Title    say.Word `json:"title"`
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
var roles = []struct {
	facet string
	title say.Word
}{
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
// letters are checked for, none for [LanguagesOf]. What is wrong is found by [Bench.Find].
func On(d *desk.Desk, shown Shown, languages []string) *Bench {
	if languages == nil {
		languages = LanguagesOf(d)
	}
	b := &Bench{Desk: d, Languages: languages, shown: shown, book: fontbook.Of(d, fontbook.Folders(d))}
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
	return b
}

// role puts together what surfaces show in a role; false if none has one.
func (b *Bench) role(facet string, title say.Word) (Role, bool) {
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
		r.Instead = !ofKind(family)
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

// ofMeasures is the key of what was measured of a family.
type ofMeasures struct{ where, faces, languages string }

// measured measures a family of the desk, once as long as its files stay as they are.
func (b *Bench) measured(f *Family) (*Measures, error) {
	faces := sha256.New()
	for _, face := range f.Faces {
		info, err := fs.Stat(b.Desk.Tree(), face.File)
		if err != nil {
			return nil, err
		}
		fmt.Fprintln(faces, face.File, face.Index, info.Size(), info.ModTime().UnixNano())
	}
	type result struct {
		of  *Measures
		err error
	}
	key := ofMeasures{b.Desk.Where(), string(faces.Sum(nil)), strings.Join(b.Languages, " ")}
	r := cache.Of(b.Desk.Cache, key, cache.Always[result], func() cache.Made[result] {
		m, err := Measure(f, b.Languages)
		return cache.Made[result]{Value: result{m, err}, Bytes: 4 << 10}
	})
	return r.of, r.err
}

// Families are those of the desk that serve in a role, by name.
func (b *Bench) Families(facet string) (out []string) {
	for _, face := range b.book.Families() {
		if facet != desk.FacetFontMono || face.Fixed {
			out = append(out, face.Family())
		}
	}
	return out
}

// Serves reports whether a family is one for a role: of fixed width where that is asked for, and
// only there.
func (b *Bench) Serves(family, facet string) bool {
	for _, face := range b.book.Faces(family) {
		return face.Fixed == (facet == desk.FacetFontMono)
	}
	return false
}

// Candidate is another family in a role.
type Candidate struct {
	*Measures
	Family Family
	Points float64 // the size at which its x is as tall as the role's
	Height float64 // px that an x is tall then
	Faults []Finding
}

// Beside is a family of the desk in a role, sized so that it sits as the role's does.
func (b *Bench) Beside(r *Role, family string) (Candidate, error) {
	f, ok := Of(b.Desk, b.book, family)
	if !ok {
		return Candidate{}, say.Errorf("there is no font %q on the desk", family)
	}
	m, err := b.measured(&f)
	if err != nil {
		return Candidate{}, err
	}
	return b.candidate(r, f, m), nil
}

// Brought is a family that is not on the desk in a role, such as one of a parcel.
func (b *Bench) Brought(r *Role, f Family) (Candidate, error) {
	m, err := Measure(&f, b.Languages)
	if err != nil {
		return Candidate{}, err
	}
	return b.candidate(r, f, m), nil
}

func (b *Bench) candidate(r *Role, f Family, m *Measures) Candidate {
	points := cmp.Or(sit(m, r.Height, r.Size), r.Size.Points)
	return Candidate{m, f, points, m.XHeight * points * r.Size.DPI / 72 * r.Size.Display, faults(m, r.Facet)}
}

// Line draws a text in a role's font, or in another family, as the role's surfaces draw it, at a
// size in points, 0 for the role's; computed is false where hinting is not that of the font.
func (b *Bench) Line(r *Role, family *Family, text string, points float64) (line specimen.Line, computed bool, err error) {
	if family == nil {
		family = &r.family
	}
	font, err := family.load(family.Plain())
	if err != nil {
		return specimen.Line{}, false, err
	}
	how, computed := b.Rendering(r.Size, font)
	px := cmp.Or(points, r.Size.Points) * r.Size.DPI / 72 * r.Size.Display
	return font.Draw(text, px, how), computed, nil
}

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

// Drawn says in words how a role's letters are drawn: smooth or not, and how far they are fitted to
// the pixels.
func (r *Role) Drawn() say.Message {
	out := []say.Message{say.Line("smooth")}
	if r.Size.Smooth == "off" {
		out[0] = say.Line("hard edges")
	}
	switch r.Size.Hinting {
	case "none":
		out = append(out, say.Line("not fitted to the pixels"))
	case "slight":
		out = append(out, say.Line("slightly fitted to the pixels"))
	default:
		out = append(out, say.Line("fitted to the pixels"))
	}
	if o := r.Size.Order; o != "" && o != "none" {
		out = append(out, say.Line("sub-pixels %s", o))
	}
	return say.Join(", ", out...)
}

// StandsFor reports whether the setting names a kind of font, or one that is not there, so that what
// is shown is called otherwise.
func (r *Role) StandsFor() bool {
	family, _ := desk.SplitFont(r.Setting)
	return r.Instead || ofKind(family)
}

// ofKind reports whether a family is only the name of a kind.
func ofKind(family string) bool {
	return slices.ContainsFunc(kinds, func(kind string) bool { return strings.EqualFold(kind, family) })
}

// Style is a style of a family, and whether it is drawn or made up by programs.
type Style struct {
	Name  string
	Drawn bool
}

// Styles are those that programs ask for.
func (r *Role) Styles() []Style {
	m := r.Measures
	return []Style{{"bold", m.Bold}, {"italic", m.Italic}, {"bold italic", m.BoldItalic}}
}

// Broader says in words how broad a candidate's letters are beside the role's.
func (r *Role) Broader(c Candidate) string {
	k := c.Wide * c.Points / max(r.Measures.Wide*r.Size.Points, 1e-6)
	switch percent := math.Round(100 * (k - 1)); {
	case percent > 0:
		return fmt.Sprintf("%.0f %% broader", percent)
	case percent < 0:
		return fmt.Sprintf("%.0f %% narrower", -percent)
	}
	return "as broad"
}
