package pointerbench

import (
	"fmt"
	"slices"

	"ivelt/core/colour"
	"ivelt/core/layer"
	"ivelt/core/parcel"
	"ivelt/core/pointerset"
)

// Mends are the codes of findings that a recipe of [Report.Mend] clears.
var Mends = []string{"roles-missing", "roles-asked-seldom", "names-lack", "hot-far", "hot-moves", "hot-outside", "size-missing", "hard-to-find"}

// Mend is the recipe of a layer over the set that clears its findings, as far as they can be:
// pointers that are missing get the picture of the nearest there is, hot spots go where they are
// expected, or where they are in the largest size, sizes in use are made, and an outline that is
// lost on some ground becomes black or white, with an inside that stands out from it. false if there is nothing to be done.
func (r *Report) Mend(folder, name string) (layer.Recipe, bool) {
	out := layer.Recipe{Name: name + ", mended", Folder: folder + "-Mended", Base: layer.Base{Kind: parcel.Pointer, Folder: folder}}
	of := map[string]*Role{}
	for i := range r.Roles {
		of[r.Roles[i].Name] = &r.Roles[i]
	}
	for _, role := range r.Roles {
		like := role.File
		if role.State == Missing {
			like = nearestKin(of, role.Role)
		}
		if like == "" {
			continue
		}
		for _, n := range role.Names {
			if role.State == Missing || slices.Contains(role.Lacks, n) {
				out.Pointers = append(out.Pointers, layer.Pointing{Name: n, Like: like})
			}
		}
	}
	for _, s := range r.Shapes {
		if hot, ok := s.hot(); ok {
			out.Pointers = append(out.Pointers, layer.Pointing{Name: s.File, Hot: hot})
		}
	}
	var sizes []int
	for _, s := range r.Scaled {
		if s.Asked != s.Nearest {
			sizes = append(sizes, s.Asked)
		}
	}
	if len(sizes) > 0 {
		out.Every = &layer.Every{Sizes: sizes}
	}
	if r.Contrast > 0 && r.Worst() < findable {
		outline := furthest(r.Inside)
		inside := r.Inside
		if made, ok := colour.Nearest(inside, outline, findable*findable*1.02); ok { // a little more, as it is rounded
			inside = made
		}
		out.Dyes = []layer.Dye{{To: inside.Hex(), Outline: outline.Hex()}}
	}
	return out, out.Size() > 0
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

// hot is where the hot spot of a shape has to go; false if it can stay.
func (s Shape) hot() (string, bool) {
	if len(s.Sizes) == 0 {
		return "", false
	}
	largest := s.Sizes[len(s.Sizes)-1]
	wrong := false
	for _, of := range s.Sizes {
		wrong = wrong || of.far() || of.outside() || moved(of, largest)
	}
	if !wrong {
		return "", false
	}
	x, y := largest.HotX, largest.HotY
	if largest.far() {
		x, y = largest.Expected.X, largest.Expected.Y
	}
	ink := largest.Ink
	if ink.Empty() {
		return "", false
	}
	part := func(at, from, long int) float64 {
		return 100 * min(max(float64(at-from)/float64(max(long-1, 1)), 0), 1)
	}
	return fmt.Sprintf("%.1f %.1f", part(x, ink.Min.X, ink.Dx()), part(y, ink.Min.Y, ink.Dy())), true
}

// furthest is black or white, whichever a colour has more contrast to.
func furthest(c colour.Colour) colour.Colour {
	black, white := colour.Colour{}, colour.Colour{R: 1, G: 1, B: 1}
	if colour.Contrast(c, black) > colour.Contrast(c, white) {
		return black
	}
	return white
}
