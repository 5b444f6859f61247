package learn

import (
	"bytes"
	_ "embed"
	"errors"
	"fmt"
	"maps"
	"math"
	"path"
	"slices"
	"strconv"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/reading"
	"ivelt/core/say"
	"ivelt/core/settingsfile"
	"ivelt/core/table"
)

//go:embed guesses.csv
var guessesCSV string

// guesses are facets by the words of keys that usually set them. Common practice, no
// source.
var guesses = table.Of(guessesCSV)

// ofKind are what facets are called on surfaces of a kind.
var ofKind = map[string]map[string]string{
	"shell":    {desk.FacetWidgets: desk.FacetBar},
	"readout":  {desk.FacetWidgets: desk.FacetNotices},
	"login":    {desk.FacetWidgets: desk.FacetLogin, desk.FacetBackdrop: desk.FacetLoginGround, desk.FacetIcons: desk.FacetLoginIcons, desk.FacetPointer: desk.FacetLoginPointer, desk.FacetPointerSize: desk.FacetLoginSize, desk.FacetFont: desk.FacetLoginFont},
	"terminal": {desk.FacetWidgets: desk.FacetPalette, desk.FacetDark: desk.FacetPalette, desk.FacetOpacity: desk.FacetGround, desk.FacetBlur: desk.FacetGroundBlur, desk.FacetFont: desk.FacetFontMono},
}

// Guess is the facet that a change most likely is of, by its key and by what it says, on
// a surface of a kind; "" if nothing tells.
func Guess(d *desk.Desk, kind string, c Change) string {
	facet := guess(d, c)
	if own := ofKind[kind][facet]; own != "" {
		return own
	}
	return facet
}

func guess(d *desk.Desk, c Change) string {
	size := false
	facet := ""
	for _, w := range append(wordsOf(c.Key), wordsOf(c.Group)...) {
		size = size || w == "size"
		if facet == "" {
			facet = guesses[w]
		}
	}
	_, err := strconv.ParseFloat(c.To, 64)
	switch {
	case size && err == nil && facet == desk.FacetPointer:
		return desk.FacetPointerSize
	case size && err == nil && facet == desk.FacetIcons:
		return desk.FacetIconSize
	case facet == desk.FacetWidgets && found(d, desk.FacetIcons, c.To) && !found(d, desk.FacetWidgets, c.To):
		return desk.FacetIcons
	case facet == "" && found(d, desk.FacetIcons, c.To):
		return desk.FacetIcons
	case facet == "" && strings.HasPrefix(c.To, "/"):
		return desk.FacetBackdrop
	}
	return facet
}

// found tells whether a name is that of a piece that some surface finds for a facet.
func found(d *desk.Desk, facet, name string) bool {
	return name != "" && slices.ContainsFunc(d.Surfaces(), func(s desk.Surface) bool {
		f, ok := s.Facet(facet)
		if !ok || f.Lookup.Kind == "" || slices.Contains(f.Lookup.BuiltIn, name) {
			return false
		}
		_, err := reading.Find(d, f.Lookup, name)
		return err == nil
	})
}

// Lesson is one change, and what it was.
type Lesson struct {
	Change
	Facet string
	// Words are Ivelt's words for what the program says, by what it says: {"1": "dark"}.
	// Facets whose values are words need them.
	Words map[string]string
}

// Needs tells whether a facet's values have to be told in Ivelt's words, and which there
// are.
func Needs(facet string) (words []string, needed bool) {
	info, ok := desk.FacetOf(facet)
	return info.Words, ok && (info.Takes == desk.TakesShade || info.Takes == desk.TakesWord)
}

var (
	// ErrLesson: what was learned cannot be told by a descriptor.
	ErrLesson = errors.New("cannot be told")
)

// Check says why a lesson cannot be told, nil if it can.
func (l Lesson) Check() error {
	_, err := l.facet(nil)
	return err
}

