package web

import (
	"bytes"
	"cmp"
	"errors"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"math"
	"net/http"
	"net/url"
	"slices"
	"strconv"

	"github.com/go-chi/chi/v5"

	"ivelt/app/desks"
	"ivelt/app/library"
	"ivelt/core/desk"
	"ivelt/core/fontconf"
	"ivelt/core/gtkcss"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/preview"
	"ivelt/core/say"
	"ivelt/core/typebench"
)

// typePage are a desk's fonts under the lens.
type typePage struct {
	Frame
	Roles     []typeRole
	Sizes     []typeSize
	Findings  []typebench.Finding
	Mend      []typebench.Choice // all that clears what can be cleared
	Languages []typeLanguage     // that can be chosen
	Of        []string           // whose letters are checked, in words
	Lang      string             // the one that is chosen, "" for the person's
	Parcel    string             // of a parcel's font beside the desk's
	Piece     string
	Family    string
}

type typeLanguage struct{ Name, Title string }

// typeSize is what a surface makes of a size.
type typeSize struct {
	typebench.Sizing
	Role say.Word
	Off  bool // it is not as in most others
}

// typeRole is a role as the page shows it.
type typeRole struct {
	*typebench.Role
	Word, Then   string // addresses of pictures: on one line with the others, and as it would be
	ThenSays     string
	Line, Closer string // a line at its real size, and some letters enlarged
	Computed     bool
	Letters      string // those that are taken for one another, enlarged
	Families     []string
	Beside       *typeBeside
}

// Chosen is the family of the desk that stands beside the role's, "" for none.
func (t typeRole) Chosen() string {
	if t.Beside == nil {
		return ""
	}
	return t.Beside.Family.Name
}

// typeBeside is a candidate for a role.
type typeBeside struct {
	typebench.Candidate
	Value        string // what the facet would be
	Line, Closer string
}

// What lines are set in: all letters of English, and those that are taken for one another.
const (
	typeWord   = "Hagx"
	typeLine   = "Low water 06:40. Quick jackdaws vex the big flood; my prize, sixty grey boats."
	typeCloser = "Rag 06"
	typeAlike  = "1lI| 0O"
)

// typeBench are the fonts of a desk with what its draft would change, in a request's language.
func (s *Server) typeBench(r *http.Request, d *desk.Desk, draft outfit.Outfit) (*typebench.Bench, error) {
	var languages []string
	if name := r.FormValue("lang"); name != "" {
		if !slices.Contains(fontconf.Languages(), name) {
			return nil, refused(say.Errorf("the letters of the language %q are not known", name))
		}
		languages = []string{name}
	}
	look, read := preview.Draft(r.Context(), d, draft), typebench.Read(d)
	return typebench.On(d, func(facet, surface string) string { return cmp.Or(look.Of(facet, surface), read(facet, surface)) }, languages), nil
}

// typeOf is the address of a line in a role, or of some of them.
func typeOf(d *desks.Managed, r *http.Request, of url.Values) string {
	if lang := r.FormValue("lang"); lang != "" {
		of.Set("lang", lang)
	}
	return "/d/" + d.ID + "/bench/font.png?" + of.Encode()
}

func (s *Server) benchType(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "bench", "shelf", "Type under the lens")
	if err != nil {
		return err
	}
	d := f.Trying()
	b, err := s.typeBench(r, d, f.Draft)
	if err != nil {
		return err
	}
	p := typePage{Frame: f, Lang: r.FormValue("lang"), Parcel: r.FormValue("parcel"), Piece: r.FormValue("piece")}
	p.Findings, p.Mend = b.Find(), b.Mend()
	for _, name := range b.Languages {
		p.Of = append(p.Of, typebench.LanguageTitle(name))
	}
	for _, name := range fontconf.Languages() {
		p.Languages = append(p.Languages, typeLanguage{name, typebench.LanguageTitle(name)})
	}
	slices.SortFunc(p.Languages, func(a, c typeLanguage) int { return cmp.Compare(a.Title, c.Title) })
	brought, err := s.broughtFont(r)
	if err != nil {
		return err
	}
	if brought != nil {
		p.Family = brought.Name
	}
	for i := range b.Roles {
		role, err := p.role(r, b, &b.Roles[i], brought)
		if err != nil {
			return err
		}
		p.Roles = append(p.Roles, role)
	}
	for _, z := range b.Sizings {
		of := typeSize{Sizing: z}
		if role, ok := b.Of(z.Facet); ok {
			of.Role = role.Title
			of.Off = z.Setting == role.Setting && math.Abs(z.Px-role.Size.Px) > 0.04*role.Size.Px
		}
		p.Sizes = append(p.Sizes, of)
	}
	s.page(w, r, http.StatusOK, "benchfont", p)
	return nil
}

