package drafts_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/app/apptest"
	"ivelt/core/desk"
)

func TestDraftsCanBeUndoneAndKept(t *testing.T) {
	a := apptest.WithMarket(t, "")
	d := a.Desks()[0]
	choose := func(facet, piece string) {
		t.Helper()
		_, err := a.Drafts.Choose(d, facet, piece)
		require.NoError(t, err)
	}
	draft := func() map[string]string {
		t.Helper()
		o, err := a.Drafts.Draft(d)
		require.NoError(t, err)
		out := map[string]string{}
		for _, f := range o.Facets() {
			out[f] = o.Want(f)
		}
		return out
	}
	require.ErrorContains(t, a.Drafts.Undo(d, false), "nothing to undo")
	choose(desk.FacetIcons, "Marram")
	choose(desk.FacetWidgets, "Saltpan")
	choose(desk.FacetWidgets, "Saltpan") // the same again is no step
	first, err := a.Drafts.KeepLook(d, "")
	require.NoError(t, err)
	require.Equal(t, "Marram, Saltpan", first.Name)
	choose(desk.FacetIcons, "")
	require.Equal(t, map[string]string{"widgets": "Saltpan"}, draft())
	undo, redo := a.Drafts.Steps(d)
	require.Equal(t, []string{"Icons off", ""}, []string{undo, redo})
	require.NoError(t, a.Drafts.Undo(d, false))
	require.NoError(t, a.Drafts.Undo(d, false))
	require.Equal(t, map[string]string{"icons": "Marram"}, draft())
	undo, redo = a.Drafts.Steps(d)
	require.Equal(t, []string{"Icons: Marram", "Windows: Saltpan"}, []string{undo, redo})
	require.NoError(t, a.Drafts.Undo(d, true))
	require.Equal(t, map[string]string{"icons": "Marram", "widgets": "Saltpan"}, draft())
	require.NoError(t, a.Drafts.Drop(d))
	require.Empty(t, draft())
	require.NoError(t, a.Drafts.Undo(d, false), "dropping can be undone too")
	require.Len(t, draft(), 2)
	choose(desk.FacetIcons, "Foreshore")
	_, redo = a.Drafts.Steps(d)
	require.Empty(t, redo, "a new change ends what could be done again")

	looks, err := a.Drafts.Looks(d)
	require.NoError(t, err)
	require.Len(t, looks, 1)
	id := looks[0].ID
	require.NoError(t, a.Drafts.CopyLook(d, id))
	require.NoError(t, a.Drafts.RenameLook(d, id, " Calm water "))
	require.Error(t, a.Drafts.RenameLook(d, id, "  "))
	require.NoError(t, a.Drafts.TakeLook(d, id))
	require.Equal(t, "Marram", draft()["icons"])
	looks, err = a.Drafts.Looks(d)
	require.NoError(t, err)
	require.Equal(t, []string{"Calm water", "Marram, Saltpan (2)"}, []string{looks[0].Name, looks[1].Name})
	require.NoError(t, a.Drafts.DropLook(d, id))
	require.Error(t, a.Drafts.TakeLook(d, id))
}

// TestPartsOfAFont: each font keeps its own family when its size alone is chosen, and its own
// size with another family; settings name no look.
func TestPartsOfAFont(t *testing.T) {
	a := apptest.WithMarket(t, "")
	d := a.Desks()[0]
	choose := func(facet, want string) string {
		t.Helper()
		o, err := a.Drafts.Choose(d, facet, want)
		require.NoError(t, err)
		return o.Want(facet)
	}
	_, err := a.Drafts.Choose(d, desk.FacetFontDocument, "14")
	require.ErrorContains(t, err, "choose a font first")
	require.Equal(t, "Estuary Sans 10", choose(desk.FacetFont, "Estuary Sans"), "the size that it has now")
	require.Equal(t, "Serif 10", choose(desk.FacetFontDocument, "Serif"))
	require.Equal(t, "Serif 14.5", choose(desk.FacetFontDocument, "14.5"))
	require.Equal(t, "Sans 14.5", choose(desk.FacetFontDocument, "Sans"))
	require.Equal(t, "Estuary Sans 12", choose(desk.FacetFont, "12"))
	_, err = a.Drafts.Choose(d, desk.FacetFontDocument, "2")
	require.ErrorContains(t, err, "from 4 to 72")
	o, err := a.Drafts.Draft(d)
	require.NoError(t, err)
	require.Equal(t, "Estuary Sans", o.Name)
}
