package markets_test

import (
	"errors"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/app/markets"
	"ivelt/core/market"
)

func errorsAs[T error](err error, target *T) bool { return errors.As(err, target) }

func of(id, kind, name, maker, summary string, likes, before int, date, licence string, looks *market.Looks) market.Entry {
	return market.Entry{
		ID: id, Kind: kind, Name: name, Maker: maker, Summary: summary, Licence: licence, Looks: looks,
		Likes:    []market.Likes{{Date: "2026-01-01", Count: before}, {Date: "2026-02-01", Count: likes}},
		Versions: []market.Version{{Version: "1", Date: date, File: "x.zip", Size: 1, SHA256: strings.Repeat("0", 64)}},
	}
}

func TestSearch(t *testing.T) {
	s := newShop(t)
	dark, light := &market.Looks{Lightness: 0.3, Chroma: 0.08, Hue: 70, Contrast: 9, Roundness: 0.7}, &market.Looks{Lightness: 0.9, Chroma: 0.02, Hue: 250, Contrast: 12}
	lastYear := time.Now().AddDate(-1, 0, 0).Format(time.DateOnly)
	risky := of("d", "theme", "Saltpan Glass", "Rui", "see-through and dark", 50, 0, lastYear, "MIT", dark)
	risky.Stability, risky.Dresses = "crashes", []string{"gtk-4.0", "quayside"}
	packaged := of("c", "pointer", "Sandpiper", "Hanne Riet", "pale feathers", 10, 9, "2019-01-01", "CC-BY-NC-4.0", light)
	packaged.Packaged = "sandpiper-pointers"
	s.index(
		of("a", "icons", "Shingle", "Maud Pell", "pebbles, soft", 90, 85, "2026-01-01", "CC0-1.0", light),
		of("b", "icons", "Wrack", "Tobias Anker", "dark weed", 70, 10, lastYear, "GPL-3.0-or-later", dark),
		packaged, risky,
		of("e", "font", "Estuary Über", "Maud Pell", "a face", 5, 5, "2025-01-01", "", nil),
	)
	require.NoError(t, s.app.Markets.Look().Wait())
	for _, c := range []struct {
		what string
		q    markets.Query
		want string
	}{
		{"all, most liked first", markets.Query{}, "abdce"},
		{"rising", markets.Query{Sort: "rising"}, "bdace"},
		{"newest", markets.Query{Sort: "newest", Kind: "icons"}, "ab"},
		{"one word", markets.Query{Words: "SOFT"}, "a"},
		{"the beginnings of two", markets.Query{Words: "dar see"}, "d"},
		{"marks over letters", markets.Query{Words: "uber"}, "e"},
		{"the kind is a word too", markets.Query{Words: "pointer"}, "c"},
		{"what no FTS expression may be", markets.Query{Words: `"OR* (NEAR^`}, ""},
		{"dark", markets.Query{Shade: "dark"}, "bd"},
		{"a hue", markets.Query{Hue: "orange"}, "bd"},
		{"round", markets.Query{Shape: "round"}, "bd"},
		{"for GTK 4", markets.Query{Dresses: "gtk-4"}, "d"},
		{"for a bar", markets.Query{Kind: markets.KindBar}, "d"},
		{"free", markets.Query{Licence: "free"}, "abd"},
		{"packaged", markets.Query{Packaged: true}, "c"},
		{"maintained", markets.Query{Kept: true}, "abde"},
		{"stable", markets.Query{Safe: true}, "abce"},
		{"by taste", markets.Query{Taste: &market.Looks{Lightness: 0.35, Chroma: 0.07, Hue: 60, Contrast: 8, Roundness: 0.6}}, "bdace"},
		{"some", markets.Query{From: 1, Most: 2}, "bd"},
	} {
		found, err := s.app.Markets.Search(t.Context(), c.q)
		require.NoError(t, err, c.what)
		got := ""
		for _, e := range found.Entries {
			got += e.Key
		}
		require.Equal(t, c.want, got, c.what)
	}
	found, err := s.app.Markets.Search(t.Context(), markets.Query{Words: "shinlge"})
	require.NoError(t, err)
	require.Equal(t, "shingle", found.Spelling)
	require.Equal(t, 1, found.Total)
	exact, err := s.app.Markets.Search(t.Context(), markets.Query{Words: "shinlge", Exact: true})
	require.NoError(t, err)
	require.Zero(t, exact.Total)
	counts, err := s.app.Markets.Search(t.Context(), markets.Query{Kind: "icons", Shade: "dark"})
	require.NoError(t, err)
	require.Equal(t, map[string]int{"icons": 1, "theme": 1, markets.KindBar: 1}, counts.Kinds, "kinds are counted as if none was asked for")
}
