package markets

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"ivelt/core/parcel"
	"ivelt/core/wordindex"
	"ivelt/store"
)

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
	name          int32      // see nameSum
	looks         [6]float32 // as a point, see [market.Looks.Point]
}

const (
	flagFree = 1 << iota
	flagPackaged
	flagRisky
	flagVariant
	flagMeasured
	flagUntold // what it dresses is not said
	flagMade   // for versions of a surface
)

// catalogue is every entry of the markets that are on, in memory. It does not change: what
// came since makes another of it, which shares what is the same.
type catalogue struct {
	stamp  string // of what it was made from
	on     string // the markets that it has
	cards  []card // by id
	gone   wordindex.Bits
	live   int // cards that are not gone
	kinds  []string
	ofKind []wordindex.Bits   // the places of each
	orders map[string][]int32 // places in cards that are not gone, sorted
	words  []segment
	made   []madeFor // by id
}

// segment are the words of some cards, from a place on.
type segment struct {
	from, to int32
	*wordindex.Index
}

// madeFor are the versions that an entry was made for.
type madeFor struct {
	id       uint
	versions string
}

// orderings are what entries are sorted by; those that are alike stay in the order they came.
var orderings = map[string]func(a, b *card) int{
	"liked":  func(a, b *card) int { return cmp.Compare(b.likes, a.likes) },
	"rising": func(a, b *card) int { return cmp.Compare(b.rising, a.rising) },
	"newest": func(a, b *card) int { return cmp.Compare(b.date, a.date) },
}

// catalogue is the one of now.
func (m *Markets) catalogue(ctx context.Context) (*catalogue, error) {
	if c := m.cards.Load(); c != nil {
		return c, nil
	}
	m.making.Lock()
	defer m.making.Unlock()
	if c := m.cards.Load(); c != nil {
		return c, nil
	}
	stamp, on, err := m.stamp()
	if err != nil {
		return nil, err
	}
	c, ok := readCatalogue(m.catalogueFile(), on)
	if !ok {
		c = &catalogue{orders: map[string][]int32{}}
	}
	if c.stamp != stamp {
		if c, err = m.upToDate(ctx, c); err != nil {
			return nil, err
		}
	}
	c.stamp, c.on = stamp, on
	m.pending = store.MarketEdit{}
	m.cards.Store(c)
	return c, nil
}

// upToDate is a catalogue of earlier with what came since, and without what is gone: a row
// is never changed, and one that comes has a larger number than all before.
func (m *Markets) upToDate(ctx context.Context, c *catalogue) (*catalogue, error) {
	const atOnce = 50_000
	last := uint(0)
	if n := len(c.cards); n > 0 {
		last = c.cards[n-1].id
		there, err := m.store.MarketIDs(ctx, last)
		if err != nil {
			return nil, err
		}
		var gone []uint
		for i := range c.cards {
			for len(there) > 0 && there[0] < c.cards[i].id {
				there = there[1:]
			}
			if (len(there) == 0 || there[0] != c.cards[i].id) && !c.gone.Has(int32(i)) {
				gone = append(gone, c.cards[i].id)
			}
		}
		c = c.with(store.MarketEdit{Gone: gone})
	}
	some := make([]store.MarketEntryRow, 0, atOnce)
	err := m.store.MarketRows(ctx, last, func(e store.MarketEntryRow) {
		if some = append(some, e); len(some) == atOnce {
			c = c.with(store.MarketEdit{New: some})
			some = some[:0]
		}
	})
	if err != nil {
		return nil, err
	}
	return c.with(store.MarketEdit{New: some}), nil
}

// stamp tells what a catalogue is made from: the entries as they are, of the markets that
// are on.
func (m *Markets) stamp() (stamp, on string, err error) {
	count, err := m.store.MarketChanges()
	if err != nil {
		return "", "", err
	}
	rows, err := m.store.Markets()
	if err != nil {
		return "", "", err
	}
	for _, r := range rows {
		if r.On {
			on += fmt.Sprint(" ", r.ID)
		}
	}
	return fmt.Sprint(count, on), on, nil
}

// So many entries are taken into the catalogue at once: few while there are few, and no more
// than are held meanwhile.
const few, many = 4000, 30_000

