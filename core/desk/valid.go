package desk

import (
	"errors"
	"math"
	"path"
	"regexp"
	"slices"
	"strings"

	"ivelt/core/layout"
	"ivelt/core/say"
)

// What a descriptor may have at most, so that asking a surface ends.
const (
	maxSources = 32 // of a facet
	maxFollows = 4  // of these, other surfaces that it follows
)

var (
	surfaceID = regexp.MustCompile(`^[a-z0-9][a-z0-9-]{0,63}$`)
	hole      = regexp.MustCompile(`\{([^{}]*)\}`)
)

// onDisk are the formats of sources that are files.
var onDisk = slices.Concat([]string{"keyfile", "gtkrc", "css", "fontconfig"}, forms)

// valid tells what of a descriptor cannot be used. What it accepts can be read,
// matched, planned and applied.
func (s Surface) valid() error {
	if !surfaceID.MatchString(s.ID) {
		return say.Errorf("the id %q is not of small letters, digits and dashes", s.ID)
	}
	if (FacetInfo{Takes: TakesProgram}).Accepts("/"+s.Starts) != nil || strings.ContainsAny(s.Starts, `"'\%`) {
		return say.Errorf("starts is a program with plain arguments, not %q", s.Starts)
	}
	for what, all := range map[string][]string{"present": s.Present, "programs": s.programs(), "bar": s.barFiles(), "monitors": s.monitorFiles()} {
		if err := s.placed(what, all...); err != nil {
			return err
		}
	}
	for _, l := range s.Looks {
		if err := s.placed("looks for "+l.Kind, l.Folders...); err != nil {
			return err
		}
	}
	if g := s.Greeter; g != nil {
		if err := s.placed("greeter", g.Folders...); err != nil {
			return err
		}
		if err := s.source(g.Session); err != nil {
			return say.Errorf("greeter: %w", err)
		}
	}
	if s.Instead != "" && !surfaceID.MatchString(s.Instead) {
		return say.Errorf("%q is no surface in whose stead it could draw", s.Instead)
	}
	if n := s.Needs; n != nil {
		for _, src := range []Source{n.Of, n.Range} {
			if src.Format != "keyfile" || src.Group == "" || src.Key == "" {
				return errors.New("needs: a key of a key file is meant")
			}
			if err := s.source(src); err != nil {
				return say.Errorf("needs: %w", err)
			}
		}
	}
	if err := s.locked(); err != nil {
		return say.Errorf("lock: %w", err)
	}
	names := map[string]bool{}
	for _, f := range s.Facets {
		if err := s.facet(f); err != nil {
			return say.Errorf("facet %s: %w", f.Name, err)
		}
		if names[f.Name] {
			return say.Errorf("facet %s is there twice", f.Name)
		}
		names[f.Name] = true
	}
	seen := map[asked]bool{}
	for _, f := range s.Facets {
		if s.circular(asked{f.Name, false}, seen) {
			return say.Errorf("facet %s: where it is told goes by what it is told", f.Name)
		}
	}
	return nil
}

func (s Surface) programs() []string {
	if s.Sandbox == nil {
		return nil
	}
	return s.Sandbox.Programs
}

func (s Surface) barFiles() []string {
	if s.Bar == nil {
		return nil
	}
	return s.Bar.Files
}

func (s Surface) monitorFiles() []string {
	if s.Monitors == nil {
		return nil
	}
	return s.Monitors.Files
}

// limited tells what of a facet's limits is not known.
func (f Facet) limited() error {
	l := f.Limits
	if l == nil {
		return nil
	}
	if info, _ := FacetOf(f.Name); info.Takes != TakesBars && info.Takes != TakesTiles {
		return errors.New("it is no layout that could have limits")
	}
	if l.Bars < 0 || l.Thinnest < 0 || l.Thickest < 0 || l.Thickest > 0 && l.Thinnest > l.Thickest {
		return say.Errorf("no bar is from %d to %d px thick", l.Thinnest, l.Thickest)
	}
	for _, e := range l.Edges {
		if !slices.Contains(layout.Edges, e) {
			return say.Errorf("there is no edge %q", e)
		}
	}
	for _, kind := range l.Items {
		if _, known := layout.KindOf(kind); !known {
			return say.Errorf("there is no item %q", kind)
		}
	}
	for _, way := range l.Ways {
		if !slices.Contains(layout.Tilings, way) {
			return say.Errorf("windows do not lie by %q", way)
		}
	}
	return nil
}

