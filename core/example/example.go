// Package example holds a surface's descriptor against examples beside it: small desks, each
// with what the surface shows there.
//
// A descriptor lies in a folder with examples/NAME/readings.toml, and beside each of those
// home and system, the files of that desk. Readings are compared, and what a plan would write
// is read again.
package example

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/pelletier/go-toml/v2"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/core/reading"
	"ivelt/core/regular"
	"ivelt/core/say"
	"ivelt/core/tomlfile"
)

// Names of what lies in a descriptor's folder.
const (
	Folder   = "examples"
	Readings = "readings.toml"
)

// home is where the home of each example stands on its desk.
const home = "/home/me"

// maxExamples of one descriptor are looked at.
const maxExamples = 64

// Want is what a surface is to show for a facet.
type Want struct {
	Value   string `toml:"value"`
	From    string `toml:"from,omitempty"`    // the file that decides, the home as "~"; "" for any
	Line    int    `toml:"line,omitempty"`    // in it
	Problem string `toml:"problem,omitempty"` // the code of what keeps it from showing that
}

// file is a readings.toml.
type file struct {
	About     string            `toml:"about"`
	Variables map[string]string `toml:"variables"` // of the session
	Reading   map[string]Want   `toml:"reading"`
}

// Failure is something that is not as an example says.
type Failure struct {
	Example string `json:"example"`
	Facet   string `json:"facet,omitempty"`
	Text    string `json:"text"`
}

// Result is what came of a descriptor.
type Result struct {
	Path     string    `json:"path"` // of the descriptor
	Surface  string    `json:"surface"`
	Title    string    `json:"title"`
	Examples int       `json:"examples"`
	Readings int       `json:"readings"` // that were compared
	Written  int       `json:"written"`  // values that a plan wrote, and that were read again
	Failures []Failure `json:"failures"`
	Untold   []string  `json:"untold"` // facets that no example shows
}

// ErrNone: there is no descriptor with examples in a folder.
var ErrNone = errors.New("no descriptor with examples")

// Find lists the descriptors at or below a host folder that have examples beside them.
func Find(ctx context.Context, dir string) (out []string, err error) {
	err = filepath.WalkDir(dir, func(at string, e fs.DirEntry, err error) error {
		switch {
		case ctx.Err() != nil:
			return ctx.Err()
		case err != nil:
			return err
		case e.IsDir() && e.Name() == Folder:
			return fs.SkipDir
		case e.IsDir() || filepath.Ext(at) != ".toml":
			return nil
		}
		if fi, err := os.Stat(filepath.Join(filepath.Dir(at), Folder)); err != nil || !fi.IsDir() {
			return nil
		}
		if b, err := regular.Read(at, tomlfile.MaxBytes); err == nil && desk.IsDescriptor(b) {
			out = append(out, at)
		}
		return nil
	})
	if err == nil && len(out) == 0 {
		err = say.Errorf("%s: %w", dir, ErrNone)
	}
	return out, err
}

// Run holds the descriptor in a file against the examples beside it. came asks of it what is
// asked of one that comes from others. An error is about the descriptor or the files; what is
// otherwise than the examples say is in the result.
func Run(ctx context.Context, at string, came bool) (Result, error) {
	out := Result{Path: at, Failures: []Failure{}, Untold: []string{}}
	b, err := regular.Read(at, tomlfile.MaxBytes)
	if err != nil {
		return out, err
	}
	s, err := desk.ParseSurface(b)
	if err == nil && came {
		err = errors.Join(s.Overreach(&desk.Desk{HomePath: home})...)
	}
	if err != nil {
		return out, err
	}
	out.Surface, out.Title = s.ID, s.Title
	folder := filepath.Join(filepath.Dir(at), Folder)
	entries, err := os.ReadDir(folder)
	if err != nil {
		return out, err
	}
	if len(entries) > maxExamples {
		return out, say.Errorf("%s has more than %d examples", folder, maxExamples)
	}
	empty, err := os.MkdirTemp("", "ivelt-example-")
	if err != nil {
		return out, err
	}
	defer os.RemoveAll(empty)
	var all []one
	for _, e := range entries {
		if !e.IsDir() {
			continue
		}
		x, err := open(filepath.Join(folder, e.Name()), empty, s)
		if err != nil {
			return out, say.Errorf("%s: %w", e.Name(), err)
		}
		all = append(all, x)
	}
	if len(all) == 0 {
		return out, say.Errorf("%s: %w", at, ErrNone)
	}
	shown := map[string][]string{} // values that examples show, by facet
	for _, x := range all {
		if err := ctx.Err(); err != nil {
			return out, err
		}
		out.Examples++
		x.compare(s, &out)
		for facet, want := range x.Reading {
			if want.Problem == "" && want.Value != "" && !slices.Contains(shown[facet], want.Value) {
				shown[facet] = append(shown[facet], want.Value)
			}
		}
	}
	for _, f := range s.Facets {
		if !slices.ContainsFunc(all, func(x one) bool { _, ok := x.Reading[f.Name]; return ok }) {
			out.Untold = append(out.Untold, f.Name)
		}
		info, _ := desk.FacetOf(f.Name)
		for _, word := range info.Words {
			if f.Values[word] != nil && !slices.Contains(shown[f.Name], word) {
				shown[f.Name] = append(shown[f.Name], word)
			}
		}
	}
	for _, x := range all {
		if err := x.writeAndRead(ctx, s, shown, &out); err != nil {
			return out, say.Errorf("%s: %w", x.name, err)
		}
	}
	return out, nil
}

