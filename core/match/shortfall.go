package match

import (
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strconv"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/reading"
	"ivelt/core/xcursor"
)

// Shortfall is a choice that a surface cannot follow, or not quite.
type Shortfall struct {
	Surface desk.Surface
	Facet   string
	Why     string // a sentence
}

// Shortfalls tells of each choice of an outfit which surfaces cannot follow it,
// and why.
func Shortfalls(d *desk.Desk, o outfit.Outfit) []Shortfall {
	d = d.Snapshot()
	var out []Shortfall
	for _, info := range desk.Facets {
		for _, s := range d.Surfaces {
			want := o.WantOn(s.ID, info.Name)
			if want == "" {
				continue
			}
			why := short(d, o, s, info.Name, want)
			if why != "" && !slices.ContainsFunc(out, func(f Shortfall) bool { return f.Facet == info.Name && f.Why == why }) {
				out = append(out, Shortfall{s, info.Name, why})
			}
		}
	}
	return out
}

func short(d *desk.Desk, o outfit.Outfit, s desk.Surface, facet, want string) string {
	f, ok := s.Facet(facet)
	if !ok {
		if why := s.Cannot[facet]; why != "" {
			return why + "."
		}
		return ""
	}
	switch err := reading.Check(d, s, f, want); {
	case errors.As(err, new(*reading.ValueError)):
		return fmt.Sprintf("%s cannot follow: %v.", s.Title, err)
	case err != nil && reading.Grantable(d, f.Lookup, want) != "": // a plan grants it
		return ""
	case err != nil:
		return fmt.Sprintf("%s would not find %s: %v.", s.Title, want, err)
	}
	switch facet {
	case desk.FacetDark:
		return noDarkForm(d, o, s, want)
	case desk.FacetPointerSize:
		return otherSize(d, o, s, want)
	}
	return ""
}

// wearing is what a surface would show for a facet in the outfit.
func wearing(d *desk.Desk, o outfit.Outfit, s desk.Surface, facet string) (f desk.Facet, name string, ok bool) {
	if f, ok = s.Facet(facet); !ok {
		return f, "", false
	}
	if name = o.WantOn(s.ID, facet); name == "" || reading.Check(d, s, f, name) != nil {
		name = reading.Of(d, s, f).Value
	}
	return f, name, true
}

func noDarkForm(d *desk.Desk, o outfit.Outfit, s desk.Surface, want string) string {
	if want == "light" {
		return ""
	}
	for _, facet := range []string{desk.FacetWidgets, desk.FacetBar} {
		f, theme, ok := wearing(d, o, s, facet)
		if !ok {
			continue
		}
		if slices.Contains(f.Lookup.BuiltIn, theme) {
			continue
		}
		switch file, isDark, err := reading.FindSheet(d, f.Lookup, theme, true); {
		case err != nil || isDark:
		case file == "":
			return fmt.Sprintf("%s has no dark form for %s: they wear their own style in its stead.", theme, s.Title)
		default:
			return fmt.Sprintf("%s has no dark form for %s: they stay light.", theme, s.Title)
		}
	}
	return ""
}

func otherSize(d *desk.Desk, o outfit.Outfit, s desk.Surface, want string) string {
	f, set, ok := wearing(d, o, s, desk.FacetPointer)
	if !ok {
		return ""
	}
	sizes := PointerSizes(d, f.Lookup, set)
	size, err := strconv.Atoi(want)
	if err != nil || len(sizes) == 0 {
		return ""
	}
	nearest := sizes[0]
	for _, n := range sizes {
		if max(n-size, size-n) < max(nearest-size, size-nearest) {
			nearest = n
		}
	}
	if nearest == size {
		return ""
	}
	return fmt.Sprintf("%s has no pointers of %d px: %s show those of %d.", set, size, s.Title, nearest)
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
