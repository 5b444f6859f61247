package reading

import (
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"math"
	"net/url"
	"path"
	"slices"
	"strconv"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/gtkrc"
	"ivelt/core/keyfile"
	"ivelt/core/layout"
	"ivelt/core/say"
	"ivelt/core/settingsfile"
	"ivelt/core/xresources"
)

// Ask asks a source of a surface: each of its files in order, or what stands
// in no file. A source that names the facet comes back as Wins.
func Ask(d *desk.Desk, s desk.Surface, f desk.Facet, src desk.Source) []Link {
	if src.On != "" && d.Display() != src.On {
		only := say.Of("reading/step/asked-on-x-only")
		if src.On == "wayland" {
			only = say.Of("reading/step/asked-under-a-compositor-only")
		}
		return []Link{Link{Origin: originOf(src), State: NotAsked}.noted(only)}
	}
	if src.Shade != "" && Shade(d) != src.Shade {
		return []Link{Link{Origin: originOf(src), State: NotAsked}.noted(say.Of("reading/step/asked-in-that-shade-only", src.Shade))}
	}
	switch src.Format {
	case "env":
		return []Link{askVariable(d, f, src)}
	case "xsettings":
		return []Link{askProvider(d, f, src)}
	case "gsettings":
		return askSettings(d, f, src)
	case "fontconfig":
		return askFonts(d, f, src)
	case "follows":
		return follow(d, s, f, src)
	}
	if src.Format == "xresources" && src.Path == "" {
		return []Link{askLoaded(d, f, src)}
	}
	var out []Link
	for _, p := range Places(d, s, src) {
		out = append(out, ask(d, f, src, p))
	}
	return out
}

// Shade is the shade that the desktop's settings ask for, "" where they ask for none.
func Shade(d *desk.Desk) string {
	s, ok := d.Surface("settings")
	f, has := s.Facet(desk.FacetDark)
	if !ok || !has {
		return ""
	}
	return Told(d, s, f).Value
}

func originOf(src desk.Source) Origin {
	switch src.Format {
	case "env":
		return Origin{Kind: "env", Key: src.Key}
	case "xsettings":
		return Origin{Kind: "setting", Key: src.Key}
	case "gsettings":
		return Origin{Kind: "setting", Key: src.Group + " " + src.Key}
	case "follows":
		return Origin{Kind: "env", Key: src.Path}
	}
	return Origin{Kind: "file", Path: src.Path, Key: src.Key}
}

// Places are the files of a source, existing or not. "{theme}" is the folder of the sheet that
// the surface wears.
func Places(d *desk.Desk, s desk.Surface, src desk.Source) []string {
	rest, ok := strings.CutPrefix(src.Path, "{theme}")
	if !ok && strings.HasSuffix(src.Path, "*") { // each of a folder's, the last first
		found := glob(d, src.Path)
		slices.Reverse(found)
		return found
	}
	if !ok {
		return d.Expand(inFacets(d, s, src.Path, nil))
	}
	f, ok := s.Facet(desk.FacetWidgets)
	if !ok {
		return nil
	}
	if p := InTheme(d, s, "{theme}"+rest, toldWithout(d, s, f, "{theme}"), inTheDark(d, s)); p != "" {
		return []string{p}
	}
	return nil
}

// glob lists the paths of a pattern.
func glob(d *desk.Desk, pattern string) []string {
	return slices.Clone(desk.Once(d, "glob "+pattern, func() []string {
		found, _ := fs.Glob(d.Tree(), desk.Name(pattern))
		for i := range found {
			found[i] = desk.Path(found[i])
		}
		return found
	}))
}

// InTheme is the file that a source in "{theme}" has with a theme; "" if the
// surface does not find that theme.
func InTheme(d *desk.Desk, s desk.Surface, place, theme string, dark bool) string {
	f, _ := s.Facet(desk.FacetWidgets)
	sheet, _, err := FindSheet(d, f.Lookup, theme, dark)
	if err != nil || sheet == "" {
		return ""
	}
	return path.Join(path.Dir(sheet), strings.TrimPrefix(place, "{theme}"))
}

// toldWithout is what a surface is told by sources that are not in a place.
func toldWithout(d *desk.Desk, s desk.Surface, f desk.Facet, place string) string {
	f.Sources = slices.DeleteFunc(slices.Clone(f.Sources), func(src desk.Source) bool { return strings.HasPrefix(src.Path, place) })
	f.Loaded = nil
	return Told(d, s, f).Value
}

