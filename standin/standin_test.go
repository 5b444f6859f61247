package standin_test

import (
	"context"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/reading"
	"ivelt/standin"
)

// TestQuaysideFollowsItsRules is written from docs/standins.md, and holds the
// descriptor to the same rules: what Quayside loads is what is read of it.
func TestQuaysideFollowsItsRules(t *testing.T) {
	at := time.Date(2026, 3, 21, 6, 40, 0, 0, time.UTC)
	for _, c := range []struct{ what, system, home, want string }{
		{"nothing set", "", "", "hicolor"},
		{"the system's file", "[Look]\nicons=S\n", "", "S"},
		{"the person's comes before it", "[Look]\nicons=S\n", "[Look]\nicons = P \n", "P"},
		{"the last of several counts", "", "[Look]\nicons=A\n[Bar]\nedge=top\n[Look]\nicons=B\n", "B"},
		{"another group is not asked", "[Look]\nicons=S\n", "[Bar]\nicons=P\n", "S"},
		{"comments and blanks are skipped", "", "# a\n\n[Look]\n# icons=A\nicons=B", "B"},
		{"a file with a bad line says nothing", "[Look]\nicons=S\n", "[Look]\nicons=P\noops\n", "S"},
		{"a key before any group is a bad line", "[Look]\nicons=S\n", "icons=P\n", "S"},
	} {
		home, system := t.TempDir(), t.TempDir()
		for file, text := range map[string]string{filepath.Join(system, "etc/quayside/quayside.conf"): c.system, filepath.Join(home, ".config/quayside/quayside.conf"): c.home} {
			if text != "" {
				require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
				require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
			}
		}
		require.NoError(t, standin.Quayside{Home: home, System: system, Now: func() time.Time { return at }}.Start())
		session, err := os.ReadFile(filepath.Join(home, ".local/state/quayside/session.conf"))
		require.NoError(t, err)
		require.Contains(t, string(session), "\nat=2026-03-21T06:40:00Z\nicons="+c.want+"\n", c.what)

		d, err := desk.Open("d", home, system, "/home/mara")
		require.NoError(t, err)
		d.Surfaces = standin.Surfaces()
		shell, _ := d.Surface("quayside")
		icons, _ := shell.Facet(desk.FacetIcons)
		r := reading.Of(d, shell, icons)
		require.Equal(t, c.want, strings.TrimSpace(r.Value), c.what)
		require.Equal(t, c.want, r.Loaded, c.what)
	}
}

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