func (s Surface) facet(f Facet) error {
	if _, known := FacetOf(f.Name); !known {
		return errors.New("it is not known")
	}
	l := f.Lookup
	if !slices.Contains(lookups, l.Kind) {
		return say.Errorf("lookup kind %q is not known; use one of %s", l.Kind, strings.Join(lookups[1:], ", "))
	}
	if f.Number != nil && f.Number.Least > f.Number.Most {
		return say.Errorf("no number is from %d to %d", f.Number.Least, f.Number.Most)
	}
	if f.Key != "" && len(f.Sources) == 0 {
		return errors.New("it has a key and no source")
	}
	if err := errors.Join(f.limited(), s.placing(f)); err != nil {
		return err
	}
	follows := 0
	for _, src := range f.Sources {
		if src.Format == "follows" {
			follows++
		}
		if err := s.source(src); err != nil {
			return err
		}
	}
	if len(f.Sources) > maxSources || follows > maxFollows {
		return say.Errorf("it has %d sources, %d of them other surfaces; %d and %d are the most", len(f.Sources), follows, maxSources, maxFollows)
	}
	for _, src := range []*Source{f.Loaded, f.Singles, l.grantSource()} {
		if src == nil {
			continue
		}
		if err := s.source(*src); err != nil {
			return err
		}
		if src != f.Singles && src.Key == "" {
			return say.Errorf("a source has no key")
		}
	}
	if m := l.MadeFor; m != nil && (path.IsAbs(m.Path) || !clean(m.Path) || m.Path == "") {
		return say.Errorf("made-for names a file in the piece, not %q", m.Path)
	}
	for _, inside := range append(slices.Clone(l.Parts), l.File, l.Cache) {
		if path.IsAbs(inside) || !clean(inside) {
			return say.Errorf("%q is no file or folder in a piece", inside)
		}
	}
	if err := s.placed("folders", slices.Concat(l.Folders, l.From, l.Engines, l.Within, l.Bound, without("{name}", l.Extensions))...); err != nil {
		return err
	}
	if g := l.Grants; g != nil {
		if err := s.placed("grants", without("{program}", append(slices.Concat(g.Under, g.Open), g.Own))...); err != nil {
			return err
		}
	}
	if l.Own != "" {
		return s.placed("own", l.Own)
	}
	return nil
}

func (s Surface) source(src Source) error {
	if !slices.Contains(formats, src.Format) {
		return say.Errorf("format %q is not known; use one of %s", src.Format, strings.Join(formats, ", "))
	}
	if src.Shade != "" && src.Shade != "light" && src.Shade != "dark" {
		return say.Errorf("a shade is light or dark, not %q", src.Shade)
	}
	if src.On != "" && src.On != "x11" && src.On != "wayland" {
		return say.Errorf("a source is asked on x11 or wayland, not on %q", src.On)
	}
	if src.Side != "" && src.Side != "before" && src.Side != "after" {
		return say.Errorf("a side is before or after, not %q", src.Side)
	}
	if src.Scale < 0 || math.IsInf(src.Scale, 0) || math.IsNaN(src.Scale) {
		return say.Errorf("a scale is a number above 0, not %v", src.Scale)
	}
	for _, when := range src.When {
		if when.Key == "" || len(when.Words) == 0 {
			return say.Errorf("when it follows %s: a variable and its words must be given", src.Path)
		}
		if when.File != "" {
			if err := s.placed("when", when.File); err != nil {
				return err
			}
		}
	}
	switch {
	case src.Format == "follows":
		if !surfaceID.MatchString(src.Path) || src.Path == s.ID {
			return say.Errorf("it cannot follow %q", src.Path)
		}
		return nil
	case src.Format == "xresources" && src.Path == "":
		return nil
	case slices.Contains(onDisk, src.Format) || src.Format == "xresources":
		return s.placed("a source", src.Path)
	}
	return nil
}

