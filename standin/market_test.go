package standin_test

import (
	"context"
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/standin"
)

func TestStrandlineMisbehavesWhenAsked(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "parcels"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "parcels/p.zip"), []byte(strings.Repeat("x", 5000)), 0o644))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "index.json"), []byte("{}"), 0o644))
	m := &standin.Market{Dir: dir}
	srv := httptest.NewServer(m)
	defer srv.Close()
	get := func(ctx context.Context, name string) (string, int, error) {
		req, err := http.NewRequestWithContext(ctx, http.MethodGet, srv.URL+name, nil)
		require.NoError(t, err)
		res, err := http.DefaultClient.Do(req)
		require.NoError(t, err)
		defer res.Body.Close()
		b, err := io.ReadAll(res.Body)
		return string(b), res.StatusCode, err
	}
	body, status, err := get(t.Context(), "/parcels/p.zip")
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, status)
	require.Len(t, body, 5000)

	m.StallAfter(1200)
	ctx, cancel := context.WithTimeout(t.Context(), 300*time.Millisecond)
	defer cancel()
	body, _, err = get(ctx, "/parcels/p.zip")
	require.ErrorIs(t, err, context.DeadlineExceeded)
	require.Len(t, body, 1200)
	_, status, err = get(t.Context(), "/index.json")
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, status, "only parcels stall")

	m.SetDown(true)
	_, status, err = get(t.Context(), "/index.json")
	require.NoError(t, err)
	require.Equal(t, http.StatusServiceUnavailable, status)
	m.SetDown(false)
	res, err := http.Post(srv.URL+"/index.json", "text/plain", strings.NewReader("x"))
	require.NoError(t, err)
	res.Body.Close()
	require.Equal(t, http.StatusMethodNotAllowed, res.StatusCode)
}

func TestCachesKnowAFolderOnceLookedInto(t *testing.T) {
	home := t.TempDir()
	c := standin.Caches{Home: home, Host: func(p string) string { return filepath.Join(home, p) }}
	require.NoError(t, os.MkdirAll(filepath.Join(home, "fonts/Tern"), 0o755))
	require.False(t, c.Knows("font", "/fonts", "Tern"))
	require.NoError(t, c.Refresh(t.Context(), "font", "/fonts"))
	require.NoError(t, c.Refresh(t.Context(), "font", "/other"))
	require.True(t, c.Knows("font", "/fonts", "Tern"))
	require.NoError(t, os.Remove(filepath.Join(home, "fonts/Tern")))
	require.True(t, c.Knows("font", "/fonts", "Tern"), "until it is looked into anew")
	require.NoError(t, c.Refresh(t.Context(), "font", "/fonts"))
	require.False(t, c.Knows("font", "/fonts", "Tern"))
}

// TestAMarketGoesWrongAsItIsTold, on its own page, in every way that it offers.
func TestAMarketGoesWrongAsItIsTold(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "parcels"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "parcels/a.zip"), []byte("a parcel"), 0o644))
	m := &standin.Market{Dir: dir}
	s := httptest.NewServer(m)
	defer s.Close()
	get := func(path string) (status int, text string) {
		r, err := http.Get(s.URL + path)
		require.NoError(t, err)
		defer r.Body.Close()
		b, _ := io.ReadAll(r.Body)
		return r.StatusCode, string(b)
	}
	turn := func(name, on string) {
		r, err := http.PostForm(s.URL+"/switch", url.Values{"name": {name}, "on": {on}})
		require.NoError(t, err)
		require.NoError(t, r.Body.Close())
		require.Equal(t, on != "", m.Has(name))
	}
	_, front := get("/")
	for _, trouble := range standin.Troubles {
		require.Contains(t, front, trouble.Title)
	}
	_, text := get("/parcels/a.zip")
	require.Equal(t, "a parcel", text)
	for name, want := range map[string]string{"down": "closed for repairs", "moved": "/elsewhere/parcels/a.zip", "gone": "maker.invalid"} {
		turn(name, "1")
		_, text := get("/parcels/a.zip")
		require.Contains(t, text, want, name)
		turn(name, "")
	}
	_, text = get("/elsewhere/parcels/a.zip")
	require.Equal(t, "a parcel", text)
	turn("wrong", "1")
	_, text = get("/parcels/a.zip")
	require.Len(t, text, len("a parcel"))
	require.NotEqual(t, "a parcel", text)
	turn("wrong", "")
	m.CutAfter(3)
	_, text = get("/parcels/a.zip")
	require.Equal(t, "a p", text)
	r, err := http.Post(s.URL+"/parcels/a.zip", "text/plain", nil)
	require.NoError(t, err)
	require.NoError(t, r.Body.Close())
	require.Equal(t, http.StatusMethodNotAllowed, r.StatusCode)
}
