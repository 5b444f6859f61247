package pointerbench

import (
	"cmp"
	"fmt"
	"image"
	"maps"
	"slices"
	"time"

	"ivelt/core/colour"
	"ivelt/core/layer"
	"ivelt/core/parcel"
	"ivelt/core/pointerset"
	"ivelt/core/say"
)

// Mends are the codes of findings that a recipe of [Report.Mend] clears.
var Mends = []string{
	"roles-missing", "roles-asked-seldom", "names-lack", "css-name-lacks", "links-broken", "damaged", "drawn-twice", "hot-far", "hot-moves", "hot-outside",
	"no-delay", "long-turn", "jumps", "frames-differ", "size-missing", "hard-to-find",
}

// Wishes are what a person wants changed in a set.
type Wishes struct {
	Name     string                       // of what is made; "" for that of the set, mended
	Like     map[string]string            // by the name of a role that is missing or damaged: the file whose picture it gets
	Names    bool                         // names that lead nowhere, or to what cannot be read, become links to the nearest
	Twins    bool                         // what is drawn twice becomes a link
	Hot      map[string]image.Point       // by file: where the hot spot goes in its largest picture, px
	Motion   map[string]pointerset.Motion // by file: how it moves
	Sizes    []int                        // that are made, px
	LeftHand bool                         // what points is mirrored
	Outline  bool                         // an outline that is lost on some ground stands out
}

