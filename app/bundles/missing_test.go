package bundles_test

import (
	"bytes"
	"io"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/app"
	"ivelt/app/apptest"
	"ivelt/app/bundles"
	"ivelt/app/desks"
	"ivelt/app/library"
	"ivelt/core/archive/archivetest"
	"ivelt/core/desk"
	"ivelt/core/layer"
	"ivelt/core/market"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/worn"
)

func salt(t *testing.T) []byte {
	return archivetest.Zip(t, []archivetest.Entry{{Name: "Salt/gtk-3.0/gtk.css", Text: "window { color: #204060; }"}, {Name: "Salt/index.theme", Text: "[Desktop Entry]\nName=Salt\n"}})
}

// TestWhatIsMissingIsFetched: an outfit names pieces that the desk does not have; those that
// a market has are tried on, or put in place, and the rest is told.
func TestWhatIsMissingIsFetched(t *testing.T) {
	a, d := apptest.WithShop(t, nil, apptest.Offer{Entry: market.Entry{ID: "salt", Kind: "theme", Name: "Salt"}, Parcel: salt(t)})
	o := outfit.Outfit{Name: "Both"}.With(desk.FacetWidgets, "Salt").With(desk.FacetIcons, "Reef")
	all, err := a.Bundles.MissingOf(d, o)
	require.NoError(t, err)
	require.Len(t, all, 2)
	require.True(t, bundles.Gettable(all))
	require.Len(t, bundles.Once(append(all, all...)), 2)
	require.NoError(t, a.Drafts.TakeOutfit(d, o.Bytes()))
	require.NoError(t, apptest.Wait(a.Bundles.GetMissing(d, "")))
	draft, err := a.Drafts.Draft(d)
	require.NoError(t, err)
	all, err = a.Bundles.MissingOf(d, draft)
	require.NoError(t, err)
	require.Len(t, all, 1, "the theme is tried on")
	_, err = a.Bundles.GetMissing(d, "")
	require.ErrorContains(t, err, "no market has")
	shas, err := a.Library.Parcels()
	require.NoError(t, err)
	require.NoError(t, a.Overlays.Untry(d, shas[0].SHA256))

	got, left, err := a.Bundles.Get(t.Context(), d, o, false)
	require.NoError(t, err)
	require.Len(t, got, 1)
	require.Equal(t, "Salt", got[0].Piece)
	require.Equal(t, []bundles.LeftOut{{Facet: desk.FacetIcons, Piece: "Reef", Why: "no market has it"}}, left)
	found, err := filepath.Glob(filepath.Join(d.Home, ".*/Salt/gtk-3.0/gtk.css"))
	require.NoError(t, err)
	more, err := filepath.Glob(filepath.Join(d.Home, ".local/share/themes/Salt/gtk-3.0/gtk.css"))
	require.NoError(t, err)
	require.NotEmpty(t, append(found, more...), "it is in place")
	all, err = a.Bundles.MissingOf(d, o)
	require.NoError(t, err)
	require.Len(t, all, 1)
}

