package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/app"
	"ivelt/app/desks"
	"ivelt/core/apply"
	"ivelt/core/desk"
	"ivelt/store"
)

func TestStatuses(t *testing.T) {
	of := func(err error) error { return fmt.Errorf("the page: %w", err) }
	for _, c := range []struct {
		err    error
		status int
	}{
		{errors.New("anything"), http.StatusInternalServerError},
		{missing(errors.New("no picture")), http.StatusNotFound},
		{of(refused(errors.New("no name"))), http.StatusBadRequest},
		{of(desks.ErrNone), http.StatusNotFound},
		{refused(of(apply.ErrBusy)), http.StatusConflict},
		{missing(of(store.ErrDamaged)), http.StatusInternalServerError},
		{refused(of(store.ErrFull)), http.StatusInsufficientStorage},
		{refused(of(context.Canceled)), gone},
		{of(store.ErrNone), http.StatusNotFound},
		{refused(of(store.ErrNone)), http.StatusBadRequest},
	} {
		require.Equal(t, c.status, statusOf(c.err), c.err)
	}
}

// TestABrokenDatabaseIsNoMissingPage, whatever is asked for.
func TestABrokenDatabaseIsNoMissingPage(t *testing.T) {
	dir := t.TempDir()
	d, err := desk.Open("d", dir, dir, "/home/me")
	require.NoError(t, err)
	d.SetWritable(true)
	a, err := app.New(t.Context(), app.Config{Dir: t.TempDir(), Desks: []*desks.Managed{{Desk: d}}})
	require.NoError(t, err)
	s, err := New(a)
	require.NoError(t, err)
	s.Hosts = []string{"127.0.0.1"}
	ask := func(path string) int {
		w := httptest.NewRecorder()
		r := httptest.NewRequest(http.MethodGet, path, nil)
		r.Host = "127.0.0.1"
		s.Handler().ServeHTTP(w, r)
		return w.Code
	}
	paths := []string{"/d/d/match", "/d/d/shelf", "/d/d/compose", "/d/d/history", "/d/d/markets"}
	for _, path := range paths {
		require.Equal(t, http.StatusOK, ask(path), path)
	}
	require.Equal(t, http.StatusNotFound, ask("/d/nobody/match"))
	require.Equal(t, http.StatusNotFound, ask("/d/d/nowhere"))
	require.NoError(t, a.Close())
	for _, path := range paths {
		require.GreaterOrEqual(t, ask(path), 500, path)
	}
}
