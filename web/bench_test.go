package web_test

import (
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/app"
	"ivelt/app/desks"
	"ivelt/demo"
	"ivelt/web"
)

// BenchmarkPagesWith100000Entries asks for each page of Avocet with a large
// market beside Strandline.
func BenchmarkPagesWith100000Entries(b *testing.B) {
	w, err := demo.Open(b.Context(), filepath.Join(b.TempDir(), "world"), false)
	require.NoError(b, err)
	large := b.TempDir()
	require.NoError(b, demo.WriteLargeMarket(large, 100_000))
	a, err := app.New(b.Context(), app.Config{Dir: b.TempDir(), Desks: []*desks.Managed{{Desk: w.Avocet}}, Market: w.Market, Log: slog.New(slog.DiscardHandler)})
	require.NoError(b, err)
	defer a.Close()
	require.NoError(b, a.Markets.Add(b.Context(), large))
	require.NoError(b, a.Markets.Look().Wait())
	a.Markets.Fresh = time.Hour
	server, err := web.New(a)
	require.NoError(b, err)
	h := server.Handler()
	d, err := a.Desk("avocet")
	require.NoError(b, err)
	for facet, piece := range map[string]string{"widgets": "Saltpan", "icons": "Foreshore"} {
		_, err := a.Drafts.Choose(d, facet, piece)
		require.NoError(b, err)
	}
	var took []time.Duration
	slowest, worst := "", time.Duration(0)
	by := map[string]time.Duration{} // the last of each
	for b.Loop() {
		for _, path := range []string{
			"find", "find?q=tide", "find?q=s&kind=icons&shade=dark", "find?mood=dusk&hue=red", "find?sort=rising&from=600", "find?q=brinefrod", "find/2/e77", "find/1/groyne",
			"compare", "markets", "shelf", "compose", "suggest?facet=icons", "suggest?facet=backdrop", "complete", "sheet", "judge", "match", "history", "go?q=re", "picture.svg?look=worn&scene=close",
		} {
			begun := time.Now()
			rec := httptest.NewRecorder()
			h.ServeHTTP(rec, httptest.NewRequest(http.MethodGet, "http://127.0.0.1/d/avocet/"+path, nil))
			d := time.Since(begun)
			by[path] = d
			_, _ = io.Copy(io.Discard, rec.Result().Body)
			require.Equal(b, http.StatusOK, rec.Code, path)
			if took = append(took, d); d > worst {
				slowest, worst = path, d
			}
		}
	}
	for path, d := range by {
		b.Logf("%-40s %v", path, d.Round(time.Millisecond))
	}
	slices.Sort(took)
	b.ReportMetric(float64(took[len(took)*95/100].Microseconds())/1000, "ms-page-p95")
	b.ReportMetric(float64(worst.Microseconds())/1000, "ms-page-worst")
	b.Log("the slowest was", slowest)
}
