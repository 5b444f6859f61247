// Package gtkrc reads the resource files of GTK 2: its settings, and the styles
// that a theme gives to widgets. What an engine draws on its own is not in them.
//
// The rules are those of GTK 2.24's gtkrc.c, as "Resource Files" of its reference
// manual describes them.
package gtkrc

import (
	"fmt"
	"io/fs"
	"maps"
	"path"
	"slices"
	"strings"
)

// State of a widget.
type State int

// The states, in GTK's order.
const (
	Normal State = iota
	Active
	Prelight
	Selected
	Insensitive
)

var stateNames = []string{"NORMAL", "ACTIVE", "PRELIGHT", "SELECTED", "INSENSITIVE"}

// Widget is a widget in a window: its name and its type with all that it is
// derived from, its own first.
type Widget struct {
	Name  string
	Types []string
}

// Style is how a widget looks, as far as a resource file tells.
type Style struct {
	Fg, Bg, Text, Base     [5]Colour
	XThickness, YThickness int // px
	Font                   string
	Engine                 string
}

// usual is the style that GTK 2.24 has without any file (gtkstyle.c).
var usual = Style{
	Fg:   [5]Colour{{}, {}, {}, rgb8(255, 255, 255), rgb8(117, 117, 117)},
	Bg:   [5]Colour{rgb8(220, 218, 213), rgb8(196, 194, 189), rgb8(238, 235, 231), rgb8(75, 105, 131), rgb8(220, 218, 213)},
	Text: [5]Colour{{}, rgb8(255, 255, 255), {}, rgb8(255, 255, 255), rgb8(117, 117, 117)},
	Base: [5]Colour{rgb8(255, 255, 255), rgb8(156, 154, 148), rgb8(255, 255, 255), rgb8(75, 105, 131), rgb8(238, 235, 231)},

	XThickness: 2, YThickness: 2,
}

// own is what GTK 2.24 gives a few widgets before any file is read, as the library
// itself holds it.
const own = `
style "own tips" { bg[NORMAL] = "#eee1b3" fg[NORMAL] = "#000000" }
style "own progress" { bg[PRELIGHT] = "#4b6983" fg[PRELIGHT] = "#ffffff" bg[NORMAL] = "#c4c2bd" }
style "own entries" { bg[SELECTED] = "#b7c3cd" fg[SELECTED] = "#000000" }
style "own items" { bg[PRELIGHT] = "#4b6983" fg[PRELIGHT] = "#ffffff" base[PRELIGHT] = "#4b6983" text[PRELIGHT] = "#ffffff" }
class "GtkProgressBar" style : gtk "own progress"
class "GtkEntry" style : gtk "own entries"
widget "gtk-tooltip*" style : gtk "own tips"
widget_class "*<GtkMenuItem>*" style : gtk "own items"
`

// Note is something that does not count.
type Note struct {
	File string
	Line int
	Text string
}

// Setting is a value that a file sets.
type Setting struct {
	Key   string
	Value string
	File  string
	Line  int
}

// File is what resource files say together.
type File struct {
	Settings []Setting // in the order they stand: of equal keys the last that is understood counts
	Notes    []Note
	Files    []string // read, in order

	fsys    fs.FS
	styles  map[string]*style
	sets    []set
	open    []string
	scheme  map[string]Colour
	engines map[string]bool
	bytes   int // that were read
}

// Engines are the names of the programs that draw for the styles, sorted. One
// counts whether or not its style is given to any widget: GTK loads it.
func (f *File) Engines() []string { return slices.Sorted(maps.Keys(f.engines)) }

// style is what is told of a style; what is not told is nil.
type style struct {
	colours map[string]Colour   // "bg[NORMAL]" …
	named   []map[string]Colour // @name: its own, then those that it has from elsewhere
	x, y    *int
	font    string

	engine     string
	engineTold bool // it may be told to have none
}

// set gives a style to the widgets that a pattern fits.
type set struct {
	kind     string // widget, widget_class, class
	pattern  string
	style    *style
	priority int
}

// Priorities by which styles win (gtkrc.h).
var priorities = map[string]int{"lowest": 0, "gtk": 4, "application": 8, "theme": 10, "rc": 12, "highest": 15}

// What resource files may have together: how many are included, how deep, and bytes. The
// largest of real themes have a tenth of that.
const (
	maxFiles = 64
	maxDepth = 10
	maxBytes = 1 << 20
)

