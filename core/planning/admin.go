package planning

import (
	"errors"
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/plan"
	"ivelt/core/say"
)

// The ways a plan that was handed over is refused.
var (
	ErrComputer = errors.New("the plan was made for another computer")
	ErrTampered = errors.New("the plan was altered after it was made")
	ErrPath     = errors.New("a plan may not touch that")
)

// HandedOver checks a plan that a person hands over to an administrator, before it is
// carried out on d, which is the system without that person's home: that it is whole, was
// made for this computer, and touches only what a plan may touch of a system. What has to be
// there is checked as of any plan.
func HandedOver(d *desk.Desk, p plan.Plan) error {
	if p.Computer != plan.Computer(d) {
		return ErrComputer
	}
	as := p
	if as.Seal(&desk.Desk{ID: p.Desk, Home: d.Home, System: d.System, HomePath: p.Home}).ID != p.ID {
		return ErrTampered
	}
	if len(p.Ops) == 0 {
		return errors.New("there is nothing in the plan that needs an administrator")
	}
	for _, op := range p.Ops {
		err := allowed(d, op)
		if op.Path == p.Home || strings.HasPrefix(op.Path, p.Home+"/") {
			err = errInHome
		}
		if err != nil {
			return say.Errorf("%w: %s: %w", ErrPath, op.Path, err)
		}
	}
	return nil
}

var errInHome = errors.New("it is in a home: that part is its owner's to apply")

func allowed(d *desk.Desk, op plan.Op) error {
	if _, ok := desk.Setting(op.Path); ok || op.Kind == plan.Set {
		return errors.New("a setting of the desktop is its owner's")
	}
	if name, ok := desk.PackageOf(op.Path); ok || op.Kind == plan.Package {
		return packaged(op, name)
	}
	if !path.IsAbs(op.Path) || path.Clean(op.Path) != op.Path {
		return errors.New("it is no full path")
	}
	if op.After.Mode&^fs.ModePerm != 0 || op.After.Mode&0o022 != 0 && op.After.Mode != op.Before.Mode {
		return errors.New("others could write it, or run it as somebody else")
	}
	if op.Kind == plan.Write && plan.Digest(op.Content) != op.After.Hash {
		return errors.New("its contents are not what the plan says")
	}
	if a := op.After.Attributes; a != nil && (len(a.Extended) > 0 || a.UID != plan.Plain.UID || a.GID != plan.Plain.GID) {
		return errors.New("it would belong to somebody else, or have attributes")
	}
	if d.Mine(op.Path) {
		return errInHome
	}
	folders, files := touchable(d)
	if slices.Contains(files, op.Path) || slices.Contains(files, strings.TrimSuffix(op.Path, plan.KeptBeside)) {
		return nil
	}
	for _, f := range folders {
		if strings.HasPrefix(op.Path, f+"/") || op.Kind == plan.Folder && (op.Path == f || strings.HasPrefix(f, op.Path+"/")) ||
			op.Kind == plan.Remove && op.IsFolder() && (op.Path == f || strings.HasPrefix(f, op.Path+"/")) {
			return nil
		}
	}
	return errors.New("no piece goes there, and no program's settings are there")
}

// touchable are what of the system plans may touch: folders in which surfaces look
// for pieces, and files that surfaces are told of a facet in.
func touchable(d *desk.Desk) (folders, files []string) {
	add := func(to *[]string, templates ...string) {
		for _, t := range templates {
			for _, p := range d.Expand(t) {
				if path.IsAbs(p) && !d.Mine(p) && strings.Count(p, "/") > 2 {
					*to = append(*to, p)
				}
			}
		}
	}
	for _, kind := range []string{"themes", "icons", "fonts", "backgrounds"} {
		add(&folders, "/usr/local/share/"+kind, "{data-dirs}/"+kind)
	}
	for _, s := range d.Surfaces() {
		for _, l := range s.Looks {
			add(&folders, l.Folders...)
		}
		for _, f := range s.Facets {
			add(&folders, f.Lookup.Folders...)
			for _, src := range f.Sources {
				if src.Write && src.Path != "" && !strings.Contains(src.Path, "*") {
					add(&files, src.Path)
				}
			}
		}
	}
	return folders, files
}

// LeftForAdministrator is a person's own part of a plan, which says of how many changes an
// administrator is still needed for.
func LeftForAdministrator(d *desk.Desk, p plan.Plan, changes int) plan.Plan {
	p.Blocked = append(slices.Clone(p.Blocked), blocked(desk.Surface{}, "", say.Of("plan/changes-outside-home-left", changes), say.Of("plan/plan-administrator-bundle-writes")))
	return p.Seal(d)
}
