package markets

import (
	"hash/fnv"
	"slices"
	"strings"

	"ivelt/store"
)

// nameSum tells names apart, whatever their case, but for a few.
func nameSum(name string) int32 {
	h := fnv.New32a()
	_, _ = h.Write([]byte(strings.ToLower(name)))
	return int32(h.Sum32())
}

// Named returns entries of the markets that are on by a name, whatever its case, the most
// liked first: five at most.
func (m *Markets) Named(name string) ([]store.MarketEntryRow, error) {
	const most = 5
	ctx := m.jobs.Context()
	c, err := m.catalogue(ctx)
	if err != nil {
		return nil, err
	}
	var places []int32
	for i, sum := 0, nameSum(name); i < len(c.cards); i++ {
		if c.cards[i].name == sum && !c.gone.Has(int32(i)) {
			places = append(places, int32(i))
		}
	}
	slices.SortStableFunc(places, func(a, b int32) int { return orderings["liked"](&c.cards[a], &c.cards[b]) })
	var ids []uint
	for _, i := range places[:min(len(places), 4*most)] {
		ids = append(ids, c.cards[i].id)
	}
	if ids == nil {
		return nil, nil
	}
	rows, err := m.store.MarketEntries(ctx, ids)
	rows = slices.DeleteFunc(rows, func(r store.MarketEntryRow) bool { return !strings.EqualFold(r.Name, name) })
	return rows[:min(len(rows), most)], err
}
