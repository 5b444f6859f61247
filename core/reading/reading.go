// Package reading tells what each surface of a desk shows for a facet, worked
// out the way the surface's own program does it: which sources it asks in
// which order, which of them decides, and where the name then leads on disk.
package reading

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"maps"
	"path"
	"slices"
	"strconv"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/fontbook"
	"ivelt/core/gtkrc"
	"ivelt/core/icontheme"
	"ivelt/core/imagefile"
	"ivelt/core/keyfile"
	"ivelt/core/xresources"
)

// Reading is what one surface shows for one facet.
type Reading struct {
	Surface  string   `json:"surface"`
	Facet    string   `json:"facet"`
	Value    string   `json:"value"`
	Source   Origin   `json:"source"`
	Resolved string   `json:"resolved"` // the piece's folder; "" if it is not found
	Pending  string   `json:"pending"`  // what has to start again for Value to show; "" if nothing
	Loaded   string   `json:"loaded,omitempty"`
	Chain    []Step   `json:"chain"` // strongest source first
	Problem  *Problem `json:"problem,omitempty"`
}

// Origin is where a value comes from.
type Origin struct {
	Kind string `json:"kind"` // file, env, setting, default
	Path string `json:"path,omitempty"`
	Line int    `json:"line,omitempty"` // 1-based
	Key  string `json:"key,omitempty"`
}

// State is what a source has to say.
type State string

const (
	Wins      State = "wins"
	Overruled State = "overruled"
	Silent    State = "silent" // it is there but does not name the facet
	Absent    State = "absent" // there is no such file
	Broken    State = "broken" // the program cannot read it and passes it over
)

// Step is one source of the chain.
type Step struct {
	Origin
	State State  `json:"state"`
	Value string `json:"value,omitempty"`
	Note  string `json:"note,omitempty"`
}

// Problem is what keeps a surface from showing what it was told.
type Problem struct {
	Code string `json:"code"` // name-not-found, broken-piece, broken-source
	Text string `json:"text"`
}

// All returns every reading of a desk, by surface and facet as the descriptors
// list them.
func All(d *desk.Desk) []Reading {
	out := []Reading{}
	for _, s := range d.Surfaces {
		for _, f := range s.Facets {
			out = append(out, Of(d, s, f))
		}
	}
	return out
}

// Of reads one facet of one surface.
func Of(d *desk.Desk, s desk.Surface, f desk.Facet) Reading {
	r := Told(d, s, f)
	resolve(d, s, f, &r)
	return r
}

// Told reads what a surface is told, and not where the name leads.
func Told(d *desk.Desk, s desk.Surface, f desk.Facet) Reading {
	r := Reading{Surface: s.ID, Facet: f.Name}
	decided := false
	for _, src := range f.Sources {
		for _, p := range places(d, src) {
			step := ask(d, f, src, p)
			switch {
			case step.State == Broken && !decided && r.Problem == nil:
				r.Problem = &Problem{"broken-source", fmt.Sprintf("%s passes over %s: %s.", s.Title, d.Show(p), step.Note)}
			case step.State != Wins:
			case decided:
				step.State = Overruled
			default:
				decided = true
				r.Value, r.Source = step.Value, step.Origin
			}
			r.Chain = append(r.Chain, step)
		}
	}
	last := Step{Origin: Origin{Kind: "default", Key: f.Name}, State: Overruled, Value: f.Default, Note: "what the program uses when nothing else is said"}
	if !decided {
		last.State = Wins
		r.Value, r.Source = f.Default, last.Origin
	}
	r.Chain = append(r.Chain, last)
	if f.Loaded != nil {
		pending(d, s, f, &r)
	}
	return r
}

// places are the files of a source; a variable stands in no place of its own.
func places(d *desk.Desk, src desk.Source) []string {
	if src.Format == "env" {
		return []string{""}
	}
	return d.Expand(src.Path)
}

