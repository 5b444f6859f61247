package desk

import (
	"bufio"
	"io/fs"
	"path"
	"regexp"
	"strings"
)

// The package database keeps as plain text which files each package owns, one
// NAME.list a package, and which packages are installed (dpkg-query(1), section
// FILES); what can be had is in the lists of its sources, one file each
// (sources.list(5), apt-get(8), section FILES). All but the first are paragraphs
// of "Field: value" lines (Debian Policy, 5.1).
const (
	packageLists  = "var/lib/dpkg/info"
	packageStatus = "var/lib/dpkg/status"
	sourceLists   = "var/lib/apt/lists"
)

// Owner returns the package that owns a path of the desk, or "". What a package
// owns is overwritten by its next update.
func (d *Desk) Owner(p string) string {
	tree := d.Tree()
	lists, err := fs.Glob(tree, packageLists+"/*.list")
	if err != nil {
		return ""
	}
	for _, list := range lists {
		f, err := tree.Open(list)
		if err != nil {
			continue
		}
		in := bufio.NewScanner(f)
		for in.Scan() {
			if in.Text() == p {
				f.Close()
				name, _, _ := strings.Cut(strings.TrimSuffix(path.Base(list), ".list"), ":")
				return name
			}
		}
		f.Close()
	}
	return ""
}

// Package is one of the package database.
type Package struct {
	Name      string
	Version   string // that can be had, or else is installed
	Installed bool
	Has       string // the version that is installed, "" for none
}

// packageName is what a package may be called (Debian Policy 5.6.1).
var packageName = regexp.MustCompile(`^[a-z0-9][a-z0-9+.-]+$`)

// Command is the line by which an administrator installs the package, apt-get(8); "" if it has
// no name that could be written there.
func (p Package) Command() string {
	if !packageName.MatchString(p.Name) {
		return ""
	}
	return "sudo apt-get install " + p.Name
}

// Packages are those a desk has or can have, by name.
type Packages map[string]Package

// Packages reads the lists of the desk's package database. A desk without one
// has none.
func (d *Desk) Packages() Packages {
	tree, out := d.Tree(), Packages{}
	lists, _ := fs.Glob(tree, sourceLists+"/*_Packages")
	for _, list := range lists {
		paragraphs(tree, list, func(name, version, _ string) { out[name] = Package{Name: name, Version: version} })
	}
	paragraphs(tree, packageStatus, func(name, version, status string) {
		if !strings.HasSuffix(status, " installed") {
			return
		}
		p, ok := out[name]
		if !ok {
			p = Package{Name: name, Version: version}
		}
		p.Installed, p.Has = true, version
		out[name] = p
	})
	return out
}

// paragraphs calls each for every package of a list.
func paragraphs(tree fs.FS, list string, each func(name, version, status string)) {
	f, err := tree.Open(list)
	if err != nil {
		return
	}
	defer f.Close()
	var name, version, status string
	in := bufio.NewScanner(f)
	in.Buffer(nil, 1<<20)
	flush := func() {
		if name != "" {
			each(name, version, status)
		}
		name, version, status = "", "", ""
	}
	for in.Scan() {
		switch field, value, _ := strings.Cut(in.Text(), ": "); field {
		case "":
			flush()
		case "Package":
			name = strings.Clone(value)
		case "Version":
			version = strings.Clone(value)
		case "Status":
			status = value
		}
	}
	flush()
}

// packageNames are how packages of pieces are called, by the kind of piece.
// Common practice, no source.
var packageNames = map[string][]string{
	"theme":   {"*-gtk-theme", "*-theme", "*-themes", "gtk-theme-*"},
	"icons":   {"*-icon-theme", "*-icons", "*-icon-themes"},
	"pointer": {"*-cursor-theme", "*-cursors", "*-cursor-themes"},
	"font":    {"fonts-*"},
}

// Find returns the package that has a piece of that kind and name: the one
// called called, if there is one, else one with a name that such packages
// have.
func (p Packages) Find(kind, name, called string) (Package, bool) {
	if found, ok := p[called]; ok && called != "" {
		return found, true
	}
	plain := strings.Join(strings.FieldsFunc(strings.ToLower(name), func(r rune) bool { return !('a' <= r && r <= 'z' || '0' <= r && r <= '9') }), "-")
	if plain == "" {
		return Package{}, false
	}
	for _, pattern := range packageNames[kind] {
		if found, ok := p[strings.ReplaceAll(pattern, "*", plain)]; ok {
			return found, true
		}
	}
	return Package{}, false
}

// PackageStamp changes when the lists do, so that one knows when to read them
// again.
func (d *Desk) PackageStamp() string {
	tree := d.Tree()
	lists, _ := fs.Glob(tree, sourceLists+"/*_Packages")
	var b strings.Builder
	for _, name := range append(lists, packageStatus) {
		if fi, err := fs.Stat(tree, name); err == nil {
			b.WriteString(name + fi.ModTime().String())
		}
	}
	return b.String()
}
