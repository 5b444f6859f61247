package judge

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/parcel"
	"ivelt/core/picturestyle"
	"ivelt/core/preview"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// maxSaid bounds how many broken places are listed.
const maxSaid = 6

// broken tells what a surface's style sheets name and is not there.
func (j *judging) broken(s desk.Surface, facet string) []Verdict {
	parts := j.missing(s)
	if parts == nil {
		return nil
	}
	v := Verdict{Surface: s.ID, Facet: facet, Code: BrokenSheet, Grave: strings.Contains(parts[0].What, "import of"), Parts: parts[:min(len(parts), maxSaid)]}
	v.Says = say.Of("judge/style-sheet-broken", s.Named(), parts[0].What)
	if n := len(parts) - 1; n > 0 {
		v.Says = say.Of("judge/style-sheet-broken-places-more", s.Named(), n+1, parts[0].What)
	}
	well := func(other *judging) bool { return other.missing(s) == nil }
	if name := j.nearest(s, facet, well); name != "" {
		v.Remedies = append(v.Remedies, Fix{Facet: facet, Want: name, Says: say.Of("judge/themes-place-nearest-whole", name)})
	}
	if sheet := j.defining(s, facet); sheet != "" {
		v.Remedies = append(v.Remedies, Fix{Sheet: sheet, Says: say.Of("judge/or-keep-theme-say-sheet")})
	}
	v.Remedies = append(v.Remedies, Fix{Says: say.Of("judge/newer-version-may-be-whole")})
	return []Verdict{v}
}

// missing are the places of what is not there, imports first.
func (j *judging) missing(s desk.Surface) []Part {
	var out []Part
	for _, n := range preview.Broken(j.d, j.look, s.ID) {
		out = append(out, Part{What: n.String()})
	}
	slices.SortStableFunc(out, func(a, b Part) int {
		return bit(strings.Contains(b.What, "import of")) - bit(strings.Contains(a.What, "import of"))
	})
	return out
}

func bit(b bool) int {
	if b {
		return 1
	}
	return 0
}

var undefined = regexp.MustCompile(`the colour @([\w-]+) is not defined`)

// defining is a sheet that defines the colours which are named and not defined, as
// the theme's nearest by name; "" if it would not do.
func (j *judging) defining(s desk.Surface, facet string) string {
	if ownSheet(s, facet) == "" {
		return ""
	}
	var b strings.Builder
	known := map[string]bool{}
	for _, n := range preview.Broken(j.d, j.look, s.ID) {
		m := undefined.FindStringSubmatch(n.Text)
		if m == nil {
			return ""
		}
		if known[m[1]] {
			continue
		}
		known[m[1]] = true
		node, of := "window.background", "background-color"
		switch {
		case strings.Contains(m[1], "selected_fg"):
			node, of = "window.background list row:selected label", "color"
		case strings.Contains(m[1], "selected"):
			node = "window.background list row:selected"
		case strings.Contains(m[1], "fg"), strings.Contains(m[1], "text"):
			of = "color"
		case strings.Contains(m[1], "border"):
			node, of = "window.background entry", "border-top-color"
		}
		st := j.of(s.ID).Compute(node)
		c := st.Colour(of)
		if c.A == 0 || undefined.MatchString(c.String()) {
			c = j.of(s.ID).Compute("window.background").Colour("color")
		}
		fmt.Fprintf(&b, "@define-color %s %s;\n", m[1], opaque(c).Hex())
	}
	return b.String()
}

