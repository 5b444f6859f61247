package planning

import (
	"path"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/plan"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// NewProfile plans a profile of a terminal's in the person's own folder, with the settings of
// the one that it opens with now, and makes the new one the default: a profile that is made
// and not used is a common mistake (common practice, no source).
func NewProfile(d *desk.Desk, s desk.Surface, name string) (plan.Plan, error) {
	f, ok := s.Facet(desk.FacetProfile)
	if !ok {
		return plan.Plan{}, say.Errorf("%s no profiles", s.Does("have", "has"))
	}
	info, _ := desk.FacetOf(desk.FacetProfile)
	if err := info.Accepts(name); err != nil {
		return plan.Plan{}, err
	}
	if strings.HasPrefix(name, ".") || len(name) > maxProfileName || strings.ContainsFunc(name, func(r rune) bool { return r < ' ' || r == 0x7f }) {
		return plan.Plan{}, say.Errorf("a profile's name has up to %d letters and begins with no dot", maxProfileName)
	}
	if slices.Contains(reading.Named(d, f.Lookup), name) {
		return plan.Plan{}, say.Errorf("%w: the profile %s", plan.ErrExists, name)
	}
	of := func(folder, name string) string {
		return path.Join(folder, strings.ReplaceAll(f.Lookup.File, "*", name))
	}
	own := slices.IndexFunc(f.Lookup.Folders, func(folder string) bool { return d.Mine(d.First(folder)) })
	if own < 0 {
		return plan.Plan{}, say.Errorf("%s looks for profiles in no folder of your own", s.Title)
	}
	out := plan.Plan{Title: "New profile " + name}
	b := builder{d: d, seen: d, plan: &out, made: map[string]bool{}, told: map[string]bool{}, unsetting: map[string]bool{}}
	now := reading.Of(d, s, f)
	var content []byte
	for _, folder := range d.Folders(f.Lookup.Folders) {
		text, err := d.Tree().ReadSettings(of(folder, now.Value))
		if err == nil {
			content = text
			break
		}
	}
	if content == nil { // one that is built in, in no file
		for _, of := range s.Facets {
			for _, src := range of.Sources {
				value := reading.Told(d, s, of).Value
				if !src.Write || !strings.Contains(src.Path, "{"+desk.FacetProfile+"}") || value == "" {
					continue
				}
				text, err := edited(content, src, of, value)
				if err != nil {
					return plan.Plan{}, err
				}
				content = text
			}
		}
	}
	if err := b.edit(of(d.First(f.Lookup.Folders[own]), name), s, f, say.Of("plan/new-profile", s.Named(), now.Value), plan.EffectOf(s.Restart), func([]byte) []byte { return content }); err != nil {
		return plan.Plan{}, err
	}
	if err := b.write(s, f, name, now); err != nil {
		return plan.Plan{}, err
	}
	return out.Seal(d), nil
}

// maxProfileName bounds the name of a profile, in bytes: with what comes after it, it is a
// file's name.
const maxProfileName = 64