// facet is the part of a descriptor that tells of a lesson.
func (l Lesson) facet(d *desk.Desk) (string, error) {
	info, ok := desk.FacetOf(l.Facet)
	switch {
	case !ok:
		return "", say.Errorf("%w: there is no facet %q", ErrLesson, l.Facet)
	case l.Gone:
		return "", say.Errorf("%w: the program took %s out; set it to something else than its default", ErrLesson, l.Key)
	}
	var b strings.Builder
	line := func(key string, value any) { fmt.Fprintf(&b, "%s = %s\n", key, tomlValue(value)) }
	b.WriteString("\n[[facet]]\n")
	line("name", l.Facet)
	shows := l.To
	src := desk.Source{}
	switch needed, is := Needs(l.Facet); {
	case is:
		values := map[string][]string{}
		for says, word := range l.Words {
			if !slices.Contains(needed, word) {
				return "", say.Errorf("%w: %q is none of %s", ErrLesson, word, strings.Join(needed, ", "))
			}
			values[word] = append(values[word], says)
		}
		if l.Words[l.To] == "" {
			return "", say.Errorf("%w: say what %q means: %s", ErrLesson, l.To, strings.Join(needed, ", "))
		}
		shows = l.Words[l.To]
		for _, word := range slices.Sorted(maps.Keys(values)) {
			slices.Sort(values[word])
		}
		if l.From != "" && l.Words[l.From] != "" {
			line("default", l.Words[l.From])
		}
		var rows []string
		for _, word := range slices.Sorted(maps.Keys(values)) {
			rows = append(rows, word+" = "+tomlValue(values[word]))
		}
		fmt.Fprintf(&b, "values = { %s }\n", strings.Join(rows, ", "))
	case info.Takes == desk.TakesNumber:
		n, err := strconv.ParseFloat(l.To, 64)
		if err != nil {
			return "", say.Errorf("%w: %s is a number, not %q", ErrLesson, say.Lower(info.Title), l.To)
		}
		if info.Unit == "%" && (strings.Contains(l.To, ".") || n <= 1 && !isAbove(l.From, 1)) {
			src.Scale = 100
		}
		shows = strconv.FormatFloat(math.Round(n*max(src.Scale, 1)), 'f', -1, 64)
		fmt.Fprintf(&b, "number = { least = %d, most = %d }\n", info.Least, info.Most)
		line("strict", true)
	case info.Takes == desk.TakesFont:
		if _, size := desk.SplitFont(l.To); size == 0 {
			line("sizeless", true)
			shows += " 10"
		}
		line("default", l.From)
	case info.Takes == desk.TakesColour:
		line("strict", true)
	default:
		line("default", l.From)
	}
	if err := info.Accepts(shows); err != nil {
		return "", say.Errorf("%w: %w", ErrLesson, err)
	}
	line("evidence", "learned: it was changed in the program, and looked for")
	b.WriteString("\n[[facet.source]]\n")
	if d != nil {
		line("path", template(d, l.Path))
	}
	line("format", l.Format)
	if l.Group != "" {
		line("group", l.Group)
	}
	line("key", l.Key)
	if src.Scale != 0 {
		line("scale", int(src.Scale))
	}
	if like := l.like(d); like != "" {
		line("like", like)
	}
	line("write", true)
	kind, folders := lookup(l.Facet)
	if d != nil && kind != "" && (kind == "font" || kind == "picture" || found(d, l.Facet, l.To)) { // else it is the program's own name for something
		b.WriteString("\n[facet.lookup]\n")
		line("kind", kind)
		if l.From != "" && kind != "picture" && kind != "font" {
			line("built-in", []string{l.From}) // the program came with it
		}
		if len(folders) > 0 {
			line("folders", folders)
		}
	}
	return b.String(), nil
}

