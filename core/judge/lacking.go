package judge

import (
	"errors"
	"io/fs"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/desktopentry"
	"ivelt/core/icontheme"
	"ivelt/core/preview"
	"ivelt/core/reading"
	"ivelt/core/say"
	"ivelt/core/xcursor"
)

// common are icons that programs of every kind ask for (Icon Naming Specification 0.8.90).
var common = strings.Fields(`folder user-home user-trash drive-harddisk computer text-x-generic image-x-generic audio-x-generic
	video-x-generic package-x-generic x-office-document dialog-error dialog-information dialog-warning document-open
	document-save edit-copy edit-delete go-next go-previous`)

// maxNamed bounds how many things that are missing are named in a sentence.
const maxNamed = 4

// maxPacks bounds how many other icon packs are looked through for a remedy.
const maxPacks = 8

// icons tells which icons nothing has that a surface's pack leads to: the usual ones, and
// those of the programs of the desk.
func (j *judging) icons(s desk.Surface) []Verdict {
	f, has := s.Facet(desk.FacetIcons)
	pack := j.look.Of(desk.FacetIcons, s.ID)
	if !has || pack == "" || pack == "hicolor" { // what programs fall back on is nobody's choice
		return nil
	}
	lacking := j.withoutIcon(s.ID, pack)
	if len(lacking) == 0 {
		return nil
	}
	v := Verdict{Surface: s.ID, Facet: desk.FacetIcons, Code: NoIcons, Says: say.Of("judge/icons-missing", pack, named(lacking), s.Named())}
	for _, name := range lacking {
		v.Parts = append(v.Parts, Part{What: name})
	}
	packs := slices.DeleteFunc(reading.Choices(j.d, s, f), func(name string) bool { return name == "" || name == pack })
	for _, name := range packs[:min(len(packs), maxPacks)] {
		if other := j.with(desk.FacetIcons, s.ID, name); len(other.withoutIcon(s.ID, name)) == 0 {
			v.Remedies = append(v.Remedies, Fix{Facet: desk.FacetIcons, Want: name, Says: say.Of("judge/pack-has-them", name)})
			break
		}
	}
	v.Remedies = append(v.Remedies, Fix{Says: say.Of("judge/newer-version-may-be-whole")})
	return []Verdict{v}
}

// withoutIcon are the names of icons for which a surface finds nothing; none of a pack that
// is not there, of which Match tells.
func (j *judging) withoutIcon(surface, pack string) (lacking []string) {
	x := preview.NewCanvas(j.d, j.look, 1, 1).Icons(surface)
	if !slices.ContainsFunc(x.Chain(), func(t *icontheme.Theme) bool { return t.Folder == pack }) {
		return nil
	}
	names := common
	for _, p := range desktopentry.List(j.d.Tree(), j.d.Folders([]string{"{data}/applications", "{data-dirs}/applications"})) {
		if p.Icon != "" && !strings.Contains(p.Icon, "/") {
			names = append(names[:len(names):len(names)], p.Icon)
		}
	}
	for _, name := range names {
		if _, _, ok := x.LookupBest([]string{name, name + "-symbolic"}, 32, 1); !ok && !slices.Contains(lacking, name) {
			lacking = append(lacking, name)
		}
	}
	return lacking
}

// named lists the first of some names.
func named(names []string) string {
	first := strings.Join(names[:min(len(names), maxNamed)], ", ")
	if n := len(names) - maxNamed; n > 0 {
		return say.Of("judge/and-more", first, n).String()
	}
	return first
}

// shapes tells which shapes that every program uses neither a surface's pointer set has nor
// one that lends it its own.
func (j *judging) shapes(s desk.Surface) []Verdict {
	f, has := s.Facet(desk.FacetPointer)
	set := j.look.Of(desk.FacetPointer, s.ID)
	if !has || set == "" {
		return nil
	}
	lacking := withoutShape(j.d, f.Lookup, set)
	if len(lacking) == 0 {
		return nil
	}
	v := Verdict{Surface: s.ID, Facet: desk.FacetPointer, Code: NoShapes, Says: say.Of("judge/shapes-missing", set, named(lacking), s.Does("show", "shows"))}
	for _, name := range lacking {
		v.Parts = append(v.Parts, Part{What: name})
	}
	for _, name := range j.others(s, desk.FacetPointer) {
		if folder, err := reading.FindPointer(j.d, f.Lookup, name); err == nil && folder != "" && len(withoutShape(j.d, f.Lookup, name)) == 0 {
			v.Remedies = append(v.Remedies, Fix{Facet: desk.FacetPointer, Want: name, Says: say.Of("judge/set-has-them", name)})
			break
		}
	}
	v.Remedies = append(v.Remedies, Fix{Says: say.Of("judge/newer-version-may-be-whole")})
	return []Verdict{v}
}

// withoutShape are the shapes for which a set leads to nothing; none of a set that is not
// there, of which Match tells.
func withoutShape(d *desk.Desk, l desk.Lookup, set string) (lacking []string) {
	if folder, err := reading.FindPointer(d, l, set); err != nil || folder == "" {
		return nil
	}
	for _, names := range xcursor.Needed {
		nothing := func(name string) bool {
			_, err := reading.FindShape(d, l, set, name)
			return errors.Is(err, fs.ErrNotExist)
		}
		if !slices.ContainsFunc(names, func(name string) bool { return !nothing(name) }) {
			lacking = append(lacking, names[0])
		}
	}
	return lacking
}

// shade tells of a theme whose windows are dark where light is set, or the other way round.
func (j *judging) shade(s desk.Surface) []Verdict {
	if !j.shadeDiffers(s) {
		return nil
	}
	theme := j.look.Of(desk.FacetWidgets, s.ID)
	other, says := "dark", say.Of("judge/dark-theme-set-light", theme, s.Named())
	if j.look.Of(desk.FacetDark, s.ID) == "dark" {
		other, says = "light", say.Of("judge/light-theme-set-dark", theme, s.Named())
	}
	v := Verdict{Surface: s.ID, Facet: desk.FacetDark, Code: OtherShade, Says: says, Parts: []Part{{What: theme}}}
	if !j.with(desk.FacetDark, s.ID, other).shadeDiffers(s) {
		v.Remedies = append(v.Remedies, Fix{Facet: desk.FacetDark, Want: other, Says: say.Of("judge/set-shade", other)})
	}
	if name := j.nearest(s, desk.FacetWidgets, func(o *judging) bool { return !o.shadeDiffers(s) }); name != "" {
		v.Remedies = append(v.Remedies, Fix{Facet: desk.FacetWidgets, Want: name, Says: say.Of("judge/themes-place-nearest-well", name)})
	}
	return []Verdict{v}
}

// shadeDiffers reports whether a surface's windows are light where dark is set, or the other
// way round.
func (j *judging) shadeDiffers(s desk.Surface) bool {
	set := j.look.Of(desk.FacetDark, s.ID)
	if set != "light" && set != "dark" {
		return false
	}
	st := j.of(s.ID).Compute("window.background")
	light := opaque(st.Fill()).Luminance() > opaque(st.Colour("color")).Luminance()
	return st.Fill().A >= 0.5 && light != (set == "light")
}
