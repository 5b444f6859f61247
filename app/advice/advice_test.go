package advice_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/app/advice"
	"ivelt/app/apptest"
	"ivelt/core/archive/archivetest"
	"ivelt/core/desk"
	"ivelt/core/market"
	"ivelt/core/outfit"
	"ivelt/core/taste"
)

func theme(name, ground string) string {
	return "window { background-color: " + ground + "; color: #202020; }\nbutton { background-color: " + ground + "; border-radius: 4px; }\n"
}

func icons(fill string) string {
	return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 48 48" width="48" height="48"><rect width="48" height="48" rx="20" fill="` + fill + `"/></svg>`
}

func pack(t *testing.T, name, fill string) []byte {
	return archivetest.Zip(t, []archivetest.Entry{
		{Name: name + "/index.theme", Text: archivetest.Index(name, "", "48/apps")},
		{Name: name + "/48/apps/folder.svg", Text: icons(fill)}, {Name: name + "/48/apps/user-home.svg", Text: icons(fill)},
	})
}

var home = map[string]string{
	".themes/Salt/gtk-3.0/gtk.css":                theme("Salt", "#d0e8e4"),
	".themes/Rust/gtk-3.0/gtk.css":                theme("Rust", "#e8c0a0"),
	".local/share/icons/Teal/index.theme":         archivetest.Index("Teal", "", "48/apps"),
	".local/share/icons/Teal/48/apps/folder.svg":  icons("#2f9f9c"),
	".local/share/icons/Coral/index.theme":        archivetest.Index("Coral", "", "48/apps"),
	".local/share/icons/Coral/48/apps/folder.svg": icons("#d0603d"),
	".config/gtk-3.0/settings.ini":                "[Settings]\ngtk-theme-name=Salt\ngtk-icon-theme-name=Coral\n",
}

// TestWhatCanBeChosen: pieces in place with who would wear them and who does.
func TestWhatCanBeChosen(t *testing.T) {
	a, d := apptest.WithShop(t, home)
	in := a.Advice.Catalogue(t.Context(), d)
	names := func(facet string) (out []string) {
		for _, w := range in.Of(facet) {
			out = append(out, w.Name)
		}
		return out
	}
	widgets := names(desk.FacetWidgets)
	require.Equal(t, []string{"Rust", "Salt", "Adwaita"}, widgets[:3], "what is built in comes last")
	require.Equal(t, []string{"Coral", "Teal"}, names(desk.FacetIcons))
	salt, ok := in.Wear(desk.FacetWidgets, "Salt")
	require.True(t, ok)
	require.Equal(t, []string{"GTK 3 programs"}, salt.Serves)
	require.Equal(t, []string{"GTK 3 programs"}, salt.UsedBy)
	require.Contains(t, salt.Misses, "GTK 2 programs")
	_, ok = a.Advice.Piece(t.Context(), d, desk.FacetWidgets, "Gone")
	require.False(t, ok)
	near := a.Advice.Nearest(in, d.Snapshot(), outfit.Outfit{}.With(desk.FacetWidgets, "Salt"))
	require.Empty(t, near[desk.FacetWidgets], "no theme in place serves the others")
}

// TestWhatGoesWithADraft: of the pieces in place and of the market those come first whose
// measured colours are nearest, and three looks are proposed of them.
func TestWhatGoesWithADraft(t *testing.T) {
	teal, coral := market.Looks{Lightness: 0.6, Chroma: 0.1, Hue: 190, Contrast: 5, Roundness: 0.5, Colours: []string{"#2f9f9c"}}, market.Looks{Lightness: 0.6, Chroma: 0.14, Hue: 40, Contrast: 5, Roundness: 0.5, Colours: []string{"#d0603d"}}
	a, d := apptest.WithShop(t, home,
		apptest.Offer{Entry: market.Entry{ID: "lagoon", Kind: "icons", Name: "Lagoon", Looks: &teal, Licence: "MIT"}, Parcel: pack(t, "Lagoon", "#2f9f9c")},
		apptest.Offer{Entry: market.Entry{ID: "ember", Kind: "icons", Name: "Ember", Looks: &coral, Licence: "MIT"}, Parcel: pack(t, "Ember", "#d0603d")})
	_, err := a.Advice.Complete(t.Context(), d)
	require.ErrorIs(t, err, advice.ErrTooFew)
	draft, err := a.Drafts.Choose(d, desk.FacetWidgets, "Salt")
	require.NoError(t, err)
	all, err := a.Advice.Suggest(t.Context(), d, draft, desk.FacetIcons)
	require.NoError(t, err)
	require.NotEmpty(t, all)
	at := map[string]int{}
	for i, s := range all {
		at[s.Name] = i + 1
		require.NotEmpty(t, s.Why, s.Name)
	}
	require.Less(t, at["Teal"], at["Coral"], "nearer to the theme")
	looks, err := a.Advice.Complete(t.Context(), d)
	require.NoError(t, err)
	require.Len(t, looks, 3)
	for _, p := range looks {
		require.Equal(t, "Salt", p.Outfit.Want(desk.FacetWidgets), "what is chosen stays")
		require.NotEmpty(t, p.Picks)
	}
	pieces, bytes := advice.ToFetch(looks)
	require.Equal(t, pieces > 0, bytes > 0)
	require.NoError(t, apptest.Wait(a.Advice.PictureProposals(t.Context(), d, "")))
	require.NoError(t, apptest.Wait(a.Advice.TakeProposal(t.Context(), d, taste.Kin, "")))
	draft, err = a.Drafts.Draft(d)
	require.NoError(t, err)
	require.NotEmpty(t, draft.Want(desk.FacetIcons))
	_, err = a.Advice.TakeProposal(t.Context(), d, "no such manner", "")
	require.ErrorContains(t, err, "no proposal")
}
