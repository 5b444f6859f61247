package changes_test

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/app"
	"ivelt/app/apptest"
	"ivelt/app/changes"
	"ivelt/app/desks"
	"ivelt/app/library"
	"ivelt/core/desk"
	"ivelt/core/place"
)

// TestAnAdministratorIsAsked: once the person's system lets them, the administrator's Ivelt
// carries out what the person's planned, the person's history tells of it, and it goes back.
// Who gives no password has changed nothing.
func TestAnAdministratorIsAsked(t *testing.T) {
	dir := t.TempDir()
	a, d := apptest.Open(t, dir)
	system, err := changes.SystemDesk(d.System)
	require.NoError(t, err)
	require.NoError(t, os.MkdirAll(system.Home, 0o755))
	system.SetSurfaces(d.Surfaces())
	system.SetWritable(true)
	on := &desks.Managed{Desk: system}
	theirs, err := app.New(t.Context(), app.Config{Dir: filepath.Join(dir, "administrator"), Desks: []*desks.Managed{on}})
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, theirs.Close()) })

	refuse := errors.New("no password")
	d.Administer = func(context.Context, ...string) error { return refuse }
	parcel := filepath.Join(dir, "Salt")
	for name, text := range map[string]string{"index.theme": "[Icon Theme]\nName=Salt\nDirectories=16\n[16]\nSize=16\n", "16/a.png": "a"} {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(parcel, name)), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(parcel, name), []byte(text), 0o644))
	}
	row, err := a.Library.Keep(t.Context(), parcel, "")
	require.NoError(t, err)
	contents, err := library.Contents(row)
	require.NoError(t, err)
	p, err := a.Pieces.InstallPlan(t.Context(), d, row.SHA256, []string{library.PieceKey(contents.Pieces[0])}, library.How{Scope: place.Everyone})
	require.NoError(t, err)
	require.NoError(t, a.Plans.Keep(p))
	require.ErrorIs(t, apptest.Wait(a.Changes.AskAdministrator(d, p.ID, "")), refuse)
	require.NoDirExists(t, system.HostPath("/usr/local"))

	asked := ""
	d.Administer = func(ctx context.Context, args ...string) error {
		asked = strings.Join(args, " ")
		if args[0] == "--back" {
			_, job, err := theirs.Administrator.GoBack(on, 1, false)
			return apptest.Wait(job, err)
		}
		_, job, err := theirs.Administrator.CarryOut(ctx, on, args[0], "mara", false)
		return apptest.Wait(job, err)
	}
	require.NoError(t, apptest.Wait(a.Changes.AskAdministrator(d, p.ID, "")))
	require.FileExists(t, system.HostPath("/usr/local/share/icons/Salt/16/a.png"))
	require.NoFileExists(t, asked, "what was handed over is cleared away")
	done, begun, err := changes.AdministeredFor(d.Desk)
	require.NoError(t, err)
	require.Empty(t, begun)
	require.Len(t, done, 1)
	require.Equal(t, []any{p.ID, p.Title, "mara"}, []any{done[0].Plan, done[0].Title, done[0].By})
	other, err := desk.Open("other", d.Home, d.System, "/home/other")
	require.NoError(t, err)
	done, _, err = changes.AdministeredFor(other)
	require.NoError(t, err)
	require.Empty(t, done, "it was done for another home")

	_, err = a.Changes.AskBack(d, 7, "")
	require.ErrorContains(t, err, "did no such thing")
	require.NoError(t, apptest.Wait(a.Changes.AskBack(d, 1, "")))
	require.Equal(t, "--back 1", asked)
	require.NoDirExists(t, system.HostPath("/usr/local/share/icons/Salt"))
	_, err = a.Changes.AskBack(d, 1, "")
	require.ErrorContains(t, err, "has undone it")

	list := system.HostPath(changes.AdministersIn + "/changes.json")
	require.NoError(t, os.WriteFile(list, []byte("{"), 0o644))
	_, _, err = changes.AdministeredFor(d.Desk)
	require.ErrorContains(t, err, "changes.json")
}