// one is one example.
type one struct {
	file
	name string
	d    *desk.Desk
}

// open is the example in a folder. empty stands for a home or a system that it does not have.
func open(dir, empty string, s desk.Surface) (one, error) {
	x := one{name: filepath.Base(dir)}
	b, err := regular.Read(filepath.Join(dir, Readings), tomlfile.MaxBytes)
	if err != nil {
		return x, err
	}
	if err := tomlfile.Strict(b, &x.file); err != nil {
		return x, say.Errorf("%s: %w", Readings, err)
	}
	if len(x.Reading) == 0 {
		return x, say.Errorf("%s says no reading", Readings)
	}
	for facet := range x.Reading {
		if _, ok := s.Facet(facet); !ok {
			return x, say.Errorf("%s: %s has no facet %q", Readings, s.ID, facet)
		}
	}
	var parts []string
	for _, part := range []string{"home", "system"} {
		if parts = append(parts, filepath.Join(dir, part)); !isFolder(parts[len(parts)-1]) {
			parts[len(parts)-1] = empty
		}
	}
	if x.d, err = desk.Open("example", parts[0], parts[1], home); err != nil {
		return x, err
	}
	x.d.Env = x.Variables
	x.d.SetSurfaces(append(slices.DeleteFunc(desk.Builtin(), func(have desk.Surface) bool { return have.ID == s.ID }), s))
	return x, nil
}

func isFolder(at string) bool {
	fi, err := os.Lstat(at)
	return err == nil && fi.IsDir()
}

// compare reads what an example says.
func (x one) compare(s desk.Surface, out *Result) {
	d := x.d.Snapshot()
	for _, facet := range slices.Sorted(maps.Keys(x.Reading)) {
		want := x.Reading[facet]
		f, _ := s.Facet(facet)
		r := reading.Of(d, s, f)
		out.Readings++
		failed := func(format string, args ...any) {
			out.Failures = append(out.Failures, Failure{x.name, facet, fmt.Sprintf(format, args...)})
		}
		if !reading.Same(f, r.Value, want.Value) {
			failed("it reads %s, and is to be %s", reading.Quoted(r.Value), reading.Quoted(want.Value))
			continue
		}
		if from := d.Show(r.Source.Path); want.From != "" && from != want.From || want.Line > 0 && r.Source.Line != want.Line {
			failed("it comes from %s:%d, and is to come from %s:%d", from, r.Source.Line, want.From, want.Line)
		}
		problem := ""
		if r.Problem != nil {
			problem = string(r.Problem.Code)
		}
		if problem != want.Problem {
			failed("what keeps it from showing %s is %s, and is to be %s", reading.Quoted(r.Value), reading.Quoted(problem), reading.Quoted(want.Problem))
		}
	}
}

// writeAndRead plans each value that some example shows on this desk, and reads what comes of
// it. A value that the desk could not follow is left out.
func (x one) writeAndRead(ctx context.Context, s desk.Surface, shown map[string][]string, out *Result) error {
	for _, f := range s.Facets {
		if !slices.ContainsFunc(f.Sources, func(src desk.Source) bool { return src.Write }) {
			continue
		}
		for _, want := range shown[f.Name] {
			if reading.Check(x.d, s, f, want) != nil || reading.Same(f, reading.Told(x.d, s, f).Value, want) {
				continue
			}
			p, err := planning.Dress(ctx, x.d, outfit.Outfit{Name: "example"}.With(f.Name, want))
			if err != nil {
				return err
			}
			if slices.ContainsFunc(p.Blocked, func(b plan.Blocked) bool { return b.Surface == s.ID }) {
				continue
			}
			got, err := x.after(p, s, f)
			if err != nil {
				return err
			}
			out.Written++
			if !reading.Same(f, got, want) {
				out.Failures = append(out.Failures, Failure{x.name, f.Name, fmt.Sprintf("a plan sets it to %s, and it then reads %s", reading.Quoted(want), reading.Quoted(got))})
			}
		}
	}
	return nil
}