// Load reads a theme's gtkrc and what it includes. The error is that of reading
// the first file; what is wrong in any is noted.
func Load(fsys fs.FS, name string) (*File, error) {
	f := empty(fsys)
	b, err := fs.ReadFile(fsys, name)
	if err != nil {
		return nil, err
	}
	f.read(name, b)
	return f, nil
}

// Parse reads the text of a resource file that includes nothing.
func Parse(text []byte) *File {
	f := empty(nil)
	f.read("", text)
	return f
}

func empty(fsys fs.FS) *File {
	f := &File{styles: map[string]*style{}, scheme: map[string]Colour{}, engines: map[string]bool{}}
	f.read("", []byte(own))
	f.fsys, f.Files = fsys, nil
	return f
}

func (f *File) read(name string, text []byte) {
	if len(f.open) >= maxDepth || len(f.Files) >= maxFiles || slices.Contains(f.open, name) && name != "" {
		return
	}
	f.Files = append(f.Files, name)
	if f.bytes += len(text); f.bytes > maxBytes {
		f.Notes = append(f.Notes, Note{name, 1, fmt.Sprintf("the files are longer than %d MiB together; what comes after that is not read", maxBytes>>20)})
		return
	}
	f.open = append(f.open, name)
	defer func() { f.open = f.open[:len(f.open)-1] }()
	p := &parser{scanner: scanner{text: text, line: 1}, file: f, name: name}
	for {
		t := p.peek()
		if t.kind == end {
			return
		}
		if err := p.statement(); err != nil {
			f.Notes = append(f.Notes, Note{name, p.last, err.Error() + "; the rest of the file does not count"})
			return
		}
	}
}

func (f *File) include(from, name string, line int) {
	if f.fsys == nil {
		return
	}
	// It is looked for beside the file, then beside those that include it.
	for _, within := range slices.Backward(f.open) {
		at := beside(within, name)
		if b, err := fs.ReadFile(f.fsys, at); err == nil {
			f.read(at, b)
			return
		}
	}
	if !path.IsAbs(name) { // GTK says nothing of others
		f.Notes = append(f.Notes, Note{from, line, fmt.Sprintf("include of %q is not there", name)})
	}
}

// beside is the file that one names, as a name of the tree.
func beside(from, name string) string {
	if path.IsAbs(name) {
		return strings.TrimPrefix(path.Clean(name), "/")
	}
	return path.Join(path.Dir(from), name)
}

// Style returns the style of the last of widgets, the others being those it is
// in, from the window down.
func (f *File) Style(widgets []Widget) Style {
	var names, classes []string
	for _, w := range widgets {
		names, classes = append(names, w.Name), append(classes, w.Types[0])
	}
	types := map[string][]string{}
	for _, w := range widgets {
		types[w.Types[0]] = w.Types
	}
	last := widgets[len(widgets)-1]
	var won []set
	pick := func(kind string, fits func(pattern string) bool) {
		for _, s := range slices.Backward(f.sets) {
			if s.kind == kind && fits(s.pattern) {
				won = append(won, s)
			}
		}
	}
	pick("widget", func(p string) bool { return fitsPath(p, names, nil) })
	pick("widget_class", func(p string) bool { return fitsPath(p, classes, types) })
	for _, t := range last.Types {
		pick("class", func(p string) bool { return glob(p, t) })
	}
	slices.SortStableFunc(won, func(a, b set) int { return b.priority - a.priority })
	out := usual
	told := map[string]bool{}
	for _, s := range won {
		for i, name := range stateNames {
			for key, to := range map[string]*Colour{"fg": &out.Fg[i], "bg": &out.Bg[i], "text": &out.Text[i], "base": &out.Base[i]} {
				key += "[" + name + "]"
				if c, ok := s.style.colours[key]; ok && !told[key] {
					*to, told[key] = c, true
				}
			}
		}
		if s.style.x != nil && !told["x"] {
			out.XThickness, told["x"] = *s.style.x, true
		}
		if s.style.y != nil && !told["y"] {
			out.YThickness, told["y"] = *s.style.y, true
		}
		if out.Font == "" {
			out.Font = s.style.font
		}
		if s.style.engineTold && !told["engine"] {
			out.Engine, told["engine"] = s.style.engine, true
		}
	}
	return out
}