// like is the line of the program's that says it, so that others know how one is written.
func (l Lesson) like(d *desk.Desk) string {
	if d == nil || l.Format != string(settingsfile.Lines) || l.Line < 1 {
		return ""
	}
	text, err := d.Tree().ReadSettings(desk.Name(l.Path))
	lines := strings.Split(string(text), "\n")
	if err != nil || l.Line > len(lines) {
		return ""
	}
	like := strings.TrimSpace(lines[l.Line-1])
	if len(like) > 200 || !strings.Contains(like, l.Key) {
		return ""
	}
	return like
}

func isAbove(said string, most float64) bool {
	n, err := strconv.ParseFloat(said, 64)
	return err == nil && n > most
}

// lookup is where programs usually look for what a facet names, as the surfaces that
// every desk has do.
func lookup(facet string) (kind string, folders []string) {
	for _, s := range desk.Builtin() {
		if f, ok := s.Facet(facet); ok && f.Lookup.Kind != "" && f.Lookup.Kind != "theme" {
			return f.Lookup.Kind, f.Lookup.Folders
		}
	}
	if info, _ := desk.FacetOf(facet); info.Takes == desk.TakesPicture {
		return "picture", nil
	}
	return "", nil
}

// template is a path with the places in it that differ from desk to desk.
func template(d *desk.Desk, p string) string {
	for _, place := range []string{"{config}", "{data}", "{state}", "~"} {
		if rest, ok := strings.CutPrefix(p, d.First(place)+"/"); ok {
			return place + "/" + rest
		}
	}
	return p
}

// tomlValue writes a value as TOML.
func tomlValue(v any) string {
	switch v := v.(type) {
	case string:
		return settingsfile.Quoted(v)
	case []string:
		var all []string
		for _, s := range v {
			all = append(all, settingsfile.Quoted(s))
		}
		return "[" + strings.Join(all, ", ") + "]"
	}
	return fmt.Sprint(v)
}

// About is what the person says of the program.
type About struct {
	ID, Title string
	Kind      string // of a surface: shell, terminal …
	Restart   string // what has to start again: program, shell, session, machine
}

// Descriptor writes a surface's descriptor of what was learned. A descriptor that is
// there already, old, keeps its letters and gets what is new behind them; a facet that
// it tells of is not learned a second time.
func Descriptor(d *desk.Desk, about About, lessons []Lesson, old []byte) ([]byte, error) {
	if len(lessons) == 0 {
		return nil, say.Errorf("%w: nothing was learned", ErrLesson)
	}
	out := bytes.NewBuffer(bytes.Clone(old))
	known := map[string]bool{}
	if len(old) > 0 {
		s, err := desk.ParseSurface(old)
		if err != nil {
			return nil, say.Errorf("the descriptor that is there: %w", err)
		}
		if s.ID != about.ID {
			return nil, say.Errorf("%w: the descriptor that is there is of %s", ErrLesson, s.ID)
		}
		for _, f := range s.Facets {
			known[f.Name] = true
		}
		if !bytes.HasSuffix(old, []byte("\n")) {
			out.WriteByte('\n')
		}
	} else {
		fmt.Fprintf(out, "id = %s\ntitle = %s\nkind = %s\nrestart = %s\n", tomlValue(about.ID), tomlValue(about.Title), tomlValue(about.Kind), tomlValue(about.Restart))
	}
	for _, l := range lessons {
		if known[l.Facet] {
			return nil, say.Errorf("%w: %s is in the descriptor already; take it out there first", ErrLesson, say.Lower(desk.FacetTitle(l.Facet)))
		}
		known[l.Facet] = true
		text, err := l.facet(d)
		if err != nil {
			return nil, say.Errorf("%s: %w", path.Base(l.Path), err)
		}
		out.WriteString(text)
	}
	if _, err := desk.ParseSurface(out.Bytes()); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

// FileOf is where a person's own descriptor of a surface lies.
func FileOf(d *desk.Desk, id string) string {
	return d.First("{config}/ivelt/surfaces/" + id + ".toml")
}