// role is a role with the addresses of its pictures.
func (p *typePage) role(r *http.Request, b *typebench.Bench, of *typebench.Role, brought *typebench.Family) (typeRole, error) {
	at := func(text string, times int, more ...string) string {
		v := url.Values{"facet": {of.Facet}, "text": {text}, "times": {strconv.Itoa(times)}}
		for i := 0; i+1 < len(more); i += 2 {
			v.Set(more[i], more[i+1])
		}
		return typeOf(p.Desk, r, v)
	}
	out := typeRole{Role: of, Word: at(typeWord, 5, "level", "1"), Line: at(typeLine, 1), Closer: at(typeCloser, 4), Letters: at(typeAlike, 3), Families: slices.DeleteFunc(b.Families(of.Facet), func(name string) bool { return name == of.Family })}
	_, computed, err := b.Line(of, nil, typeWord, 0)
	if err != nil {
		return out, err
	}
	out.Computed = computed
	for _, c := range p.Mend {
		if c.Facet != of.Facet {
			continue
		}
		family, points := desk.SplitFont(c.Value)
		out.Then, out.ThenSays = at(typeWord, 5, "level", "1", "family", family, "points", strconv.FormatFloat(points, 'f', -1, 64)), c.Value
	}
	var beside typebench.Candidate
	var where []string
	family := r.FormValue("beside." + of.Facet)
	if any := r.FormValue("beside"); any != "" && any != of.Family && b.Serves(any, of.Facet) && (of.Facet == desk.FacetFont || of.Facet == desk.FacetFontMono) {
		family = any
	}
	switch {
	case brought != nil && (of.Facet == desk.FacetFontMono) == brought.Plain().Fixed:
		beside, err = b.Brought(of, *brought)
		where = []string{"parcel", p.Parcel, "piece", p.Piece}
	case family != "" && brought == nil:
		beside, err = b.Beside(of, family)
		where = []string{"family", family}
	default:
		return out, nil
	}
	if err != nil {
		return out, missing(err)
	}
	points := strconv.FormatFloat(beside.Points, 'f', -1, 64)
	where = append(where, "points", points)
	out.Beside = &typeBeside{beside, beside.Family.Name + " " + points, at(typeLine, 1, where...), at(typeCloser, 4, where...)}
	return out, nil
}

// broughtFont is the family of a parcel that a request names, nil if it names none.
func (s *Server) broughtFont(r *http.Request) (*typebench.Family, error) {
	sha := r.FormValue("parcel")
	if sha == "" {
		return nil, nil
	}
	row, err := s.App.Library.Parcel(sha)
	if err != nil {
		return nil, missing(err)
	}
	piece, err := library.PieceOf(row, r.FormValue("piece"))
	if err != nil {
		return nil, missing(err)
	}
	if piece.Kind != parcel.Font {
		return nil, refused(say.Errorf("%s is no font", piece.Name))
	}
	p, err := s.App.Library.Open(r.Context(), row)
	if err != nil {
		return nil, err
	}
	families, wrong := typebench.In(p, piece.Only)
	if len(families) == 0 {
		return nil, refused(errors.Join(append([]error{typebench.ErrNone}, wrong...)...))
	}
	return &families[0], nil
}

// Bounds of pictures of lines.
const (
	maxTypeText  = 200 // bytes
	maxTypeTimes = 8
)

