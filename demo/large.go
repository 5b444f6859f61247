package demo

import (
	"context"
	"encoding/json"
	"fmt"
	"iter"
	"math/rand/v2"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"ivelt/core/market"
)

// WriteLargeMarket writes the index of a market of n entries of invented words,
// in pages of 20,000. It has no parcels: it is for measuring how quick Ivelt is.
func WriteLargeMarket(dir string, n int) error {
	const page = 20_000
	top := market.Index{Format: market.Format, Name: "Large"}
	put := func(name string, x market.Index) error {
		b, err := json.Marshal(x)
		if err != nil {
			return err
		}
		return write(filepath.Join(dir, name), b)
	}
	entries := invent(n)
	for i := 0; i < n; i += page {
		name := fmt.Sprintf("entries-%d.json", i/page)
		top.Pages = append(top.Pages, name)
		if err := put(name, market.Index{Format: market.Format, Entries: entries[i:min(n, i+page)]}); err != nil {
			return err
		}
	}
	return put(market.IndexFile, top)
}

// PublishLargeMarket writes the index of such a market in shards. Of day after day one
// entry in a hundred is another than the day before.
func PublishLargeMarket(ctx context.Context, dir string, n, day int, secret *market.Secret) (market.Published, error) {
	entries := func(yield func(market.Entry, error) bool) {
		i := 0
		for e := range inventing(n) {
			for d := 1; d <= day; d++ {
				if (i+d*7919)%100 == 0 { // a prime
					e.Summary = fmt.Sprintf("%s, renewed on day %d", e.Summary, d)
					e.Likes = append(slices.Clone(e.Likes), market.Likes{Date: fmt.Sprintf("2026-03-%02d", d), Count: e.Liked() + d})
				}
			}
			if i++; !yield(e, nil) {
				return
			}
		}
	}
	return market.Publish(ctx, dir, "Large", "Invented, to measure by.", entries, secret, time.Date(2026, 3, 1+day, 0, 0, 0, 0, time.UTC))
}

func invent(n int) []market.Entry { return slices.Collect(inventing(n)) }

// inventing are n entries of invented words: of a few hundred that are everywhere, some
// thousands that are here and there, and, of larger markets, many that are in one name alone.
func inventing(n int) iter.Seq[market.Entry] {
	r := rand.New(rand.NewPCG(1, 2))
	start := strings.Fields("ash bay brine cor dune ebb fern gale gorse har hol ist jet kel lar marsh mur nor oar pel quay reed sal shin tarn tide urch vell wrack yarrow")
	end := strings.Fields("a en el in or um ling wick ford mere ness holm by gate low wold den ley ton stead sand rock gull fin")
	word := func() string { return start[r.IntN(len(start))] + end[r.IntN(len(end))] }
	kinds := []string{"theme", "icons", "pointer", "font", "backdrop", "palette", "login"}
	licences := []string{"CC0-1.0", "MIT", "GPL-3.0-or-later", "CC-BY-NC-4.0"}
	makers := make([]string, 3000)
	for i := range makers {
		makers[i] = word() + " " + word()
	}
	middle := strings.Fields("al bre cu dor em fa gri hu in jo ka lo mi nu op ra se ti un va we yl")
	rare := func() string { // some 14,000, and with a third middle 300,000
		w := start[r.IntN(len(start))] + middle[r.IntN(len(middle))] + end[r.IntN(len(end))]
		if r.IntN(3) == 0 {
			w = middle[r.IntN(len(middle))] + w
		}
		return w
	}
	invented := func(i int) market.Entry {
		likes := int(r.ExpFloat64() * 300)
		name := word() + " " + word()
		if i >= 100_000 {
			name = word() + " " + rare()
		}
		return market.Entry{
			ID: fmt.Sprint("e", i), Kind: kinds[r.IntN(len(kinds))], Name: name, Maker: makers[r.IntN(len(makers))],
			Summary: word() + " and " + word() + " over a " + word() + ", in " + word(), Licence: licences[r.IntN(4)],
			Tags: []string{word(), []string{"dark", "light", "soft", "square"}[r.IntN(4)]}, Dresses: []string{"gtk-3.0", "gtk-4.0"}[:r.IntN(3)],
			Likes:    []market.Likes{{Date: "2026-01-01", Count: likes * r.IntN(100) / 100}, {Date: "2026-02-01", Count: likes}},
			Pictures: []market.Picture{{State: "normal", File: "pictures/p.png", From: "pieces"}},
			Looks:    &market.Looks{Lightness: r.Float64(), Chroma: r.Float64() / 5, Hue: r.Float64() * 360, Contrast: 1 + 20*r.Float64(), Roundness: r.Float64(), Density: r.Float64()},
			Versions: []market.Version{{
				Version: "1", Date: fmt.Sprintf("20%02d-%02d-%02d", 16+r.IntN(11), 1+r.IntN(12), 1+r.IntN(28)), File: "parcels/x.zip", Size: 1, SHA256: strings.Repeat("0", 64),
			}},
		}
	}
	return func(yield func(market.Entry) bool) {
		for i := range n {
			if !yield(invented(i)) {
				return
			}
		}
	}
}
