package plan

import (
	"ivelt/core/desk"
	"ivelt/core/say"
)

// packageKind is the [State.Kind] of a package that is installed. Its hash is the version.
const packageKind = "package"

// PackageState is the state of a package in a version, "" for none.
func PackageState(version string) State {
	if version == "" {
		return State{}
	}
	return State{Kind: packageKind, Hash: version}
}

// Packages are those that the plan has come, or with away go.
func (p Plan) Packages(away bool) []desk.PackageAt {
	var out []desk.PackageAt
	for _, op := range p.Ops {
		name, ok := desk.PackageOf(op.Path)
		if !ok || op.Kind != Package || (op.After.Kind == "") != away {
			continue
		}
		version := op.After.Hash
		if away {
			version = op.Before.Hash
		}
		out = append(out, desk.PackageAt{Name: name, Version: version})
	}
	return out
}

// lookPackage is what is installed of a package now.
func lookPackage(d *desk.Desk, name string) (State, error) {
	if d.Manager == nil {
		return State{}, say.Errorf("%s: %w: nothing here manages packages", d.Show(desk.OfPackage(name)), ErrWrite)
	}
	version, err := d.Manager.Installed(name)
	return PackageState(version), err
}
