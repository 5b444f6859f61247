package apply

import (
	"slices"

	"ivelt/core/desk"
	"ivelt/core/plan"
	"ivelt/core/say"
)

// packages has all packages of the plan come and go that are to, at the first of them: the
// package manager decides in which order. What it would do beside that stops the plan.
func (x *run) packages(i int) error {
	first := slices.IndexFunc(x.plan.Ops, func(op plan.Op) bool { return op.Kind == plan.Package })
	if i != first {
		return nil
	}
	for _, away := range []bool{true, false} {
		if err := x.changePackages(x.plan.Packages(away), away); err != nil {
			return err
		}
	}
	for _, op := range x.plan.Ops {
		if op.Kind != plan.Package {
			continue
		}
		now, err := plan.Look(x.d, op.Path)
		if err == nil && !now.Is(op.After) {
			err = say.Errorf("%s %w: the package manager was done, and it is not as it should be", x.d.Show(op.Path), plan.ErrWrite)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

func (x *run) changePackages(of []desk.PackageAt, away bool) error {
	if len(of) == 0 {
		return nil
	}
	along, err := x.d.Manager.Along(of, away)
	if err != nil {
		return err
	}
	for _, p := range along {
		if !slices.ContainsFunc(of, func(q desk.PackageAt) bool { return q.Name == p.Name }) {
			return say.Errorf("%w: %s would change too. Nothing was done; review again", plan.ErrChanged, x.d.Show(desk.OfPackage(p.Name)))
		}
	}
	if x.Before != nil {
		for _, p := range of {
			if err := x.Before(Call{Name: "change", Path: desk.OfPackage(p.Name)}); err != nil {
				return err
			}
		}
	}
	return x.d.Manager.Change(of, away)
}

// unpackage undoes [run.packages], all at once, at the first of them: those that have come go,
// those that have gone come again.
func (x *run) unpackage(i int) error {
	first := slices.IndexFunc(x.plan.Ops, func(op plan.Op) bool { return op.Kind == plan.Package })
	if i != first {
		return nil
	}
	var come, gone []desk.PackageAt
	for _, op := range x.plan.Ops {
		name, ok := desk.PackageOf(op.Path)
		if !ok {
			continue
		}
		now, err := plan.Look(x.d, op.Path)
		switch {
		case err != nil:
			return err
		case now.Is(op.Before):
		case op.Before.Kind == "": // in whatever state it was left
			come = append(come, desk.PackageAt{Name: name, Version: now.Hash})
		case now.Is(op.After):
			gone = append(gone, desk.PackageAt{Name: name, Version: op.Before.Hash})
		default:
			x.left = append(x.left, x.d.Show(op.Path))
		}
	}
	for _, back := range []struct {
		of   []desk.PackageAt
		away bool
	}{{come, true}, {gone, false}} {
		if len(back.of) == 0 {
			continue
		}
		if err := x.changePackages(back.of, back.away); err != nil {
			return err
		}
	}
	return nil
}
