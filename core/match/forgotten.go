package match

import (
	"cmp"
	"slices"
	"strconv"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// pairs are facets of which the second is set apart from the first and wants to
// be thought of too (common practice, no source): the theme of frames beside that
// of windows, that of notices beside that of the bar, the title's font beside the
// others'.
var pairs = []struct{ first, second string }{
	{desk.FacetWidgets, desk.FacetFrame}, {desk.FacetBar, desk.FacetNotices}, {desk.FacetFont, desk.FacetFontTitle},
}

// forgotten tells of second settings that an outfit says nothing of, and that do
// not go with what it says of the first.
func (b *Board) forgotten(d *desk.Desk, o outfit.Outfit) {
	for _, p := range pairs {
		first := o.Want(p.first)
		if first == "" || o.Want(p.second) != "" {
			continue
		}
		b.eachUnasked(p.second, func(c *Cell) {
			want, differs := first, first != c.Reading.Value
			if p.first == desk.FacetFont {
				family, _ := desk.SplitFont(first)
				its, size := desk.SplitFont(c.Reading.Value)
				want, differs = family+" "+strconv.FormatFloat(cmp.Or(size, 11), 'f', -1, 64), its != family
			}
			f, _ := c.Surface.Facet(p.second)
			if !differs || reading.Possible(d, c.Surface, f, want) != nil {
				return
			}
			c.Asides = append(c.Asides, Aside{
				Code:   SecondOne,
				Says:   say.Of("match/outfit-leaves-open-what-says", say.Lower(desk.FacetTitle(p.second)), say.Lower(desk.FacetTitle(p.first)), quoteEmpty(c.Reading.Value)),
				Remedy: Fix{Kind: ByDraft, Says: say.Of("match/put-draft-too", want), Facet: p.second, Want: want},
			})
		})
	}
	if o.Want(desk.FacetPointer) != "" && o.Want(desk.FacetPointerSize) == "" {
		b.sizes(d)
	}
}

// sizes tells of a pointer whose size is not the same everywhere.
func (b *Board) sizes(d *desk.Desk) {
	told := map[string]int{} // how many surfaces are told a size
	b.eachUnasked(desk.FacetPointerSize, func(c *Cell) {
		if n, err := strconv.Atoi(c.Reading.Value); err == nil && n > 0 {
			told[c.Reading.Value]++
		}
	})
	if len(told) < 2 {
		return
	}
	var sizes []string
	for size := range told {
		sizes = append(sizes, size)
	}
	slices.SortFunc(sizes, func(x, y string) int { // that of most, else the larger
		a, _ := strconv.Atoi(x)
		b, _ := strconv.Atoi(y)
		return cmp.Or(cmp.Compare(told[y], told[x]), cmp.Compare(b, a))
	})
	want := sizes[0]
	b.eachUnasked(desk.FacetPointerSize, func(c *Cell) {
		f, _ := c.Surface.Facet(desk.FacetPointerSize)
		if c.Reading.Value == want || told[c.Reading.Value] == 0 || reading.Possible(d, c.Surface, f, want) != nil {
			return
		}
		c.Asides = append(c.Asides, Aside{
			Code:   SecondOne,
			Says:   say.Of("match/pointer-size-set-apart-from", c.Reading.Value, want),
			Remedy: Fix{Kind: ByDraft, Says: say.Of("match/put-px-draft-all", want), Facet: desk.FacetPointerSize, Want: want},
		})
	})
}

func (b *Board) eachUnasked(facet string, do func(*Cell)) {
	for i := range b.Threads {
		if b.Threads[i].Facet != facet {
			continue
		}
		for j := range b.Threads[i].Cells {
			if c := &b.Threads[i].Cells[j]; c.State == Unasked {
				do(c)
				c.say()
			}
		}
	}
}
