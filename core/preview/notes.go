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

// Notes says what a picture of a look does without: files that are not what they
// should be, then what of the style sheets does not count, with its line: each
// sheet's in the order they stand, those of a theme before the person's own.
func Notes(d *desk.Desk, look Look, scene string) []Note {
	c, s := newScene(d, look, scene)
	s.draw(c)
	for _, surface := range d.Surfaces {
		stage, drawn := c.stages[surface.ID]
		if !drawn {
			continue
		}
		var notes []gtkcss.Note
		for _, s := range stage.sheets {
			notes = append(notes, s.Notes...)
		}
		if stage.Styles.Tired() && len(stage.sheets) > 0 {
			notes = append(notes, gtkcss.Note{File: stage.sheets[0].Files[0], Text: "its rules take too much work: not everything is styled"})
		}
		for _, n := range append(notes, stage.Styles.Undefined()...) {
			if n.File != "" && !strings.HasPrefix(n.File, "resource:") {
				n.File = d.Show(desk.Path(n.File))
			}
			c.note(Note(n))
		}
	}
	return c.notes
}

// Broken says what of the sheets that a surface wears is not there: what they
// import, and the colours that they name and nobody defines.
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
	var out []Note
	for _, n := range append(notes, st.Styles.Undefined()...) {
		if n.File != "" && !strings.HasPrefix(n.File, "resource:") {
			n.File = d.Show(desk.Path(n.File))
		}
		out = append(out, Note(n))
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
