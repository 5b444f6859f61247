package typebench

import (
	"cmp"
	"fmt"
	"math"
	"runtime"
	"slices"
	"strings"

	"golang.org/x/sync/errgroup"

	"ivelt/core/desk"
	"ivelt/core/say"
)

// Choice is a value for a facet.
type Choice struct {
	Facet string `json:"facet"`
	Value string `json:"value"`
}

// Finding is something that is wrong with fonts, and what clears it.
type Finding struct {
	Code  string      `json:"code"`
	Role  string      `json:"role,omitempty"` // the facet that it is about
	Says  say.Message `json:"-"`
	Text  string      `json:"text"`
	Grave bool        `json:"grave"`
	// Remedy are the choices that clear it; none if nothing on the desk does.
	Remedy []Choice    `json:"remedy,omitempty"`
	Does   say.Message `json:"-"` // what the remedy is, in words
	How    string      `json:"how,omitempty"`
}

func finding(grave bool, role string, says say.Message) Finding {
	return Finding{Code: strings.TrimPrefix(says.Code, "type/"), Role: role, Says: says, Text: says.String(), Grave: grave}
}

func (f Finding) with(does say.Message, choices ...Choice) Finding {
	f.Remedy, f.Does, f.How = choices, does, does.String()
	return f
}

// From what on something is a finding: common practice, no source.
const (
	apart     = 0.06 // of its height that an x may be taller than another
	leastPx   = 0.5  // and px
	otherSize = 0.04 // of a size that another program's may differ
)

// Find tells what is wrong, what is felt most first, each with what clears it.
func (b *Bench) Find() []Finding {
	b.Findings = nil
	for i := range b.Roles {
		r := &b.Roles[i]
		if r.Instead {
			named, _ := desk.SplitFont(r.Setting)
			b.add(finding(true, r.Facet, say.Of("type/family-missing", r.Title, named, r.Family)).with(say.Of("type/take-family", r.Title, r.Family), r.choice(r.Family, r.Size.Points)))
		}
		for _, f := range faults(r.Measures, r.Facet) {
			b.add(b.cleared(r, f))
		}
	}
	b.together()
	b.toolkits()
	slices.SortStableFunc(b.Findings, func(a, c Finding) int {
		return cmp.Compare(map[bool]int{true: 0, false: 1}[a.Grave], map[bool]int{true: 0, false: 1}[c.Grave])
	})
	return b.Findings
}

func (b *Bench) add(f Finding) { b.Findings = append(b.Findings, f) }

func (r *Role) choice(family string, points float64) Choice {
	return Choice{r.Facet, family + " " + plain(points)}
}

// Faults tell what is wrong with a family in a role, whatever the desk; the facet of the role may
// be "".
func Faults(m *Measures, facet string) []Finding { return faults(m, facet) }

func faults(m *Measures, facet string) (out []Finding) {
	for _, l := range m.Lacks {
		out = append(out, finding(true, facet, say.Of("type/letters-missing", m.Family, l.Missing, l.Of, LanguageTitle(l.Language), l.Letters)))
	}
	if len(m.Uneven) > 0 {
		out = append(out, finding(true, facet, say.Of("type/widths-differ", m.Family, named(m.Uneven))))
	}
	if facet == desk.FacetFontMono && !m.Fixed {
		out = append(out, finding(true, facet, say.Of("type/not-fixed", m.Family)))
	}
	if len(m.Alike) > 0 {
		var pairs []string
		for _, p := range m.Alike {
			pairs = append(pairs, p.A+" "+p.B)
		}
		out = append(out, finding(facet == desk.FacetFontMono, facet, say.Of("type/letters-alike", m.Family, strings.Join(pairs, ", "))))
	}
	var faked []string
	for _, style := range []struct {
		has  bool
		name string
	}{{m.Bold, "bold"}, {m.Italic, "italic"}, {m.BoldItalic, "bold italic"}} {
		if !style.has {
			faked = append(faked, style.name)
		}
	}
	if len(faked) > 0 {
		out = append(out, finding(false, facet, say.Of("type/styles-faked", m.Family, strings.Join(faked, ", "))))
	}
	switch m.Embedding {
	case Restricted:
		out = append(out, finding(false, facet, say.Of("type/restricted", m.Family)))
	case Preview:
		out = append(out, finding(false, facet, say.Of("type/preview-only", m.Family)))
	}
	return out
}

