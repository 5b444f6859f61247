package pointerbench

import (
	"cmp"
	"fmt"
	"image"
	"maps"
	"slices"

	"ivelt/core/colour"
	"ivelt/core/layer"
	"ivelt/core/parcel"
	"ivelt/core/pointerset"
)

// Mends are the codes of findings that a recipe of [Report.Mend] clears.
var Mends = []string{"roles-missing", "roles-asked-seldom", "names-lack", "hot-far", "hot-moves", "hot-outside", "size-missing", "hard-to-find"}

// Wishes are what a person wants changed in a set.
type Wishes struct {
	Name     string                 // of what is made; "" for that of the set, mended
	Like     map[string]string      // by the name of a role that is missing: the file whose picture it gets
	Names    bool                   // names of roles that are there and lead nowhere become links
	Hot      map[string]image.Point // by file: where the hot spot goes in its largest picture, px
	Sizes    []int                  // that are made, px
	LeftHand bool                   // what points is mirrored
	Outline  bool                   // an outline that is lost on some ground stands out
}

// Proposed are the wishes that clear the findings, as far as they can be cleared: pointers that are
// missing get the picture of the nearest there is, hot spots go where they are expected, or where
// they are in the largest size, sizes in use are made, and an outline that is lost on some ground
// becomes black or white, with an inside that stands out from it.
func (r *Report) Proposed() Wishes {
	w := Wishes{Like: map[string]string{}, Hot: map[string]image.Point{}, Names: true, Outline: r.Contrast > 0 && r.Worst() < findable}
	of := map[string]*Role{}
	for i := range r.Roles {
		of[r.Roles[i].Name] = &r.Roles[i]
	}
	for _, role := range r.Roles {
		if role.State != Missing {
			continue
		}
		if like := nearestKin(of, role.Role); like != "" {
			w.Like[role.Name] = like
		}
	}
	for _, s := range r.Shapes {
		if at, ok := s.expectedHot(); ok {
			w.Hot[s.File] = at
		}
	}
	for _, s := range r.Scaled {
		if s.Asked != s.Nearest {
			w.Sizes = append(w.Sizes, s.Asked)
		}
	}
	return w
}

// Mend is the recipe of a layer over the set that clears its findings, as far as they can be, see
// [Report.Proposed]. false if there is nothing to be done.
func (r *Report) Mend(folder, name string) (layer.Recipe, bool) {
	out, err := r.Recipe(folder, name, r.Proposed())
	return out, err == nil && out.Size() > 0
}

// Recipe is the recipe of a layer over the set that fulfils wishes; what is wished of a pointer that
// is not in the set is an error.
func (r *Report) Recipe(folder, name string, w Wishes) (layer.Recipe, error) {
	out := layer.Recipe{Name: cmp.Or(w.Name, name+", mended"), Folder: folder + "-Mended", Base: layer.Base{Kind: parcel.Pointer, Folder: folder}}
	for _, role := range r.Roles {
		like := role.File
		if role.State == Missing {
			if like = w.Like[role.Name]; like == "" {
				continue
			}
			if r.shape(like) == nil {
				return out, fmt.Errorf("%s: there is no pointer %q in the set", role.Title, like)
			}
		}
		for _, n := range role.Names {
			if role.State == Missing || w.Names && slices.Contains(role.Lacks, n) {
				out.Pointers = append(out.Pointers, layer.Pointing{Name: n, Like: like})
			}
		}
	}
	for _, file := range slices.Sorted(maps.Keys(w.Hot)) {
		s := r.shape(file)
		if s == nil || len(s.Sizes) == 0 {
			return out, fmt.Errorf("there is no pointer %q in the set", file)
		}
		hot, ok := s.Sizes[len(s.Sizes)-1].part(w.Hot[file])
		if !ok {
			return out, fmt.Errorf("%s: %d, %d is not in its picture", file, w.Hot[file].X, w.Hot[file].Y)
		}
		out.Pointers = append(out.Pointers, layer.Pointing{Name: file, Hot: hot})
	}
	if len(w.Sizes) > 0 || w.LeftHand {
		out.Every = &layer.Every{Sizes: w.Sizes, LeftHand: w.LeftHand}
	}
	if w.Outline && r.Contrast > 0 {
		outline, inside := furthest(r.Inside), r.Inside
		if made, ok := colour.Nearest(inside, outline, findable*findable*1.02); ok { // a little more, as it is rounded
			inside = made
		}
		out.Dyes = []layer.Dye{{To: inside.Hex(), Outline: outline.Hex()}}
	}
	if err := out.Valid(); err != nil && out.Size() > 0 {
		return out, err
	}
	return out, nil
}

// shape is the shape of a file, nil if there is none.
func (r *Report) shape(file string) *Shape {
	i := slices.IndexFunc(r.Shapes, func(s Shape) bool { return s.File == file })
	if i < 0 {
		return nil
	}
	return &r.Shapes[i]
}

// nearestKin is the file of the nearest kin of a role that the set has, or of the kin's kin; "" if
// there is none.
func nearestKin(of map[string]*Role, role *pointerset.Role) string {
	seen := map[string]bool{}
	for next := []*pointerset.Role{role}; len(next) > 0; next = next[1:] {
		for _, n := range append(slices.Clone(next[0].Kin), next[0].Lent) {
			kin := of[n]
			if kin == nil || seen[n] {
				continue
			}
			seen[n] = true
			if kin.State != Missing {
				return kin.File
			}
			next = append(next, kin.Role)
		}
	}
	return ""
}

// expectedHot is where the hot spot of a shape has to go in its largest picture; false if it can
// stay.
func (s Shape) expectedHot() (image.Point, bool) {
	if len(s.Sizes) == 0 {
		return image.Point{}, false
	}
	largest := s.Sizes[len(s.Sizes)-1]
	wrong := false
	for _, of := range s.Sizes {
		wrong = wrong || of.far() || of.outside() || moved(of, largest)
	}
	if !wrong || largest.Ink.Empty() {
		return image.Point{}, false
	}
	if largest.far() {
		return largest.Expected, true
	}
	return image.Pt(min(largest.HotX, largest.Width-1), min(largest.HotY, largest.Height-1)), true
}

// part is a place of a picture as recipes have it: in percent of what is drawn, where a place beside
// that is its rim. false for one that is not in the picture, and if nothing is drawn.
func (of Size) part(at image.Point) (string, bool) {
	if of.Ink.Empty() || !at.In(image.Rect(0, 0, of.Width, of.Height)) {
		return "", false
	}
	part := func(at, from, long int) float64 {
		return 100 * min(max(float64(at-from)/float64(max(long-1, 1)), 0), 1)
	}
	return fmt.Sprintf("%.1f %.1f", part(at.X, of.Ink.Min.X, of.Ink.Dx()), part(at.Y, of.Ink.Min.Y, of.Ink.Dy())), true
}

// furthest is black or white, whichever a colour has more contrast to.
func furthest(c colour.Colour) colour.Colour {
	black, white := colour.Colour{}, colour.Colour{R: 1, G: 1, B: 1}
	if colour.Contrast(c, black) > colour.Contrast(c, white) {
		return black
	}
	return white
}
