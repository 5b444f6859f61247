package planning

import (
	"errors"
	"path"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/plan"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// ErrProvided: programs of this desk are told of changes by somebody else already.
var ErrProvided = errors.New("programs here are told of changes at once already")

// sessionEntry starts Ivelt's own provider of XSETTINGS at sign-in (Desktop Application
// Autostart Specification 0.5).
const sessionEntry = "{config}/autostart/ivelt-session.desktop"

// OfferSession plans to start Ivelt's own provider of XSETTINGS at each sign-in, with what
// programs read now, so that nothing changes by that. program is the full path of Ivelt.
// It is [ErrProvided] where there is another, or none is needed.
func OfferSession(d *desk.Desk, program string) (plan.Plan, error) {
	if now := d.Now(); d.Display() != "x11" || now.XSettings != nil && !now.Own {
		return plan.Plan{}, ErrProvided
	}
	out := plan.Plan{Title: "Tell programs of changes at once"}
	b := builder{d: d, seen: d, plan: &out, made: map[string]bool{}, told: map[string]bool{}}
	for _, id := range []string{"gtk3", "display"} {
		s, _ := d.Surface(id)
		for _, f := range s.Facets {
			if r := reading.Told(d, s, f); r.Value != "" && (r.Source.Kind == "file" || id == "gtk3") && !slices.Contains(f.Lookup.BuiltIn, r.Value) {
				inResources := slices.ContainsFunc(f.Sources, func(src desk.Source) bool {
					return src.Format == "xresources" && src.Write && reading.PlaceOf(d, s, src, nil) == r.Source.Path
				})
				if err := b.tellSession(s, f, r.Value, inResources); err != nil {
					return plan.Plan{}, err
				}
			}
		}
	}
	if err := b.startAtSignIn(program, say.Of("plan/start-session")); err != nil {
		return plan.Plan{}, err
	}
	return out.Seal(d), nil
}

// startAtSignIn has `ivelt session` started at each sign-in.
func (b *builder) startAtSignIn(program string, why say.Message) error {
	s, _ := b.d.Surface("gtk3")
	text := "[Desktop Entry]\nType=Application\nName=Ivelt, telling programs of changes\nExec=" + execOf(program) + " session\nNoDisplay=true\n"
	return b.edit(b.d.First(sessionEntry), s, desk.Facet{}, why, plan.SignIn, func([]byte) []byte { return []byte(text) })
}

// WithdrawSession plans to take that away again.
func WithdrawSession(d *desk.Desk) (plan.Plan, error) {
	out := plan.Plan{Title: "Tell programs of changes no longer"}
	b := builder{d: d, plan: &out, made: map[string]bool{}}
	for _, at := range []string{sessionEntry, desk.SessionFile} {
		p, err := b.resolve(d.First(at))
		if err != nil {
			return plan.Plan{}, err
		}
		before, err := plan.Look(d, p)
		if err != nil {
			return plan.Plan{}, err
		}
		if before.Kind == "file" {
			b.add(plan.Op{Kind: plan.Remove, Path: p, Before: before, Says: say.Of("plan/stop-session"), Effect: plan.SignIn})
		}
	}
	return out.Seal(d), nil
}

// HasSession reports whether Ivelt's own provider is started at sign-in.
func HasSession(d *desk.Desk) bool { return d.Exists(d.First(sessionEntry)) }

// execOf is a program as the Exec key of an entry has it (Desktop Entry Specification 1.5,
// "The Exec key").
func execOf(program string) string {
	if !strings.ContainsAny(program, " \t\n\"'\\><~|&;$*?#()`%") {
		return program
	}
	quoted := strings.NewReplacer(`\`, `\\\\`, `"`, `\\"`, "`", "\\\\`", `$`, `\\$`, `%`, `%%`).Replace(program)
	return `"` + quoted + `"`
}

// tellSession writes a facet where Ivelt's own provider takes it from, if the surface asks
// a provider for it, or the display, which is told at once too. inResources is that it is
// written where X resources are loaded from at sign-in, and so is to be loaded at once.
func (b *builder) tellSession(s desk.Surface, f desk.Facet, want string, inResources bool) error {
	for _, target := range ofSession(s, f, inResources) {
		target.Path, target.Format, target.Write = desk.SessionFile, "keyfile", true
		if err := b.put(s, f, target, want); err != nil {
			return say.Errorf("what the session tells programs: %w", err)
		}
	}
	at := path.Clean(b.d.First(desk.SessionFile))
	for i := range b.plan.Ops {
		if op := &b.plan.Ops[i]; op.Path == at && op.Kind == plan.Write {
			op.Effect, op.Says = plan.AtOnce, say.Of("plan/tell-open-programs")
		}
	}
	return nil
}

// ofSession are a facet's lines in the file of Ivelt's own provider.
func ofSession(s desk.Surface, f desk.Facet, inResources bool) (out []desk.Source) {
	for _, src := range f.Sources {
		switch {
		case src.Format == "xsettings":
			src.Group = desk.SessionGroup
		case src.Format == "xresources" && src.Write && inResources:
			src.Group = desk.SessionResources
		default:
			continue
		}
		out = append(out, src)
	}
	if s.Kind == "display" && f.Name == desk.FacetPointer {
		out = append(out, desk.Source{Group: desk.SessionPointer, Key: desk.SessionPointerSet})
	}
	return out
}

// effectOf is when a surface shows what its settings file says of a facet. The display's pointer is
// shown over the background at once where Ivelt's own provider shows it, else after a
// sign-in.
func (b *builder) effectOf(s desk.Surface, f desk.Facet) plan.Effect {
	if f.Live {
		return plan.AtOnce
	}
	if s.Kind == "display" && b.toldBySession() {
		return plan.ProgramRestart
	}
	return plan.EffectOf(s.Restart)
}

// toldBySession reports whether Ivelt's own provider tells the desk's programs, or will.
func (b *builder) toldBySession() bool {
	return b.d.Display() == "x11" && (b.d.Now().Own || b.d.Exists(b.d.First(desk.SessionFile)))
}
