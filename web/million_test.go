package web_test

import (
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"runtime/debug"
	"slices"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/app/apptest"
	"ivelt/app/markets"
	"ivelt/core/market"
	"ivelt/demo"
)

// BenchmarkMarketOf1000000 reads a market of generated entries in shards, signed, from a static
// server on this machine: searches it while it is read and after, asks for pages, takes the
// changes of a day, which are of one entry in a hundred, and starts again.
func BenchmarkMarketOf1000000(b *testing.B) {
	const n = 1_000_000
	dir := b.TempDir()
	secret, err := market.NewSecret()
	require.NoError(b, err)
	begun := time.Now()
	_, err = demo.PublishLargeMarket(b.Context(), dir, n, 0, &secret)
	require.NoError(b, err)
	published := time.Since(begun)
	next := b.TempDir()
	require.NoError(b, os.CopyFS(next, os.DirFS(dir)))
	begun = time.Now()
	p, err := demo.PublishLargeMarket(b.Context(), next, n, 1, &secret)
	require.NoError(b, err)
	require.Equal(b, n/100, p.Put)
	again := time.Since(begun)
	debug.FreeOSMemory() // what it took to publish is not what it takes to read
	var day atomic.Int32
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		http.FileServer(http.Dir([]string{dir, next}[day.Load()])).ServeHTTP(w, r)
	}))
	defer server.Close()
	s := newStage(b)
	a := s.app
	require.NoError(b, a.Markets.Add(b.Context(), server.URL))
	begun = time.Now()
	job := a.Markets.Look()
	var during, took, pages []time.Duration
	done := make(chan error, 1)
	go func() { done <- job.Wait() }()
	for reading := true; reading; {
		select {
		case err := <-done:
			require.NoError(b, err)
			reading = false
		case <-time.After(100 * time.Millisecond):
			asked := time.Now()
			_, err := a.Markets.Search(b.Context(), markets.Query{Words: "shin dark"})
			require.NoError(b, err)
			during = append(during, time.Since(asked))
		}
	}
	read, most := time.Since(begun), apptest.Resident(b)
	found, err := a.Markets.Search(b.Context(), markets.Query{})
	require.NoError(b, err)
	require.Greater(b, found.Total, n)
	a.Markets.Fresh = time.Hour

	typed := []string{"sh", "shin", "shinling dark", "tide", "quaymere", "s", "brinefrod", "murlow soft", "wrack a", "kelness", "e", "dark gale", "shibrenes"}
	client := http.DefaultClient
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
		for _, page := range []string{"find", "find?q=shin", "find?kind=icons&shade=dark", "find?q=dark+gale&sort=newest", "find/2/e5", "find/2/e900000", "shelf", "compose", "match", "history", "markets"} {
			var of []time.Duration
			for range 8 {
				begun := time.Now()
				res, err := client.Get(s.url + "/d/avocet/" + page)
				require.NoError(b, err)
				_, err = io.Copy(io.Discard, res.Body)
				require.NoError(b, err)
				require.NoError(b, res.Body.Close())
				require.Equal(b, http.StatusOK, res.StatusCode, page)
				of = append(of, time.Since(begun))
			}
			pages = append(pages, of...)
			slices.Sort(of)
			b.Logf("%s: %v, at most %v", page, of[len(of)/2], of[len(of)-1])
		}
	}
	percentile := func(of []time.Duration, p int) float64 {
		slices.Sort(of)
		return float64(of[len(of)*p/100].Microseconds()) / 1000
	}
	b.ReportMetric(published.Seconds(), "s-to-publish")
	b.ReportMetric(again.Seconds(), "s-to-publish-a-day")
	b.ReportMetric(percentile(took, 95), "ms-search-p95")
	b.ReportMetric(percentile(took, 50), "ms-search-median")
	b.ReportMetric(percentile(pages, 95), "ms-page-p95")
	b.ReportMetric(percentile(pages, 50), "ms-page-median")
	b.ReportMetric(read.Seconds(), "s-to-read")
	b.ReportMetric(percentile(during, 95), "ms-search-while-read-p95")

	day.Store(1)
	a.Markets.Fresh = 0
	begun = time.Now()
	require.NoError(b, a.Markets.Look().Wait())
	b.ReportMetric(time.Since(begun).Seconds(), "s-to-take-a-day")
	found, err = a.Markets.Search(b.Context(), markets.Query{Words: "renewed"})
	require.NoError(b, err)
	require.Equal(b, n/100, found.Total)
	b.ReportMetric(max(most, apptest.Resident(b)), "MB-resident")
	require.NoError(b, a.Close())
	begun = time.Now()
	second := stageIn(b, s.dir)
	found, err = second.app.Markets.Search(b.Context(), markets.Query{Words: "shin"})
	require.NoError(b, err)
	require.NotZero(b, found.Total)
	b.ReportMetric(time.Since(begun).Seconds(), "s-to-start-and-search")
	size := int64(0)
	files, _ := filepath.Glob(filepath.Join(s.dir, "data/ivelt.db*"))
	for _, f := range files {
		if fi, err := os.Stat(f); err == nil {
			size += fi.Size()
		}
	}
	b.ReportMetric(float64(size)/1e6, "MB-database")
}