// heard fills in what a source says, in Ivelt's words; what the program passes
// over leaves it silent.
func (step Link) heard(f desk.Facet, src desk.Source, raw string) Link {
	raw = sideOf(src, raw)
	if src.Values != nil {
		f.Values = src.Values
	}
	if src.Rename != nil {
		raw = renamed(raw, src.Rename)
	}
	if src.URI && raw != "" {
		file, ok := fileOf(raw)
		if !ok {
			step.State = Silent
			step.say(say.Of("reading/step/nothing-understands-passed-over", raw))
			return step
		}
		raw = file
	}
	if slices.Contains(src.Leaves, raw) {
		step.State = Silent
		step.say(say.Of("reading/step/says-leaves-next", raw))
		return step
	}
	if n, err := strconv.ParseFloat(strings.TrimSpace(raw), 64); err == nil && src.Scale != 0 {
		raw = strconv.FormatFloat(math.Round(n*src.Scale), 'f', -1, 64)
	}
	if n, err := strconv.ParseInt(raw, 10, 64); err == nil && src.Clamp && f.Number != nil {
		raw = strconv.FormatInt(min(max(n, f.Number.Least), f.Number.Most), 10)
	}
	var ok bool
	if step.Value, ok = Word(f, raw); !ok {
		step.State = Silent
		step.say(say.Of("reading/step/nothing-understands-passed-over", step.Value))
		return step
	}
	step.State = Wins
	return step
}

// fileOf is the path of a file that a URI names (RFC 8089).
func fileOf(uri string) (string, bool) {
	u, err := url.Parse(uri)
	if err != nil || u.Scheme != "file" || u.Host != "" && u.Host != "localhost" || !path.IsAbs(u.Path) || u.RawQuery != "" {
		return "", false
	}
	return path.Clean(u.Path), true
}

// renamed makes the words of a list, which colons and commas part, the program's
// own; what it does not know, and what comes after a second colon, is left out
// (translate_wm_button_layout_to_gtk, gdkscreen-wayland.c of GTK 3.24).
func renamed(list string, names map[string]string) string {
	var sides []string
	for i, side := range strings.Split(list, ":") {
		if i == 2 {
			break
		}
		var words []string
		for word := range strings.SplitSeq(side, ",") {
			if own, ok := names[word]; ok {
				words = append(words, own)
			}
		}
		sides = append(sides, strings.Join(words, ","))
	}
	return strings.Join(sides, ":")
}

// askVariable reads a variable of the session's environment.
func askVariable(d *desk.Desk, f desk.Facet, src desk.Source) Link {
	step := Link{Origin: originOf(src), State: Silent}
	v, ok := d.Var(src.Key)
	if !ok || v.Value == "" {
		return step
	}
	step.Path, step.Line = v.File, v.Line
	return step.heard(f, src, v.Value)
}

// sideOf is what of a value a source takes, see [desk.Source].
func sideOf(src desk.Source, value string) string {
	before, after, _ := strings.Cut(value, ":")
	switch src.Side {
	case "before":
		return before
	case "after":
		return after
	}
	return value
}

// askProvider reads what a provider of XSETTINGS has on the display.
func askProvider(d *desk.Desk, f desk.Facet, src desk.Source) Link {
	step := Link{Origin: originOf(src), State: Silent}
	held := d.Now().XSettings
	if held == nil {
		step.State = Absent
		step.say(say.Of("reading/step/no-provider-xsettings-known-display"))
		return step
	}
	v, ok := held[src.Key]
	if !ok {
		return step
	}
	switch v := v.(type) {
	case string:
		if f.Number != nil {
			step.say(say.Of("reading/step/no-number-passed-over", v))
			return step
		}
		return step.heard(f, src, v)
	case int32:
		if f.Number == nil && f.Values == nil && src.Values == nil {
			step.say(say.Of("reading/step/number-passed-over", v))
			return step
		}
		return step.heard(f, src, strconv.Itoa(int(v)))
	}
	step.say(say.Of("reading/step/colour-nothing-understands-passed-over"))
	return step
}

// askLoaded reads the X resources that are loaded on the display.
func askLoaded(d *desk.Desk, f desk.Facet, src desk.Source) Link {
	step := Link{Origin: Origin{Kind: "setting", Key: src.Key}, State: Silent}
	loaded := d.Now().Resources
	if loaded == nil {
		step.State = Absent
		step.say(say.Of("reading/step/what-loaded-display-not-known"))
		return step
	}
	if e, ok := xresources.Lookup(loaded, src.Key); ok {
		return step.heard(f, src, e.Value)
	}
	return step
}

// ask reads one source file.
func ask(d *desk.Desk, f desk.Facet, src desk.Source, p string) Link {
	step := Link{Origin: Origin{Kind: "file", Path: p, Key: src.Key}}
	b, err := d.Tree().ReadSettings(desk.Name(p))
	switch {
	case errors.Is(err, fs.ErrNotExist):
		step.State = Absent
		return step
	case err != nil:
		step.State, step.Note = Broken, reason(err)
		return step
	}
	step.State = Silent
	switch src.Format {
	case "gtkrc":
		return askResource(d, f, src, step)
	case "xresources":
		e, ok := xresources.Lookup(b, src.Key)
		if !ok {
			return step
		}
		step.Line = e.Line
		return step.heard(f, src, e.Value)
	}
	if src.Format == "css" {
		return askSheet(f, src, step, b)
	}
	if form := settingsfile.Form(src.Format); slices.Contains(settingsfile.Forms(), form) {
		values, err := settingsfile.Parse(form, b)
		if err != nil {
			step.State, step.Note = Broken, err.Error()
			return step
		}
		v, ok := settingsfile.Lookup(values, src.Group, src.Key)
		if !ok {
			return step
		}
		step.Line = v.Line
		return step.heard(f, src, v.Text)
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
		return step
	}
	step.Line = e.Line
	return step.heard(f, src, keyfile.Unescape(e.Value))
}

