package preview

import (
	_ "embed"
	"fmt"
	"slices"
	"strings"

	_ "golang.org/x/image/webp"

	"ivelt/core/desk"
	"ivelt/core/gtkcss"
)

// Note is something of a piece that a picture had to do without.
type Note struct {
	File string // as people write it
	Line int    // 1-based, 0 for the whole file
	Text string
}

// String is the note as a sentence.
func (n Note) String() string {
	if n.Line == 0 {
		return fmt.Sprintf("%s: %s", n.File, n.Text)
	}
	return fmt.Sprintf("%s:%d: %s", n.File, n.Line, n.Text)
}

// Notes says what a picture of a look does without, what weighs most first: files
// that are not what they should be, colours that nobody names, then what else of the
// style sheets does not count, with its line: each sheet's in the order they stand,
// those of a theme before the person's own.
func Notes(d *desk.Desk, look Look, scene string) []Note {
	c, s := newScene(d, look, scene)
	s.draw(c)
	for _, surface := range d.Surfaces() {
		stage, drawn := c.stages[surface.ID]
		if !drawn {
			continue
		}
		var notes []gtkcss.Note
		if stage.Styles.Tired() && len(stage.sheets) > 0 {
			notes = append(notes, gtkcss.Note{File: stage.sheets[0].Files[0], Text: "its rules take too much work: not everything is styled"})
		}
		lost := stage.Styles.Lost()
		notes = append(notes, lost...)
		for _, s := range stage.sheets {
			notes = append(notes, s.Notes...)
		}
		notes = folded(notes, stage.Styles.Undefined())
		for _, n := range notes[:min(len(notes), maxNotes)] {
			c.note(shown(d, n))
		}
	}
	return c.notes
}

// maxNotes is how many notes of a surface's sheets are told. The worst of real themes
// have a twentieth of that.
const maxNotes = 2000

// folded makes one note of all properties that the toolkit does not know, and one of
// the undefined colours that nothing here shows, and puts them last: they are mostly
// meant for other programs.
func folded(notes, undefined []gtkcss.Note) (out []gtkcss.Note) {
	var unknown, unseen []gtkcss.Note
	var names, colours []string
	for _, n := range notes {
		if n.Unknown == "" {
			out = append(out, n)
			continue
		}
		unknown = append(unknown, n)
		names = append(names, n.Unknown)
	}
	for _, n := range undefined {
		if !slices.Contains(notes, n) {
			unseen = append(unseen, n)
			colours = append(colours, strings.TrimSuffix(strings.TrimPrefix(n.Text, "the colour "), " is not defined"))
		}
	}
	return append(append(out, oneOf(unseen, "colours that nothing defines, in rules that nothing here meets", colours)...), oneOf(unknown, "properties that the toolkit does not know", names)...)
}

// oneOf makes one note of several; one alone stays as it is.
func oneOf(notes []gtkcss.Note, what string, names []string) []gtkcss.Note {
	if len(notes) < 2 {
		return notes
	}
	slices.Sort(names)
	names = slices.Compact(names)
	more := ""
	if len(names) > 6 {
		names, more = names[:6], " and others"
	}
	one := notes[0]
	one.Text, one.Unknown = fmt.Sprintf("%d %s: %s%s", len(notes), what, strings.Join(names, ", "), more), ""
	return []gtkcss.Note{one}
}

// shown is a note of a style sheet as people read it.
func shown(d *desk.Desk, n gtkcss.Note) Note {
	if n.File != "" && !strings.HasPrefix(n.File, "resource:") {
		n.File = d.Show(desk.Path(n.File))
	}
	return Note{n.File, n.Line, n.Text}
}

// usualNodes are those of which a colour that nothing defines makes a sheet a broken
// one: rules for other things name many of them, and nobody ever sees it.
var usualNodes = []string{
	"window.background", "window.background label", "window.background headerbar.titlebar", "window.background headerbar.titlebar label.title",
	"window.background button", "window.background button:hover", "window.background button:checked", "window.background button:disabled",
	"window.background button.suggested-action", "window.background button label", "window.background entry", "window.background entry:focus",
	"window.background entry:focus-within", "window.background entry:focus-within text:focus:focus-within", "window.background entry selection", "window.background switch:checked", "window.background switch slider",
	"window.background checkbutton check:checked", "window.background progressbar trough progress", "window.background scale trough highlight",
	"window.background list row", "window.background list row:selected", "window.background treeview.view", "window.background treeview.view:selected",
	"window.background notebook header tab:checked", "menu menuitem", "menu menuitem:hover", "menubar", "tooltip",
}

// Broken says what of the sheets that a surface wears is not there: what they
// import, and the colours that usual controls ask for and nobody defines.
func Broken(d *desk.Desk, look Look, surface string) []Note {
	st := NewCanvas(d, look, 1, 1).Stage(surface)
	var notes []gtkcss.Note
	for _, s := range st.sheets {
		for _, n := range s.Notes {
			if strings.HasPrefix(n.Text, "import of ") {
				notes = append(notes, n)
			}
		}
	}
	lost := st.Styles.Undefined
	if s, ok := d.Surface(surface); ok && s.Kind == "toolkit" {
		for _, node := range usualNodes {
			st.Styles.Compute(node)
		}
		lost = st.Styles.Lost
	}
	var out []Note
	for _, n := range append(notes, lost()...) {
		out = append(out, shown(d, n))
	}
	return out
}

func (c *Canvas) note(n Note) {
	if !slices.Contains(c.notes, n) {
		c.notes = append(c.notes, n)
	}
}

// without notes that a file of the desk's tree cannot be used.
func (c *Canvas) without(name, why string) {
	c.note(Note{File: c.D.Show(desk.Path(name)), Text: why})
}