// TestARecipeGoesAlong: the look of a desk that shows a layer says what it is built from, and on
// another desk it is built over the same theme, which is fetched first if it is not there.
func TestARecipeGoesAlong(t *testing.T) {
	offer := apptest.Offer{Entry: market.Entry{ID: "salt", Kind: "theme", Name: "Salt"}, Parcel: salt(t)}
	a, d := apptest.WithShop(t, nil, offer)
	plain := outfit.Outfit{Name: "Plain"}.With(desk.FacetWidgets, "Salt")
	_, _, err := a.Bundles.Get(t.Context(), d, plain, false)
	require.NoError(t, err)
	r := layer.Recipe{Name: "Salt, large", Folder: "Salt-Large", Base: layer.Base{Kind: parcel.Theme, Folder: "Salt"}, Rules: []layer.Rule{{Parts: []string{"gtk-3.0"}, Selector: "window", Set: map[string]string{"font-size": "15px"}}}}
	_, job, err := a.Pieces.Layer(t.Context(), d, r, false, "")
	require.NoError(t, err)
	require.NoError(t, job.Wait())
	require.NoError(t, os.MkdirAll(filepath.Join(d.Home, ".config/gtk-3.0"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(d.Home, ".config/gtk-3.0/settings.ini"), []byte("[Settings]\ngtk-theme-name=Salt-Large\n"), 0o644))
	o := worn.Of(d.Desk, nil)
	carried, err := outfit.Parse(o.Bytes())
	require.NoError(t, err)
	held, err := layer.Parse([]byte(carried.Choices[desk.FacetWidgets].Recipe))
	require.NoError(t, err)
	require.Equal(t, r.Rules[0].Set, held.Rules[0].Set)

	drafted, err := a.Drafts.Described(d, d.Desk, outfit.Outfit{Name: "Large"}.With(desk.FacetWidgets, "Salt-Large"))
	require.NoError(t, err)
	require.Equal(t, carried.Choices[desk.FacetWidgets].Recipe, drafted.Choices[desk.FacetWidgets].Recipe, "of a draft too")

	built := func(a *app.App, d *desks.Managed) string {
		t.Helper()
		root, err := r.Base.Find(a.Overlays.Overlay(d))
		require.NoError(t, err)
		require.NotEmpty(t, root)
		root, err = (layer.Base{Kind: parcel.Theme, Folder: "Salt-Large"}).Find(a.Overlays.Overlay(d))
		require.NoError(t, err)
		b, err := a.Overlays.Overlay(d).Tree().ReadFile(root + "/gtk-3.0/gtk.css")
		require.NoError(t, err)
		return string(b)
	}
	only := outfit.Outfit{Name: "Large", Choices: map[string]outfit.Choice{desk.FacetWidgets: carried.Choices[desk.FacetWidgets]}}
	other, there := apptest.WithShop(t, nil, offer)
	all, err := other.Bundles.MissingOf(there, only)
	require.NoError(t, err)
	require.Len(t, all, 1)
	require.Equal(t, "salt", all[0].Entry, "what is below is in the market")
	require.NoError(t, other.Drafts.TakeOutfit(there, only.Bytes()))
	require.NoError(t, apptest.Wait(other.Bundles.GetMissing(there, "")))
	require.Contains(t, built(other, there), "font-size: 15px")
	draft, err := other.Drafts.Draft(there)
	require.NoError(t, err)
	all, err = other.Bundles.MissingOf(there, draft)
	require.NoError(t, err)
	require.Empty(t, all, "it is tried on")

	third, bare := apptest.WithShop(t, nil, offer)
	got, left, err := third.Bundles.Get(t.Context(), bare, only, false)
	require.NoError(t, err)
	require.Empty(t, left)
	require.Len(t, got, 1)
	require.Contains(t, built(third, bare), "font-size: 15px")

	none, empty := apptest.WithShop(t, nil)
	_, left, err = none.Bundles.Get(t.Context(), empty, only, false)
	require.NoError(t, err)
	require.Equal(t, []bundles.LeftOut{{Facet: desk.FacetWidgets, Piece: "Salt-Large", Why: "no market has Salt, which it is made from"}}, left)
}

// TestAnOutfitInAParcelIsOpened with what came with it, before it is taken.
func TestAnOutfitInAParcelIsOpened(t *testing.T) {
	o := outfit.Outfit{Name: "Low water"}.With(desk.FacetWidgets, "Salt").With(desk.FacetPointerSize, "48")
	parcel := archivetest.Zip(t, []archivetest.Entry{
		{Name: "outfit.toml", Text: string(o.Bytes())},
		{Name: "themes/Salt/gtk-3.0/gtk.css", Text: "window { color: #204060; }"}, {Name: "themes/Salt/index.theme", Text: "[Desktop Entry]\nName=Salt\n"},
	})
	a, d := apptest.WithShop(t, nil, apptest.Offer{Entry: market.Entry{ID: "low", Kind: "bundle", Name: "Low water"}, Parcel: parcel})
	sha, key := bring(t, a, parcel)
	require.NoError(t, apptest.Wait(a.Bundles.Open(d, sha, "")))
	b, err := a.Bundles.Look(t.Context(), d, sha, key)
	require.NoError(t, err)
	comes := map[string]bundles.Comes{}
	for _, f := range b.Facets {
		comes[f.Facet] = f.Comes
	}
	require.Equal(t, map[string]bundles.Comes{desk.FacetWidgets: bundles.WithIt, desk.FacetPointerSize: bundles.NoPiece}, comes)
	over, err := a.Bundles.Outfit(t.Context(), d, sha, key)
	require.NoError(t, err)
	require.Equal(t, "48", over.Want(desk.FacetPointerSize))
	require.NoError(t, apptest.Wait(a.Bundles.Take(t.Context(), d, sha, key, []string{desk.FacetPointerSize}, false, "")))
	draft, err := a.Drafts.Draft(d)
	require.NoError(t, err)
	require.Equal(t, []string{desk.FacetPointerSize}, draft.Facets(), "only what was marked")
	_, err = a.Bundles.Look(t.Context(), d, sha, "no such piece")
	require.Error(t, err)
	require.Error(t, apptest.Wait(a.Bundles.Open(d, "none", "")))
}

func bring(t *testing.T, a *app.App, text []byte) (sha, key string) {
	require.NoError(t, a.Library.Bring("low.zip", io.NopCloser(bytes.NewReader(text)), int64(len(text)), "", func(s string) string { sha = s; return "" }).Wait())
	row, err := a.Library.Parcel(sha)
	require.NoError(t, err)
	contents, err := library.Contents(row)
	require.NoError(t, err)
	for _, pc := range contents.Pieces {
		if pc.Kind == "bundle" {
			key = library.PieceKey(pc)
		}
	}
	require.NotEmpty(t, key)
	return sha, key
}

// TestAVariantIsFetchedFromItsEntry: no entry has its name; one that it begins with has it
// inside. Only that variant is put in place.
func TestAVariantIsFetchedFromItsEntry(t *testing.T) {
	theme := func(name string) []archivetest.Entry {
		return []archivetest.Entry{{Name: name + "/gtk-3.0/gtk.css", Text: "window { color: #204060; }"}, {Name: name + "/index.theme", Text: "[Desktop Entry]\nName=" + name + "\n"}}
	}
	kit := archivetest.Zip(t, append(theme("Salt"), theme("Salt-Dark-Compact")...))
	a, d := apptest.WithShop(t, nil, apptest.Offer{Entry: market.Entry{ID: "salt", Kind: "theme", Name: "Salt"}, Parcel: kit})
	o := outfit.Outfit{Name: "Dark"}.With(desk.FacetWidgets, "Salt-Dark-Compact")
	all, err := a.Bundles.MissingOf(d, o)
	require.NoError(t, err)
	require.Equal(t, "salt", all[0].Entry)
	require.True(t, all[0].Inside)
	got, left, err := a.Bundles.Get(t.Context(), d, o, false)
	require.NoError(t, err)
	require.Empty(t, left)
	require.Len(t, got, 1)
	all, err = a.Bundles.MissingOf(d, o)
	require.NoError(t, err)
	require.Empty(t, all)
	all, err = a.Bundles.MissingOf(d, outfit.Outfit{Name: "Light"}.With(desk.FacetWidgets, "Salt"))
	require.NoError(t, err)
	require.Len(t, all, 1, "nothing else was put in place")

	got, left, err = a.Bundles.Get(t.Context(), d, outfit.Outfit{Name: "None"}.With(desk.FacetWidgets, "Salt-Crimson"), false)
	require.NoError(t, err)
	require.Empty(t, got)
	require.Contains(t, left[0].Why, "Salt, which a market has, has no Salt-Crimson in it")
}
