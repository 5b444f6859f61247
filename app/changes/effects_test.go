package changes_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/app/apptest"
	"ivelt/app/changes"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/preview"
)

// TestEachMonitorHasItsPicture, on both desks of the demo.
func TestEachMonitorHasItsPicture(t *testing.T) {
	for id, draws := range shell {
		d := turnedDesk(t, id)
		before := d.files()
		own := desk.EachOf([]desk.Own{{Monitor: d.on.Monitors()[0].Name, Picture: buoy}, {Monitor: "HDMI-A-9", Picture: night}}) // one is pulled out
		d.wear(outfit.Outfit{Name: "Each"}.With(desk.FacetBackdrop, day).With(desk.FacetEach, own))
		require.Equal(t, own, d.told(draws, desk.FacetEach))
		d.matches()
		look := preview.Worn(t.Context(), d.on.Desk)
		require.Equal(t, buoy, look.OnMonitor(d.on.Desk, draws, 0))
		require.Equal(t, day, look.OnMonitor(d.on.Desk, draws, 1))
		require.NoError(t, apptest.Wait(d.app.Back.Start(d.on, changes.Way{Checkpoint: d.entries()[0].ID}, "", "")))
		require.Equal(t, before, d.files())
	}
}

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
