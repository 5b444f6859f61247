package apply

import (
	"ivelt/core/desk"
	"ivelt/core/plan"
	"ivelt/core/say"
)

// set gives a setting the value of a state, if it has that of another. The service that
// keeps settings has no way to compare and change in one step: what somebody sets between
// the looking and the changing, some thousandths of a second, is lost.
func (x *run) set(path string, before, after plan.State) error {
	setting, ok := desk.Setting(path)
	if !ok {
		return say.Errorf("%s is no setting", x.d.Show(path))
	}
	now, err := plan.Look(x.d, path)
	if err != nil {
		return err
	}
	if !now.Is(before) {
		return say.Errorf("%w: %s", plan.ErrChanged, x.d.Show(path))
	}
	to, err := after.Value()
	if err != nil {
		return err
	}
	if x.Before != nil {
		if err := x.Before(Call{Name: "change", Path: setting}); err != nil {
			return err
		}
	}
	if err := x.d.Settings.Change(map[string]desk.Value{setting: to}); err != nil {
		return say.Errorf("%s %w: %w", x.d.Show(path), plan.ErrWrite, err)
	}
	if now, err = plan.Look(x.d, path); err == nil && !now.Is(after) {
		err = say.Errorf("%s %w: it has %s after it was set to %s", x.d.Show(path), plan.ErrWrite, said(now), said(after))
	}
	return err
}

func said(s plan.State) string {
	if s.Kind == "" {
		return "no value"
	}
	return s.Says()
}

// unset gives a setting its old value back, unless somebody else has set it since: that is
// newer, and stays.
func (x *run) unset(op plan.Op) error {
	now, err := plan.Look(x.d, op.Path)
	switch {
	case err != nil:
		return err
	case now.Is(op.After) && !op.Before.Is(op.After):
		return x.set(op.Path, op.After, op.Before)
	case !now.Is(op.Before):
		x.left = append(x.left, x.d.Show(op.Path))
	}
	return nil
}
