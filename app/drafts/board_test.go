package drafts_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/app/apptest"
	"ivelt/app/changes"
	"ivelt/app/markets"
	"ivelt/core/archive/archivetest"
	"ivelt/core/desk"
	"ivelt/core/judge"
	"ivelt/core/market"
	"ivelt/core/planning"
)

// TestAChoiceWithExceptions: a surface is left out of a choice, with a value of its own or
// none, and taken in again; what the board proposes is put on the draft together.
func TestAChoiceWithExceptions(t *testing.T) {
	a, d := apptest.New(t)
	require.ErrorContains(t, a.Drafts.Except(d, "gtk3", desk.FacetPointerSize, "", false), "you have chosen nothing")
	require.ErrorContains(t, a.Drafts.Except(d, "gtk3", "nothing", "", false), "no such surface")
	require.ErrorContains(t, a.Drafts.Except(d, "gtk3", desk.FacetPointerSize, "many", false), "")
	_, err := a.Drafts.Choose(d, desk.FacetPointerSize, "32")
	require.NoError(t, err)
	require.NoError(t, a.Drafts.Except(d, "gtk4", desk.FacetPointerSize, "48", false))
	draft, err := a.Drafts.Draft(d)
	require.NoError(t, err)
	require.Equal(t, "48", draft.WantOn("gtk4", desk.FacetPointerSize))
	rv, err := a.Review.Draft(t.Context(), d, nil, planning.Options{})
	require.NoError(t, err)
	require.NoError(t, apptest.Wait(a.Changes.Apply(d, rv.Whole.ID, changes.How{})))
	require.Equal(t, "Pointer size 32 px", a.Drafts.Dressed(d).String())

	require.NoError(t, a.Drafts.Except(d, "gtk3", desk.FacetPointerSize, "", false), "of what is worn it is written down at once")
	worn, err := a.Drafts.Worn(d)
	require.NoError(t, err)
	require.Empty(t, worn.WantOn("gtk3", desk.FacetPointerSize))
	require.NoError(t, a.Drafts.Except(d, "gtk3", desk.FacetPointerSize, "", true))
	draft, err = a.Drafts.Draft(d)
	require.NoError(t, err)
	require.Equal(t, "48", draft.WantOn("gtk4", desk.FacetPointerSize), "its exceptions come with it")
	o, over, err := a.Drafts.Wanted(d)
	require.NoError(t, err)
	require.Equal(t, over.Want(desk.FacetPointerSize), o.Want(desk.FacetPointerSize))
	require.NoError(t, a.Overlays.WearDraft(t.Context(), d), "nothing is to be changed")
	require.ErrorContains(t, a.Overlays.WearDraft(t.Context(), d), "review it")

	settings := filepath.Join(d.Home, ".config/gtk-3.0/settings.ini")
	require.NoError(t, os.WriteFile(settings, []byte("[Settings]\ngtk-cursor-theme-size=16\n"), 0o644))
	require.NoError(t, a.Drafts.TakeAll(d))
	draft, err = a.Drafts.Draft(d)
	require.NoError(t, err)
	require.Equal(t, "32", draft.Want(desk.FacetPointerSize))
	require.ErrorContains(t, a.Drafts.TakeAll(d), "already")

	as, err := a.Drafts.AsWorn(d)
	require.NoError(t, err)
	require.NotEmpty(t, as.Choices)
	require.NoError(t, a.Drafts.TakeOutfit(d, as.Bytes()))
	require.ErrorContains(t, a.Drafts.TakeOutfit(d, []byte("format = 1\nname = \"None\"\n")), "chooses nothing")
}

// TestAPieceOfAMarketIsTriedOn: it is on the draft and in the picture, and not on the desk,
// until it is put away; a newer version of what is in place is pictured in its stead.
func TestAPieceOfAMarketIsTriedOn(t *testing.T) {
	theme := func(ground string) []byte {
		return archivetest.Zip(t, []archivetest.Entry{{Name: "Salt/gtk-3.0/gtk.css", Text: "@define-color gone_too @never_defined;\nwindow { background-color: " + ground + "; color: @never_defined; }\nlabel, button { color: " + ground + "; }"}, {Name: "Salt/index.theme", Text: "[Desktop Entry]\nName=Salt\n"}})
	}
	a, d := apptest.WithShop(t, nil, apptest.Offer{Entry: market.Entry{ID: "salt", Kind: "theme", Name: "Salt"}, Parcel: theme("#204060")})
	require.NoError(t, apptest.Wait(a.Overlays.TryFromMarket(d, markets.Ref{Entry: "salt"}, "")))
	draft, err := a.Drafts.Draft(d)
	require.NoError(t, err)
	require.Equal(t, "Salt", draft.Want(desk.FacetWidgets))
	first, err := a.Overlays.ToPlace(d, draft)
	require.NoError(t, err)
	require.Equal(t, []string{"Salt"}, first)
	require.NoDirExists(t, filepath.Join(d.Home, ".themes/Salt"))
	require.True(t, a.Overlays.Trying(d, draft).Exists("/home/me/.themes/Salt") || a.Overlays.Trying(d, draft).Exists("/home/me/.local/share/themes/Salt"))

	verdicts, err := a.Judge.Of(t.Context(), d)
	require.NoError(t, err)
	var codes []judge.Code
	for _, v := range verdicts {
		codes = append(codes, v.Code)
		require.Equal(t, v.Says.String(), v.Text)
	}
	require.Contains(t, codes, judge.LowContrast)
	_, shade, err := a.Judge.Other(t.Context(), d)
	require.NoError(t, err)
	require.Equal(t, "dark", shade)
	sheets := 0
	for _, v := range verdicts {
		for _, r := range v.Remedies {
			if r.Sheet == "" {
				continue
			}
			sheets++
			pl, err := a.Review.Sheet(t.Context(), d, string(v.Code), v.Surface)
			require.NoError(t, err)
			require.NotEmpty(t, pl.Ops)
		}
	}
	require.Positive(t, sheets)
	_, err = a.Review.Colours(t.Context(), d, string(judge.LowContrast), "gtk3")
	require.ErrorContains(t, err, "not proposed any more")
	_, err = a.Judge.Crop(t.Context(), d, string(judge.LowContrast), "gtk3", "")
	require.Error(t, err)

	shas, err := a.Library.Parcels()
	require.NoError(t, err)
	after, err := a.Overlays.After(t.Context(), d, shas[0].SHA256)
	require.NoError(t, err)
	require.NotEqual(t, d.ID, after.ID)
	wearing, err := a.Overlays.Wearing(d, shas[0].SHA256)
	require.NoError(t, err)
	require.Empty(t, wearing.Choices, "none is in place yet")
	require.Error(t, a.Overlays.Untry(d, "../x"))
	require.NoError(t, a.Overlays.Untry(d, shas[0].SHA256))
	require.False(t, a.Overlays.Trying(d, draft).Exists("/home/me/.themes/Salt"))
}
