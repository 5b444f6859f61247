package store_test

import (
	"compress/gzip"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/market"
	"ivelt/store"
)

// earlier are the versions of which testdata has a store that they made themselves.
// Versions 2 and 3 never stood by themselves: one change went from 1 to 4.
var earlier = []int{1, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16}

// earlierStore is a data folder as an earlier version left it.
func earlierStore(t *testing.T, version int) string {
	t.Helper()
	dir := t.TempDir()
	f, err := os.Open(fmt.Sprintf("testdata/earlier/%d.db.gz", version))
	require.NoError(t, err)
	defer f.Close()
	z, err := gzip.NewReader(f)
	require.NoError(t, err)
	db, err := io.ReadAll(z)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "ivelt.db"), db, 0o644))
	return dir
}

// TestStoresOfEarlierVersionsOpen: they are brought up to date with all that is in
// them, after a copy was made.
func TestStoresOfEarlierVersionsOpen(t *testing.T) {
	for _, version := range earlier {
		dir := earlierStore(t, version)
		used, err := store.Used(dir)
		require.NoError(t, err)
		require.True(t, used)
		s, err := store.Open(t.Context(), dir)
		require.NoError(t, err, "version %d", version)
		rows, err := s.Checkpoints("d")
		require.NoError(t, err)
		require.Len(t, rows, 2)
		require.Equal(t, "Wear Salty", rows[0].Title)
		require.True(t, time.Date(2026, 3, 4, 6, 6, 7, 0, time.UTC).Equal(rows[0].At), rows[0].At)
		worn, err := s.Worn("d")
		require.NoError(t, err)
		require.Equal(t, "Salty", worn[0].Name)
		draft, err := s.Draft("d")
		require.NoError(t, err)
		require.Equal(t, "Draft", draft.Name)
		pieces, err := s.Pieces("d")
		require.NoError(t, err)
		require.Len(t, pieces, 1)
		last, err := s.CommittedLast("d", "p2")
		require.NoError(t, err)
		require.True(t, last, "an interrupted change of an earlier version has no run")
		last, err = s.CommittedLast("d", "p1")
		require.NoError(t, err)
		require.False(t, last)
		copies, err := s.Copies()
		require.NoError(t, err)
		require.Len(t, copies, 1)
		require.NoError(t, s.Commit(&store.Applied{Checkpoint: store.CheckpointRow{Desk: "d", PlanID: "p3", Run: "r"}, Plan: store.PlanRow{ID: "p3", Desk: "d"}}))
		m := store.MarketRow{Base: "https://example.org/strand"}
		require.NoError(t, s.SaveMarket(&m), "version %d", version)
		e := market.Entry{ID: "reef", Name: "Reef", Kind: "theme", MadeFor: map[string]string{"quayside": "3"}, Versions: []market.Version{{File: "reef.zip"}}}
		_, err = s.SaveMarketPage(t.Context(), store.MarketPageRow{Market: m.ID, File: "index.json"}, []market.Entry{e}, nil)
		require.NoError(t, err, "version %d", version)
		row, err := s.MarketEntryByKey(m.ID, "reef")
		require.NoError(t, err)
		require.Equal(t, "quayside=3", row.MadeFor)
		require.NoError(t, s.Close())
		r, err := store.Check(dir)
		require.NoError(t, err)
		require.True(t, r.Fine(), "%+v", r)
		require.Equal(t, 3, r.Entries, "the older entries have their files now too")
	}
}

// TestAStoreOfANewerVersionIsRefused in words, and nothing of it is changed.
func TestAStoreOfANewerVersionIsRefused(t *testing.T) {
	dir := earlierStore(t, 8)
	db := filepath.Join(dir, "ivelt.db")
	b, err := os.ReadFile(db)
	require.NoError(t, err)
	b[63] = 200 // the user version: "The SQLite database file format", section 1.3
	require.NoError(t, os.WriteFile(db, b, 0o644))
	_, err = store.Open(t.Context(), dir)
	require.ErrorIs(t, err, store.ErrNewer)
	require.ErrorContains(t, err, fmt.Sprintf("version 200, and this Ivelt knows %d", store.Version))
	now, err := os.ReadFile(db)
	require.NoError(t, err)
	require.Equal(t, b[:18], now[:18])
	require.Equal(t, b[20:24], now[20:24])
	require.Equal(t, b[28:], now[28:], "but for the marks that say how it is journalled")
	_, err = store.Restore(t.Context(), dir, true)
	require.ErrorIs(t, err, store.ErrNewer)
}
