package markets_test

import (
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/app"
	"ivelt/app/apptest"
	"ivelt/app/desks"
	"ivelt/app/markets"
	"ivelt/core/desk"
	"ivelt/core/market"
	"ivelt/demo"
)

// BenchmarkMarketOf100000 reads such a market from pages, and searches it as one types.
func BenchmarkMarketOf100000(b *testing.B) {
	const n = 100_000
	dir := b.TempDir()
	require.NoError(b, demo.WriteLargeMarket(dir, n))
	d, err := desk.Open("d", b.TempDir(), b.TempDir(), "/home/me")
	require.NoError(b, err)
	data := b.TempDir()
	a, err := app.New(b.Context(), app.Config{Dir: data, Desks: []*desks.Managed{{Desk: d}}})
	require.NoError(b, err)
	defer a.Close()
	require.NoError(b, a.Markets.Add(b.Context(), dir))
	begun := time.Now()
	require.NoError(b, a.Markets.Look().Wait())
	read := time.Since(begun)
	found, err := a.Markets.Search(b.Context(), markets.Query{})
	require.NoError(b, err)
	require.Equal(b, n, found.Total)

	var took []time.Duration
	typed := []string{"sh", "shin", "shinling dark", "tide", "quaymere", "s", "brinefrod", "murlow soft", "wrack a", "kelness", "e", "dark gale"}
	for b.Loop() {
		for _, text := range typed {
			for i := range text {
				for _, q := range []markets.Query{{Words: text[:i+1]}, {Words: text[:i+1], Kind: "icons", Shade: "dark", Sort: "rising"}, {Words: text[:i+1], Taste: &market.Looks{Lightness: 0.3, Chroma: 0.1, Hue: 60, Contrast: 8}}} {
					begun := time.Now()
					_, err := a.Markets.Search(b.Context(), q)
					took = append(took, time.Since(begun))
					require.NoError(b, err)
				}
			}
		}
	}
	slices.Sort(took)
	b.ReportMetric(float64(took[len(took)*95/100].Microseconds())/1000, "ms-search-p95")
	b.ReportMetric(float64(took[len(took)/2].Microseconds())/1000, "ms-search-median")
	b.ReportMetric(read.Seconds(), "s-to-read")
	size := int64(0)
	files, _ := filepath.Glob(filepath.Join(data, "ivelt.db*"))
	for _, f := range files {
		if fi, err := os.Stat(f); err == nil {
			size += fi.Size()
		}
	}
	b.ReportMetric(float64(size)/1e6, "MB-database")
	runtime.GC()
	b.ReportMetric(apptest.Resident(b), "MB-resident")
}
