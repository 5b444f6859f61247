package changes_test

import (
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/app/apptest"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/planning"
	"ivelt/core/xsettings"
)

// TestWhoStillShowsTheOld: programs that were open before a change and are not told of it,
// of the facets that it is about, until they are started again or it is gone back on.
func TestWhoStillShowsTheOld(t *testing.T) {
	a, d := apptest.WithHome(t, map[string]string{".config/gtk-3.0/settings.ini": "[Settings]\ngtk-cursor-theme-size=24\n"})
	stale := func() map[string][]string {
		list, err := a.History.Stale(d)
		require.NoError(t, err)
		out := map[string][]string{}
		for _, s := range list {
			out[s.Name] = s.Facets
		}
		return out
	}
	require.Empty(t, stale(), "nothing is known of its programs")
	now := time.Now()
	open := []desk.Program{{PID: 7, Name: "files", Surface: "gtk3", Since: now.Add(-time.Hour)}, {PID: 8, Name: "notes", Surface: "gtk4", Since: now.Add(-time.Hour)}, {PID: 9, Name: "new", Surface: "gtk3", Since: now.Add(time.Hour)}, {PID: 10, Name: "other", Surface: "qt", Since: now.Add(-time.Hour)}}
	d.Programs = func() []desk.Program { return open }
	require.Empty(t, stale(), "nothing was changed")

	_, job, err := a.Changes.Dress(t.Context(), d, outfit.Outfit{Name: "x"}.With(desk.FacetDark, "dark").With(desk.FacetPointerSize, "48"), 0, planning.Options{})
	require.NoError(t, apptest.Wait(job, err))
	require.Equal(t, map[string][]string{"files": {desk.FacetDark, desk.FacetPointerSize}, "notes": {desk.FacetDark, desk.FacetPointerSize}}, stale())
	d.Running = func() desk.Session { return desk.Session{XSettings: xsettings.Settings{}} } // who tells them of the size, and not of the shade
	require.Equal(t, map[string][]string{"files": {desk.FacetDark}, "notes": {desk.FacetDark}}, stale())
	open[0].Since = now.Add(time.Hour)
	require.Equal(t, map[string][]string{"notes": {desk.FacetDark}}, stale(), "the list shrinks as they are started again")

	list, err := a.History.Entries(d)
	require.NoError(t, err)
	require.Len(t, list, 1)
	_, job, err = a.Changes.Dress(t.Context(), d, outfit.Outfit{Name: "y"}.With(desk.FacetDark, "light"), 0, planning.Options{})
	require.NoError(t, apptest.Wait(job, err))
	require.Empty(t, stale(), "of which nothing was said before, which is light too")
	_, job, err = a.Changes.Dress(t.Context(), d, outfit.Outfit{Name: "z"}.With(desk.FacetDark, "dark"), 0, planning.Options{})
	require.NoError(t, apptest.Wait(job, err))
	open[1].Since = list[0].At.Add(time.Millisecond)
	require.Empty(t, stale(), "what it read is so again")

	// Qt's programs go along with GTK 3, and read what it is told when they start.
	plugin := d.HostPath("/usr/lib/x86_64-linux-gnu/qt5/plugins/platformthemes/libqgtk3.so")
	require.NoError(t, os.MkdirAll(filepath.Dir(plugin), 0o755))
	require.NoError(t, os.WriteFile(plugin, nil, 0o644))
	require.NoError(t, os.MkdirAll(filepath.Join(d.Home, ".icons/Gull"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(d.Home, ".icons/Gull/index.theme"), []byte("[Icon Theme]\nName=Gull\nDirectories=16\n[16]\nSize=16\n"), 0o644))
	d.SetSurfaces(desk.Builtin())
	d.Env = map[string]string{"QT_QPA_PLATFORMTHEME": "gtk3"}
	_, job, err = a.Changes.Dress(t.Context(), d, outfit.Outfit{Name: "a"}.With(desk.FacetIcons, "Gull"), 0, planning.Options{})
	require.NoError(t, apptest.Wait(job, err))
	require.Equal(t, []string{desk.FacetIcons}, stale()["other"])
}