func named(of []Letter) string {
	var out []string
	for _, l := range of[:min(len(of), maxNamed)] {
		out = append(out, l.Letter)
	}
	if len(of) > maxNamed {
		out = append(out, "…")
	}
	return strings.Join(out, " ")
}

// cleared is a fault with the family on the desk that comes nearest to the one that has it, and has
// not: in the size in which it sits as that does.
func (b *Bench) cleared(r *Role, f Finding) Finding {
	other, ok := b.nearest(r, f.Code)
	if !ok {
		return f
	}
	points := cmp.Or(sit(other, r.Height, r.Size), r.Size.Points)
	return f.with(say.Of("type/take-family-in", r.Title, other.Family, plain(points)), r.choice(other.Family, points))
}

// mostCompared is how many families are measured for a remedy.
const mostCompared = 300

// nearest is the family nearest to a role's that has not a fault, nor a graver one.
func (b *Bench) nearest(r *Role, code string) (*Measures, bool) {
	var candidates []Family
	for _, face := range b.book.Families() {
		if strings.EqualFold(face.Family(), r.Family) || face.Fixed != (r.Facet == desk.FacetFontMono) && r.Facet != desk.FacetFontTitle {
			continue
		}
		if f, ok := Of(b.Desk, b.book, face.Family()); ok && len(candidates) < mostCompared {
			candidates = append(candidates, f)
		}
	}
	measured := make([]*Measures, len(candidates))
	var side errgroup.Group
	side.SetLimit(runtime.NumCPU())
	for i := range candidates {
		side.Go(func() error {
			if m, err := b.measured(&candidates[i]); err == nil { // one that cannot be read serves nobody
				measured[i] = m
			}
			return nil
		})
	}
	_ = side.Wait()
	var best *Measures
	least := math.Inf(1)
	for _, m := range measured {
		if m == nil || m.XHeight == 0 || slices.ContainsFunc(faults(m, r.Facet), func(f Finding) bool { return f.Code == code || f.Grave }) {
			continue
		}
		if off := unlike(r.Measures, m); off < least {
			best, least = m, off
		}
	}
	return best, best != nil
}

// unlike is how little two families are alike: their widths and the height of their letters.
func unlike(a, b *Measures) float64 {
	size := a.XHeight / b.XHeight
	return math.Abs(math.Log(a.Wide/max(b.Wide*size, 1e-6))) + 0.5*math.Abs(math.Log(max(a.Capital, 1e-6)/max(b.Capital*size, 1e-6)))
}

// together tells of roles whose letters are not as tall as those of the interface, beside which
// they stand.
func (b *Bench) together() {
	base, ok := b.Of(desk.FacetFont)
	if !ok || base.Height <= 0 {
		return
	}
	for i := range b.Roles {
		r := &b.Roles[i]
		if r.Facet == desk.FacetFont || r.Height <= 0 {
			continue
		}
		off := r.Height - base.Height
		points := sit(r.Measures, base.Height, r.Size)
		if math.Abs(off) < leastPx || math.Abs(off) < apart*base.Height || points == 0 || points == r.Size.Points {
			continue
		}
		f := finding(r.Facet != desk.FacetFontTitle, r.Facet, say.Of("type/sits-apart", r.Title, fmt.Sprintf("%.1f", r.Height), fmt.Sprintf("%.1f", base.Height)))
		b.add(f.with(say.Of("type/take-size", r.Title, plain(points)), r.choice(asked(r), points)))
	}
}

// asked is the family that a role's setting names, or the one that is shown if that is not there.
func asked(r *Role) string {
	if r.Instead {
		return r.Family
	}
	family, _ := desk.SplitFont(r.Setting)
	return family
}