// benchLine is a picture of a line of text as a role's surfaces draw it.
func (s *Server) benchLine(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	draft, err := s.App.Drafts.Draft(d)
	if err != nil {
		return err
	}
	b, err := s.typeBench(r, s.App.Overlays.Trying(d, draft).Snapshot(), draft)
	if err != nil {
		return err
	}
	role, ok := b.Of(r.FormValue("facet"))
	if !ok {
		return missing(errNotHere)
	}
	times, errTimes := strconv.Atoi(cmp.Or(r.FormValue("times"), "1"))
	points, errPoints := strconv.ParseFloat(cmp.Or(r.FormValue("points"), "0"), 64)
	text := r.FormValue("text")
	if errTimes != nil || errPoints != nil || times < 1 || times > maxTypeTimes || !(points >= 0 && points <= 72) || len(text) > maxTypeText {
		return refused(say.Errorf("a line is enlarged up to %d times, at 72 points at most, and is up to %d bytes long", maxTypeTimes, maxTypeText))
	}
	family, err := s.broughtFont(r)
	if err != nil {
		return err
	}
	if name := r.FormValue("family"); name != "" && family == nil {
		c, err := b.Beside(role, name)
		if err != nil {
			return missing(err)
		}
		family = &c.Family
	}
	line, _, err := b.Line(role, family, text, points)
	if err != nil {
		return refused(err)
	}
	ink, ground := typePaper(r, b, draft)
	if r.FormValue("level") == "" {
		return servePNG(w, r, line.Paint(ink, ground, times))
	}
	over, under := leveled(b)
	im := line.Level(over, under).Paint(ink, ground, times)
	if base, ok := b.Of(desk.FacetFont); ok {
		ruled(im, int(math.Round((float64(over)-base.Height)*float64(times))), over*times)
	}
	return servePNG(w, r, im)
}

// leveled is how far the lines of all roles reach over and under their base line, px.
func leveled(b *typebench.Bench) (over, under int) {
	for i := range b.Roles {
		z := b.Roles[i].Size
		over = max(over, int(math.Ceil(z.Px*1.1)))
		under = max(under, int(math.Ceil(z.Px*0.35)))
	}
	return over, under
}

// ruled draws a line where the base line is, and one that is as high as an x.
func ruled(im *image.NRGBA, x, base int) {
	for _, y := range []int{x, base} {
		draw.Draw(im, image.Rect(0, y, im.Bounds().Dx(), y+1), image.NewUniform(color.NRGBA{0x0a, 0x8f, 0x6a, 0xff}), image.Point{}, draw.Src)
	}
}

// typePaper is the ink and the ground of windows of a toolkit, as the theme that is shown has them.
func typePaper(r *http.Request, b *typebench.Bench, draft outfit.Outfit) (ink, ground color.NRGBA) {
	look := preview.Draft(r.Context(), b.Desk, draft)
	for _, toolkit := range []string{"gtk3", "gtk4"} {
		if s, ok := b.Desk.Surface(toolkit); !ok || len(s.Facets) == 0 {
			continue
		}
		st := preview.Styles(b.Desk, look, toolkit)
		text, under := st.Style(gtkcss.Path("window.background label")).Colour("color"), st.Style(gtkcss.Path("window.background")).Colour("background-color")
		if under.A > 0.9 {
			return nrgba(text), nrgba(under)
		}
	}
	return color.NRGBA{0x1c, 0x1e, 0x22, 0xff}, color.NRGBA{0xff, 0xff, 0xff, 0xff}
}

func nrgba(c gtkcss.Colour) color.NRGBA {
	part := func(v float64) uint8 { return uint8(math.Round(255 * min(max(v, 0), 1))) }
	return color.NRGBA{part(c.R), part(c.G), part(c.B), 0xff}
}

func servePNG(w http.ResponseWriter, r *http.Request, im image.Image) error {
	var out bytes.Buffer
	if err := png.Encode(&out, im); err != nil {
		return err
	}
	servePicture(w, r, "image/png", out.Bytes())
	return nil
}

// mendType puts choices of fonts on the draft.
func (s *Server) mendType(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	if err := r.ParseForm(); err != nil {
		return refused(err)
	}
	facets, values := r.Form["facet"], r.Form["value"]
	if len(facets) == 0 || len(facets) != len(values) {
		return refused(errNothingToDo)
	}
	for i, facet := range facets {
		if _, err := s.App.Drafts.Choose(d, facet, values[i]); err != nil {
			return refused(err)
		}
	}
	to(w, r, "/d/"+d.ID+"/compose?facet="+url.QueryEscape(facets[0]))
	return nil
}
