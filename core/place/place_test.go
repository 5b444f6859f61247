package place_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/parcel"
	"ivelt/core/place"
	"ivelt/core/planning"
)

func newDesk(t *testing.T) *desk.Desk {
	t.Helper()
	d, err := desk.Open("d", t.TempDir(), t.TempDir(), "/home/me")
	require.NoError(t, err)
	d.SetSurfaces(desk.Builtin())
	return d
}

func TestWhereEachKindGoesAndWhoSeesIt(t *testing.T) {
	d := newDesk(t)
	for _, c := range []struct {
		kind parcel.Kind
		want string // scope path [link] seen by / not seen by
	}{
		{parcel.Theme, "mine ~/.themes/P GTK 2, GTK 3, GTK 4 / -; everyone /usr/local/share/themes/P GTK 2, GTK 3, GTK 4 / -"},
		{parcel.Icons, "mine ~/.local/share/icons/P GTK 2, GTK 3, GTK 4, GTK 4 programs with their own sheet, Qt / -; mine ~/.icons/P link GTK 2, GTK 3, GTK 4, GTK 4 programs with their own sheet, Qt / -; everyone /usr/local/share/icons/P GTK 2, GTK 3, GTK 4, GTK 4 programs with their own sheet, Qt / -"},
		{parcel.Pointer, "mine ~/.icons/P The display's pointer / -; everyone /usr/share/icons/P The display's pointer / -"},
		{parcel.Font, "mine ~/.local/share/fonts/P All programs' fonts / -; everyone /usr/local/share/fonts/P All programs' fonts / -"},
		{parcel.Backdrop, "mine ~/.local/share/backgrounds/P - / -; everyone /usr/local/share/backgrounds/P - / -"},
		{parcel.Sound, "mine ~/.local/share/sounds/P - / -; everyone /usr/local/share/sounds/P - / -"},
		{parcel.Palette, "mine ~/.local/share/palettes/P - / -"},
		{parcel.Login, "everyone /usr/local/share/login-themes/P - / -"},
	} {
		var got []string
		for _, p := range place.Placements(parcel.Piece{Kind: c.kind, Folder: "P"}, d) {
			require.NotEmpty(t, p.Reason)
			list := func(titles []string) string {
				return strings.ReplaceAll(strings.Join(append(titles, "-")[:max(len(titles), 1)], ", "), " programs,", ",")
			}
			link := ""
			if p.Link {
				link = " link"
			}
			got = append(got, string(p.Scope)+" "+p.Path+link+" "+strings.TrimSuffix(list(p.SeenBy), " programs")+" / "+list(p.Blind))
		}
		require.Equal(t, c.want, strings.Join(got, "; "))
	}
	require.Empty(t, place.Placements(parcel.Piece{Kind: parcel.Pointer, Folder: "P", Parts: []string{"cur"}}, d), "of another family")
	require.Empty(t, place.Placements(parcel.Piece{Kind: parcel.Theme, Folder: "P", Parts: []string{"description"}}, d), "of another family")
	_, err := place.Target(parcel.Piece{Kind: parcel.Palette, Folder: "P"}, d, place.Everyone)
	require.ErrorIs(t, err, place.ErrNowhere)
}

// TestSealedSurfacesNeedACopy has a runtime whose programs see nothing that a
// link leads to, and a login screen with a folder of its own.
func TestSealedSurfacesNeedACopy(t *testing.T) {
	d := newDesk(t)
	d.SetSurfaces(append(d.Surfaces(), desk.Surface{ID: "box", Title: "The box", Looks: []desk.Look{{Kind: "icons", Folders: []string{"~/.icons"}, Sealed: true}}},
		desk.Surface{ID: "gate", Title: "The gate", Looks: []desk.Look{{Kind: "login", Folders: []string{"/usr/share/gate"}}, {Kind: "icons", Folders: []string{"/usr/local/share/icons"}}}}))
	mine := place.Placements(parcel.Piece{Kind: parcel.Icons, Folder: "P"}, d)
	require.Equal(t, []string{"The box", "The gate"}, mine[0].Blind)
	require.Equal(t, []string{"The box"}, mine[1].Copy)
	require.Equal(t, []string{"The gate"}, mine[1].Blind)
	require.Contains(t, mine[2].SeenBy, "The gate")
	require.Equal(t, "/usr/share/gate/P", place.Placements(parcel.Piece{Kind: parcel.Login, Folder: "P"}, d)[0].Path)
}

func TestADataHomeElsewhere(t *testing.T) {
	d := newDesk(t)
	d.Env = map[string]string{"XDG_DATA_HOME": "/home/me/data"}
	all, err := place.All([]parcel.Piece{{Kind: parcel.Icons, Folder: "P"}}, d, place.Mine, planning.Leave, planning.ByLink)
	require.NoError(t, err)
	require.Equal(t, "/home/me/data/icons/P", all[0].Target)
	require.Equal(t, []string{"/home/me/.icons/P"}, all[0].Links)
}

func TestACopyOfMineHidesTheSystems(t *testing.T) {
	d := newDesk(t)
	for _, dir := range []string{"usr/share/icons/P", "usr/local/share/icons/Q"} {
		require.NoError(t, os.MkdirAll(filepath.Join(d.System, dir), 0o755))
	}
	hides := func(folder, target string) []string {
		return place.Hides(parcel.Piece{Kind: parcel.Icons, Folder: folder}, d, target)
	}
	require.Equal(t, []string{"/usr/share/icons/P"}, hides("P", "/home/me/.local/share/icons/P"))
	require.Equal(t, []string{"/usr/share/icons/P"}, hides("P", "/usr/local/share/icons/P"))
	require.Empty(t, hides("Q", "/usr/share/icons/Q"), "the one in /usr/local comes first")
	require.Empty(t, hides("R", "/home/me/.local/share/icons/R"))
}
