package planning

import (
	"errors"
	"io/fs"
	"path"
	"slices"

	"ivelt/core/desk"
	"ivelt/core/parcel"
	"ivelt/core/plan"
	"ivelt/core/say"
)

// pin has the descriptor of a parcel, put in place as the folder to, used as long as it is
// the same. What an earlier one was let do, this one is let do too if it asks for no more.
func (b *builder) pin(p *parcel.Parcel, pc parcel.Piece, to string) error {
	text, err := fs.ReadFile(p, pc.Only[0])
	if err != nil {
		return err
	}
	s, err := desk.ParseCame(text, b.d)
	if err != nil {
		return err
	}
	if have, ok := b.d.Surface(s.ID); ok && have.Came == nil {
		return say.Errorf("%w: %s is %s", desk.ErrTaken, s.ID, have.Title)
	}
	may := false
	if old, err := b.d.ReadPin(s.ID); err == nil && old.May {
		may = b.asksNoMore(s, to, old)
	}
	return b.writePin(s.ID, desk.PinOf(text, may), say.Of("plan/pin-descriptor", pc.Name))
}

// asksNoMore reports whether a descriptor starts nothing that the one in place, which was
// taken by a pin, does not.
func (b *builder) asksNoMore(s desk.Surface, to string, old desk.Pin) bool {
	files, err := fs.Glob(b.d.Tree(), desk.Name(to)+"/*.toml")
	if err != nil || len(files) != 1 {
		return false
	}
	text, err := b.d.Tree().ReadSettings(files[0])
	if err != nil || desk.PinOf(text, true) != old {
		return false
	}
	was, err := desk.ParseSurface(text)
	if err != nil {
		return false
	}
	known := was.Reach().Starts
	return !slices.ContainsFunc(s.Reach().Starts, func(start desk.Start) bool { return !slices.Contains(known, start) })
}

func (b *builder) writePin(id string, pin desk.Pin, why say.Message) error {
	return b.edit(b.d.PinFile(id), desk.Surface{}, desk.Facet{Name: string(parcel.Descriptor)}, why, plan.AtOnce, func([]byte) []byte { return pin.Bytes() })
}

// unpin takes the pin away of a descriptor whose folder is taken away; of any other piece it
// does nothing.
func (b *builder) unpin(folder string) error {
	if !b.d.OfDescriptors(folder) {
		return nil
	}
	at, err := b.resolve(b.d.PinFile(path.Base(folder)))
	if err != nil {
		return err
	}
	now, err := plan.Look(b.d, at)
	if err != nil || now.Kind != "file" {
		return err
	}
	b.add(plan.Op{Kind: plan.Remove, Path: at, Before: now, Facet: string(parcel.Descriptor), Says: say.Of("plan/unpin-descriptor"), Effect: plan.AtOnce})
	return nil
}

// ErrNoCame: a surface has no descriptor that came from others.
var ErrNoCame = errors.New("its descriptor did not come from others")

// Allow plans to let the descriptor of a surface, which came from others, start programs and
// set what programs start; or no longer. Errors wrap [ErrNoCame].
func Allow(d *desk.Desk, id string, may bool) (plan.Plan, error) {
	s, ok := d.Surface(id)
	if !ok || s.Came == nil {
		return plan.Plan{}, say.Errorf("%s: %w", id, ErrNoCame)
	}
	why, title := say.Of("plan/allow-descriptor", s.Named()), "Let "+s.Title+" start programs"
	if !may {
		why, title = say.Of("plan/forbid-descriptor", s.Named()), "Let "+s.Title+" start programs no longer"
	}
	out := plan.Plan{Title: title}
	b := builder{d: d, plan: &out, made: map[string]bool{}}
	err := b.writePin(id, desk.Pin{SHA256: s.Came.SHA256, May: may}, why)
	return out.Seal(d), err
}

// mayWrite blocks a facet whose descriptor came from others where its file turns out not to be
// its own: a link leads out of the folder that bears its name.
func (b *builder) mayWrite(s desk.Surface, facet, p string) bool {
	if b.d.MayWrite(s, p) {
		return true
	}
	b.block(blocked(s, facet, say.Of("plan/not-its-own", s.Named(), b.d.Show(p)), say.Of("plan/link-leads-out")))
	return false
}