// askVariable reads a variable of the session's environment.
func askVariable(d *desk.Desk, f desk.Facet, src desk.Source) Step {
	step := Step{Origin: Origin{Kind: "env", Key: src.Key}, State: Silent}
	v, ok := d.Var(src.Key)
	if !ok || v.Value == "" {
		return step
	}
	step.Path, step.Line = v.File, v.Line
	value := v.Value
	before, after, _ := strings.Cut(value, ":")
	switch src.Side {
	case "before":
		value = before
	case "after":
		value = after
	}
	if src.Values != nil {
		f.Values = src.Values
	}
	if step.Value, ok = Word(f, value); !ok {
		step.Note = fmt.Sprintf("%q is nothing it understands, and is passed over", step.Value)
		return step
	}
	step.State = Wins
	return step
}

// ask reads one source file. A source that names the facet comes back as Wins.
func ask(d *desk.Desk, f desk.Facet, src desk.Source, p string) Step {
	if src.Format == "env" {
		return askVariable(d, f, src)
	}
	step := Step{Origin: Origin{Kind: "file", Path: p, Key: src.Key}}
	b, err := fs.ReadFile(d.Tree(), desk.Name(p))
	switch {
	case errors.Is(err, fs.ErrNotExist):
		step.State = Absent
		return step
	case err != nil:
		step.State, step.Note = Broken, reason(err)
		return step
	}
	if src.Format == "gtkrc" {
		return askResource(d, f, src, step)
	}
	if src.Format == "xresources" {
		step.State = Silent
		e, ok := xresources.Lookup(b, src.Key)
		if !ok {
			return step
		}
		step.Line = e.Line
		if step.Value, ok = Word(f, e.Value); !ok {
			step.Note = fmt.Sprintf("%q is nothing it understands, and is passed over", step.Value)
			return step
		}
		step.State = Wins
		return step
	}
	kf, err := keyfile.Parse(b)
	if err != nil {
		step.State, step.Note = Broken, err.Error()
		var se *keyfile.SyntaxError
		if errors.As(err, &se) {
			step.Line = se.Line
		}
		return step
	}
	e, ok := kf.Lookup(src.Group, src.Key)
	if !ok {
		step.State = Silent
		return step
	}
	step.State, step.Line = Wins, e.Line
	if step.Value, ok = Word(f, keyfile.Unescape(e.Value)); !ok {
		step.State, step.Note = Silent, fmt.Sprintf("%q is nothing it understands, and is passed over", step.Value)
	}
	return step
}

// Word is Ivelt's word for what a program's file says of a facet. It is not ok
// if the program passes that over.
func Word(f desk.Facet, raw string) (string, bool) {
	if f.Number != nil {
		n, err := strconv.ParseInt(strings.TrimRight(raw, " \t"), 10, 32)
		if err != nil || n < f.Number.Least || n > f.Number.Most {
			return raw, false
		}
		return strconv.FormatInt(n, 10), true
	}
	if f.Values == nil {
		return raw, true
	}
	for word, written := range f.Values {
		if slices.Contains(written, strings.TrimRight(raw, " \t")) {
			return word, true
		}
	}
	return raw, false
}

// Written is how a program's file says Ivelt's word for a value.
func Written(f desk.Facet, word string) string {
	if written := f.Values[word]; len(written) > 0 {
		return written[0]
	}
	return word
}

// Same reports whether two values are one for the facet.
func Same(f desk.Facet, a, b string) bool {
	if f.Lookup.Kind != "font" {
		return a == b
	}
	one, size := desk.SplitFont(a)
	other, otherSize := desk.SplitFont(b)
	return strings.EqualFold(one, other) && size == otherSize
}

// Check says why a surface could not follow a value, nil if it could.
func Check(d *desk.Desk, s desk.Surface, f desk.Facet, want string) error {
	if f.Values != nil && f.Values[want] == nil {
		return &ValueError{strings.Join(slices.Sorted(maps.Keys(f.Values)), " and ")}
	}
	if _, ok := Word(f, want); f.Number != nil && !ok {
		return &ValueError{fmt.Sprintf("%d to %d", f.Number.Least, f.Number.Most)}
	}
	if f.Lookup.Kind == "" {
		return nil
	}
	_, err := Find(d, f.Lookup, want)
	return err
}

// ValueError: the program knows other values only.
type ValueError struct{ Known string }

func (e *ValueError) Error() string { return "only " + e.Known + " are known" }

