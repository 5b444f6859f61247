package markets_test

import (
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/app"
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
	measured(b, dir, n, nil)
}

// BenchmarkMarketOf1000000 reads a market of generated entries in shards, signed, from a static
// server on this machine; searches it while it is read and after, takes the changes of a day,
// which are of one entry in a hundred, and starts again.
func BenchmarkMarketOf1000000(b *testing.B) {
	const n = 1_000_000
	dir := b.TempDir()
	secret, err := market.NewSecret()
	require.NoError(b, err)
	begun := time.Now()
	_, err = demo.PublishLargeMarket(b.Context(), dir, n, 0, &secret)
	require.NoError(b, err)
	b.ReportMetric(time.Since(begun).Seconds(), "s-to-publish")
	server := httptest.NewServer(http.FileServer(http.Dir(dir)))
	defer server.Close()
	measured(b, server.URL, n, func() {
		begun := time.Now()
		p, err := demo.PublishLargeMarket(b.Context(), dir, n, 1, &secret)
		require.NoError(b, err)
		require.Equal(b, n/100, p.Put)
		b.ReportMetric(time.Since(begun).Seconds(), "s-to-publish-a-day")
	})
}

// measured reads a market and searches it. another publishes the next day's index; it may be nil.
func measured(b *testing.B, at string, n int, another func()) {
	d, err := desk.Open("d", b.TempDir(), b.TempDir(), "/home/me")
	require.NoError(b, err)
	data := b.TempDir()
	open := func() *app.App {
		a, err := app.New(b.Context(), app.Config{Dir: data, Desks: []*desks.Managed{{Desk: d}}})
		require.NoError(b, err)
		return a
	}
	a := open()
	require.NoError(b, a.Markets.Add(b.Context(), at))
	begun := time.Now()
	job := a.Markets.Look()
	var during []time.Duration // searches while it is read
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
	read := time.Since(begun)
	most := resident(b)
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
	percentile := func(of []time.Duration, p int) float64 {
		slices.Sort(of)
		return float64(of[len(of)*p/100].Microseconds()) / 1000
	}
	b.ReportMetric(percentile(took, 95), "ms-search-p95")
	b.ReportMetric(percentile(took, 50), "ms-search-median")
	b.ReportMetric(read.Seconds(), "s-to-read")
	if len(during) > 0 {
		b.ReportMetric(percentile(during, 95), "ms-search-while-read-p95")
	}
	b.ReportMetric(max(most, resident(b)), "MB-resident")
	if another != nil {
		another()
		a.Markets.Fresh = 0
		begun := time.Now()
		require.NoError(b, a.Markets.Look().Wait())
		b.ReportMetric(time.Since(begun).Seconds(), "s-to-take-a-day")
		found, err := a.Markets.Search(b.Context(), markets.Query{Words: "renewed"})
		require.NoError(b, err)
		require.Equal(b, n/100, found.Total)
		b.ReportMetric(max(most, resident(b)), "MB-resident")
		require.NoError(b, a.Close())
		begun = time.Now()
		a = open()
		found, err = a.Markets.Search(b.Context(), markets.Query{Words: "shin"})
		require.NoError(b, err)
		require.NotZero(b, found.Total)
		b.ReportMetric(time.Since(begun).Seconds(), "s-to-start-and-search")
	}
	size := int64(0)
	files, _ := filepath.Glob(filepath.Join(data, "ivelt.db*"))
	for _, f := range files {
		if fi, err := os.Stat(f); err == nil {
			size += fi.Size()
		}
	}
	b.ReportMetric(float64(size)/1e6, "MB-database")
	require.NoError(b, a.Close())
}

// resident is the memory the process holds (proc(5), VmRSS), in MB.
func resident(b *testing.B) float64 {
	b.Helper()
	text, err := os.ReadFile("/proc/self/status")
	require.NoError(b, err)
	for line := range strings.Lines(string(text)) {
		if rest, ok := strings.CutPrefix(line, "VmRSS:"); ok {
			kb, err := strconv.Atoi(strings.Fields(rest)[0])
			require.NoError(b, err)
			return float64(kb) / 1000
		}
	}
	return 0
}
