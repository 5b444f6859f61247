package store_test

import (
	"maps"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/market"
	"ivelt/store"
)

func offer(id, name, family, variantOf string, likes int) market.Entry {
	return market.Entry{
		ID: id, Kind: "icons", Name: name, Family: family, VariantOf: variantOf, Likes: []market.Likes{{Date: "2026-01-01", Count: likes}},
		Versions: []market.Version{{Version: "1", Date: "2026-11-25", File: "x", Size: 1, SHA256: strings.Repeat("0", 64)}},
	}
}

func keys(rows []store.MarketEntryRow) string {
	var out []string
	for _, r := range rows {
		out = append(out, r.Key)
	}
	return strings.Join(out, " ")
}

// TestAPageIsReplacedAsAWhole: what the page does not have any more is told as gone, what came
// with its numbers, and other pages and markets stay.
func TestAPageIsReplacedAsAWhole(t *testing.T) {
	s, err := store.Open(t.Context(), t.TempDir())
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	a, b := store.MarketRow{Base: "/a", Name: "A", On: true}, store.MarketRow{Base: "/b", Name: "B", On: true}
	require.NoError(t, s.SaveMarket(&a))
	require.NoError(t, s.SaveMarket(&b))
	require.Error(t, s.SaveMarket(&store.MarketRow{Base: "/a"}), "one market at a place")
	named := map[uint]string{} // of all that was told to be there
	take := func(edit store.MarketEdit) {
		for _, id := range edit.Gone {
			require.Contains(t, named, id)
			delete(named, id)
		}
		for _, row := range edit.New {
			require.NotContains(t, named, row.ID)
			named[row.ID] = row.Key
		}
	}
	put := func(m store.MarketRow, page string, entries ...market.Entry) {
		t.Helper()
		told := 0
		edit, err := s.SaveMarketPage(t.Context(), store.MarketPageRow{Market: m.ID, File: page, ETag: "x"}, entries, func(n int) { told = n })
		require.NoError(t, err)
		require.Equal(t, len(entries), told)
		take(edit)
	}
	all := func() string {
		t.Helper()
		var ids []uint
		require.NoError(t, s.MarketRows(t.Context(), 0, func(r store.MarketEntryRow) { ids = append(ids, r.ID) }))
		same, err := s.MarketIDs(t.Context(), 1000)
		require.NoError(t, err)
		require.Equal(t, ids, same)
		require.Equal(t, slices.Sorted(maps.Keys(named)), ids, "as it was told")
		rows, err := s.MarketEntries(t.Context(), ids)
		require.NoError(t, err)
		return keys(rows)
	}
	put(a, "index.json", offer("one", "Tern and gull", "Shore", "", 5), offer("two", "Curlew", "Shore", "one", 9))
	put(a, "more.json", offer("three", "Tern alone", "", "", 1))
	put(b, "index.json", offer("one", "Tern elsewhere", "Shore", "", 1))
	require.Equal(t, "one two three one", all())
	put(a, "index.json", offer("two", "Curlew", "Shore", "one", 9), offer("four", "Gull", "Shore", "", 20))
	require.Equal(t, "three one two four", all())

	// Changes: of one entry twice the later counts, one that is not there goes silently.
	before, err := s.MarketChanges()
	require.NoError(t, err)
	gull, first := offer("four", "Gull", "Shore", "", 20), offer("five", "Fulmar", "", "", 1)
	edit, err := s.ChangeMarket(t.Context(), a.ID, []market.Change{{Put: &first}, {Gone: "three"}, {Gone: "nobody"}, {Put: &gull}, {Gone: "five"}, {Gone: "one"}}, func(key string) string { return "page of " + key })
	require.NoError(t, err)
	take(edit)
	require.Equal(t, "one two four", all(), "the other market keeps its own")
	row, err := s.MarketEntryByKey(a.ID, "four")
	require.NoError(t, err)
	require.Equal(t, "page of four", row.Page)
	after, err := s.MarketChanges()
	require.NoError(t, err)
	require.Greater(t, after, before)
	edit, err = s.DropMarketPage(a.ID, "page of four")
	require.NoError(t, err)
	take(edit)
	put(a, "more.json", offer("three", "Tern alone", "", "", 1))
	put(a, "index.json", offer("two", "Curlew", "Shore", "one", 9), offer("four", "Gull", "Shore", "", 20))

	family, err := s.MarketFamily(a.ID, "Shore")
	require.NoError(t, err)
	require.Equal(t, "four two", keys(family), "of this market, most liked first")
	variants, err := s.MarketVariants(a.ID, "one")
	require.NoError(t, err)
	require.Equal(t, "two", keys(variants))
	row, err = s.MarketEntryByKey(0, "one")
	require.NoError(t, err)
	require.Equal(t, b.ID, row.Market)
	require.Equal(t, 20261125, row.Date)
	_, err = s.MarketEntryByKey(a.ID, "one")
	require.ErrorIs(t, err, store.ErrNone)

	// The shortlist is by what an entry is called, so it outlives a new reading.
	require.NoError(t, s.TurnPin(a.ID, "four"))
	require.NoError(t, s.TurnPin(b.ID, "one"))
	require.NoError(t, s.TurnPin(a.ID, "three"))
	require.NoError(t, s.TurnPin(a.ID, "three"))
	put(a, "index.json", offer("four", "Gull", "Shore", "", 21))
	pins, err := s.Pins(t.Context())
	require.NoError(t, err)
	require.Equal(t, "four one", keys(pins))

	b.On = false
	require.NoError(t, s.SaveMarket(&b))
	seen := 0
	require.NoError(t, s.MarketRows(t.Context(), 0, func(store.MarketEntryRow) { seen++ }))
	require.Equal(t, 2, seen, "those of markets that are on")
	require.NoError(t, s.DropMarket(a.ID))
	b.On = true
	require.NoError(t, s.SaveMarket(&b))
	seen = 0
	require.NoError(t, s.MarketRows(t.Context(), 0, func(store.MarketEntryRow) { seen++ }))
	require.Equal(t, 1, seen)
	pages, err := s.MarketPages(a.ID)
	require.NoError(t, err)
	require.Empty(t, pages)
}
