package match

import (
	"cmp"
	"errors"
	"io/fs"
	"path"
	"slices"
	"strconv"

	"ivelt/core/desk"
	"ivelt/core/layout"
	"ivelt/core/outfit"
	"ivelt/core/reading"
	"ivelt/core/say"
	"ivelt/core/xcursor"
)

// Shortfall is a choice that a surface cannot follow, or not quite.
type Shortfall struct {
	Surface desk.Surface
	Facet   string
	Why     string // a sentence
	Says    say.Message
	// Nearest is what the surface can be told in its stead, of NearestFacet; "" for nothing.
	Nearest, NearestFacet string
}

// Shortfalls tells of each choice of an outfit which surfaces cannot follow it,
// and why.
func Shortfalls(d *desk.Desk, o outfit.Outfit) []Shortfall {
	d = d.Snapshot()
	var out []Shortfall
	for _, info := range desk.Facets {
		for _, s := range d.Surfaces() {
			want := o.WantOn(s.ID, info.Name)
			if want == "" {
				continue
			}
			if f, ok := s.Facet(info.Name); ok && f.Fixed && Helped(d, s, info.Name) {
				continue
			}
			why := short(d, o, s, info.Name, want)
			if why.Code != "" && !slices.ContainsFunc(out, func(f Shortfall) bool { return f.Facet == info.Name && f.Why == why.String() }) {
				short := Shortfall{Surface: s, Facet: info.Name, Why: why.String(), Says: why}
				short.Nearest, short.NearestFacet = nearest(d, o, s, info.Name)
				out = append(out, short)
			}
		}
	}
	return out
}

// Helped reports whether another surface draws what a facet is of in the stead of one.
func Helped(d *desk.Desk, s desk.Surface, facet string) bool {
	return slices.ContainsFunc(d.Surfaces(), func(other desk.Surface) bool {
		_, has := other.Facet(facet)
		return has && other.Instead == s.ID
	})
}

// nearest is what a surface can be told that comes nearest to a layout of an outfit, and of which
// facet: a bar takes the place of a dock where there is none.
func nearest(d *desk.Desk, o outfit.Outfit, s desk.Surface, facet string) (value, of string) {
	f, has := s.Facet(facet)
	bars, shell := s.Facet(desk.FacetBars)
	_, hasDock := s.Facet(desk.FacetDock)
	switch {
	case facet == desk.FacetTiles && has:
		value, _ = f.Nearest(o.WantOn(s.ID, facet))
		return value, facet
	case !shell || bars.Limits == nil || hasDock || facet != desk.FacetBars && facet != desk.FacetDock:
		return "", ""
	}
	if _, own := o.Excepted(s.ID, desk.FacetBars); own {
		return "", "" // it is told of bars of its own
	}
	now, err := layout.ParseBars(cmp.Or(o.WantOn(s.ID, desk.FacetBars), reading.Of(d, s, bars).Value))
	dock, bad := layout.ParseDock(cmp.Or(o.WantOn(s.ID, desk.FacetDock), "none"))
	if err != nil || bad != nil {
		return "", ""
	}
	now, _ = bars.Limits.NearestTo(now, dock)
	return layout.FormatBars(now), desk.FacetBars
}

func short(d *desk.Desk, o outfit.Outfit, s desk.Surface, facet, want string) say.Message {
	f, ok := s.Facet(facet)
	if !ok {
		if why := s.Cannot[facet]; why != "" {
			return say.Words(why + ".")
		}
		return say.Message{}
	}
	switch err := reading.Possible(d, s, f, want); {
	case errors.As(err, new(*reading.ValueError)):
		return say.Of("match/cannot-follow", s.Named(), err)
	case errors.Is(err, reading.ErrLocked):
		return say.Of("match/locked", s.Named(), want)
	case err != nil && reading.Grantable(d, f.Lookup, want) != "": // a plan grants it
		return say.Message{}
	case err != nil:
		return say.Of("match/would-not-find", s.Named(), want, err)
	}
	switch facet {
	case desk.FacetDark:
		return noDarkForm(d, o, s, want)
	case desk.FacetWidgets:
		if dark, ok := s.Facet(desk.FacetDark); ok && f.Lookup.DarkOwn && o.WantOn(s.ID, desk.FacetDark) == "" {
			return noDarkForm(d, o, s, reading.Of(d, s, dark).Value) // the desk is dark
		}
	case desk.FacetPointerSize:
		return otherSize(d, o, s, want)
	}
	return say.Message{}
}

// wearing is what a surface would show for a facet in the outfit.
func wearing(d *desk.Desk, o outfit.Outfit, s desk.Surface, facet string) (f desk.Facet, name string, ok bool) {
	if f, ok = s.Facet(facet); !ok {
		return f, "", false
	}
	if name = o.WantOn(s.ID, facet); name == "" || reading.Possible(d, s, f, name) != nil {
		name = reading.Of(d, s, f).Value
	}
	return f, name, true
}

func noDarkForm(d *desk.Desk, o outfit.Outfit, s desk.Surface, want string) say.Message {
	if want == "light" {
		return say.Message{}
	}
	for _, facet := range []string{desk.FacetWidgets, desk.FacetBar} {
		f, theme, ok := wearing(d, o, s, facet)
		if !ok {
			continue
		}
		if slices.Contains(f.Lookup.BuiltIn, theme) || f.Lookup.Aliases[theme] != "" {
			continue
		}
		switch file, isDark, err := reading.FindSheet(d, f.Lookup, theme, true); {
		case err != nil || isDark:
		case file == "":
			return say.Of("match/has-no-dark-form-wear", theme, s.Named())
		default:
			return say.Of("match/has-no-dark-form-stay", theme, s.Named())
		}
	}
	return say.Message{}
}

func otherSize(d *desk.Desk, o outfit.Outfit, s desk.Surface, want string) say.Message {
	f, set, ok := wearing(d, o, s, desk.FacetPointer)
	if !ok {
		return say.Message{}
	}
	sizes := PointerSizes(d, f.Lookup, set)
	size, err := strconv.Atoi(want)
	if err != nil || len(sizes) == 0 {
		return say.Message{}
	}
	nearest := sizes[0]
	for _, n := range sizes {
		if max(n-size, size-n) < max(nearest-size, size-nearest) {
			nearest = n
		}
	}
	if nearest == size {
		return say.Message{}
	}
	return say.Of("match/has-no-pointers-px-show", set, size, s.Named(), nearest)
}

// PointerSizes are the nominal sizes that a set's arrow comes in, nil if there is
// none.
func PointerSizes(d *desk.Desk, l desk.Lookup, set string) []int {
	folder, err := reading.FindPointer(d, l, set)
	if err != nil || folder == "" {
		return nil
	}
	for _, name := range []string{"default", "left_ptr"} {
		b, err := fs.ReadFile(d.Tree(), desk.Name(path.Join(folder, "cursors", name)))
		if err != nil {
			continue
		}
		if f, err := xcursor.Parse(b); err == nil {
			return f.Sizes()
		}
	}
	return nil
}
