package markets

import (
	"cmp"
	"context"
	"math"
	"slices"
	"strings"
	"time"

	"ivelt/app/desks"
	"ivelt/core/colour"
	"ivelt/core/market"
	"ivelt/core/parcel"
	"ivelt/core/reading"
	"ivelt/core/synonym"
	"ivelt/core/wordindex"
	"ivelt/store"
)

// Query is what is looked for in the markets. Zero fields ask for nothing.
type Query struct {
	Words    string // each, or another word for it, has to be there as the beginning of a word
	Exact    bool   // do not guess at words that no entry has
	Kind     string
	Only     bool   // entries of that kind are counted alone
	Shade    string // dark or light
	Hue      string // one of [colour.Hues], grey or mixed
	Shape    string // round or square
	Dresses  string // a toolkit's part, for example gtk-4
	Licence  string // free: one that lets it be changed and passed on
	Packaged bool
	Kept     bool           // a version of the last two years
	Safe     bool           // none that may crash, and no nightly one
	Fits     *desks.Managed // some surface of it would be dressed, and none was made for another version
	Sort     string
	Taste    *market.Looks // ranks by nearness to these looks
	From     int           // of the results, how many to leave out
	Most     int           // how many to return; 0 is 60
}

// Result is what was found.
type Result struct {
	Entries  []store.MarketEntryRow
	Total    int
	Kinds    map[string]int // how many of each kind there are, the other wishes kept
	Spelling string         // the words that were looked for instead, if none had those
}

var toolkits = []string{"gtk-2", "gtk-3", "gtk-4"}

// KindBar stands in a [Query] and a [Result] for window themes that have a part for a shell
// or a bar too, and so are themes of those.
const KindBar = "bar"

// dressesBar is the bit of what no toolkit draws.
const dressesBar = 1 << 7

var hueNames = append([]string{"grey", "mixed"}, colour.Hues...)

var (
	shades = []string{"dark", "light"}
	shapes = []string{"", "round", "square"}
)

// free tells whether a licence (SPDX) lets a piece be changed and passed on.
func free(licence string) bool {
	l := strings.ToUpper(licence)
	return l != "" && !strings.Contains(l, "-NC") && !strings.Contains(l, "-ND") && !strings.HasPrefix(l, "LICENSEREF") && l != "NONE" && l != "NOASSERTION"
}

const usualPage = 60

// Search looks through what the markets have.
func (m *Markets) Search(ctx context.Context, q Query) (Result, error) {
	c, err := m.catalogue(ctx)
	if err != nil {
		return Result{}, err
	}
	hits, spelling := c.having(q.Words, q.Exact)
	out := Result{Kinds: map[string]int{}, Spelling: spelling}
	if q.Most == 0 {
		q.Most = usualPage
	}
	found := c.sift(q, hits, out.Kinds)
	out.Total = found.Count()
	var ids []uint
	for _, i := range c.ranked(q, found, out.Total) {
		ids = append(ids, c.cards[i].id)
	}
	out.Entries, err = m.store.MarketEntries(ctx, ids)
	return out, err
}

// sift leaves of the places hit, nil for all, those that are wanted, and counts by kind what
// there is of them whatever kind is asked for. It goes through the cards as they lie: that is
// many times as fast as in any order.
func (c *catalogue) sift(q Query, hits wordindex.Bits, kinds map[string]int) wordindex.Bits {
	if hits == nil {
		hits = wordindex.NewBits(len(c.cards))
		for i := range hits {
			hits[i] = ^uint64(0)
		}
		if rest := len(c.cards) % 64; rest > 0 {
			hits[len(hits)-1] = 1<<rest - 1
		}
	}
	hits.Not(c.gone)
	wants := c.wants(q)
	kind := slices.Index(c.kinds, q.Kind)
	if q.Only && kind >= 0 { // the others are not even counted
		hits.And(c.ofKind[kind])
	}
	asked := func(e *card) bool {
		return q.Kind == "" || int(e.kind) == kind || q.Kind == KindBar && e.dresses&dressesBar != 0
	}
	byKind, bars := make([]int, len(c.kinds)+1), 0
	found := wordindex.NewBits(len(c.cards))
	for i := range hits.All {
		e := &c.cards[i]
		of := asked(e)
		if q.Only && !of || !wants(e) {
			continue
		}
		byKind[e.kind]++
		if e.dresses&dressesBar != 0 {
			bars++
		}
		if of {
			found.Set(i)
		}
	}
	for k, n := range byKind[:len(c.kinds)] {
		if n > 0 {
			kinds[c.kinds[k]] = n
		}
	}
	if bars > 0 {
		kinds[KindBar] = bars
	}
	return found
}

// ranked are the places of one page of what was found, in order.
func (c *catalogue) ranked(q Query, found wordindex.Bits, total int) []int32 {
	from, to := min(q.From, total), min(q.From+q.Most, total)
	if q.Taste != nil {
		return c.nearest(found, *q.Taste, to)[from:]
	}
	order := c.orders[q.Sort]
	less := orderings[q.Sort]
	if order == nil {
		order, less = c.orders["liked"], orderings["liked"]
	}
	if total < len(c.cards)/256 { // sorting the few is faster than going through all
		few := slices.Collect(found.All)
		slices.SortStableFunc(few, func(a, b int32) int { return less(&c.cards[a], &c.cards[b]) })
		return few[from:to]
	}
	out, n := make([]int32, 0, to-from), 0
	for _, i := range order {
		if n == to {
			break
		}
		if !found.Has(i) {
			continue
		}
		if n++; n > from {
			out = append(out, i)
		}
	}
	return out
}