// after reads a facet as it would be once a plan is carried out, as far as it is about the
// surface.
func (x one) after(p plan.Plan, s desk.Surface, f desk.Facet) (string, error) {
	front, err := os.MkdirTemp("", "ivelt-example-")
	if err != nil {
		return "", err
	}
	defer os.RemoveAll(front)
	for _, op := range p.Ops {
		if op.Kind != plan.Write || op.Surface != s.ID {
			continue
		}
		at := filepath.Join(front, filepath.FromSlash(op.Path))
		if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil {
			return "", err
		}
		if err := os.WriteFile(at, op.Content, 0o644); err != nil {
			return "", err
		}
	}
	return reading.Told(x.d.Laid(front, nil), s, f).Value, nil
}

// Write writes a descriptor with one example into a host folder that is not there yet, as
// somebody else is handed it: what the surface shows on the desk now, in files with the
// values that are read, and nothing else of what stands in them. It returns the facets that
// could not be shown so, with why.
func Write(ctx context.Context, d *desk.Desk, s desk.Surface, descriptor []byte, dir, name string) (left map[string]string, err error) {
	left = map[string]string{}
	if err := errors.Join(s.Overreach(d)...); err != nil {
		return left, err
	}
	if err := os.Mkdir(dir, 0o755); err != nil {
		return left, err
	}
	if err := os.WriteFile(filepath.Join(dir, s.ID+".toml"), descriptor, 0o644); err != nil {
		return left, err
	}
	at := filepath.Join(dir, Folder, name)
	for _, sub := range []string{"home", "system"} {
		if err := os.MkdirAll(filepath.Join(at, sub), 0o755); err != nil {
			return left, err
		}
	}
	room, err := desk.Open("example", filepath.Join(at, "home"), filepath.Join(at, "system"), home)
	if err != nil {
		return left, err
	}
	room.Env = map[string]string{}
	bare := s
	bare.Facets = slices.Clone(s.Facets)
	for i := range bare.Facets {
		bare.Facets[i].Lookup = desk.Lookup{} // no piece comes along
	}
	room.SetSurfaces([]desk.Surface{bare})
	wants := map[string]Want{}
	for _, f := range bare.Facets {
		value := reading.Told(d, s, f).Value
		info, _ := desk.FacetOf(f.Name)
		switch {
		case value == "":
			left[f.Name] = "it shows nothing"
			continue
		case info.Takes == desk.TakesPicture || strings.HasPrefix(value, "/"):
			left[f.Name] = "a path is yours alone"
			continue
		}
		if !reading.Same(f, reading.Told(room, bare, f).Value, value) {
			if err := give(ctx, room, f, value); err != nil {
				return left, err
			}
		}
		if r := reading.Told(room, bare, f); !reading.Same(f, r.Value, value) {
			left[f.Name] = "no file that a plan writes says so"
			continue
		}
		wants[f.Name] = Want{Value: value}
	}
	room.SetSurfaces(append(desk.Builtin(), s)) // lines are those of the whole file
	for _, f := range s.Facets {
		if w, ok := wants[f.Name]; ok {
			r := reading.Of(room, s, f)
			w.Value, w.From, w.Line = r.Value, room.Show(r.Source.Path), r.Source.Line
			if r.Source.Path == "" {
				w.From = ""
			}
			if r.Problem != nil {
				w.Problem = string(r.Problem.Code)
			}
			wants[f.Name] = w
		}
	}
	if len(wants) == 0 {
		return left, say.Errorf("%w: nothing of what %s shows can be written down so", ErrNone, s.Title)
	}
	text, err := toml.Marshal(file{About: "As it was on one desk.", Reading: wants})
	if err != nil {
		return left, err
	}
	return left, os.WriteFile(filepath.Join(at, Readings), text, 0o644)
}

// give has the one surface of a desk say a value, in the files of the desk.
func give(ctx context.Context, room *desk.Desk, f desk.Facet, value string) error {
	p, err := planning.Dress(ctx, room, outfit.Outfit{Name: "example"}.With(f.Name, value))
	if err != nil {
		return err
	}
	for _, op := range p.Ops {
		if op.Kind != plan.Write {
			continue
		}
		at := room.HostPath(op.Path)
		if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil {
			return err
		}
		if err := os.WriteFile(at, op.Content, 0o644); err != nil {
			return err
		}
	}
	return nil
}
