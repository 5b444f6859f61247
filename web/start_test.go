package web

import (
	"errors"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/app"
	"ivelt/app/desks"
	"ivelt/core/desk"
)

// TestAPersonsOwnDeskIsLookedAtUntilTheySay: the first page tells what the desk is and where
// it disagrees; changes are allowed there, and no longer allowed, in one step each.
func TestAPersonsOwnDeskIsLookedAtUntilTheySay(t *testing.T) {
	home, system := t.TempDir(), t.TempDir()
	for version, pack := range map[string]string{"3.0": "Reed", "4.0": "Gull"} {
		file := filepath.Join(home, ".config/gtk-"+version+"/settings.ini")
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file, []byte("[Settings]\ngtk-icon-theme-name="+pack+"\n"), 0o644))
	}
	d, err := desk.Open("own", home, system, "/home/me")
	require.NoError(t, err)
	d.Title, d.Env = "This computer", map[string]string{}
	d.SetSurfaces(desk.Builtin())
	var kept []bool
	var full error
	own := &desks.Managed{Desk: d, Keep: func(may bool) error { kept = append(kept, may); return full }}
	demo, err := desk.Open("demo", t.TempDir(), system, "/home/me")
	require.NoError(t, err)
	a, err := app.New(t.Context(), app.Config{Dir: t.TempDir(), Desks: []*desks.Managed{own, {Desk: demo}}})
	require.NoError(t, err)
	defer a.Close()
	s, err := New(a)
	require.NoError(t, err)
	s.Hosts = []string{"127.0.0.1"}
	ask := func(method, path string, form url.Values) (int, string) {
		w := httptest.NewRecorder()
		r := httptest.NewRequest(method, path, strings.NewReader(form.Encode()))
		r.Host = "127.0.0.1"
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		s.Handler().ServeHTTP(w, r)
		return w.Code, w.Body.String() + w.Header().Get("Location")
	}
	_, to := ask(http.MethodGet, "/", nil)
	require.Contains(t, to, "/d/own/start")
	status, page := ask(http.MethodGet, "/d/own/start", nil)
	require.Equal(t, http.StatusOK, status)
	for _, says := range []string{"Ivelt only looks at this computer", "Allow changes", "read-only", "no display", "Make it match", "Reed", "Gull"} {
		require.Contains(t, page, says)
	}

	status, to = ask(http.MethodPost, "/d/own/writing", url.Values{"write": {"yes"}})
	require.Equal(t, http.StatusSeeOther, status, to)
	require.True(t, d.Writable())
	_, page = ask(http.MethodGet, "/d/own/start", nil)
	require.Contains(t, page, "may change this desk")
	require.NotContains(t, page, "read-only")
	full = errors.New("no room for it")
	status, page = ask(http.MethodPost, "/d/own/writing", url.Values{"write": {"no"}})
	require.GreaterOrEqual(t, status, 400)
	require.Contains(t, page, "No room for it")
	require.True(t, d.Writable(), "what cannot be kept does not hold")
	full = nil
	ask(http.MethodPost, "/d/own/writing", url.Values{"write": {"no"}})
	require.False(t, d.Writable())
	require.Equal(t, []bool{true, false, false}, kept)

	// Nothing tells programs of changes on this display: Ivelt can, but for the test's program,
	// which is gone tomorrow.
	d.Env["DISPLAY"] = ":7"
	started := 0
	own.Session = func() error { started++; return nil }
	_, page = ask(http.MethodGet, "/d/own/start", nil)
	require.Contains(t, page, "Update programs at once")
	status, page = ask(http.MethodPost, "/d/own/session", url.Values{"do": {"on"}})
	require.Equal(t, http.StatusBadRequest, status)
	require.Contains(t, page, "cleared away")
	status, _ = ask(http.MethodPost, "/d/own/session", url.Values{"do": {"start"}})
	require.Equal(t, http.StatusSeeOther, status)
	require.Equal(t, 1, started)
	entry := filepath.Join(home, ".config/autostart/ivelt-session.desktop")
	require.NoError(t, os.MkdirAll(filepath.Dir(entry), 0o755))
	require.NoError(t, os.WriteFile(entry, []byte("[Desktop Entry]\n"), 0o644))
	_, page = ask(http.MethodGet, "/d/own/start", nil)
	require.Contains(t, page, "From the next sign-in on")
	status, page = ask(http.MethodPost, "/d/own/session", url.Values{"do": {"off"}})
	require.Equal(t, http.StatusOK, status)
	require.Contains(t, page, "ivelt-session.desktop")

	_, page = ask(http.MethodGet, "/d/demo/start", nil)
	require.NotContains(t, page, "Allow changes")
	status, _ = ask(http.MethodPost, "/d/demo/writing", url.Values{"write": {"yes"}})
	require.GreaterOrEqual(t, status, 400)
	require.False(t, demo.Writable())
}

// TestAComputerWithoutADesktop says so, and everything else goes on.
func TestAComputerWithoutADesktop(t *testing.T) {
	d, err := desk.Open("own", t.TempDir(), t.TempDir(), "/home/me")
	require.NoError(t, err)
	d.Title, d.Env = "This computer", map[string]string{}
	d.SetSurfaces(d.Present(desk.Builtin()))
	a, err := app.New(t.Context(), app.Config{Dir: t.TempDir(), Desks: []*desks.Managed{{Desk: d, Keep: func(bool) error { return nil }}}})
	require.NoError(t, err)
	defer a.Close()
	s, err := New(a)
	require.NoError(t, err)
	s.Hosts = []string{"127.0.0.1"}
	for _, stage := range []string{"start", "find", "shelf", "compose", "match", "history", "judge", "markets", "learn", "picture.svg", "sheet"} {
		w := httptest.NewRecorder()
		r := httptest.NewRequest(http.MethodGet, "/d/own/"+stage, nil)
		r.Host = "127.0.0.1"
		s.Handler().ServeHTTP(w, r)
		require.Equal(t, http.StatusOK, w.Code, "%s: %s", stage, w.Body.String())
		if stage == "start" {
			require.Contains(t, w.Body.String(), "There is no desktop on this computer")
			require.NotContains(t, w.Body.String(), "Make it match")
		}
	}
}
