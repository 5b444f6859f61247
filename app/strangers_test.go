package app_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/app"
	"ivelt/core/market"
)

// TestAMarketSendsNowhereElse: a redirect to another host is not followed, on the same
// host it is.
func TestAMarketSendsNowhereElse(t *testing.T) {
	inside := http.NewServeMux()
	elsewhere := httptest.NewServer(http.HandlerFunc(func(http.ResponseWriter, *http.Request) { t.Error("it was asked") }))
	defer elsewhere.Close()
	to := elsewhere.URL + "/index.json"
	inside.HandleFunc("/index.json", func(w http.ResponseWriter, r *http.Request) { http.Redirect(w, r, to, http.StatusFound) })
	inside.HandleFunc("/moved.json", func(w http.ResponseWriter, _ *http.Request) {
		fmt.Fprintf(w, `{"format": %d, "name": "Moved", "entries": []}`, market.Format)
	})
	s := httptest.NewServer(inside)
	defer s.Close()
	trouble := func() string {
		a, err := app.New(app.Config{Dir: t.TempDir(), Market: s.URL})
		require.NoError(t, err)
		defer a.Close()
		a.Markets.Ready()
		rows, err := a.Markets.List()
		require.NoError(t, err)
		require.Len(t, rows, 1)
		return rows[0].Trouble
	}
	require.Contains(t, trouble(), "sends to another host, "+strings.TrimPrefix(elsewhere.URL, "http://"))
	to = "/moved.json"
	require.Empty(t, trouble())
}

// TestWhatWasComingInIsClearedAway at the start, but not from under another process.
func TestWhatWasComingInIsClearedAway(t *testing.T) {
	dir := t.TempDir()
	parcels := filepath.Join(dir, "parcels")
	mine := fmt.Sprintf(".coming-%d-x", os.Getppid())
	for _, name := range []string{".coming-123", ".coming-4194999-y", mine, "0123456789abcdef"} {
		require.NoError(t, os.MkdirAll(filepath.Join(parcels, name), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(parcels, name, "a.zip"), nil, 0o644))
	}
	a, err := app.New(app.Config{Dir: dir})
	require.NoError(t, err)
	require.NoError(t, a.Close())
	left, err := os.ReadDir(parcels)
	require.NoError(t, err)
	require.Len(t, left, 2)
	require.Equal(t, mine, left[0].Name())
}