// toolkits tells of surfaces that make other pixels of the same.
func (b *Bench) toolkits() {
	base, ok := b.Of(desk.FacetFont)
	if !ok {
		return
	}
	var as, other []string
	px := 0.0
	for _, z := range b.Sizings {
		if z.Facet != desk.FacetFont || z.Points != base.Size.Points {
			continue
		}
		if math.Abs(z.Px-base.Size.Px) <= otherSize*base.Size.Px {
			as = append(as, z.Title)
		} else {
			other, px = append(other, z.Title), z.Px
		}
	}
	if len(other) > 0 {
		f := finding(true, desk.FacetFont, say.Of("type/sizes-disagree", plain(base.Size.Points), strings.Join(as, ", "), fmt.Sprintf("%.1f", base.Size.Px), strings.Join(other, ", "), fmt.Sprintf("%.1f", px)))
		b.add(b.oneScale(f, base))
	}
	for _, facet := range []string{desk.FacetAntialias, desk.FacetHinting, desk.FacetSubpixel} {
		b.drawnOtherwise(facet)
	}
}

// oneScale clears sizes that disagree because some alone are scaled: the display's scale of most for
// all, or text as it is, and fonts that much larger.
func (b *Bench) oneScale(f Finding, base *Role) Finding {
	for _, z := range b.Sizings {
		if z.Facet != desk.FacetFont || z.Display == base.Size.Display {
			continue
		}
		if s, ok := b.Desk.Surface(z.Surface); ok {
			if _, has := s.Facet(desk.FacetDisplayScale); has {
				scale := plain(100 * base.Size.Display)
				return f.with(say.Of("type/one-display-scale", scale), Choice{desk.FacetDisplayScale, scale})
			}
		}
	}
	scaled := slices.ContainsFunc(b.Sizings, func(z Sizing) bool {
		return slices.ContainsFunc(z.Why, func(m say.Message) bool { return m.Code == "type/by-text-scale" })
	})
	s, ok := b.Desk.Surface("desktop")
	if _, has := s.Facet(desk.FacetTextScale); !ok || !has || !scaled {
		return f
	}
	choices := []Choice{{desk.FacetTextScale, "100"}}
	for i := range b.Roles {
		r := &b.Roles[i]
		choices = append(choices, r.choice(asked(r), math.Round(2*r.Size.Points*r.Size.DPI/usualDPI)/2))
	}
	return f.with(say.Of("type/one-scale"), choices...)
}

// drawnOtherwise tells of surfaces that draw letters in another way than most.
func (b *Bench) drawnOtherwise(facet string) {
	of := func(z Sizing) string {
		return map[string]string{desk.FacetAntialias: z.Smooth, desk.FacetHinting: z.Hinting, desk.FacetSubpixel: z.Order}[facet]
	}
	titles := map[string][]string{}
	var values []string
	for _, z := range b.Sizings {
		value := of(z)
		if facet == desk.FacetHinting && value == "full" {
			value = "medium" // FreeType makes the same of both (cairo-ft-font.c, from memory)
		}
		if value == "" || slices.Contains(titles[value], z.Title) {
			continue
		}
		if titles[value] == nil {
			values = append(values, value)
		}
		titles[value] = append(titles[value], z.Title)
	}
	if len(values) < 2 {
		return
	}
	most := slices.MaxFunc(values, func(a, c string) int { return cmp.Compare(len(titles[a]), len(titles[c])) })
	var parts []string
	for _, value := range values {
		parts = append(parts, value+": "+strings.Join(titles[value], ", "))
	}
	b.add(finding(false, "", say.Of("type/drawn-otherwise", desk.FacetTitle(facet), strings.Join(parts, "; "))).with(say.Of("type/draw-alike", desk.FacetTitle(facet), most), Choice{facet, most}))
}

// Mend are the choices that clear what can be cleared, each facet once: of two the graver's.
func (b *Bench) Mend() []Choice {
	var out []Choice
	for _, f := range b.Findings {
		for _, c := range f.Remedy {
			if !slices.ContainsFunc(out, func(has Choice) bool { return has.Facet == c.Facet }) {
				out = append(out, c)
			}
		}
	}
	return out
}
