package demo

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"path/filepath"
	"strings"

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

func invent(n int) []market.Entry {
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
	out := make([]market.Entry, n)
	for i := range out {
		likes := int(r.ExpFloat64() * 300)
		out[i] = market.Entry{
			ID: fmt.Sprint("e", i), Kind: kinds[r.IntN(len(kinds))], Name: word() + " " + word(), Maker: makers[r.IntN(len(makers))],
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
	return out
}
