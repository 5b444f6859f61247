package preview

import (
	"cmp"
	"context"
	_ "embed"
	"errors"
	"maps"
	"path"
	"strconv"

	_ "golang.org/x/image/webp"

	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/layer"
	"ivelt/core/outfit"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// Look is what is to be pictured.
type Look struct {
	Names map[string]map[string]string // by facet and surface, the piece or the value
	Shade string                       // light or dark whatever the surfaces are told; "" as they are told
	State string                       // of every control: one of [States], "" as it comes
	Black string                       // why a desk under a lock shows nothing, "" if it does
	// Language is that of the words in its pictures; nil is English.
	Language say.Language
	Layer    *layer.Recipe // laid over the theme that it is for, before it is built; nil for none

	ctx context.Context // of whoever waits for it
}

// Only is a look of nothing but these, by facet and surface, for who waits for this one.
func (l Look) Only(names map[string]map[string]string) Look {
	return Look{Names: names, Language: l.Language, ctx: l.ctx}
}

// Context is that of whoever waits for the look.
func (l Look) Context() context.Context { return l.ctx }

// States are the states that all controls can be pictured in.
var States = []struct {
	Name  string
	Title say.Word
}{
	{"hover", "pointer over"}, {"active", "pressed"}, {"checked", "chosen"}, {"focus", "in focus"}, {"disabled", "off"}, {"backdrop", "window not active"},
}

// Of returns the piece or value that a surface shows for a facet.
func (l Look) Of(facet, surface string) string { return l.Names[facet][surface] }

func (l Look) set(facet, surface, name string) {
	if l.Names[facet] == nil {
		l.Names[facet] = map[string]string{}
	}
	l.Names[facet][surface] = name
}

// dark reports whether a surface is pictured dark. What goes by the time of day
// is pictured as at noon.
func (l Look) dark(surface string) bool {
	if l.Shade != "" {
		return l.Shade == "dark"
	}
	return l.Of(desk.FacetDark, surface) == "dark"
}

func (l Look) number(facet, surface string, usual int) int {
	if n, err := strconv.Atoi(l.Of(facet, surface)); err == nil {
		return n
	}
	return usual
}

// Worn is the look of a desk as it is: what each surface reads, or still has
// loaded. Once ctx has ended nothing more of it is worked out: what is drawn then is of no
// use.
func Worn(ctx context.Context, d *desk.Desk) Look {
	d = d.Snapshot()
	l := Look{Names: map[string]map[string]string{}, ctx: ctx}
	for _, s := range d.Surfaces() {
		for _, f := range s.Facets {
			r := reading.Told(d, s, f)
			name := r.Value
			if r.Pending != "" {
				name = r.Loaded
			}
			l.set(r.Facet, r.Surface, name)
		}
	}
	l.alike(d)
	l.helped(d, outfit.Outfit{})
	if _, lock := d.Locked(); lock != nil && reading.Key(d, lock.Shown.Black, lock.Shown.Black.Key) == "yes" {
		l.Black = cmp.Or(reading.Key(d, lock.Shown.Why, lock.Shown.Why.Key), "the desk did not come up")
	}
	return l
}

// Draft is the look of a desk once it wears the outfit. A surface that cannot
// follow keeps what it shows.
func Draft(ctx context.Context, d *desk.Desk, o outfit.Outfit) Look {
	d = d.Snapshot()
	l := Worn(ctx, d)
	l.Black = "" // it is how the desk is to be
	for _, facet := range o.Facets() {
		for _, s := range d.Surfaces() {
			f, ok := s.Facet(facet)
			want := o.WantOn(s.ID, facet)
			if err := reading.Possible(d, s, f, want); ok && want != "" && (err == nil || errors.Is(err, reading.ErrLocked)) {
				l.set(facet, s.ID, want)
			}
		}
	}
	for _, s := range d.Surfaces() {
		l.together(d, o, s)
		filled := reading.Filled(d, s, func(facet string) string { return o.WantOn(s.ID, facet) })
		for i, f := range s.Facets {
			for j, src := range f.Sources {
				if filled.Facets[i].Sources[j].Path != src.Path && o.WantOn(s.ID, f.Name) == "" {
					l.set(f.Name, s.ID, reading.Told(d, filled, filled.Facets[i]).Value)
					break
				}
			}
		}
	}
	l.alike(d)
	l.helped(d, o)
	return l
}

// Told is the look of a draft in which one surface shows all that it is told, and not what
// it has loaded.
func Told(ctx context.Context, d *desk.Desk, o outfit.Outfit, surface desk.Surface) Look {
	look := Draft(ctx, d, o)
	wants := func(facet string) string { return o.WantOn(surface.ID, facet) }
	for _, of := range reading.Filled(d, surface, wants).Facets {
		if wants(of.Name) == "" && look.Names[of.Name] != nil {
			of.Loaded = nil
			look.Names[of.Name][surface.ID] = reading.Told(d, surface, of).Value
		}
	}
	return look
}

// together lets notices and frames go with the bar where they are not set apart.
func (l Look) together(d *desk.Desk, o outfit.Outfit, s desk.Surface) {
	bar, ok := s.Facet(desk.FacetBar)
	if !ok {
		return
	}
	now := reading.Told(d, s, bar)
	for _, facet := range []string{desk.FacetNotices, desk.FacetFrame} {
		f, ok := s.Facet(facet)
		if !ok || o.WantOn(s.ID, facet) != "" {
			continue
		}
		goesWith := false // by the bar's own key
		for _, src := range f.Sources {
			goesWith = goesWith || src.Key == bar.Sources[0].Key && src.Path == bar.Sources[0].Path && src.Group == bar.Sources[0].Group
		}
		r := reading.Told(d, s, f)
		if goesWith && (r.Source.Kind == "default" || r.Source == now.Source) {
			l.set(facet, s.ID, l.Of(desk.FacetBar, s.ID))
		}
	}
}

// below is the theme that the look's layer lies over, if a name is that of what it builds and the
// layer moves something.
func (l Look) below(theme string) (string, bool) {
	if l.Layer == nil || theme != l.Layer.Folder || len(l.Layer.Moves) == 0 {
		return "", false
	}
	return l.Layer.Base.Folder, true
}

// laid is a theme's sheet with what the look lays over it.
func (l Look) laid(s *gtkcss.Sheet, file string) *gtkcss.Sheet {
	theme, sheet := partsOf(file)
	if l.Layer == nil || theme != l.Layer.Base.Folder && theme != l.Layer.Folder {
		return s
	}
	return s.And([]byte(l.Layer.Over(sheet)), layer.File)
}

// partsOf are the theme that a sheet's path names and the sheet's name in it, gtk-3.0/gtk.css.
func partsOf(file string) (theme, sheet string) {
	part := path.Dir(file)
	return path.Base(path.Dir(part)), path.Join(path.Base(part), path.Base(file))
}

// With is the look in which one surface shows something else for a facet.
func (l Look) With(facet, surface, name string) Look {
	out := Look{Names: maps.Clone(l.Names), Shade: l.Shade, State: l.State, Black: l.Black, Layer: l.Layer, ctx: l.ctx}
	out.Names[facet] = maps.Clone(out.Names[facet])
	out.set(facet, surface, name)
	return out
}

// Styles is the cascade that a surface's controls, or a shell's bar, are drawn in.
func Styles(d *desk.Desk, look Look, surface string) *gtkcss.Cascade {
	return NewCanvas(d, look, 1, 1).Stage(surface).Styles
}
