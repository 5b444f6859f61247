package drafts_test

import (
	"archive/zip"
	"bytes"
	"io"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/app"
	"ivelt/app/changes"
	"ivelt/app/desks"
	"ivelt/app/drafts"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/core/reading"
)

// TestTryingOn: what is tried on can be looked at, the desk has nothing of it,
// and its plan puts it in place before it names it.
func TestTryingOn(t *testing.T) {
	home := t.TempDir()
	d, err := desk.Open("d", home, t.TempDir(), "/home/me")
	require.NoError(t, err)
	d.SetWritable(true)
	d.SetSurfaces(desk.Builtin())
	of := &desks.Managed{Desk: d}
	a, err := app.New(t.Context(), app.Config{Dir: t.TempDir(), Desks: []*desks.Managed{of}})
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, a.Close()) })
	bring := func(name string, files map[string]string) string {
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		for name, text := range files {
			w, err := z.Create(name)
			require.NoError(t, err)
			_, err = w.Write([]byte(text))
			require.NoError(t, err)
		}
		require.NoError(t, z.Close())
		sha := ""
		require.NoError(t, a.Library.Bring(name, io.NopCloser(&b), int64(b.Len()), "", func(s string) string { sha = s; return "" }).Wait())
		return sha
	}
	try := func(sha string) error {
		j, err := a.Overlays.TryOn(of, sha, "", "/then")
		require.NoError(t, err)
		return j.Wait()
	}
	sha := bring("kit.zip", map[string]string{
		"kit/Reef/gtk-3.0/gtk.css": "window { color: red }", "kit/Reef/gtk-4.0/gtk.css": "", "kit/Reef/index.theme": "[Desktop Entry]\nName=Reef\n",
		"kit/Gull/cursors/default": "Xcur", "kit/Gull/index.theme": "[Icon Theme]\nName=Gull\n",
	})
	require.NoError(t, try(sha))
	require.NoError(t, try(sha), "once more does no harm")
	left, err := os.ReadDir(home)
	require.NoError(t, err)
	require.Empty(t, left, "the desk is untouched")
	o, err := a.Drafts.Draft(of)
	require.NoError(t, err)
	require.Equal(t, "Reef", o.Want(desk.FacetWidgets))
	trying := a.Overlays.Trying(of, o)
	gtk3, _ := d.Surface("gtk3")
	f, _ := gtk3.Facet(desk.FacetWidgets)
	require.NoError(t, reading.Check(trying, gtk3, f, "Reef"))
	require.ErrorIs(t, reading.Check(d, gtk3, f, "Reef"), reading.ErrNotThere)
	require.Empty(t, a.Overlays.Trying(of, outfit.Outfit{}.With(desk.FacetIcons, "Reef")).Layers, "only what is named is laid under")
	wear, ok := a.Advice.Piece(t.Context(), of, desk.FacetWidgets, "Reef")
	require.True(t, ok)
	require.Equal(t, sha, wear.Tried)

	reviewed, err := a.Review.Draft(t.Context(), of, nil, planning.Options{})
	require.NoError(t, err)
	p := reviewed.Plan
	var order []string
	for _, op := range p.Ops {
		if op.Kind == plan.Copy || op.Kind == plan.Write {
			order = append(order, string(op.Kind)+" "+d.Show(op.Path))
		}
	}
	require.Contains(t, order, "copy ~/.themes/Reef")
	require.Equal(t, "write ~/.config/gtk-3.0/settings.ini", order[len(order)-2])
	j, err := a.Changes.Apply(of, p.ID, changes.How{})
	require.NoError(t, err)
	require.NoError(t, j.Wait())
	require.FileExists(t, filepath.Join(home, ".themes/Reef/gtk-3.0/gtk.css"))
	require.Empty(t, a.Overlays.Overlay(of).Layers, "what is in place needs no trying on")

	empty := bring("words.zip", map[string]string{"readme.txt": "nothing here"})
	require.ErrorIs(t, try(empty), drafts.ErrNothingToTry)
	require.Error(t, a.Overlays.Untry(of, "../d"))
	require.Error(t, a.Overlays.Untry(of, ""))
}
