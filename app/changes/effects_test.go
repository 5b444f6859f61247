package changes_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/app/apptest"
	"ivelt/app/changes"
	"ivelt/core/desk"
	"ivelt/core/outfit"
)

// TestEffectsAreWorn on both desks of the demo: told, read again, and gone back on.
func TestEffectsAreWorn(t *testing.T) {
	for id, moves := range map[string]string{"avocet": "quayside", "dunlin": "withy"} {
		t.Run(id, func(t *testing.T) {
			d := turnedDesk(t, id)
			before := d.files()
			wants := map[string]string{
				desk.FacetOpening: "rise 220 ease-out", desk.FacetClosing: "roll 140 ease-in", desk.FacetHiding: "sink 200 linear", desk.FacetSwitching: "none", desk.FacetMotion: "less",
			}
			o := outfit.Outfit{Name: "Swell"}
			for facet, value := range wants {
				o = o.With(facet, value)
			}
			d.wear(o)
			for facet, value := range wants {
				require.Equal(t, value, d.told(moves, facet))
			}
			d.matches()
			require.NoError(t, apptest.Wait(d.app.Back.Start(d.on, changes.Way{Checkpoint: d.entries()[0].ID}, "", "")))
			require.Equal(t, before, d.files())
		})
	}
}