// Proposed are the wishes that clear the findings, as far as they can be cleared: pointers that are
// missing get the picture of the nearest there is, hot spots go where they are expected, or where
// they are in the largest size, what moves does so in all sizes alike, with pauses, in a turn of at
// most ten seconds and without a jump, sizes in use are made, and an outline that is lost on some
// ground becomes black or white, with an inside that stands out from it.
func (r *Report) Proposed() Wishes {
	w := Wishes{Like: map[string]string{}, Hot: map[string]image.Point{}, Motion: map[string]pointerset.Motion{}, Twins: true, Outline: r.Contrast > 0 && r.Worst() < findable}
	w.Names = slices.ContainsFunc(r.Findings, func(f Finding) bool {
		return slices.Contains([]string{"names-lack", "css-name-lacks", "links-broken", "damaged"}, f.Code)
	})
	for _, role := range r.Roles {
		if role.usable() {
			continue
		}
		if like := r.nearest(role.Role); like != "" {
			w.Like[role.Name] = like
		}
	}
	for _, s := range r.Shapes {
		if at, ok := s.expectedHot(); ok {
			w.Hot[s.File] = at
		}
		if m := s.expectedMotion(r.usualPause()); !m.None() {
			w.Motion[s.File] = m
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
	var err error
	if out.Pointers, err = r.links(w); err != nil {
		return out, err
	}
	changed := map[string]layer.Pointing{}
	for file, at := range w.Hot {
		s := r.shape(file)
		if s == nil || len(s.Sizes) == 0 {
			return out, say.Errorf("there is no pointer %q in the set", file)
		}
		hot, ok := s.Sizes[len(s.Sizes)-1].part(at)
		if !ok {
			return out, say.Errorf("%s: %d, %d is not in its picture", file, at.X, at.Y)
		}
		changed[file] = layer.Pointing{Name: file, Hot: hot}
	}
	for file, m := range w.Motion {
		if s := r.shape(file); s == nil || !s.Moves() {
			return out, say.Errorf("there is no pointer %q in the set that moves", file)
		}
		c := changed[file]
		c.Name, c.Without, c.Back, c.Pictures, c.Turn = file, m.Without, m.Back, m.Pictures, int(m.Turn.Milliseconds())
		changed[file] = c
	}
	for _, file := range slices.Sorted(maps.Keys(changed)) {
		out.Pointers = append(out.Pointers, changed[file])
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

// links are the names that get the picture of another file.
func (r *Report) links(w Wishes) (out []layer.Pointing, err error) {
	done := map[string]bool{}
	link := func(like string, names ...string) {
		for _, n := range names {
			if !done[n] && n != like {
				done[n] = true
				out = append(out, layer.Pointing{Name: n, Like: like})
			}
		}
	}
	for _, role := range r.Roles {
		if role.usable() {
			if w.Names {
				link(role.File, role.Lacks...)
			}
			continue
		}
		like := w.Like[role.Name]
		if like == "" {
			continue
		}
		if s := r.shape(like); s == nil || s.Wrong != "" {
			return out, say.Errorf("%s: there is no pointer %q in the set", role.Title, like)
		}
		if role.State == Missing {
			link(like, role.Names...)
			continue
		}
		link(like, r.shape(role.File).Names...)
		if w.Names {
			link(like, role.Lacks...)
		}
	}
	arrow := r.nearest(pointerset.RoleOf("default"))
	for _, s := range r.Shapes {
		switch {
		case s.Wrong != "" && w.Names && arrow != "" && !done[s.Names[0]] && !r.isOfRole(s.File):
			link(arrow, s.Names...)
		case s.Twin != "" && s.Wrong == "" && w.Twins && s.Set == "":
			link(s.Twin, s.Names...)
		}
	}
	for _, n := range r.Broken {
		if w.Names && arrow != "" && pointerset.RoleOf(n) == nil {
			link(arrow, n)
		}
	}
	return out, nil
}

// isOfRole reports whether a file is what a role shows.
func (r *Report) isOfRole(file string) bool {
	return slices.ContainsFunc(r.Roles, func(role Role) bool { return role.File == file })
}

// usable reports whether programs find a picture for a role.
func (of *Role) usable() bool { return of.State != Missing && of.State != Damaged }

// shape is the shape of a file, nil if there is none.
func (r *Report) shape(file string) *Shape {
	i := slices.IndexFunc(r.Shapes, func(s Shape) bool { return s.File == file })
	if i < 0 {
		return nil
	}
	return &r.Shapes[i]
}

// nearest is the file that a role shows, of what can be read; or else that of the nearest kin that
// the set has, or of the kin's kin; "" if there is none.
func (r *Report) nearest(role *pointerset.Role) string {
	of := map[string]*Role{}
	for i := range r.Roles {
		of[r.Roles[i].Name] = &r.Roles[i]
	}
	seen := map[string]bool{}
	for next := []*pointerset.Role{role}; len(next) > 0; next = next[1:] {
		if at := of[next[0].Name]; at != nil && at.usable() {
			return at.File
		}
		for _, s := range r.Shapes { // another of its names may have a picture
			if s.Wrong == "" && slices.ContainsFunc(next[0].Names, func(n string) bool { return slices.Contains(s.Names, n) }) {
				return s.File
			}
		}
		for _, n := range append(slices.Clone(next[0].Kin), next[0].Lent) {
			if kin := of[n]; kin != nil && !seen[n] {
				seen[n] = true
				next = append(next, kin.Role)
			}
		}
	}
	return ""
}

// usualPause is how long one picture of what moves in the set is seen, in the median; else 50 ms
// (common practice, no source).
func (r *Report) usualPause() time.Duration {
	var all []time.Duration
	for _, s := range r.Shapes {
		if s.Moves() && s.largest().Turn > 0 {
			all = append(all, s.largest().Turn/time.Duration(s.largest().Frames))
		}
	}
	if len(all) == 0 {
		return 50 * time.Millisecond
	}
	slices.Sort(all)
	return all[len(all)/2]
}

// Moves reports whether a shape has several pictures in some size.
func (s *Shape) Moves() bool {
	return slices.ContainsFunc(s.Sizes, func(of Size) bool { return of.Frames > 1 })
}

// largest is the largest size of a shape that can be read.
func (s *Shape) largest() Size { return s.Sizes[len(s.Sizes)-1] }

// expectedMotion is how a shape has to move so that nothing is wrong with that; none if it can stay.
func (s *Shape) expectedMotion(pause time.Duration) (m pointerset.Motion) {
	if !s.Moves() {
		return m
	}
	var turn time.Duration
	most, unlike, pauseless := 0, false, false
	for _, of := range s.Sizes {
		unlike = unlike || of.Frames != s.Sizes[0].Frames
		pauseless = pauseless || of.Frames > 1 && of.Turn == 0
		if of.Frames > most {
			most, turn = of.Frames, of.Turn
		}
	}
	if largest := s.largest(); largest.Jump > largeJump {
		for n := range largest.Spare {
			m.Without = append(m.Without, largest.Frames-largest.Spare+n+1)
		}
		if m.Back = largest.Spare == 0; m.Back {
			most, turn = 2*most-2, 2*turn
		}
	}
	if unlike || most > manyFrames {
		m.Pictures = min(most, manyFrames)
	}
	if turn == 0 {
		turn = time.Duration(most) * pause.Round(time.Millisecond)
	}
	if pauseless || unlike || turn > longTurn {
		m.Turn = min(max(turn, time.Millisecond), longTurn)
	}
	return m
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