// edited notes what became of entries for the catalogue, if there is one. It is taken in once
// it is much beside what there is: so that each is gone through a few times only.
func (m *Markets) edited(edit store.MarketEdit) {
	m.making.Lock()
	defer m.making.Unlock()
	c := m.cards.Load()
	if c == nil {
		return
	}
	last := uint(0)
	if n := len(c.cards); n > 0 {
		last = c.cards[n-1].id
	}
	m.pending.Gone = append(m.pending.Gone, edit.Gone...)
	for _, e := range edit.New {
		if e.ID > last { // else it was made meanwhile, with this in it
			m.pending.New = append(m.pending.New, e)
		}
	}
	if len(m.pending.Gone)+len(m.pending.New) >= min(max(few, c.live/8), many) {
		m.takeIn(c)
	}
}

// settled takes in what is left of it.
func (m *Markets) settled() error {
	m.making.Lock()
	defer m.making.Unlock()
	c := m.cards.Load()
	if c == nil {
		return nil
	}
	stamp, on, err := m.stamp()
	if err != nil || stamp == c.stamp {
		return err
	}
	c = m.takeIn(c)
	kept := *c
	kept.stamp, kept.on = stamp, on
	m.cards.Store(&kept)
	return nil
}

func (m *Markets) takeIn(c *catalogue) *catalogue {
	if len(m.pending.Gone)+len(m.pending.New) > 0 {
		c = c.with(m.pending)
		m.pending = store.MarketEdit{}
		m.cards.Store(c)
	}
	return c
}

// with is the catalogue with rows that came, which have larger numbers than all before, and
// without those that are gone.
func (c *catalogue) with(edit store.MarketEdit) *catalogue {
	out := *c
	kinds := map[string]uint8{}
	for i, k := range c.kinds {
		kinds[k] = uint8(i)
	}
	out.kinds, out.words = slices.Clip(c.kinds), slices.Clip(c.words)
	from := int32(len(c.cards))
	b := wordindex.NewBuilder()
	for i := range edit.New {
		e := &edit.New[i]
		k, ok := kinds[e.Kind]
		if !ok && len(out.kinds) < 255 {
			k = uint8(len(out.kinds))
			kinds[e.Kind], out.kinds = k, append(out.kinds, e.Kind)
		}
		out.cards = append(out.cards, cardOf(*e, k))
		b.Add(from+int32(i), e.Name, e.Maker, e.Family, e.Tags, e.Summary, e.Kind)
		if e.MadeFor != "" {
			out.made = append(out.made, madeFor{e.ID, strings.Clone(e.MadeFor)})
		}
	}
	out.gone = wordindex.NewBits(len(out.cards))
	copy(out.gone, c.gone)
	out.sortKinds(from)
	out.live = c.live + len(edit.New)
	for _, id := range edit.Gone {
		if i, ok := slices.BinarySearchFunc(out.cards, id, func(e card, id uint) int { return cmp.Compare(e.id, id) }); ok && !out.gone.Has(int32(i)) {
			out.gone.Set(int32(i))
			out.live--
		}
	}
	if len(edit.New) > 0 {
		out.words = append(out.words, segment{from, int32(len(out.cards)), b.Index()})
	}
	out.joinWords()
	out.orders = map[string][]int32{}
	for name, less := range orderings {
		came := make([]int32, 0, len(edit.New))
		for i := from; i < int32(len(out.cards)); i++ {
			if !out.gone.Has(i) {
				came = append(came, i)
			}
		}
		slices.SortStableFunc(came, func(a, b int32) int { return less(&out.cards[a], &out.cards[b]) })
		out.orders[name] = out.merged(c.orders[name], came, less)
	}
	return &out
}

// sortKinds notes of which kind the cards are from a place on.
func (c *catalogue) sortKinds(from int32) {
	all := make([]wordindex.Bits, len(c.kinds))
	for k := range all {
		all[k] = wordindex.NewBits(len(c.cards))
		if k < len(c.ofKind) {
			copy(all[k], c.ofKind[k])
		}
	}
	for i := from; i < int32(len(c.cards)); i++ {
		if k := int(c.cards[i].kind); k < len(all) {
			all[k].Set(i)
		}
	}
	c.ofKind = all
}

