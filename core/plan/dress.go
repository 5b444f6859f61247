package plan

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"slices"

	"ivelt/core/desk"
	"ivelt/core/gtkrc"
	"ivelt/core/keyfile"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/reading"
	"ivelt/core/xresources"
)

// Dress plans to make the desk wear the outfit, starting from its readings:
// only what does not read as wanted is touched. What cannot be brought about is
// listed in [Plan.Blocked].
func Dress(d *desk.Desk, o outfit.Outfit) (Plan, error) {
	out := Plan{Title: "Wear " + o.Name}
	b := builder{d: d, plan: &out, made: map[string]bool{}}
	err := b.dress(d, o)
	return out.seal(d), err
}

// Fitting is what a parcel has that is to be put in place first.
type Fitting struct {
	Parcel   *parcel.Parcel
	Placings []Placing
}

// DressWith plans the same with pieces that are put in place before they are
// named. tried is the desk as it is with them, see [desk.Desk.Layers].
func DressWith(ctx context.Context, d, tried *desk.Desk, o outfit.Outfit, first []Fitting) (Plan, error) {
	out := Plan{Title: "Wear " + o.Name}
	b := builder{d: d, plan: &out, made: map[string]bool{}}
	for _, f := range first {
		for _, pl := range f.Placings {
			if _, err := b.install(ctx, f.Parcel, pl); err != nil {
				return Plan{}, err
			}
		}
	}
	err := b.dress(tried, o)
	return out.seal(d), err
}

// dress adds what makes the surfaces wear the outfit, as far as they would find
// it on the desk seen.
func (b *builder) dress(seen *desk.Desk, o outfit.Outfit) error {
	b.seen, b.unsetting, b.told = seen, map[string]bool{}, map[string]bool{}
	for _, s := range b.d.Surfaces {
		for _, facet := range o.Facets() {
			f, ok := s.Facet(facet)
			if !ok {
				continue
			}
			if err := b.set(s, f, o.Want(facet)); err != nil {
				return err
			}
		}
	}
	return b.hold()
}

// hold writes into settings files what only the variables said that are taken
// out: what else they decided stays as it is.
func (b *builder) hold() error {
	if len(b.unsetting) == 0 {
		return nil
	}
	for _, s := range b.d.Surfaces {
		for _, f := range s.Facets {
			r := reading.Told(b.d, s, f)
			if r.Source.Kind != "env" || !b.unsetting[r.Source.Key] || b.told[s.ID+" "+f.Name] {
				continue
			}
			if err := b.write(s, f, r.Value, r); err != nil {
				return err
			}
		}
	}
	return nil
}

func (b *builder) set(s desk.Surface, f desk.Facet, want string) error {
	block := func(why, remedy string) error {
		b.plan.Blocked = append(b.plan.Blocked, Blocked{s.ID, f.Name, why, remedy})
		return nil
	}
	switch err := reading.Check(b.seen, s, f, want); {
	case errors.As(err, new(*reading.ValueError)):
		return block(fmt.Sprintf("%s cannot follow: %v.", s.Title, err), "It stays as it is.")
	case err != nil:
		return block(fmt.Sprintf("%s would not find %s: %v.", s.Title, want, err), "Install it first, or choose another.")
	}
	r := reading.Of(b.d, s, f)
	if reading.Same(f, r.Value, want) && (r.Problem == nil || r.Problem.Code != "broken-source") {
		return nil
	}
	if r.Source.Kind == "env" { // it overrules what files say
		if r.Source.Path == "" {
			return block(fmt.Sprintf("the session's environment sets %s, which overrules the settings of %s.", r.Source.Key, s.Title), "Find what sets it, and take it out there.")
		}
		if err := b.unset(s, f, r.Source); err != nil {
			return err
		}
	}
	return b.write(s, f, want, r)
}

