package plan

import (
	"path"
	"slices"

	"ivelt/core/desk"
	"ivelt/core/parcel"
)

// Later is what has to start again for a change to be seen.
type Later struct {
	Effect   Effect   `json:"effect"`
	Surfaces []string `json:"surfaces"` // that show it then
}

var effects = []Effect{ProgramRestart, ShellRestart, SignIn, MachineRestart}

// Later is the one of two effects that is seen later.
func (e Effect) Later(other Effect) Effect {
	if slices.Index(effects, other) > slices.Index(effects, e) { // what is seen at once is none of them
		return other
	}
	return e
}

// Later lists what has to start again once the plan is carried out, in the order
// in which to do it: what a later one starts anyway comes last.
func (p Plan) Later(d *desk.Desk) []Later {
	var out []Later
	for _, e := range effects {
		l := Later{Effect: e}
		for _, op := range p.Ops {
			if op.Effect == e && op.Surface != "" && !slices.Contains(l.Surfaces, op.Surface) {
				l.Surfaces = append(l.Surfaces, op.Surface)
			}
		}
		if len(l.Surfaces) > 0 {
			out = append(out, l)
		}
	}
	return out
}

// Cache is what programs remember of a folder, which a plan changes.
type Cache struct {
	Kind   string `json:"kind"` // of the pieces in it: icons or font
	Folder string `json:"folder"`
}

// Caches lists what has to be made anew once the plan is carried out: what
// programs remember of folders of icons and of fonts.
func (p Plan) Caches() []Cache {
	var out []Cache
	for _, op := range p.Ops {
		c := Cache{op.Facet, path.Dir(op.Path)}
		changes := op.Kind == Copy || op.Kind == Link || op.Kind == Remove && !op.IsFolder()
		if changes && (c.Kind == string(parcel.Icons) || c.Kind == string(parcel.Font)) && !slices.Contains(out, c) {
			out = append(out, c)
		}
	}
	return out
}