// wants returns what a query asks for besides words and kind.
func (c *catalogue) wants(q Query) func(*card) bool {
	shade, shape := slices.Index(shades, q.Shade), slices.Index(shapes, q.Shape)
	hue := slices.Index(hueNames, q.Hue)
	kit := slices.Index(toolkits, q.Dresses)
	since := int32(0)
	if q.Kept {
		since = int32(twoYearsAgo())
	}
	fits := func(*card) bool { return true }
	if q.Fits != nil {
		fits = c.fits(q.Fits)
	}
	return func(e *card) bool {
		return fits(e) && (q.Shade == "" || shade >= 0 && e.shade&(1<<shade) != 0) && (q.Shape == "" || int(e.shape) == shape) &&
			(q.Hue == "" || e.flags&flagMeasured != 0 && int(e.hue) == hue) &&
			(q.Dresses == "" || kit >= 0 && e.dresses&(1<<kit) != 0) &&
			(q.Licence == "" || e.flags&flagFree != 0) && (!q.Packaged || e.flags&flagPackaged != 0) &&
			(!q.Safe || e.flags&flagRisky == 0) && e.date >= since
	}
}

// fits returns whether some surface of a desk would be dressed by an entry, and
// none of them needs another version.
func (c *catalogue) fits(d *desks.Managed) func(*card) bool {
	kits, kinds, versions := uint8(0), make([]bool, len(c.kinds)), map[string]string{}
	for _, s := range d.Surfaces() {
		versions[s.ID] = s.Version
		for _, p := range s.Parts {
			for i, kit := range toolkits {
				if strings.HasPrefix(p.Folder, kit) {
					kits |= 1 << i
				}
			}
			if s.Kind == "shell" {
				kits |= dressesBar
			}
		}
		for k, name := range c.kinds {
			kinds[k] = kinds[k] || s.LooksIn(name) != nil
		}
	}
	theme := slices.Index(c.kinds, string(parcel.Theme))
	for k, name := range c.kinds { // these are told to programs by their path
		kinds[k] = kinds[k] || slices.Contains([]parcel.Kind{parcel.Backdrop, parcel.Palette, parcel.Style, parcel.Bundle}, parcel.Kind(name))
	}
	known := map[[2]string]bool{} // thousands of entries ask the same
	return func(e *card) bool {
		if int(e.kind) == theme && e.dresses&kits == 0 && e.flags&flagUntold == 0 || !kinds[e.kind] {
			return false
		}
		for made := range strings.FieldsSeq(c.versions(e)) {
			surface, version, _ := strings.Cut(made, "=")
			have := versions[surface]
			if have == "" {
				continue
			}
			pair := [2]string{version, have}
			fits, ok := known[pair]
			if !ok {
				fits = reading.Fits(version, have)
				known[pair] = fits
			}
			if !fits {
				return false
			}
		}
		return true
	}
}

// nearest returns the most entries of those found whose looks are nearest, in
// that order. What was not measured comes last, by likes.
func (c *catalogue) nearest(found wordindex.Bits, to market.Looks, most int) []int32 {
	type near struct {
		at int32
		d  float64
	}
	if most == 0 {
		return nil
	}
	best := make([]near, 0, most+1)
	want := to.Point()
	for i := range found.All {
		d, e := math.Inf(1), &c.cards[i]
		if e.flags&flagMeasured != 0 {
			d = 0
			for n, f := range e.looks {
				d += (want[n] - float64(f)) * (want[n] - float64(f))
			}
		}
		comes := func(o near) int { // before it: nearer, or as near and liked more
			return cmp.Or(cmp.Compare(o.d, d), cmp.Compare(e.likes, c.cards[o.at].likes), -1)
		}
		if len(best) == most && comes(best[most-1]) < 0 {
			continue
		}
		place, _ := slices.BinarySearchFunc(best, d, func(o near, _ float64) int { return comes(o) })
		best = slices.Insert(best, place, near{i, d})
		best = best[:min(len(best), most)]
	}
	out := make([]int32, len(best))
	for n, b := range best {
		out[n] = b.at
	}
	return out
}

// having marks the places of entries that have every word, nil if none is asked for. A word
// that no entry has is taken for those it is nearest to.
func (c *catalogue) having(text string, exact bool) (hits wordindex.Bits, spelling string) {
	words := wordindex.Words(text)
	if len(words) == 0 {
		return nil, ""
	}
	var spelled []string
	corrected := false
	for _, w := range words {
		any := slices.DeleteFunc(append([]string{w}, synonym.Of(w)...), func(w string) bool { return !c.begins(w) })
		whole := false
		if len(any) > 0 {
			spelled = append(spelled, w)
		} else {
			if any = c.spelled(w); exact || len(any) == 0 {
				return wordindex.NewBits(len(c.cards)), ""
			}
			corrected, whole = true, true
			spelled = append(spelled, any[0])
		}
		of := wordindex.NewBits(len(c.cards))
		for _, w := range any {
			c.mark(w, whole, of)
		}
		if hits == nil {
			hits = of
		} else {
			hits.And(of)
		}
	}
	if corrected {
		spelling = strings.Join(spelled, " ")
	}
	return hits, spelling
}

func twoYearsAgo() int {
	t := time.Now().AddDate(-2, 0, 0)
	return t.Year()*10000 + int(t.Month())*100 + t.Day()
}