// write puts a facet's value into the file that a plan sets.
func (b *builder) write(s desk.Surface, f desk.Facet, want string, r reading.Reading) error {
	block := func(why, remedy string) error {
		b.plan.Blocked = append(b.plan.Blocked, Blocked{s.ID, f.Name, why, remedy})
		return nil
	}
	b.told[s.ID+" "+f.Name] = true
	target := targetOf(b.d, f, r)
	if target.Path == "" {
		return block(s.Title+" has no file that Ivelt may set.", "")
	}
	shown := b.d.Expand(target.Path)[0]
	p, err := b.resolve(shown)
	if err != nil {
		return err
	}
	why := fmt.Sprintf("tell %s to use %s", s.Title, want)
	for i := range b.plan.Ops { // a file that is written already gets this line too
		if op := &b.plan.Ops[i]; op.Kind == Write && op.Path == p {
			content, err := edited(op.Content, target, f, want)
			if err != nil {
				return err
			}
			op.Content = content
			op.After = fileState(op.Content, op.After.Mode)
			op.Why += ", and " + why
			return nil
		}
	}
	old, err := fs.ReadFile(b.d.Tree(), desk.Name(p))
	missing := errors.Is(err, fs.ErrNotExist)
	if err != nil && !missing {
		return block(fmt.Sprintf("%s cannot be read: %v.", b.d.Show(p), err), "Make it readable, then review again.")
	}
	content, err := edited(old, target, f, want)
	if err != nil {
		return block(fmt.Sprintf("%s is not a settings file that %s can read: %v.", b.d.Show(p), s.Title, err),
			"Mend or remove that line, then review again. Ivelt leaves the file as it is.")
	}
	if !missing && bytes.Equal(content, old) {
		return nil // it says so already, and was overruled
	}
	before, err := look(b.d, p)
	if err != nil {
		return err
	}
	mode := before.Mode
	if missing {
		mode = 0o644
		b.parents(p, f.Name)
	}
	b.add(Op{
		Kind: Write, Path: p, Before: before, After: fileState(content, mode), Content: content,
		Surface: s.ID, Facet: f.Name, Why: why, Effect: EffectOf(s.Restart),
	})
	return nil
}

// targetOf is the source that a plan sets: the one that is meant for it, or one
// that comes before that and speaks, and so would overrule it.
func targetOf(d *desk.Desk, f desk.Facet, r reading.Reading) desk.Source {
	for _, src := range f.Sources {
		if src.Write {
			return src
		}
		if src.Format == "env" {
			continue // it is taken out
		}
		for _, step := range r.Chain {
			if step.Key == src.Key && d.Mine(step.Path) && slices.Contains(d.Expand(src.Path), step.Path) && (step.State == reading.Wins || step.State == reading.Overruled) {
				return src
			}
		}
	}
	return desk.Source{}
}

// unset adds the operation that takes a variable out of the file that sets it:
// its line, and nothing else.
func (b *builder) unset(s desk.Surface, f desk.Facet, of reading.Origin) error {
	b.unsetting[of.Key] = true
	p, err := b.resolve(of.Path)
	if err != nil {
		return err
	}
	for i := range b.plan.Ops {
		if op := &b.plan.Ops[i]; op.Kind == Write && op.Path == p {
			op.Content = withoutVariable(op.Content, of.Key)
			op.After = fileState(op.Content, op.After.Mode)
			return nil
		}
	}
	old, err := fs.ReadFile(b.d.Tree(), desk.Name(p))
	if err != nil {
		return err
	}
	before, err := look(b.d, p)
	if err != nil {
		return err
	}
	content := withoutVariable(old, of.Key)
	b.add(Op{
		Kind: Write, Path: p, Before: before, After: fileState(content, before.Mode), Content: content,
		Surface: s.ID, Facet: f.Name, Why: "take out " + of.Key + ", which overrules what is set in files", Effect: EffectOf("session"),
	})
	return nil
}

// withoutVariable is a file without the lines that set a variable.
func withoutVariable(file []byte, name string) []byte {
	var out []byte
	for line := range bytes.Lines(file) {
		if key, _, ok := desk.Assignment(string(line)); !ok || key != name {
			out = append(out, line...)
		}
	}
	return out
}

// edited is a settings file in which a facet is as wanted, everything else in it
// as it was.
func edited(old []byte, target desk.Source, f desk.Facet, want string) ([]byte, error) {
	switch target.Format {
	case "xresources":
		return xresources.Set(old, target.Key, reading.Written(f, want)), nil
	case "gtkrc":
		if notes := gtkrc.Parse(old).Notes; len(notes) > 0 {
			return nil, fmt.Errorf("line %d: %s", notes[0].Line, notes[0].Text)
		}
		return gtkrc.Set(old, target.Key, reading.Written(f, want), f.Number != nil || f.Values != nil), nil
	}
	kf, err := keyfile.Parse(old)
	if err != nil {
		return nil, err
	}
	kf.Set(target.Group, target.Key, reading.Written(f, want))
	return kf.Bytes(), nil
}
