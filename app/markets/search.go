package markets

import (
	"cmp"
	"context"
	"math"
	"slices"
	"strings"
	"time"
	"unicode"

	"ivelt/app/desks"
	"ivelt/core/colour"
	"ivelt/core/market"
	"ivelt/core/parcel"
	"ivelt/core/reading"
	"ivelt/core/synonym"
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

// card is what ranking needs of an entry. All of them are held in memory.
type card struct {
	id            uint
	kind          uint8
	shade         uint8 // a bit each: dark, light
	hue           uint8 // its name, by place in hueNames
	shape         uint8 // 1 round, 2 square, 0 none
	flags         uint8
	dresses       uint8 // toolkits, a bit each
	date          int32
	likes, rising int32
	looks         [6]float32 // as a point, see [market.Looks.Point]
}

const (
	flagFree = 1 << iota
	flagPackaged
	flagRisky
	flagVariant
	flagMeasured
	flagUntold // what it dresses is not said
)

// catalogue is every entry of the markets that are on, in memory.
type catalogue struct {
	cards  []card // by id
	kinds  []string
	orders map[string][]int32 // places in cards, sorted
	terms  []string           // that entries are found by, sorted
	made   map[uint]string    // what versions those entries were made for that say so
}

var toolkits = []string{"gtk-2", "gtk-3", "gtk-4"}

// KindBar stands in a [Query] and a [Result] for window themes that have a part for a shell
// or a bar too, and so are themes of those.
const KindBar = "bar"

// dressesBar is the bit of what no toolkit draws.
const dressesBar = 1 << 7

var hueNames = append([]string{"grey", "mixed"}, colour.Hues...)

func (m *Markets) catalogue(ctx context.Context) (*catalogue, error) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.cards != nil {
		return m.cards, nil
	}
	c := &catalogue{orders: map[string][]int32{}, made: map[uint]string{}}
	kinds := map[string]uint8{}
	err := m.store.MarketRows(ctx, func(e store.MarketEntryRow) {
		k, ok := kinds[e.Kind]
		if !ok && len(c.kinds) < 255 {
			k = uint8(len(c.kinds))
			kinds[e.Kind], c.kinds = k, append(c.kinds, e.Kind)
		}
		c.cards = append(c.cards, cardOf(e, k))
		if e.MadeFor != "" {
			c.made[e.ID] = e.MadeFor
		}
	})
	if err != nil {
		return nil, err
	}
	for name, less := range map[string]func(a, b card) int{
		"liked":  func(a, b card) int { return cmp.Compare(b.likes, a.likes) },
		"rising": func(a, b card) int { return cmp.Compare(b.rising, a.rising) },
		"newest": func(a, b card) int { return cmp.Compare(b.date, a.date) },
	} {
		order := make([]int32, len(c.cards))
		for i := range order {
			order[i] = int32(i)
		}
		slices.SortStableFunc(order, func(a, b int32) int { return less(c.cards[a], c.cards[b]) })
		c.orders[name] = order
	}
	if c.terms, err = m.store.MarketTerms(ctx); err != nil {
		return nil, err
	}
	m.cards = c
	return c, nil
}