// askResource reads a resource file of GTK 2 with what it includes.
func askResource(d *desk.Desk, f desk.Facet, src desk.Source, step Step) Step {
	file, err := gtkrc.Load(d.Tree(), desk.Name(step.Path))
	if err != nil {
		step.State, step.Note = Broken, reason(err)
		return step
	}
	step.State = Silent
	if len(file.Notes) > 0 {
		step.Note = fmt.Sprintf("line %d: %s", file.Notes[0].Line, file.Notes[0].Text)
	}
	for _, set := range slices.Backward(file.Settings) {
		if set.Key != src.Key {
			continue
		}
		value, ok := Word(f, set.Value)
		if ok {
			step.State, step.Path, step.Line, step.Value, step.Note = Wins, desk.Path(set.File), set.Line, value, ""
			return step
		}
		step.Note = fmt.Sprintf("%q is nothing it understands, and is passed over", set.Value)
	}
	return step
}

func reason(err error) string {
	var pe *fs.PathError
	if errors.As(err, &pe) {
		return pe.Err.Error()
	}
	return err.Error()
}

func resolve(d *desk.Desk, s desk.Surface, f desk.Facet, r *Reading) {
	if f.Lookup.Kind == "" {
		return
	}
	folder, err := Find(d, f.Lookup, r.Value)
	if err == nil {
		r.Resolved = folder
		return
	}
	if r.Problem != nil {
		return
	}
	what := map[string]string{"icon-theme": "an icon pack", "theme": "a theme for it", "pointer": "a pointer set", "font": "a font", "picture": "a picture"}[f.Lookup.Kind]
	if errors.Is(err, icontheme.ErrNoIndex) || errors.Is(err, ErrNotThere) {
		if f.Lookup.Kind == "font" {
			family, _ := desk.SplitFont(r.Value)
			r.Problem = &Problem{"name-not-found", fmt.Sprintf("No folder %s searches has a font named %q.", s.Title, family)}
			if face, ok := fontbook.Of(d, f.Lookup.Folders).Instead(d, family, 400, false); ok {
				r.Problem.Text = strings.TrimSuffix(r.Problem.Text, ".") + ": fontconfig takes " + face.Family() + " in its stead."
			}
			return
		}
		if f.Lookup.Kind == "picture" {
			r.Problem = &Problem{"name-not-found", fmt.Sprintf("%s is told a picture that is not there, %q.", s.Title, r.Value)}
			return
		}
		r.Problem = &Problem{"name-not-found", fmt.Sprintf("No folder %s searches has %s named %q.", s.Title, what, r.Value)}
		return
	}
	r.Problem = &Problem{"broken-piece", fmt.Sprintf("%q cannot be used: %v.", r.Value, err)}
}

// ErrNotThere: no folder that is searched has a piece of that name.
var ErrNotThere = errors.New("it is in no folder that is searched")

// Find returns the folder of the piece, or the file of the font or picture, that
// a lookup ends at by a name, as a path of the desk; "" for one that the program has in itself. Errors are those
// of [icontheme.Find], and [ErrNotThere].
func Find(d *desk.Desk, l desk.Lookup, name string) (string, error) {
	switch l.Kind {
	case "theme":
		part, err := FindTheme(d, l, name)
		if err != nil || part == "" {
			return "", err
		}
		return path.Dir(part), nil
	case "pointer":
		return FindPointer(d, l, name)
	case "font":
		if family, _ := desk.SplitFont(name); slices.ContainsFunc(l.BuiltIn, func(kind string) bool { return strings.EqualFold(kind, family) }) {
			if face, ok := fontbook.Of(d, l.Folders).Instead(d, family, 400, false); ok {
				return desk.Path(face.File), nil
			}
			return "", nil
		}
		if face, ok := fontbook.Of(d, l.Folders).Setting(name); ok {
			return desk.Path(face.File), nil
		}
		return "", ErrNotThere
	case "picture":
		return findPicture(d, l, name)
	}
	return FindIcons(d, l, name)
}

// ErrNoPicture: the file is none that a browser shows either.
var ErrNoPicture = errors.New("it is no PNG, JPEG or SVG")

