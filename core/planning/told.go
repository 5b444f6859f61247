package planning

import (
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/plan"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// settings reports whether surfaces are told something by a file.
func (r *returning) settings(t touch) bool { return t.surface != "" }

// Told is a facet of a surface that is told something.
type Told struct{ Surface, Facet string }

// Changed are the surfaces and facets that plans which were carried out one after
// the other told something else than before.
func Changed(d *desk.Desk, done []plan.Plan, keep plan.Keeper) ([]Told, error) {
	r := newReturning(d, done, keep, Aim{}, &plan.Plan{})
	var out []Told
	for _, t := range touched(done) {
		if t.folder || !r.settings(t) || !t.file() {
			continue
		}
		before, err := r.kept(t.before())
		if err != nil {
			continue // it cannot be gone back on
		}
		left, err := r.left(t)
		if err != nil {
			return nil, err
		}
		was, err := r.told(t.path, before.text)
		if err != nil {
			return nil, err
		}
		is, err := r.told(t.path, left.text)
		if err != nil {
			return nil, err
		}
		for f := range is {
			if is[f] != was[f] && !slices.Contains(out, f) {
				out = append(out, f)
			}
		}
	}
	return out, nil
}

// told is what a file says to each surface of each facet, if it has some content.
func (r *returning) told(p string, content []byte) (map[Told]string, error) {
	front, err := os.MkdirTemp("", "ivelt-told-")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(front)
	at := filepath.Join(front, filepath.FromSlash(p))
	if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil {
		return nil, err
	}
	if err := os.WriteFile(at, content, fs.FileMode(0o644)); err != nil {
		return nil, err
	}
	as := r.d.Laid(front, nil)
	out := map[Told]string{}
	for _, rd := range reading.All(as) {
		var said strings.Builder
		for _, step := range rd.Chain {
			if real, err := as.Tree().Resolve(desk.Name(step.Path)); step.Path != "" && err == nil && desk.Path(real) == p && step.Value != "" {
				fmt.Fprintln(&said, step.Key, step.Value)
			}
		}
		out[Told{rd.Surface, rd.Facet}] = said.String()
	}
	return out, nil
}

// part is a file that a change left, in which only what the aim asks for is as
// it was before; others are what further surfaces and facets are told by the same
// lines.
func (r *returning) part(t touch, left, before []byte) (content []byte, others []string, err error) {
	if !r.settings(t) {
		return left, nil, nil
	}
	lines := linesOf(left)
	wanted, err := r.told(t.path, before)
	if err != nil {
		return nil, nil, err
	}
	was, err := r.told(t.path, left)
	if err != nil {
		return nil, nil, err
	}
	mine := func(f Told) bool {
		return (r.aim.Surface == "" || f.Surface == r.aim.Surface) && (r.aim.Facet == "" || f.Facet == r.aim.Facet)
	}
	asWanted := func(now map[Told]string) bool {
		for f := range was {
			if mine(f) && now[f] != wanted[f] {
				return false
			}
		}
		return true
	}
	if asWanted(was) {
		return left, nil, nil
	}
	var only, shared []hunk
	for _, h := range hunks(lines, linesOf(before)) {
		now, err := r.told(t.path, changed(lines, []hunk{h}))
		if err != nil {
			return nil, nil, err
		}
		some, more := false, false
		for f := range was {
			if now[f] != was[f] {
				some, more = some || mine(f), more || !mine(f)
			}
		}
		switch {
		case some && more:
			shared = append(shared, h)
		case some:
			only = append(only, h)
		}
	}
	content = changed(lines, only)
	now, err := r.told(t.path, content)
	if err != nil || asWanted(now) || len(shared) == 0 {
		return content, nil, err
	}
	all := slices.Concat(only, shared)
	slices.SortFunc(all, func(a, b hunk) int { return a.from - b.from })
	content = changed(lines, all)
	if now, err = r.told(t.path, content); err != nil {
		return nil, nil, err
	}
	for f := range was {
		if s, ok := r.d.Surface(f.Surface); ok && !mine(f) && now[f] != was[f] {
			if words := say.Line("%s of %s", s.Named(), desk.FacetTitle(f.Facet)).String(); !slices.Contains(others, words) {
				others = append(others, words)
			}
		}
	}
	slices.Sort(others)
	return content, others, nil
}
