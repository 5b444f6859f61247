package reading_test

import (
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"

	"ivelt/core/desk"
	"ivelt/core/reading"
	"ivelt/standin"
)

var rewrite = flag.Bool("rewrite", false, "write what is read into the cases instead of comparing; look at it afterwards")

// TestCases reads small desks, each a file of testdata/cases with what is asked of it and
// what is to come of that. What real programs show is held against them in package truth;
// here are the places that it comes from, and the words.
func TestCases(t *testing.T) {
	cases, err := filepath.Glob("testdata/cases/*.txt")
	require.NoError(t, err)
	require.NotEmpty(t, cases)
	for _, file := range cases {
		t.Run(strings.TrimSuffix(filepath.Base(file), ".txt"), func(t *testing.T) {
			a, err := txtar.ParseFile(file)
			require.NoError(t, err)
			d := deskOf(t, a)
			var now strings.Builder
			for line := range strings.Lines(string(a.Comment)) {
				if !strings.HasPrefix(line, "    ") {
					now.WriteString(line)
				}
				if question, ok := strings.CutPrefix(strings.TrimSuffix(line, "\n"), "> "); ok {
					for said := range strings.Lines(ask(t, d, strings.Fields(question))) {
						now.WriteString("    " + said)
					}
				}
			}
			if *rewrite {
				a.Comment = []byte(now.String())
				require.NoError(t, os.WriteFile(file, txtar.Format(a), 0o644))
				return
			}
			require.Equal(t, string(a.Comment), now.String())
		})
	}
}

// deskOf is a desk of the files below home and system; "-> TARGET" is a link, and a first
// line of the case "$ NAME=VALUE …" the session's variables.
func deskOf(t *testing.T, a *txtar.Archive) *desk.Desk {
	top := t.TempDir()
	old := time.Date(2025, 1, 2, 3, 4, 5, 0, time.UTC)
	for _, sub := range []string{"home", "system"} {
		require.NoError(t, os.MkdirAll(filepath.Join(top, sub), 0o755))
	}
	schemas := ownerOf(t)
	for i, f := range a.Files {
		at := filepath.Join(top, f.Name)
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		if to, ok := strings.CutPrefix(string(f.Data), "-> "); ok {
			require.NoError(t, os.Symlink(strings.TrimSpace(to), at))
			continue
		}
		mode := os.FileMode(0o644)
		if strings.Contains(f.Name, "/bin/") {
			mode = 0o755
		}
		text := strings.NewReplacer("{owner.}.", schemas, "{owner}/", strings.ReplaceAll(schemas, ".", "/")).Replace(string(f.Data))
		require.NoError(t, os.WriteFile(at, []byte(text), mode))
		require.NoError(t, os.Chtimes(at, old, old.Add(time.Duration(i)*time.Minute)))
		require.NoError(t, os.Chtimes(filepath.Dir(at), old, old.Add(time.Duration(i)*time.Minute)))
	}
	if strings.Contains(string(a.Comment), "% schemas\n") { // those of GSettings, compiled
		compiled, err := os.ReadFile("testdata/gschemas.compiled")
		require.NoError(t, err)
		at := filepath.Join(top, "system/usr/share/glib-2.0/schemas/gschemas.compiled")
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, compiled, 0o644))
	}
	d, err := desk.Open("d", filepath.Join(top, "home"), filepath.Join(top, "system"), "/home/me")
	require.NoError(t, err)
	d.Surfaces, d.Env = append(desk.Builtin(), standin.Surfaces()...), map[string]string{}
	for line := range strings.Lines(string(a.Comment)) {
		if set, ok := strings.CutPrefix(line, "$ "); ok {
			for _, one := range strings.Fields(set) {
				name, value, _ := strings.Cut(one, "=")
				d.Env[name] = value
			}
		}
	}
	return d
}

// ownerOf is whose the schemas are that GTK 3 asks, with the dot behind it.
func ownerOf(t *testing.T) string {
	for _, s := range desk.Builtin() {
		for _, f := range s.Facets {
			for _, src := range f.Sources {
				if of := owner.FindString(src.Group); of != "" {
					return of
				}
			}
		}
	}
	t.Fatal("no descriptor asks a schema")
	return ""
}

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

// owner is whose a schema is, which a record does without.
var owner = regexp.MustCompile(`^org\.\w+\.`)

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
		text := strings.TrimRight(fmt.Sprintf("%s %s %s %q %s", step.State, at, owner.ReplaceAllString(step.Key, "…"), step.Value, step.Note), " ")
		say("  %s", text)
	}
}
