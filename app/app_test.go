package app_test

import (
	"context"
	"errors"
	"net/http"
	"net/http/httptest"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/app"
)

func TestFindByWordsAndOrder(t *testing.T) {
	entries := []app.Entry{
		{ID: "a", Name: "Shingle", Maker: "Maud Pell", Summary: "Pebbles, soft", Likes: 5, Date: "2026-01-01"},
		{ID: "b", Name: "Wrack", Maker: "Tobias Anker", Tags: []string{"dark", "soft"}, Likes: 9, Date: "2025-01-01"},
		{ID: "c", Name: "anchor", Maker: "Ole", Likes: 1, Date: "2026-05-05"},
	}
	ids := func(query, order string) (out string) {
		for _, e := range app.Find(entries, query, order) {
			out += e.ID
		}
		return out
	}
	require.Equal(t, "bac", ids("", ""))
	require.Equal(t, "cab", ids("", "newest"))
	require.Equal(t, "cab", ids("", "name"))
	require.Equal(t, "ba", ids("SOFT", "liked"))
	require.Equal(t, "b", ids("soft tob", ""))
	require.Equal(t, "a", ids("peb", ""), "the beginning of a word")
	require.Empty(t, ids("ebbles", ""))
}

func TestMarketsThatAreNone(t *testing.T) {
	for body, says := range map[string]string{"<html>": "damaged", `{"format":9}`: "has format 9"} {
		srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write([]byte(body)) }))
		_, err := app.NewMarket(srv.URL).Entries(t.Context())
		srv.Close()
		require.ErrorIs(t, err, app.ErrMarket)
		require.ErrorContains(t, err, says)
	}
	_, err := app.NewMarket("http://127.0.0.1:1").Entries(t.Context())
	require.ErrorIs(t, err, app.ErrMarket)
	require.ErrorContains(t, err, "does not answer")
	require.NotContains(t, err.Error(), "http://", "an address is nothing a person can act on")
}

// TestNothingOutsideTheMarketIsAskedFor: an index may name any file.
func TestNothingOutsideTheMarketIsAskedFor(t *testing.T) {
	asked := make(chan string, 8)
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		asked <- r.URL.Path
		_, _ = w.Write([]byte(`{"format":1,"entries":[{"id":"x","name":"X","picture":"../../secret"}]}`))
	}))
	defer srv.Close()
	m := app.NewMarket(srv.URL + "/shore/market")
	_, err := m.Picture(t.Context(), "x")
	require.NoError(t, err)
	require.Equal(t, "/shore/market/index.json", <-asked)
	require.Equal(t, "/shore/market/secret", <-asked)
}

func TestJobs(t *testing.T) {
	jobs := app.NewJobs()
	started := make(chan struct{})
	j := jobs.Start("wait", func(ctx context.Context, j *app.Job) error {
		j.Step("waiting", "files")
		j.At(3, 12)
		close(started)
		<-ctx.Done()
		return ctx.Err()
	})
	<-started
	p := j.Progress()
	require.Equal(t, app.Running, p.State)
	require.Equal(t, 25, p.Percent())
	require.Same(t, j, jobs.Get(p.ID))
	j.Cancel()
	require.Equal(t, app.Cancelled, j.Progress().State)

	failed := jobs.Start("fail", func(context.Context, *app.Job) error { return errors.New("no") })
	require.EqualError(t, failed.Wait(), "no")
	require.Equal(t, app.Failed, failed.Progress().State)
	done := jobs.Start("done", func(_ context.Context, j *app.Job) error { j.Then("/next"); return nil })
	require.NoError(t, done.Wait())
	require.Equal(t, "/next", done.Progress().Then)
	require.Equal(t, -1, done.Progress().Percent())

	stuck := jobs.Start("stuck", func(ctx context.Context, _ *app.Job) error { <-ctx.Done(); return ctx.Err() })
	stopped := make(chan struct{})
	go func() { jobs.Stop(); close(stopped) }()
	select {
	case <-stopped:
	case <-time.After(5 * time.Second):
		t.Fatal("Stop waits for ever")
	}
	require.Equal(t, app.Cancelled, stuck.Progress().State)
	late := jobs.Start("late", func(context.Context, *app.Job) error { panic("never run") })
	require.Error(t, late.Wait())
}
