package bundles_test

import (
	"archive/zip"
	"bytes"
	"io"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/app/apptest"
	"ivelt/app/bundles"
	"ivelt/app/changes"
	"ivelt/app/library"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/planning"
	"ivelt/core/reading"
)

// TestAnOutfitTravelsWithItsPieces: exported on one desk it is taken on another,
// which is then dressed in it, its pieces put in place; what may not be passed on
// is left out and said, and told on the other side.
func TestAnOutfitTravelsWithItsPieces(t *testing.T) {
	a, from := apptest.WithHome(t, map[string]string{
		".themes/Reef/index.theme": "[Desktop Entry]\nName=Reef\n", ".themes/Reef/gtk-3.0/gtk.css": "window { color: red }", ".themes/Reef/gtk-4.0/gtk.css": "",
		".icons/Shingle/index.theme": "[Icon Theme]\nName=Shingle\nDirectories=16\n[16]\nSize=16\n", ".icons/Shingle/16/folder.png": "x",
		".icons/Secret/index.theme": "[Icon Theme]\nName=Secret\n", ".icons/Secret/cursors/left_ptr": "Xcur",
	})
	o := outfit.Outfit{Name: "Low tide"}.With(desk.FacetWidgets, "Reef").With(desk.FacetIcons, "Shingle").With(desk.FacetPointer, "Secret").With(desk.FacetDark, "light")
	for facet, licence := range map[string]string{desk.FacetWidgets: "GPL-3.0-or-later", desk.FacetIcons: "CC-BY-SA-4.0", desk.FacetPointer: "All rights reserved"} {
		o.Choices[facet] = o.Choices[facet].Pieced("1.0", "Strandline", licence, "")
	}
	var b bytes.Buffer
	left, err := a.Bundles.Export(t.Context(), from, o, &b)
	require.NoError(t, err)
	require.Equal(t, []bundles.LeftOut{{Facet: desk.FacetPointer, Piece: "Secret", Why: "its licence, All rights reserved, does not say that it may be passed on"}}, left)
	z, err := zip.NewReader(bytes.NewReader(b.Bytes()), int64(b.Len()))
	require.NoError(t, err)
	var names []string
	for _, f := range z.File {
		names = append(names, f.Name)
	}
	require.ElementsMatch(t, []string{"outfit.toml", "LEFT-OUT.txt", "themes/Reef/index.theme", "themes/Reef/gtk-3.0/gtk.css", "themes/Reef/gtk-4.0/gtk.css", "icons/Shingle/index.theme", "icons/Shingle/16/folder.png"}, names)

	c, to := apptest.WithHome(t, nil)
	sha := ""
	require.NoError(t, c.Library.Bring("low-tide.zip", io.NopCloser(&b), int64(b.Len()), "", func(s string) string { sha = s; return "" }).Wait())
	row, err := c.Library.Parcel(sha)
	require.NoError(t, err)
	contents, err := library.Contents(row)
	require.NoError(t, err)
	key := ""
	for _, pc := range contents.Pieces {
		if pc.Kind == "bundle" {
			key = library.PieceKey(pc)
		}
	}
	require.NotEmpty(t, key)
	_, err = c.Bundles.Take(t.Context(), to, sha, library.PieceKey(contents.Pieces[0]), nil, false, "")
	require.ErrorContains(t, err, "is no outfit")
	j, err := c.Bundles.Take(t.Context(), to, sha, key, nil, false, "/then")
	require.NoError(t, err)
	require.NoError(t, j.Wait())
	draft, err := c.Drafts.Draft(to)
	require.NoError(t, err)
	require.Empty(t, o.Differences(draft))
	missing, err := c.Bundles.MissingOf(to, draft)
	require.NoError(t, err)
	require.Equal(t, []bundles.Missing{{Facet: desk.FacetPointer, Piece: "Secret", Source: "Strandline"}}, missing)
	reviewed, err := c.Review.Draft(t.Context(), to, nil, planning.Options{})
	require.NoError(t, err)
	j, err = c.Changes.Apply(to, reviewed.Plan.ID, changes.How{})
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
