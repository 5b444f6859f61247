package preview

import (
	_ "embed"
	"fmt"
	"io/fs"
	"path"
	"strings"
	"sync"

	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/reading"
)

// plain is what windows are drawn in where a toolkit wears a style that it has
// in itself, or none that it finds: no file of the desk says how that looks.
//
//go:embed plain.css
var plain []byte

//go:embed plain-dark.css
var plainDark []byte

type cachedSheet struct {
	stamp string
	sheet *gtkcss.Sheet
}

var sheets sync.Map // by desk and file: cachedSheet

// sheetOf reads a style sheet of the desk, anew only if it or one that it
// imports has changed.
func sheetOf(d *desk.Desk, file string) (*gtkcss.Sheet, error) {
	key := d.ID + "\x00" + d.HomePath + "\x00" + file
	if c, ok := sheets.Load(key); ok && c.(cachedSheet).stamp == stampOf(d, c.(cachedSheet).sheet.Files) {
		return c.(cachedSheet).sheet, nil
	}
	s, err := gtkcss.Load(d.Tree(), file)
	if err != nil {
		return nil, err
	}
	sheets.Store(key, cachedSheet{stampOf(d, s.Files), s})
	return s, nil
}

func stampOf(d *desk.Desk, files []string) string {
	var b strings.Builder
	for _, f := range files {
		if info, err := fs.Stat(d.Tree(), f); err == nil {
			fmt.Fprint(&b, f, info.Size(), info.ModTime().UnixNano())
		}
	}
	return b.String()
}

// stage returns where a toolkit's parts are painted.
func (c *canvas) stage(surface string) *stage {
	if s, ok := c.stages[surface]; ok {
		return s
	}
	generation := 3
	if surface == "gtk4" {
		generation = 4
	}
	var over []*gtkcss.Sheet
	toolkit, _ := c.d.Surface(surface)
	f, _ := toolkit.Facet(desk.FacetWidgets)
	part, err := reading.FindTheme(c.d, f.Lookup, c.look.Of(desk.FacetWidgets, surface))
	if err == nil && part != "" {
		name := path.Join(desk.Name(part), "gtk.css")
		if dark := path.Join(desk.Name(part), "gtk-dark.css"); c.look.Dark {
			if _, err := fs.Stat(c.d.Tree(), dark); err == nil {
				name = dark
			}
		}
		if s, err := sheetOf(c.d, name); err == nil {
			over = append(over, s)
		}
	}
	if len(over) == 0 {
		text := plain
		if c.look.Dark {
			text = plainDark
		}
		over = append(over, gtkcss.Parse(text, generation))
	}
	if f.Lookup.Own != "" {
		for _, own := range c.d.Expand(f.Lookup.Own) {
			if s, err := sheetOf(c.d, desk.Name(own)); err == nil {
				over = append(over, s)
			}
		}
	}
	s := &stage{canvas: c, surface: surface, styles: gtkcss.NewCascade(over...), painter: &painter{b: &c.Builder, id: surface + "-"}}
	if size := sizeOf(c.d); size > 0 {
		s.styles.TextSize(size)
	}
	s.painter.picture = func(file string) (string, float64, float64, bool) { return c.filePicture(file) }
	c.stages[surface] = s
	return s
}

// filePicture is a picture that a theme's sheet names.
func (c *canvas) filePicture(file string) (address string, w, h float64, ok bool) {
	if address, ok = DataURI(c.d.Tree(), file); !ok {
		return "", 0, 0, false
	}
	b, err := fs.ReadFile(c.d.Tree(), file)
	if err != nil {
		return "", 0, 0, false
	}
	w, h = pictureSize(b)
	return address, w, h, w > 0 && h > 0
}