// merged is an order without the cards that are gone, and with those that came, which are
// sorted. Where each of these comes is looked up: cards lie all over the memory, and the few
// are compared with few.
func (c *catalogue) merged(before, came []int32, less func(a, b *card) int) []int32 {
	out := make([]int32, 0, c.live)
	keep := func(some []int32) {
		for _, i := range some {
			if !c.gone.Has(i) {
				out = append(out, i)
			}
		}
	}
	for _, i := range came {
		at, _ := slices.BinarySearchFunc(before, i, func(j, i int32) int {
			return cmp.Or(less(&c.cards[j], &c.cards[i]), -1) // behind those that are alike
		})
		keep(before[:at])
		out, before = append(out, i), before[at:]
	}
	keep(before)
	return out
}

// joinWords makes one of the last segments while they are of about one size: so that there
// are few, and each word is copied a few times only.
func (c *catalogue) joinWords() {
	for n := len(c.words); n > 1; n = len(c.words) {
		a, b := c.words[n-2], c.words[n-1]
		if a.to-a.from > 2*(b.to-b.from) {
			return
		}
		c.words = append(slices.Clip(c.words[:n-2]), segment{a.from, b.to, wordindex.Join(a.Index, b.Index)})
	}
}

func cardOf(e store.MarketEntryRow, kind uint8) card {
	c := card{id: e.ID, kind: kind, date: int32(e.Date), likes: int32(e.Likes), rising: int32(e.Rising), name: nameSum(e.Name)}
	l := LooksOf(e)
	for i, f := range l.Point() {
		c.looks[i] = float32(f)
	}
	if e.Measured {
		c.flags |= flagMeasured
		c.shade = 1 << slices.Index(shades, l.Shade())
		if l.TwoForms {
			c.shade = 1<<len(shades) - 1
		}
		c.shape = uint8(max(0, slices.Index(shapes, l.Shape())))
		c.hue = uint8(slices.Index(hueNames, l.HueName()))
	}
	for i, kit := range toolkits {
		if strings.Contains(e.Dresses, kit) {
			c.dresses |= 1 << i
		}
	}
	if e.Kind == string(parcel.Theme) && slices.ContainsFunc(strings.Fields(e.Dresses), func(part string) bool { return !strings.HasPrefix(part, "gtk-") }) {
		c.dresses |= dressesBar
	}
	for _, of := range []struct {
		flag uint8
		on   bool
	}{{flagFree, free(e.Licence)}, {flagPackaged, e.Packaged}, {flagRisky, e.Risky}, {flagVariant, e.VariantOf != ""}, {flagUntold, e.Dresses == ""}, {flagMade, e.MadeFor != ""}} {
		if of.on {
			c.flags |= of.flag
		}
	}
	return c
}

// versions are those that the entry was made for, "" for none.
func (c *catalogue) versions(e *card) string {
	if e.flags&flagMade == 0 {
		return ""
	}
	i, ok := slices.BinarySearchFunc(c.made, e.id, func(m madeFor, id uint) int { return cmp.Compare(m.id, id) })
	if !ok {
		return ""
	}
	return c.made[i].versions
}

// mark marks the cards with a word that begins so, or, if whole, that is it.
func (c *catalogue) mark(word string, whole bool, in wordindex.Bits) {
	for _, s := range c.words {
		s.Mark(word, whole, in)
	}
}

// begins tells whether some word of an entry starts so.
func (c *catalogue) begins(w string) bool {
	return slices.ContainsFunc(c.words, func(s segment) bool { return s.Begins(w) })
}

// spelled returns the words that one may have been meant for, the nearest first: one letter
// off for words of four to seven letters, two for longer ones.
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
	found := map[string]int{}
	for _, s := range c.words {
		s.Near(w, most, func(term string, off int) { found[term] = off })
	}
	var out []string
	for term := range found {
		out = append(out, term)
	}
	slices.SortFunc(out, func(a, b string) int { return cmp.Or(cmp.Compare(found[a], found[b]), strings.Compare(a, b)) })
	return out[:min(len(out), 8)]
}
