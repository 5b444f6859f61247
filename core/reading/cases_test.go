package reading_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/desk/desktest"
	"ivelt/core/reading"
	"ivelt/standin"
)

// TestCases reads small desks, each a file of testdata/cases with what is asked of it and
// what is to come of that. What real programs show is held against them in package truth;
// here are the places that it comes from, and the words.
func TestCases(t *testing.T) { desktest.Cases(t, "testdata/cases", standin.Surfaces(), ask) }

// ask answers one question about a desk.
func ask(t *testing.T, d *desk.Desk, words []string) string {
	var b strings.Builder
	say := func(format string, args ...any) { fmt.Fprintf(&b, format+"\n", args...) }
	what := "told"
	if _, ok := d.Surface(words[0]); !ok {
		what, words = words[0], words[1:]
	}
	s, ok := d.Surface(words[0])
	require.True(t, ok, words)
	if what == "fatal" {
		if p := reading.Fatal(d, s); p != nil {
			say("%s: %s %s", p.Code, p.Text, p.Remedy)
		}
		return b.String()
	}
	f, ok := s.Facet(words[1])
	require.True(t, ok, words)
	name := strings.Join(words[2:], " ")
	switch what {
	case "told":
		r := reading.Of(d, s, f)
		says(r, say)
	case "why":
		if err := reading.Check(d, s, f, name); err != nil {
			say("%v", err)
		}
		if p := reading.Why(d, s, f, name); p != nil {
			say("%s: %s %s", p.Code, p.Text, p.Remedy)
		}
	case "search":
		for _, p := range reading.Search(d, f.Lookup, name) {
			say("%s %s", p.State, p.Path)
		}
	case "choices":
		say("%s", strings.Join(reading.Choices(d, s, f), ", "))
	case "grants":
		f.Lookup.Program = name
		say("%s; too wide: %s", strings.Join(reading.Grants(d, f.Lookup), ", "), strings.Join(reading.TooWide(d, f.Lookup), ", "))
	case "grantable":
		say("%s", strings.Join(reading.Grantables(d, f.Lookup, name), ", "))
	case "piece":
		owner, lost := reading.Lost(d, f.Lookup, name)
		say("stale: %q, lost: %q of %q, another than %s: %v", reading.StaleCache(d, f.Lookup, name), lost, owner, words[2], reading.Another(d, f.Lookup, name, name))
	case "switch":
		say("%v", reading.Switch(d, s, f))
	case "written":
		i := slices.IndexFunc(f.Sources, func(src desk.Source) bool { return src.Write })
		require.GreaterOrEqual(t, i, 0, words)
		locked := reading.Locked(d, s, f, f.Sources[i])
		say("%s as %q; locked: %v; the same: %v", reading.PlaceOf(d, s, f.Sources[i], nil), reading.Written(f, f.Sources[i], name), locked, reading.Same(f, name, reading.Told(d, s, f).Value))
	case "all":
		for _, r := range reading.All(d) {
			if r.Facet == f.Name {
				say("%s %q", r.Surface, r.Value)
			}
		}
	default:
		t.Fatal("nothing can be asked so: ", what)
	}
	return b.String()
}

func says(r reading.Reading, say func(string, ...any)) {
	say("%q at %q", r.Value, r.Resolved)
	if r.Pending != "" {
		say("pending %s: loaded %q", r.Pending, r.Loaded)
	}
	for _, one := range r.Singles {
		say("but for %s in %s", one.Key, one.Path)
	}
	for _, c := range r.Copies {
		say("another in %s", c)
	}
	if p := r.Problem; p != nil {
		say("%s: %s %s", p.Code, p.Text, p.Remedy)
	}
	for _, step := range r.Chain {
		at := step.Path
		if step.Line > 0 {
			at = fmt.Sprintf("%s:%d", at, step.Line)
		}
		text := strings.TrimRight(fmt.Sprintf("%s %s %s %q %s", step.State, at, desktest.Short(step.Key), step.Value, step.Note), " ")
		say("  %s", text)
	}
}
