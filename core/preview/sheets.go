package preview

import (
	"context"
	_ "embed"
	"fmt"
	"io/fs"
	"slices"
	"strings"
	"sync"

	_ "golang.org/x/image/webp"

	"ivelt/core/cache"
	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/layer"
	"ivelt/core/paint"
	"ivelt/core/reading"
)

// plain is what windows are drawn in where a toolkit wears a style that it has
// in itself, or none that it finds: no file of the desk says how that looks.
//
//go:embed plain.css
var plain string

const (
	plainLight = "@define-color ground #faf8f3; @define-color head #efebe2; @define-color line #d2ccbf; @define-color ink #2c323c; @define-color chosen #1d6b52; @define-color base #ffffff;\n"
	plainDark  = "@define-color ground #262b33; @define-color head #2f353e; @define-color line #434a55; @define-color ink #e9e6de; @define-color chosen #6cc3a0; @define-color base #1d2229;\n"
)

type cachedSheet struct {
	stamp string
	sheet *gtkcss.Sheet
	err   error
}

// ofSheet is the key of a style sheet.
type ofSheet struct{ where, file string }

// perByte is what a sheet takes for each byte of its files, about (measured on real ones).
const perByte = 6

// sheetOf reads a style sheet of the desk, anew only if it or one that it
// imports has changed.
func sheetOf(ctx context.Context, d *desk.Desk, file string, beyond func(name string) ([]byte, error)) (*gtkcss.Sheet, error) {
	holds := func(c cachedSheet) bool { return c.stamp == stampOf(d, c.sheet.Files) }
	c := cache.Of(d.Cache, ofSheet{d.Where(), file}, holds, func() cache.Made[cachedSheet] {
		s, err := gtkcss.LoadOver(ctx, d.Tree(), file, beyond)
		if err != nil {
			return cache.Made[cachedSheet]{Value: cachedSheet{err: err}, Brief: true}
		}
		return cache.Made[cachedSheet]{Value: cachedSheet{stamp: stampOf(d, s.Files), sheet: s}, Bytes: perByte * s.Bytes()}
	})
	return c.sheet, c.err
}

// ofMoved is the key of a sheet as the moves of a recipe make it.
type ofMoved struct{ where, file, moves string }

// moved is a sheet of the theme that the look's layer is for as its moves make it, and how.
func (c *Canvas) moved(s *gtkcss.Sheet, file string, resources func(name string) ([]byte, error)) (*gtkcss.Sheet, layer.Made, error) {
	theme, _ := partsOf(file)
	if c.look.Layer == nil || theme != c.look.Layer.Base.Folder {
		return s, nil, nil
	}
	made := c.look.Layer.Made(desk.Name(file), s)
	if made == nil {
		return s, nil, nil
	}
	holds := func(of cachedSheet) bool { return of.stamp == stampOf(c.D, of.sheet.Files) }
	of := cache.Of(c.D.Cache, ofMoved{c.D.Where(), file, fmt.Sprint(c.look.Layer.Moves)}, holds, func() cache.Made[cachedSheet] {
		s, err := gtkcss.LoadMade(c.look.ctx, c.D.Tree(), desk.Name(file), resources, made)
		if err != nil {
			return cache.Made[cachedSheet]{Value: cachedSheet{err: err}, Brief: true}
		}
		return cache.Made[cachedSheet]{Value: cachedSheet{stamp: stampOf(c.D, s.Files), sheet: s}, Bytes: perByte * s.Bytes()}
	})
	return of.sheet, made, of.err
}

// ofPlain is the key of a style of Ivelt's own.
type ofPlain struct {
	text       string
	generation int
}

// plainSheet is one that a toolkit or a shell is painted in without a theme, read once.
func plainSheet(kept *cache.Cache, text string, generation int) *gtkcss.Sheet {
	return cache.Of(kept, ofPlain{text, generation}, cache.Always[*gtkcss.Sheet], func() cache.Made[*gtkcss.Sheet] {
		s := gtkcss.Parse([]byte(text), generation)
		return cache.Made[*gtkcss.Sheet]{Value: s, Bytes: perByte * len(text)}
	})
}

