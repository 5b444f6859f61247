// Package desktest asks small desks that are written down as text, and holds what comes of it
// against what was written down too.
package desktest

import (
	_ "embed"
	"flag"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"golang.org/x/tools/txtar"

	"ivelt/core/desk"
)

var rewrite = flag.Bool("rewrite", false, "write what comes out into the cases instead of comparing; look at it afterwards")

// Schemas are a few schemas as glib-compile-schemas compiles them (Debian: libglib2.0-bin).
//
//go:embed gschemas.compiled
var Schemas []byte

// Cases runs the files of a folder, each a desk in txtar's form. Before its files stand
// notes, and questions in lines that begin with ">", each with what is to come of it behind
// it, four blanks further in.
func Cases(t *testing.T, folder string, surfaces []desk.Surface, ask func(t *testing.T, d *desk.Desk, words []string) string) {
	cases, err := filepath.Glob(folder + "/*.txt")
	must(t, err)
	if len(cases) == 0 {
		t.Fatalf("%s has no cases", folder)
	}
	for _, file := range cases {
		t.Run(strings.TrimSuffix(filepath.Base(file), ".txt"), func(t *testing.T) {
			a, err := txtar.ParseFile(file)
			must(t, err)
			d := open(t, a, surfaces)
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
				must(t, os.WriteFile(file, txtar.Format(a), 0o644))
				return
			}
			compare(t, file, string(a.Comment), now.String())
		})
	}
}

// compare tells the first line that is not as it was written down.
func compare(t *testing.T, file, want, got string) {
	if want == got {
		return
	}
	wants, gots := strings.Split(want, "\n"), strings.Split(got, "\n")
	i := 0
	for i < min(len(wants), len(gots)) && wants[i] == gots[i] {
		i++
	}
	rest := func(lines []string) string { return strings.Join(lines[min(i, len(lines)):min(i+4, len(lines))], "\n") }
	t.Errorf("%s:%d: it is to be\n%s\nand it is\n%s", file, i+1, rest(wants), rest(gots))
}

// open is a desk of the files below home and system; "-> TARGET" is a link, a line of the
// case "$ NAME=VALUE …" sets the session's variables, and "% schemas" gives it some of GLib's.
func open(t *testing.T, a *txtar.Archive, surfaces []desk.Surface) *desk.Desk {
	top := t.TempDir()
	old := time.Date(2025, 1, 2, 3, 4, 5, 0, time.UTC)
	for _, sub := range []string{"home", "system"} {
		must(t, os.MkdirAll(filepath.Join(top, sub), 0o755))
	}
	owner := owners()
	named := strings.NewReplacer("{owner.}.", owner, "{owner}/", strings.ReplaceAll(owner, ".", "/"))
	for i, f := range a.Files {
		at := filepath.Join(top, f.Name)
		must(t, os.MkdirAll(filepath.Dir(at), 0o755))
		if to, ok := strings.CutPrefix(string(f.Data), "-> "); ok {
			must(t, os.Symlink(strings.TrimSpace(to), at))
			continue
		}
		mode := os.FileMode(0o644)
		if strings.Contains(f.Name, "/bin/") {
			mode = 0o755
		}
		must(t, os.WriteFile(at, []byte(named.Replace(string(f.Data))), mode))
		for _, changed := range []string{at, filepath.Dir(at)} {
			must(t, os.Chtimes(changed, old, old.Add(time.Duration(i)*time.Minute)))
		}
	}
	lines := strings.Split(string(a.Comment), "\n")
	if slices.Contains(lines, "% schemas") {
		at := filepath.Join(top, "system/usr/share/glib-2.0/schemas/gschemas.compiled")
		must(t, os.MkdirAll(filepath.Dir(at), 0o755))
		must(t, os.WriteFile(at, Schemas, 0o644))
	}
	d, err := desk.Open("d", filepath.Join(top, "home"), filepath.Join(top, "system"), "/home/me")
	must(t, err)
	d.Env = map[string]string{}
	d.SetSurfaces(append(desk.Builtin(), surfaces...))
	for _, line := range lines {
		if set, ok := strings.CutPrefix(line, "$ "); ok {
			for _, one := range strings.Fields(set) {
				name, value, _ := strings.Cut(one, "=")
				d.Env[name] = value
			}
		}
	}
	return d
}

var owner = regexp.MustCompile(`^org\.\w+\.`)

// owners are whose the schemas are that toolkits ask, with the dot behind it.
func owners() string {
	for _, s := range desk.Builtin() {
		for _, f := range s.Facets {
			for _, src := range f.Sources {
				if of := owner.FindString(src.Group); of != "" {
					return of
				}
			}
		}
	}
	panic("no descriptor asks a schema")
}

// Short is a text in which names of GLib's settings stand without whose they are, for what is
// written down.
func Short(text string) string { return strings.ReplaceAll(text, owners(), "…") }

func must(t *testing.T, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}
