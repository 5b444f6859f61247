package planning

import (
	"errors"
	"regexp"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/plan"
	"ivelt/core/say"
)

// Packages plans to have the package manager install packages, with all that come along.
func Packages(d *desk.Desk, of []desk.PackageAt) (plan.Plan, error) {
	var out plan.Plan
	if d.Manager == nil {
		return out, errors.New("nothing here manages packages")
	}
	b := builder{d: d, plan: &out, made: map[string]bool{}}
	along, err := d.Manager.Along(of, false)
	if err != nil {
		return out, err
	}
	var names []string
	for _, p := range of {
		names = append(names, p.Name)
	}
	out.Title = "Install the packages " + strings.Join(names, ", ")
	if len(names) == 1 {
		out.Title = "Install the package " + names[0]
	}
	for _, p := range along {
		before, err := plan.Look(d, desk.OfPackage(p.Name))
		if err != nil {
			return out, err
		}
		if before.Kind != "" {
			return out, say.Errorf("%s is installed in the version %s, and would become %s: updates are left to the package manager. Have it do them first", p.Name, before.Hash, p.Version)
		}
		why := say.Of("plan/have-package")
		if !slices.ContainsFunc(of, func(q desk.PackageAt) bool { return q.Name == p.Name }) {
			why = say.Of("plan/have-what-package-needs", strings.Join(names, ", "))
		}
		b.add(plan.Op{Kind: plan.Package, Path: desk.OfPackage(p.Name), After: plan.PackageState(p.Version), Says: why, Effect: plan.AtOnce})
	}
	return out.Seal(d), nil
}

// Names and versions of packages (Debian Policy, 5.6.1 and 5.6.12; others are no wider).
var (
	packageName    = regexp.MustCompile(`^[a-z0-9][a-z0-9+.-]+$`)
	packageVersion = regexp.MustCompile(`^[0-9][A-Za-z0-9.+~:-]*$`)
)

// packaged reports why an operation on a package is none that is carried out.
func packaged(op plan.Op, name string) error {
	version := op.After.Hash + op.Before.Hash
	switch {
	case op.Kind != plan.Package || (op.After.Kind == "") == (op.Before.Kind == ""):
		return errors.New("a package comes or goes")
	case !packageName.MatchString(name) || !packageVersion.MatchString(version):
		return errors.New("it is no name and version of a package")
	}
	return nil
}

// packages goes back on a package: what came goes, and the other way round.
func (r *returning) packages(t touch, now plan.State) error {
	if !r.whole() {
		return nil
	}
	if !now.Is(t.left()) {
		r.out.Conflicts = append(r.out.Conflicts, Conflict{Path: t.path, Tree: true, IsNone: now.Kind == "", WasNone: t.before().Kind == "", Takes: []Take{TakeNow}, Taken: TakeNow})
		return nil
	}
	why := say.Of("plan/was-there-before")
	if t.before().Kind == "" {
		why = say.Of("plan/was-not-there-before")
	}
	r.add(r.op(t, plan.Package, now, t.before(), why))
	return nil
}
