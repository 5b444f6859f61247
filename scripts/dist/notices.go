package main

import (
	"bufio"
	"bytes"
	"debug/buildinfo"
	"fmt"
	"os"
	"os/exec"
	"path"
	"path/filepath"
	"regexp"
	"slices"
	"strings"

	"ivelt/core/licence"
)

// part is something of others that is in what is shipped.
type part struct {
	Name, Version string
	URL           string // a package URL (github.com/package-url/purl-spec)
	Licence       string // as an SPDX expression
	Texts         []text
}

type text struct{ Name, Text string }

// licenceFile names files of licences and of notices that go with a source.
var licenceFile = regexp.MustCompile(`(?i)^(un)?(licen[cs]e|copying|notice)([-.].*)?$`)

// parts are all modules that are linked into a program, Go's own library, and the front-end
// packages and fonts that are in it, by name. An error tells of one whose licence is not known.
func (r release) parts(info *buildinfo.BuildInfo) ([]part, error) {
	var out []part
	var names []string
	for _, dep := range info.Deps {
		if dep.Replace != nil {
			dep = dep.Replace
		}
		names = append(names, dep.Path)
		out = append(out, part{Name: dep.Path, Version: dep.Version, URL: "pkg:golang/" + dep.Path + "@" + dep.Version})
	}
	dirs, err := moduleDirs(r.Source, names)
	if err != nil {
		return nil, err
	}
	for i := range out {
		if err := out[i].read(dirs[out[i].Name], nil); err != nil {
			return nil, err
		}
	}
	goroot, err := exec.Command("go", "env", "GOROOT").Output()
	if err != nil {
		return nil, err
	}
	std := part{Name: "std", Version: strings.TrimPrefix(strings.Fields(info.GoVersion)[0], "go"), URL: "pkg:golang/std@" + strings.TrimPrefix(info.GoVersion, "go")}
	if err := std.read(strings.TrimSpace(string(goroot)), nil); err != nil {
		return nil, err
	}
	out = append(out, std)
	front, err := r.frontEnd()
	if err != nil {
		return nil, err
	}
	out = append(out, front...)
	slices.SortFunc(out, func(a, b part) int { return strings.Compare(a.Name, b.Name) })
	return out, nil
}

// moduleDirs are where the sources of modules are.
func moduleDirs(source string, names []string) (map[string]string, error) {
	c := exec.Command("go", append([]string{"list", "-m", "-f", "{{.Path}}\t{{.Dir}}"}, names...)...)
	c.Dir = source
	b, err := c.Output()
	if err != nil {
		return nil, fmt.Errorf("go list -m: %w", err)
	}
	out := map[string]string{}
	for line := range strings.Lines(string(b)) {
		name, dir, _ := strings.Cut(strings.TrimSpace(line), "\t")
		if dir == "" {
			return nil, fmt.Errorf("the sources of %s are not here", name)
		}
		out[name] = dir
	}
	return out, nil
}

// read takes the licences of a folder. Those that are named are taken alone.
func (p *part) read(dir string, named []string) error {
	entries, err := os.ReadDir(dir)
	if err != nil {
		return err
	}
	var known []string
	for _, e := range entries {
		if e.IsDir() || named == nil && !licenceFile.MatchString(e.Name()) || named != nil && !slices.Contains(named, e.Name()) {
			continue
		}
		b, err := os.ReadFile(filepath.Join(dir, e.Name()))
		if err != nil {
			return err
		}
		p.Texts = append(p.Texts, text{e.Name(), string(b)})
		if id := licence.Of(string(b)); id != "" && !slices.Contains(known, id) {
			known = append(known, id)
		}
	}
	if p.Licence == "" {
		p.Licence = strings.Join(known, " AND ")
	}
	if other, ok := otherwise[p.Name]; ok {
		p.Licence = other
	}
	if p.Licence == "" || len(p.Texts) == 0 {
		return fmt.Errorf("the licence of %s is not known: it cannot be shipped", p.Name)
	}
	return nil
}

// otherwise are licences that the texts in a module's folder do not tell by themselves.
var otherwise = map[string]string{
	"github.com/golang/freetype":       "FTL OR GPL-2.0-or-later", // its LICENSE: whichever one likes
	"github.com/aymanbagabas/go-udiff": "MIT AND BSD-3-Clause",
}

// frontEnd are the packages whose files lie in the pages and in the demo.
func (r release) frontEnd() (out []part, err error) {
	vendor := filepath.Join(r.Source, "web/static/vendor")
	b, err := os.ReadFile(filepath.Join(vendor, "VERSIONS.txt"))
	if err != nil {
		return nil, err
	}
	for s := bufio.NewScanner(bytes.NewReader(b)); s.Scan(); {
		// name version, licence
		what, id, _ := strings.Cut(s.Text(), ", ")
		name, version, _ := strings.Cut(what, " ")
		if name == "axe-core" {
			continue // of the tests alone
		}
		p := part{Name: name, Version: version, Licence: id, URL: "pkg:npm/" + strings.ReplaceAll(name, "@", "%40") + "@" + version}
		if err := p.read(filepath.Join(vendor, "licences"), []string{path.Base(name) + ".txt"}); err != nil {
			return nil, err
		}
		out = append(out, p)
	}
	return out, nil
}

// notices is everything that licences want to be passed on.
func notices(parts []part) []byte {
	var b bytes.Buffer
	fmt.Fprintf(&b, "What others made, and is in Ivelt: %d parts.\n", len(parts))
	for _, p := range parts {
		fmt.Fprintf(&b, "\n%s\n%s %s\n%s\n", strings.Repeat("=", 72), p.Name, p.Version, p.Licence)
		for _, t := range p.Texts {
			fmt.Fprintf(&b, "\n--- %s ---\n\n%s\n", t.Name, strings.TrimSpace(t.Text))
		}
	}
	return b.Bytes()
}

// copyright is Debian's file for a package (Debian Policy, 12.5; machine-readable 1.0).
func copyright(own []byte, parts []part) []byte {
	var b bytes.Buffer
	fmt.Fprint(&b, "Format: https://www.debian.org/doc/packaging-manuals/copyright-format/1.0/\nUpstream-Name: Ivelt\n\n")
	fmt.Fprint(&b, "Files: *\nCopyright: 2026 The Ivelt authors\nLicense: MIT\n")
	for line := range strings.Lines(string(own)) {
		line = strings.TrimSpace(line)
		if line == "" {
			line = "."
		}
		fmt.Fprintf(&b, " %s\n", line)
	}
	fmt.Fprint(&b, "Comment: The program has parts of others in it. Their notices and the texts of their\n licences are in NOTICES.gz beside this file:\n")
	for _, p := range parts {
		fmt.Fprintf(&b, " %s %s (%s)\n", p.Name, p.Version, p.Licence)
	}
	return b.Bytes()
}
