package planning

import (
	"errors"
	"fmt"
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
	s, _ := d.Surface("gtk3")
	for _, f := range s.Facets {
		if r := reading.Told(d, s, f); r.Value != "" && !slices.Contains(f.Lookup.BuiltIn, r.Value) {
			if err := b.tellSession(s, f, r.Value); err != nil {
				return plan.Plan{}, err
			}
		}
	}
	text := "[Desktop Entry]\nType=Application\nName=Ivelt, telling programs of changes\nExec=" + execOf(program) + " session\nNoDisplay=true\n"
	if err := b.edit(d.First(sessionEntry), s, desk.Facet{}, say.Of("plan/start-session"), plan.SignIn, func([]byte) []byte { return []byte(text) }); err != nil {
		return plan.Plan{}, err
	}
	return out.Seal(d), nil
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
// a provider at all.
func (b *builder) tellSession(s desk.Surface, f desk.Facet, want string) error {
	i := slices.IndexFunc(f.Sources, func(src desk.Source) bool { return src.Format == "xsettings" })
	if i < 0 {
		return nil
	}
	target := f.Sources[i]
	target.Path, target.Format, target.Group, target.Write = desk.SessionFile, "keyfile", desk.SessionGroup, true
	if err := b.put(s, f, target, want); err != nil {
		return fmt.Errorf("what the session tells programs: %w", err)
	}
	at := path.Clean(b.d.First(desk.SessionFile))
	for i := range b.plan.Ops {
		if op := &b.plan.Ops[i]; op.Path == at && op.Kind == plan.Write {
			op.Effect = plan.AtOnce
		}
	}
	return nil
}

// toldBySession reports whether Ivelt's own provider tells the desk's programs, or will.
func (b *builder) toldBySession() bool {
	return b.d.Display() == "x11" && (b.d.Now().Own || b.d.Exists(b.d.First(desk.SessionFile)))
}