// ahead reads the style sheets that both toolkits wear in a look at the same time: they are
// most of what the first picture of a theme takes.
func (c *Canvas) ahead() {
	var all sync.WaitGroup
	for _, surface := range toolkits {
		t := toolkitOf(c.D, surface)
		f, _ := t.Facet(desk.FacetWidgets)
		file, _, err := reading.FindSheet(c.D, f.Lookup, c.look.Of(desk.FacetWidgets, surface), c.look.dark(surface))
		if c.D.Cache == nil || err != nil || file == "" {
			continue
		}
		beyond := c.libraryOf(surface).resources()
		lasting := c.D.Lasting()                                                        // a snapshot is not for several goroutines
		all.Go(func() { _, _ = sheetOf(c.look.ctx, lasting, desk.Name(file), beyond) }) // what is wrong with it is told where it is used
	}
	all.Wait()
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

// having is the surface that draws what a facet is of: the shell, if it has it;
// "" if none has.
func (c *Canvas) having(facet string) string {
	if s, ok := c.D.Surface(c.Shell); ok {
		if _, ok := s.Facet(facet); ok {
			return s.ID
		}
	}
	for _, s := range c.D.Surfaces() {
		if _, ok := s.Facet(facet); ok && s.Kind != "login" && s.Kind != "sandbox" {
			return s.ID
		}
	}
	return ""
}

// apart is where the parts of a facet are painted that a shell, or another
// program, may set apart from the bar: notices and frames.
func (c *Canvas) apart(facet string) *Stage {
	if of := c.having(facet); of != "" {
		return c.StageFor(of, facet)
	}
	return c.Stage(c.Shell)
}

// Stage returns where a surface's parts are painted.
func (c *Canvas) Stage(surface string) *Stage {
	facet := desk.FacetWidgets
	if s, _ := c.D.Surface(surface); s.Kind == "shell" {
		facet = desk.FacetBar
	}
	return c.StageFor(surface, facet)
}

// StageFor is the stage of one facet of a surface, whose theme may be another than its windows'.
func (c *Canvas) StageFor(surface, facet string) *Stage {
	key := surface
	if facet == desk.FacetNotices || facet == desk.FacetFrame {
		key += " " + facet
	}
	if s, ok := c.stages[key]; ok {
		return s
	}
	toolkit := toolkitOf(c.D, surface)
	colours, usual, generation := plainLight, plain, 3
	ofShell := facet != desk.FacetWidgets
	switch {
	case ofShell:
		usual, generation = shellPlain, 4
	case surface == "gtk4":
		generation = 4
	}
	dark := c.look.dark(surface)
	if dark {
		colours = plainDark
	}
	if ofShell {
		colours = c.Ink.colours
	}
	var over []*gtkcss.Sheet
	if ofShell {
		accent, _ := desk.FacetOf(desk.FacetAccent)
		colour := c.look.Of(desk.FacetAccent, surface)
		if accent.Accepts(colour) != nil {
			colour = "#1d6b52"
		}
		over = append(over, gtkcss.Parse([]byte("@define-color accent "+colour+";"), generation))
	}
	f, _ := toolkit.Facet(facet)
	file, _, err := reading.FindSheet(c.D, f.Lookup, c.look.Of(facet, surface), dark)
	if err != nil && len(f.Lookup.From) > 0 { // what a plan would make it from
		if at, e := reading.MadeSheet(c.D, f.Lookup, c.look.Of(facet, surface), dark); e == nil {
			file, err = at, nil
		}
	}
	if below, ok := c.look.below(c.look.Of(facet, surface)); ok {
		if at, _, err := reading.FindSheet(c.D, f.Lookup, below, dark); err == nil && at != "" {
			file = at // what is built already is not moved once more
		}
	}
	found := false
	resources := c.libraryOf(surface).resources()
	var made layer.Made
	if err == nil && file != "" {
		if s, err := sheetOf(c.look.ctx, c.D, desk.Name(file), resources); err == nil {
			if s, made, err = c.moved(s, file, resources); err == nil {
				over, found = append(over, c.look.laid(s, file)), true
			}
		}
	}
	if !found && !ofShell && resources != nil {
		name := c.look.Of(facet, surface)
		names := []string{name}
		switch alias := f.Lookup.Aliases[name]; {
		case alias != "" && dark:
			names = []string{alias + "-dark", alias}
		case alias != "":
			names = []string{alias}
		case !slices.Contains(f.Lookup.BuiltIn, name):
			names = []string{f.Default}
		}
		for _, name := range names {
			if s := c.ownSheet(toolkit, name, dark, generation); s != nil {
				over, found = append(over, s), true
				break
			}
		}
	}
	if !found {
		over = append(over, plainSheet(c.D.Cache, colours+usual, generation))
	}
	if f.Lookup.Own != "" {
		for _, own := range c.D.Expand(f.Lookup.Own) {
			if s, err := sheetOf(c.look.ctx, c.D, desk.Name(own), resources); err == nil {
				over = append(over, s)
			}
		}
	}
	s := &Stage{Canvas: c, surface: surface, inGTK3: surface == "gtk3" || toolkit.Kind == "sandbox", sheets: over, Styles: gtkcss.NewCascade(over...), painter: &paint.Painter{B: &c.Builder, ID: strings.ReplaceAll(key, " ", "-") + "-"}}
	s.Styles.Until(c.look.ctx)
	if generation == 3 {
		s.painter.Blurred, s.painter.Fading = paint.BlurredBy3, true
	}
	font := c.look.Of(desk.FacetFont, surface)
	if title := c.look.Of(desk.FacetFontTitle, surface); facet == desk.FacetFrame && title != "" {
		font = title
	}
	s.family = c.familyOf(font)
	if _, pt := desk.SplitFont(font); pt >= 4 && pt <= 72 {
		s.Styles.TextSize(pt * 96 / 72 * s.textScale(facet))
	}
	s.painter.Picture, s.painter.Icon = s.picture, s.icon
	if found {
		s.file = file
	}
	s.files, s.made = gtkcss.Files(c.D.Tree(), desk.Name(file), resources), made
	c.stages[key] = s
	return s
}

// TitleRoom tells how high a title is in the font that a surface's frames are told,
// and how much room they give it: what their theme says, or plainRoom; in px. frame
// names the theme.
func TitleRoom(d *desk.Desk, look Look, surface string) (high, room float64, frame string) {
	s, _ := d.Surface(surface)
	if _, has := s.Facet(desk.FacetFrame); !has {
		return 0, 0, ""
	}
	st := NewCanvas(d, look, 1, 1).StageFor(surface, desk.FacetFrame)
	title := text("label.title", "Tide")
	bar := node("frame", title)
	st.measure(bar)
	room = bar.st.Length("min-height")
	if room == 0 {
		room = plainRoom
	}
	return title.height, room, look.Of(desk.FacetFrame, surface)
}

// plainRoom is the height of a title in frames whose theme does not say it, px.
const plainRoom = 22

// textScale is how much larger than its font says a program's text is: GTK asks the shared
// settings for it under a compositor (gdkscreen-wayland.c of GTK 3, gdkdisplay-wayland.c of
// GTK 4: text-scaling-factor is what gtk-xft-dpi is taken times).
func (s *Stage) textScale(facet string) float64 {
	if s.D.Display() != "wayland" || facet == desk.FacetFrame {
		return 1
	}
	return float64(s.look.number(desk.FacetTextScale, "desktop", 100)) / 100
}
