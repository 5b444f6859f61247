package desk

import "strings"

// Manager is a desk's package manager, as far as plans use it: packages come and go with
// their dependencies, and nothing else is changed.
type Manager interface {
	// Installed is the version of a package that is installed, "" for none. One that is there
	// in part has a version that no package has.
	Installed(name string) (string, error)
	// Along are all packages that have to come, or with away to go, so that these do: a dry run.
	Along(of []PackageAt, away bool) ([]PackageAt, error)
	// Change has packages come or go. It is not interrupted; what an earlier one left half
	// done is finished first.
	Change(of []PackageAt, away bool) error
	// Command is what does the same by hand, for a shell.
	Command(of []PackageAt, away bool) string
}

// PackageAt is a package in a version; without one in whichever there is.
type PackageAt struct{ Name, Version string }

// packageScheme begins what stands for a package where else a path of the desk stands.
const packageScheme = "package:"

// OfPackage names a package where else a path of the desk stands.
func OfPackage(name string) string { return packageScheme + name }

// PackageOf is the package that is named so; ok is false for anything else.
func PackageOf(name string) (of string, ok bool) { return strings.CutPrefix(name, packageScheme) }