// placed tells which of some paths is nowhere on a desk.
func (s Surface) placed(what string, templates ...string) error {
	for _, t := range templates {
		rest := t
		switch {
		case strings.HasPrefix(t, "/"), t == "~", strings.HasPrefix(t, "~/"):
		case strings.HasPrefix(t, "{"):
			name, after, ok := strings.Cut(t[1:], "}")
			if _, facet := s.Facet(name); !ok || !isPlace(name) && name != "theme" && !facet || after != "" && after[0] != '/' && !facet {
				return say.Errorf("%s: %q begins with no place; use ~, {config}, {data}, {state}, {data-dirs}, {config-dirs} or a full path", what, t)
			}
			rest = after
		default:
			return say.Errorf("%s: %q is no full path; begin it with /, ~ or a place such as {config}", what, t)
		}
		if !clean(rest) || len(t) > 1024 {
			return say.Errorf("%s: %q is no path", what, t)
		}
		for _, m := range hole.FindAllStringSubmatch(rest, -1) {
			if _, ok := s.Facet(m[1]); !ok {
				return say.Errorf("%s: %q goes by %q, which is no facet of it", what, t, m[1])
			}
		}
	}
	return nil
}

// IsID reports whether a word can be the ID of a surface.
func IsID(id string) bool { return surfaceID.MatchString(id) }

func isPlace(name string) bool {
	return slices.Contains([]string{"home", "config", "data", "state", "data-dirs", "config-dirs", "config-dirs-last-first"}, name)
}

// clean tells a path that goes nowhere up, and has nothing in it that no name has.
func clean(p string) bool {
	return !slices.Contains(strings.Split(p, "/"), "..") && !strings.ContainsFunc(p, func(r rune) bool { return r < ' ' || r == 0x7f })
}

// asked is a facet, and whether its sources in the theme are left out when it is asked.
type asked struct {
	facet     string
	themeless bool
}

// circular reports whether the places of a facet's sources go, by way of others, by
// what the facet itself is told. {theme} goes by the theme that is told without what
// themes say.
func (s Surface) circular(at asked, seen map[asked]bool) bool {
	if done, ok := seen[at]; ok {
		return !done // it is one that is being asked
	}
	seen[at] = false
	defer func() { seen[at] = true }()
	f, _ := s.Facet(at.facet)
	for _, src := range append(slices.Clone(f.Sources), loadedOf(f)...) {
		if at.themeless && strings.HasPrefix(src.Path, "{theme}") {
			continue
		}
		for _, m := range hole.FindAllStringSubmatch(src.Path, -1) {
			next := []asked{{m[1], at.themeless}}
			switch {
			case m[1] == "theme":
				next = []asked{{FacetWidgets, true}, {FacetDark, true}}
			case isPlace(m[1]):
				continue
			}
			for _, n := range next {
				if s.circular(n, seen) {
					return true
				}
			}
		}
	}
	return false
}

// without are paths with a word in the stead of a name that is put into them.
func without(name string, all []string) (out []string) {
	for _, p := range all {
		if p != "" {
			out = append(out, strings.ReplaceAll(p, name, "x"))
		}
	}
	return out
}

// grantSource is the file of what is granted to all programs, nil for none.
func (l Lookup) grantSource() *Source {
	if l.Grants == nil {
		return nil
	}
	return &l.Grants.Source
}

func loadedOf(f Facet) []Source {
	var out []Source
	for _, src := range []*Source{f.Loaded, f.Singles, f.Lookup.grantSource()} {
		if src != nil {
			out = append(out, *src)
		}
	}
	return out
}
