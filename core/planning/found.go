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

// Found lists what plans may touch of a person's, as it is, so that it can be kept before
// anything is changed: the files that surfaces are told in, those that set variables, and
// the desktop's settings. Nothing is to be done for it. What cannot be looked at is left out.
func Found(d *desk.Desk) plan.Plan {
	d = d.Snapshot()
	out := plan.Plan{Title: "As it was found"}
	b := builder{d: d, plan: &out}
	take := func(at string, s desk.Surface, f desk.Facet) {
		_, setting := desk.Setting(at)
		if !setting {
			if at == "" || !path.IsAbs(at) || strings.ContainsAny(at, "*?") || !d.Mine(at) {
				return
			}
			real, err := b.resolve(at)
			if err != nil || !d.Mine(real) {
				return
			}
			at = real
		}
		if slices.ContainsFunc(out.Ops, func(op plan.Op) bool { return op.Path == at }) {
			return
		}
		now, err := plan.Look(d, at)
		if err != nil || now.Kind != "file" && now.Kind != "setting" && now.Kind != "" {
			return
		}
		out.Ops = append(out.Ops, plan.Op{Kind: plan.AsIs, Path: at, Before: now, After: now, Surface: s.ID, Facet: f.Name, Says: say.Of("plan/was-there-before"), Effect: plan.AtOnce})
	}
	for _, s := range d.Surfaces() {
		for _, f := range s.Facets {
			for _, src := range f.Sources {
				switch {
				case src.Format == "env":
					if v, ok := d.Var(src.Key); ok {
						take(v.File, s, f)
					}
				case src.Format == "gsettings":
					key, _, known := reading.SchemaKey(d, src.Group, src.Key)
					switch backend := reading.Backend(d); {
					case !known:
					case backend == "keyfile":
						take(reading.KeyfileOf(d), s, f)
					case d.Settings != nil:
						take(desk.OfSetting(key.Path), s, f)
					}
				case src.Write:
					take(reading.PlaceOf(d, s, src, nil), s, f)
				}
			}
		}
	}
	for _, own := range []string{ownEnvironment, sessionEntry, desk.SessionFile} {
		take(d.First(own), desk.Surface{}, desk.Facet{})
	}
	return out.Seal(d)
}