func findPicture(d *desk.Desk, l desk.Lookup, name string) (string, error) {
	if slices.Contains(l.BuiltIn, name) {
		return "", nil
	}
	f, err := d.Tree().Open(desk.Name(name))
	if err != nil || !path.IsAbs(name) {
		return "", ErrNotThere
	}
	defer f.Close()
	head := make([]byte, 4096)
	n, err := io.ReadFull(f, head)
	if err != nil && !errors.Is(err, io.ErrUnexpectedEOF) || imagefile.MediaType(head[:n]) == "" {
		return "", ErrNoPicture
	}
	return path.Clean(name), nil
}

// FindPointer returns the folder of a pointer set, as a path of the desk; "" for
// the display's own.
func FindPointer(d *desk.Desk, l desk.Lookup, name string) (string, error) {
	if slices.Contains(l.BuiltIn, name) {
		return "", nil
	}
	if name == "" || strings.Contains(name, "/") {
		return "", ErrNotThere
	}
	for _, base := range d.Folders(l.Folders) {
		at := path.Join(base, name)
		if info, err := fs.Stat(d.Tree(), path.Join(at, "cursors")); err == nil && info.IsDir() {
			return desk.Path(at), nil
		}
	}
	return "", ErrNotThere
}

// FindTheme returns the part of a window theme that serves a surface, as a path
// of the desk; "" if the program has the theme in itself.
func FindTheme(d *desk.Desk, l desk.Lookup, name string) (string, error) {
	return findPart(d, l, name, l.File)
}

// FindSheet returns the file of a window theme that a surface wears, as a path
// of the desk; "" if the program has the theme in itself. In the dark it is the
// dark form, wherever among the folders that stands; without one GTK 3 wears the
// usual one, GTK 4 its own style (gtkcssprovider.c; seen in both).
func FindSheet(d *desk.Desk, l desk.Lookup, name string, dark bool) (file string, isDark bool, err error) {
	if dark && !slices.Contains(l.BuiltIn, name) {
		if part, err := findPart(d, l, name, DarkForm(l.File)); err == nil {
			return path.Join(part, DarkForm(l.File)), true, nil
		}
	}
	if _, err := FindTheme(d, l, name); dark && l.DarkOwn && err == nil {
		return "", false, nil
	}
	part, err := FindTheme(d, l, name)
	if err != nil || part == "" {
		return "", false, err
	}
	return path.Join(part, l.File), false, nil
}

func findPart(d *desk.Desk, l desk.Lookup, name, file string) (string, error) {
	if name == "" || strings.Contains(name, "/") {
		return "", ErrNotThere
	}
	if slices.Contains(l.BuiltIn, name) {
		return "", nil
	}
	for _, base := range d.Folders(l.Folders) {
		for _, part := range l.Parts {
			at := path.Join(base, name, part)
			if _, err := fs.Stat(d.Tree(), path.Join(at, file)); err == nil {
				return desk.Path(at), nil
			}
		}
	}
	return "", ErrNotThere
}

// DarkForm is the dark form of a theme's style sheet, "gtk-dark.css" beside
// "gtk.css" (GTK, gtkcssprovider.c).
func DarkForm(sheet string) string { return strings.TrimSuffix(sheet, ".css") + "-dark.css" }

// FindIcons returns the folder of the icon pack that a surface finds by a
// name, as a path of the desk. Errors are those of [icontheme.Find].
func FindIcons(d *desk.Desk, l desk.Lookup, name string) (string, error) {
	_, index, err := icontheme.Find(d.Tree(), d.Folders(l.Folders), name)
	if err != nil {
		return "", err
	}
	return desk.Path(index[:len(index)-len("/index.theme")]), nil
}

func pending(d *desk.Desk, s desk.Surface, f desk.Facet, r *Reading) {
	for _, p := range d.Expand(f.Loaded.Path) {
		step := ask(d, f, *f.Loaded, p)
		if step.State != Wins {
			continue
		}
		r.Loaded = step.Value
		if !Same(f, step.Value, r.Value) {
			r.Pending = s.Restart
		}
		return
	}
}

// IconIndex returns the icons a surface would find with the pack of that name.
func IconIndex(d *desk.Desk, l desk.Lookup, name string) *icontheme.Index {
	return icontheme.NewIndex(icontheme.Config{FS: d.Tree(), Bases: d.Folders(l.Folders), Theme: name, Also: l.Also})
}