func cardOf(e store.MarketEntryRow, kind uint8) card {
	c := card{id: e.ID, kind: kind, date: int32(e.Date), likes: int32(e.Likes), rising: int32(e.Rising)}
	for i, f := range LooksOf(e).Point() {
		c.looks[i] = float32(f)
	}
	if e.Measured {
		c.flags |= flagMeasured
		l := LooksOf(e)
		c.shade = 1 << slices.Index(shades, l.Shade())
		if l.TwoForms {
			c.shade = 1<<len(shades) - 1
		}
		c.shape = uint8(max(0, slices.Index(shapes, l.Shape())))
		c.hue = uint8(slices.Index(hueNames, LooksOf(e).HueName()))
	}
	for i, kit := range toolkits {
		if strings.Contains(e.Dresses, kit) {
			c.dresses |= 1 << i
		}
	}
	if e.Kind == string(parcel.Theme) && slices.ContainsFunc(strings.Fields(e.Dresses), func(part string) bool { return !strings.HasPrefix(part, "gtk-") }) {
		c.dresses |= dressesBar
	}
	for flag, on := range map[uint8]bool{flagFree: free(e.Licence), flagPackaged: e.Packaged, flagRisky: e.Risky, flagVariant: e.VariantOf != "", flagUntold: e.Dresses == ""} {
		if on {
			c.flags |= flag
		}
	}
	return c
}

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
	hits, spelling, err := m.words(ctx, c, q.Words, q.Exact)
	if err != nil {
		return Result{}, err
	}
	out := Result{Kinds: map[string]int{}, Spelling: spelling}
	if q.Most == 0 {
		q.Most = usualPage
	}
	wants := c.wants(q)
	byKind := make([]int, len(c.kinds)+1)
	kind := slices.Index(c.kinds, q.Kind)
	order := c.orders[q.Sort]
	if order == nil {
		order = c.orders["liked"]
	}
	asked := func(e *card) bool {
		return q.Kind == "" || int(e.kind) == kind || q.Kind == KindBar && e.dresses&dressesBar != 0
	}
	var found []int32
	for _, i := range order {
		e := &c.cards[i]
		if q.Only && !asked(e) {
			continue
		}
		if hits != nil && !hits[i] || !wants(e) {
			continue
		}
		byKind[e.kind]++
		if e.dresses&dressesBar != 0 {
			out.Kinds[KindBar]++
		}
		if asked(e) {
			found = append(found, i)
		}
	}
	out.Total = len(found)
	if q.Taste != nil {
		found = c.nearest(found, *q.Taste, q.From+q.Most)
	}
	for k, n := range byKind[:len(c.kinds)] {
		if n > 0 {
			out.Kinds[c.kinds[k]] = n
		}
	}
	var ids []uint
	for _, i := range found[min(q.From, len(found)):min(q.From+q.Most, len(found))] {
		ids = append(ids, c.cards[i].id)
	}
	out.Entries, err = m.store.MarketEntries(ctx, ids)
	return out, err
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
		for _, made := range strings.Fields(c.made[e.id]) {
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
// that order. What was not measured comes last.
func (c *catalogue) nearest(found []int32, to market.Looks, most int) []int32 {
	type near struct {
		at int32
		d  float64
	}
	best := make([]near, 0, most+1)
	want := to.Point()
	for _, i := range found {
		d := math.Inf(1)
		if e := &c.cards[i]; e.flags&flagMeasured != 0 {
			d = 0
			for n, f := range e.looks {
				d += (want[n] - float64(f)) * (want[n] - float64(f))
			}
		}
		if len(best) == most && d >= best[most-1].d {
			continue
		}
		place, _ := slices.BinarySearchFunc(best, d, func(n near, d float64) int {
			if n.d <= d { // after those that are as near
				return -1
			}
			return 1
		})
		best = slices.Insert(best, place, near{i, d})
		best = best[:min(len(best), most)]
	}
	out := make([]int32, len(best))
	for n, b := range best {
		out[n] = b.at
	}
	return out
}

// words returns which cards have every word, nil if none is asked for. A word
// that no entry has is taken for those it is nearest to.
func (m *Markets) words(ctx context.Context, c *catalogue, text string, exact bool) (hits []bool, spelling string, err error) {
	words := strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
	if len(words) == 0 {
		return nil, "", nil
	}
	var parts, spelled []string
	corrected := false
	for _, w := range words {
		any := slices.DeleteFunc(append([]string{w}, synonym.Of(w)...), func(w string) bool { return !c.begins(w) })
		if len(any) > 0 {
			parts, spelled = append(parts, `("`+strings.Join(any, `"* OR "`)+`"*)`), append(spelled, w)
			continue
		}
		near := c.spelled(w)
		if exact || len(near) == 0 {
			return make([]bool, len(c.cards)), "", nil
		}
		corrected = true
		spelled = append(spelled, near[0])
		parts = append(parts, `("`+strings.Join(near, `" OR "`)+`")`)
	}
	ids, err := m.store.Match(ctx, strings.Join(parts, " AND "))
	if err != nil {
		return nil, "", err
	}
	hits = make([]bool, len(c.cards))
	at := 0
	for _, id := range ids { // both by id
		for at < len(c.cards) && c.cards[at].id < id {
			at++
		}
		if at < len(c.cards) && c.cards[at].id == id {
			hits[at] = true
		}
	}
	if corrected {
		spelling = strings.Join(spelled, " ")
	}
	return hits, spelling, nil
}

// begins tells whether some term starts with the word.
func (c *catalogue) begins(w string) bool {
	i, _ := slices.BinarySearch(c.terms, w)
	return i < len(c.terms) && strings.HasPrefix(c.terms[i], w)
}

// spelled returns the terms that the word may have been meant for, the nearest
// first: one letter off for words of four to seven letters, two for longer ones.
func (c *catalogue) spelled(w string) []string {
	most := 0
	switch n := len([]rune(w)); {
	case n >= 8:
		most = 2
	case n >= 4:
		most = 1
	default:
		return nil
	}
	type near struct {
		term string
		d    int
	}
	var found []near
	for _, t := range c.terms {
		if d := len(t) - len(w); d > 2*most || -d > 2*most {
			continue
		}
		if d := Misspelt(w, t, most); d <= most {
			found = append(found, near{t, d})
		}
	}
	slices.SortStableFunc(found, func(a, b near) int { return cmp.Compare(a.d, b.d) })
	var out []string
	for _, f := range found[:min(len(found), 8)] {
		out = append(out, f.term)
	}
	return out
}

// Misspelt is how many letters have to be put in, left out, changed or swapped
// with their neighbour to make one word of the other (optimal string
// alignment), or more than most if it is more.
func Misspelt(a, b string, most int) int {
	x, y := []rune(a), []rune(b)
	if d := len(x) - len(y); d > most || -d > most {
		return most + 1
	}
	before, last, now := make([]int, len(y)+1), make([]int, len(y)+1), make([]int, len(y)+1)
	for j := range last {
		last[j] = j
	}
	for i := 1; i <= len(x); i++ {
		now[0] = i
		least := i
		for j := 1; j <= len(y); j++ {
			cost := 1
			if x[i-1] == y[j-1] {
				cost = 0
			}
			now[j] = min(last[j]+1, now[j-1]+1, last[j-1]+cost)
			if i > 1 && j > 1 && x[i-1] == y[j-2] && x[i-2] == y[j-1] {
				now[j] = min(now[j], before[j-2]+1)
			}
			least = min(least, now[j])
		}
		if least > most {
			return most + 1
		}
		before, last, now = last, now, before
	}
	return last[len(y)]
}

func twoYearsAgo() int {
	t := time.Now().AddDate(-2, 0, 0)
	return t.Year()*10000 + int(t.Month())*100 + t.Day()
}