// askSheet reads a colour that a style sheet names.
func askSheet(f desk.Facet, src desk.Source, step Link, b []byte) Link {
	for _, def := range gtkcss.Definitions(b) {
		if def.Name == src.Key {
			step.Line = def.Line
		}
	}
	if step.Line == 0 {
		return step
	}
	c, ok := gtkcss.Parse(b, 4).Colour(src.Key)
	if !ok {
		step.say(say.Of("reading/step/names-colour-not-this-sheet"))
		return step
	}
	return step.heard(f, src, fmt.Sprintf("#%02x%02x%02x", int(c.R*255+0.5), int(c.G*255+0.5), int(c.B*255+0.5)))
}

// askResource reads a resource file of GTK 2 with what it includes.
func askResource(d *desk.Desk, f desk.Facet, src desk.Source, step Link) Link {
	file, err := gtkrc.Load(d.Tree(), desk.Name(step.Path))
	if err != nil {
		step.State, step.Note = Broken, reason(err)
		return step
	}
	if len(file.Notes) > 0 {
		step.say(say.Of("reading/step/at-line", file.Notes[0].Line, file.Notes[0].Text))
	}
	for _, set := range slices.Backward(file.Settings) {
		if set.Key != src.Key {
			continue
		}
		said := Link{Origin: Origin{Kind: "file", Path: desk.Path(set.File), Line: set.Line, Key: src.Key}}.heard(f, src, set.Value)
		if said.State == Wins {
			return said
		}
		step.Note = said.Note
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
	if info, known := desk.FacetOf(f.Name); f.Strict && known && info.Accepts(raw) != nil {
		return raw, false
	}
	if _, lost := f.Nearest(raw); lost != nil {
		return raw, false
	}
	if f.Values == nil {
		return raw, true
	}
	said := strings.TrimRight(raw, " \t")
	for word, written := range f.Values {
		if slices.ContainsFunc(written, func(w string) bool { return w == said || f.Fold && strings.EqualFold(w, said) }) {
			return word, true
		}
	}
	return raw, false
}

// Written is how a source says Ivelt's word for a value.
func Written(f desk.Facet, src desk.Source, word string) string {
	if src.Values != nil {
		f.Values = src.Values
	}
	if written := f.Values[word]; len(written) > 0 {
		return written[0]
	}
	if n, err := strconv.ParseFloat(word, 64); err == nil && src.Scale != 0 {
		return strconv.FormatFloat(n/src.Scale, 'f', -1, 64)
	}
	if src.URI && path.IsAbs(word) {
		return (&url.URL{Scheme: "file", Path: word}).String()
	}
	if f.Sizeless {
		word, _ = desk.SplitFont(word)
	}
	if src.Rename != nil {
		back := map[string]string{}
		for theirs, own := range src.Rename {
			back[own] = theirs
		}
		return renamed(word, back)
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
	return strings.EqualFold(one, other) && (size == otherSize || f.Sizeless)
}

// Check says why a surface could not follow a value, nil if it could.
func Check(d *desk.Desk, s desk.Surface, f desk.Facet, want string) error {
	if f.Values != nil && f.Values[want] == nil {
		return &ValueError{Known: strings.Join(slices.Sorted(maps.Keys(f.Values)), " and ")}
	}
	if _, ok := Word(f, want); f.Number != nil && !ok {
		return &ValueError{Known: fmt.Sprintf("%d to %d", f.Number.Least, f.Number.Most)}
	}
	if f.Fixed && !Same(f, f.Default, want) {
		info, _ := desk.FacetOf(f.Name)
		return &ValueError{Always: info.Says(f.Default).String()}
	}
	if nearest, lost := f.Nearest(want); lost != nil {
		return &ValueError{Lost: lost, Nearest: nearest}
	}
	if f.Lookup.Kind == "" {
		return nil
	}
	_, err := Find(d, f.Lookup, want)
	if err == nil && f.Lookup.Kind == "login" {
		err = CheckSession(d, s)
	}
	return err
}

// ValueError: the program knows other values only.
type ValueError struct {
	Known   string
	Always  string        // it has this, whatever anybody says
	Lost    []layout.Loss // of a layout: what it does not take
	Nearest string        // and what it takes that comes nearest
}

func (e *ValueError) Error() string {
	return e.Says().String()
}

// Says is the error as a message.
func (e *ValueError) Says() say.Message {
	if e.Lost != nil {
		return NotTaken(e.Lost)
	}
	if e.Always != "" {
		return say.Line("it always has %s", e.Always)
	}
	return say.Line("only %s are known", e.Known)
}

// Quoted is a value in quotes, and nothing as "nothing".
func Quoted(value string) string {
	if value == "" {
		return "nothing"
	}
	return strconv.Quote(value)
}

func reason(err error) string {
	var pe *fs.PathError
	if errors.As(err, &pe) {
		return pe.Err.Error()
	}
	return err.Error()
}
