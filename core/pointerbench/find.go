package pointerbench

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"ivelt/core/pointerset"
	"ivelt/core/say"
)

// From what on something is a finding. That of contrast follows WCAG 2.2, success criterion 1.4.11;
// the others are common practice, no source.
const (
	farTip     = 8.0 // the size of what is drawn parted by this is how far a hot spot may be off
	leastTip   = 2.0 // px that it may be off in any size
	longTurn   = 10 * time.Second
	manyFrames = 240
	largeJump  = 4.0
	softEdge   = 1.5 // px
	findable   = 3.0 // contrast to the worst ground
)

// Worst is the contrast of a pointer to the ground on which it is seen least: one between its
// inside and its outline, which both differ from by the root of the contrast between them.
func (r *Report) Worst() float64 { return math.Sqrt(r.Contrast) }

func (b *bench) tell(grave bool, file string, says say.Message) {
	b.report.Findings = append(b.report.Findings, Finding{Code: strings.TrimPrefix(says.Code, "bench/"), File: file, Says: says, Text: says.String(), Grave: grave})
}

// find tells what is wrong, what is felt most first.
func (b *bench) find() {
	r := b.report
	var needed, others []string
	for i := range r.Roles {
		role := &r.Roles[i]
		switch {
		case role.State == Missing && slices.Contains(role.Needed, pointerset.XCursor):
			needed = append(needed, role.Title)
		case role.State == Missing && role.Lent == "":
			others = append(others, role.Name)
		case len(role.Other) > 0:
			b.tell(slices.Contains(role.Needed, pointerset.XCursor), role.File, say.Of("bench/names-lack", role.Title, role.blind(), strings.Join(role.Other[0].own(role.Role), ", ")))
		case role.usable() && slices.Contains(role.Needed, pointerset.XCursor) && slices.Contains(role.Lacks, role.Name):
			b.tell(false, role.File, say.Of("bench/css-name-lacks", role.Title, role.Name))
		}
	}
	if len(needed) > 0 {
		b.tell(true, "", say.Of("bench/roles-missing", strings.Join(needed, "; ")))
	}
	for _, s := range r.Shapes {
		b.shape(s)
	}
	if len(r.Broken) > 0 {
		b.tell(true, "", say.Of("bench/links-broken", strings.Join(r.Broken, ", ")))
	}
	for _, s := range r.Scaled {
		if s.Asked != s.Nearest && s.Edge >= softEdge || s.Nearest*4 < s.Asked*3 || s.Asked*4 < s.Nearest*3 {
			b.tell(true, "", say.Of("bench/size-missing", s.Asked, s.Nearest, fmt.Sprintf("%.1f", s.Edge)))
		}
	}
	if r.Contrast > 0 && r.Worst() < findable {
		b.tell(true, "", say.Of("bench/hard-to-find", r.Inside.Hex(), r.Outline.Hex(), fmt.Sprintf("%.1f", r.Contrast), fmt.Sprintf("%.1f", r.Worst())))
	}
	if len(others) > 0 {
		b.tell(false, "", say.Of("bench/roles-asked-seldom", strings.Join(others, ", ")))
	}
	slices.SortStableFunc(r.Findings, func(a, c Finding) int {
		switch {
		case a.Grave == c.Grave:
			return 0
		case a.Grave:
			return -1
		}
		return 1
	})
}

// blind are the toolkits that show something else for a role.
func (of *Role) blind() string {
	var out []string
	for _, s := range of.Other {
		if !slices.Contains(out, s.By) {
			out = append(out, s.By)
		}
	}
	return strings.Join(out, ", ")
}

// own are the names that are not those of other roles.
func (s Shown) own(role *pointerset.Role) []string {
	return slices.DeleteFunc(slices.Clone(s.Names), func(n string) bool {
		other := pointerset.RoleOf(n)
		return other != nil && other != role || len(n) == hashed
	})
}

// hashed is how long names are that older programs ask by: the sum of a picture, in hexadecimal.
const hashed = 32

// shape tells what is wrong with one shape.
func (b *bench) shape(s Shape) {
	if s.Wrong != "" {
		b.tell(true, s.File, say.Of("bench/damaged", s.File, s.Wrong))
		return
	}
	if s.Twin != "" {
		b.tell(false, s.File, say.Of("bench/drawn-twice", s.File, s.Twin))
	}
	var outside, far, apart []string
	counts := map[int]bool{}
	largest := s.Sizes[len(s.Sizes)-1]
	for _, of := range s.Sizes {
		counts[of.Frames] = true
		name := fmt.Sprint(of.Nominal)
		switch {
		case of.outside():
			outside = append(outside, name)
		case of.far():
			far = append(far, name)
		}
		if moved(of, largest) {
			apart = append(apart, name)
		}
		switch {
		case of.Frames > 1 && of.Turn == 0:
			b.tell(true, s.File, say.Of("bench/no-delay", s.File, of.Nominal))
		case of.Turn > longTurn || of.Frames > manyFrames:
			b.tell(false, s.File, say.Of("bench/long-turn", s.File, of.Frames, fmt.Sprintf("%.1f", of.Turn.Seconds())))
		case of.Jump > largeJump:
			b.tell(false, s.File, say.Of("bench/jumps", s.File, fmt.Sprintf("%.0f", of.Jump)))
		}
	}
	px := func(list []string) string { return strings.Join(list, ", ") }
	if len(outside) > 0 {
		b.tell(true, s.File, say.Of("bench/hot-outside", s.File, px(outside)))
	}
	if len(far) > 0 {
		b.tell(true, s.File, say.Of("bench/hot-far", s.File, px(far)))
	}
	if len(apart) > 0 {
		b.tell(true, s.File, say.Of("bench/hot-moves", s.File, px(apart), largest.Nominal))
	}
	if len(counts) > 1 {
		b.tell(false, s.File, say.Of("bench/frames-differ", s.File))
	}
}

func (of Size) outside() bool { return of.HotX >= of.Width || of.HotY >= of.Height }

// far reports whether the hot spot is not where it is expected.
func (of Size) far() bool {
	return of.Tip > max(leastTip, float64(max(of.Ink.Dx(), of.Ink.Dy()))/farTip)
}

// moved reports whether the hot spot is elsewhere in a picture than in a larger one, by what is
// drawn there: pictures of some sizes have more room around.
func moved(a, largest Size) bool {
	if a.Ink.Empty() || largest.Ink.Empty() {
		return false
	}
	off := func(hot, from, long, hotL, fromL, longL int) float64 {
		return math.Abs(float64(hot-from) - float64(hotL-fromL)*float64(long)/float64(longL))
	}
	most := max(off(a.HotX, a.Ink.Min.X, a.Ink.Dx(), largest.HotX, largest.Ink.Min.X, largest.Ink.Dx()),
		off(a.HotY, a.Ink.Min.Y, a.Ink.Dy(), largest.HotY, largest.Ink.Min.Y, largest.Ink.Dy()))
	return most > max(leastTip, float64(max(a.Ink.Dx(), a.Ink.Dy()))/farTip)
}

func median(of []float64) float64 {
	if len(of) == 0 {
		return 0
	}
	of = slices.Sorted(slices.Values(of))
	return of[len(of)/2]
}
