package drafts_test

import (
	"archive/zip"
	"bytes"
	"io"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/app/apptest"
	"ivelt/app/library"
	"ivelt/core/desk"
)

const terminalOf = `id = "creek"
title = "Creek"
kind = "terminal"
[[facet]]
name = "start"
default = "/bin/sh"
source = [{ format = "keyfile", path = "{config}/creek.conf", group = "Creek", key = "start", write = true }]
lookup = { kind = "program", built-in = ["/bin/sh"] }
[[facet]]
name = "edges"
acts = true
default = "shown"
source = [{ format = "keyfile", path = "{config}/creek.conf", group = "Creek", key = "edges", write = true }]
`

const strangers = `format = 1
name = "Pretty"
[facet.pointer-size]
value = "32"
[facet.start]
value = "/bin/sh -c /tmp/x"
except = { creek = "/usr/bin/env y" }
[facet.sign-in]
value = "by itself"
[facet.edges]
value = "hidden"
`

// TestWhatActsIsNotTakenWithTheRest: a stranger's outfit that starts a program, or lets
// everybody in, does so only if that is chosen by itself; so does what a descriptor says
// acts.
func TestWhatActsIsNotTakenWithTheRest(t *testing.T) {
	a, d := apptest.New(t)
	s, err := desk.ParseSurface([]byte(terminalOf))
	require.NoError(t, err)
	d.SetSurfaces(append(d.Surfaces(), s))
	draft := func() []string {
		o, err := a.Drafts.Draft(d)
		require.NoError(t, err)
		return o.Facets()
	}
	require.NoError(t, a.Drafts.TakeOutfit(d, []byte(strangers)))
	require.Equal(t, []string{desk.FacetPointerSize}, draft())
	require.Len(t, a.Notices.All(), 1)
	said := a.Notices.All()[0].Text
	for _, words := range []string{"every terminal that is opened starts /bin/sh -c /tmp/x", "starts /usr/bin/env y", "anyone who switches this computer on can use it", "Terminal menu and scroll bar"} {
		require.Contains(t, said, words)
	}
	require.ErrorContains(t, a.Drafts.TakeOutfit(d, []byte("format = 1\nname = \"X\"\n[facet.sign-in]\nvalue = \"by itself\"\n")), "if you want it, choose it yourself")

	require.NoError(t, a.Drafts.Drop(d))
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	w, err := z.Create("pretty.toml")
	require.NoError(t, err)
	_, err = w.Write([]byte(strangers))
	require.NoError(t, err)
	require.NoError(t, z.Close())
	sha := ""
	require.NoError(t, a.Library.Bring("pretty.zip", io.NopCloser(&b), int64(b.Len()), "", func(s string) string { sha = s; return "" }).Wait())
	row, err := a.Library.Parcel(sha)
	require.NoError(t, err)
	contents, err := library.Contents(row)
	require.NoError(t, err)
	require.Len(t, contents.Pieces, 1)
	key := library.PieceKey(contents.Pieces[0])
	look, err := a.Bundles.Look(t.Context(), d, sha, key)
	require.NoError(t, err)
	for _, f := range look.Facets {
		require.Equal(t, f.Facet != desk.FacetPointerSize, f.Acts, f.Facet)
		require.Equal(t, f.Acts, f.Does.Code != "", f.Facet)
	}
	require.NoError(t, apptest.Wait(a.Bundles.Take(t.Context(), d, sha, key, nil, false, "")))
	require.Equal(t, []string{desk.FacetPointerSize}, draft())
	require.NoError(t, apptest.Wait(a.Bundles.Take(t.Context(), d, sha, key, []string{desk.FacetStart}, false, "")))
	require.Equal(t, []string{desk.FacetPointerSize, desk.FacetStart}, draft(), "if it is marked")
}
