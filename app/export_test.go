package app_test

import (
	"archive/zip"
	"bytes"
	"io"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/app"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/reading"
)

// station is an Ivelt with one desk, of whose home these files are.
func station(t *testing.T, files map[string]string) (*app.App, *app.Desk) {
	home := t.TempDir()
	for name, text := range files {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(home, name)), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(home, name), []byte(text), 0o644))
	}
	d, err := desk.Open("d", home, t.TempDir(), "/home/me")
	require.NoError(t, err)
	for _, s := range desk.Builtin() {
		if s.ID == "gtk3" || s.ID == "gtk4" {
			d.Surfaces = append(d.Surfaces, s)
		}
	}
	d.Writable = true
	of := &app.Desk{Desk: d}
	a, err := app.New(t.Context(), app.Config{Dir: t.TempDir(), Desks: []*app.Desk{of}})
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, a.Close()) })
	return a, of
}

// TestAnOutfitTravelsWithItsPieces: exported on one desk it is taken on another,
// which is then dressed in it, its pieces put in place; what may not be passed on
// is left out and said, and told on the other side.
func TestAnOutfitTravelsWithItsPieces(t *testing.T) {
	a, from := station(t, map[string]string{
		".themes/Reef/index.theme": "[Desktop Entry]\nName=Reef\n", ".themes/Reef/gtk-3.0/gtk.css": "window { color: red }", ".themes/Reef/gtk-4.0/gtk.css": "",
		".icons/Shingle/index.theme": "[Icon Theme]\nName=Shingle\nDirectories=16\n[16]\nSize=16\n", ".icons/Shingle/16/folder.png": "x",
		".icons/Secret/index.theme": "[Icon Theme]\nName=Secret\n", ".icons/Secret/cursors/left_ptr": "Xcur",
	})
	o := outfit.Outfit{Name: "Low tide"}.With(desk.FacetWidgets, "Reef").With(desk.FacetIcons, "Shingle").With(desk.FacetPointer, "Secret").With(desk.FacetDark, "light")
	for facet, licence := range map[string]string{desk.FacetWidgets: "GPL-3.0-or-later", desk.FacetIcons: "CC-BY-SA-4.0", desk.FacetPointer: "All rights reserved"} {
		o.Choices[facet] = o.Choices[facet].Pieced("1.0", "Strandline", licence, "")
	}
	var b bytes.Buffer
	left, err := a.Export(t.Context(), from, o, &b)
	require.NoError(t, err)
	require.Equal(t, []app.LeftOut{{Facet: desk.FacetPointer, Piece: "Secret", Why: "its licence, All rights reserved, does not say that it may be passed on"}}, left)
	z, err := zip.NewReader(bytes.NewReader(b.Bytes()), int64(b.Len()))
	require.NoError(t, err)
	var names []string
	for _, f := range z.File {
		names = append(names, f.Name)
	}
	require.ElementsMatch(t, []string{"outfit.toml", "LEFT-OUT.txt", "themes/Reef/index.theme", "themes/Reef/gtk-3.0/gtk.css", "themes/Reef/gtk-4.0/gtk.css", "icons/Shingle/index.theme", "icons/Shingle/16/folder.png"}, names)

	c, to := station(t, nil)
	sha := ""
	require.NoError(t, c.Bring("low-tide.zip", io.NopCloser(&b), int64(b.Len()), "", func(s string) string { sha = s; return "" }).Wait())
	row, err := c.Store.Parcel(sha)
	require.NoError(t, err)
	contents, err := app.Contents(row)
	require.NoError(t, err)
	key := ""
	for _, pc := range contents.Pieces {
		if pc.Kind == "bundle" {
			key = app.PieceKey(pc)
		}
	}
	require.NotEmpty(t, key)
	_, err = c.TakeBundle(t.Context(), to, sha, app.PieceKey(contents.Pieces[0]), nil, false, "")
	require.ErrorContains(t, err, "is no outfit")
	j, err := c.TakeBundle(t.Context(), to, sha, key, nil, false, "/then")
	require.NoError(t, err)
	require.NoError(t, j.Wait())
	draft, err := c.Draft(to)
	require.NoError(t, err)
	require.Empty(t, o.Differences(draft))
	missing, err := c.MissingOf(to, draft)
	require.NoError(t, err)
	require.Equal(t, []app.Missing{{Facet: desk.FacetPointer, Piece: "Secret", Source: "Strandline"}}, missing)
	reviewed, err := c.Review(t.Context(), to, nil, plan.Options{})
	require.NoError(t, err)
	j, err = c.Apply(to, reviewed.Plan.ID, app.Order{})
	require.NoError(t, err)
	require.NoError(t, j.Wait())
	for facet, want := range map[string]string{desk.FacetWidgets: "Reef", desk.FacetIcons: "Shingle"} {
		s, _ := to.Surface("gtk3")
		f, _ := s.Facet(facet)
		r := reading.Of(to.Desk, s, f)
		require.Equal(t, want, r.Value)
		require.Nil(t, r.Problem, facet)
	}
}