// titles tells of a title font that is higher than the room its frame gives it.
func (j *judging) titles(s desk.Surface) []Verdict {
	if _, has := s.Facet(desk.FacetFontTitle); !has {
		return nil
	}
	font := j.look.Of(desk.FacetFontTitle, s.ID)
	family, size := desk.SplitFont(font)
	text, room, frame := preview.TitleRoom(j.d, j.look, s.ID)
	if room == 0 || text <= room || size == 0 {
		return nil
	}
	v := Verdict{Surface: s.ID, Facet: desk.FacetFontTitle, Code: TallTitle, Grave: text > 1.5*room}
	v.Says = say.Of("judge/titles-are-px-high-frame", font, text, frame, room)
	for pt := size - 0.5; pt >= 6; pt -= 0.5 {
		want := fmt.Sprintf("%s %g", family, pt)
		if text, _, _ := preview.TitleRoom(j.d, j.look.With(desk.FacetFontTitle, s.ID, want), s.ID); text <= room {
			v.Remedies = append(v.Remedies, Fix{Facet: desk.FacetFontTitle, Want: want, Says: say.Of("judge/at-points-fit", pt)})
			break
		}
	}
	if v.Remedies == nil {
		v.Remedies = []Fix{{Says: say.Of("judge/no-size-can-be-read")}}
	}
	return []Verdict{v}
}

// pictured tells what a picture-based style lacks: elements that its program looks
// for by their names.
func (j *judging) pictured(s desk.Surface) []Verdict {
	f, has := s.Facet(desk.FacetPictures)
	if !has {
		return nil
	}
	name := j.look.Of(desk.FacetPictures, s.ID)
	lacks, meant, wrong := j.lacking(s, f, name)
	if lacks == nil && wrong == nil {
		return nil
	}
	v := Verdict{Surface: s.ID, Facet: f.Name, Code: BrokenStyle, Grave: len(lacks) > 3 || wrong != nil}
	for _, l := range lacks {
		v.Parts = append(v.Parts, Part{What: l})
	}
	v.Says = say.Of("judge/style-has-no-nothing-there", name, strings.Join(lacks, ", "), s.Does("draw", "draws"))
	if wrong != nil {
		v.Says = say.Of("judge/style-cannot-be-read", name, wrong.Error(), s.Does("draw", "draws"))
	}
	for _, other := range j.others(s, f.Name) {
		if !slices.Contains(f.Lookup.BuiltIn, other) && j.complete(s, f, other) {
			v.Remedies = append(v.Remedies, Fix{Facet: f.Name, Want: other, Says: say.Of("judge/style-has-all", other)})
			break
		}
	}
	if v.Remedies == nil && len(f.Lookup.BuiltIn) > 0 {
		v.Remedies = []Fix{{Facet: f.Name, Want: f.Lookup.BuiltIn[0], Says: say.Of("judge/drawn-plainly-nothing-missing")}}
	}
	for i, l := range lacks {
		if meant[i] != "" {
			v.Remedies = append(v.Remedies, Fix{Says: say.Of("judge/element-is-meant", meant[i], l)})
		}
	}
	if wrong == nil {
		v.Remedies = append(v.Remedies, Fix{Says: say.Of("judge/or-give-drawing-elements-those")})
	}
	return []Verdict{v}
}

// lacking are the elements that a style's drawing has not, and for each the one that is probably
// meant; or why the drawing cannot be read.
func (j *judging) lacking(s desk.Surface, f desk.Facet, name string) (lacks, meant []string, wrong error) {
	at, err := reading.Find(j.d, f.Lookup, name)
	if err != nil || at == "" {
		return nil, nil, nil // another verdict's
	}
	change := func(raw []byte) []byte { return raw }
	if l := j.look.Layer; l != nil && l.Base.Kind == parcel.Style && l.Base.Folder == name {
		change = func(raw []byte) []byte { return l.Drawn(j.look.Context(), raw) }
	}
	style, err := picturestyle.Load(j.look.Context(), j.d.Tree(), desk.Name(at), f.Lookup.Elements, change)
	if err != nil {
		return nil, nil, err
	}
	lacks = style.Lacks()
	for _, l := range lacks {
		meant = append(meant, style.Meant(l))
	}
	return lacks, meant, nil
}

// complete reports whether a style has all that is asked for.
func (j *judging) complete(s desk.Surface, f desk.Facet, name string) bool {
	lacks, _, wrong := j.lacking(s, f, name)
	return lacks == nil && wrong == nil
}
