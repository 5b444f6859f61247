package web_test

import (
	"html"
	"io"
	"net/http"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestBeadsAreDrawnWithTheirPage: a page's beads are those that a reading of their own gives,
// each has an address of what is seen on it, and the same is fetched once.
func TestBeadsAreDrawnWithTheirPage(t *testing.T) {
	s := newStage(t)
	v := s.visit()
	page, _ := v.get("/d/dunlin/match")
	seen := map[string]bool{}
	for _, m := range regexp.MustCompile(`src="(/d/dunlin/bead\?[^"]+)"`).FindAllStringSubmatch(page, -1) {
		at := html.UnescapeString(m[1])
		if seen[at] {
			continue
		}
		seen[at] = true
		kept, header := s.fetched(at)
		require.Contains(t, header.Get("Cache-Control"), "immutable", at)
		again, header := s.fetched(at[:strings.Index(at, "&v=")])
		require.Equal(t, "no-cache", header.Get("Cache-Control"))
		require.Equal(t, again, kept, at)
	}
	require.Greater(t, len(seen), 10)
	require.Less(t, len(seen), strings.Count(page, "/bead?"), "what looks the same has one address")
	for _, at := range regexp.MustCompile(`/static/(css|js)/[^"]+`).FindAllString(page, -1) {
		_, header := s.fetched(at)
		require.Contains(t, header.Get("Cache-Control"), "immutable", at)
	}
	_, header := s.fetched("/static/css/frame.css?v=earlier")
	require.NotContains(t, header.Get("Cache-Control"), "immutable")
}

// fetched asks for an address as a browser does.
func (s *stage) fetched(at string) (string, http.Header) {
	s.t.Helper()
	r, err := http.Get(s.url + at)
	require.NoError(s.t, err)
	defer r.Body.Close()
	require.Equal(s.t, http.StatusOK, r.StatusCode, at)
	var b strings.Builder
	_, err = io.Copy(&b, r.Body)
	require.NoError(s.t, err)
	return b.String(), r.Header
}
