package advice_test

import (
	"bytes"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/app/advice"
	"ivelt/app/apptest"
	"ivelt/app/library"
	"ivelt/app/markets"
	"ivelt/core/archive"
	"ivelt/core/archive/archivetest"
	"ivelt/core/desk"
	"ivelt/core/market"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/place"
	"ivelt/core/planning"
	"ivelt/showcase"
)

// TestWhatIsSaidOfAPieceAgrees: its looks, its licence and what it dresses are the same in
// the market, on its parcel's page, in place, and once it is worn.
func TestWhatIsSaidOfAPieceAgrees(t *testing.T) {
	theme := archivetest.Zip(t, []archivetest.Entry{
		{Name: "Brine/index.theme", Text: "[Desktop Entry]\nName=Brine\n"}, {Name: "Brine/LICENSE", Text: "MIT\n"},
		{Name: "Brine/gtk-3.0/gtk.css", Text: theme("Brine", "#f0e8d8") + "row:selected { background-color: #2255dd; }\n"},
		{Name: "Brine/gtk-3.0/gtk-dark.css", Text: theme("Brine", "#201818") + "row:selected { background-color: #2255dd; }\n"},
	})
	offer := func(id, kind, name, licence string, files []byte) apptest.Offer {
		e := market.Entry{ID: id, Kind: kind, Name: name, Licence: licence}
		p, err := parcel.OpenBytes(t.Context(), id+".zip", bytes.Clone(files), archive.Options{})
		require.NoError(t, err)
		defer p.Close()
		require.NotNil(t, showcase.Of(t.Context(), p, &e, nil))
		return apptest.Offer{Entry: e, Parcel: files}
	}
	a, d := apptest.WithShop(t, nil, offer("brine", "theme", "Brine", "GPL-3.0-or-later", theme), offer("mallow", "icons", "Mallow", "CC-BY-4.0", pack(t, "Mallow", "#c05090")))
	for _, of := range []struct{ id, facet, licence, words, told string }{
		{"brine", desk.FacetWidgets, "MIT", "light and dark blue square", "licence-differs"},
		{"mallow", desk.FacetIcons, "CC-BY-4.0", "light pink round", ""},
	} {
		row, entry, err := a.Markets.Entry(0, of.id)
		require.NoError(t, err)
		said := entry.Looks.Words()
		require.Equal(t, of.words, strings.Join(said, " "))
		require.Equal(t, said, markets.LooksOf(row).Words(), "as its row is searched by")
		for _, shade := range []string{"light", "dark"} {
			found, err := a.Markets.Search(t.Context(), markets.Query{Shade: shade, Hue: said[1], Shape: said[2]})
			require.NoError(t, err)
			require.Equal(t, shade == "light" || entry.Looks.TwoForms, found.Total == 1, "%s as %s", of.id, shade)
		}

		sha := ""
		require.NoError(t, apptest.Wait(a.Markets.Fetch(markets.Ref{Entry: of.id}, func(s string) string { sha = s; return "" })))
		came, err := a.Library.Parcel(sha)
		require.NoError(t, err)
		contents, err := library.Contents(came)
		require.NoError(t, err)
		require.Len(t, contents.Pieces, 1)
		pc := contents.Pieces[0]
		require.Equal(t, of.licence, pc.Licence)
		require.Equal(t, of.told != "", slices.ContainsFunc(pc.Notes, func(n parcel.Note) bool { return n.Code == of.told }))

		require.NoError(t, apptest.Wait(a.Pieces.Install(d, sha, []string{library.PieceKey(pc)}, library.How{Scope: place.Mine}, "")))
		in := a.Advice.Catalogue(t.Context(), d)
		placed, ok := in.Wear(of.facet, entry.Name)
		require.True(t, ok, of.id)
		in.Ask(of.facet, &placed)
		looks, ok := advice.LooksOf(t.Context(), d.Desk, placed, false)
		require.True(t, ok)
		require.Equal(t, *entry.Looks, looks)
		var dressed []string
		for _, fit := range markets.FitOf(d.Desk, entry) {
			if fit.Dresses {
				dressed = append(dressed, fit.Surface.String())
			}
		}
		slices.Sort(dressed)
		require.Equal(t, dressed, slices.Sorted(slices.Values(placed.Serves)), "what the market says it dresses, and what finds it")

		o := outfit.Outfit{}.With(of.facet, entry.Name)
		_, job, err := a.Changes.Dress(t.Context(), d, o, 0, planning.Options{})
		require.NoError(t, apptest.Wait(job, err))
		now, err := a.Drafts.AsWorn(d)
		require.NoError(t, err)
		require.Equal(t, of.licence, now.Choices[of.facet].Licence, "as a sheet or a share says it")
	}
}
